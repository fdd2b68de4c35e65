/* A packet radio that several share: air time, one sender at a time, and what gets lost, comes
 * twice, comes late or is damaged. Times in microseconds, chances in parts of a billion, every draw
 * from the seed. */
#ifndef RADIO_H
#define RADIO_H

#include "world/run/world.h"

#define RADIO_NODES 16

/* What the air does to each packet on its way to each receiver. */
struct air {
    unsigned payload;                       /* most bytes of a packet; longer ones are not sent */
    uint32_t bits_a_second;                 /* of the air */
    uint32_t before_us;                     /* preamble and turnaround of each packet */
    uint32_t loss, twice, late, bit_errors; /* chances; bit_errors of each bit */
    uint32_t late_us;                       /* those that are late, at most so much */
    uint32_t duty; /* a node's share of an hour, in parts of a billion; 0: any */
};

struct radio_counts {
    unsigned sent, delivered, lost, twice, late, damaged, collided, refused;
};

typedef void (*radio_heard)(void *user, const uint8_t *bytes, unsigned count);

struct radio;
struct radio *radio_new(struct world *world, uint32_t seed, struct air air);
void radio_free(struct radio *radio);

/* What became of a packet: it began to be sent (to: the sender), or on its way to one receiver. */
enum radio_event {
    RADIO_SENT,
    RADIO_LOST,
    RADIO_COLLIDED,
    RADIO_TWICE,
    RADIO_LATE,
    RADIO_DAMAGED,
    RADIO_REFUSED /* it was not sent: too long, or the node has had its share of the hour */
};
/* Their words in a trace and at a terminal. */
extern const char *const radio_words[];
typedef void (*radio_watcher)(void *user, enum radio_event what, unsigned from, unsigned to,
                              const uint8_t *bytes, unsigned count);
void radio_watch(struct radio *radio, radio_watcher watcher, void *user);

/* Returns the node's number. */
unsigned radio_join(struct radio *radio, radio_heard heard, void *user);
/* Whether b hears a; at first everybody hears everybody. */
void radio_reach(struct radio *radio, unsigned a, unsigned b, bool hears);
/* The air from now on. */
void radio_air(struct radio *radio, struct air air);

/* False, and counted: it is longer than a packet, or the node may send no more in this hour. One
 * that is sending sends it next; at most four wait. */
bool radio_send(struct radio *radio, unsigned node, const uint8_t *bytes, unsigned count);
bool radio_is_sending(const struct radio *radio, unsigned node);
const struct radio_counts *radio_counts(const struct radio *radio);

#endif
