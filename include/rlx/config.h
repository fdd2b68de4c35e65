/* What a build of the library has. `rlx emit` writes NAME_config.h with the constants of one
 * lexicon; compile the library with -DRLX_CONFIG='"NAME_config.h"' and what the lexicon does not
 * use is not in the program. Without it the library has everything. */
#ifndef RLX_CONFIG_H
#define RLX_CONFIG_H

#include <stdint.h>

#ifdef RLX_CONFIG
#include RLX_CONFIG
#endif

/* One row a feature: its name, its bit in the image's `needs`, what it is. A build has it when
 * RLX_HAS_<name> is 1; an image that needs one the build lacks is refused by rlx_init(). */
#define RLX_FEATURES(X)                                                  \
    X(ANY_CASE, 0, "letters any-case")                                   \
    X(SHORTEN, 1, "shortened words")                                     \
    X(HASH, 2, "a hashed word table (more than 8 first words)")          \
    X(FAMILY, 3, "commands that share a first word")                     \
    X(CHOICE, 4, "choice slots")                                         \
    X(NUMBER, 5, "number slots")                                         \
    X(WIDE, 6, "numbers beyond 16 bits")                                 \
    X(UNIT, 7, "units behind numbers")                                   \
    X(MANY, 8, "more than 255 command shapes or handlers")               \
    X(CALL, 9, "commands that call a handler")                           \
    X(SWITCH, 10, "outputs that are switched")                           \
    X(LEVEL, 11, "outputs with a PWM level")                             \
    X(LINE, 12, "line frames")                                           \
    X(KEYS, 13, "key frames")                                            \
    X(GREETING, 14, "the greeting")                                      \
    X(LONG_REPLY, 15, "replies that may not fit")                        \
    X(FORM, 16, "fractions, hex numbers, times and scales")              \
    X(SET, 17, "sets of words")                                          \
    X(LIST, 18, "lists of numbers")                                      \
    X(TEXT, 19, "texts")                                                 \
    X(GLUE, 20, "words that touch their number")                         \
    X(NUMBERED, 21, "commands by number")                                \
    X(CODES, 22, "codes (self-ending frames)")                           \
    X(MARKED, 23, "frames with an end, a length or a lead of their own") \
    X(TIMED, 24, "frames that a silence ends")                           \
    X(PACKET, 25, "packets")                                             \
    X(CHECK, 26, "checks")                                               \
    X(ADDRESS, 27, "addresses")                                          \
    X(TAGS, 28, "tags")                                                  \
    X(OWN, 29, "short, silent and own replies")                          \
    X(LIMITED, 30, "commands limited to some links, ignored texts")      \
    X(EXPIRY, 31, "outputs that go safe, or off, after a time")          \
    X(QUERY, 32, "queries")                                              \
    X(EVENTS, 33, "events")                                              \
    X(PACED, 34, "events that are paced or confirmed")                   \
    X(PEOPLE, 35, "echo and backspace")                                  \
    X(REPORT, 36, "reports")                                             \
    X(MESSAGE, 37, "text messages")                                      \
    X(NEWEST, 38, "commands of which the newest counts")                 \
    X(DROP, 39, "replies that are dropped where there is no room")       \
    X(YIELDS, 40, "links that go before others")                         \
    X(INPUTS, 41, "inputs")                                              \
    X(ACTS, 42, "outputs that blink, flash, beep or fade")               \
    X(CURVE, 43, "levels as the eye sees them")                          \
    X(RESTS, 44, "relays with least times and interlocks")               \
    X(TONE, 45, "buzzers with a pitch")                                  \
    X(MOVES, 46, "reversers")                                            \
    X(MOTORS, 47, "motors")                                              \
    X(SERVOS, 48, "servos")                                              \
    X(GROUPS, 49, "groups")                                              \
    X(ROUTINES, 50, "routines")                                          \
    X(PRESENCE, 51, "links that can be lost")                            \
    X(PATTERNS, 52, "patterns to blink")                                 \
    X(COUNTED, 53, "relays whose switching is counted")                  \
    X(PLACES, 54, "reversers whose place is reckoned by time")           \
    X(SETTINGS, 55, "settings")                                          \
    X(SMS, 56, "a modem for text messages")

enum {
#define RLX_FEATURE_BIT(id, bit, name) RLX_BIT_##id = (bit),
    RLX_FEATURES(RLX_FEATURE_BIT)
#undef RLX_FEATURE_BIT
};

