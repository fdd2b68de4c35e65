#include "outputs.h"

/* 655.35 * percent as 671078 / 1024, which rounds right at each of 0..100. */
uint16_t rlx_duty_of_percent(uint8_t percent)
{
    return (uint16_t)((percent * UINT32_C(671078) + 512) >> 10);
}

static uint32_t hz_of(const struct rlx_device *d, uint8_t output)
{
    return rlx_out_time(rlx_out_row(d, output), RLX_OUT_HZ);
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

#if RLX_HAS_CURVE
/* Whether its levels are as the eye sees them: always, or as a setting says. */
static bool is_curved(const struct rlx_device *d, uint8_t output, uint8_t flags)
{
#if RLX_HAS_SETTINGS
    rlx_rom more = rlx_out_more(d, output);
    uint8_t setting = more ? RLX_ROM8(more + RLX_OUT_CURVE) : 0;
    if (setting) return rlx_setting(d, (uint8_t)(setting - 1)) == RLX_ROM8(more + RLX_OUT_EYE_WORD);
#endif
    (void)d, (void)output;
    return flags & RLX_OUT_EYE;
}
#endif

/* What the channel of a PWM output is told. */
static void show_channel(struct rlx_device *d, uint8_t output, uint8_t flags, uint16_t level)
{
    uint8_t channel = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_PIN);
#if RLX_HAS_TONE
    if (flags & RLX_OUT_TONE) {
        uint16_t hz = d->outputs[output].tone_hz;
        rlx_port_tone(d->port, channel, level ? hz ? hz : (uint16_t)hz_of(d, output) : 0);
        return;
    }
#endif
#if RLX_HAS_CURVE
    if (is_curved(d, output, flags)) level = rlx_eye(level);
#endif
    if (flags & RLX_OUT_ACTIVE_LOW) level = (uint16_t)~level;
    rlx_port_duty(d->port, channel, level, hz_of(d, output));
}

RLX_INTERNAL void rlx_out_show(struct rlx_device *d, uint8_t output, uint16_t level)
{
    rlx_rom row = rlx_out_row(d, output);
    uint8_t flags = RLX_ROM8(row + RLX_OUT_FLAGS);
#if RLX_HAS_ACTS || RLX_HAS_RESTS
    d->outputs[output].shown = level;
#endif
#if RLX_HAS_RESTS
    rlx_rest_begin(d, output);
#endif
#if RLX_HAS_COUNTED
    struct rlx_output *out = &d->outputs[output];
    if (level && !out->was_on) out->switched++;
    out->was_on = level != 0;
#endif
    if (RLX_HAS_LEVEL && flags & RLX_OUT_PWM)
        show_channel(d, output, flags, level);
    else
        rlx_port_pin_write(d->port, RLX_ROM8(row + RLX_OUT_PIN),
                           (level != 0) != (flags & RLX_OUT_ACTIVE_LOW));
}

#if RLX_HAS_SETTINGS && RLX_HAS_CURVE
RLX_INTERNAL void rlx_outputs_curved(struct rlx_device *d, uint8_t setting)
{
    uint8_t n = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
    for (uint8_t i = 0; i < n; i++) {
        rlx_rom more = rlx_out_more(d, i);
        if (!more || RLX_ROM8(more + RLX_OUT_CURVE) != setting + 1) continue;
#if RLX_HAS_ACTS || RLX_HAS_RESTS
        rlx_out_show(d, i, d->outputs[i].shown);
#else
        rlx_out_show(d, i, d->outputs[i].level);
#endif
    }
}
#endif

/* At once, whatever it was doing. */
static void force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    struct rlx_output *out = &d->outputs[output];
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
    out->level = level;
#if RLX_HAS_ACTS
    out->act = RLX_OFF;
#endif
    rlx_out_show(d, output, level);
}

/* Whether it is at this level, and does nothing by itself. */
static bool is_at(const struct rlx_device *d, uint8_t output, uint16_t level)
{
    const struct rlx_output *out = &d->outputs[output];
#if RLX_HAS_MOVES
    if (rlx_out_moves(d, output)) return !out->way;
#endif
    if (rlx_out_drives(d, output)) return false;
#if RLX_HAS_ACTS
    if (out->act != RLX_OFF && out->act != RLX_FADE) return false;
#endif
#if RLX_HAS_RESTS
    if (rlx_rest_of(d, output)) return false;
#endif
    return out->level == level;
}

static int set(struct rlx_device *d, uint8_t output, uint16_t level)
{
    struct rlx_output *out = &d->outputs[output];
    if (rlx_out_drives(d, output)) return -RLX_ERR_FAILED; /* it has no level of this kind */
    if (is_at(d, output, level)) return RLX_ALREADY;
#if RLX_HAS_ACTS
    out->act = RLX_OFF;
#endif
    out->level = level;
#if RLX_HAS_RESTS
    if (level) rlx_rest_others(d, output);
    if (rlx_rest_of(d, output)) return RLX_WAITS;
#endif
#if RLX_HAS_ACTS || RLX_HAS_RESTS
    if (out->shown == level) return 0; /* it waited, or began, to be otherwise */
#endif
#if RLX_HAS_ACTS
    if (rlx_act_fade(d, output)) return 0;
#endif
    rlx_out_show(d, output, level);
    return 0;
}

