/* A UART's receiver: samples a line's level and makes bytes of it, or errors.
 * Baud rates and formats of the two sides may differ; then the bytes do.
 * It knows no frame. */
#include "world/media/sampler.h"

#include <string.h>

#define KEPT   64 /* bytes that a slower receiver may still be reading */
#define SECOND UINT64_C(1000000000)

/* A byte on the line; times in nanoseconds. */
struct sent {
    uint64_t start;
    unsigned baud, bits; /* start bit lowest, data from the lowest on, parity, stop... */
    unsigned n;          /* ...so many */
};

struct sampler {
    struct world *world;
    sampler_got got;
    void *user;
    struct sent sent[KEPT]; /* a ring */
    unsigned n;             /* so many so far */
    uint64_t free;          /* it looks for an edge from here on */
    struct manner_of_uart is;
    struct faults faults;
    struct draw *draw;
    bool waits;   /* for the end of a byte */
    bool flipped; /* one side inverts the line, and the other does not */
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

/* The parity bit of so many data bits. */
static unsigned parity_of(unsigned data, const struct lex_format *format)
{
    unsigned ones = format->parity == LEX_PARITY_ODD;
    for (unsigned bit = 0; bit < format->data; bit++) ones += data >> bit & 1;
    return ones & 1;
}

static struct sent sent_of(unsigned byte, uint64_t start, const struct manner_of_uart *sender)
{
    const struct lex_format *format = &sender->format;
    struct sent sent = {.start = start, .baud = sender->baud, .n = lex_format_bits(format)};
    unsigned data = byte & ((1u << format->data) - 1), at = 1u + format->data;
    sent.bits = data << 1;
    if (format->parity != LEX_PARITY_NONE) sent.bits |= parity_of(data, format) << at++;
    sent.bits |= ((1u << format->stop) - 1) << at;
    return sent;
}

static uint64_t bit_time(const struct sent *sent, unsigned bit)
{
    return sent->start + bit * SECOND / sent->baud;
}

/* What the receiver sees: high where nothing is sent, unless only one side inverts. */
static bool level_at(const struct sampler *s, uint64_t ns)
{
    for (unsigned i = 0; i < MIN(s->n, KEPT); i++) {
        const struct sent *sent = &s->sent[(s->n - 1 - i) % KEPT];
        if (ns < sent->start) continue;
        for (unsigned bit = 0; bit < sent->n; bit++)
            if (ns < bit_time(sent, bit + 1)) return (sent->bits >> bit & 1) != s->flipped;
        break;
    }
    return !s->flipped;
}

/* The first falling edge from `from` on; UINT64_MAX: there is none yet. */
static uint64_t next_edge(const struct sampler *s, uint64_t from)
{
    uint64_t first = UINT64_MAX;
    for (unsigned i = 0; i < MIN(s->n, KEPT); i++) {
        const struct sent *sent = &s->sent[(s->n - 1 - i) % KEPT];
        if (bit_time(sent, sent->n) < from) break; /* those before are over, too */
        for (unsigned bit = 0; bit < sent->n; bit++) {
            uint64_t at = bit_time(sent, bit);
            bool is = (sent->bits >> bit & 1) != s->flipped;
            bool before = bit ? (sent->bits >> (bit - 1) & 1) != s->flipped
                              : (at ? level_at(s, at - 1) : !s->flipped);
            if (at >= from && at < first && before && !is) first = at;
        }
    }
    return first;
}

/* In the middle of the receiver's own bit. */
static bool sample(struct sampler *s, uint64_t edge, unsigned bit)
{
    bool level = level_at(s, edge + (2 * bit + 1) * SECOND / (2 * s->is.baud));
    return level != draw_happens(s->draw, s->faults.noise);
}

/* The middle of the first stop bit: the receiver looks at no other. */
static uint64_t over_at(const struct sampler *s, uint64_t edge)
{
    unsigned before = lex_format_bits(&s->is.format) - s->is.format.stop;
    return edge + (2 * before + 1) * SECOND / (2 * s->is.baud);
}

static void read_byte(struct sampler *s, uint64_t edge)
{
    const struct lex_format *format = &s->is.format;
    unsigned value = 0, at = 1;
    if (sample(s, edge, 0)) { /* no start bit: a disturbance */
        s->free = edge + SECOND / (2 * s->is.baud);
        return;
    }
    for (; at <= format->data; at++) value |= (unsigned)sample(s, edge, at) << (at - 1);
    bool fault = format->parity != LEX_PARITY_NONE &&
                 sample(s, edge, at++) != (parity_of(value, format) != 0);
    fault = !sample(s, edge, at) || fault;
    s->free = over_at(s, edge);
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
        uint64_t over = over_at(s, edge);
        if (over > now) {
            s->waits = true;
            world_at(s->world, (over + 999) / 1000, listen, s, 0);
            return;
        }
        read_byte(s, edge);
    }
}

void sampler_send(struct sampler *s, uint8_t byte, const struct manner_of_uart *sender,
                  const struct manner_of_uart *receiver, const struct faults *faults,
                  struct draw *draw)
{
    s->sent[s->n++ % KEPT] = sent_of(byte, s->world->now_us * 1000, sender);
    s->is = *receiver;
    s->flipped = sender->format.inverted != receiver->format.inverted;
    s->faults = *faults;
    s->draw = draw;
    if (!s->waits) listen(s, 0);
}
