#include "reader.h"

#include <stdlib.h>
#include <string.h>

#include "rlx/drive.h"

#define SLOTS_MAX 15
/* Words and slots of one command: a frame holds no more. */
#define ELEMENTS_MAX 127
/* Ways to say its words, with spellings and fillers: each is a path of its own in the tables. */
#define WAYS_MAX 1000

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
        lex_read_choice(lx, e, word);
        e->kind = LEX_WORD;
        e->text = g_strdup(e->words->pdata[0]);
    } else {
        e->text = lex_spelt(lx, word);
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
    if ((e->kind != LEX_NUMBER && e->kind != LEX_LIST) || e->unit || e->form == LEX_TIME) {
        lex_fault(st->lx, next->place,
                  e->unit || e->form == LEX_TIME ? "the slot has its unit already"
                                                 : "a unit belongs to a number");
        return;
    }
    lex_read_unit(st->lx, e, next->text);
    e->glued = true;
}

static bool touches(const struct token *token)
{
    return token[1].kind == TOKEN_SLOT &&
           token[1].place.column == token->place.column + token->place.length;
}

/* g{0..255}: the word touches the number behind it. */
static void read_prefix(struct lexicon *lx, struct lex_command *command, const struct token *token)
{
    const char *why;
    struct lex_element *e = command->elements->pdata[command->elements->len - 1];
    if (e->kind != LEX_NUMBER)
        lex_fault(lx, token->place, "only a number may touch the word before it");
    else if (!lex_word_ok(token->text, &why))
        lex_fault(lx, token->place, "'%s': %s", token->text, why);
    else if (e->optional)
        lex_fault(lx, token->place, "a number that touches a word cannot be left out");
    else if (g_ascii_isdigit(token->text[strlen(token->text) - 1]) ||
             g_str_has_suffix(token->text, "-"))
        lex_fault(lx, token->place,
                  "'%s' ends like a number: where the slot begins could not be told", token->text);
    e->prefix = lex_spelt(lx, token->text);
}

static void read_pattern(struct statement *st, struct lex_command *command)
{
    for (;;) {
        struct token *token = statement_peek(st);
        if (token->kind == TOKEN_SLOT) {
            g_ptr_array_add(command->elements, lex_read_slot(st->lx, token));
            read_glued(st, command, token);
        } else if (token->kind == TOKEN_WORD && touches(token)) {
            struct token *slot = &token[1];
            st->next++;
            g_ptr_array_add(command->elements, lex_read_slot(st->lx, slot));
            read_prefix(st->lx, command, token);
            read_glued(st, command, slot);
        } else if (token->kind == TOKEN_WORD) {
            g_ptr_array_add(command->elements, read_word(st->lx, token));
        } else {
            return;
        }
        st->next++;
    }
}

static unsigned ways_to_say(const struct lex_command *command)
{
    unsigned ways = 1;
    for (unsigned i = 0; i < command->elements->len && ways <= WAYS_MAX; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) ways *= lex_spellings(e) + e->filler;
    }
    return ways;
}

static unsigned values_of(const struct lex_command *command)
{
    unsigned values = 0;
    for (unsigned i = 0; i < command->elements->len; i++)
        values += lex_slot_values(command->elements->pdata[i]);
    return values;
}

/* Text to the end of the line comes last. */
static void check_rest(struct lexicon *lx, const struct lex_command *command)
{
    for (unsigned i = 0; i + 1 < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_TEXT && e->rest)
            lex_fault(lx, e->place, "text to the end of the line can only come last");
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
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    command->place = statement_peek(st)->place;
    read_pattern(st, command);
    struct token *token = statement_peek(st);
    struct lex_element *first = command->elements->len ? command->elements->pdata[0] : NULL;
    check_optional(lx, command);
    check_rest(lx, command);
    if (!first || (first->kind != LEX_WORD && first->kind != LEX_NUMBER) || first->filler ||
        first->optional) {
        lex_fault(lx, first ? first->place : token->place,
                  "a command begins with a word or a number");
    } else if (command->elements->len > ELEMENTS_MAX) {
        lex_fault(lx, command->place, "more than %d words and slots in one command", ELEMENTS_MAX);
    } else if (ways_to_say(command) > WAYS_MAX) {
        lex_fault(
            lx, command->place,
            "more than %d ways to say it: fewer words that may be left out or spelt otherwise",
            WAYS_MAX);
    } else if (values_of(command) > SLOTS_MAX) {
        lex_fault(lx, command->place,
                  "more than %d slots in one command; a list counts its most numbers and one",
                  SLOTS_MAX);
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

/* Others' replies must never be taken for a command, not even for a shortened one. NULL, or the
 * reply word that this word, or its beginning, is. Owned by the caller. */
static char *reply_word_in(const struct lexicon *lx, const char *word)
{
    static const char *const words[] = {"ok", "err", "ev", "note", "ready", NULL};
    size_t length = strlen(word), least = lx->shorten ? lx->shorten : length;
    for (unsigned i = 0; words[i]; i++) {
        size_t n = strlen(words[i]);
        if (!g_ascii_strncasecmp(word, words[i], n) && (n == length || n >= least))
            return g_strdup(words[i]);
    }
    if (g_ascii_tolower(*word) != 'e') return NULL;
    size_t digits = strspn(word + 1, "0123456789");
    bool cut = digits && (1 + digits == length || 1 + digits >= least);
    return cut ? g_strndup(word, 1 + digits) : NULL;
}

static void check_first_word(struct lexicon *lx, const struct lex_element *first, const char *word)
{
    char *reply = reply_word_in(lx, word);
    if (!reply) return;
    struct lex_fault *fault;
    if (strlen(reply) == strlen(word))
        fault = lex_find(lx, LEX_D04, first->place,
                         "no command begins with '%s': it is how replies begin, and they are never "
                         "answered",
                         word);
    else
        fault = lex_find(lx, LEX_D04, first->place,
                         "with 'shorten %u' the reply \"%s\" of another device would be taken for "
                         "'%s'",
                         lx->shorten, reply, word);
    fault->witness = reply;
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

/* A number stands for what a command takes, and for nothing else. */
static void check_number(struct lexicon *lx, const struct lex_number *number)
{
    bool said = false;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        said |= lex_command_says(lx, command, number->text);
        if (!lex_command_says(lx, command, number->digits)) continue;
        char *text = lex_command_text(command);
        struct lex_fault *fault =
            lex_find(lx, LEX_D19, number->place, "%s is a value of '%s' in line %u, too",
                     number->digits, text, command->place.line);
        fault->witness = g_strdup(number->digits);
        g_free(text);
    }
    if (!said)
        lex_find(lx, LEX_D15, number->place, "%s stands for \"%s\", which no command takes",
                 number->digits, number->text);
}

void finish_commands(struct lexicon *lx)
{
    drop_needless(lx);
    for (unsigned i = 0; i < lx->numbers->len; i++) check_number(lx, lx->numbers->pdata[i]);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        struct lex_element *first = command->elements->pdata[0];
        for (unsigned k = 0; first->kind == LEX_WORD && k < lex_spellings(first); k++)
            check_first_word(lx, first, lex_spelling(first, k));
        const struct lex_element *which = command->effect.which;
        for (unsigned k = 0; which && k < which->words->len; k++)
            check_output_slot(lx, command, lx->outputs->pdata[which->outputs[k]]);
        if (command->effect.kind != LEX_CALL && !which)
            check_output_slot(lx, command, lx->outputs->pdata[command->effect.output]);
    }
}