#ifndef RLX_HAS_SMS
#define RLX_HAS_SMS 1
#endif
#if RLX_HAS_SMS /* a record of messages is kept as a setting that is a text */
#undef RLX_HAS_SETTINGS
#undef RLX_HAS_TEXT
#undef RLX_HAS_MESSAGE
#define RLX_HAS_SETTINGS 1
#define RLX_HAS_TEXT     1
#define RLX_HAS_MESSAGE  1
#endif
#ifndef RLX_HAS_ANY_CASE
#define RLX_HAS_ANY_CASE 1
#endif
#ifndef RLX_HAS_SHORTEN
#define RLX_HAS_SHORTEN 1
#endif
#ifndef RLX_HAS_HASH
#define RLX_HAS_HASH 1
#endif
#ifndef RLX_HAS_FAMILY
#define RLX_HAS_FAMILY 1
#endif
#ifndef RLX_HAS_CHOICE
#define RLX_HAS_CHOICE 1
#endif
#ifndef RLX_HAS_NUMBER
#define RLX_HAS_NUMBER 1
#endif
#ifndef RLX_HAS_WIDE
#define RLX_HAS_WIDE 1
#endif
#ifndef RLX_HAS_UNIT
#define RLX_HAS_UNIT 1
#endif
#ifndef RLX_HAS_MANY
#define RLX_HAS_MANY 1
#endif
#ifndef RLX_HAS_CALL
#define RLX_HAS_CALL 1
#endif
#ifndef RLX_HAS_SWITCH
#define RLX_HAS_SWITCH 1
#endif
#ifndef RLX_HAS_LEVEL
#define RLX_HAS_LEVEL 1
#endif
#ifndef RLX_HAS_LINE
#define RLX_HAS_LINE 1
#endif
#ifndef RLX_HAS_KEYS
#define RLX_HAS_KEYS 1
#endif
#ifndef RLX_HAS_GREETING
#define RLX_HAS_GREETING 1
#endif
#ifndef RLX_HAS_LONG_REPLY
#define RLX_HAS_LONG_REPLY 1
#endif
#ifndef RLX_HAS_NUMBERED
#define RLX_HAS_NUMBERED 1
#endif
#ifndef RLX_HAS_GLUE
#define RLX_HAS_GLUE 1
#endif
#ifndef RLX_HAS_TEXT
#define RLX_HAS_TEXT 1
#endif
#ifndef RLX_HAS_LIST
#define RLX_HAS_LIST 1
#endif
#ifndef RLX_HAS_SET
#define RLX_HAS_SET 1
#endif
#ifndef RLX_HAS_FORM
#define RLX_HAS_FORM 1
#endif
#ifndef RLX_HAS_CODES
#define RLX_HAS_CODES 1
#endif
#ifndef RLX_HAS_MARKED
#define RLX_HAS_MARKED 1
#endif
#ifndef RLX_HAS_TIMED
#define RLX_HAS_TIMED 1
#endif
#ifndef RLX_HAS_PACKET
#define RLX_HAS_PACKET 1
#endif
#ifndef RLX_HAS_CHECK
#define RLX_HAS_CHECK 1
#endif
#ifndef RLX_HAS_ADDRESS
#define RLX_HAS_ADDRESS 1
#endif
#ifndef RLX_HAS_TAGS
#define RLX_HAS_TAGS 1
#endif
#ifndef RLX_HAS_OWN
#define RLX_HAS_OWN 1
#endif
#ifndef RLX_HAS_LIMITED
#define RLX_HAS_LIMITED 1
#endif
#ifndef RLX_HAS_EXPIRY
#define RLX_HAS_EXPIRY 1
#endif
#ifndef RLX_HAS_QUERY
#define RLX_HAS_QUERY 1
#endif
#ifndef RLX_HAS_EVENTS
#define RLX_HAS_EVENTS 1
#endif
#ifndef RLX_HAS_PACED
#define RLX_HAS_PACED 1
#endif
#ifndef RLX_HAS_PEOPLE
#define RLX_HAS_PEOPLE 1
#endif
#ifndef RLX_HAS_REPORT
#define RLX_HAS_REPORT 1
#endif
#ifndef RLX_HAS_MESSAGE
#define RLX_HAS_MESSAGE 1
#endif
#ifndef RLX_HAS_NEWEST
#define RLX_HAS_NEWEST 1
#endif
#ifndef RLX_HAS_DROP
#define RLX_HAS_DROP 1
#endif
#ifndef RLX_HAS_YIELDS
#define RLX_HAS_YIELDS 1
#endif
#ifndef RLX_HAS_INPUTS
#define RLX_HAS_INPUTS 1
#endif
#ifndef RLX_HAS_ACTS
#define RLX_HAS_ACTS 1
#endif
#ifndef RLX_HAS_CURVE
#define RLX_HAS_CURVE 1
#endif
#ifndef RLX_HAS_RESTS
#define RLX_HAS_RESTS 1
#endif
#ifndef RLX_HAS_TONE
#define RLX_HAS_TONE 1
#endif
#ifndef RLX_HAS_MOVES
#define RLX_HAS_MOVES 1
#endif
#ifndef RLX_HAS_MOTORS
#define RLX_HAS_MOTORS 1
#endif
#ifndef RLX_HAS_SERVOS
#define RLX_HAS_SERVOS 1
#endif
#ifndef RLX_HAS_GROUPS
#define RLX_HAS_GROUPS 1
#endif
#ifndef RLX_HAS_ROUTINES
#define RLX_HAS_ROUTINES 1
#endif
#ifndef RLX_HAS_PRESENCE
#define RLX_HAS_PRESENCE 1
#endif
#ifndef RLX_HAS_PATTERNS
#define RLX_HAS_PATTERNS 1
#endif
#ifndef RLX_HAS_COUNTED
#define RLX_HAS_COUNTED 1
#endif
#ifndef RLX_HAS_PLACES
#define RLX_HAS_PLACES 1
#endif
#ifndef RLX_HAS_SETTINGS
#define RLX_HAS_SETTINGS 1
#endif

