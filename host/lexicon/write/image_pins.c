/* The image's outputs, inputs, and the events that they and the firmware send.
 * What stands behind an output's row is written by its kind.
 * No kind is named here. */
#include <string.h>

#include "lexicon/write/build.h"
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"
#include "rlx/error.h"

unsigned build_input(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; name && i < lx->inputs->len; i++)
        if (lx->inputs->pdata[i] == lexicon_input(lx, name)) return i;
    return RLX_EVT_NONE;
}

/* How the library moves it. */
static enum rlx_drive drive_of(const struct lex_output *out)
{
    static const enum rlx_drive drives[] = {
#define KIND(id, word, drive) [LEX_##id] = RLX_DRIVE_##drive,
        RLX_OUTPUT_KINDS(KIND)
#undef KIND
    };
    return drives[out->kind];
}

void build_put_outputs(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned rows = to->len;
    build_set16(to, RLX_IMG_OUTPUTS, to->len);
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        struct lex_output *out = b->lx->outputs->pdata[i];
        unsigned pin = out->kind == LEX_REVERSER ? out->open.pin : out->pin;
        bool eye = out->curve && !strcmp(out->curve, "eye");
        bool tone = out->kind == LEX_BUZZER && out->pwm;
        build_need(b, out->pwm ? RLX_BIT_LEVEL : RLX_BIT_SWITCH);
        if (eye) build_need(b, RLX_BIT_CURVE);
        build_row(b, "output %u: %s, %s %u%s, safe %u%%", i, out->name, out->pwm ? "pwm" : "pin",
                  pin, out->active_low ? " active low" : "", out->safe);
        build_put8(to, drive_of(out));
        build_put8(to, (out->active_low ? RLX_OUT_ACTIVE_LOW : 0u) | (out->pwm ? RLX_OUT_PWM : 0u) |
                           (eye ? RLX_OUT_EYE : 0u) | (tone ? RLX_OUT_TONE : 0u));
        build_put8(to, pin);
        build_put8(to, out->safe);
        build_put32(to, out->hz);
        build_put16(to, 0);
    }
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        const struct lex_output *out = b->lx->outputs->pdata[i];
        unsigned at = to->len;
        if (lex_kind_of(out)->put(b, out))
            build_set16(to, rows + i * RLX_OUT_ROW + RLX_OUT_MORE, at);
    }
}

void build_put_patterns(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(image_needs(b->image, RLX_BIT_PATTERNS))) return;
    build_set16(to, RLX_IMG_PATTERNS, to->len);
    build_row(b, "patterns");
    build_put8(to, b->lx->patterns->len);
    for (unsigned i = 0; i < b->lx->patterns->len; i++) {
        const struct lex_pattern *pattern = b->lx->patterns->pdata[i];
        build_row(b, "pattern %s", pattern->name);
        build_put8(to, pattern->times->len);
        for (unsigned k = 0; k < pattern->times->len; k++)
            build_put16(to, g_array_index(pattern->times, uint32_t, k));
        build_put_text(to, pattern->name);
    }
}

/* ---- inputs and events ---- */

/* The number of the word to send then; an event without words is sent when its input goes
 * on.
 */
static unsigned event_word(const struct lex_event *event, const char *word, const char *other)
{
    if (!event->what) return strcmp(other, "on") ? RLX_EVT_NONE : 0;
    for (unsigned i = 0; i < event->what->words->len; i++)
        if (!strcmp(event->what->words->pdata[i], word) ||
            !strcmp(event->what->words->pdata[i], other))
            return i;
    return RLX_EVT_NONE;
}

