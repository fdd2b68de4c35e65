/* The interrupt side of links without the library: a ring for each direction.
 * One producer and one consumer a ring; each index has one writer. After a loss a receive ring
 * takes nothing until the main loop has emptied it. A packet stands in it behind its length. It
 * knows no frames. */
#include "raw_links.h"

/* A test lets the interrupt in at each of these places. */
#ifndef RLX_PREEMPT
#define RLX_PREEMPT() ((void)0)
#endif

struct ring {
    uint8_t bytes[RAW_RING];
    volatile uint8_t head, tail;
};

struct rlx_link raw_links[RAW_LINKS];
static struct raw {
    struct ring rx, tx;
    volatile uint16_t lost; /* stays at 65535 */
    volatile uint8_t cut;   /* the interrupt side counts a loss... */
    volatile uint8_t seen;  /* ...and takes nothing more until the main loop has seen it */
    bool packets;
} raws[RAW_LINKS];

static struct raw *raw_of(const struct rlx_link *link)
{
    return &raws[link - raw_links];
}

static uint8_t held(const struct ring *ring)
{
    return (uint8_t)(ring->head - ring->tail);
}

/* The byte stands before the index that shows it. */
static void put(struct ring *ring, uint8_t byte)
{
    *(volatile uint8_t *)&ring->bytes[ring->head % RAW_RING] = byte;
    ring->head = (uint8_t)(ring->head + 1);
}

static uint8_t get(struct ring *ring)
{
    uint8_t byte = *(volatile uint8_t *)&ring->bytes[ring->tail % RAW_RING];
    ring->tail = (uint8_t)(ring->tail + 1);
    return byte;
}

static void lose(struct raw *raw)
{
    if (raw->lost != UINT16_MAX) raw->lost++;
    if (raw->cut == raw->seen) raw->cut = (uint8_t)(raw->cut + 1);
}

/* ---- from the interrupts ---- */

void rlx_link_feed(struct rlx_link *link, uint8_t byte)
{
    struct raw *raw = raw_of(link);
    if (held(&raw->rx) == RAW_RING || raw->cut != raw->seen)
        lose(raw);
    else
        put(&raw->rx, byte);
}

void rlx_link_fault(struct rlx_link *link)
{
    lose(raw_of(link));
}

bool rlx_link_feed_packet(struct rlx_link *link, const uint8_t *bytes, uint8_t count)
{
    struct raw *raw = raw_of(link);
    raw->packets = true;
    if (!count || (unsigned)held(&raw->rx) + count + 1 > RAW_RING) {
        lose(raw);
        return false;
    }
    put(&raw->rx, count);
    while (count--) put(&raw->rx, *bytes++);
    return true;
}

bool rlx_link_feed_report(struct rlx_link *link, const uint8_t *bytes, uint8_t count)
{
    return rlx_link_feed_packet(link, bytes, count);
}

bool rlx_link_take(struct rlx_link *link, uint8_t *byte)
{
    struct ring *tx = &raw_of(link)->tx;
    if (!held(tx)) return false;
    *byte = get(tx);
    return true;
}

/* ---- from the main loop ---- */

/* The next packet, or the rest of one that is too long dropped. */
static uint8_t read_packet(struct raw *raw, uint8_t *bytes, uint8_t room)
{
    uint8_t length = held(&raw->rx) ? get(&raw->rx) : 0;
    for (uint8_t i = 0; i < length; i++) {
        RLX_PREEMPT();
        uint8_t byte = get(&raw->rx);
        if (length <= room) bytes[i] = byte;
    }
    return length <= room ? length : 0;
}

uint8_t raw_read(uint8_t link, uint8_t *bytes, uint8_t room)
{
    struct raw *raw = &raws[link];
    if (raw->packets) return read_packet(raw, bytes, room);
    uint8_t cut = raw->cut; /* before the head: behind a loss nothing more is put */
    RLX_PREEMPT();
    uint8_t count = 0, n = held(&raw->rx);
    for (; n && count < room; n--) {
        RLX_PREEMPT();
        bytes[count++] = get(&raw->rx);
    }
    if (!n && cut != raw->seen && count < room) {
        bytes[count++] = 0xFF;
        RLX_PREEMPT();
        raw->seen = cut;
    }
    return count;
}

bool raw_write(uint8_t link, const uint8_t *bytes, uint8_t count)
{
    struct ring *tx = &raws[link].tx;
    if (RAW_RING - held(tx) < count) return false;
    while (count--) put(tx, *bytes++);
    return true;
}

bool raw_idle(void)
{
    for (uint8_t i = 0; i < RAW_LINKS; i++)
        if (held(&raws[i].rx)) return false;
    return true;
}

uint16_t raw_lost(uint8_t link)
{
    return raws[link].lost;
}
