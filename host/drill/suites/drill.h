/* Drills: the tests that follow from a lexicon alone, over each link of the device and under each
 * fault of the link, checked against the guarantees; with a firmware program also against the
 * reference model, the lexicon's own tables. */
#ifndef DRILL_H
#define DRILL_H

#include <jansson.h>

#include "lexicon/write/table_image.h"
#include "lexicon/model.h"
#include "world/run/outside.h"

struct drill_options {
    const char *firmware;             /* NULL: the lexicon's tables */
    const struct outside_line *board; /* a real one is drilled; NULL: it is simulated... */
    unsigned board_link;              /* ...at the other end of this link... */
    const char *where;                /* ...and how one gets there, for the report */
    const char *const *only; /* on a board: nothing but these outputs and "handler()"s moves; NULL:
                              * whatever a command moves */
    /* On a board: whether all that is named may move. False ends it. */
    bool (*may_move)(const char *what);
    const char *link;  /* only this one; NULL: all */
    uint64_t slack_us; /* it may do things this much later than the lexicon has it */
    const char *suite; /* words, ends, faults, life, mixed; NULL: all */
    bool guarantees;   /* these only, not the reference model */
    bool first;        /* the first failure ends it */
    bool bare;         /* failures are reported without their conversations */
    uint32_t seed;
    unsigned jobs;  /* processes */
    unsigned mixed; /* conversations of that suite */
    bool examples;  /* each cell of a part has a scene of it */
    /* A part is over: NULL where nobody wants to know. `part` has its `cells` and `failures`. */
    void (*progress)(unsigned done, unsigned of, unsigned failed, const json_t *part);
};

/* The report: docs/drill.md lists its members. Owned by the caller; NULL (error is set): it could
 * not begin. */
json_t *drill(struct lexicon *lx, const struct image *image, const struct drill_options *options,
              GError **error);
/* The suites: the name, its test cases for each link and those of the device, and whether nobody
 * has to press, cut or jam anything for them, so that a real board can be drilled so. */
#define DRILL_SUITES(X)                       \
    X(words, words_jobs, NULL, true)          \
    X(ends, ends_jobs, NULL, true)            \
    X(layouts, layouts_jobs, NULL, false)     \
    X(life, NULL, life_jobs, false)           \
    X(contracts, NULL, contracts_jobs, false) \
    X(mixed, NULL, mixed_jobs, false)         \
    X(faults, faults_jobs, NULL, false)
/* Whether it can be drilled on a real board. */
bool drill_is_for_boards(const char *name);

#endif
