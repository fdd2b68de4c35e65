/* The one place that dispatches to the kind of an output; safe states, and expiry.
 * Made from the list of drives in rlx/def/outputs.h.
 * How a kind moves is in its own file. */
#include "kinds.h"

/* 655.35 * percent as 671078 / 1024, which rounds right at each of 0..100. */
uint16_t rlx_duty_of_percent(uint8_t percent)
{
    return (uint16_t)((percent * UINT32_C(671078) + 512) >> 10);
}

#if RLX_HAS_EVENT_SOURCES
__attribute__((__unused__)) /* a servo has no events */
RLX_INTERNAL bool
rlx_source_event(struct rlx_device *d, uint8_t source, uint8_t kind, uint8_t field)
{
#if RLX_HAS_EVENTS
    rlx_rom row = rlx_part(d, RLX_IMG_EVENTS) + 1;
    uint8_t n = rlx_rows_of(d, RLX_IMG_EVENTS);
    bool told = false;
    for (uint8_t e = 0; e < n; e++, row += RLX_EVT_ROW)
        if (RLX_ROM8(row + RLX_EVT_SOURCE) == source && RLX_ROM8(row + field) != RLX_EVT_NONE &&
            (RLX_ROM8(row + RLX_EVT_FLAGS) & (RLX_EVT_IS_OUTPUTS | RLX_EVT_IS_ROUTINES)) == kind)
            told |= !rlx_event(d, e, RLX_ROM8(row + field));
    return told;
#else
    (void)d, (void)source, (void)kind, (void)field;
    return false;
#endif
}
#endif

static uint16_t safe_level(const struct rlx_device *d, uint8_t output)
{
    return rlx_duty_of_percent(RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_SAFE));
}

/* ---- to the output's kind ---- */

/* A row of the list, in a function that has read its output's drive: the call of that kind. */
#define TO(id, has, name, call, ...) \
    RLX_WHEN(has, if (drive == RLX_DRIVE_##id) return rlx_##name##_##call(__VA_ARGS__);)
/* The same where nothing comes back. */
#define DO(id, has, name, call, ...)          \
    RLX_WHEN(                                 \
        has, if (drive == RLX_DRIVE_##id) {   \
            rlx_##name##_##call(__VA_ARGS__); \
            return;                           \
        })
/* Read once; a build without kinds has nothing to read. */
#define DRIVE_OF(d, output)                         \
    const uint8_t drive = rlx_out_drive(d, output); \
    (void)drive

static void force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) DO(id, has, name, force, d, output, level)
    RLX_DRIVES(ROW)
#undef ROW
    rlx_steady_force(d, output, level);
}

#if RLX_MAKES_SAFE
static void make_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) DO(id, has, name, safe, d, output, level)
    RLX_DRIVES(ROW)
#undef ROW
    rlx_steady_safe(d, output, level);
}
#endif

#if RLX_HAS_RUNS
static uint32_t run(struct rlx_device *d, uint8_t output)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, run, d, output)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_run(d, output);
}
#endif

#if RLX_HAS_WAITS
RLX_INTERNAL uint32_t rlx_out_waits(const struct rlx_device *d, uint8_t output)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, waits, d, output)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_waits(d, output);
}
#endif

RLX_INTERNAL bool rlx_out_is_on(const struct rlx_device *d, uint8_t output)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, is_on, d, output)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_is_on(d, output);
}

/* ---- what inputs permit ---- */

#if RLX_HAS_PERMITTED
static uint8_t goes(const struct rlx_device *d, uint8_t output, uint8_t verb,
                    const rlx_value *values)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, goes, d, output, verb, values)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_goes(d, output, verb, values);
}

static uint8_t going(const struct rlx_device *d, uint8_t output)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, going, d, output)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_going(d, output);
}

/* The first of them, and where they end; both NULL: there are none. */
static rlx_rom permits(const struct rlx_device *d, rlx_rom *end)
{
    rlx_rom at = rlx_part(d, RLX_IMG_PERMITS);
    if (at == rlx_image(d)) return *end = 0;
    *end = at + 2 + RLX_ROM16(at);
    return at + 2;
}

/* Whether its input is as this one wants it. */
static bool is_given(const struct rlx_device *d, rlx_rom permit)
{
    bool on = (RLX_ROM8(permit + RLX_PER_WHAT) & RLX_PER_IF_ON) != 0;
    return rlx_in_is_on(d, RLX_ROM8(permit + RLX_PER_INPUT)) == on;
}

