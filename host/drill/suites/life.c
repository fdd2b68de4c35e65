/* The suite about a device's life: power-up, resets, halt, expiry, loss of a link.
 * Each case is a short scene, written from the lexicon.
 * Events and settings are in events.c, what is sent to it in spoken.c. */
#include "drill/suites/life.h"

#include <string.h>

#include "lexicon/answers.h"

#include "lexicon/envelope.h"
#include "lexicon/layout/layout.h"
#include "rlx/drive.h"

void life_put(struct life *life, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_string_append_vprintf(life->text, format, args);
    va_end(args);
    g_string_append_c(life->text, '\n');
}

void life_play(struct life *life, const char *row, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *title = g_strdup_vprintf(format, args);
    va_end(args);
    if (!life->unsayable)
        yield_scene(life->yield, life->drill, life->job, life->link, row, title, life->text->str);
    life->unsayable = false;
    life->link = life->job->link;
    g_string_truncate(life->text, 0);
    g_free(title);
}

char *life_speaker(const struct life *life, unsigned link)
{
    const struct lex_link *of = drill_link(life->drill, link);
    return g_strconcat(session_has_client(of) ? "by_" : "", of->name, NULL);
}

static void put_quoted(struct life *life, unsigned link, const char *what, const char *text)
{
    static char beyond[129]; /* bytes above 127 stay as they are */
    for (unsigned i = 0; i < 128; i++) beyond[i] = (char)(128 + i);
    char *who = life_speaker(life, link), *escaped = g_strescape(text, beyond);
    life_put(life, "%s %s \"%s\"", what, who, escaped);
    g_free(escaped);
    g_free(who);
}

void life_say(struct life *life, unsigned link, const char *text)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const struct lex_setting *code = of->code ? lexicon_setting(life->drill->lx, of->code) : NULL;
    char *whole = code ? g_strdup_printf("%s %s", code->value, text) : g_strdup(text);
    if (of->layout && !layout_asks(of, whole)) life->unsayable = true;
    put_quoted(life, link, "say", whole);
    g_free(whole);
}

void life_hear(struct life *life, unsigned link, const char *pattern)
{
    put_quoted(life, link, "hear", pattern);
}

void life_obeyed(struct life *life, unsigned link, const char *text)
{
    life_say(life, link, text);
    life_hear(life, link,
              answers_are_own(life->drill->lx, drill_link(life->drill, link)) ? "*" : "*ok*");
}

bool life_is_spoken(const struct drill *drill, unsigned link)
{
    const struct lex_link *of = drill_link(drill, link);
    bool keyed = lex_is_keyed(of);
    bool enveloped =
        of->check == LEX_DEMAND_REQUIRED || of->address >= 0 || of->tags == LEX_DEMAND_REQUIRED;
    if (drill_why_not(drill, link) || (of->medium == LEX_SMS && of->handed)) return false;
    return !keyed && !of->one_way && of->replies != LEX_REPLIES_SILENT && !of->people &&
           (!enveloped || session_has_client(of));
}

int life_link(const struct drill *drill)
{
    int found = -1;
    for (unsigned i = 0; i < drill->lx->links->len; i++) {
        const struct lex_link *of = drill_link(drill, i);
        bool good = (life_is_spoken(drill, i) || (of->people && !drill_why_not(drill, i))) &&
                    of->replies == LEX_REPLIES_FULL && !of->only->len && !of->yields;
        /* a greeting or event cannot be told from an answer that nothing ends */
        bool best = of->medium == LEX_SERIAL && of->answer_end != LEX_END_NONE;
        if (good && (found < 0 || best)) {
            found = (int)i;
            if (best) break;
        }
    }
    return found;
}

const char *life_text(const struct drill *drill, unsigned link, const struct lex_command *command,
                      enum case_why why)
{
    if (lex_is_guarded(command)) return NULL; /* it may be refused: in scenes of its own */
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        if (test->of == command && test->why == why && test->valid &&
            drill_may_say(drill_link(drill, link), test) &&
            strlen(test->text) <= session_most(drill->lx, drill_link(drill, link)))
            return test->text;
    }
    return NULL;
}

