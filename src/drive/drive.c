#include "rlx/drive.h"
#include "rlx/image.h"
#include "rlx/port.h"

static rlx_rom row_of(const struct rlx_device *d, uint8_t output)
{
    return d->image + RLX_ROM16(d->image + RLX_IMG_OUTPUTS) + output * RLX_OUT_ROW;
}

/* 655.35 * percent as 671078 / 1024, which rounds right at each of 0..100. */
uint16_t rlx_duty_of_percent(uint8_t percent)
{
    return (uint16_t)((percent * UINT32_C(671078) + 512) >> 10);
}

/* Brings a level to the pin or the channel. */
static void show(struct rlx_device *d, uint8_t output, uint16_t level)
{
    rlx_rom row = row_of(d, output);
    uint8_t flags = RLX_ROM8(row + RLX_OUT_FLAGS), pin = RLX_ROM8(row + RLX_OUT_PIN);
    d->outputs[output].level = level;
    if (flags & RLX_OUT_ACTIVE_LOW) level = (uint16_t)~level;
    if (RLX_HAS_LEVEL && flags & RLX_OUT_PWM) {
        uint32_t hz = RLX_ROM16(row + RLX_OUT_HZ) | (uint32_t)RLX_ROM16(row + RLX_OUT_HZ + 2) << 16;
        rlx_port_duty(d->port, pin, level, hz);
    } else {
        rlx_port_pin_write(d->port, pin, level != 0);
    }
}

static int set(struct rlx_device *d, uint8_t output, uint16_t level)
{
    if (d->outputs[output].level == level) return RLX_ALREADY;
    show(d, output, level);
    return 0;
}

static uint16_t safe_level(const struct rlx_device *d, uint8_t output)
{
    return rlx_duty_of_percent(RLX_ROM8(row_of(d, output) + RLX_OUT_SAFE));
}

void rlx_drive_init(struct rlx_device *d)
{
    uint8_t count = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
    for (uint8_t i = 0; i < count; i++) {
#if RLX_HAS_EXPIRY
        d->outputs[i].armed = false;
#endif
        show(d, i, safe_level(d, i));
    }
}

#if RLX_HAS_EXPIRY
void rlx_output_lasts(struct rlx_device *d, uint8_t output, uint32_t lasts)
{
    struct rlx_output *out = &d->outputs[output];
    out->armed = lasts != 0;
    out->to_off = (lasts & RLX_LASTS_OFF) != 0;
    out->due = d->now + (lasts & ~RLX_LASTS_OFF);
}
#endif

/* A timer is cleared when it is due, so that the clock may wrap. */
uint32_t rlx_drive_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
#if RLX_HAS_EXPIRY
    uint8_t count = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
    for (uint8_t i = 0; i < count; i++) {
        struct rlx_output *out = &d->outputs[i];
        if (!out->armed) continue;
        uint32_t left = out->due - d->now;
        if ((int32_t)left > 0) {
            if (left < wait) wait = left;
            continue;
        }
        uint16_t level = (uint16_t)(out->to_off ? 0 : safe_level(d, i));
        out->armed = false;
        if (out->level != level) show(d, i, level);
    }
#else
    (void)d;
#endif
    return wait;
}

bool rlx_output_is_pwm(const struct rlx_device *d, uint8_t output)
{
    return RLX_ROM8(row_of(d, output) + RLX_OUT_FLAGS) & RLX_OUT_PWM;
}

uint8_t rlx_output_percent(const struct rlx_device *d, uint8_t output)
{
    return (uint8_t)((d->outputs[output].level * UINT32_C(100) + 32768) >> 16);
}

bool rlx_output_is_on(const struct rlx_device *d, uint8_t output)
{
    return d->outputs[output].level != 0;
}

int rlx_output_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb)
{
    bool on = verb == RLX_TOGGLE ? !rlx_output_is_on(d, output) : verb == RLX_ON;
    return set(d, output, on ? UINT16_MAX : 0);
}

int rlx_output_level(struct rlx_device *d, uint8_t output, uint8_t percent)
{
    return set(d, output, rlx_duty_of_percent(percent));
}
