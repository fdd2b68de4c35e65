/* What the suite "life" test cases of one kind of output: minimum times, ends, homes, directions.
 * Each case is a short scene, written from the lexicon.
 * What all kinds have in common is in life.c. */
#include "drill/suites/life.h"

#include <string.h>

#include "rlx/drive.h"
#include "rlx/image.h"

static const char *text_ending(const struct life *life, unsigned link, const struct lex_output *out,
                               const char *word)
{
    for (unsigned i = 0; i < life->drill->cases->len; i++) {
        const struct drill_case *test = life->drill->cases->pdata[i];
        bool plain = test->why == CASE_PLAIN || test->why == CASE_CHOICE;
        if (test->of && plain && test->valid && !test->of->effect.which && !test->of->query &&
            (test->of->effect.kind == LEX_SWITCH || test->of->effect.kind == LEX_VERB) &&
            lex_effect_output(life->drill->lx, &test->of->effect) == out &&
            g_str_has_suffix(test->text, word) && test->of->effect.fixed < 0 &&
            drill_may_say(drill_link(life->drill, link), test))
            return test->text;
    }
    return NULL;
}

static void min_times(struct life *life, unsigned link, const struct lex_output *out)
{
    const char *on = text_ending(life, link, out, " on"),
               *off = text_ending(life, link, out, " off");
    if (drill_by(life->drill, out)) return;
    if (!on || !off || out->interlock || out->expires || (!out->min_on && !out->min_off)) return;
    if (!life_permit(life, out)) return;
    life_put(life, "wait %ums", out->min_off + out->min_on + 100);
    life_obeyed(life, link, on);
    life_put(life, "see %s on", out->name);
    life_put(life, "wait %ums", out->min_on + 100);
    life_obeyed(life, link, off);
    life_put(life, "see %s off within 50ms", out->name);
    life_obeyed(life, link, on);
    if (out->min_off > 300) {
        unsigned rest = life_before(life, out->min_off, 250);
        life_put(life, "wait %ums", rest);
        life_put(life, "see %s off within 1ms", out->name);
        life_put(life, "see %s on within %ums", out->name, out->min_off - rest + 50);
    } else {
        life_put(life, "see %s on within 300ms", out->name);
    }
    life_obeyed(life, link, off);
    if (out->min_on > 300) {
        unsigned rest = life_before(life, out->min_on, 250);
        life_put(life, "wait %ums", rest);
        life_put(life, "see %s on within 1ms", out->name);
        life_put(life, "see %s off within %ums", out->name, out->min_on - rest + 50);
    } else {
        life_put(life, "see %s off within 300ms", out->name);
    }
    life_play(life, "minimum times", "%s stays as it is for its minimum times", out->name);
}

static void reverser(struct life *life, unsigned link, const struct lex_output *out)
{
    const char *open = text_ending(life, link, out, " open"),
               *close = text_ending(life, link, out, " close"),
               *stop = text_ending(life, link, out, " stop");
    if (drill_by(life->drill, out)) return;
    if (!open || !close || !stop || !out->open.until || !out->close.until || out->expires) return;
    if (!life_permit(life, out)) return;
    life_put(life, "push %s off\npush %s on\nwait 200ms", out->open.until, out->close.until);
    life_obeyed(life, link, open);
    life_put(life, "see %s opening within %ums", out->name, out->dead + 50);
    life_put(life, "push %s off\nwait 100ms\nsee %s opening within 1ms", out->close.until,
             out->name);
    life_obeyed(life, link, close);
    if (out->dead > 100) life_put(life, "see %s stopped within 1ms", out->name);
    life_put(life, "see %s closing within %ums", out->name, out->dead + 50);
    life_obeyed(life, link, stop);
    life_put(life, "see %s stopped within 20ms", out->name);
    life_put(life, "wait %ums", out->dead + 50);
    life_obeyed(life, link, open);
    life_put(life, "see %s opening within 50ms", out->name);
    life_put(life, "push %s on\nsee %s stopped within 20ms", out->open.until, out->name);
    life_put(life, "wait %ums", out->dead + 50);
    life_obeyed(life, link, open);
    life_put(life, "wait 300ms\nsee %s stopped within 1ms", out->name);
    if (out->travel) {
        life_put(life, "push %s off", out->open.until);
        life_obeyed(life, link, close);
        life_put(life, "see %s closing within %ums", out->name, out->dead + 50);
        life_put(life, "see %s stopped within %ums", out->name, out->travel + 100);
    }
    life_play(life, "dead times and ends", "%s: its dead time, its ends", out->name);
}