const char *life_any(const struct drill *drill, unsigned link)
{
    /* a handler answers as it likes, a routine goes on, inputs may refuse it: only where there is
     * nothing else */
    for (unsigned called = 0; called < 3; called++)
        for (unsigned i = 0; i < drill->lx->commands->len; i++) {
            const struct lex_command *command = drill->lx->commands->pdata[i];
            const struct lex_output *out = lex_effect_output(drill->lx, &command->effect);
            unsigned calls = command->effect.kind == LEX_CALL || command->effect.kind == LEX_RUN ? 2
                             : out && lex_is_permitted(drill->lx, out)                           ? 1
                                                                       : 0;
            if (command->effect.kind == LEX_STORE || command->query || calls != called) continue;
            const char *text = life_text(drill, link, command, CASE_PLAIN);
            if (text) return text;
        }
    return NULL;
}

const char *life_toggle(const struct drill *drill, unsigned link, bool at_once,
                        const struct lex_output **out)
{
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        const struct lex_output *o =
            test->of ? lex_effect_output(drill->lx, &test->of->effect) : NULL;
        bool switched = o && lex_is_plain(o) && !o->members->len && !o->pwm && !o->expires &&
                        !o->interlock && !o->shows && !o->lost;
        if (!switched || (at_once && (o->min_on || o->min_off)) || !test->valid ||
            !g_str_has_suffix(test->text, "toggle") || test->of->effect.which ||
            !drill_may_say(drill_link(drill, link), test) || lex_is_guarded(test->of))
            continue;
        *out = o;
        return test->text;
    }
    return NULL;
}

bool life_may_refuse(const struct lexicon *lx, const char *text)
{
    int32_t values[15];
    unsigned given;
    const struct lex_command *command = lex_command_taking(lx, text, values, &given);
    return lex_beyond_now(lx, text) || (command && lex_is_guarded(command));
}

/* ---- states ---- */

static char *state_at(const struct lex_output *out, unsigned percent)
{
    return lex_kind_of(out)->state_at(out, percent);
}

static char *safe_state(const struct lex_output *out)
{
    return out->shows ? NULL : state_at(out, out->safe);
}

static void put_safe(struct life *life, const char *within, bool own)
{
    for (unsigned i = 0; i < life->drill->lx->outputs->len; i++) {
        const struct lex_output *out = life->drill->lx->outputs->pdata[i];
        if ((drill_by(life->drill, out) == LEX_BY_FIRMWARE) != own) continue;
        char *state = safe_state(out);
        if (state) life_put(life, "see %s %s within %s", out->name, state, within);
        g_free(state);
    }
}

void life_put_safe(struct life *life, const char *within)
{
    put_safe(life, within, false);
}

void life_put_still(struct life *life, const char *said, unsigned ms)
{
    const struct lexicon *lx = life->drill->lx;
    int32_t values[15];
    unsigned given;
    const struct lex_command *command = lex_command_taking(lx, said, values, &given);
    const struct lex_output *out = command ? lex_effect_output(lx, &command->effect) : NULL;
    bool goes_on = command && (command->expires || command->effect.lasts || command->effect.which ||
                               command->effect.kind == LEX_RUN);
    goes_on |= out && (out->expires || out->lost || out->ramp || out->fade || out->slew ||
                       out->dead || out->min_on || out->min_off || out->kind == LEX_REVERSER ||
                       out->members->len || out->kind == LEX_BUZZER);
    life_put(life, "%s %ums", goes_on ? "wait" : "still", ms);
}

void life_put_own_safe(struct life *life, const char *within)
{
    put_safe(life, within, true);
}

unsigned life_before(const struct life *life, uint32_t ms, uint32_t less)
{
    if (life->drill->options->firmware) less += ms / 40;
    return ms > less ? ms - less : 0;
}

bool life_permit(struct life *life, const struct lex_output *out)
{
    unsigned settles = 0;
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *permit = out->permits->pdata[i];
        for (unsigned k = 0; k < i; k++) {
            const struct lex_permit *other = out->permits->pdata[k];
            if (permit->of == other->of && permit->on != other->on) return false;
        }
    }
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *permit = out->permits->pdata[i];
        life_put(life, "push %s %s", permit->name, permit->on ? "on" : "off");
        settles = MAX(settles, permit->of->debounce + 50);
    }
    if (settles) life_put(life, "wait %ums", settles);
    return true;
}

/* ---- power ---- */

static void power_up(struct life *life)
{
    if (!life->drill->lx->outputs->len) return;
    life_put_safe(life, "1ms");
    life_play(life, "safe at power-up", "At power-up all outputs are safe");
}

static bool put_busy(struct life *life, unsigned link)
{
    GArray *moves = moves_new();
    unsigned said = drill_busy(life->drill, moves, link);
    for (unsigned i = 0; i < moves->len; i++) {
        life_say(life, link, g_array_index(moves, struct move, i).text);
        if (drill_link(life->drill, link)->frame == LEX_FRAME_LINE)
            life_hear(life, link, "*");
        else
            life_put(life, "wait 200ms"); /* nothing ends its first message */
    }
    g_array_free(moves, TRUE);
    return said > 0;
}

