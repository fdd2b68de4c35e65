/* What a device did in a conversation, so that a firmware can be held against the lexicon's own
 * tables: what it said over each link and what it did to each of its outputs, in their order. */
#ifndef RECORD_H
#define RECORD_H

#include "bench.h"

struct record;
/* `own`: outputs that do not count; NULL: all do. */
struct record *record_new(const struct lexicon *lx, const char *const *own);
void record_free(struct record *record);
/* A watcher of a bench; its user is the record. */
void record_sight(void *record, const struct sight *sight);
/* Number of what is done next... */
void record_move(struct record *record, unsigned move);
/* ...over this link, whose answer is the firmware's own business from now on, or not. */
void record_loose(struct record *record, unsigned link, bool loose);

/* From now on chance decides what becomes of the bytes on the links: where the firmware said
 * something of its own before, its conversation goes another way, and what is behind that is not
 * compared. */
void record_chance(struct record *record);

struct difference {
    unsigned move;
    char *expected, *came; /* in words; NULL: they are alike */
    char *link, *heard;    /* what the tables said over which link; NULL: it is about none */
};
/* What the second did first that the first did not, or the other way round. Told unasked by the
 * firmware alone, or done at pins of its own, does not count; times may differ by 20 ms and 2 %. */
struct difference record_difference(const struct record *tables, const struct record *firmware);
void difference_clear(struct difference *difference);

#endif
