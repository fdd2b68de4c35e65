/* What an output is told, by its kind; safe states, and what expires. */
#include "outputs.h"

/* 655.35 * percent as 671078 / 1024, which rounds right at each of 0..100. */
uint16_t rlx_duty_of_percent(uint8_t percent)
{
    return (uint16_t)((percent * UINT32_C(671078) + 512) >> 10);
}

#if RLX_HAS_INPUTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_ROUTINES
RLX_INTERNAL void rlx_source_tell(struct rlx_device *d, uint8_t source, uint8_t kind, uint8_t field)
{
#if RLX_HAS_EVENTS
    uint16_t at = RLX_ROM16_EVEN(d->image + RLX_IMG_EVENTS);
    if (!at) return;
    rlx_rom row = d->image + at + 1;
    uint8_t n = RLX_ROM8(d->image + at);
    for (uint8_t e = 0; e < n; e++, row += RLX_EVT_ROW)
        if (RLX_ROM8(row + RLX_EVT_SOURCE) == source && RLX_ROM8(row + field) != RLX_EVT_NONE &&
            (RLX_ROM8(row + RLX_EVT_FLAGS) & (RLX_EVT_IS_OUTPUTS | RLX_EVT_IS_ROUTINES)) == kind)
            rlx_event(d, e, RLX_ROM8(row + field));
#else
    (void)d, (void)source, (void)kind, (void)field;
#endif
}
#endif

static uint16_t safe_level(const struct rlx_device *d, uint8_t output)
{
    return rlx_duty_of_percent(RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_SAFE));
}

/* At once, whatever it was doing. */
static void force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    if (rlx_out_group(d, output)) return; /* its outputs are told, each */
#if RLX_HAS_MOVES
    if (rlx_out_moves(d, output)) {
        rlx_mover_stop(d, output);
        return;
    }
#endif
#if RLX_HAS_MOTORS
    if (rlx_out_motor(d, output)) {
        rlx_motor_stop(d, output, true);
        return;
    }
#endif
#if RLX_HAS_SERVOS
    if (rlx_out_servo(d, output)) {
        rlx_servo_safe(d, output);
        return;
    }
#endif
    rlx_steady_force(d, output, level);
}

#if RLX_HAS_EXPIRY || RLX_HAS_PRESENCE
static void make_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
#if RLX_HAS_MOVES
    if (rlx_out_moves(d, output) && !d->outputs[output].way) return;
#endif
    if (rlx_out_drives(d, output))
        force(d, output, level);
    else if (rlx_steady_at(d, output, level))
        return;
    else if (level)
        rlx_steady_set(d, output, level); /* not beside another one of its interlock */
    else
        rlx_steady_force(d, output, level);
}
#endif

#if RLX_HAS_PRESENCE
RLX_INTERNAL void rlx_out_safe(struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_EXPIRY
    d->outputs[output].armed = false;
#endif
    make_safe(d, output, safe_level(d, output));
}
#endif

static void force_safe(struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_EXPIRY
    d->outputs[output].armed = false;
#endif
    force(d, output, safe_level(d, output));
}

void rlx_drive_init(struct rlx_device *d)
{
    uint8_t count = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
    for (uint8_t i = 0; i < count; i++) force_safe(d, i);
}

#if RLX_HAS_HALT
void rlx_drive_halt(struct rlx_device *d)
{
    for (uint8_t i = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS); i--;) force_safe(d, i);
}
#endif

#if RLX_HAS_EXPIRY
static void arm_expiry(struct rlx_device *d, uint8_t output, uint32_t lasts)
{
    struct rlx_output *out = &d->outputs[output];
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
    struct rlx_output *out = &d->outputs[output];
    if (!out->armed) return RLX_FOREVER;
    uint32_t left = out->due - d->now;
    if ((int32_t)left > 0) return left;
    uint16_t level = (uint16_t)(out->to_off ? 0 : safe_level(d, output));
    out->armed = false;
    make_safe(d, output, level);
    return RLX_FOREVER;
}
#endif

uint32_t rlx_drive_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
#if RLX_HAS_EXPIRY || RLX_HAS_ACTS || RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || \
    RLX_HAS_SERVOS
    uint8_t count = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
#if RLX_HAS_RESTS
    for (uint8_t i = 0; !d->runs && i < count; i++) d->outputs[i].changed = d->now;
    d->runs = true; /* until now nobody knew the time */
#endif
    for (uint8_t i = 0; i < count; i++) {
        uint32_t due;
#if RLX_HAS_EXPIRY
        if ((due = run_expiry(d, i)) < wait) wait = due;
#endif
#if RLX_HAS_ACTS
        if (!rlx_out_drives(d, i) && (due = rlx_act_run(d, i)) < wait) wait = due;
#endif
#if RLX_HAS_RESTS
        if ((due = rlx_rest_run(d, i)) < wait) wait = due;
#endif
#if RLX_HAS_SERVOS
        if (rlx_out_servo(d, i) && (due = rlx_servo_run(d, i)) < wait) wait = due;
#endif
#if RLX_HAS_MOTORS
        if (rlx_out_motor(d, i) && (due = rlx_motor_run(d, i)) < wait) wait = due;
#endif
#if RLX_HAS_MOVES
        if (rlx_out_moves(d, i) && (due = rlx_mover_run(d, i)) < wait) wait = due;
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
    return d->outputs[output].switched;
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
    return (uint8_t)((d->outputs[output].level * UINT32_C(100) + 32768) >> 16);
}

RLX_INTERNAL bool rlx_out_is_on(const struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output)) return rlx_group_is_on(d, output);
#endif
    return d->outputs[output].level != 0;
}

RLX_INTERNAL int rlx_out_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb)
{
    bool on = verb == RLX_TOGGLE ? !rlx_out_is_on(d, output) : verb == RLX_ON;
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output)) return rlx_group_tell(d, output, on ? RLX_ON : RLX_OFF, 0);
#endif
    return rlx_steady_set(d, output, on ? UINT16_MAX : 0);
}

RLX_INTERNAL int rlx_out_level(struct rlx_device *d, uint8_t output, uint8_t percent)
{
    return rlx_steady_set(d, output, rlx_duty_of_percent(percent));
}

#if RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS
RLX_INTERNAL uint32_t rlx_out_waits(const struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_MOVES
    if (rlx_out_moves(d, output)) return rlx_mover_waits(d, output);
#endif
#if RLX_HAS_MOTORS
    if (rlx_out_motor(d, output)) return rlx_motor_waits(d, output);
#endif
#if RLX_HAS_RESTS
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output)) return rlx_group_waits(d, output);
#endif
    return rlx_rest_of(d, output);
#else
    return 0;
#endif
}
#endif

#if RLX_HAS_ACTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS
RLX_INTERNAL int rlx_out_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                             uint32_t argument)
{
    (void)argument;
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output) && verb == RLX_MASK)
        return rlx_group_tell(d, output, verb, argument);
#endif
#if RLX_HAS_MOVES
    if (rlx_out_moves(d, output)) return rlx_mover_tell(d, output, verb);
#endif
#if RLX_HAS_MOTORS
    if (rlx_out_motor(d, output)) return rlx_motor_tell(d, output, verb, (rlx_value)argument);
#endif
#if RLX_HAS_SERVOS
    if (rlx_out_servo(d, output)) return rlx_servo_tell(d, output, 0); /* park */
#endif
    if (verb <= RLX_TOGGLE) return rlx_out_switch(d, output, verb);
#if RLX_HAS_ACTS
    return rlx_act_tell(d, output, verb, argument);
#else
    return -RLX_ERR_FAILED;
#endif
}
#endif
