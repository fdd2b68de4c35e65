/* The rings of a link, with any indexes and any bytes, for each size; an interrupt may change what
 * is its own between any two accesses.
 * What holds of the masks is what rlx_init() has made of them. */
#include "any.h"
#include "core/ring.c"

static uint8_t buffer[2 * 128 + 130];
static uint8_t bytes[128];

static void with(uint8_t rx, uint8_t tx)
{
    struct rlx_link link;
    uint8_t byte, tail, head;
    ANY(link);
    ANY(buffer);
    ANY(bytes);
    link.buffer = buffer;
    link.sms = 0;
    link.rx_mask = rx;
    link.tx_mask = tx;
    switch (any_of(0, 11)) {
    case 0: rlx_link_feed(&link, any_byte()); break;
    case 1: rlx_link_feed_block(&link, bytes, sizeof bytes); break;
    case 2: rlx_link_gap(&link); break;
    case 3: rlx_link_feed_packet(&link, bytes, 127); break;
    case 4: rlx_link_feed_report(&link, bytes, 64); break;
    case 5: rlx_link_take(&link, &byte); break;
    case 6: rlx_link_fault(&link); break;
    case 7:
        if (rlx_ring_run(&link, &tail, &head) == RLX_GOT_BYTE) rlx_ring_took(&link, head);
        break;
    case 8: rlx_ring_get(&link, &byte); break;
    case 9: rlx_ring_waits(&link); break;
    case 10: rlx_ring_room(&link); break;
    default: rlx_ring_publish(&link, any_byte()); break;
    }
}

void main(void)
{
    switch (any_of(3, 7)) {
    case 3: with(7, 127); break;
    case 4: with(15, 63); break;
    case 5: with(31, 31); break;
    case 6: with(63, 15); break;
    default: with(127, 7);
    }
}
