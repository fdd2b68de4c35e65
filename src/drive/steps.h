/* What the kinds of outputs build on: a level that is held, shown, faded or rested. calls.c, the
 * firmware's calls, leads to drive.c, which dispatches to the kinds (kinds.h); a kind calls what is
 * here, and the group steady.c. None calls back up. */
#ifndef RLX_STEPS_H
#define RLX_STEPS_H

#include "rlx/drive.h"
#include "rlx/inside.h"
#include "rlx/port.h"

/* steady.c: outputs with a level, one each. To a level: 0, RLX_ALREADY, RLX_WAITS, or
 * -RLX_ERR_FAILED where it has none; those of its interlock go off. */
RLX_INTERNAL int rlx_steady_set(struct rlx_device *d, uint8_t output, uint16_t level);
/* At once, whatever it was doing. */
RLX_INTERNAL void rlx_steady_force(struct rlx_device *d, uint8_t output, uint16_t level);
/* Whether it is at this level, and does nothing by itself. */
RLX_INTERNAL bool rlx_steady_at(const struct rlx_device *d, uint8_t output, uint16_t level);

#if RLX_HAS_INPUTS && (RLX_HAS_REVERSERS || RLX_HAS_STEPPERS)
/* input.c: the level as it is now, debounced or not. */
RLX_INTERNAL bool rlx_input_is_raw(const struct rlx_device *d, uint8_t input);
#endif

#if RLX_HAS_TOLD
/* Whether it is on by now, or blinks, flashes or plays a pattern: what events tell. */
RLX_INTERNAL bool rlx_steady_tells(const struct rlx_device *d, uint8_t output);
#endif

/* Brings a level to the pin or the channel. */
RLX_INTERNAL void rlx_out_show(struct rlx_device *d, uint8_t output, uint16_t level);

#if RLX_HAS_OWN_RAMPS
/* Most change in one step of `step_ms`, to go `way` in the time that a setting has; 0: at once. */
static inline uint16_t rlx_step_of(const struct rlx_device *d, uint8_t setting, uint16_t way,
                                   uint8_t step_ms)
{
    uint32_t ms = (uint32_t)*rlx_setting_at(d, setting);
    if (ms <= step_ms) return 0;
    return (uint16_t)(((uint32_t)way * step_ms + ms - 1) / ms);
}
#endif

#if RLX_HAS_ACTS
/* lamp.c: begins a blink, flash or pattern; `argument` is its milliseconds, count or number.
 * RLX_ALREADY where it goes on in its beat. */
RLX_INTERNAL int rlx_act_begin(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                               uint32_t argument);
/* From the level that is shown to the commanded one, in the time of the lexicon; false:
 * at once. */
RLX_INTERNAL bool rlx_act_fade(struct rlx_device *d, uint8_t output);
/* Goes on with it; milliseconds until the next step. */
RLX_INTERNAL uint32_t rlx_act_run(struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_CURVE && RLX_HAS_LEVEL
/* The duty that looks like this level. */
RLX_INTERNAL uint16_t rlx_eye(uint16_t level);
#endif

#if RLX_HAS_RESTS
/* relay.c: milliseconds until it may go to its commanded level; 0: now. */
RLX_INTERNAL uint32_t rlx_rest_of(const struct rlx_device *d, uint8_t output);
/* It has been switched now. */
RLX_INTERNAL void rlx_rest_begin(struct rlx_device *d, uint8_t output);
/* Whether another output is in its interlock. */
RLX_INTERNAL bool rlx_rest_excludes(const struct rlx_device *d, uint8_t output, uint8_t other);
/* Switches what may be switched now; milliseconds until there is more to do. */
RLX_INTERNAL uint32_t rlx_rest_run(struct rlx_device *d, uint8_t output);
#endif

#endif
