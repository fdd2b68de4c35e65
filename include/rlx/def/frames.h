/* The framings of links. One row each: its id, its word in a lexicon, the feature that
 * reads it, whether its characters are commands of their own (keys, codes), whether something in a
 * stream of bytes ends it (a character, a silence, a count), and whether it comes whole. */
#ifndef RLX_DEF_FRAMES_H
#define RLX_DEF_FRAMES_H

#define RLX_FRAMES(X)                     \
    X(LINE, line, LINE, 0, 0, 0)          \
    X(KEYS, keys, KEYS, 1, 0, 0)          \
    X(CODES, codes, CODES, 1, 0, 0)       \
    X(ENDED, ended, MARKED, 0, 1, 0)      \
    X(GAP, gap, TIMED, 0, 1, 0)           \
    X(FIXED, fixed, MARKED, 0, 1, 0)      \
    X(PACKET, packet, PACKET, 0, 0, 1)    \
    X(REPORT, report, REPORT, 0, 0, 1)    \
    X(MESSAGE, message, MESSAGE, 0, 0, 1) \
    X(STUFFED, stuffed, STUFFED, 0, 1, 0) \
    X(COBS, cobs, COBS, 0, 1, 0)          \
    X(RAW, raw, RAW, 0, 0, 0)

enum {
#define RLX_FRAME_ENUM(id, word, feature, keyed, ends, whole) RLX_FRAME_##id,
    RLX_FRAMES(RLX_FRAME_ENUM)
#undef RLX_FRAME_ENUM
};

#endif
