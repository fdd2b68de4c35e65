/* A link: the receive ring, the frame in the making, the transmit ring.
 *
 * Interrupt side: rlx_link_feed(), rlx_link_feed_block(), rlx_link_fault() from one producer,
 * rlx_link_take() from one consumer; they touch this struct and its buffer, nothing else.
 * Main side: everything else, by rlx_poll(). Every variable has one writer. */
#ifndef RLX_LINK_H
#define RLX_LINK_H

#include <stdbool.h>
#include <stdint.h>

/* Ring sizes in bytes: a power of two, 2..128, so that 8-bit indices do. */
#define RLX_RING_MAX 128
/* Longest frame in bytes. */
#define RLX_FRAME_MAX 254
/* Bytes of buffer a link needs. */
#define RLX_LINK_BUFFER(receive, transmit, frame) ((receive) + (transmit) + (frame) + 1)

struct rlx_link {
    /* Yours to set before rlx_init(): RLX_LINK_BUFFER() bytes, of the sizes the lexicon says, that
     * live as long as the link. The rest is zero. */
    uint8_t *buffer; /* receive ring, transmit ring, frame and its final 0 */

    /* Private, written by the interrupt side. */
    uint8_t rx_head; /* free-running index of the next byte in */
    uint8_t rx_cut;  /* differs from rx_seen while the stream is cut */
    uint8_t tx_tail; /* free-running index of the next byte out */

    /* Private, written by the main side. */
    uint8_t rx_limit; /* rx_head may not reach this: tail + ring size */
    uint8_t rx_seen;
    uint8_t tx_head;
    uint8_t frame_len;
    uint8_t frame_state; /* error of the frame in the making; RLX_FRAME_READY */

    /* Read-only after rlx_init(). */
    uint8_t rx_mask; /* ring sizes less 1 */
    uint8_t tx_mask;
    uint8_t frame_size;

    /* Read-only: written by the interrupt side; see rlx_link_lost(). */
    uint16_t rx_lost; /* bytes dropped or faulty, stays at 65535 */
    /* Read-only. */
    uint16_t refused; /* frames answered with err */
    uint16_t ignored; /* frames that were somebody's reply: not answered */
};

/* frame_state: the frame is complete and waits to be answered. */
#define RLX_FRAME_READY 0x80u

/* One received byte. From an interrupt or the main loop, but from one place only. Where the
 * ring is full the byte is dropped and counted, and everything after it until rlx_poll() has
 * taken what came before the cut: a damaged line is never joined to another. */
void rlx_link_feed(struct rlx_link *link, uint8_t byte);

/* `count` bytes at once, from a DMA or a FIFO: the same as feeding each. */
void rlx_link_feed_block(struct rlx_link *link, const uint8_t *bytes, unsigned count);

/* The receiver saw a parity, framing or overrun error: a byte is gone. From the interrupt that
 * feeds. The frame it cuts is refused as `lost`. */
void rlx_link_fault(struct rlx_link *link);

/* The next byte to send into *byte; false when there is none (the port then switches its
 * transmit interrupt off; rlx_port_kick() tells it to start again). From the transmit interrupt. */
bool rlx_link_take(struct rlx_link *link, uint8_t *byte);

/* Bytes dropped or reported faulty so far; stays at 65535. Main side. */
uint16_t rlx_link_lost(const struct rlx_link *link);

#endif
