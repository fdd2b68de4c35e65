/* Puts one medium behind another: a packet goes from hop to hop.
 * Each hop passes on what its medium lets through.
 * It changes no byte. */
#include "world/media/hop.h"

#include <string.h>

/* One of the two modules, and what it sends. */
struct module {
    struct hop *hop;
    enum hop_way way;
    uint8_t waiting[HOP_BUFFER];
    unsigned n_waiting;
    unsigned dropped; /* bytes in a row that found no room */
    uint64_t last_us; /* that a byte came in */
    bool sending;
    unsigned n_sending;
    uint8_t sends[HOP_BUFFER];
    uint64_t free_us; /* the receiving side's wire */
};

struct hop {
    struct world *world;
    struct hop_ends ends;
    unsigned baud;
    uint32_t late_us, clump_us;
    struct modem modem;
    struct draw *draw;
    struct module modules[2];
    uint32_t version; /* of what is on its way */
    unsigned on_way;  /* bytes between the modules and the ends */
};

struct hop *hop_new(struct world *world, unsigned baud, struct hop_ends ends)
{
    struct hop *h = g_new0(struct hop, 1);
    h->world = world;
    h->baud = baud;
    h->ends = ends;
    for (unsigned i = 0; i < 2; i++) {
        h->modules[i].hop = h;
        h->modules[i].way = (enum hop_way)i;
    }
    return h;
}

void hop_free(struct hop *h)
{
    g_free(h);
}

void hop_bridge(struct hop *h, uint32_t late_us, uint32_t clump_us)
{
    h->late_us = late_us;
    h->clump_us = clump_us;
}

void hop_modem(struct hop *h, const struct modem *modem, struct draw *draw)
{
    h->modem = *modem;
    h->draw = draw;
}

bool hop_is_none(const struct hop *h)
{
    return !h->modem.bits_a_second && !h->late_us && !h->clump_us;
}

bool hop_is_empty(const struct hop *h)
{
    bool waits = h->modules[0].n_waiting || h->modules[1].n_waiting;
    return !waits && !h->modules[0].sending && !h->modules[1].sending && !h->on_way;
}

void hop_cut(struct hop *h)
{
    h->version++;
    h->on_way = 0;
    for (unsigned i = 0; i < 2; i++) h->modules[i].n_waiting = 0, h->modules[i].sending = false;
}

/* ---- what comes out ---- */

/* A byte on its way: its version above, way and byte below. */
static void on_out(void *data, uint32_t what)
{
    struct hop *h = data;
    if ((h->version & 0x7FFFFF) != what >> 9) return;
    h->on_way--;
    h->ends.gives(h->ends.user, (enum hop_way)(what >> 8 & 1), (uint8_t)what);
}

static void give_at(struct hop *h, enum hop_way way, uint64_t at_us, uint8_t byte)
{
    h->on_way++;
    world_at(h->world, at_us, on_out, h, h->version << 9 | (uint32_t)way << 8 | byte);
}

/* When the clump that the byte is in is sent, and so much later. */
static uint64_t through_bridge(const struct hop *h)
{
    uint64_t now = h->world->now_us;
    if (h->clump_us) now = (now / h->clump_us + 1) * h->clump_us;
    return now + h->late_us;
}

/* ---- a modem's packets ---- */

static void try_both(struct hop *h);

/* What was sent comes out at the other module, back to back at its wire's speed. */
static void on_sent(void *data, uint32_t version)
{
    struct module *m = data;
    struct hop *h = m->hop;
    if (version != h->version) return;
    m->sending = false;
    bool lost = h->draw && draw_happens(h->draw, h->modem.loss);
    if (lost) h->ends.lost(h->ends.user, m->way, m->n_sending, true);
    m->free_us = MAX(m->free_us, h->world->now_us);
    for (unsigned i = 0; !lost && i < m->n_sending; i++) {
        m->free_us += UINT64_C(10000000) / h->baud;
        give_at(h, m->way, m->free_us, m->sends[i]);
    }
    try_both(h);
}

static void tell_dropped(struct module *m)
{
    unsigned bytes = m->dropped;
    m->dropped = 0;
    if (bytes) m->hop->ends.lost(m->hop->ends.user, m->way, bytes, false);
}

static void on_pause(void *data, uint32_t version)
{
    struct module *m = data;
    struct hop *h = m->hop;
    if (version != h->version) return;
    if (h->world->now_us >= m->last_us + h->modem.pause_us) tell_dropped(m);
    try_both(h);
}

/* Begins to send where a packet is complete and the air is free. */
static void try_send(struct module *m)
{
    struct hop *h = m->hop;
    const struct module *other = &h->modules[!m->way];
    bool complete =
        m->n_waiting >= h->modem.payload || h->world->now_us >= m->last_us + h->modem.pause_us;
    if (!m->n_waiting || m->sending || !complete || (h->modem.half && other->sending)) return;
    m->n_sending = MIN(m->n_waiting, h->modem.payload);
    memcpy(m->sends, m->waiting, m->n_sending);
    m->n_waiting -= m->n_sending;
    memmove(m->waiting, m->waiting + m->n_sending, m->n_waiting);
    m->sending = true;
    uint64_t air = (uint64_t)m->n_sending * 8000000u / h->modem.bits_a_second;
    world_at(h->world, h->world->now_us + h->modem.before_us + air, on_sent, m, h->version);
}

static void try_both(struct hop *h)
{
    try_send(&h->modules[HOP_TO_DEVICE]);
    try_send(&h->modules[HOP_TO_SENDER]);
}

void hop_put(struct hop *h, enum hop_way way, uint8_t byte)
{
    struct module *m = &h->modules[way];
    if (!h->modem.bits_a_second) {
        give_at(h, way, through_bridge(h), byte);
        return;
    }
    m->last_us = h->world->now_us;
    world_at(h->world, m->last_us + h->modem.pause_us, on_pause, m, h->version);
    if (m->n_waiting >= MIN(h->modem.buffer, HOP_BUFFER)) {
        m->dropped++;
        return;
    }
    tell_dropped(m);
    m->waiting[m->n_waiting++] = byte;
    try_both(h);
}
