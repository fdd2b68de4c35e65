/* Links whose bytes the firmware reads and sends itself.
 * The rings are those of all links, with what they promise: no byte is lost in silence.
 * It knows no frame. */
#include "core.h"

#if RLX_HAS_RAW

/* NULL: there is no such link, or its bytes are the library's. */
static struct rlx_link *raw_link(struct rlx_device *d, uint8_t link_no)
{
    if (!rlx_started(d) || link_no >= rlx_n_links(d)) return 0;
    return rlx_framing(rlx_link_row(d, link_no)) == RLX_FRAME_RAW ? rlx_link_at(d, link_no) : 0;
}

uint8_t rlx_raw_read(struct rlx_device *d, uint8_t link_no, uint8_t *bytes, uint8_t most,
                     bool *lost)
{
    struct rlx_link *link = raw_link(d, link_no);
    uint8_t tail, head, n = 0;
    *lost = false;
    if (!link || !most) return 0;
    enum rlx_got got;
    while ((got = rlx_ring_run(link, &tail, &head)) != RLX_GOT_BYTE) {
        if (got == RLX_GOT_NONE) return 0;
        if (got == RLX_GOT_CUT) *lost = true;
    }
    while (tail != head && n < most) bytes[n++] = rlx_rx_ring(link)[tail++ & rlx_rx_mask(link)];
    rlx_ring_took(link, tail);
    return n;
}

bool rlx_raw_write(struct rlx_device *d, uint8_t link_no, const uint8_t *bytes, uint8_t count)
{
    struct rlx_link *link = raw_link(d, link_no);
    if (!link || rlx_ring_room(link) < count) return false;
    uint8_t head = link->tx_head;
    while (count--) rlx_tx_ring(link)[head++ & rlx_tx_mask(link)] = *bytes++;
    rlx_ring_publish(link, head);
    rlx_port_kick(d->port, link_no);
    return true;
}
#endif
