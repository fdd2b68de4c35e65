/* The receive and transmit rings of a link, and all that may be called from an interrupt.
 * One writer for each index; 8-bit free-running counts; a loss poisons the cut line.
 * It knows no frame. */
#include "core.h"

/* A byte that the other side writes. What a side writes itself it reads as it is, and writes
 * between two fences. */
#define THEIRS(byte) (*(const volatile uint8_t *)&(byte))

/* ---- interrupt side ---- */

__attribute__((__always_inline__)) static inline void mark_lost(struct rlx_link *link)
{
    uint8_t seen = THEIRS(link->rx_seen);
    uint16_t lost = (uint16_t)(link->rx_lost + 1);
    if (link->rx_cut == seen) link->rx_cut = (uint8_t)(seen + 1);
    if (lost) link->rx_lost = lost;
    RLX_FENCE();
}

void rlx_link_fault(struct rlx_link *link)
{
    mark_lost(link);
}

void rlx_link_feed(struct rlx_link *link, uint8_t byte)
{
    uint8_t head = link->rx_head;
    if (link->rx_cut == THEIRS(link->rx_seen) && head != THEIRS(link->rx_limit)) {
        rlx_rx_ring(link)[head & rlx_rx_mask(link)] = byte;
        RLX_FENCE();
        link->rx_head = (uint8_t)(head + 1);
        RLX_FENCE();
        return;
    }
    mark_lost(link); /* inlined, for a call would cost every byte a register saved */
}

void rlx_link_feed_block(struct rlx_link *link, const uint8_t *bytes, unsigned count)
{
    while (count--) rlx_link_feed(link, *bytes++);
}

#if RLX_HAS_TIMED
/* One silence is marked at a time; at a second one before the first was seen, what came between
 * them cannot be distinguished, and is lost. */
void rlx_link_gap(struct rlx_link *link)
{
    uint8_t seen = THEIRS(link->rx_gap_seen), head = link->rx_head;
    if (link->rx_gap != seen) {
        if (link->rx_gap_at != head) mark_lost(link);
        return;
    }
    link->rx_gap_at = head;
    RLX_FENCE();
    link->rx_gap = (uint8_t)(seen + 1);
    RLX_FENCE();
}
#endif

#if RLX_HAS_PACKET || RLX_HAS_REPORT
/* Its length first; nothing of it is seen before all of it is there. False: there is no room. */
static bool put_packet(struct rlx_link *link, const uint8_t *bytes, uint8_t count)
{
    uint8_t head = link->rx_head, room = (uint8_t)(THEIRS(link->rx_limit) - head);
    if (count >= room || !count) return false;
    rlx_rx_ring(link)[head++ & rlx_rx_mask(link)] = count;
    while (count--) rlx_rx_ring(link)[head++ & rlx_rx_mask(link)] = *bytes++;
    RLX_FENCE();
    link->rx_head = head;
    RLX_FENCE();
    return true;
}
#endif

#if RLX_HAS_PACKET
bool rlx_link_feed_packet(struct rlx_link *link, const uint8_t *bytes, uint8_t count)
{
    if (put_packet(link, bytes, count)) return true;
    if (link->rx_lost != UINT16_MAX) link->rx_lost++;
    return false;
}
#endif

#if RLX_HAS_REPORT
bool rlx_link_feed_report(struct rlx_link *link, const uint8_t *bytes, uint8_t count)
{
    uint8_t used = 0;
    /* up to the end of its line: the rest is nothing */
    while (used < count && (bytes[used] == '\r' || bytes[used] == '\n')) used++;
    while (used < count && bytes[used] && bytes[used] != '\r' && bytes[used] != '\n') used++;
    if (used < count) used++;
    return link->rx_cut == THEIRS(link->rx_seen) && put_packet(link, bytes, used);
}
#endif

