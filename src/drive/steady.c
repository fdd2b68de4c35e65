/* Outputs with a level of 0..65535: relays, leds, buzzers. */
#include "outputs.h"

RLX_INTERNAL void rlx_steady_force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    d->outputs[output].level = level;
#if RLX_HAS_ACTS
    d->outputs[output].act = RLX_OFF;
#endif
    rlx_out_show(d, output, level);
}

RLX_INTERNAL bool rlx_steady_at(const struct rlx_device *d, uint8_t output, uint16_t level)
{
    const struct rlx_output *out = &d->outputs[output];
#if RLX_HAS_ACTS
    if (out->act != RLX_OFF && out->act != RLX_FADE) return false;
#endif
#if RLX_HAS_RESTS
    if (rlx_rest_of(d, output)) return false;
#endif
    return out->level == level;
}

/* The same without a look at its interlock. */
static int go_to(struct rlx_device *d, uint8_t output, uint16_t level)
{
    struct rlx_output *out = &d->outputs[output];
    if (rlx_steady_at(d, output, level)) return RLX_ALREADY;
#if RLX_HAS_ACTS
    out->act = RLX_OFF;
#endif
    out->level = level;
#if RLX_HAS_RESTS
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

RLX_INTERNAL int rlx_steady_set(struct rlx_device *d, uint8_t output, uint16_t level)
{
    if (rlx_out_drives(d, output)) return -RLX_ERR_FAILED; /* it has no level of this kind */
#if RLX_HAS_RESTS
    uint8_t n =
        level && !rlx_steady_at(d, output, level) ? RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS) : 0;
    for (uint8_t i = 0; i < n; i++)
        if (rlx_rest_excludes(d, output, i)) go_to(d, i, 0);
#endif
    return go_to(d, output, level);
}

#if RLX_HAS_ACTS
RLX_INTERNAL int rlx_act_tell(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                              uint32_t argument)
{
    if (rlx_out_drives(d, output)) return -RLX_ERR_FAILED;
#if RLX_HAS_TONE
    struct rlx_output *out = &d->outputs[output];
    if (verb == RLX_TONE) {
        bool same = out->level && out->tone_hz == argument && out->act == RLX_OFF;
        out->tone_hz = (uint16_t)argument;
        if (!same) rlx_steady_force(d, output, UINT16_MAX);
        return same ? RLX_ALREADY : 0;
    }
#endif
    if (verb == RLX_FADE) return rlx_steady_set(d, output, rlx_duty_of_percent((uint8_t)argument));
    return rlx_act_begin(d, output, verb, argument);
}
#endif