/* Whether it may go these ways; if not, d->blocked is the name of the input. */
static bool may_go(struct rlx_device *d, uint8_t output, uint8_t ways)
{
    rlx_rom end, at = permits(d, &end);
    for (; at != end; at = rlx_behind(at + RLX_PER_NAME)) {
        if (RLX_ROM8(at + RLX_PER_OUTPUT) != output || !(RLX_ROM8(at + RLX_PER_WHAT) & ways) ||
            is_given(d, at))
            continue;
        d->blocked = at + RLX_PER_NAME;
        return false;
    }
    return true;
}

/* Whether it may do this; of a group `mask` are those that go on. */
static bool is_permitted(struct rlx_device *d, uint8_t output, uint8_t verb, uint32_t mask,
                         const rlx_value *values)
{
#if RLX_HAS_GROUPS
    if (verb != RLX_MASK) mask = verb == RLX_ON ? UINT32_MAX : 0;
    for (uint8_t i = 0; rlx_out_group(d, output) && i < rlx_members(d, output); i++) {
        uint8_t member = rlx_member(d, output, i);
        if (!may_go(d, member, goes(d, member, mask >> i & 1 ? RLX_ON : RLX_OFF, values)))
            return false;
    }
#endif
    (void)mask;
    return may_go(d, output, goes(d, output, verb, values));
}

/* Goes on with what an output is told, unless an input does not permit it, or it is asked only. */
#define IF_PERMITTED(d, output, verb, mask, values)                                       \
    if (!is_permitted(d, output, (uint8_t)(verb), mask, values)) return -RLX_ERR_BLOCKED; \
    if ((d)->asks) return 0
#else
#define IF_PERMITTED(d, output, verb, mask, values) (void)0
#endif

/* ---- what it is told ---- */

RLX_INTERNAL int rlx_out_level(struct rlx_device *d, uint8_t output, uint8_t percent)
{
    const rlx_value value = (rlx_value)percent;
    (void)value;
#if RLX_HAS_PERMITTED
    if (rlx_out_drive(d, output) != RLX_DRIVE_STEADY) return -RLX_ERR_FAILED; /* it wants others */
#endif
    IF_PERMITTED(d, output, RLX_VALUES, 0, &value);
    return rlx_steady_set(d, output, rlx_duty_of_percent(percent));
}

RLX_INTERNAL int rlx_out_values(struct rlx_device *d, uint8_t output, const rlx_value *values)
{
    IF_PERMITTED(d, output, RLX_VALUES, 0, values);
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, values, d, output, values)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_values(d, output, values);
}

RLX_INTERNAL int rlx_out_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb)
{
    bool on = verb == RLX_TOGGLE ? !rlx_out_is_on(d, output) : verb == RLX_ON;
    IF_PERMITTED(d, output, on ? RLX_ON : RLX_OFF, 0, 0);
#if RLX_HAS_DRIVES
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) \
    RLX_WHEN(switched, TO(id, has, name, act, d, output, on ? RLX_ON : RLX_OFF, 0))
    RLX_DRIVES(ROW)
#undef ROW
#endif
    return rlx_steady_set(d, output, on ? UINT16_MAX : 0);
}

#if RLX_HAS_VERBS
RLX_INTERNAL int rlx_out_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                             uint32_t argument)
{
    if (verb <= RLX_TOGGLE) return rlx_out_switch(d, output, verb);
    const rlx_value value = (rlx_value)argument;
    (void)value;
    IF_PERMITTED(d, output, verb, argument, &value);
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, act, d, output, verb, argument)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_act(d, output, verb, argument);
}

RLX_INTERNAL uint32_t rlx_out_verbs(const struct rlx_device *d, uint8_t output)
{
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) TO(id, has, name, verbs, d, output)
    RLX_DRIVES(ROW)
#undef ROW
    return rlx_steady_verbs(d, output);
}
#endif

#if RLX_HAS_STATE
RLX_INTERNAL void rlx_out_state(const struct rlx_device *d, uint8_t output, struct rlx_state *state)
{
    state->word = state->unit = 0; /* one by one: a chip may have no memset() */
    state->text = 0;
    state->numbers = state->decimals = 0;
    state->members = false;
    DRIVE_OF(d, output);
#define ROW(id, has, name, moves, switched) DO(id, has, name, describe, d, output, state)
    RLX_DRIVES(ROW)
#undef ROW
    rlx_steady_describe(d, output, state);
}
#endif

/* ---- safe states, and what expires ---- */

#if RLX_HAS_SAFE_CALL
RLX_INTERNAL void rlx_out_safe(struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_EXPIRY
    rlx_output_at(d, output)->armed = false;
#endif
    make_safe(d, output, safe_level(d, output));
}
#endif

static void force_safe(struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_EXPIRY
    rlx_output_at(d, output)->armed = false;
#endif
    force(d, output, safe_level(d, output));
}

