/* The features: what a build of the library can have. One row each: its name and what it is, in the
 * order of their bits in a table image. A build has it when RLX_HAS_<name> is 1; rlx_init() refuses
 * an image that needs one the build lacks. After a change: packaging/make-defaults. */
#ifndef RLX_DEF_FEATURES_H
#define RLX_DEF_FEATURES_H

#define RLX_FEATURES(X)                                                    \
    X(ANY_CASE, "letters any-case")                                        \
    X(SHORTEN, "shortened words")                                          \
    X(HASH, "a hashed word table (more than 8 first words)")               \
    X(FAMILY, "commands that share a first word")                          \
    X(CHOICE, "choice slots")                                              \
    X(NUMBER, "number slots")                                              \
    X(WIDE, "numbers beyond 16 bits")                                      \
    X(UNIT, "units behind numbers")                                        \
    X(MANY, "more than 255 command shapes or handlers")                    \
    X(CALL, "commands that call a handler")                                \
    X(SWITCH, "outputs that are switched")                                 \
    X(LEVEL, "outputs with a PWM level")                                   \
    X(LINE, "line frames")                                                 \
    X(KEYS, "key frames")                                                  \
    X(GREETING, "the greeting")                                            \
    X(LONG_REPLY, "replies that may not fit")                              \
    X(FORM, "fractions, hex numbers, times and scales")                    \
    X(SET, "sets of words")                                                \
    X(LIST, "lists of numbers")                                            \
    X(TEXT, "texts")                                                       \
    X(GLUE, "words that touch their number")                               \
    X(NUMBERED, "commands by number")                                      \
    X(CODES, "codes (self-ending frames)")                                 \
    X(MARKED, "frames with an end, a length or a lead of their own")       \
    X(TIMED, "frames that a silence ends")                                 \
    X(PACKET, "packets")                                                   \
    X(CHECK, "checks")                                                     \
    X(ADDRESS, "addresses")                                                \
    X(TAGS, "tags")                                                        \
    X(OWN, "short, silent and own replies")                                \
    X(LIMITED, "commands limited to some links, ignored texts")            \
    X(EXPIRY, "outputs that go safe, or off, after a time")                \
    X(QUERY, "queries")                                                    \
    X(EVENTS, "events")                                                    \
    X(PACED, "events that are paced or confirmed")                         \
    X(PEOPLE, "echo and backspace")                                        \
    X(REPORT, "reports")                                                   \
    X(MESSAGE, "text messages")                                            \
    X(NEWEST, "commands of which the newest counts")                       \
    X(DROP, "replies that are dropped where there is no room")             \
    X(YIELDS, "links that go before others")                               \
    X(INPUTS, "inputs")                                                    \
    X(ACTS, "outputs that blink, flash, beep or fade")                     \
    X(CURVE, "levels as the eye sees them")                                \
    X(RESTS, "relays with minimum times and interlocks")                   \
    X(TONE, "buzzers with a pitch")                                        \
    X(REVERSERS, "reversers")                                              \
    X(MOTORS, "motors")                                                    \
    X(SERVOS, "servos")                                                    \
    X(GROUPS, "groups")                                                    \
    X(ROUTINES, "routines")                                                \
    X(PRESENCE, "links that can be lost")                                  \
    X(PATTERNS, "patterns to blink")                                       \
    X(COUNTED, "relays whose switching is counted")                        \
    X(PLACES, "reversers with a position estimated from travel time")      \
    X(SETTINGS, "settings")                                                \
    X(SMS, "a modem for text messages")                                    \
    X(STEPPERS, "stepper motors")                                          \
    X(WORDS, "lists of words, beside the hashed table and choices")        \
    X(ERRORS, "errors with their names, what is meant and where")          \
    X(SAYS, "commands with an answer of their own")                        \
    X(INPUT_ACTS, "inputs that do something")                              \
    X(REASONS, "handlers that refuse with a reason of their own")          \
    X(PERMITS, "outputs that inputs permit")                               \
    X(OUTPUT_EVENTS, "outputs that tell when they go on and off")          \
    X(ANSWERS, "commands that answer with values, queries with slots")     \
    X(GREETS, "the greeting again when a link comes up")                   \
    X(LINE_ENDS, "answers that end otherwise than with CR LF")             \
    X(FIELDS, "own texts of errors with what was wrong in them")           \
    X(LOOPS, "routines that repeat")                                       \
    X(SHOWS, "outputs with a state of their own for each state of a link") \
    X(SET_TIMES, "expiry times from settings")                             \
    X(BOUNDS, "ranges whose ends are settings")                            \
    X(SET_RAMPS, "ramps, fades and slew times from settings")              \
    X(SET_DEBOUNCE, "debounce times from settings")                        \
    X(HANG_UP, "links that bye hangs up")                                  \
    X(KEPT, "confirmed events that outlast a power cut")                   \
    X(LAYOUT, "binary frames by layouts")                                  \
    X(STUFFED, "frames between flags, with byte stuffing")                 \
    X(COBS, "frames that a zero byte ends")                                \
    X(SCALED, "values that a layout stretches over another range")         \
    X(CHANNELS, "frames of proportional channels")                         \
    X(RAW, "raw bytes, which the firmware reads")                          \
    X(SEAL, "seals")                                                       \
    X(SMS_CODE, "text messages that begin with a code")                    \
    X(GUARDS, "commands that an output or input permits")                  \
    X(CODED, "commands with a code")                                       \
    X(WEAR, "a memory that is written less often")                         \
    X(KEPT_TAGS, "tags that outlast a power cut")

enum {
#define RLX_FEATURE_BIT(id, name) RLX_BIT_##id,
    RLX_FEATURES(RLX_FEATURE_BIT) RLX_N_FEATURES
#undef RLX_FEATURE_BIT
};
/* An image says what it needs in so many words of 32 bits. */
#define RLX_FEATURE_WORDS 3

#endif
