/* What is asked of commands once they are read. */
#include <string.h>

#include "reader.h"

void lex_element_free(void *p)
{
    struct lex_element *element = p;
    g_free(element->text);
    g_free(element->unit);
    g_free(element->outputs);
    if (element->words) g_ptr_array_free(element->words, TRUE);
    g_free(element);
}

void lex_command_free(void *p)
{
    struct lex_command *command = p;
    g_ptr_array_free(command->elements, TRUE);
    g_free(command->effect.handler);
    g_free(command->title);
    g_free(command->implied);
    g_free(command);
}

unsigned lex_spellings(const struct lex_element *word)
{
    return word->words ? word->words->len : 1;
}

char *lex_spelling(const struct lex_element *word, unsigned index)
{
    return word->words ? word->words->pdata[index] : word->text;
}

unsigned lex_command_slots(const struct lex_command *command)
{
    unsigned slots = 0;
    for (unsigned i = 0; i < command->elements->len; i++)
        slots += ((struct lex_element *)command->elements->pdata[i])->kind != LEX_WORD;
    return slots;
}

unsigned lex_number_digits(const struct lex_element *e)
{
    char low[16], high[16];
    g_snprintf(low, sizeof low, "%d", e->low);
    g_snprintf(high, sizeof high, "%d", e->high);
    return (unsigned)MAX(strlen(low + (*low == '-')), strlen(high + (*high == '-')));
}

char *lex_command_longest(const struct lex_command *command, bool units)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        const char *longest = e->kind == LEX_WORD ? e->text : "";
        char low[16], high[16];
        for (unsigned k = 0; e->words && k < e->words->len; k++)
            if (strlen(e->words->pdata[k]) > strlen(longest)) longest = e->words->pdata[k];
        if (e->kind == LEX_NUMBER) {
            g_snprintf(low, sizeof low, "%d", e->low);
            g_snprintf(high, sizeof high, "%d", e->high);
            longest = strlen(low) > strlen(high) ? low : high;
        }
        g_string_append_printf(out, "%s%s%s", i ? " " : "", longest,
                               e->unit && (units || e->glued) ? e->unit : "");
    }
    return g_string_free(out, FALSE);
}

static struct lex_element *new_word(struct lex_place place, char *text)
{
    struct lex_element *e = g_new0(struct lex_element, 1);
    e->kind = LEX_WORD;
    e->place = place;
    e->text = text;
    return e;
}

char *lex_effect_command(struct lexicon *lx, const struct lex_command *effect)
{
    static const char *const verbs[] = {"off", "on", "toggle"};
    const struct lex_output *out = lx->outputs->pdata[effect->effect.output];
    int fixed = effect->effect.fixed;
    char *name = lex_spelt(lx, out->name), *text;
    struct lex_command *command = g_new0(struct lex_command, 1);
    struct lex_element *second = new_word(effect->place, NULL);
    *command = *effect;
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    g_ptr_array_add(command->elements, new_word(effect->place, name));
    g_ptr_array_add(command->elements, second);
    g_ptr_array_add(lx->commands, command);
    if (effect->effect.kind == LEX_SWITCH) {
        second->text = g_strdup(verbs[fixed]);
        text = lex_command_text(command);
    } else {
        second->kind = LEX_NUMBER;
        second->text = g_strdup("level");
        second->high = 100;
        second->unit = g_strdup("%");
        command->effect.fixed = -1;
        text = g_strdup_printf("%s %d", name, fixed);
    }
    command->implied = g_strdup(text);
    return text;
}

char *lex_command_text(const struct lex_command *command)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        struct lex_element *e = command->elements->pdata[i];
        if (i) g_string_append_c(out, ' ');
        if (e->kind == LEX_WORD) {
            char *spellings = g_strdup(e->text);
            if (e->words) {
                g_free(spellings);
                g_ptr_array_add(e->words, NULL);
                spellings = g_strjoinv("|", (char **)e->words->pdata);
                g_ptr_array_set_size(e->words, (int)e->words->len - 1);
            }
            g_string_append_printf(out, e->filler ? "(%s)" : "%s", spellings);
            g_free(spellings);
            continue;
        }
        g_string_append_c(out, '{');
        if (e->text) g_string_append_printf(out, "%s ", e->text);
        if (e->kind == LEX_NUMBER)
            g_string_append_printf(out, "%d..%d%s", e->low, e->high,
                                   e->unit && !e->glued ? e->unit : "");
        for (unsigned k = 0; e->words && k < e->words->len; k++)
            g_string_append_printf(out, "%s%s", k ? "|" : "", (char *)e->words->pdata[k]);
        if (e->optional && e->kind == LEX_NUMBER)
            g_string_append_printf(out, " = %d", e->fallback);
        else if (e->optional)
            g_string_append_printf(out, " = %s", (char *)e->words->pdata[e->fallback]);
        g_string_append_printf(out, "}%s", e->glued ? e->unit : "");
    }
    return g_string_free(out, FALSE);
}

static bool element_says(const struct lexicon *lx, const struct lex_element *e, const char *word)
{
    if (e->kind == LEX_NUMBER) {
        const char *end;
        int32_t value;
        return lex_read_bound(word, &end, &value) && value >= e->low && value <= e->high &&
               strlen(word) - (*word == '-') - strlen(end) <= lex_number_digits(e) &&
               (*end ? e->unit && !strcmp(end, e->unit) : !e->glued);
    }
    unsigned n = e->kind == LEX_WORD ? lex_spellings(e) : e->words->len;
    for (unsigned i = 0; i < n; i++) {
        const char *text = e->kind == LEX_WORD ? lex_spelling(e, i) : e->words->pdata[i];
        if (lx->any_case ? !g_ascii_strcasecmp(text, word) : !strcmp(text, word)) return true;
    }
    return false;
}

/* The rest of the words against the command from element i on. */
static bool says_from(const struct lexicon *lx, const struct lex_command *command, unsigned i,
                      char **words)
{
    if (i == command->elements->len) return !*words;
    const struct lex_element *e = command->elements->pdata[i];
    if (!*words) return e->optional || (e->filler && says_from(lx, command, i + 1, words));
    if (e->filler && says_from(lx, command, i + 1, words)) return true;
    return element_says(lx, e, *words) && says_from(lx, command, i + 1, words + 1);
}

bool lex_command_says(const struct lexicon *lx, const struct lex_command *command, const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    bool says = says_from(lx, command, 0, words);
    g_strfreev(words);
    return says;
}
