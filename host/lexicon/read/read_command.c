#include "reader.h"

#include <stdlib.h>
#include <string.h>

#include "rlx/drive.h"

#define SLOTS_MAX  15
#define NUMBER_MAX INT32_MAX

static void free_element(void *p)
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

/* Words of commands: a letter or '_' first, so that none looks like a number. */
bool lex_word_ok(const char *word, const char **why)
{
    *why = "a word begins with a letter or '_'";
    if (!g_ascii_isalpha(word[0]) && word[0] != '_') return false;
    *why = "a word has letters, digits, '_', '-' and '.' only";
    for (const char *p = word; *p; p++)
        if (!g_ascii_isalnum(*p) && !strchr("_-.", *p)) return false;
    *why = "a word has at most 31 characters";
    return strlen(word) <= 31;
}

static char *spelt(const struct lexicon *lx, const char *word)
{
    return lx->any_case ? g_ascii_strdown(word, -1) : g_strdup(word);
}

/* ---- slots ---- */

static void read_choice(struct lexicon *lx, struct lex_element *e, const char *body)
{
    const char *why;
    e->kind = LEX_CHOICE;
    e->words = g_ptr_array_new_with_free_func(g_free);
    char **words = g_strsplit(body, "|", -1);
    for (char **w = words; *w; w++) {
        g_strstrip(*w);
        if (!**w)
            lex_fault(lx, e->place, "a word is missing beside a '|'");
        else if (!lex_word_ok(*w, &why))
            lex_fault(lx, e->place, "'%s': %s", *w, why);
        char *word = spelt(lx, *w);
        for (unsigned i = 0; i < e->words->len; i++)
            if (!strcmp(word, e->words->pdata[i]))
                lex_fault(lx, e->place, "'%s' stands twice in this choice", *w);
        g_ptr_array_add(e->words, word);
    }
    if (e->words->len > 255) lex_fault(lx, e->place, "more than 255 words in a choice");
    g_strfreev(words);
}

static bool read_bound(const char *text, const char **end, int32_t *bound)
{
    char *stop;
    if (!g_ascii_isdigit(text[*text == '-'])) return false;
    gint64 number = g_ascii_strtoll(text, &stop, 10);
    *end = stop;
    *bound = (int32_t)number;
    return number >= -(gint64)NUMBER_MAX && number <= NUMBER_MAX;
}

static void read_unit(struct lexicon *lx, struct lex_element *e, const char *unit)
{
    for (const char *p = unit; *p; p++)
        if (!g_ascii_isalpha(*p) && *p != '%') {
            lex_fault(lx, e->place, "'%s' is no unit: letters or '%%'", unit);
            return;
        }
    if (strlen(unit) > 15) lex_fault(lx, e->place, "the unit '%s' is longer than 15 letters", unit);
    e->unit = spelt(lx, unit);
}

/* LOW..HIGH and a unit. */
static void read_range(struct lexicon *lx, struct lex_element *e, const char *body)
{
    const char *p = body;
    e->kind = LEX_NUMBER;
    if (!read_bound(p, &p, &e->low) || strncmp(p, "..", 2) != 0 ||
        !read_bound(p + 2, &p, &e->high)) {
        lex_fault(lx, e->place, "'%s': expected LOW..HIGH of whole numbers within %d..%d", body,
                  -NUMBER_MAX, NUMBER_MAX);
        return;
    }
    if (e->low > e->high)
        lex_fault(lx, e->place, "the range begins at %d and ends below it, at %d", e->low, e->high);
    if (*p) read_unit(lx, e, p);
}

/* " = X" at the end of a slot: cut off, and returned. */
static char *cut_fallback(char *body)
{
    char *equals = strrchr(body, '=');
    if (!equals) return NULL;
    *equals = 0;
    g_strchomp(body);
    return g_strstrip(g_strdup(equals + 1));
}

static void read_fallback(struct lexicon *lx, struct lex_element *e, const char *text)
{
    const char *end = "";
    e->optional = true;
    if (e->kind == LEX_CHOICE) {
        guint index;
        char *word = spelt(lx, text);
        if (g_ptr_array_find_with_equal_func(e->words, word, g_str_equal, &index))
            e->fallback = (int32_t)index;
        else
            lex_fault(lx, e->place, "'%s' is none of the words of this slot", text);
        g_free(word);
    } else if (!read_bound(text, &end, &e->fallback) || e->fallback < e->low ||
               e->fallback > e->high || (*end && g_strcmp0(end, e->unit) != 0)) {
        lex_fault(lx, e->place, "'%s' is not in the slot's range, %d..%d%s", text, e->low, e->high,
                  e->unit ? e->unit : "");
    }
}