bool rlx_link_take(struct rlx_link *link, uint8_t *byte)
{
#if RLX_HAS_SMS
    if (link->sms) return rlx_sms_take(link->sms, byte);
#endif
    uint8_t tail = link->tx_tail;
    if (tail == THEIRS(link->tx_head)) return false;
    RLX_FENCE();
    *byte = rlx_tx_ring(link)[tail & rlx_tx_mask(link)];
    RLX_FENCE();
    link->tx_tail = (uint8_t)(tail + 1);
    RLX_FENCE();
    return true;
}

/* ---- main side ---- */

RLX_INTERNAL enum rlx_got rlx_ring_run(struct rlx_link *link, uint8_t *tail, uint8_t *head)
{
    /* The mark before the head: bytes may still come before a cut, not after it. */
    uint8_t cut = THEIRS(link->rx_cut);
    RLX_FENCE();
    RLX_PREEMPT();
    *head = THEIRS(link->rx_head);
    RLX_PREEMPT();
    *tail = (uint8_t)(link->rx_limit - 1u - rlx_rx_mask(link));
#if RLX_HAS_TIMED
    /* The mark after the head: one that stands before a byte that is seen is seen too. */
    RLX_FENCE();
    uint8_t gap = THEIRS(link->rx_gap);
    RLX_FENCE();
    RLX_PREEMPT();
    if (gap != link->rx_gap_seen) {
        uint8_t at = THEIRS(link->rx_gap_at);
        if (at == *tail) {
            link->rx_gap_seen = gap;
            RLX_FENCE();
            return RLX_GOT_GAP;
        }
        if ((uint8_t)(at - *tail) < (uint8_t)(*head - *tail)) *head = at;
    }
#endif
    RLX_FENCE();
    if (*tail != *head) return RLX_GOT_BYTE;
    if (cut == link->rx_seen) return RLX_GOT_NONE;
    RLX_PREEMPT();
    link->rx_seen = cut;
    RLX_FENCE();
    return RLX_GOT_CUT;
}

RLX_INTERNAL void rlx_ring_took(struct rlx_link *link, uint8_t tail)
{
    RLX_FENCE();
    RLX_PREEMPT();
    link->rx_limit = (uint8_t)(tail + 1u + rlx_rx_mask(link));
    RLX_FENCE();
}

#if RLX_HAS_SMS
RLX_INTERNAL enum rlx_got rlx_ring_get(struct rlx_link *link, uint8_t *byte)
{
    uint8_t tail, head;
    enum rlx_got got = rlx_ring_run(link, &tail, &head);
    if (got != RLX_GOT_BYTE) return got;
    *byte = rlx_rx_ring(link)[tail & rlx_rx_mask(link)];
    rlx_ring_took(link, (uint8_t)(tail + 1));
    return got;
}
#endif

RLX_INTERNAL bool rlx_ring_waits(const struct rlx_link *link)
{
    return (uint8_t)(link->rx_limit - 1u - rlx_rx_mask(link)) != THEIRS(link->rx_head) ||
#if RLX_HAS_TIMED
           THEIRS(link->rx_gap) != link->rx_gap_seen ||
#endif
           THEIRS(link->rx_cut) != link->rx_seen;
}

uint16_t rlx_link_lost(const struct rlx_link *link)
{
    const volatile uint16_t *count = &link->rx_lost;
    uint16_t lost = *count, again;
    while ((again = *count) != lost) lost = again; /* two bytes on an 8-bit chip */
    return lost;
}

RLX_INTERNAL uint8_t rlx_ring_room(const struct rlx_link *link)
{
    return (uint8_t)(rlx_tx_mask(link) + 1u - (uint8_t)(link->tx_head - THEIRS(link->tx_tail)));
}

#if RLX_HANGS_UP
RLX_INTERNAL bool rlx_ring_is_sent(const struct rlx_link *link)
{
    return link->tx_head == THEIRS(link->tx_tail);
}
#endif

RLX_INTERNAL void rlx_ring_publish(struct rlx_link *link, uint8_t head)
{
    RLX_FENCE();
    RLX_PREEMPT();
    link->tx_head = head;
    RLX_FENCE();
}
