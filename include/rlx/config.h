/* What a build of the library has. `rlx emit` writes NAME_config.h with the constants of one
 * lexicon; compile the library with -DRLX_CONFIG='"NAME_config.h"' and what the lexicon does not
 * use is not in the program. Without it the library has everything. */
#ifndef RLX_CONFIG_H
#define RLX_CONFIG_H

#include <stdint.h>

#ifdef RLX_CONFIG
#include RLX_CONFIG
#endif

/* Of library, headers and image: they must be of one. */
#define RLX_VERSION 6

#include "rlx/def/built_ins.h"
#include "rlx/def/features.h"
#include "rlx/def/knobs.h"
#include "rlx/def/outputs.h"
#include "rlx/def/replies.h"
#include "rlx/def/defaults.h"

/* A feature that needs others: a record of messages is kept as a setting that is a text. */
#if RLX_HAS_SMS
#undef RLX_HAS_SETTINGS
#undef RLX_HAS_TEXT
#undef RLX_HAS_MESSAGE
#undef RLX_HAS_ERRORS
#define RLX_HAS_ERRORS   1
#define RLX_HAS_SETTINGS 1
#define RLX_HAS_TEXT     1
#define RLX_HAS_MESSAGE  1
#endif

/* A code stands before text messages. */
#if !RLX_HAS_SMS
#undef RLX_HAS_SMS_CODE
#define RLX_HAS_SMS_CODE 0
#endif

/* Keys, codes, and what must not come again after a power cut, are kept as settings. */
#if RLX_HAS_SEAL || RLX_HAS_CODED
#undef RLX_HAS_SETTINGS
#undef RLX_HAS_TEXT
#define RLX_HAS_SETTINGS 1
#define RLX_HAS_TEXT     1
#endif

/* What is written less often is a setting. */
#if !RLX_HAS_SETTINGS
#undef RLX_HAS_WEAR
#define RLX_HAS_WEAR 0
#endif

/* Whether some words mean something in every lexicon: a confirmed event brings its `got` along. */
#define RLX_HAS_BUILT_IN (RLX_BUILT_IN != 0 || (RLX_HAS_EVENTS && RLX_HAS_PACED))
/* Whether outputs tell when they go on and off. */
#define RLX_HAS_TOLD (RLX_HAS_OUTPUT_EVENTS && RLX_HAS_EVENTS)
/* Whether events are kept. */
#define RLX_KEEPS_EVENTS \
    (RLX_HAS_KEPT && RLX_HAS_EVENTS && RLX_HAS_PACED && RLX_HAS_SETTINGS && RLX_HAS_TEXT)
/* Whether tags are kept. */
#define RLX_KEEPS_TAGS (RLX_HAS_KEPT_TAGS && RLX_HAS_TAGS && RLX_HAS_SETTINGS && RLX_HAS_TEXT)
/* Whether it matters that a command leads to the same when it is done twice. */
#define RLX_KEEPS_INTENT (RLX_HAS_SMS || RLX_KEEPS_TAGS)
/* Whether settings narrow ranges; whether they have ramps, fades and slew times, and debounce
 * times.
 */
#define RLX_HAS_BOUNDED   (RLX_HAS_BOUNDS && RLX_HAS_SETTINGS)
#define RLX_TRIES_BOUNDS  (RLX_HAS_BOUNDED && RLX_HAS_BATCH)
#define RLX_HAS_OWN_RAMPS (RLX_HAS_SET_RAMPS && RLX_HAS_SETTINGS)
#define RLX_HAS_OWN_PAUSE (RLX_HAS_SET_DEBOUNCE && RLX_HAS_SETTINGS)
/* Whether a link's own texts of errors have values. */
#define RLX_HAS_WORDED (RLX_HAS_FIELDS && RLX_HAS_OWN && RLX_HAS_ERRORS)
/* Whether the library keeps texts of its own among the settings. */
#define RLX_KEEPS_RECORDS \
    (RLX_HAS_SMS || RLX_KEEPS_EVENTS || RLX_HAS_SEAL || RLX_HAS_CODED || RLX_KEEPS_TAGS)