/* {[name] a|b|c} or {[name] LOW..HIGH[unit]}, and = X where it may be left out */
static struct lex_element *read_slot(struct lexicon *lx, struct token *token)
{
    struct lex_element *e = g_new0(struct lex_element, 1);
    const char *why;
    char *body = g_strstrip(g_strdup(token->text)), *rest = body, *fallback = cut_fallback(body);
    e->place = token->place;
    char *blank = strpbrk(body, " \t");
    if (blank && !memchr(body, '|', (size_t)(blank - body))) {
        *blank = 0;
        rest = g_strchug(blank + 1);
        if (*rest != '|') {
            e->text = g_strdup(body);
            if (!lex_word_ok(body, &why) || strpbrk(body, ".-"))
                lex_fault(lx, e->place, "a slot's name is a letter, then letters, digits or '_'");
        }
    }
    if (strchr(rest, '|')) {
        read_choice(lx, e, rest);
    } else if (strstr(rest, "..")) {
        read_range(lx, e, rest);
        e->unnamed = !e->text;
        if (!e->text) e->text = g_strdup("value");
    } else {
        lex_fault(lx, e->place, "expected a slot: {a|b|c} or {name LOW..HIGH}");
        e->kind = LEX_NUMBER;
        if (!e->text) e->text = g_strdup("value");
    }
    if (fallback) read_fallback(lx, e, fallback);
    g_free(fallback);
    g_free(body);
    return e;
}

/* ---- effects ---- */

static void read_call(struct statement *st, struct lex_command *command, struct token *token)
{
    static const char *const keywords[] = {
        "auto",    "break",  "case",     "char",   "const",    "continue", "default",
        "do",      "double", "else",     "enum",   "extern",   "float",    "for",
        "goto",    "if",     "inline",   "int",    "long",     "register", "restrict",
        "return",  "short",  "signed",   "sizeof", "static",   "struct",   "switch",
        "typedef", "union",  "unsigned", "void",   "volatile", "while",    NULL};
    command->effect.kind = LEX_CALL;
    command->effect.handler = g_strndup(token->text, strlen(token->text) - 2);
    const char *name = command->effect.handler;
    bool ok = g_ascii_isalpha(*name) && strlen(name) <= 31;
    for (const char *p = name; *p; p++) ok = ok && (g_ascii_isalnum(*p) || *p == '_');
    if (!ok || g_strv_contains(keywords, name))
        lex_fault(st->lx, token->place, "'%s' cannot be the name of a C function", name);
}

/* What the output is told, where it stands in the lexicon. */
static void read_fixed(struct statement *st, struct lex_command *command,
                       const struct lex_output *out)
{
    static const char *const verbs[] = {"off", "on", "toggle", NULL}; /* enum rlx_verb */
    struct token *token = statement_take(st);
    guint64 percent;
    char *digits = g_strdup(token->text);
    if (g_str_has_suffix(digits, "%")) digits[strlen(digits) - 1] = 0;
    for (int i = 0; verbs[i]; i++)
        if (!strcmp(token->text, verbs[i])) command->effect.fixed = i;
    if (command->effect.fixed < 0) {
        if (out->pwm && g_ascii_string_to_unsigned(digits, 10, 0, 100, &percent, NULL)) {
            command->effect.kind = LEX_LEVEL;
            command->effect.fixed = (int)percent;
        } else {
            char *near = lex_did_you_mean(token->text, verbs);
            lex_fault(st->lx, token->place, "'%s' is told on, off%s%s", out->name,
                      out->pwm ? ", toggle or 0..100%" : " or toggle", near);
            g_free(near);
        }
    }
    g_free(digits);
}

/* An output whose name is spelt so in commands, or -1. */
static int output_spelt(const struct lexicon *lx, const char *word)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        char *name = spelt(lx, ((struct lex_output *)lx->outputs->pdata[i])->name);
        bool same = !strcmp(name, word);
        g_free(name);
        if (same) return (int)i;
    }
    return -1;
}

/* The slot of this name says which output it is: each of its words is one. */
static bool read_which(struct lexicon *lx, struct lex_command *command, const char *name)
{
    struct lex_element *slot = NULL;
    for (unsigned i = 0; command->elements && i < command->elements->len; i++) {
        struct lex_element *e = command->elements->pdata[i];
        if (!slot && e->kind != LEX_WORD) slot = e; /* the first slot only */
    }
    if (!slot || slot->kind != LEX_CHOICE || g_strcmp0(slot->text, name) != 0) return false;
    slot->outputs = g_new0(unsigned, slot->words->len);
    for (unsigned i = 0; i < slot->words->len; i++) {
        int index = output_spelt(lx, slot->words->pdata[i]);
        slot->outputs[i] = (unsigned)MAX(index, 0);
        if (index < 0)
            lex_find(lx, LEX_D14, slot->place, "'%s' is none of the outputs above",
                     (char *)slot->words->pdata[i]);
    }
    command->effect.which = slot;
    command->effect.output = slot->outputs[0];
    return true;
}

