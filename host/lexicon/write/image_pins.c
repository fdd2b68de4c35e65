/* The image: outputs, inputs, and the events that they and the firmware tell. */
#include <string.h>

#include "build.h"
#include "reader.h"
#include "rlx/error.h"

/* The number of an interlock: the place of its first relay, from 1. */
static unsigned interlock_number(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; name && i < lx->outputs->len; i++)
        if (!g_strcmp0(((struct lex_output *)lx->outputs->pdata[i])->interlock, name)) return i + 1;
    return 0;
}

/* A curve that a setting says. */
static bool is_set_curve(const struct lex_output *out)
{
    return out->curve && strcmp(out->curve, "linear") && strcmp(out->curve, "eye");
}

static unsigned setting_number(const struct lexicon *lx, const struct lex_setting *setting)
{
    guint index = 0;
    g_ptr_array_find(lx->settings, setting, &index);
    return index;
}

static void put_more_of_output(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    uint32_t share = out->fade > 1 ? (uint32_t)((UINT64_C(1) << 32) / out->fade) : UINT32_MAX;
    if (out->fade) build_need(b, RLX_BIT_ACTS);
    if (out->counted) {
        build_need(b, RLX_BIT_COUNTED);
        build_need(b, RLX_BIT_NUMBER);
        build_need(b, RLX_BIT_WIDE);
    }
    if (out->least_on || out->least_off || out->interlock) {
        build_need(b, RLX_BIT_RESTS);
        build_need(b, RLX_BIT_NUMBER);
        build_need(b, RLX_BIT_WIDE); /* which tells how long it waits */
    }
    build_row(b, "times of %s", out->name);
    build_put32(to, out->least_on);
    build_put32(to, out->least_off);
    build_put32(to, out->dead);
    build_put32(to, MAX(MAX(out->least_on, out->least_off), out->dead));
    build_put32(to, out->fade);
    build_put32(to, out->fade ? share : 0);
    build_put8(to, interlock_number(b->lx, out->interlock));
    build_put8(to, out->counted);
    struct lex_setting *curve = is_set_curve(out) ? lexicon_setting(b->lx, out->curve) : NULL;
    int32_t eye = 0;
    if (curve) lex_element_says(b->lx, curve->slot, "eye", &eye);
    build_put8(to, curve ? setting_number(b->lx, curve) + 1 : 0);
    build_put8(to, curve ? image_choice_value(curve->slot, (unsigned)eye) : 0);
}

static unsigned input_number(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; name && i < lx->inputs->len; i++)
        if (lx->inputs->pdata[i] == lexicon_input(lx, name)) return i;
    return RLX_EVT_NONE;
}

/* The outputs of a group. */
static void put_members(struct build *b, const struct lex_output *out)
{
    build_need(b, RLX_BIT_GROUPS);
    build_row(b, "the outputs of %s", out->name);
    build_put8(b->image->bytes, out->members->len);
    for (unsigned i = 0; i < out->members->len; i++)
        build_put8(b->image->bytes, (unsigned)lexicon_output_index(b->lx, out->members->pdata[i]));
}

/* The two relays of a reverser. */
static void put_ways(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    build_need(b, RLX_BIT_REVERSERS);
    build_need(b, RLX_BIT_NUMBER);
    build_need(b, RLX_BIT_WIDE); /* which tells how long it waits */
    build_row(b, "the ways of %s", out->name);
    build_put8(to, out->close.pin);
    build_put8(to, input_number(b->lx, out->open.until));
    build_put8(to, input_number(b->lx, out->close.until));
    build_put8(to, out->open.until || out->close.until);
    if (!out->open.until && !out->close.until && out->travel) build_need(b, RLX_BIT_PLACES);
    build_put32(to, out->dead);
    build_put32(to, out->travel);
}

static void put_side(struct build *b, const struct lex_drive *side)
{
    GByteArray *to = b->image->bytes;
    bool direction = side->direction != LEX_NO_PIN, brake = side->brake != LEX_NO_PIN;
    bool other = side->other != LEX_NO_PIN;
    build_put8(to, side->channel);
    build_put8(to, direction ? side->direction : 0);
    build_put8(to, brake ? side->brake : 0);
    build_put8(to, other ? side->other : 0);
    build_put8(to, (direction ? RLX_SIDE_HAS_DIRECTION : 0u) | (brake ? RLX_SIDE_HAS_BRAKE : 0u) |
                       (other ? RLX_SIDE_HAS_OTHER : 0u) |
                       (side->reversed ? RLX_SIDE_REVERSED : 0u));
    build_put32(to, side->hz);
}

