/* The built-in words, which every lexicon can turn on. One row each: its id, its
 * name, whether it is sent as a command of that name, and what it does, in the order of their bits
 * in RLX_BUILT_IN. After a change: packaging/make-defaults. */
#ifndef RLX_DEF_BUILT_INS_H
#define RLX_DEF_BUILT_INS_H

#define RLX_BUILT_INS(X)                                          \
    X(HALT, "halt", 1, "all outputs to their safe states")        \
    X(ABOUT, "about", 1, "name, version and fingerprint")         \
    X(STATS, "stats", 1, "what the link lost and refused")        \
    X(STATE, "state", 0, "NAME? asks what an output is at")       \
    X(BATCH, "batch", 0, "several commands with ; between them")  \
    X(HELP, "help", 1, "the commands, page by page; help WORD")   \
    X(HEARD, "heard", 1, "the last refused frame, byte by byte")  \
    X(LOG, "log", 1, "what was done last; log 2: before that")    \
    X(BYE, "bye", 1, "no events or notes until the next command") \
    X(NOTES, "notes", 0, "lines of the firmware's own: note ...")

enum {
#define RLX_BUILT_IN_BIT(id, name, spoken, sentence) RLX_BUILT_IN_BIT_##id,
    RLX_BUILT_INS(RLX_BUILT_IN_BIT)
#undef RLX_BUILT_IN_BIT
};
enum {
#define RLX_BUILT_IN_MASK(id, name, spoken, sentence) \
    RLX_BUILT_IN_##id = 1 << RLX_BUILT_IN_BIT_##id,
    RLX_BUILT_INS(RLX_BUILT_IN_MASK)
#undef RLX_BUILT_IN_MASK
};

#endif
