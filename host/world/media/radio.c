/* The air: packets that are lost, damaged, duplicated, delayed or collide.
 * Chances are drawn from the world's seed, packet by packet.
 * It knows no address. */
#include "world/media/radio.h"

#include <string.h>

#include "world/run/draw.h"

const char *const radio_words[] = {
    [RADIO_SENT] = "sent",        [RADIO_LOST] = "lost",    [RADIO_COLLIDED] = "collided",
    [RADIO_TWICE] = "duplicated", [RADIO_LATE] = "delayed", [RADIO_DAMAGED] = "damaged",
    [RADIO_REFUSED] = "not sent"};

#define WAITING_MAX 4
#define HOUR_US     UINT64_C(3600000000)

struct packet {
    unsigned count;
    uint8_t bytes[255];
};

struct node {
    radio_heard heard;
    void *user;
    bool sending;
    uint64_t until_us;
    bool clash[RADIO_NODES]; /* what it sends is spoilt at that receiver */
    struct packet now, waiting[WAITING_MAX];
    unsigned n_waiting;
    uint64_t hour_us, used_us; /* the hour that is counted began then; on the air in it */
};

struct radio {
    struct world *world;
    struct air air;
    struct draw draw;
    struct node nodes[RADIO_NODES];
    bool deaf[RADIO_NODES][RADIO_NODES];
    unsigned n;
    GHashTable *pending; /* struct delivery *: on their way */
    struct radio_counts counts;
    radio_watcher watcher; /* NULL: nobody looks on */
    void *watcher_user;
};

/* On its way to one receiver. */
struct delivery {
    struct radio *radio;
    unsigned to;
    struct packet packet;
};

struct radio *radio_new(struct world *world, uint32_t seed, struct air air)
{
    struct radio *r = g_new0(struct radio, 1);
    r->world = world;
    r->air = air;
    r->draw = draw_from(seed);
    r->pending = g_hash_table_new_full(NULL, NULL, g_free, NULL);
    return r;
}

void radio_free(struct radio *r)
{
    if (!r) return;
    g_hash_table_destroy(r->pending);
    g_free(r);
}

unsigned radio_join(struct radio *r, radio_heard heard, void *user)
{
    g_assert(r->n < RADIO_NODES);
    r->nodes[r->n] = (struct node){.heard = heard, .user = user};
    return r->n++;
}

void radio_reach(struct radio *r, unsigned a, unsigned b, bool hears)
{
    r->deaf[a][b] = !hears;
}

void radio_air(struct radio *r, struct air air)
{
    r->air = air;
}

void radio_watch(struct radio *r, radio_watcher watcher, void *user)
{
    r->watcher = watcher;
    r->watcher_user = user;
}

static void tell(const struct radio *r, enum radio_event what, unsigned from, unsigned to,
                 const struct packet *packet)
{
    if (r->watcher) r->watcher(r->watcher_user, what, from, to, packet->bytes, packet->count);
}

const struct radio_counts *radio_counts(const struct radio *r)
{
    return &r->counts;
}

bool radio_is_sending(const struct radio *r, unsigned node)
{
    return r->nodes[node].sending;
}

/* ---- the way to one receiver ---- */

static void on_arrival(void *data, uint32_t unused)
{
    struct delivery *d = data;
    const struct node *to = &d->radio->nodes[d->to];
    (void)unused;
    d->radio->counts.delivered++;
    to->heard(to->user, d->packet.bytes, d->packet.count);
    g_hash_table_remove(d->radio->pending, d);
}

static void damage(struct radio *r, unsigned from, unsigned to, struct packet *packet)
{
    bool any = false;
    for (unsigned bit = 0; r->air.bit_errors && bit < packet->count * 8; bit++) {
        if (!draw_happens(&r->draw, r->air.bit_errors)) continue;
        packet->bytes[bit / 8] ^= (uint8_t)(1u << bit % 8);
        any = true;
    }
    r->counts.damaged += any;
    if (any) tell(r, RADIO_DAMAGED, from, to, packet);
}

