/* What must be heard and seen where the lexicon fixes it: an error's name, the words of an answer,
 * an output's level.
 * Worked out from the lexicon alone, without the library.
 * Where the lexicon leaves it open, the answer is NULL or nothing. */
#include "drill/cases/expect.h"

#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/slot.h"
#include "rlx/def/replies.h"
#include "rlx/drive.h"

/* Whether its pieces have one spelling only, and no other command begins with the same word. */
static bool is_simple(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_element *first = command->elements->pdata[0];
    if (first->kind != LEX_WORD || command->query) return false;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        bool words = e->kind == LEX_WORD && (e->words || e->filler);
        if (words || e->optional || lex_is_bound(e) || e->prefix || e->glued ||
            e->form != LEX_WHOLE || e->scaled || e->kind == LEX_LIST || e->kind == LEX_SET ||
            e->kind == LEX_TEXT)
            return false;
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *other = lx->commands->pdata[i];
        const struct lex_element *word = other->elements->pdata[0];
        if (other == command) continue;
        if (word->kind != LEX_WORD || word->words || !g_ascii_strcasecmp(word->text, first->text))
            return false;
    }
    return true;
}

const char *expect_error(const struct lexicon *lx, const struct drill_case *test)
{
    static const struct {
        enum case_why why;
        const char *error;
    } errors[] = {{CASE_BELOW, "err range"},      {CASE_ABOVE, "err range"},
                  {CASE_NO_NUMBER, "err number"}, {CASE_MORE_ZEROS, "err digits"},
                  {CASE_NO_CHOICE, "err choice"}, {CASE_CUT, "err missing"},
                  {CASE_EXTRA, "err extra"},      {CASE_OTHER_WORD, "err unknown"}};
    if (lx->shorten || !test->of || !is_simple(lx, test->of)) return NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(errors); i++)
        if (errors[i].why == test->why) return errors[i].error;
    return NULL;
}

/* What the slots of a simple command's text hold. */
static char *expect_answer(const struct lex_command *command, const char *answer, const char *text)
{
    char **words = g_strsplit(text, " ", -1), *slots[128] = {NULL};
    unsigned n = 0;
    for (unsigned i = 0; i < command->elements->len && words[i]; i++)
        if (((struct lex_element *)command->elements->pdata[i])->kind != LEX_WORD)
            slots[n++] = words[i];
    char *said =
        n == lex_command_slots(command) ? answer_text(command, answer, slots) : g_strdup("");
    g_strfreev(words);
    return said;
}

/* Its own answer, or that where nothing changed. */
static bool is_own(const struct lex_command *command, const char *text, const char *answer)
{
    char *says = expect_answer(command, command->says, text);
    char *already = command->already ? expect_answer(command, command->already, text)
                                     : g_strconcat(says, " already", NULL);
    const char *behind = g_str_has_prefix(answer, says) ? answer + strlen(says) : NULL;
    bool own = (behind && (!*behind || g_str_has_prefix(behind, RLX_TXT_WAITING))) ||
               !strcmp(answer, already);
    g_free(says);
    g_free(already);
    return own;
}

/* Whether these are the values that it answers with, each of those that its slot can have. */
static bool is_told(const struct lexicon *lx, const struct lex_command *command, const char *rest)
{
    bool already = g_str_has_suffix(rest, " already");
    char *values = g_strndup(rest, strlen(rest) - (already ? strlen(" already") : 0));
    char **words = g_strsplit(values, " ", -1); /* the first one is empty */
    bool all = command->told->len + 1 == g_strv_length(words) && !*words[0];
    int32_t value;
    for (unsigned i = 0; all && i < command->told->len; i++)
        all = lex_slot_of(command->told->pdata[i])
                  ->says(lx, command->told->pdata[i], words[i + 1], &value);
    g_strfreev(words);
    g_free(values);
    return all;
}

