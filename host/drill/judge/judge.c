/* Decides whether the replies to one move keep the guarantees.
 * Compares what was heard and seen with what the link owes and the command may change.
 * It plays nothing: a session brings what came. */
#include "drill/judge/judge.h"

#include <string.h>

#include "drill/cases/expect.h"
#include "drill/judge/seen.h"
#include "lexicon/answers.h"
#include "lexicon/slot.h"
#include "rlx/drive.h"
#include "rlx/def/replies.h"
#include "rlx/image.h"

/* ---- answers ---- */

static const char *own_text(const struct lex_link *link, const char *what)
{
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *text = link->texts->pdata[i];
        if (!strcmp(text->what, what)) return text->text;
    }
    return NULL;
}

/* Without the lead that stands before replies among keys. */
static const char *behind_lead(const struct lex_link *link, const char *answer)
{
    bool keyed = lex_is_keyed(link);
    return keyed && *answer == RLX_REPLY_LEAD ? answer + 1 : answer;
}

bool judge_is_ok(const struct lexicon *lx, const struct lex_link *link, const char *answer)
{
    const char *own = own_text(link, "ok"), *already = own_text(link, "already");
    answer = behind_lead(link, answer);
    if ((own && !strcmp(answer, own)) || (already && !strcmp(answer, already))) return true;
    return g_str_has_prefix(answer, RLX_TXT_OK) || answer_is_of(lx, link, answer);
}

/* Whether it is a link's own text of an error: each {value} in it stands for something. */
static bool is_text(const char *text, const char *answer)
{
    GString *pattern = g_string_new("^");
    for (const char *p = text; *p; p++)
        if (*p == '{' && strchr(p, '}')) {
            g_string_append(pattern, ".*");
            p = strchr(p, '}');
        } else {
            g_string_append_printf(pattern, g_ascii_isalnum(*p) ? "%c" : "\\%c", *p);
        }
    g_string_append_c(pattern, '$');
    bool is = g_regex_match_simple(pattern->str, answer, G_REGEX_RAW, 0);
    g_string_free(pattern, TRUE);
    return is;
}

bool judge_is_err(const struct lex_link *link, const char *answer)
{
    answer = behind_lead(link, answer);
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *text = link->texts->pdata[i];
        if (g_str_has_prefix(text->what, "err") && is_text(text->text, answer)) return true;
    }
    return g_str_has_prefix(answer, "err") || (answer[0] == 'e' && g_ascii_isdigit(answer[1]));
}

enum owed judge_owed(const struct outcome *o)
{
    const struct lex_link *link = o->link;
    enum owed owed = o->move->owed;
    const char *ok = own_text(link, "ok"), *already = own_text(link, "already");
    const char *err = own_text(link, "err");
    bool errs = false, mute = false;
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *text = link->texts->pdata[i];
        errs |= g_str_has_prefix(text->what, "err ");
        mute |= !*text->text && !g_str_has_prefix(text->what, "ev ") &&
                strcmp(text->what, "note") != 0 && strcmp(text->what, "ready") != 0;
    }
    if (!mute) return owed;
    bool ok_mute = ok && !*ok && (!already || !*already), err_mute = err && !*err && !errs;
    if (owed == OWED_OK) return ok_mute ? OWED_SILENT : ok || already ? OWED_ANY : owed;
    if (owed == OWED_ERR) return err_mute ? OWED_NONE : err || errs ? OWED_ANY : owed;
    return owed == OWED_ONE ? OWED_ANY : owed;
}

static bool is_keyed(const struct lex_link *link)
{
    return lex_is_keyed(link);
}

/* Whether it answers in words, with nothing behind them. */
static bool is_full(const struct lex_link *link)
{
    return link->replies == LEX_REPLIES_FULL && !link->texts->len &&
           link->frame != LEX_FRAME_ENDED && link->frame != LEX_FRAME_FIXED;
}

/* ---- outputs ---- */

/* Whether it stores the setting that the output's curve follows. */
static bool is_curve(const struct lexicon *lx, const struct lex_effect *effect, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    const struct lex_setting *stored =
        effect->kind == LEX_STORE ? lx->settings->pdata[effect->output] : NULL;
    return stored && !g_strcmp0(out->curve, stored->name);
}

