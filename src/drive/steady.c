/* Outputs with a level of 0..65535: relays, leds, buzzers.
 * A level is set, forced, or reached by a fade; its interlock goes off first.
 * What changes by itself is in lamp.c, what rests in relay.c. */
#include "kinds.h"

RLX_INTERNAL void rlx_steady_force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    rlx_output_at(d, output)->level = level;
#if RLX_HAS_ACTS
    rlx_output_at(d, output)->steady.act = RLX_OFF;
#endif
    rlx_out_show(d, output, level);
}

RLX_INTERNAL bool rlx_steady_at(const struct rlx_device *d, uint8_t output, uint16_t level)
{
    const struct rlx_output *out = rlx_output_at(d, output);
#if RLX_HAS_ACTS
    if (out->steady.act != RLX_OFF && out->steady.act != RLX_FADE) return false;
#endif
#if RLX_HAS_RESTS
    if (rlx_rest_of(d, output)) return false;
#endif
    return out->level == level;
}

/* The same without a look at its interlock. */
static int go_to(struct rlx_device *d, uint8_t output, uint16_t level)
{
    struct rlx_output *out = rlx_output_at(d, output);
    if (rlx_steady_at(d, output, level)) return RLX_ALREADY;
#if RLX_HAS_ACTS
    out->steady.act = RLX_OFF;
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
    if (rlx_out_drive(d, output) != RLX_DRIVE_STEADY)
        return -RLX_ERR_FAILED; /* it has no level of this kind */
#if RLX_HAS_RESTS
    uint8_t n = level && !rlx_steady_at(d, output, level) ? rlx_n_outputs(d) : 0;
    for (uint8_t i = 0; i < n; i++)
        if (rlx_rest_excludes(d, output, i)) go_to(d, i, 0);
#endif
    return go_to(d, output, level);
}

RLX_INTERNAL int rlx_steady_values(struct rlx_device *d, uint8_t output, const rlx_value *values)
{
    return rlx_steady_set(d, output, rlx_duty_of_percent((uint8_t)*values));
}

RLX_INTERNAL bool rlx_steady_is_on(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_at(d, output)->level != 0;
}

#if RLX_HAS_TOLD
RLX_INTERNAL bool rlx_steady_tells(const struct rlx_device *d, uint8_t output)
{
    bool on = rlx_steady_is_on(d, output);
#if RLX_HAS_ACTS
    uint8_t act = rlx_output_at(d, output)->steady.act;
    if (act != RLX_OFF && act != RLX_FADE) return true;
#endif
#if RLX_HAS_RESTS
    if (rlx_rest_of(d, output)) return !on; /* it is not yet as commanded */
#endif
    return on;
}
#endif

#if RLX_MAKES_SAFE
RLX_INTERNAL void rlx_steady_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    if (rlx_steady_at(d, output, level)) return;
    if (level)
        rlx_steady_set(d, output, level); /* not beside another one of its interlock */
    else
        rlx_steady_force(d, output, level);
}
#endif

#if RLX_HAS_RUNS
RLX_INTERNAL uint32_t rlx_steady_run(struct rlx_device *d, uint8_t output)
{
    uint32_t wait = RLX_FOREVER;
#if RLX_HAS_ACTS
    wait = rlx_act_run(d, output);
#endif
#if RLX_HAS_RESTS
    uint32_t due = rlx_rest_run(d, output);
    if (due < wait) wait = due;
#endif
    (void)d, (void)output;
    return wait;
}
#endif

#if RLX_HAS_WAITS
RLX_INTERNAL uint32_t rlx_steady_waits(const struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_RESTS
    return rlx_rest_of(d, output);
#else
    (void)d, (void)output;
    return 0;
#endif
}
#endif

#if RLX_HAS_VERBS
RLX_INTERNAL uint32_t rlx_steady_verbs(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    /* a pulse is on, and expires */
    uint32_t all = rlx_verbs_with(RLX_K(RELAY) | RLX_K(LED) | RLX_K(BUZZER));
    return all & (RLX_HAS_ACTS ? ~(UINT32_C(1) << RLX_PULSE) : (UINT32_C(2) << RLX_TOGGLE) - 1);
}

RLX_INTERNAL int rlx_steady_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                                uint32_t argument)
{
#if RLX_HAS_TONE
    struct rlx_output *out = rlx_output_at(d, output);
    if (verb == RLX_TONE) {
        bool same = rlx_steady_at(d, output, UINT16_MAX) && out->steady.tone_hz == argument;
        out->steady.tone_hz = (uint16_t)argument;
        if (!same) rlx_steady_force(d, output, UINT16_MAX);
        return same ? RLX_ALREADY : 0;
    }
#endif
#if RLX_HAS_ACTS
    if (verb == RLX_FADE) return rlx_steady_set(d, output, rlx_duty_of_percent((uint8_t)argument));
    return rlx_act_begin(d, output, verb, argument);
#else
    (void)d, (void)output, (void)verb, (void)argument;
    return -RLX_ERR_FAILED;
#endif
}
#endif

#if RLX_HAS_PERMITTED
RLX_INTERNAL uint8_t rlx_steady_goes(const struct rlx_device *d, uint8_t output, uint8_t verb,
                                     const rlx_value *values)
{
    uint8_t safe = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_SAFE);
    rlx_value percent = 100;
    if (verb == RLX_OFF) percent = 0;
    if (verb == RLX_VALUES || verb == RLX_FADE) percent = *values;
    bool level = verb == RLX_OFF || verb == RLX_ON || verb == RLX_VALUES || verb == RLX_FADE;
    return level && percent == safe ? 0 : RLX_GOES_ANY;
}

RLX_INTERNAL uint8_t rlx_steady_going(const struct rlx_device *d, uint8_t output)
{
    uint8_t safe = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_SAFE);
    return rlx_steady_at(d, output, rlx_duty_of_percent(safe)) ? 0 : RLX_GOES_ANY;
}
#endif

#if RLX_HAS_STATE
RLX_INTERNAL void rlx_steady_describe(const struct rlx_device *d, uint8_t output,
                                      struct rlx_state *state)
{
    bool on = rlx_steady_is_on(d, output);
    state->word = on ? RLX_TXT_ON : RLX_TXT_OFF;
#if RLX_HAS_RESTS
    if (rlx_rest_of(d, output)) { /* it is not yet at its commanded level */
        state->word = on ? RLX_TXT_OFF : RLX_TXT_ON;
        return;
    }
#endif
#if RLX_HAS_ACTS
    const struct rlx_steady_now *out = &rlx_output_at(d, output)->steady;
#if RLX_HAS_PATTERNS
    if (out->act == RLX_PATTERN) {
        rlx_rom at = rlx_image(d) + out->act_from;
        state->word = 0;
        state->text = at + 1 + 2u * RLX_ROM8(at);
        return;
    }
#endif
    if (out->act == RLX_BLINK || out->act == RLX_FLASH) {
        state->word = out->act == RLX_BLINK ? RLX_TXT_BLINK : RLX_TXT_FLASH;
        return;
    }
#endif
    if (!RLX_HAS_LEVEL || !rlx_out_pwm(d, output)) return;
    state->word = 0;
    state->numbers = 1;
    state->number[0] = rlx_out_percent(d, output);
}
#endif
