/* What an output can be commanded, beside a level. One row each: its id; its word in a lexicon
 * (NULL: it has none); what stands behind it; the kinds of outputs that know it; whether it does
 * something else when it is sent twice; whether what moves stands still after it; whether it may be
 * done again where a power cut leaves open if it was done; and what it does. */
#ifndef RLX_DEF_VERBS_H
#define RLX_DEF_VERBS_H

#include <stdint.h>

#include "rlx/def/outputs.h"

#define RLX_ON_OFF (RLX_K(RELAY) | RLX_K(LED) | RLX_K(BUZZER) | RLX_K(GROUP))
#define RLX_TURNS  (RLX_K(MOTOR) | RLX_K(PAIR))
#define RLX_K(id)  (1u << RLX_KIND_##id)

#define RLX_VERBS(X)                                                                            \
    X(OFF, "off", NONE, RLX_ON_OFF, 0, 1, 1, "off")                                             \
    X(ON, "on", NONE, RLX_ON_OFF, 0, 0, 1, "on")                                                \
    X(TOGGLE, "toggle", NONE, RLX_ON_OFF, 1, 0, 0, "on to off, off to on")                      \
    X(PULSE, "pulse", TIME, RLX_K(RELAY) | RLX_K(LED), 0, 0, 0, "on for so many milliseconds")  \
    X(BLINK, "blink", TIME, RLX_K(LED), 0, 0, 1, "on and off, so many milliseconds for both")   \
    X(FLASH, "flash", COUNT, RLX_K(LED), 1, 0, 0, "so many times 150 ms on and 150 ms off")     \
    X(FADE, "fade", LEVEL, RLX_K(LED), 0, 0, 1, "to so many percent, in the lexicon's time")    \
    X(BEEP, "beep", COUNT, RLX_K(BUZZER), 1, 0, 0, "as flash")                                  \
    X(TONE, "tone", HERTZ, RLX_K(BUZZER), 0, 0, 0, "on, at so many hertz")                      \
    X(OPEN, "open", NONE, RLX_K(REVERSER), 0, 0, 1, "to its open end")                          \
    X(CLOSE, "close", NONE, RLX_K(REVERSER), 0, 0, 1, "to its closed end")                      \
    X(STOP, "stop", NONE, RLX_K(REVERSER) | RLX_TURNS | RLX_K(STEPPER), 0, 1, 1,                \
      "stops, with its ramp")                                                                   \
    X(BRAKE, "brake", NONE, RLX_TURNS, 0, 1, 1, "stops at once, braked")                        \
    X(COAST, "coast", NONE, RLX_TURNS, 0, 1, 1, "stops at once, without current")               \
    X(FORWARD, "forward", NONE, RLX_TURNS, 0, 0, 0, "forward, at the speed that is kept")       \
    X(BACK, "back", NONE, RLX_TURNS, 0, 0, 0, "back, at the speed that is kept")                \
    X(REVERSE, "reverse", NONE, RLX_K(MOTOR) | RLX_K(REVERSER), 1, 0, 0, "the other way")       \
    X(LEFT, "left", NONE, RLX_K(PAIR), 0, 0, 0, "a curve to the left")                          \
    X(RIGHT, "right", NONE, RLX_K(PAIR), 0, 0, 0, "a curve to the right")                       \
    X(SPIN_LEFT, "spin_left", NONE, RLX_K(PAIR), 0, 0, 0, "on the spot, to the left")           \
    X(SPIN_RIGHT, "spin_right", NONE, RLX_K(PAIR), 0, 0, 0, "on the spot, to the right")        \
    X(SPEED, "speed", SPEED, RLX_TURNS, 0, 0, 0, "so many percent, now and when it goes again") \
    X(PARK, "park", NONE, RLX_K(SERVO), 0, 1, 1, "no more pulses")                              \
    X(PATTERN, "pattern", PATTERN, RLX_K(LED), 0, 0, 1, "on and off in the times of a pattern") \
    X(MASK, NULL, MASK, RLX_K(GROUP), 0, 0, 1,                                                  \
      "those outputs are on whose bits are set, no other")                                      \
    X(RUN, NULL, NONE, 0, 0, 0, 0, "a routine begins...")                                       \
    X(CANCEL, NULL, NONE, 0, 0, 0, 1, "...or ends")                                             \
    X(STORE, NULL, NONE, 0, 0, 0, 1, "a setting has this value")                                \
    X(HOME, "home", NONE, RLX_K(STEPPER), 0, 0, 1, "to its home switch, from which it counts")  \
    X(BY, "by", STEPS, RLX_K(STEPPER), 1, 0, 0, "so far from where it is, or is going")         \
    X(RELEASE, "release", NONE, RLX_K(STEPPER), 0, 1, 1, "stops at once, without current")

/* These three do not act on an output. A new verb comes last: images have their numbers. */
#define RLX_TELLS_OUTPUT(verb) ((verb) < RLX_RUN || (verb) > RLX_STORE)

enum rlx_verb {
#define RLX_VERB_ENUM(id, word, behind, kinds, steps, stops, again, does) RLX_##id,
    RLX_VERBS(RLX_VERB_ENUM)
#undef RLX_VERB_ENUM
};

/* What stands behind a verb: nothing, or a number with its least, its most, and the one where the
 * lexicon gives none. */
#define RLX_BEHINDS(X)               \
    X(NONE, INT32_MIN, INT32_MAX, 0) \
    X(COUNT, 1, 255, 1)              \
    X(TIME, 10, 86400000, 1000)      \
    X(HERTZ, 20, 20000, 1000)        \
    X(LEVEL, 0, 100, 100)            \
    X(SPEED, -100, 100, 100)         \
    X(PATTERN, 0, 255, 0)            \
    X(MASK, INT32_MIN, INT32_MAX, 0) \
    X(STEPS, -INT32_MAX, INT32_MAX, 0)

enum rlx_behind {
#define RLX_BEHIND_ENUM(id, least, most, normal) RLX_BEHIND_##id,
    RLX_BEHINDS(RLX_BEHIND_ENUM)
#undef RLX_BEHIND_ENUM
};

/* A command to an output lasts so many milliseconds at most; with RLX_LASTS_OFF it goes off then,
 * else to its safe state. */
#define RLX_LASTS_MAX 86400000
#define RLX_LASTS_OFF UINT32_C(0x80000000)
/* In a table: the low byte is the number of the setting that has the time. */
#define RLX_LASTS_SET UINT32_C(0x40000000)

#endif
