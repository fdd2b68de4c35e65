/* The network that carries text messages between modems and people's phones: late, in another
 * order, twice or not at all. It holds what a modem cannot take. */
#ifndef NETWORK_H
#define NETWORK_H

#include <glib.h>

#include "world/run/draw.h"
#include "world/modem/tpdu.h"
#include "world/run/world.h"

struct network;
struct sms_modem;

struct network_faults {
    uint64_t delay_us;    /* from one to the other... */
    uint64_t spread_us;   /* ...and up to so much more */
    uint32_t loss, twice; /* parts of a billion: it does not come, or comes two times */
    uint32_t rejects;     /* it is not taken from a modem */
    int quarters;         /* of an hour from UTC, as the network has the time */
};

/* Somebody's phone has got a message. */
typedef void (*network_phone)(void *user, const char *from, const char *to, const char *text);

struct network *network_new(struct world *world, uint32_t seed, network_phone phone, void *user);
void network_free(struct network *network);
struct network_faults *network_faults(struct network *network);

/* A modem has this number from now on. */
void network_join(struct network *network, struct sms_modem *modem, const char *number);

/* Somebody writes to a number: in several parts where it is long, in UCS2 where it has to be.
 * False: it cannot be written. */
bool network_write(struct network *network, const char *from, const char *to, const char *text);
/* A message as it is delivered, whole. */
void network_carry(struct network *network, const char *to, const guint8 *tpdu, unsigned size);
/* A modem sends one; false: it is rejected. */
bool network_submit(struct network *network, struct sms_modem *from, const struct tpdu *submitted);

/* Messages that are under way, or held for a modem that cannot take them. */
unsigned network_under_way(const struct network *network);
/* What the network's clock shows, in seconds since 2000 UTC. */
uint64_t network_seconds(const struct network *network);

#endif