enum told judge_told_by(const struct lexicon *lx, const struct lex_routine *routine,
                        unsigned output)
{
    int32_t values[15];
    unsigned given;
    enum told told = TOLD_NOTHING;
    for (unsigned i = 0; i < routine->steps->len && told != TOLD; i++) {
        const struct lex_step *step = routine->steps->pdata[i];
        if (!step->text) continue;
        const struct lex_command *command = lex_command_taking(lx, step->text, values, &given);
        const struct lex_output *out = command ? lex_effect_output(lx, &command->effect) : NULL;
        if (!command || command->effect.which || (out && out->members->len) ||
            is_curve(lx, &command->effect, output))
            told = TOLD_PERHAPS;
        else if (out && command->effect.output == output)
            told = TOLD;
    }
    return told;
}

static bool told_by_routine(const struct lexicon *lx, unsigned output)
{
    for (unsigned i = 0; i < lx->routines->len; i++)
        if (judge_told_by(lx, lx->routines->pdata[i], output) != TOLD_NOTHING) return true;
    return false;
}

/* Whether an input acts on it: the case may press one at any time. */
static bool told_by_input(const struct lexicon *lx, unsigned output)
{
    for (unsigned i = 0; i < LEX_WHENS * lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i / LEX_WHENS];
        const struct lex_command *act = in->acts[i % LEX_WHENS];
        if (!act) continue;
        if (act->effect.kind == LEX_RUN
                ? judge_told_by(lx, lx->routines->pdata[act->effect.output], output) != TOLD_NOTHING
                : lex_tells(act, output))
            return true;
    }
    return false;
}

/* Whether a group may set it. */
static bool told_with_others(const struct lexicon *lx, const struct lex_output *out)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *group = lx->outputs->pdata[i];
        for (unsigned k = 0; group->members && k < group->members->len; k++)
            if (!strcmp(group->members->pdata[k], out->name)) return true;
    }
    return false;
}

bool judge_moves_by_itself(const struct setup *setup, unsigned output)
{
    const struct lexicon *lx = setup->lx;
    const struct lex_output *out = lx->outputs->pdata[output];
    if (setup_is_own(setup) && out->by == LEX_BY_FIRMWARE) return true;
    if (!lex_kind_of(out)->switches) return true;
    if (out->min_on || out->min_off || out->fade || out->expires || out->interlock || out->shows ||
        out->lost || out->permits->len || told_with_others(lx, out) ||
        told_by_routine(lx, output) || told_by_input(lx, output))
        return true;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_effect *effect = &command->effect;
        if (effect->kind == LEX_CALL || effect->kind == LEX_STORE || effect->kind == LEX_RUN)
            continue;
        bool its = effect->which || effect->output == output;
        if (its && (effect->kind == LEX_VERB || effect->lasts || command->expires)) return true;
    }
    return false;
}

/* Whether this text may change the output. */
static bool changes(const struct outcome *o, const struct drill_case *test, unsigned output)
{
    const struct lexicon *lx = o->setup->lx;
    if (!test->valid) return false;
    if (!test->of) return test->word && !strcmp(test->word, "halt");
    const struct lex_effect *effect = &test->of->effect;
    if (test->of->query) return false;
    switch (effect->kind) {
    case LEX_CALL: return !o->tables; /* the firmware's own business */
    case LEX_STORE: return is_curve(lx, effect, output);
    case LEX_RUN: return judge_told_by(lx, lx->routines->pdata[effect->output], output);
    case LEX_SWITCH:
    case LEX_LEVEL:
    case LEX_VERB: break;
    }
    return effect->which || effect->output == output;
}

bool judge_may_change(const struct outcome *o, unsigned output)
{
    if (judge_moves_by_itself(o->setup, output)) return true;
    return o->move->test && changes(o, o->move->test, output);
}

/* Whether the firmware may have done it by itself. */
static bool is_own(const struct outcome *o, unsigned output)
{
    const struct lex_output *out = o->setup->lx->outputs->pdata[output];
    enum lex_by own = o->tables ? LEX_BY_COMMANDS : out->by;
    return own == LEX_BY_FIRMWARE || (own == LEX_BY_FIRMWARE_SAFE && output_is_safe(o->board, out));
}