/* A ramp is so much of a level in 10 ms, rounded up: it is never slower than it was told. */
static void put_motor(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    bool pair = out->kind == LEX_PAIR;
    unsigned turns = !g_strcmp0(out->style, "coast")    ? RLX_TURNS_COAST
                     : !g_strcmp0(out->style, "oppose") ? RLX_TURNS_OPPOSE
                                                        : RLX_TURNS_BRAKE;
    build_need(b, RLX_BIT_MOTORS);
    build_need(b, RLX_BIT_SWITCH);
    build_need(b, RLX_BIT_LEVEL);
    build_need(b, RLX_BIT_NUMBER);
    build_need(b, RLX_BIT_WIDE); /* which tells how long it waits */
    build_row(b, "the wires of %s", out->name);
    build_put8(to, pair ? 2 : 1);
    build_put8(to, turns);
    build_put16(to, out->ramp > 10 ? (327670 + out->ramp - 1) / out->ramp : 0);
    build_put32(to, out->dead);
    build_put32(to, out->travel);
    put_side(b, &out->left);
    if (pair) put_side(b, &out->right);
}

static void put_servo(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    const struct lex_element *range = out->range;
    int32_t low = MIN(range->to_low, range->to_high), high = MAX(range->to_low, range->to_high);
    unsigned way = (unsigned)(high - low) * 20;
    build_need(b, RLX_BIT_SERVOS);
    build_need(b, RLX_BIT_SWITCH);
    build_need(b, RLX_BIT_LEVEL);
    build_row(b, "the pulse of %s", out->name);
    build_put16(to, (unsigned)low);
    build_put16(to, (unsigned)high);
    build_put16(to,
                (unsigned)lex_value_scaled(range, out->safe_told ? out->safe_value : range->low));
    build_put16(to, out->slew ? MAX((way + out->slew - 1) / out->slew, 1) : 0);
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

/* What stands behind the rows for it. */
static void put_more(struct build *b, const struct lex_output *out)
{
    switch (drive_of(out)) {
    case RLX_DRIVE_STEADY: put_more_of_output(b, out); break;
    case RLX_DRIVE_REVERSER: put_ways(b, out); break;
    case RLX_DRIVE_MOTOR: put_motor(b, out); break;
    case RLX_DRIVE_SERVO: put_servo(b, out); break;
    case RLX_DRIVE_GROUP: put_members(b, out); break;
    }
}

static bool has_more(const struct lex_output *out)
{
    return drive_of(out) != RLX_DRIVE_STEADY || out->least_on || out->least_off || out->interlock ||
           out->fade || out->counted || is_set_curve(out);
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
        if (eye || is_set_curve(out)) build_need(b, RLX_BIT_CURVE);
        if (tone) build_need(b, RLX_BIT_TONE);
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
        if (!has_more(out)) continue;
        build_set16(to, rows + i * RLX_OUT_ROW + RLX_OUT_MORE, to->len);
        put_more(b, out);
    }
}

void build_put_patterns(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->image->needs >> RLX_BIT_PATTERNS & 1)) return;
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

/* The number of the word that an event tells then; one without words is told when its input goes
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
    build_put8(to, (event->confirmed ? RLX_EVT_IS_CONFIRMED : 0u) |
                       (output >= 0    ? RLX_EVT_IS_OUTPUTS
                        : routine >= 0 ? RLX_EVT_IS_ROUTINES
                                       : 0u));
    build_put32(to, event->every);
    build_put16(to, event->per_day);
    build_put16(to, 0);
    static const char *const words[3][3] = {
        {"pressed", "released", "held"}, {"open", "closed", "late"}, {"done", "stopped", "failed"}};
    const char *const *word = words[output >= 0 ? 1 : routine >= 0 ? 2 : 0];
    build_put8(to, output >= 0    ? (unsigned)output
                   : routine >= 0 ? (unsigned)routine
                                  : input_number(b->lx, event->input));
    bool motor =
        output >= 0 && ((struct lex_output *)b->lx->outputs->pdata[output])->kind == LEX_MOTOR;
    build_put8(to, motor ? RLX_EVT_NONE : event_word(event, word[0], "on"));
    build_put8(to, motor ? RLX_EVT_NONE : event_word(event, word[1], "off"));
    build_put8(to, motor ? 0 : event_word(event, word[2], "held"));
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
        build_put16(to, in->settle);
        build_put16(to, in->held);
        build_put16(to, in->repeat);
    }
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
        build_row(b, "what %s tells", event->name);
        build_put_text(to, event->name);
        for (unsigned k = 0; event->what && k < event->what->words->len; k++)
            build_put_text(to, event->what->words->pdata[k]);
    }
}
