/* What the players of a job share: yield.c keeps what comes of it, conversation.c and scenes.c
 * play. */
#ifndef YIELD_PARTS_H
#define YIELD_PARTS_H

#include "drill/judge/shrink.h"
#include "drill/run/yield.h"

#define FAILURES_MOST 20u /* reported of a job */
#define SHRUNK_MOST   2u  /* of them cut down */
#define CLOCKS_MOST   2u  /* of them tried with other clocks */

struct cell {
    char *row, *link;
    const char *fault, *strength;
    unsigned cases, passed, lost, wrong;
    bool part;  /* of the drill, no command */
    json_t *us; /* reply times */
    /* An example of it, as a scene, where somebody wants one: the moves of a conversation. */
    unsigned of; /* the number of the one that is being played, from 1 */
    unsigned from, to;
    bool good, shown_good; /* something of it was obeyed there; in the example */
    char *scene, *world;   /* NULL: none yet */
};

struct yield {
    GHashTable *cells;
    GPtrArray *order; /* struct cell * */
    json_t *failures, *cover;
    unsigned failed, shrunk, clocks, conversations;
    uint64_t us;
};

struct cell *yield_cell(struct yield *yield, const char *row, const char *link, const char *fault,
                        const char *strength);
struct setup yield_setup(const struct drill *drill, const char *world, uint32_t seed);
/* The output that a failure is about, and what the lexicon says where a firmware drives it on
 * purpose. */
void yield_put_output(json_t *failure, const struct lex_output *out, bool safer);

/* What a difference from the reference model shows beside its words, for the causes. */
void yield_put_facts(json_t *failure, const char *should, const char *is, int64_t late_us,
                     const struct at_wire *wire);

#endif