/* An output that changed and may not have; NULL: none. */
static const struct lex_output *stranger(const struct outcome *o, bool any)
{
    for (unsigned i = 0; i < o->setup->lx->outputs->len; i++)
        if (o->moved[i] && !is_own(o, i) && (any || !judge_may_change(o, i)))
            return o->setup->lx->outputs->pdata[i];
    return NULL;
}

/* ---- calls ---- */

/* Whether the call has the values of the text, if each slot takes a plain one. */
static bool has_values(const struct outcome *o, const struct drill_case *test,
                       const struct drill_call *call)
{
    const struct lex_command *command = test->of;
    int32_t values[15];
    unsigned given, slot = 0;
    const struct lex_command *taking =
        lex_command_taking(o->setup->lx, drill_text(test), values, &given);
    if (taking != command || given != lex_command_slots(command)) return true;
    for (unsigned i = 0; i < command->elements->len && slot < given; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        if (!lex_slot_of(e)->single) return true;
        if (call->values[slot] != image_said_value(e, values[slot])) return false;
        slot++;
    }
    return true;
}

/* What is wrong with the calls of handlers; NULL: nothing. `least`: calls there have to be. */
static const char *wrong_calls(const struct outcome *o, unsigned least)
{
    const struct drill_case *test = o->move->test;
    bool calls = test && test->valid && test->of && test->of->effect.kind == LEX_CALL;
    if (!o->tables || o->move->busy) return NULL;
    if (test && (!test->of || test->of->query)) return NULL;   /* asks */
    if (test && test->of->effect.kind == LEX_RUN) return NULL; /* its steps may */
    if (!calls) return o->calls->len ? "a handler was called" : NULL;
    if (o->calls->len < least) return "no call of its handler";
    if (o->calls->len > 1) return "more than one call of its handler";
    for (unsigned i = 0; i < o->calls->len; i++) {
        const struct drill_call *call = &g_array_index(o->calls, struct drill_call, i);
        if (o->setup->image->handlers->pdata[call->handler] != test->of)
            return "a call of another handler";
        if (!has_values(o, test, call)) return "a call with other values";
    }
    return NULL;
}

/* ---- verdicts ---- */

static char *say(char **came, const char *what, const char *expected)
{
    g_free(*came);
    *came = g_strdup(what);
    return g_strdup(expected);
}

/* The state of the commanded output. */
static void say_state(const struct outcome *o, char **came)
{
    const struct lex_output *out = lex_effect_output(o->setup->lx, &o->move->test->of->effect);
    char *state = output_state(o->board, out);
    g_free(*came);
    *came = g_strdup_printf("%s %s", out->name, state);
    g_free(state);
}

/* Whether the commanded output also changes by itself. */
static bool own_way(const struct outcome *o)
{
    const struct drill_case *test = o->move->test;
    const struct lex_effect *effect = test && test->of ? &test->of->effect : NULL;
    bool output =
        effect && (effect->kind == LEX_LEVEL || effect->kind == LEX_SWITCH) && !effect->which;
    const struct lex_output *out = output ? o->setup->lx->outputs->pdata[effect->output] : NULL;
    return output && lex_kind_of(out)->levels != LEX_LEVELS_OWN &&
           judge_moves_by_itself(o->setup, effect->output);
}

/* Whether the commanded output is safe, as the firmware may have it. */
static bool is_safe_by_itself(const struct outcome *o)
{
    const struct drill_case *test = o->move->test;
    const struct lex_output *out =
        test && test->of ? lex_effect_output(o->setup->lx, &test->of->effect) : NULL;
    return out && !test->of->effect.which && is_own(o, test->of->effect.output);
}

/* Whether the input is as the permit wants it, and was so for long enough. */
static bool is_given(const struct outcome *o, const struct lex_permit *permit)
{
    const struct lex_input *in = permit->of;
    if (o->blind) return false;
    uint64_t settles_us = (in->debounce + UINT64_C(100)) * 1000;
    bool high, on = device_pin(o->board->device, (uint8_t)in->pin, &high) && high != in->active_low;
    return on == permit->on && o->board->bench->world->now_us >= o->pushed_us[in->pin] + settles_us;
}