/* Whether some settings are never sent, and somebody asks. */
#define RLX_HAS_HIDDEN     (RLX_HAS_SMS_CODE || RLX_HAS_SEAL || RLX_HAS_CODED)
#define RLX_HIDES_SETTINGS (RLX_HAS_HIDDEN && (RLX_HAS_LOG || RLX_HAS_STATE) && RLX_HAS_SETTINGS)
/* Most settings with a least time between two changes. */
#if RLX_FIXED
#define RLX_RESTS (RLX_FIXED_RESTS ? RLX_FIXED_RESTS : 1)
#else
#define RLX_RESTS 32
#endif
/* Whether wrong codes are counted. */
#define RLX_HAS_GUESSES (RLX_HAS_SMS_CODE || RLX_HAS_CODED)
/* Whether something else than the firmware can tell an event. */
#define RLX_HAS_EVENT_SOURCES \
    (RLX_HAS_INPUTS || RLX_HAS_MOVING || RLX_HAS_ROUTINES || RLX_HAS_TOLD || RLX_HAS_GUESSES)
/* Whether something else than the link can stop a command. */
#define RLX_HAS_BLOCKED (RLX_HAS_PERMITTED || RLX_HAS_GUARDS)
/* Whether anything depends on the clock. */
#define RLX_HAS_NOW                                                                           \
    (RLX_HAS_TIMED || RLX_HAS_TAGS || RLX_HAS_EXPIRY || RLX_HAS_PACED || RLX_HAS_YIELDS ||    \
     RLX_HAS_INPUTS || RLX_HAS_RUNS || RLX_HAS_ROUTINES || RLX_HAS_PRESENCE || RLX_HAS_LOG || \
     RLX_HAS_SETTINGS)
/* Whether outputs change by themselves; whether one may wait; whether they know more than on, off
 * and a level. */
#define RLX_HAS_RUNS \
    (RLX_HAS_EXPIRY || RLX_HAS_ACTS || RLX_HAS_RESTS || RLX_HAS_MOVING || RLX_HAS_TOLD)
#define RLX_HAS_WAITS (RLX_HAS_RESTS || RLX_HAS_MOVING)
#define RLX_HAS_VERBS (RLX_HAS_ACTS || RLX_HAS_DRIVES)
/* Whether something stands around a frame, and whether a frame has a source. */
#define RLX_HAS_ENVELOPE (RLX_HAS_CHECK || RLX_HAS_ADDRESS || RLX_HAS_TAGS || RLX_HAS_SEAL)
#define RLX_HAS_SOURCE   (RLX_HAS_ENVELOPE || RLX_HAS_MESSAGE)
/* Whether links are up or down. */
#define RLX_HAS_UP (RLX_HAS_EVENTS || RLX_HAS_PRESENCE || RLX_HAS_NOTES || RLX_HAS_GREETS)
/* Whether frames are looked at before it is their turn. */
#define RLX_HAS_AHEAD (RLX_HAS_HALT || RLX_HAS_NEWEST)

/* Which of a device's and a link's members are constants: RLX_FIXED_RECEIVE and its like are 0
 * where the links differ. Where a copy of a link reads ahead, it has its own. */
#if RLX_FIXED
#define RLX_FIXED_BUFFER (RLX_FIXED_LINKS == 1 && !RLX_HAS_AHEAD)
#define RLX_FIXED_FRAME  (RLX_FIXED_LONGEST && !RLX_HAS_AHEAD)
#else
#define RLX_FIXED_RECEIVE  0
#define RLX_FIXED_TRANSMIT 0
#define RLX_FIXED_BUFFER   0
#define RLX_FIXED_FRAME    0
#endif
/* Whether the entry of a command's first word is remembered: an operand may stand there. */
#if RLX_FIXED
#define RLX_KEEPS_ENTRY \
    (RLX_HAS_FAMILY || RLX_HAS_NEWEST || RLX_FIXED_OPERAND == 0x10 || RLX_FIXED_OPERAND == 0xFF)
#else
#define RLX_KEEPS_ENTRY 1
#endif
/* Whether the values of a command are counted. */
#define RLX_COUNTS_VALUES                                                                  \
    (!RLX_FIXED || RLX_SLOTS > 1 || RLX_HAS_FAMILY || RLX_HAS_VERBS || RLX_HAS_SETTINGS || \
     RLX_HAS_ROUTINES || RLX_HAS_EXPIRY || RLX_HAS_LIST || RLX_HAS_SAYS)