static uint16_t safe_level(const struct rlx_device *d, uint8_t output)
{
    return rlx_duty_of_percent(RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_SAFE));
}

#if RLX_HAS_EXPIRY || RLX_HAS_PRESENCE
static void make_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    if (is_at(d, output, level)) return;
    if (level)
        set(d, output, level); /* not beside another one of its interlock */
    else
        force(d, output, level);
}
#endif

#if RLX_HAS_PRESENCE
void rlx_output_safe(struct rlx_device *d, uint8_t output)
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
    out->armed = lasts != 0;
    out->to_off = (lasts & RLX_LASTS_OFF) != 0;
    out->due = d->now + (lasts & ~RLX_LASTS_OFF);
}

void rlx_output_lasts(struct rlx_device *d, uint8_t output, uint32_t lasts)
{
#if RLX_HAS_GROUPS
    for (uint8_t i = 0; rlx_out_group(d, output) && i < rlx_group_size(d, output); i++)
        arm_expiry(d, rlx_group_member(d, output, i), lasts);
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
uint32_t rlx_output_switched(const struct rlx_device *d, uint8_t output)
{
    return d->outputs[output].switched;
}

bool rlx_output_is_counted(const struct rlx_device *d, uint8_t output)
{
    rlx_rom more = rlx_out_more(d, output);
    return more && RLX_ROM8(more + RLX_OUT_COUNTED);
}
#endif

bool rlx_output_is_servo(const struct rlx_device *d, uint8_t output)
{
    return rlx_out_servo(d, output);
}

#if RLX_HAS_SERVOS
int rlx_output_pulse(struct rlx_device *d, uint8_t output, uint16_t us)
{
    return rlx_servo_tell(d, output, us);
}
#endif

bool rlx_output_is_motor(const struct rlx_device *d, uint8_t output)
{
    return rlx_out_motor(d, output);
}

bool rlx_output_moves(const struct rlx_device *d, uint8_t output)
{
    return rlx_out_moves(d, output);
}

bool rlx_output_is_pwm(const struct rlx_device *d, uint8_t output)
{
    uint8_t flags = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS);
    return flags & RLX_OUT_PWM && !(flags & RLX_OUT_TONE);
}

uint8_t rlx_output_percent(const struct rlx_device *d, uint8_t output)
{
    return (uint8_t)((d->outputs[output].level * UINT32_C(100) + 32768) >> 16);
}

bool rlx_output_is_group(const struct rlx_device *d, uint8_t output)
{
    return rlx_out_group(d, output);
}

bool rlx_output_is_on(const struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output)) return rlx_group_is_on(d, output);
#endif
    return d->outputs[output].level != 0;
}

int rlx_output_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb)
{
    bool on = verb == RLX_TOGGLE ? !rlx_output_is_on(d, output) : verb == RLX_ON;
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output)) return rlx_group_tell(d, output, on ? RLX_ON : RLX_OFF, 0);
#endif
    return set(d, output, on ? UINT16_MAX : 0);
}

int rlx_output_level(struct rlx_device *d, uint8_t output, uint8_t percent)
{
    return set(d, output, rlx_duty_of_percent(percent));
}

#if RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS
uint32_t rlx_output_waits(const struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_GROUPS
    if (rlx_out_group(d, output)) return rlx_group_waits(d, output);
#endif
#if RLX_HAS_MOVES
    if (rlx_out_moves(d, output)) return rlx_mover_waits(d, output);
#endif
#if RLX_HAS_MOTORS
    if (rlx_out_motor(d, output)) return rlx_motor_waits(d, output);
#endif
#if RLX_HAS_RESTS
    return rlx_rest_of(d, output);
#else
    return 0;
#endif
}
#endif

#if RLX_HAS_ACTS
static int act_by_itself(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                         uint32_t argument)
{
    struct rlx_output *out = &d->outputs[output];
#if RLX_HAS_TONE
    if (verb == RLX_TONE) {
        bool same = out->level && out->tone_hz == argument && out->act == RLX_OFF;
        out->tone_hz = (uint16_t)argument;
        if (!same) force(d, output, UINT16_MAX);
        return same ? RLX_ALREADY : 0;
    }
#endif
#if RLX_HAS_PATTERNS
    if (verb == RLX_PATTERN) return rlx_pattern_begin(d, output, (uint8_t)argument);
#endif
    if (verb == RLX_FADE) return rlx_output_level(d, output, (uint8_t)argument);
    if (verb == RLX_BLINK && out->act == RLX_BLINK && out->act_ms == argument / 2)
        return RLX_ALREADY; /* and goes on in its beat */
    rlx_act_begin(d, output, verb == RLX_BEEP ? RLX_FLASH : verb, argument);
    return 0;
}
#endif

#if RLX_HAS_ACTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS
int rlx_output_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb, uint32_t argument)
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
    if (verb <= RLX_TOGGLE) return rlx_output_switch(d, output, verb);
#if RLX_HAS_ACTS
    return act_by_itself(d, output, verb, argument);
#else
    return -RLX_ERR_FAILED;
#endif
}
#endif
