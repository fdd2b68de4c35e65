/* A link: the receive ring, the frame in the making, the transmit ring.
 *
 * Interrupt side: rlx_link_feed(), rlx_link_feed_block(), rlx_link_fault() from one producer,
 * rlx_link_take() from one consumer; they touch this struct and its buffer, nothing else.
 * Main side: everything else, by rlx_poll(). Every variable has one writer. */
#ifndef RLX_LINK_H
#define RLX_LINK_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"
#include "rlx/sms.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Ring sizes in bytes: a power of two, 2..128, so that 8-bit indices do. */
#define RLX_RING_MAX 128
/* Tags: 0..16383 count on, and begin at 0 again. With 16384 added one opens: it is obeyed only
 * where the device remembers no tag of this sender, and counts on from there without that. */
#define RLX_TAG_MOST  32767
#define RLX_TAG_OPENS 16384
/* Longest frame in bytes. */
#define RLX_FRAME_MAX 254
/* Bytes of buffer a link needs. */
#define RLX_LINK_BUFFER(receive, transmit, frame) ((receive) + (transmit) + (frame) + 1)

/* Which tags were used, of one sender or of those to all that name none. */
struct rlx_tags {
    /* Private. */
    uint32_t until; /* when the window closes */
    uint16_t seen;  /* bit n: the tag n + 1 before the last one was used */
    uint16_t sum;   /* of the frame with the last one */
    uint16_t first; /* of that one with which the window was opened */
    uint16_t last;  /* the last one */
    bool known;     /* there is one, and the window is open */
};

/* What is remembered of a sender whose frames have tags. */
struct rlx_sender {
    /* Private. */
    struct rlx_tags tags;
    uint8_t length; /* of the reply to the last one */
    uint8_t kept[RLX_KEPT_REPLY_BYTES];
};

#if RLX_HAS_EVENTS
/* What a link has still to be told of an event. */
struct rlx_told {
    /* Private. */
    uint8_t pending; /* bit n: its word number n */
    uint8_t last;    /* the last word, from 1; 0: none yet */
#if RLX_HAS_PACED
    uint8_t fresh;    /* words that came since they were told: those are told again */
    uint8_t number;   /* of the telling that is to be confirmed; 0: none */
    uint8_t word;     /* that it told */
    uint8_t tries;    /* so far */
    bool armed;       /* it is not told... */
    bool counting;    /* tellings are counted... */
    uint16_t today;   /* ...so many so far... */
    uint32_t due;     /* ...before this time */
    uint32_t day_due; /* ...up to this time */
#endif
#if RLX_HAS_SMS
    uint16_t held; /* that came again before it was told */
#endif
};
#endif

struct rlx_link {
    /* Yours to set before rlx_init(): RLX_LINK_BUFFER() bytes, of the sizes the lexicon says, that
     * live as long as the link. The rest is zero. */
    uint8_t *buffer; /* receive ring, transmit ring, frame and its final 0 */
#if RLX_HAS_TAGS
    struct rlx_sender *senders; /* as many as the link has; NULL where its frames have no tags */
#endif
#if RLX_HAS_SMS
    struct rlx_sms *sms; /* one for each link with a modem for text messages, else NULL */
#endif
#if RLX_HAS_EVENTS
    struct rlx_told *told; /* as many as the lexicon has events; NULL where it has none */
#endif

    /* Private, written by the interrupt side. */
    uint8_t rx_head; /* free-running index of the next byte in */
    uint8_t rx_cut;  /* differs from rx_seen while the stream is cut */
    uint8_t tx_tail; /* free-running index of the next byte out */
#if RLX_HAS_TIMED
    uint8_t rx_gap;    /* differs from rx_gap_seen while a silence is marked... */
    uint8_t rx_gap_at; /* ...before the byte with this index */
#endif