/* OUTPUT [VERB | LEVEL], or the first slot's name instead of an output; or FUNCTION() */
bool read_effect(struct statement *st, struct lex_command *command)
{
    struct token *token = statement_take(st);
    command->effect.fixed = -1;
    if (token->kind != TOKEN_WORD) {
        lex_fault(st->lx, token->place, "expected an output or a function() after '=>'");
        return false;
    }
    if (g_str_has_suffix(token->text, "()")) {
        read_call(st, command, token);
        return true;
    }
    int index = lexicon_output_index(st->lx, token->text);
    if (index >= 0) command->effect.output = (unsigned)index;
    if (index < 0 && !read_which(st->lx, command, token->text)) {
        char *near = lex_did_you_mean_output(st->lx, token->text);
        if (*near)
            lex_fault(st->lx, token->place, "there is no output '%s' above%s", token->text, near);
        else
            lex_fault(st->lx, token->place,
                      "there is no output '%s' above; a function is written '%s()'", token->text,
                      token->text);
        g_free(near);
        return false;
    }
    if (statement_peek(st)->kind == TOKEN_WORD && st->lx->outputs->len)
        read_fixed(st, command, st->lx->outputs->pdata[command->effect.output]);
    return true;
}

/* ---- commands ---- */

/* word, (filler), or word|spelling|spelling */
static struct lex_element *read_word(struct lexicon *lx, const struct token *token)
{
    struct lex_element *e = g_new0(struct lex_element, 1);
    const char *why;
    size_t length = strlen(token->text);
    e->kind = LEX_WORD;
    e->place = token->place;
    e->filler = length > 2 && token->text[0] == '(' && token->text[length - 1] == ')';
    char *word = g_strndup(token->text + e->filler, length - 2 * e->filler);
    if (strchr(word, '|')) {
        read_choice(lx, e, word);
        e->kind = LEX_WORD;
        e->text = g_strdup(e->words->pdata[0]);
    } else {
        e->text = spelt(lx, word);
        if (!lex_word_ok(word, &why)) lex_fault(lx, token->place, "'%s': %s", word, why);
    }
    g_free(word);
    return e;
}

/* {height 0..400}mm: the unit stands right behind the slot, and must be said. */
static void read_glued(struct statement *st, struct lex_command *command, struct token *slot)
{
    struct token *next = slot + 1;
    struct lex_element *e = command->elements->pdata[command->elements->len - 1];
    if (next->kind != TOKEN_WORD || next->place.column != slot->place.column + slot->place.length)
        return;
    st->next++;
    if (e->kind != LEX_NUMBER || e->unit) {
        lex_fault(st->lx, next->place,
                  e->unit ? "the slot has its unit already" : "a unit belongs to a number");
        return;
    }
    read_unit(st->lx, e, next->text);
    e->glued = true;
}

static bool touches(const struct token *token)
{
    return token[1].kind == TOKEN_SLOT &&
           token[1].place.column == token->place.column + token->place.length;
}

static void read_pattern(struct statement *st, struct lex_command *command)
{
    for (;;) {
        struct token *token = statement_peek(st);
        if (token->kind == TOKEN_SLOT) {
            g_ptr_array_add(command->elements, read_slot(st->lx, token));
            read_glued(st, command, token);
        } else if (token->kind == TOKEN_WORD) {
            g_ptr_array_add(command->elements, read_word(st->lx, token));
            if (touches(token))
                lex_fault(st->lx, token[1].place, "expected a blank before the slot");
        } else {
            return;
        }
        st->next++;
    }
}

/* Nothing that must be said stands behind what may be left out. */
static void check_optional(struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_element *left_out = NULL;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->optional) left_out = e;
        if (left_out && !e->optional)
            lex_fault(
                lx, left_out->place,
                "only the last slots of a command may have a value for when they are left out");
        if (left_out && !e->optional) return;
    }
}

/* command PATTERN => EFFECT ["title"] */
void read_command(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_command *command = g_new0(struct lex_command, 1);
    unsigned faults = lx->faults->len;
    command->elements = g_ptr_array_new_with_free_func(free_element);
    command->place = statement_peek(st)->place;
    read_pattern(st, command);
    struct token *token = statement_peek(st);
    struct lex_element *first = command->elements->len ? command->elements->pdata[0] : NULL;
    check_optional(lx, command);
    if (!first || first->kind == LEX_CHOICE || first->filler || first->optional) {
        lex_fault(lx, first ? first->place : token->place,
                  "a command begins with a word or a number");
    } else if (lex_command_slots(command) > SLOTS_MAX) {
        lex_fault(lx, command->place, "more than %d slots in one command", SLOTS_MAX);
    } else if (token->kind != TOKEN_ARROW) {
        lex_fault(lx, token->place, "expected '=>' and what the command does");
    } else {
        st->next++;
        if (read_effect(st, command)) command->title = statement_title(st);
    }
    if (lx->faults->len == faults)
        g_ptr_array_add(lx->commands, command);
    else
        lex_command_free(command);
}