/* What is built in and every lexicon can turn on: bits of RLX_BUILT_IN. */
#define RLX_BUILT_INS(X)                                             \
    X(HALT, 1, "halt", "all outputs to their safe states")           \
    X(ABOUT, 2, "about", "name, version and fingerprint")            \
    X(STATS, 4, "stats", "what the link lost and refused")           \
    X(STATE, 8, "state", "NAME? asks what an output is at")          \
    X(BATCH, 16, "batch", "several commands with ; between them")    \
    X(HELP, 32, "help", "the commands, page by page; help WORD")     \
    X(HEARD, 64, "heard", "the last refused frame, byte by byte")    \
    X(LOG, 128, "log", "what was done last; log 2: before that")     \
    X(BYE, 256, "bye", "no events or notes until something is said") \
    X(NOTES, 512, "notes", "lines of the firmware's own: note ...")
enum {
#define RLX_BUILT_IN_BIT(id, bit, name, sentence) RLX_BUILT_IN_##id = (bit),
    RLX_BUILT_INS(RLX_BUILT_IN_BIT)
#undef RLX_BUILT_IN_BIT
};
#ifndef RLX_BUILT_IN
#define RLX_BUILT_IN 1023
#endif
#if RLX_BUILT_IN < 0 || RLX_BUILT_IN > 1023
#error "RLX_BUILT_IN is 0..1023: take the value that rlx emit wrote into NAME_config.h"
#endif
#define RLX_HAS_BUILT_IN (RLX_BUILT_IN != 0)
#define RLX_HAS_HALT     ((RLX_BUILT_IN & 1) != 0)
#define RLX_HAS_HELP     ((RLX_BUILT_IN & 32) != 0)
#define RLX_HAS_HEARD    ((RLX_BUILT_IN & 64) != 0)
#define RLX_HAS_LOG      ((RLX_BUILT_IN & 128) != 0)
#define RLX_HAS_NOTES    ((RLX_BUILT_IN & 512) != 0)
/* Whether anything depends on the clock. */
#define RLX_HAS_NOW                                                                        \
    (RLX_HAS_TIMED || RLX_HAS_TAGS || RLX_HAS_EXPIRY || RLX_HAS_PACED || RLX_HAS_YIELDS || \
     RLX_HAS_INPUTS || RLX_HAS_ACTS || RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || \
     RLX_HAS_SERVOS || RLX_HAS_ROUTINES || RLX_HAS_PRESENCE || RLX_HAS_LOG || RLX_HAS_SETTINGS)
#define RLX_HAS_SOURCE (RLX_HAS_ADDRESS || RLX_HAS_TAGS || RLX_HAS_CHECK || RLX_HAS_MESSAGE)
/* Whether links are up or down. */
#define RLX_HAS_UP (RLX_HAS_EVENTS || RLX_HAS_PRESENCE || RLX_HAS_NOTES)
/* Whether frames are looked at before it is their turn. */
#define RLX_HAS_AHEAD (RLX_HAS_HALT || RLX_HAS_NEWEST)

/* Most slots one command has: 1..15. Each takes one rlx_value of the device struct. */
#ifndef RLX_SLOTS
#define RLX_SLOTS 15
#endif
#if RLX_SLOTS < 1 || RLX_SLOTS > 15
#error "RLX_SLOTS is 1..15: take the value that rlx emit wrote into NAME_config.h"
#endif

/* Number of links, 1..255; 0: as many as the image has. */
#ifndef RLX_LINKS
#define RLX_LINKS 0
#endif
#if RLX_LINKS < 0 || RLX_LINKS > 255
#error "RLX_LINKS is 0..255: take the value that rlx emit wrote into NAME_config.h"
#endif