static void deliver(struct radio *r, unsigned from, unsigned to, const struct packet *packet)
{
    struct delivery *d = g_new(struct delivery, 1);
    bool late = draw_happens(&r->draw, r->air.late);
    uint64_t delay = late ? 1 + draw_below(&r->draw, r->air.late_us) : 0;
    *d = (struct delivery){r, to, *packet};
    g_hash_table_add(r->pending, d);
    damage(r, from, to, &d->packet);
    r->counts.late += late;
    if (late) tell(r, RADIO_LATE, from, to, packet);
    world_at(r->world, r->world->now_us + delay, on_arrival, d, 0);
}

static void arrive_at(struct radio *r, unsigned from, unsigned to)
{
    const struct node *sender = &r->nodes[from];
    if (r->deaf[from][to]) return;
    if (sender->clash[to]) {
        r->counts.collided++;
        tell(r, RADIO_COLLIDED, from, to, &sender->now);
    } else if (draw_happens(&r->draw, r->air.loss)) {
        r->counts.lost++;
        tell(r, RADIO_LOST, from, to, &sender->now);
    } else {
        bool twice = draw_happens(&r->draw, r->air.twice);
        if (twice) tell(r, RADIO_TWICE, from, to, &sender->now);
        deliver(r, from, to, &sender->now);
        if (twice) deliver(r, from, to, &sender->now);
        r->counts.twice += twice;
    }
}

/* ---- the air ---- */

static void begin_sending(struct radio *r, unsigned node);

static void on_sent(void *data, uint32_t node)
{
    struct radio *r = data;
    struct node *n = &r->nodes[node];
    n->sending = false;
    for (unsigned to = 0; to < r->n; to++)
        if (to != node) arrive_at(r, node, to);
    if (!n->n_waiting) return;
    n->now = n->waiting[0];
    memmove(n->waiting, n->waiting + 1, --n->n_waiting * sizeof *n->waiting);
    begin_sending(r, node);
}

/* Two at a time spoil each other wherever both are heard; who hears neither well, hears neither. */
static void mark_clashes(struct radio *r, unsigned node)
{
    memset(r->nodes[node].clash, 0, sizeof r->nodes[node].clash);
    for (unsigned other = 0; other < r->n; other++) {
        if (other == node || !r->nodes[other].sending) continue;
        r->nodes[other].clash[node] = r->nodes[node].clash[other] = true; /* who sends is deaf */
        for (unsigned to = 0; to < r->n; to++) {
            if (r->deaf[node][to] || r->deaf[other][to]) continue;
            r->nodes[node].clash[to] = r->nodes[other].clash[to] = true;
        }
    }
}

static uint64_t air_time(const struct radio *r, unsigned count)
{
    return r->air.before_us + (uint64_t)count * 8000000u / MAX(r->air.bits_a_second, 1);
}

static void begin_sending(struct radio *r, unsigned node)
{
    struct node *n = &r->nodes[node];
    mark_clashes(r, node);
    tell(r, RADIO_SENT, node, node, &n->now);
    n->sending = true;
    n->until_us = r->world->now_us + air_time(r, n->now.count);
    n->used_us += air_time(r, n->now.count);
    world_at(r->world, n->until_us, on_sent, r, node);
}

/* Whether it has sent all that it may in this hour. */
static bool has_had_its_share(struct radio *r, struct node *n, unsigned count)
{
    if (r->world->now_us - n->hour_us >= HOUR_US) {
        n->hour_us = r->world->now_us;
        n->used_us = 0;
    }
    uint64_t share = HOUR_US / 1000 * r->air.duty / (BILLION / 1000);
    return r->air.duty && n->used_us + air_time(r, count) > share;
}

bool radio_send(struct radio *r, unsigned node, const uint8_t *bytes, unsigned count)
{
    struct node *n = &r->nodes[node];
    struct packet packet = {.count = MIN(count, 255)};
    memcpy(packet.bytes, bytes, packet.count);
    if (!count || count > r->air.payload || count > sizeof packet.bytes ||
        n->n_waiting == WAITING_MAX || has_had_its_share(r, n, count)) {
        r->counts.refused++;
        tell(r, RADIO_REFUSED, node, node, &packet);
        return false;
    }
    r->counts.sent++;
    if (n->sending) {
        n->waiting[n->n_waiting++] = packet;
        return true;
    }
    n->now = packet;
    begin_sending(r, node);
    return true;
}
