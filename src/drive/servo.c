/* Servos: a pulse width, reached at once or with a slew. */
#include "outputs.h"

#if RLX_HAS_SERVOS

#define FRAME_MS 20u /* a servo hears of a new width once a frame */

static rlx_rom servo_row(const struct rlx_device *d, uint8_t output)
{
    return d->image + RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
}

static void show_pulse(struct rlx_device *d, uint8_t output, uint16_t us)
{
    d->outputs[output].pulse = us;
    rlx_port_pulse(d->port, RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_PIN), us);
}

RLX_INTERNAL void rlx_servo_safe(struct rlx_device *d, uint8_t output)
{
    d->outputs[output].level = RLX_ROM16(servo_row(d, output) + RLX_SRV_SAFE);
    show_pulse(d, output, d->outputs[output].level);
}

RLX_INTERNAL int rlx_servo_tell(struct rlx_device *d, uint8_t output, uint16_t us)
{
    struct rlx_output *out = &d->outputs[output];
    rlx_rom row = servo_row(d, output);
    if (us && us < RLX_ROM16(row + RLX_SRV_LOW)) us = RLX_ROM16(row + RLX_SRV_LOW);
    if (us > RLX_ROM16(row + RLX_SRV_HIGH)) us = RLX_ROM16(row + RLX_SRV_HIGH);
    if (out->level == us) return RLX_ALREADY;
    out->level = us;
    if (!us || !out->pulse) { /* parked: nobody knows where it is */
        show_pulse(d, output, us);
        return 0;
    }
    out->frame_due = d->now;
    rlx_servo_run(d, output);
    return 0;
}

RLX_INTERNAL uint32_t rlx_servo_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = &d->outputs[output];
    uint16_t step = RLX_ROM16(servo_row(d, output) + RLX_SRV_STEP), to = out->level;
    if (out->pulse == to) return RLX_FOREVER;
    if ((int32_t)(d->now - out->frame_due) < 0) return out->frame_due - d->now;
    if (step && to > out->pulse && to - out->pulse > step) to = (uint16_t)(out->pulse + step);
    if (step && to < out->pulse && out->pulse - to > step) to = (uint16_t)(out->pulse - step);
    show_pulse(d, output, to);
    out->frame_due = d->now + FRAME_MS;
    return to == out->level ? RLX_FOREVER : FRAME_MS;
}
#endif