/* Whether an input does not permit an output of the command now, or may not have; of any output
 * where the command is not known. */
static bool is_blocked(const struct outcome *o)
{
    const struct lexicon *lx = o->setup->lx;
    const struct lex_command *command = o->move->test ? o->move->test->of : NULL;
    const struct lex_output *told = command ? lex_effect_output(lx, &command->effect) : NULL;
    for (unsigned i = 0; command && i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        bool its =
            lex_tells(command, i) ||
            (told && g_ptr_array_find_with_equal_func(told->members, out->name, g_str_equal, NULL));
        for (unsigned k = 0; its && k < out->permits->len; k++)
            if (!is_given(o, out->permits->pdata[k])) return true;
    }
    return false;
}

/* The commanded output is at the level of the lexicon. */
static char *judge_level(const struct outcome *o, char **came)
{
    const struct drill_case *test = o->move->test;
    char *wanted = NULL;
    bool late = o->move->busy || (!o->tables && lex_has_own(o->setup->lx)) ||
                o->link->medium == LEX_SMS ||
                (test && test->of && told_by_input(o->setup->lx, test->of->effect.output));
    if (!test || o->blind || (own_way(o) && late) || is_safe_by_itself(o) || is_blocked(o) ||
        expect_output(o->setup->lx, test, o->board, &wanted))
        return NULL;
    say_state(o, came);
    return wanted;
}

/* Word by word, and the level, as the lexicon has it. */
static char *judge_words(const struct outcome *o, const char *answer, char **came)
{
    const struct drill_case *test = o->move->test;
    const struct lex_link *link = o->link;
    bool obeyed = judge_owed(o) == OWED_OK, full = is_full(link);
    if (!test) return NULL;
    const char *error =
        !obeyed && drill_may_say(link, test) ? expect_error(o->setup->lx, test) : NULL;
    if (full && error && !g_str_has_prefix(behind_lead(link, answer), error))
        return say(came, answer, error);
    if (full && !is_keyed(link) && obeyed && !expect_words(o->setup->lx, link, test, answer))
        return say(came, answer,
                   test->of && answer_is_on(test->of, link) ? "the command's own answer"
                                                            : "ok and the command");
    return obeyed ? judge_level(o, came) : NULL;
}

/* Whether a setting narrows what may be sent in it. */
static bool is_bounded(const struct outcome *o)
{
    const struct drill_case *test = o->move->test;
    for (unsigned i = 0; test && test->of && i < test->of->elements->len; i++)
        if (lex_is_bound(test->of->elements->pdata[i])) return true;
    return false;
}

static char *judge_obeyed(const struct outcome *o, char **came)
{
    const char *calls = wrong_calls(o, !is_bounded(o));
    const struct lex_output *other = stranger(o, false);
    if (calls) return say(came, calls, "one call of its handler, with its values");
    if (!other) return NULL;
    g_free(*came);
    *came = g_strdup_printf("%s changed", other->name);
    return g_strdup("that no other output changes");
}

static char *judge_refused(const struct outcome *o, char **came)
{
    const struct lex_output *other = stranger(o, !o->move->busy);
    bool called = o->calls->len > 0 && o->tables && !o->move->busy;
    if (!other && !called) return NULL;
    g_free(*came);
    *came = other ? g_strdup_printf("%s changed", other->name) : g_strdup("a handler was called");
    return g_strdup("that nothing moves");
}

/* ---- what is held up ---- */

static bool is_called(const struct outcome *o, const struct drill_call *call)
{
    const struct lex_command *command = o->setup->image->handlers->pdata[call->handler];
    const struct lex_element *first = command->elements->pdata[0];
    for (unsigned i = 0; i < o->said->len; i++) {
        const struct drill_case *test = o->said->pdata[i];
        bool asks = command->query && test->word && first->kind == LEX_WORD &&
                    g_str_has_prefix(first->text, test->word);
        bool runs = test->of && test->of->effect.kind == LEX_RUN; /* its steps may call */
        bool tells = test->of == command && (command->query || has_values(o, test, call));
        if (test->valid && (asks || runs || tells)) return true;
    }
    return false;
}