void rlx_drive_init(struct rlx_device *d)
{
    uint8_t count = rlx_n_outputs(d);
    for (uint8_t i = 0; i < count; i++) {
        force_safe(d, i);
#if RLX_HAS_TOLD
        rlx_output_at(d, i)->told_on = safe_level(d, i) != 0;
#endif
    }
}

#if RLX_HAS_HALT
void rlx_drive_halt(struct rlx_device *d)
{
    for (uint8_t i = rlx_n_outputs(d); i--;) force_safe(d, i);
}
#endif

#if RLX_HAS_PERMITTED
RLX_INTERNAL void rlx_drive_permits(struct rlx_device *d, uint8_t input)
{
    rlx_rom end, at = permits(d, &end);
    for (; at != end; at = rlx_behind(at + RLX_PER_NAME)) {
        uint8_t output = RLX_ROM8(at + RLX_PER_OUTPUT);
        if (RLX_ROM8(at + RLX_PER_INPUT) == input && !is_given(d, at) &&
            RLX_ROM8(at + RLX_PER_WHAT) & going(d, output))
            force_safe(d, output);
    }
}
#endif

#if RLX_HAS_EXPIRY
static void arm_expiry(struct rlx_device *d, uint8_t output, uint32_t lasts)
{
    struct rlx_output *out = rlx_output_at(d, output);
    if (!lasts && !out->to_off) return; /* an expiry that runs is never dropped */
    out->armed = lasts != 0;
    out->to_off = (lasts & RLX_LASTS_OFF) != 0;
    out->due = d->now + (lasts & ~RLX_LASTS_OFF);
}

RLX_INTERNAL void rlx_out_lasts(struct rlx_device *d, uint8_t output, uint32_t lasts)
{
#if RLX_HAS_GROUPS
    for (uint8_t i = 0; rlx_out_group(d, output) && i < rlx_members(d, output); i++)
        arm_expiry(d, rlx_member(d, output, i), lasts);
#endif
    if (!rlx_out_group(d, output)) arm_expiry(d, output, lasts);
}

/* A timer is cleared when it is due, so that the clock may wrap. */
static uint32_t run_expiry(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    if (!out->armed) return RLX_FOREVER;
    uint32_t left = out->due - d->now;
    if ((int32_t)left > 0) return left;
    uint16_t level = (uint16_t)(out->to_off ? 0 : safe_level(d, output));
    out->armed = false;
    make_safe(d, output, level);
    return RLX_FOREVER;
}
#endif

#if RLX_HAS_TOLD
/* Tells that it went on or off, whoever did that. */
static bool tell_change(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    if (rlx_out_drive(d, output) != RLX_DRIVE_STEADY || rlx_steady_tells(d, output) == out->told_on)
        return false;
    out->told_on = !out->told_on;
    return rlx_source_event(d, output, RLX_EVT_IS_OUTPUTS, out->told_on ? RLX_EVT_ON : RLX_EVT_OFF);
}
#endif

uint32_t rlx_drive_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
#if RLX_HAS_RUNS
    uint8_t count = rlx_n_outputs(d);
#if RLX_HAS_RESTS
    for (uint8_t i = 0; !d->runs && i < count; i++) rlx_output_at(d, i)->changed = d->now;
    d->runs = true; /* until now nobody knew the time */
#endif
    for (uint8_t i = 0; i < count; i++) {
        uint32_t due;
#if RLX_HAS_EXPIRY
        if ((due = run_expiry(d, i)) < wait) wait = due;
#endif
        if ((due = run(d, i)) < wait) wait = due;
#if RLX_HAS_TOLD
        if (tell_change(d, i)) wait = 0; /* the next poll sends it */
#endif
    }
#else
    (void)d;
#endif
    return wait;
}

#if RLX_HAS_COUNTED
RLX_INTERNAL uint32_t rlx_out_switched(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_at(d, output)->switched;
}

RLX_INTERNAL bool rlx_out_counted(const struct rlx_device *d, uint8_t output)
{
    rlx_rom more = rlx_out_more(d, output);
    return more && RLX_ROM8(more + RLX_OUT_COUNTED);
}
#endif

RLX_INTERNAL bool rlx_out_pwm(const struct rlx_device *d, uint8_t output)
{
    uint8_t flags = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS);
    return flags & RLX_OUT_PWM && !(flags & RLX_OUT_TONE);
}

RLX_INTERNAL uint8_t rlx_out_percent(const struct rlx_device *d, uint8_t output)
{
    return (uint8_t)((rlx_output_at(d, output)->level * UINT32_C(100) + 32768) >> 16);
}
