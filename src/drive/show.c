/* Brings a level to a pin or a channel, with polarity, curve and tone.
 * Counts how often an output went on.
 * It decides no level. */
#include "steps.h"

#if RLX_HAS_LEVEL /* the calls of a port that has none, too: a build without optimizing links them \
                   */
static uint32_t hz_of(const struct rlx_device *d, uint8_t output)
{
    return rlx_out_time(rlx_out_row(d, output), RLX_OUT_HZ);
}

#if RLX_HAS_CURVE
/* Whether its levels are as the eye sees them: always, or by a setting. */
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

/* Sets the channel of a PWM output. */
static void show_channel(struct rlx_device *d, uint8_t output, uint8_t flags, uint16_t level)
{
    uint8_t channel = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_PIN);
#if RLX_HAS_TONE
    if (flags & RLX_OUT_TONE) {
        uint16_t hz = rlx_output_at(d, output)->steady.tone_hz;
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
#endif

RLX_INTERNAL void rlx_out_show(struct rlx_device *d, uint8_t output, uint16_t level)
{
    rlx_rom row = rlx_out_row(d, output);
    uint8_t flags = RLX_ROM8(row + RLX_OUT_FLAGS);
#if RLX_HAS_ACTS || RLX_HAS_RESTS
    rlx_output_at(d, output)->shown = level;
#endif
#if RLX_HAS_RESTS
    rlx_rest_begin(d, output);
#endif
#if RLX_HAS_COUNTED
    struct rlx_output *out = rlx_output_at(d, output);
    if (level && !out->was_on) out->switched++;
    out->was_on = level != 0;
#endif
#if RLX_HAS_LEVEL
    if (flags & RLX_OUT_PWM) {
        show_channel(d, output, flags, level);
        return;
    }
#endif
    rlx_port_pin_write(d->port, RLX_ROM8(row + RLX_OUT_PIN),
                       (level != 0) != (flags & RLX_OUT_ACTIVE_LOW));
}

#if RLX_HAS_SETTINGS && RLX_HAS_CURVE
RLX_INTERNAL void rlx_outputs_curved(struct rlx_device *d, uint8_t setting)
{
    uint8_t n = rlx_n_outputs(d);
    for (uint8_t i = 0; i < n; i++) {
        rlx_rom more = rlx_out_more(d, i);
        if (!more || RLX_ROM8(more + RLX_OUT_CURVE) != setting + 1) continue;
#if RLX_HAS_ACTS || RLX_HAS_RESTS
        rlx_out_show(d, i, rlx_output_at(d, i)->shown);
#else
        rlx_out_show(d, i, rlx_output_at(d, i)->level);
#endif
    }
}
#endif
