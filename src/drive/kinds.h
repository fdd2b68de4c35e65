/* What every kind of output has: its functions, by the list in rlx/def/outputs.h. drive.c
 * dispatches to them, and nothing else does. A kind calls what is in steps.h, and never back up. */
#ifndef RLX_KINDS_H
#define RLX_KINDS_H

#include "steps.h"

/* At once, whatever it was doing: to its safe state, or to this level where it has levels. */
#define RLX_KIND_FORCE(name) \
    RLX_INTERNAL void rlx_##name##_force(struct rlx_device *d, uint8_t output, uint16_t level);
/* The same where it expires or its link is lost: only what is not there yet. */
#define RLX_KIND_SAFE(name) \
    RLX_INTERNAL void rlx_##name##_safe(struct rlx_device *d, uint8_t output, uint16_t level);
/* The values of a command's slots: 0, RLX_ALREADY, RLX_WAITS, or -RLX_ERR_FAILED. */
#define RLX_KIND_VALUES(name)                                                  \
    RLX_INTERNAL int rlx_##name##_values(struct rlx_device *d, uint8_t output, \
                                         const rlx_value *values);
/* A verb that it knows, and what stands behind it; the same results. */
#define RLX_KIND_ACT(name)                                                                      \
    RLX_INTERNAL int rlx_##name##_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb, \
                                      uint32_t argument);
/* The verbs that it knows, a bit each. */
#define RLX_KIND_VERBS(name) \
    RLX_INTERNAL uint32_t rlx_##name##_verbs(const struct rlx_device *d, uint8_t output);
/* Goes on; milliseconds until it must look again, or RLX_FOREVER. */
#define RLX_KIND_RUN(name) \
    RLX_INTERNAL uint32_t rlx_##name##_run(struct rlx_device *d, uint8_t output);
/* Milliseconds until it begins to do what it was commanded; 0: it does. */
#define RLX_KIND_WAITS(name) \
    RLX_INTERNAL uint32_t rlx_##name##_waits(const struct rlx_device *d, uint8_t output);
/* Whether it is at anything but nought. */
#define RLX_KIND_IS_ON(name) \
    RLX_INTERNAL bool rlx_##name##_is_on(const struct rlx_device *d, uint8_t output);
/* What it is at; the state is all 0 before. */
#define RLX_KIND_STATE(name)                                                            \
    RLX_INTERNAL void rlx_##name##_describe(const struct rlx_device *d, uint8_t output, \
                                            struct rlx_state *state);

/* The ways that it would go by this verb, RLX_VALUES by values: RLX_GOES_...; 0: it would be safe.
 */
#define RLX_KIND_GOES(name)                                                            \
    RLX_INTERNAL uint8_t rlx_##name##_goes(const struct rlx_device *d, uint8_t output, \
                                           uint8_t verb, const rlx_value *values);
/* The ways that it goes, or is about to go. */
#define RLX_KIND_GOING(name) \
    RLX_INTERNAL uint8_t rlx_##name##_going(const struct rlx_device *d, uint8_t output);

#define RLX_KIND_HAS(name)                                           \
    RLX_KIND_FORCE(name)                                             \
    RLX_WHEN(RLX_KINDS_EXPIRE, RLX_KIND_SAFE(name))                  \
    RLX_KIND_VALUES(name)                                            \
    RLX_WHEN(RLX_KINDS_ACT, RLX_KIND_ACT(name) RLX_KIND_VERBS(name)) \
    RLX_WHEN(RLX_KINDS_RUN, RLX_KIND_RUN(name))                      \
    RLX_WHEN(RLX_KINDS_WAIT, RLX_KIND_WAITS(name))                   \
    RLX_KIND_IS_ON(name)                                             \
    RLX_WHEN(RLX_KINDS_TELL, RLX_KIND_STATE(name))                   \
    RLX_WHEN(RLX_KINDS_PERMIT, RLX_KIND_GOES(name) RLX_KIND_GOING(name))

/* What only one kind has, for the calls of rlx/drive.h. */
#if RLX_HAS_MOTORS
RLX_INTERNAL uint8_t rlx_sides(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL int8_t rlx_side_percent(const struct rlx_device *d, uint8_t output, uint8_t side);
#endif
#if RLX_HAS_REVERSERS
RLX_INTERNAL const char *rlx_reverser_word(const struct rlx_device *d, uint8_t output);
#if RLX_HAS_PLACES
RLX_INTERNAL uint8_t rlx_reverser_place(const struct rlx_device *d, uint8_t output);
#endif
#endif

#if RLX_HAS_STEPPERS
RLX_INTERNAL const char *rlx_stepper_word(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL int32_t rlx_stepper_place_now(const struct rlx_device *d, uint8_t output);
#endif

/* What the functions stand in, as 0 or 1. */
#if RLX_MAKES_SAFE
#define RLX_KINDS_EXPIRE 1
#else
#define RLX_KINDS_EXPIRE 0
#endif
#if RLX_HAS_VERBS
#define RLX_KINDS_ACT 1
#else
#define RLX_KINDS_ACT 0
#endif
#if RLX_HAS_RUNS
#define RLX_KINDS_RUN 1
#else
#define RLX_KINDS_RUN 0
#endif
#if RLX_HAS_WAITS
#define RLX_KINDS_WAIT 1
#else
#define RLX_KINDS_WAIT 0
#endif
#if RLX_HAS_PERMITTED
#define RLX_KINDS_PERMIT 1
#else
#define RLX_KINDS_PERMIT 0
#endif
#if RLX_HAS_STATE
#define RLX_KINDS_TELL 1
#else
#define RLX_KINDS_TELL 0
#endif

#define RLX_VALUES 255 /* no verb, but the values of slots */

RLX_KIND_HAS(steady)
#define RLX_KIND_ROW(id, has, name, moves, switched) RLX_WHEN(has, RLX_KIND_HAS(name))
RLX_DRIVES(RLX_KIND_ROW)
#undef RLX_KIND_ROW

#if RLX_HAS_PERMITTED
/* The way of a signed speed. */
static inline uint8_t rlx_goes(rlx_value speed)
{
    return speed > 0 ? RLX_GOES_FORWARD : speed < 0 ? RLX_GOES_BACK : 0;
}
#endif

#if RLX_HAS_VERBS
/* The verbs that one of these kinds of the lexicon knows: RLX_K(LED) | ... */
static inline uint32_t rlx_verbs_with(unsigned kinds)
{
#define RLX_VERB_BIT(id, word, behind, known, steps, stops, again, does) \
    | ((known)&kinds ? UINT32_C(1) << RLX_##id : 0)
    return 0 RLX_VERBS(RLX_VERB_BIT);
#undef RLX_VERB_BIT
}
#endif

#endif