/* Most bytes one rlx_poll() takes from each link: 1..255. Fewer bound a poll's time more
 * tightly; rlx_poll() returns 0 when it left some. */
#ifndef RLX_POLL_BYTES
#define RLX_POLL_BYTES 64
#endif
#if RLX_POLL_BYTES < 1 || RLX_POLL_BYTES > 255
#error "RLX_POLL_BYTES is 1..255"
#endif

/* Bytes of a reply that are kept for each sender whose frames have tags: 16..128. */
#ifndef RLX_KEPT
#define RLX_KEPT 128
#endif
#if RLX_KEPT < 16 || RLX_KEPT > 128
#error "RLX_KEPT is 16..128: take the value that rlx emit wrote into NAME_config.h"
#endif

/* The most that rlx emit makes room for in a link's replies and events: the three knobs below may
 * be smaller, not larger. */
#define RLX_HEARD_MOST    16
#define RLX_LOG_TEXT_MOST 16
#define RLX_NOTE_MOST     48

/* Characters of words or of a pattern in one answer of `help`. */
#define RLX_HELP_LINE 60

/* Bytes of a refused frame that `heard` tells: 4..16. */
#ifndef RLX_HEARD
#define RLX_HEARD RLX_HEARD_MOST
#endif
#if RLX_HEARD < 4 || RLX_HEARD > RLX_HEARD_MOST
#error "RLX_HEARD is 4..16: leave it out for 16"
#endif

/* How many acts `log` remembers, 2..64, and how many characters of each, 4..16. */
#ifndef RLX_LOG
#define RLX_LOG 16
#endif
#ifndef RLX_LOG_TEXT
#define RLX_LOG_TEXT RLX_LOG_TEXT_MOST
#endif
#if RLX_LOG < 2 || RLX_LOG > 64 || RLX_LOG_TEXT < 4 || RLX_LOG_TEXT > RLX_LOG_TEXT_MOST
#error "RLX_LOG is 2..64, RLX_LOG_TEXT 4..16: leave them out for 16 each"
#endif

/* Bytes of each of the two areas of non-volatile memory that keep the settings: a multiple of the
 * chip's erase page, 32..4096, no less than rlx emit wrote into NAME_config.h. They begin at the
 * first byte that the port gives. 0: each device has a number of its own, its nv_area. */
#ifndef RLX_NV_AREA
#define RLX_NV_AREA 256
#endif
#if (RLX_NV_AREA && RLX_NV_AREA < 32) || RLX_NV_AREA > 4096
#error "RLX_NV_AREA is 32..4096, or 0: leave it out for 256"
#endif

/* Longest note in bytes: 8..48. */
#ifndef RLX_NOTE
#define RLX_NOTE RLX_NOTE_MOST
#endif
#if RLX_NOTE < 8 || RLX_NOTE > RLX_NOTE_MOST
#error "RLX_NOTE is 8..48: leave it out for 48"
#endif

/* Longest frame, in bytes, that is looked at before its turn: a halt in its envelope, or a command
 * of which the newest counts. 40..254, on the stack while it is done. */
#ifndef RLX_AHEAD
#define RLX_AHEAD 254
#endif
#if RLX_AHEAD < 40 || RLX_AHEAD > 254
#error "RLX_AHEAD is 40..254: take the value that rlx emit wrote into NAME_config.h"
#endif

/* The features of this build, as bits. */
#define RLX_FEATURE_MASK(id, bit, name) | ((uint64_t)(RLX_HAS_##id ? 1 : 0) << (bit))
#define RLX_BUILD_HAS                   (UINT64_C(0) RLX_FEATURES(RLX_FEATURE_MASK))

/* One number, 16 bits, for all of this configuration: firmware and library must have the same. */
#define RLX_MIX(sum, value) ((sum)*UINT64_C(0x100000001B3) + (uint64_t)(value))
#define RLX_KNOBS_A         RLX_MIX(RLX_MIX(RLX_MIX(RLX_BUILD_HAS, RLX_BUILT_IN), RLX_SLOTS), RLX_LINKS)
#define RLX_KNOBS_B         RLX_MIX(RLX_MIX(RLX_MIX(RLX_KNOBS_A, RLX_POLL_BYTES), RLX_KEPT), RLX_HEARD)
#define RLX_KNOBS_C         RLX_MIX(RLX_MIX(RLX_MIX(RLX_KNOBS_B, RLX_LOG), RLX_LOG_TEXT), RLX_NV_AREA)
#define RLX_CONFIG_SUM      RLX_MIX(RLX_MIX(RLX_KNOBS_C, RLX_NOTE), RLX_AHEAD)
#define RLX_CONFIG_CHECK    ((unsigned)(RLX_CONFIG_SUM * UINT64_C(0x9E3779B97F4A7C15) >> 48))

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