static void resets(struct life *life, unsigned link)
{
    static const char *const causes[] = {"power", "pin", "watchdog", "brownout", "software"};
    const struct lexicon *lx = life->drill->lx;
    const struct lex_link *of = drill_link(life->drill, link);
    for (unsigned i = 0; i < G_N_ELEMENTS(causes); i++) {
        if (!put_busy(life, link)) return;
        life_put(life, "now reset %s", causes[i]);
        if (!lx->silent && of->frame == LEX_FRAME_LINE && !of->texts->len) {
            char *ready =
                g_strdup_printf("*ready %s %u ???????? %s", lx->name, lx->version, causes[i]);
            life_hear(life, link, ready);
            g_free(ready);
        }
        life_put(life, "wait 1s");
        life_put_safe(life, "1ms");
        life_play(life, "safe after a reset", "After a reset by %s all outputs are safe",
                  causes[i]);
    }
}

static void halts(struct life *life)
{
    const struct lexicon *lx = life->drill->lx;
    if (!(lx->built_in & RLX_BUILT_IN_HALT)) return;
    for (unsigned link = 0; link < lx->links->len; link++) {
        if (!life_is_spoken(life->drill, link)) continue;
        int other = life_link(life->drill);
        put_busy(life, other < 0 ? link : (unsigned)other);
        life_say(life, link, "halt");
        life_put_own_safe(life, "20s");
        life_hear(life, link, "*");
        life_put_safe(life, "50ms");
        life->link = link;
        life_play(life, "safe by halt", "By halt over %s all outputs are safe",
                  drill_link(life->drill, link)->name);
    }
}

/* ---- what expires ---- */

/* Of its number. */
static int percent_of(const struct lex_command *command, int32_t value)
{
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_NUMBER) return lex_value_scaled(e, value);
        if (e->kind != LEX_WORD) break;
    }
    return -1;
}

const char *life_full_text(const struct life *life, unsigned link,
                           const struct lex_command *command, char **state)
{
    const struct lex_effect *effect = &command->effect;
    const struct lex_output *out = lex_effect_output(life->drill->lx, effect);
    *state = NULL;
    if (!out || effect->which || out->members->len || effect->fixed >= 0 || out->safe == 100 ||
        (effect->kind != LEX_LEVEL && effect->kind != LEX_SWITCH))
        return NULL;
    const char *text = life_text(life->drill, link, command,
                                 effect->kind == LEX_LEVEL ? CASE_HIGHEST : CASE_PLAIN);
    int32_t values[15];
    unsigned given;
    if (!text || !lex_command_taking(life->drill->lx, text, values, &given)) return NULL;
    if (effect->kind == LEX_SWITCH && values[0] != RLX_ON && !g_strstr_len(text, -1, " on"))
        return NULL;
    int percent = effect->kind == LEX_LEVEL ? percent_of(command, values[0]) : 100;
    if (percent > 0 && (unsigned)percent != out->safe) *state = state_at(out, (unsigned)percent);
    return *state ? text : NULL;
}

static void expiry(struct life *life, unsigned link, const struct lex_command *command)
{
    const struct lex_output *out = lex_effect_output(life->drill->lx, &command->effect);
    uint32_t ms = command->expires ? command->expires : out ? out->expires : 0;
    char *state, *safe = out ? safe_state(out) : NULL;
    bool own = out && drill_by(life->drill, out);
    const char *text = ms ? life_full_text(life, link, command, &state) : NULL;
    uint32_t moves = out ? out->ramp + out->fade + out->dead + out->min_on : 0;
    if (text && safe && ms > 400 && !out->lost && life_permit(life, out)) {
        life_obeyed(life, link, text);
        life_put(life, "wait %ums", ms * 3 / 4);
        life_obeyed(life, link, text);
        life_put(life, "wait %ums", ms * 3 / 4);
        if (moves < ms / 2 && !own) life_put(life, "see %s %s within 1ms", out->name, state);
        life_say(life, link, "zzz");
        life_hear(life, link, "*");
        unsigned rest = life_before(life, ms, ms * 3 / 4 + 100);
        life_put(life, "wait %ums", rest);
        if (moves < ms / 2 && !own) life_put(life, "see %s %s within 1ms", out->name, state);
        life_put(life, "see %s %s within %ums", out->name, safe, ms / 4 - rest + 150 + moves);
        life_play(life, "expiry", "Quiet means safe: %s expires after %u ms", out->name, ms);
    }
    if (text) g_free(state);
    g_free(safe);
}

