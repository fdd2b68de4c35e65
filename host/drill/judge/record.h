/* What a device did in a conversation, so that a firmware can be held against the lexicon's own
 * tables: what it sent over each link and what it did to each of its outputs, in their order. */
#ifndef RECORD_H
#define RECORD_H

#include "world/boards/bench.h"

#define CLOCK_MOST 20000 /* ppm that a firmware's clock may be slow or fast; so it is tried... */
#define CLOCK_STEP 5000  /* ...in these steps */

struct record;
/* `slack_us`: as much later than the reference
 * model it may do something. */
struct record *record_new(const struct lexicon *lx, uint64_t slack_us);
void record_free(struct record *record);
/* It may have done all this much later, from now on. */
void record_slack(struct record *record, uint64_t slack_us);
/* A watcher of a bench; its user is the record. */
void record_sight(void *record, const struct sight *sight);
/* Number of what is done next, one more than before, and when... */
void record_move(struct record *record, unsigned move, uint64_t us);
/* From now on the link is bad: with another clock something else gets through. Or it is good. */
void record_bad(struct record *record, bool bad);
/* The conversation is over. */
void record_end(struct record *record, uint64_t us);
/* ...over this link, whose answer is the firmware's own business from now on, or not. */
void record_loose(struct record *record, unsigned link, bool loose);

/* Nothing counts but what is sent over this link: no output of a real board is seen. */
void record_only(struct record *record, unsigned link);
/* From now on nothing counts, or it does again. */
void record_mute(struct record *record, bool mute);

/* From now on chance decides what becomes of the bytes on the links: where the firmware sent
 * something of its own before, its conversation goes another way, and what is behind that is not
 * compared. */
void record_chance(struct record *record);

/* What is known of a difference at a wire of an output. */
struct at_wire {
    unsigned number;         /* its pin or channel */
    bool is_pin;             /* else its level is a duty, a width or a rate */
    unsigned should, is;     /* levels */
    uint64_t due_us, did_us; /* since its level changed before; `did_us` 0: it did not */
};

struct difference {
    unsigned move;
    char *expected, *came; /* in words; NULL: they are alike */
    char *link, *heard; /* what the reference model sent over which link; NULL: it is about none */
    const struct lex_output *out; /* NULL: it is about an answer */
    char *should, *is;            /* of an answer the texts, without times; NULL: none came */
    int64_t late_us;     /* the same came so much later, or earlier; 0: it is something else */
    bool safer;          /* the firmware only puts it to its safe state by itself */
    struct at_wire wire; /* where `out` is one */
};
/* What the second did first that the first did not, or the other way round. Told unasked by the
 * firmware alone, or done at pins of its own, does not count. Times are counted from what was done
 * before to the output or over the link, or from the move; they may differ by 20 ms, the firmware's
 * slack and 2 %. With slack, or where the clocks drift, a fade, ramp or slew counts where it rests.
 * An output that it may put to its safe state is never farther from it than the reference model has
 * it. */
struct difference record_difference(const struct record *tables, const struct record *firmware,
                                    bool drifts);
void difference_clear(struct difference *difference);

#endif