/* Whether a command leads to the state of the output. */
static bool is_told(const struct outcome *o, unsigned output)
{
    for (unsigned i = 0; i < o->said->len; i++) {
        const struct drill_case *test = o->said->pdata[i];
        char *wanted = NULL;
        bool led = changes(o, test, output) && expect_output(o->setup->lx, test, o->board, &wanted);
        g_free(wanted);
        if (led) return true;
    }
    return false;
}

static bool is_answer(const struct outcome *o, const char *answer)
{
    if (!is_full(o->link) || is_keyed(o->link) || !g_str_has_prefix(answer, "ok ")) return true;
    if (g_ascii_isdigit(answer[3])) return true; /* several in one frame, or a number first */
    for (unsigned i = 0; i < o->said->len; i++) {
        const struct drill_case *test = o->said->pdata[i];
        const char *word = test->of ? NULL : test->word;
        if (!test->valid) continue;
        if (word ? !g_ascii_strncasecmp(answer + 3, word, strlen(word))
                 : expect_words(o->setup->lx, o->link, test, answer))
            return true;
    }
    return false;
}

/* An earlier command may be obeyed and answered only now, but nothing else. */
static char *judge_held_up(const struct outcome *o, char **came, bool *wrong)
{
    for (unsigned i = 0; o->tables && i < o->calls->len; i++)
        if (!is_called(o, &g_array_index(o->calls, struct drill_call, i))) {
            *wrong = true;
            return say(came, "another call of a handler", "nothing but the command");
        }
    for (unsigned i = 0; i < o->setup->lx->outputs->len; i++) {
        const struct lex_output *out = o->setup->lx->outputs->pdata[i];
        if (!o->moved[i] || judge_moves_by_itself(o->setup, i) || is_told(o, i) || is_own(o, i))
            continue;
        *wrong = true;
        g_free(*came);
        *came = g_strdup_printf("%s changed", out->name);
        return g_strdup("nothing but the command");
    }
    for (unsigned i = 0; i < o->answers->len; i++)
        if (!is_answer(o, o->answers->pdata[i])) {
            *wrong = true;
            return say(came, o->answers->pdata[i], "an answer to the command");
        }
    return NULL;
}

/* Over a bad link: nothing but the command, and that once. */
static char *judge_perhaps(const struct outcome *o, char **came, bool *wrong)
{
    const struct drill_case *test = o->move->test;
    const char *calls = wrong_calls(o, 0);
    const struct lex_output *other = stranger(o, false);
    char *wanted = NULL;
    if (o->move->busy && o->move->torn) return judge_held_up(o, came, wrong);
    if (calls) {
        *wrong = true;
        return say(came, calls, "nothing but the command, once");
    }
    if (other) {
        *wrong = true;
        g_free(*came);
        *came = g_strdup_printf("%s changed", other->name);
        return g_strdup("that no other output changes");
    }
    bool told = test && test->of && lex_effect_output(o->setup->lx, &test->of->effect);
    if (told && o->moved[test->of->effect.output] && !own_way(o) &&
        !expect_output(o->setup->lx, test, o->board, &wanted)) {
        *wrong = true;
        say_state(o, came);
        return wanted;
    }
    if (o->answers->len > 1 && !o->move->torn)
        return say(came, o->answers->pdata[1], "one answer at most");
    return NULL;
}

/* Whether errors have other words there, or none. */
static bool has_own_errors(const struct lex_link *link)
{
    return link->texts->len || link->replies == LEX_REPLIES_SHORT;
}

/* Whether this answer may say that an input does not permit it. */
static bool may_block(const struct outcome *o, const char *answer)
{
    return (strstr(answer, "blocked") || has_own_errors(o->link)) && is_blocked(o);
}

