#include "sampler.h"

#include <string.h>

#define BITS   10 /* start, 8 data from the lowest on, stop */
#define KEPT   64 /* bytes that a slower receiver may still be reading */
#define SECOND UINT64_C(1000000000)

/* A byte on the line; times in nanoseconds. */
struct sent {
    uint64_t start;
    unsigned baud, bits; /* bits: start bit lowest */
};

struct sampler {
    struct world *world;
    sampler_got got;
    void *user;
    struct sent sent[KEPT]; /* a ring */
    unsigned n;             /* so many so far */
    uint64_t free;          /* it looks for an edge from here on */
    unsigned baud;          /* its own */
    struct faults faults;
    struct draw *draw;
    bool waits; /* for the end of a byte */
};

struct sampler *sampler_new(struct world *world, sampler_got got, void *user)
{
    struct sampler *s = g_new0(struct sampler, 1);
    s->world = world;
    s->got = got;
    s->user = user;
    return s;
}

void sampler_free(struct sampler *s)
{
    g_free(s);
}

static uint64_t bit_time(const struct sent *sent, unsigned bit)
{
    return sent->start + bit * SECOND / sent->baud;
}

/* The line is high where nothing is sent. */
static bool level_at(const struct sampler *s, uint64_t ns)
{
    for (unsigned i = 0; i < MIN(s->n, KEPT); i++) {
        const struct sent *sent = &s->sent[(s->n - 1 - i) % KEPT];
        if (ns < sent->start) continue;
        for (unsigned bit = 0; bit < BITS; bit++)
            if (ns < bit_time(sent, bit + 1)) return sent->bits >> bit & 1;
        return true;
    }
    return true;
}

/* The first falling edge from `from` on; UINT64_MAX: there is none yet. */
static uint64_t next_edge(const struct sampler *s, uint64_t from)
{
    uint64_t first = UINT64_MAX;
    for (unsigned i = 0; i < MIN(s->n, KEPT); i++) {
        const struct sent *sent = &s->sent[(s->n - 1 - i) % KEPT];
        if (bit_time(sent, BITS) < from) break; /* those before are over, too */
        for (unsigned bit = 0; bit < BITS; bit++) {
            uint64_t at = bit_time(sent, bit);
            bool before = bit ? sent->bits >> (bit - 1) & 1 : at == 0 || level_at(s, at - 1);
            if (at >= from && at < first && before && !(sent->bits >> bit & 1)) first = at;
        }
    }
    return first;
}

/* In the middle of the receiver's own bit. */
static bool sample(struct sampler *s, uint64_t edge, unsigned bit)
{
    bool level = level_at(s, edge + (2 * bit + 1) * SECOND / (2 * s->baud));
    return level != draw_happens(s->draw, s->faults.noise);
}

static void read_byte(struct sampler *s, uint64_t edge)
{
    unsigned value = 0;
    if (sample(s, edge, 0)) { /* no start bit: a disturbance */
        s->free = edge + SECOND / (2 * s->baud);
        return;
    }
    for (unsigned bit = 0; bit < 8; bit++) value |= (unsigned)sample(s, edge, 1 + bit) << bit;
    bool fault = !sample(s, edge, 9);
    s->free = edge + 19 * SECOND / (2 * s->baud);
    if (draw_happens(s->draw, s->faults.lost)) return;
    s->got(s->user, (uint8_t)value, fault);
    if (draw_happens(s->draw, s->faults.twice)) s->got(s->user, (uint8_t)value, fault);
}

static void listen(void *data, uint32_t unused)
{
    struct sampler *s = data;
    uint64_t now = s->world->now_us * 1000;
    (void)unused;
    s->waits = false;
    for (;;) {
        uint64_t edge = next_edge(s, s->free);
        if (edge == UINT64_MAX) return;
        uint64_t over = edge + 19 * SECOND / (2 * s->baud);
        if (over > now) {
            s->waits = true;
            world_at(s->world, (over + 999) / 1000, listen, s, 0);
            return;
        }
        read_byte(s, edge);
    }
}

void sampler_send(struct sampler *s, uint8_t byte, unsigned baud, unsigned receiver_baud,
                  const struct faults *faults, struct draw *draw)
{
    s->sent[s->n++ % KEPT] =
        (struct sent){s->world->now_us * 1000, baud, (unsigned)byte << 1 | 1u << 9};
    s->baud = receiver_baud;
    s->faults = *faults;
    s->draw = draw;
    if (!s->waits) listen(s, 0);
}
