/* Answers questions about commands: their text, their longest text, whether they take a text.
 * Walks through a command's elements.
 * It reads no statement. */
#include <string.h>

#include "lexicon/kind.h"
#include "lexicon/slot.h"
#include "lexicon/read/reader.h"
#include "rlx/drive.h"

void lex_element_free(void *p)
{
    struct lex_element *element = p;
    g_free(element->text);
    g_free(element->unit);
    g_free(element->from);
    g_free(element->upto);
    g_free(element->prefix);
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
    g_free(command->code);
    if (command->guards) g_ptr_array_free(command->guards, TRUE);
    g_free(command->expires_by);
    g_free(command->effect.lasts_by);
    g_free(command->says);
    g_free(command->already);
    if (command->says_on) g_ptr_array_free(command->says_on, TRUE);
    if (command->refuses) g_ptr_array_free(command->refuses, TRUE);
    if (command->told && !command->query) g_ptr_array_free(command->told, TRUE);
    if (command->arguments) g_ptr_array_free(command->arguments, TRUE);
    g_free(command->implied);
    g_free(command);
}

void lex_command_tells(struct lex_command *command, GPtrArray *told)
{
    command->told = told;
    command->arguments = g_ptr_array_new();
    for (unsigned i = 0; i < command->elements->len; i++)
        g_ptr_array_add(command->arguments, command->elements->pdata[i]);
    for (unsigned i = 0; i < told->len; i++) g_ptr_array_add(command->arguments, told->pdata[i]);
}

const GPtrArray *lex_arguments(const struct lex_command *command)
{
    return command->arguments ? command->arguments : command->elements;
}

bool lex_is_told(const struct lex_command *command, const struct lex_element *slot)
{
    return command->told && g_ptr_array_find(command->told, slot, NULL);
}

bool lex_has_spellings(const struct lex_element *e)
{
    return e->kind == LEX_WORD || e->kind == LEX_CHOICE;
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

char *lex_element_longest(const struct lex_element *e, bool units)
{
    return lex_slot_of(e)->longest(e, units);
}

char *lex_command_longest(const struct lex_command *command, bool units)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        char *longest = lex_element_longest(command->elements->pdata[i], units);
        g_string_append_printf(out, "%s%s", i ? " " : "", longest);
        g_free(longest);
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

/* The slot of an output's level. */
static void make_level(struct lex_element *e, const struct lex_output *out)
{
    e->kind = LEX_NUMBER;
    e->text = g_strdup("level");
    e->low = lex_kind_of(out)->levels == LEX_LEVELS_SIGNED ? -100 : 0;
    e->high = 100;
    e->unit = g_strdup("%");
    if (lex_kind_of(out)->levels != LEX_LEVELS_OWN) return;
    g_free(e->unit);
    e->form = out->range->form;
    e->decimals = out->range->decimals;
    e->low = out->range->low;
    e->high = out->range->high;
    e->unit = g_strdup(out->range->unit);
}

char *lex_effect_command(struct lexicon *lx, const struct lex_command *effect)
{
    char *name, *text;
    const struct lex_output *out = lex_effect_output(lx, &effect->effect);
    if (!out) { /* a routine, by its name */
        const struct lex_routine *routine = lx->routines->pdata[effect->effect.output];
        char *said = lex_spelt(lx, routine->name);
        text = g_strconcat(said, effect->effect.fixed == RLX_RUN ? "" : " stop", NULL);
        g_free(said);
        return text;
    }
    name = lex_spelt(lx, out->name);
    struct lex_command *command = g_new0(struct lex_command, 1);
    struct lex_element *second = new_word(effect->place, NULL);
    *command = *effect;
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    g_ptr_array_add(command->elements, new_word(effect->place, name));
    g_ptr_array_add(command->elements, second);
    g_ptr_array_add(lx->commands, command);
    if (effect->effect.kind == LEX_LEVEL && effect->effect.position) {
        second->text = g_strdup(effect->effect.position->name);
        text = lex_command_text(command);
    } else if (effect->effect.kind == LEX_LEVEL) {
        make_level(second, out);
        command->effect.fixed = -1;
        char *value = lex_value_text(second, effect->effect.argument);
        text = g_strdup_printf("%s %s", name, value);
        g_free(value);
    } else {
        second->text =
            g_strdup(effect->effect.kind == LEX_VERB ? effect->effect.verb->word
                                                     : lex_verbs[effect->effect.fixed].word);
        text = lex_command_text(command);
    }
    command->implied = g_strdup(text);
    return text;
}

char *lex_element_text(const struct lex_element *e)
{
    char *holds = lex_slot_of(e)->holds(e), *fallback = NULL;
    if (e->kind == LEX_WORD) {
        char *text = g_strdup_printf(e->filler ? "(%s)" : "%s", holds);
        g_free(holds);
        return text;
    }
    GString *out = g_string_new(e->prefix);
    if (e->optional && e->kind == LEX_NUMBER)
        fallback = lex_value_text(e, e->fallback);
    else if (e->optional)
        fallback = g_strdup(e->words->pdata[e->fallback]);
    bool keyword = e->kind == LEX_TEXT && e->unnamed;
    g_string_append_printf(out, "{%s%s%s", e->text && !keyword ? e->text : "",
                           e->text && !keyword ? " " : "", holds);
    if (fallback) g_string_append_printf(out, " = %s", fallback);
    g_string_append_printf(out, "}%s", e->glued ? e->unit : "");
    g_free(fallback);
    g_free(holds);
    return g_string_free(out, FALSE);
}

char *lex_command_text(const struct lex_command *command)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        char *text = lex_element_text(command->elements->pdata[i]);
        g_string_append_printf(out, "%s%s", i ? " " : "", text);
        g_free(text);
    }
    return g_string_free(out, FALSE);
}