/* ---- what is lost ---- */

static void lost(struct life *life, const struct lex_output *out)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned link = 0; out->lost && link < lx->links->len; link++) {
        const struct lex_link *of = drill_link(life->drill, link);
        if (strcmp(of->name, out->lost) != 0 || !of->lost || !life_is_spoken(life->drill, link))
            continue;
        for (unsigned i = 0; i < lx->commands->len; i++) {
            const struct lex_command *command = lx->commands->pdata[i];
            char *state = NULL, *safe = safe_state(out);
            bool its = lex_effect_output(lx, &command->effect) == out;
            const char *text = its ? life_full_text(life, link, command, &state) : NULL;
            if (text && safe && life_permit(life, out)) {
                life_obeyed(life, link, text);
                life_put(life, "wait %ums", of->lost - of->lost / 4);
                life_put(life, "see %s %s within %ums", out->name, safe, of->lost / 2 + 1000);
                life->link = link;
                life_play(life, "safe when a link is lost", "%s is safe when %s is lost", out->name,
                          of->name);
            }
            if (text) g_free(state);
            g_free(safe);
        }
    }
}

/* ---- an echo ---- */

/* Whether a command there can lead to an event that comes until somebody says got. */
static bool is_told_again(const struct lexicon *lx, const struct lex_link *link)
{
    bool any = false;
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        any |= event->confirmed && event->input && !lexicon_input(lx, event->input) &&
               life_is_told(event, link);
    }
    return any;
}

static void echoes(struct life *life, unsigned link)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const char *text = life_any(life->drill, link);
    if (of->medium > LEX_MODEM || of->check || of->layout || !text ||
        is_told_again(life->drill->lx, of))
        return;
    life_put(life, "now cable %s echo", of->name);
    life_say(life, link, text);
    life_put(life, "wait 2s\nsilence %s 2s", of->name);
    life_say(life, link, "zzz");
    life_put(life, "wait 2s\nsilence %s 2s", of->name);
    life->link = link;
    life_play(life, "an echo", "An echo on %s is no conversation", of->name);
}

/* ---- all ---- */

static void outputs(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    struct life life = {drill, job, yield, g_string_new(NULL), job->link, false};
    unsigned link = job->link;
    power_up(&life);
    resets(&life, link);
    halts(&life);
    for (unsigned i = 0; i < drill->lx->commands->len; i++)
        expiry(&life, link, drill->lx->commands->pdata[i]);
    for (unsigned i = 0; i < drill->lx->commands->len; i++)
        life_turning(&life, link, drill->lx->commands->pdata[i]);
    for (unsigned i = 0; i < drill->lx->outputs->len; i++) {
        const struct lex_output *out = drill->lx->outputs->pdata[i];
        life_output(&life, link, out);
        life_permits(&life, link, out);
        lost(&life, out);
    }
    for (unsigned i = 0; i < drill->lx->links->len; i++)
        if (life_is_spoken(drill, i)) echoes(&life, i);
    g_string_free(life.text, TRUE);
}

static void told(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    struct life life = {drill, job, yield, g_string_new(NULL), job->link, false};
    told_events(&life);
    told_inputs(&life);
    told_settings(&life);
    told_routines(&life);
    told_handsets(&life);
    g_string_free(life.text, TRUE);
}

static void spoken(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    struct life life = {drill, job, yield, g_string_new(NULL), job->link, false};
    spoken_batches(&life);
    spoken_yields(&life);
    spoken_tags(&life);
    spoken_attacks(&life);
    spoken_sessions(&life);
    spoken_messages(&life);
    for (unsigned i = 0; i < drill->lx->links->len; i++) {
        const struct lex_link *of = drill_link(drill, i);
        bool raw = envelope_wanted(of) && !drill_why_not(drill, i) && of->medium != LEX_SMS &&
                   !lex_is_keyed(of);
        for (unsigned k = 0; raw && k < 4; k++) spoken_envelopes(&life, i, k);
    }
    g_string_free(life.text, TRUE);
}

void life_jobs(struct drill *drill)
{
    int link = life_link(drill);
    if (link < 0) return;
    drill_job_add(drill, "life", (unsigned)link, 0, outputs, "outputs over time");
    drill_job_add(drill, "life", (unsigned)link, 0, told, "events, settings and routines");
    drill_job_add(drill, "life", (unsigned)link, 0, spoken, "how it is spoken to");
}