bool expect_words(const struct lexicon *lx, const struct lex_link *link,
                  const struct drill_case *test, const char *answer)
{
    const struct lex_command *command = test->of;
    const char *text = drill_text(test);
    bool plain = test->why == CASE_PLAIN || test->why == CASE_CHOICE || test->why == CASE_HIGHEST ||
                 test->why == CASE_MIDDLE || test->why == CASE_BETWEEN;
    if (!command) return true;
    bool toggles = strstr(text, "toggle") ||
                   (command->effect.kind == LEX_SWITCH && command->effect.fixed == RLX_TOGGLE);
    if (!plain || toggles || !is_simple(lx, command)) return true;
    if (answer_is_on(command, link)) return is_own(command, text, answer);
    if (!g_str_has_prefix(answer, "ok ")) return !strcmp(answer, "ok"); /* its short form */
    size_t n = strlen(text);
    const char *rest = answer + 3 + n;
    if (strncmp(answer + 3, text, n) != 0) return false;
    return command->told
               ? is_told(lx, command, rest)
               : (!*rest || !strcmp(rest, " already") || g_str_has_prefix(rest, " waiting "));
}

/* Its commanded percent or verb; -1: not known. */
static int told(const struct lexicon *lx, const struct lex_command *command, const char *text)
{
    int32_t values[15];
    unsigned given, slot = 0;
    if (command->effect.fixed >= 0) return command->effect.fixed;
    if (!lex_command_taking(lx, text, values, &given) || given != 1) return -1;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        if (slot++) return -1;
        if (e->kind == LEX_NUMBER) return lex_value_scaled(e, values[0]);
        const char *word = e->words->pdata[values[0]];
        return !strcmp(word, "on") ? RLX_ON : !strcmp(word, "off") ? RLX_OFF : -1;
    }
    return -1;
}

/* A servo's value becomes a width between those of its ends, to the nearest microsecond. */
static bool expect_pulse(const struct lexicon *lx, const struct drill_case *test,
                         const struct board *board, const struct lex_output *out, char **wanted)
{
    int32_t values[15];
    unsigned given;
    const struct lex_command *command = lex_command_taking(lx, drill_text(test), values, &given);
    if (command != test->of || given != 1 || out->slew || out->expires || command->expires)
        return true;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        if (e->kind != LEX_NUMBER || !e->own || e->scaled) return true;
        int64_t way = (int64_t)e->own_high - e->own_low, span = (int64_t)e->high - e->low;
        int64_t size =
            ((values[0] - (int64_t)e->low) * (way < 0 ? -way : way) * 2 + span) / (2 * span);
        int64_t us = way < 0 ? e->own_low - size : e->own_low + size,
                is = board->driven.number[out->pin];
        if (is - us <= 1 && us - is <= 1) return true; /* as the table rounds */
        *wanted = g_strdup_printf("%s at %d us", out->name, (int)us);
        return false;
    }
    return true;
}

bool expect_output(const struct lexicon *lx, const struct drill_case *test,
                   const struct board *board, char **wanted)
{
    const struct lex_command *command = test->of;
    if (!command) return true;
    const struct lex_effect *effect = &command->effect;
    bool level = effect->kind == LEX_LEVEL, known = level || effect->kind == LEX_SWITCH;
    const struct lex_output *out = known && !effect->which ? lex_effect_output(lx, effect) : NULL;
    if (out && lex_kind_of(out)->direct) return expect_pulse(lx, test, board, out, wanted);
    if (!out || !lex_is_plain(out) || out->members->len) return true;
    if (out->min_on || out->min_off || out->interlock || out->fade ||
        (out->curve && strcmp(out->curve, "linear") != 0))
        return true;
    int value = told(lx, command, drill_text(test));
    if (value < 0 || (!level && value > RLX_ON)) return true;
    unsigned percent = level ? (unsigned)value : value == RLX_ON ? 100u : 0u;
    unsigned want = rlx_duty_of_percent((uint8_t)percent);
    unsigned is = out->pwm ? board->driven.duty[out->pin] : board->driven.pin[out->pin] ? 65535 : 0;
    if (out->active_low) is = 65535 - is;
    if (is == want) return true;
    *wanted = g_strdup_printf("%s at %u %%", out->name, percent);
    return false;
}