/* The command of the case, or what a query is asked as; NULL: another word. */
static const struct lex_command *command_of(const struct outcome *o)
{
    const struct drill_case *test = o->move->test;
    const GPtrArray *queries = o->setup->lx->queries;
    if (!test || test->of) return test ? test->of : NULL;
    for (unsigned i = 0; test->word && i < queries->len; i++) {
        const struct lex_query *query = queries->pdata[i];
        if (!strcmp(query->name, test->word)) return query->asked;
    }
    return NULL;
}

/* Whether it was refused as it may be: by a firmware's own handler, because a setting narrows its
 * range, or because a way would lead out of its output's range. */
static bool may_fail(const struct outcome *o, const char *answer)
{
    const struct lex_command *of = command_of(o);
    const struct lex_effect *effect = of ? &of->effect : NULL;
    bool own = has_own_errors(o->link);
    if (!effect) return false;
    if (may_block(o, answer)) return true;
    if (is_bounded(o) && (strstr(answer, "range") || own)) return true;
    if (effect->verb && effect->verb->behind == RLX_BEHIND_STEPS)
        return strstr(answer, "failed") || own;
    for (unsigned i = 0; of->refuses && !o->tables && i < of->refuses->len; i++)
        if (strstr(answer, of->refuses->pdata[i])) return true;
    return (effect->kind == LEX_CALL || of->query) && !o->tables &&
           (strstr(answer, "busy") || strstr(answer, "failed") || own);
}

/* Answers that nothing ends run into one another, and into events: that there is one is all that
 * can be told. What moved is judged as everywhere. */
static char *judge_unended(const struct outcome *o, enum owed owed, char **came)
{
    if (!o->answers->len) return say(came, "none", "an answer");
    if (o->move->what == MOVE_TYPE || owed == OWED_ONE) return NULL;
    return owed == OWED_OK ? judge_obeyed(o, came) : judge_refused(o, came);
}

char *judge(const struct outcome *o, char **came, bool *wrong)
{
    const struct move *move = o->move;
    enum owed owed = judge_owed(o);
    const char *answer = o->answers->len ? o->answers->pdata[0] : NULL;
    bool none = owed == OWED_NONE || owed == OWED_SILENT;
    *came = NULL;
    *wrong = false;
    if (owed == OWED_ANY) return NULL;
    if (owed == OWED_PERHAPS) return judge_perhaps(o, came, wrong);
    if (o->link->answer_end == LEX_END_NONE && !none && owed != OWED_SILENT)
        return judge_unended(o, owed, came);
    if (o->bad) return say(came, "another envelope", "the envelope of an answer");
    if (none && answer) return say(came, answer, "no answer");
    if (owed == OWED_SILENT) {
        char *verdict = move->test ? judge_obeyed(o, came) : NULL;
        return verdict ? verdict : judge_level(o, came);
    }
    if (none) return move->what == MOVE_SAY ? judge_refused(o, came) : NULL;
    if (!answer) return say(came, "none", "an answer");
    if (move->what == MOVE_TYPE) {
        if (o->answers->len != move->frames)
            return say(came, o->answers->len > move->frames ? "more" : "fewer",
                       "as many answers as frames");
        for (unsigned i = 0; i < o->answers->len; i++) {
            const char *one = o->answers->pdata[i];
            if (owed == OWED_OK && !judge_is_ok(o->setup->lx, o->link, one) && !may_block(o, one))
                return say(came, one, "ok");
            if (owed == OWED_ERR && !judge_is_err(o->link, one)) return say(came, one, "err");
        }
        return NULL;
    }
    if (o->answers->len > 1 && !move->torn) return say(came, o->answers->pdata[1], "one answer");
    if (owed == OWED_ONE) return NULL;
    if (owed == OWED_OK && !judge_is_ok(o->setup->lx, o->link, answer))
        return may_fail(o, answer) ? NULL : say(came, answer, "ok");
    if (owed == OWED_ERR && !judge_is_err(o->link, answer))
        return say(came, answer,
                   move->test && !drill_may_say(o->link, move->test) && move->test->valid
                       ? "err: this link does not accept it"
                       : "err: no command takes it");
    char *verdict = owed == OWED_OK ? judge_obeyed(o, came) : judge_refused(o, came);
    return verdict ? verdict : judge_words(o, answer, came);
}
