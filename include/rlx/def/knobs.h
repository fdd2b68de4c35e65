/* The knobs: numbers that a build of the library may be given. One row each: its name, the least,
 * the most, the default, whether 0 is possible too, and what it counts. `rlx emit` writes all of
 * them into NAME_config.h; -DRLX_<name>=N when compiling goes before that. `rlx emit` makes room
 * for the most in the links' replies. docs/config.md explains each. After a change:
 * packaging/make-defaults. */
#ifndef RLX_DEF_KNOBS_H
#define RLX_DEF_KNOBS_H

#define RLX_KNOBS(X)                                                                        \
    X(SLOTS, 1, 15, 15, 0, "slots of a command")                                            \
    X(LINKS, 1, 255, 0, 1, "links; 0: as many as the image has")                            \
    X(POLL_BYTES, 1, 255, 64, 0, "bytes that one poll takes from each link")                \
    X(KEPT_REPLY_BYTES, 16, 128, 128, 0, "bytes of a reply kept for each sender with tags") \
    X(AHEAD_BYTES, 40, 254, 254, 0, "bytes of a frame that is read before its turn")        \
    X(HEARD_BYTES, 4, 16, 16, 0, "bytes of a refused frame that `heard` shows")             \
    X(LOG_ENTRIES, 2, 64, 16, 0, "commands that `log` remembers")                           \
    X(LOG_CHARACTERS, 4, 16, 16, 0, "characters of each command in the log")                \
    X(NOTE_BYTES, 8, 48, 48, 0, "bytes of a note")                                          \
    X(SAYS_BYTES, 4, 128, 128, 0, "bytes of ok and a command with its own answer")          \
    X(NV_AREA_BYTES, 32, 4096, 256, 1, "bytes of a settings area; 0: nv_area")              \
    X(FIRMWARE_SAFE, 1, 1, 0, 1, "1: rlx_output_safe() is there for the firmware")          \
    X(FIXED, 1, 1, 0, 1, "1: for the one lexicon of NAME_config.h; 0: any tables")

enum {
#define RLX_KNOB_RANGE(id, least, most, normal, zero, counts) \
    RLX_LEAST_##id = (least), RLX_MOST_##id = (most),
    RLX_KNOBS(RLX_KNOB_RANGE)
#undef RLX_KNOB_RANGE
};

#endif
