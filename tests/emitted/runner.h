/* Between tests/emitted.c, which has every feature, and a library that has those of one lexicon:
 * nothing here may depend on the configuration. */
#ifndef RUNNER_H
#define RUNNER_H

#include <stdbool.h>
#include <stdint.h>

#define EMITTED_TEXT  20000
#define EMITTED_LINKS 6

struct emitted_state {
    char sent[EMITTED_LINKS][EMITTED_TEXT];
    unsigned sent_count[EMITTED_LINKS];
    char pins[EMITTED_TEXT];
    int returns;       /* what handlers return */
    int32_t tells[16]; /* what a query is told */
    unsigned calls;
    int32_t value[16]; /* what the last handler got, where all of it are numbers... */
    unsigned n_values; /* ...and so many */
};

enum { EMITTED_BYTES, EMITTED_PACKET, EMITTED_REPORT, EMITTED_MESSAGE };
enum { EMITTED_PIN, EMITTED_FAULT, EMITTED_EVENT, EMITTED_NOTE };

struct emitted {
    int (*power)(struct emitted_state *state, uint32_t now_ms); /* what NAME_init() said */
    void (*feed)(unsigned link, int how, const char *bytes, unsigned count);
    uint32_t (*poll)(uint32_t now_ms);
    bool (*idle)(void);
    void (*happen)(int what, unsigned which, unsigned value);
};

#endif