static void put_event(struct build *b, const struct lex_event *event, unsigned first)
{
    GByteArray *to = b->image->bytes;
    unsigned links = 0;
    for (unsigned i = 0; i < b->lx->links->len; i++)
        links |= (unsigned)image_tells(event, b->lx->links->pdata[i]) << i;
    if (event->confirmed || event->every || event->per_day) build_need(b, RLX_BIT_PACED);
    build_row(b, "event %s", event->name);
    build_put16(to, links);
    build_put8(to, event->what ? event->what->words->len : 0);
    build_put8(to, first);
    int output = event->input ? lexicon_output_index(b->lx, event->input) : -1;
    int routine = event->input ? lexicon_routine_index(b->lx, event->input) : -1;
    bool guessed = lex_tells_guesses(b->lx, event);
    if (event->kept) build_need(b, RLX_BIT_KEPT);
    build_put8(to, (event->confirmed ? RLX_EVT_IS_CONFIRMED : 0u) |
                       (event->kept ? RLX_EVT_IS_KEPT : 0u) |
                       (output >= 0    ? RLX_EVT_IS_OUTPUTS
                        : routine >= 0 ? RLX_EVT_IS_ROUTINES
                        : guessed      ? RLX_EVT_IS_CODES
                                       : 0u));
    build_put32(to, event->every);
    build_put16(to, event->per_day);
    build_put16(to, 0);
    static const char *const of_routine[] = {"done", "stopped", "failed"};
    bool switches = output >= 0 && lex_kind_of(b->lx->outputs->pdata[output])->switches;
    if (switches) build_need(b, RLX_BIT_OUTPUT_EVENTS);
    const char *const *word = switches       ? NULL
                              : output >= 0  ? lex_kind_of(b->lx->outputs->pdata[output])->words
                              : routine >= 0 ? of_routine
                                             : NULL;
    build_put8(to, output >= 0    ? (unsigned)output
                   : routine >= 0 ? (unsigned)routine
                   : guessed      ? build_setting(b, event->input)
                                  : build_input(b->lx, event->input));
    if (!word) { /* an input's, that of what is on or off, or nobody's but the firmware's */
        for (unsigned when = 0; when < 3; when++) {
            int own = event->input ? lex_input_word(event, when) : -1;
            build_put8(to, own >= 0 ? (unsigned)own : !event->what && when < 1 ? 0 : RLX_EVT_NONE);
        }
        return;
    }
    build_put8(to, *word ? event_word(event, word[0], "on") : RLX_EVT_NONE);
    build_put8(to, *word ? event_word(event, word[1], "off") : RLX_EVT_NONE);
    build_put8(to, *word ? event_word(event, word[2], "held") : 0);
}

/* The rows of what is read. */
void build_put_inputs(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned n = b->lx->inputs->len;
    if (!n) return;
    build_need(b, RLX_BIT_INPUTS);
    build_set16(to, RLX_IMG_INPUTS, to->len);
    build_put8(to, n);
    for (unsigned i = 0; i < n; i++) {
        const struct lex_input *in = b->lx->inputs->pdata[i];
        build_row(b, "input %u: %s, pin %u%s", i, in->name, in->pin,
                  in->active_low ? " active low" : "");
        build_put8(to,
                   (in->active_low ? RLX_INP_ACTIVE_LOW : 0u) | (unsigned)in->pull << RLX_INP_PULL);
        build_put8(to, in->pin);
        if (in->debounce_by) build_need(b, RLX_BIT_SET_DEBOUNCE);
        build_put16(to, in->debounce_by ? RLX_BY_SETTING | build_setting(b, in->debounce_by)
                                        : in->debounce);
        build_put16(to, in->held);
        build_put16(to, in->repeat);
    }
}

/* What inputs permit. */
void build_put_permits(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned list = 0;
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        const struct lex_output *out = b->lx->outputs->pdata[i];
        for (unsigned k = 0; k < out->permits->len; k++) {
            const struct lex_permit *permit = out->permits->pdata[k];
            if (!list) {
                build_need(b, RLX_BIT_PERMITS);
                build_row(b, "what inputs permit");
                build_set16(to, RLX_IMG_PERMITS, to->len);
                list = build_begin_list(to);
            }
            char *name = lex_spelt(b->lx, permit->name);
            build_put8(to, i);
            build_put8(to, permit->ways | (permit->on ? RLX_PER_IF_ON : 0u));
            build_put8(to, build_input(b->lx, permit->name));
            build_put_text(to, name);
            g_free(name);
        }
    }
    if (list) build_end_list(to, list);
}

/* The rows, then the texts. */
void build_put_events(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned first = 0, rows, n = b->lx->events->len;
    if (!n) return;
    build_need(b, RLX_BIT_EVENTS);
    build_set16(to, RLX_IMG_EVENTS, to->len);
    build_put8(to, n);
    rows = to->len;
    for (unsigned i = 0; i < n; i++) {
        const struct lex_event *event = b->lx->events->pdata[i];
        put_event(b, event, first);
        first += event->what ? event->what->words->len : 1;
    }
    for (unsigned i = 0; i < n; i++) {
        const struct lex_event *event = b->lx->events->pdata[i];
        build_set16(to, rows + i * RLX_EVT_ROW + RLX_EVT_TEXT, to->len);
        build_row(b, "the event of %s", event->name);
        build_put_text(to, event->name);
        for (unsigned k = 0; event->what && k < event->what->words->len; k++)
            build_put_text(to, event->what->words->pdata[k]);
    }
}