    /* Private, written by the main side. */
    uint8_t rx_limit; /* rx_head may not reach this: tail + ring size */
    uint8_t rx_seen;
    uint8_t tx_head;
    uint8_t frame_len;
    uint8_t frame_state; /* error of the frame in the making; RLX_FRAME_READY */
#if RLX_HAS_TIMED
    uint8_t rx_gap_seen;
    bool armed;   /* the frame in the making ends... */
    uint32_t due; /* ...at this time */
#endif
#if RLX_HAS_KEYS || RLX_HAS_CODES
    bool frame_reply; /* somebody's reply, up to the end of its line */
#endif
#if RLX_HAS_CODES
    uint8_t frame_next; /* the byte that begins the next code; 0: none */
#endif
#if RLX_HAS_MARKED
    bool frame_line; /* a line, behind its lead character */
#endif
#if RLX_HAS_PACKET || RLX_HAS_REPORT
    uint8_t frame_need; /* bytes of the packet that are still to come */
#endif
#if RLX_HAS_REPORT
    bool frame_rest; /* they are nothing: the line is over */
#endif
#if RLX_HAS_MESSAGE
    uint8_t source; /* of the message */
#endif
#if RLX_HAS_PEOPLE
    bool echoes;
    uint8_t echoed; /* bytes of the line that were told back... */
    bool prompted;  /* ...behind what stands before them */
#endif
#if RLX_HAS_UP
    bool down; /* nobody is there: events are not told */
#endif
#if RLX_HAS_PRESENCE
    bool pin_down;       /* its state pin says so */
    bool listens;        /* it is lost... */
    uint32_t silent_due; /* ...when nothing valid comes up to this time */
#endif
#if RLX_HAS_EVENTS && RLX_HAS_PACED
    uint8_t telling; /* number of the last one that was to be confirmed */
#endif
#if (RLX_BUILT_IN & 512) != 0
    bool note; /* the device's note waits to be told here */
#endif

#if RLX_HAS_TAGS && RLX_HAS_ADDRESS
    struct rlx_tags to_all; /* of frames to all without a source */
#endif

    /* Read-only after rlx_init(). */
    uint8_t rx_mask; /* ring sizes less 1 */
    uint8_t tx_mask;
    uint8_t frame_size;
    uint8_t *frame; /* in the buffer */

#if RLX_HAS_HALT
    uint8_t ahead; /* bytes of the ring in which a halt was looked for */
    uint8_t halts; /* found and done there, not yet answered */
    bool looked;   /* the same of the frame in hand */
#endif
#if RLX_HAS_YIELDS
    bool yields;         /* to another link... */
    uint32_t yields_due; /* ...up to this time */
#endif

    /* Read-only: written by the interrupt side; see rlx_link_lost(). */
    uint16_t rx_lost; /* bytes dropped or faulty, stays at 65535 */
    /* Read-only. */
    uint16_t refused; /* frames answered with err */
    uint16_t ignored; /* frames that were somebody's reply: not answered */
#if RLX_HAS_NEWEST
    uint16_t newer; /* frames that a newer one superseded */
#endif
#if RLX_HAS_DROP
    uint16_t unheard; /* answers for which there was no room */
#endif
#if RLX_HAS_LIMITED
    uint16_t known; /* texts that the lexicon knows and ignores */
#endif
#if (RLX_BUILT_IN & 512) != 0
    uint16_t unnoted; /* notes that another one replaced before they were told */
#endif
#if RLX_HAS_EVENTS
    uint16_t merged; /* events that came again before they were told */
#endif
#if RLX_HAS_ADDRESS || RLX_HAS_CHECK || RLX_HAS_PACKET || RLX_HAS_MESSAGE
    uint16_t others; /* frames that were damaged, for others or from others: not answered */
#endif
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

#if RLX_HAS_TIMED
/* The line was silent since the last byte: from the idle-line interrupt of a receiver that has one.
 * Without it a silence is told by the time between two polls, which then must come in time. */
void rlx_link_gap(struct rlx_link *link);
#endif

#if RLX_HAS_PACKET
/* One packet of 1..127 bytes, whole or not at all: false, and counted as lost, where the ring has
 * no room. From the radio's interrupt, or the main loop, but from one place only. */
bool rlx_link_feed_packet(struct rlx_link *link, const uint8_t *bytes, uint8_t count);
#endif

#if RLX_HAS_REPORT
/* One report of 1..64 bytes: a piece of a line, or a line and what stands behind it. False where
 * the ring has no room yet, and nothing was taken: let the bus wait and offer it again, or give it
 * up with rlx_link_fault(). From the interrupt of the bus, or the main loop, but from one place
 * only. */
bool rlx_link_feed_report(struct rlx_link *link, const uint8_t *bytes, uint8_t count);
#endif

/* The next byte to send into *byte; false when there is none (the port then switches its
 * transmit interrupt off; rlx_port_kick() tells it to start again). From the transmit interrupt. */
bool rlx_link_take(struct rlx_link *link, uint8_t *byte);

/* Bytes dropped or reported faulty so far; stays at 65535. Main side. */
uint16_t rlx_link_lost(const struct rlx_link *link);

#ifdef __cplusplus
}
#endif

#endif