/* *value: of a number, of a word its index, of a set its bits. */
bool lex_element_says(const struct lexicon *lx, const struct lex_element *e, const char *word,
                      int32_t *value)
{
    return lex_slot_of(e)->says(lx, e, word, value);
}

/* One word off the text, a quoted text being one; NULL at its end. Owned by the caller. */
static char *cut_word(const char **text)
{
    while (**text == ' ') ++*text;
    const char *from = *text, *quote = *from == '"' ? strchr(from + 1, '"') : NULL;
    *text = quote ? quote + 1 : from + strcspn(from, " ");
    return *text == from ? NULL : g_strndup(from, (gsize)(*text - from));
}

/* The values that a text gives to the slots of a command. */
struct said {
    int32_t values[128]; /* at most as many as it has elements */
    unsigned given;
};

/* The rest of the text against the command from element i on. */
static bool says_from(const struct lexicon *lx, const struct lex_command *command, unsigned i,
                      const char *text, struct said *said)
{
    const char *behind = text;
    char *word = cut_word(&behind);
    const struct lex_element *e = i < command->elements->len ? command->elements->pdata[i] : NULL;
    bool says = false;
    unsigned given = said->given;
    int32_t value = 0;
    if (!e)
        says = !word;
    else if (e->filler && says_from(lx, command, i + 1, text, said))
        says = true;
    else if (!word)
        says = e->optional;
    else if (e->rest) {
        char *rest = g_strchomp(g_strdup(behind - strlen(word)));
        says = lex_element_says(lx, e, rest, &value);
        g_free(rest);
    } else if (lex_element_says(lx, e, word, &value)) {
        said->values[given] = value;
        said->given = given + (e->kind != LEX_WORD);
        says = says_from(lx, command, i + 1, behind, said);
        if (!says) said->given = given;
    }
    g_free(word);
    return says;
}

bool lex_command_says(const struct lexicon *lx, const struct lex_command *command, const char *text)
{
    struct said said = {.given = 0};
    return says_from(lx, command, 0, text, &said);
}

#define MANY 64

static unsigned letter_of(const char *text)
{
    return (unsigned char)*text & (LEX_LETTERS - 1);
}

/* The letters that it can begin with, a bit each: those of both cases have the same. */
static uint32_t begins_with(const struct lex_command *command)
{
    const struct lex_element *e = command->elements->pdata[0];
    uint32_t letters = 0;
    if (e->kind != LEX_WORD || e->filler) return UINT32_MAX;
    for (unsigned i = 0; i < lex_spellings(e); i++)
        letters |= UINT32_C(1) << letter_of(lex_spelling(e, i));
    return letters;
}

void lex_commands_read(struct lexicon *lx)
{
    if (lx->commands->len < MANY) return; /* a look at each is quicker */
    for (unsigned k = 0; k < LEX_LETTERS; k++) lx->by_letter[k] = g_ptr_array_new();
    for (unsigned i = 0; i < lx->commands->len; i++) {
        uint32_t letters = begins_with(lx->commands->pdata[i]);
        for (unsigned k = 0; k < LEX_LETTERS; k++)
            if (letters >> k & 1) g_ptr_array_add(lx->by_letter[k], lx->commands->pdata[i]);
    }
}

const struct lex_command *lex_command_taking(const struct lexicon *lx, const char *text,
                                             int32_t values[15], unsigned *given)
{
    const GPtrArray *commands = lx->by_letter[letter_of(text + strspn(text, " "))];
    if (!commands) commands = lx->commands;
    for (unsigned i = 0; i < commands->len; i++) {
        struct said said = {.given = 0};
        if (!says_from(lx, commands->pdata[i], 0, text, &said)) continue;
        *given = MIN(said.given, 15);
        memcpy(values, said.values, *given * sizeof *values);
        return commands->pdata[i];
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        struct said said = {.given = 0};
        bool asks = query->asked && query->of->len;
        if (!asks || !says_from(lx, query->asked, 0, text, &said)) continue;
        *given = MIN(said.given, 15);
        memcpy(values, said.values, *given * sizeof *values);
        return query->asked;
    }
    return NULL;
}