/* Whether commands stand in the lexicon that an input does, or a link that comes or is lost... */
#define RLX_INPUTS_ACT (RLX_HAS_INPUT_ACTS && RLX_HAS_INPUTS)
#define RLX_LINKS_ACT  (RLX_HAS_SHOWS && RLX_HAS_PRESENCE)
#define RLX_HANGS_UP   (RLX_HAS_HANG_UP && RLX_HAS_PRESENCE && RLX_HAS_BYE)
/* ...or nobody sends: those, and the steps of routines. */
#define RLX_HAS_STEPS (RLX_HAS_ROUTINES || RLX_INPUTS_ACT || RLX_LINKS_ACT)
/* Whether single outputs go to their safe state, and whether by the firmware or a link. */
#define RLX_HAS_SAFE_CALL (RLX_HAS_PRESENCE || RLX_FIRMWARE_SAFE)
#define RLX_MAKES_SAFE    (RLX_HAS_EXPIRY || RLX_HAS_SAFE_CALL)
/* Whether links have frames of bytes: what answers them is what writes own replies. */
#define RLX_HAS_BINARY (RLX_HAS_LAYOUT && RLX_HAS_OWN)
/* ...and whether those can hold what a handler answers with. */
#define RLX_BINARY_VALUES (RLX_HAS_BINARY && RLX_HAS_QUERY)
/* Whether some have proportional channels, which repeat for ever. */
#define RLX_TAKES_CHANNELS (RLX_HAS_CHANNELS && RLX_HAS_BINARY && RLX_HAS_TIMED)
/* Whether frames are counted that are damaged, or not for this device. */
#define RLX_COUNTS_OTHERS                                                                     \
    (RLX_HAS_ADDRESS || RLX_HAS_CHECK || RLX_HAS_SEAL || RLX_HAS_PACKET || RLX_HAS_MESSAGE || \
     RLX_HAS_BINARY)
/* Whether inputs permit what outputs do. */
#define RLX_HAS_PERMITTED (RLX_HAS_PERMITS && RLX_HAS_INPUTS)
/* Whether something may stand before a reply. */
#define RLX_REPLY_FROM (RLX_HAS_KEYS || RLX_HAS_CODES || RLX_HAS_SOURCE)
/* Whether the device has the ring of the reply in hand as a member, and its size. */
#define RLX_REPLY_RING (!RLX_FIXED_BUFFER || RLX_HAS_DROP)
#define RLX_REPLY_MASK (!RLX_FIXED_TRANSMIT || RLX_HAS_DROP)

#include "rlx/def/hash.h"

/* The features of this build, as the bits of each word. */
#define RLX_FEATURE_IN_0(id, name) \
    | (RLX_BIT_##id / 32 == 0 && RLX_HAS_##id ? UINT32_C(1) << RLX_BIT_##id % 32 : 0)
#define RLX_FEATURE_IN_1(id, name) \
    | (RLX_BIT_##id / 32 == 1 && RLX_HAS_##id ? UINT32_C(1) << RLX_BIT_##id % 32 : 0)
#define RLX_FEATURE_IN_2(id, name) \
    | (RLX_BIT_##id / 32 == 2 && RLX_HAS_##id ? UINT32_C(1) << RLX_BIT_##id % 32 : 0)
#define RLX_BUILD_HAS                                                               \
    {                                                                               \
        UINT32_C(0)                                                                 \
        RLX_FEATURES(RLX_FEATURE_IN_0), UINT32_C(0) RLX_FEATURES(RLX_FEATURE_IN_1), \
            UINT32_C(0) RLX_FEATURES(RLX_FEATURE_IN_2)                              \
    }

/* src/rlx.c is the whole library in one translation unit; then the calls between its files are
 * static. */
#ifdef RLX_UNITY
#define RLX_INTERNAL static
#else
#define RLX_INTERNAL
#endif

/* Order between a ring's data and its index. One core with interrupts needs the compiler held
 * back only; where feed and poll run on two cores or threads, define it as a full barrier. */
#ifndef RLX_FENCE
#if defined(__GNUC__)
#define RLX_FENCE() __asm__ volatile("" ::: "memory")
#else
#include <stdatomic.h>
#define RLX_FENCE() atomic_signal_fence(memory_order_seq_cst)
#endif
#endif

#endif
