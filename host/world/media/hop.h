/* What is between the two UARTs of a wireless serial link: a bridge, whose bytes come later and in
 * clumps, or a transparent modem, which cuts packets at a pause or at its payload and sends them
 * through air that is slower than the wire. */
#ifndef HOP_H
#define HOP_H

#include "world/run/draw.h"
#include "world/run/world.h"

#define HOP_BUFFER 4096

/* Times in microseconds, the chance in parts of a billion. */
struct modem {
    unsigned bits_a_second; /* of the air; 0: it is no modem but a bridge */
    uint32_t before_us;     /* of each packet */
    unsigned payload;       /* most bytes of a packet */
    uint32_t pause_us;      /* after which a packet is cut */
    unsigned buffer;        /* bytes that may wait, 1..HOP_BUFFER */
    uint32_t loss;          /* that a packet does not come */
    bool half;              /* only one of the two sends at a time */
};

enum hop_way { HOP_TO_DEVICE, HOP_TO_SENDER };

struct hop_ends {
    void *user;
    void (*gives)(void *user, enum hop_way way, uint8_t byte);
    /* So many bytes in a row found no room in a modem, or a packet of them was lost in the air. */
    void (*lost)(void *user, enum hop_way way, unsigned bytes, bool packet);
};

struct hop;
struct hop *hop_new(struct world *world, unsigned baud, struct hop_ends ends);
void hop_free(struct hop *hop);
/* From now on. */
void hop_bridge(struct hop *hop, uint32_t late_us, uint32_t clump_us);
void hop_modem(struct hop *hop, const struct modem *modem, struct draw *draw);
/* Whether it is a wire: nothing comes later. */
bool hop_is_none(const struct hop *hop);
/* A byte goes in, now. */
void hop_put(struct hop *hop, enum hop_way way, uint8_t byte);
/* What waits or is on its way is lost. */
void hop_cut(struct hop *hop);
/* Nothing waits and nothing is on its way. */
bool hop_is_empty(const struct hop *hop);

#endif