/* ---- steppers ---- */

/* How long it looks for a home switch that does not come: a quarter of its speed. */
static unsigned seek_ms(const struct lex_output *out)
{
    const struct lex_element *range = out->range;
    unsigned far = (unsigned)MAX(ABS(range->to_low), ABS(range->to_high));
    return (far + far / 16 + 16) * 4000 / out->speed + out->ramp + 1000;
}

/* From home to the nearest place of its range. */
static unsigned way_ms(const struct lex_output *out)
{
    const struct lex_element *range = out->range;
    unsigned near = (unsigned)MIN(ABS(range->to_low), ABS(range->to_high));
    return near * 1000 / out->speed + 2 * out->ramp + 100;
}

static void stepper(struct life *life, unsigned link, const struct lex_output *out)
{
    const char *home = text_ending(life, link, out, " home"), *input = out->home.until;
    if (!home || !input || drill_by(life->drill, out)) return;
    const char *safe = out->safe ? "holding" : "released";
    unsigned settles = lexicon_input(life->drill->lx, input)->debounce + 50;
    bool quiet = out->expires && out->expires < seek_ms(out);
    for (unsigned found = 0; found < 2 && life_permit(life, out); found++) {
        life_put(life, "push %s off\nwait 200ms", input);
        life_obeyed(life, link, home);
        life_put(life, "see %s moving within 100ms", out->name);
        if (found && !quiet) {
            life_put(life, "push %s on\nwait %ums\nsee %s moving within 1ms", input, settles,
                     out->name);
            life_put(life, "push %s off\nwait %ums\nsee %s holding within %ums", input, settles,
                     out->name, way_ms(out));
        } else {
            unsigned ms = quiet ? out->expires : seek_ms(out);
            life_put(life, "see %s %s within %ums", out->name, quiet ? safe : "holding", ms + 150);
        }
        life_play(life, "homing", "%s %s", out->name,
                  quiet   ? "stops on its way home when nobody renews it"
                  : found ? "finds its home, and leaves the switch"
                          : "stops where it does not find its home");
        if (quiet) return;
    }
}

/* ---- what each kind does ---- */

void life_output(struct life *life, unsigned link, const struct lex_output *out)
{
    static void (*const does[])(struct life *, unsigned, const struct lex_output *) = {
        [LEX_RELAY] = min_times,
        [LEX_REVERSER] = reverser,
        [LEX_STEPPER] = stepper,
        [LEX_OUTPUT_KINDS] = NULL,
    };
    if (does[out->kind]) does[out->kind](life, link, out);
}

/* ---- what inputs permit ---- */

static void put_permits(struct life *life, const struct lex_output *out,
                        const struct lex_permit *taken)
{
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *permit = out->permits->pdata[i];
        if (permit != taken) life_put(life, "push %s %s", permit->name, permit->on ? "on" : "off");
    }
}

/* Refused without it, obeyed with it, safe at once when it ends, and not back by itself. */
static void permit(struct life *life, unsigned link, const struct lex_output *out,
                   const struct lex_permit *one, const char *text, const char *state)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const char *given = one->on ? "on" : "off", *taken = one->on ? "off" : "on";
    char *safe = lex_kind_of(out)->state_at(out, out->safe),
         *refused = g_strdup_printf("*blocked %s*", one->name);
    unsigned settles = one->of->debounce + 50, rests = out->min_on + out->min_off + out->dead;
    const struct lex_kind *kind = lex_kind_of(out);
    for (unsigned i = 0; kind->ends && i < LEX_ENDS_MOST; i++) /* it is between its ends */
        if (kind->ends(out, i)->until) life_put(life, "push %s off", kind->ends(out, i)->until);
    put_permits(life, out, one);
    life_put(life, "push %s %s\nwait %ums", one->name, taken, settles + rests);
    life_say(life, link, text);
    life_hear(life, link, of->texts->len ? "*" : refused);
    if (safe) life_put(life, "see %s %s within 1ms", out->name, safe);
    life_put(life, "push %s %s\nwait %ums", one->name, given, settles);
    life_obeyed(life, link, text);
    if (!lex_kind_of(out)->direct)
        life_put(life, "see %s %s within %ums", out->name, state,
                 out->ramp + out->fade + out->slew + rests + 50);
    life_put(life, "push %s %s", one->name, taken);
    if (safe) life_put(life, "see %s %s within %ums", out->name, safe, settles);
    life_put(life, "push %s %s\nwait %ums", one->name, given, settles + rests);
    if (safe) life_put(life, "see %s %s within 1ms", out->name, safe);
    life_play(life, "permits", "%s moves only while %s is %s", out->name, one->name, one->word);
    g_free(refused);
    g_free(safe);
}

