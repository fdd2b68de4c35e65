/* A link: its receive ring, the frame that arrives, its transmit ring.
 *
 * Interrupt side: one producer calls rlx_link_feed(), rlx_link_feed_block() and rlx_link_fault(),
 * one consumer calls rlx_link_take(). They touch this struct and its buffer, nothing else.
 * Main side: everything else, through rlx_poll(). Every variable has one writer. */
#ifndef RLX_LINK_H
#define RLX_LINK_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"
#include "rlx/def/states.h"
#include "rlx/sms.h"
#include "rlx/wire.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Ring sizes in bytes: a power of two, 2..128, so that 8-bit indices are enough. */
#define RLX_RING_MAX 128
/* Longest frame in bytes. */
#define RLX_FRAME_MAX 254
/* Bytes of buffer that a link needs. */
#define RLX_LINK_BUFFER(receive, transmit, frame) ((receive) + (transmit) + (frame) + 1)

struct rlx_link {
    /* Set these before rlx_init(), and all other members to zero. The memory is yours and must live
     * as long as the link. The emitted NAME_init() sets them. */
#if !RLX_FIXED_BUFFER
    uint8_t *buffer; /* RLX_LINK_BUFFER() bytes: receive ring, transmit ring, frame, a final 0 */
#endif
#if RLX_HAS_TAGS
    struct rlx_sender *senders; /* as many as the link has; NULL if its frames have no tags */
#endif
#if RLX_HAS_SEAL
    struct rlx_session
        *sessions; /* as many as the link has keys; NULL if its frames have no seal */
#endif
#if RLX_HAS_SMS
    struct rlx_sms *sms; /* one for a link with a modem for text messages, else NULL */
#endif
#if RLX_HAS_EVENTS
    struct rlx_pending *events; /* as many as the lexicon has events; NULL if it has none */
#endif

#include "rlx/def/private_link.h"

/* A confirmed event that nobody answers is told again after so many ms, the time doubling so often;
 * over text messages so many times later. */
#define RLX_EVENT_RETRY_MS       1000u
#define RLX_EVENT_RETRY_DOUBLE   6u
#define RLX_EVENT_RETRY_MESSAGES 60u

    /* Counters, read-only. They stay at 65535. */
    uint16_t rx_lost; /* bytes dropped or faulty; read it with rlx_link_lost() */
    uint16_t refused; /* frames answered with err */
    uint16_t ignored; /* replies of other devices: not answered */
#if RLX_HAS_NEWEST
    uint16_t newer; /* frames replaced by a newer one */
#endif
#if RLX_HAS_DROP
    uint16_t unheard; /* answers dropped because there was no room */
#endif
#if RLX_HAS_LIMITED
    uint16_t known; /* texts that the lexicon lists as ignored */
#endif
#if RLX_HAS_NOTES
    uint16_t unnoted; /* notes replaced by another one before they were sent */
#endif
#if RLX_HAS_EVENTS
    uint16_t merged; /* events that came again before they were sent */
#endif
#if RLX_COUNTS_OTHERS
    uint16_t others; /* frames that were damaged, for others or from others: not answered */
#endif
};

/* Stores one received byte. Call it from an interrupt or from the main loop, but always from the
 * same one. If the ring is full it drops and counts this byte and everything after it, until
 * rlx_poll() has taken what came before: a damaged line is never joined to another one. */
void rlx_link_feed(struct rlx_link *link, uint8_t byte);

/* Stores `count` bytes at once, from a DMA or a FIFO: the same as rlx_link_feed() for each. */
void rlx_link_feed_block(struct rlx_link *link, const uint8_t *bytes, unsigned count);

/* Reports a parity, framing or overrun error: a byte is lost. The device refuses the frame as
 * `lost`. Call it where you call rlx_link_feed(). */
void rlx_link_fault(struct rlx_link *link);

#if RLX_HAS_TIMED
/* Reports that the line was silent since the last byte: from the idle-line interrupt of the
 * receiver. Without this call the library takes the time between two polls, which must then be on
 * time. */
void rlx_link_gap(struct rlx_link *link);
#endif

#if RLX_HAS_PACKET
/* Stores one packet of 1..127 bytes. Returns false, and counts it as lost, if the ring has no room
 * for all of it. From the radio's interrupt or from the main loop, but always from the same one. */
bool rlx_link_feed_packet(struct rlx_link *link, const uint8_t *bytes, uint8_t count);
#endif

#if RLX_HAS_REPORT
/* Stores one report of 1..64 bytes: a part of a line, or a line and the bytes behind it. Returns
 * false and stores nothing if the ring has no room yet: let the bus wait and try again, or give up
 * with rlx_link_fault(). From the interrupt of the bus or from the main loop, but always from the
 * same one. */
bool rlx_link_feed_report(struct rlx_link *link, const uint8_t *bytes, uint8_t count);
#endif

/* Takes the next byte to send into *byte. Returns false if there is none: switch the transmit
 * interrupt off then; rlx_port_kick() asks you to switch it on again. From the transmit interrupt.
 */
bool rlx_link_take(struct rlx_link *link, uint8_t *byte);

/* The bytes dropped or reported faulty so far; it stays at 65535. Main side. */
uint16_t rlx_link_lost(const struct rlx_link *link);

#ifdef __cplusplus
}
#endif

#endif
