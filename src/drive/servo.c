/* Servos: a pulse width, reached at once or with a slew.
 * A new width goes out once a frame of 20 ms.
 * It does not know where the horn is. */
#include "kinds.h"

#if RLX_HAS_SERVOS

#define FRAME_MS 20u /* a servo hears of a new width once a frame */

static rlx_rom servo_row(const struct rlx_device *d, uint8_t output)
{
    return rlx_image(d) + RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
}

static void show_pulse(struct rlx_device *d, uint8_t output, uint16_t us)
{
    rlx_output_at(d, output)->servo.pulse = us;
    rlx_port_pulse(d->port, RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_PIN), us);
}

RLX_INTERNAL void rlx_servo_force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    (void)level; /* it has a width of its own */
    rlx_output_at(d, output)->level = RLX_ROM16(servo_row(d, output) + RLX_SRV_SAFE);
    show_pulse(d, output, rlx_output_at(d, output)->level);
}

#if RLX_MAKES_SAFE
RLX_INTERNAL void rlx_servo_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    rlx_servo_force(d, output, level);
}
#endif

RLX_INTERNAL uint32_t rlx_servo_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom row = servo_row(d, output);
    uint16_t step = RLX_ROM16(row + RLX_SRV_STEP), to = out->level;
#if RLX_HAS_OWN_RAMPS
    if (step & RLX_BY_SETTING)
        step = rlx_step_of(d, (uint8_t)step,
                           (uint16_t)(RLX_ROM16(row + RLX_SRV_HIGH) - RLX_ROM16(row + RLX_SRV_LOW)),
                           FRAME_MS);
#endif
    if (out->servo.pulse == to) return RLX_FOREVER;
    if ((int32_t)(d->now - out->servo.frame_due) < 0) return out->servo.frame_due - d->now;
    if (step && to > out->servo.pulse && to - out->servo.pulse > step)
        to = (uint16_t)(out->servo.pulse + step);
    if (step && to < out->servo.pulse && out->servo.pulse - to > step)
        to = (uint16_t)(out->servo.pulse - step);
    show_pulse(d, output, to);
    out->servo.frame_due = d->now + FRAME_MS;
    return to == out->level ? RLX_FOREVER : FRAME_MS;
}

RLX_INTERNAL uint32_t rlx_servo_waits(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    return 0;
}

/* To a width within its limits; 0: no pulses. */
static int go_to_width(struct rlx_device *d, uint8_t output, uint16_t us)
{
    struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom row = servo_row(d, output);
    if (us && us < RLX_ROM16(row + RLX_SRV_LOW)) us = RLX_ROM16(row + RLX_SRV_LOW);
    if (us > RLX_ROM16(row + RLX_SRV_HIGH)) us = RLX_ROM16(row + RLX_SRV_HIGH);
    if (out->level == us) return RLX_ALREADY;
    out->level = us;
    if (!us || !out->servo.pulse) { /* parked: nobody knows where it is */
        show_pulse(d, output, us);
        return 0;
    }
    out->servo.frame_due = d->now;
    rlx_servo_run(d, output);
    return 0;
}

RLX_INTERNAL int rlx_servo_values(struct rlx_device *d, uint8_t output, const rlx_value *values)
{
    return go_to_width(d, output, (uint16_t)*values);
}

RLX_INTERNAL uint32_t rlx_servo_verbs(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    return rlx_verbs_with(RLX_K(SERVO));
}

/* It knows one: park. */
RLX_INTERNAL int rlx_servo_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                               uint32_t argument)
{
    (void)verb, (void)argument;
    return go_to_width(d, output, 0);
}

RLX_INTERNAL bool rlx_servo_is_on(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_at(d, output)->level != 0;
}

#if RLX_HAS_PERMITTED
RLX_INTERNAL uint8_t rlx_servo_goes(const struct rlx_device *d, uint8_t output, uint8_t verb,
                                    const rlx_value *values)
{
    if (verb == RLX_PARK) return 0;
    return (uint16_t)*values == RLX_ROM16(servo_row(d, output) + RLX_SRV_SAFE) ? 0 : RLX_GOES_ANY;
}

RLX_INTERNAL uint8_t rlx_servo_going(const struct rlx_device *d, uint8_t output)
{
    uint16_t us = rlx_output_at(d, output)->level;
    return us && us != RLX_ROM16(servo_row(d, output) + RLX_SRV_SAFE) ? RLX_GOES_ANY : 0;
}
#endif

#if RLX_HAS_STATE
/* A width in the unit of the lexicon. The products fit 32 bits: the lexicon's reader sees to it. */
static rlx_value value_at(rlx_rom row, uint16_t us)
{
    uint16_t from = RLX_ROM16(row + RLX_SRV_LOW);
    uint32_t low = rlx_rom32(row + RLX_SRV_AT_LOW), high = rlx_rom32(row + RLX_SRV_AT_HIGH);
    bool down = (int32_t)high < (int32_t)low;
    uint32_t span = down ? low - high : high - low,
             reach = (uint32_t)RLX_ROM16(row + RLX_SRV_HIGH) - from,
             part = ((uint32_t)(us - from) * span + reach / 2) / reach;
    return (rlx_value)(int32_t)(down ? low - part : low + part);
}

RLX_INTERNAL void rlx_servo_describe(const struct rlx_device *d, uint8_t output,
                                     struct rlx_state *state)
{
    uint16_t us = rlx_output_at(d, output)->level;
    rlx_rom row = servo_row(d, output), unit = row + RLX_SRV_UNIT;
    state->word = us ? 0 : RLX_TXT_PARKED;
    if (!us) return;
    state->numbers = 1;
    state->number[0] = value_at(row, us);
    state->decimals = RLX_ROM8(row + RLX_SRV_DECIMALS);
    if (RLX_ROM8(unit) != RLX_TEXT_END) state->text = unit;
}
#endif
#endif
