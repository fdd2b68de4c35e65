/* A real board that is drilled: who it is, how fast it answers, what may move on it and how it
 * comes to rest, and what of it cannot be seen. */
#ifndef REAL_H
#define REAL_H

#include "drill/judge/shrink.h"
#include "drill/suites/suite.h"

#define REAL_SLACK_US UINT64_C(30000) /* it may be so late, and three times what it takes */

struct real {
    char *is;                     /* what it says that it is; NULL: it does not say */
    unsigned asked, answered;     /* how often it was asked, to measure how fast it answers... */
    uint64_t median_us, worst_us; /* ...and how long that took */
    GPtrArray *moves;             /* char *: what its commands may move */
    GPtrArray *unjudged;          /* char *: what is not said, or not seen */
    GArray *probes; /* struct move: each output to rest again, answered otherwise where it is not */
    GArray *calm;   /* struct move: they bring it to rest */
};

/* Meets the board: waits its loader out, asks who it is, asks whether it may move, measures it.
 * NULL: it is another one's, it does not answer, or may not (error is set). */
struct real *real_meet(const struct drill *drill, GError **error);
void real_free(struct real *real);

/* Whether the command moves nothing but what may move. */
bool real_may_say(const struct drill *drill, const struct lex_command *command);
/* Of a conversation what can be said to a board, behind what brings it to rest and with its outputs
 * asked; NULL: it is one of the bench's. */
GArray *real_moves(const struct drill *drill, const GArray *moves);
/* What went over the link of a real board in a conversation, and when it started anew by itself. */
struct heard {
    const struct setup *setup;
    const GArray *moves;  /* of the conversation */
    GPtrArray *lines;     /* char *: as talk prints them */
    GArray *line_moves;   /* unsigned: in which move */
    unsigned move, reset; /* reset: in that move; UINT_MAX: in none */
};
struct heard *heard_new(const struct setup *setup, const GArray *moves);
void heard_free(struct heard *heard);
void heard_sight(struct heard *heard, const struct sight *sight);
/* What is known of a failure of a real board beside what came: the lines up to it, what is said
 * again and again, which handler was called before, whether it started anew. */
void real_put_facts(const struct drill *drill, const struct heard *heard,
                    const struct failing *failing, json_t *to);

/* It comes to rest for good. */
void real_leave(const struct drill *drill);
/* For the report. */
json_t *real_json(const struct drill *drill);

#endif