static bool is_quiet(const struct lex_input *in, const struct lex_output *out)
{
    for (unsigned i = 0; i < LEX_WHENS; i++)
        if (in->acts[i]) return false;
    return !lex_ends_at(out, in->name);
}

void life_permits(struct life *life, unsigned link, const struct lex_output *out)
{
    const struct lexicon *lx = life->drill->lx;
    if (drill_by(life->drill, out)) return;
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *one = out->permits->pdata[i];
        const char *text = NULL;
        char *state = NULL;
        if (out->kind == LEX_REVERSER) {
            bool opens = one->ways & RLX_GOES_FORWARD;
            text = text_ending(life, link, out, opens ? " open" : " close");
            state = g_strdup(opens ? "opening" : "closing");
        }
        for (unsigned k = 0; !text && one->ways & RLX_GOES_FORWARD && k < lx->commands->len; k++) {
            const struct lex_command *command = lx->commands->pdata[k];
            if (lex_effect_output(lx, &command->effect) == out)
                text = life_full_text(life, link, command, &state);
        }
        if (text && is_quiet(one->of, out)) permit(life, link, out, one, text, state);
        g_free(state);
    }
}

/* ---- motors ---- */

/* The commanded level of its left side. */
static void put_percent(struct life *life, const struct lex_command *command,
                        const struct lex_output *out, const char *text)
{
    int32_t values[15];
    unsigned given;
    if (!lex_command_taking(life->drill->lx, text, values, &given) || !given) return;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        if (e->kind == LEX_NUMBER)
            life_put(life, "see %s %d%% within 1ms", out->name, lex_value_scaled(e, values[0]));
        return;
    }
}

/* Full one way, full the other way through its rest, to the middle, stopped. */
void life_turning(struct life *life, unsigned link, const struct lex_command *command)
{
    const struct lex_output *out = lex_effect_output(life->drill->lx, &command->effect);
    bool drives = out && lex_kind_of(out)->levels == LEX_LEVELS_SIGNED &&
                  command->effect.kind == LEX_LEVEL && !command->effect.which;
    uint32_t ms = drives ? 2 * out->ramp + out->dead + 100 : 0, expires = !drives ? 0
                                                                          : command->expires
                                                                              ? command->expires
                                                                              : out->expires;
    const char *high = life_text(life->drill, link, command, CASE_HIGHEST),
               *low = life_text(life->drill, link, command, CASE_PLAIN),
               *middle = life_text(life->drill, link, command, CASE_MIDDLE);
    if (!drives || !high || !low || !middle || (expires && expires < 2 * ms)) return;
    if (drill_by(life->drill, out) || !life_permit(life, out)) return;
    const char *const texts[] = {high, low, middle, high, middle, low, high};
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) {
        life_obeyed(life, link, texts[i]);
        if (i % 2 == 0) life_put(life, "wait %ums", out->ramp / 3 + 7);
        if (i % 3 != 2) continue;
        life_put(life, "wait %ums", ms);
        put_percent(life, command, out, texts[i]);
    }
    life_put(life, "wait %ums", expires ? expires + ms : ms);
    if (expires) life_put(life, "see %s 0%% within 1ms", out->name);
    life_play(life, "direction changes", "%s changes direction: %s", out->name, high);
}