static int verb_of(const char *word)
{
    return !strcmp(word, "off")      ? RLX_OFF
           : !strcmp(word, "on")     ? RLX_ON
           : !strcmp(word, "toggle") ? RLX_TOGGLE
                                     : -1;
}

/* A slot that tells an output what to do must have what the output understands. */
static void check_output_slot(struct lexicon *lx, struct lex_command *command,
                              const struct lex_output *out)
{
    struct lex_element *slot = NULL;
    for (unsigned i = 0; i < command->elements->len; i++) {
        struct lex_element *e = command->elements->pdata[i];
        if (e->kind != LEX_WORD && e != command->effect.which) slot = e;
    }
    if (command->effect.fixed >= 0) {
        if (slot)
            lex_find(lx, LEX_D14, slot->place, "'%s' is told what to do already, behind '=>'",
                     out->name);
        return;
    }
    if (!slot || lex_command_slots(command) > (command->effect.which ? 2u : 1u)) {
        lex_find(lx, LEX_D14, command->place,
                 "what shall '%s' do? Give the command one slot, like {on|off|toggle}, or write "
                 "'=> %s on'",
                 out->name, out->name);
        return;
    }
    if (slot->kind == LEX_CHOICE) {
        for (unsigned i = 0; i < slot->words->len; i++)
            if (verb_of(slot->words->pdata[i]) < 0)
                lex_find(lx, LEX_D14, slot->place, "'%s' understands on, off and toggle, not '%s'",
                         out->name, (char *)slot->words->pdata[i]);
        return;
    }
    command->effect.kind = LEX_LEVEL;
    if (!out->pwm)
        lex_find(lx, LEX_D14, slot->place,
                 "'%s' is on a plain pin: on, off or toggle; a level needs 'pwm N at 1kHz'",
                 out->name);
    else if (slot->low < 0 || slot->high > 100)
        lex_find(lx, LEX_D14, slot->place, "'%s' takes 0..100%%, not %d..%d", out->name, slot->low,
                 slot->high);
    else if (slot->unit && strcmp(slot->unit, "%") != 0)
        lex_find(lx, LEX_D14, slot->place, "'%s' takes a level in %%, not in '%s'", out->name,
                 slot->unit);
}

/* Others' replies must never be taken for a command. */
static bool is_reply_word(const char *word)
{
    static const char *const words[] = {"ok", "err", "ev", "note", "ready", NULL};
    for (unsigned i = 0; words[i]; i++)
        if (!g_ascii_strcasecmp(word, words[i])) return true;
    if (g_ascii_tolower(*word) != 'e' || !word[1]) return false;
    return word[1 + strspn(word + 1, "0123456789")] == 0;
}

/* An implied command is wanted once, and only where no other says the same. */
static void drop_needless(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        bool said = false;
        for (unsigned k = 0; command->implied && k < lx->commands->len; k++)
            said |= k != i && lex_command_says(lx, lx->commands->pdata[k], command->implied);
        if (said) g_ptr_array_remove_index(lx->commands, i--);
    }
}

void finish_commands(struct lexicon *lx)
{
    drop_needless(lx);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        struct lex_element *first = command->elements->pdata[0];
        for (unsigned k = 0; first->kind == LEX_WORD && k < lex_spellings(first); k++)
            if (is_reply_word(lex_spelling(first, k)))
                lex_find(lx, LEX_D04, first->place,
                         "no command begins with '%s': it is how replies begin, and they are never "
                         "answered",
                         lex_spelling(first, k));
        const struct lex_element *which = command->effect.which;
        for (unsigned k = 0; which && k < which->words->len; k++)
            check_output_slot(lx, command, lx->outputs->pdata[which->outputs[k]]);
        if (command->effect.kind != LEX_CALL && !which)
            check_output_slot(lx, command, lx->outputs->pdata[command->effect.output]);
    }
}

/* ---- asked of commands ---- */

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
    char *name = spelt(lx, out->name), *text;
    struct lex_command *command = g_new0(struct lex_command, 1);
    struct lex_element *second = new_word(effect->place, NULL);
    *command = *effect;
    command->elements = g_ptr_array_new_with_free_func(free_element);
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
        return read_bound(word, &end, &value) && value >= e->low && value <= e->high &&
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
