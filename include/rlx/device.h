/* A device: one image, its links, its outputs. All state is in structs the caller owns; any
 * number of devices live in one program. None of these calls waits, and none but the
 * interrupt side of rlx/link.h may be made from an interrupt. */
#ifndef RLX_DEVICE_H
#define RLX_DEVICE_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"
#include "rlx/error.h"
#include "rlx/link.h"
#include "rlx/rom.h"

/* The version of these headers; rlx_init() compares it with the library's. */
#define RLX_VERSION 3

/* rlx_poll(): nothing to do until something arrives. */
#define RLX_FOREVER UINT32_MAX

/* A slot's value. */
#if RLX_HAS_WIDE
typedef int32_t rlx_value;
typedef int32_t rlx_number; /* to compute with */
typedef uint32_t rlx_magnitude;
#define RLX_VALUE_MAX INT32_MAX
#else
typedef int16_t rlx_value;
typedef int rlx_number;
typedef unsigned rlx_magnitude;
#define RLX_VALUE_MAX INT16_MAX
#endif

/* Calls a handler of one signature with the slots' values; `frame` holds the texts among them. `rlx
 * emit` writes one for each signature in use. */
typedef int (*rlx_invoke)(rlx_fn handler, void *user, const rlx_value *value, const uint8_t *frame);

/* A text slot's value: where it begins in the frame, and its length. */
#define RLX_TEXT_AT_OF(frame, value) ((const char *)(frame) + (uint8_t)((value) >> 8))
#define RLX_TEXT_LENGTH_OF(value)    ((uint8_t)(value))

/* State of one output. Private. */
struct rlx_output {
    uint16_t level; /* 0 off .. 65535 fully on, before polarity and curve */
#if RLX_HAS_EXPIRY
    bool armed;   /* it goes safe... */
    bool to_off;  /* ...or off... */
    uint32_t due; /* ...at this time */
#endif
};

struct rlx_device {
    /* Private: the command in hand. */
    uint8_t n_values;
    uint8_t tx_mask;  /* of the ring that the reply goes to */
    uint8_t link_no;  /* over which link it came */
    uint16_t tx_next; /* free-running index there; published when the reply is whole */
    uint16_t tx_word; /* tx_next where the last word of the reply began */
    uint16_t group;   /* where the first word was found in the hash */
#if RLX_HAS_LONG_REPLY
    uint8_t tx_most; /* bytes of the reply before what stands behind it */
#endif
    uint16_t tx_start; /* where the reply begins, behind lead, address and tag */
#if RLX_HAS_ADDRESS || RLX_HAS_TAGS || RLX_HAS_CHECK
    uint8_t source; /* who sent it; 0: nobody said */
    uint8_t tag;
    bool tagged, broadcast;
#endif
#if RLX_HAS_EXPIRY
    uint32_t lasts; /* of the command in hand: ms, and RLX_LASTS_OFF; 0: it does not expire */
#endif
#if RLX_HAS_TIMED || RLX_HAS_TAGS || RLX_HAS_EXPIRY
    uint32_t now; /* of this poll */
#endif
    /* Read-only after rlx_init(). */
    uint8_t n_links;
    uint8_t fold;    /* 26: letters any-case, else 0 */
    uint8_t shorten; /* least letters of a shortened word; 255: never cut */
    bool many;       /* 16-bit shapes and operands */
    rlx_rom rows;    /* of the links */
    /* Private: the command in hand. */
    const uint8_t *text; /* what is still to be read of the frame */
#if RLX_HAS_BUILT_IN
    const uint8_t *text_end; /* of several commands; NULL: there is one */
    uint8_t part;            /* the one in hand, from 1 */
#endif
    struct rlx_link *link; /* over which it came */
    uint8_t *tx;           /* its transmit ring */
    rlx_rom at;            /* element of the program */
    rlx_rom entry;         /* entry of the first word */
    rlx_value value[RLX_SLOTS];

    /* Yours to set before rlx_init(); the rest is zero. What it points to is yours and must live as
     * long as the device. Emitted NAME_init() functions set it. */
    rlx_rom image;
    const rlx_fn *handlers;     /* RLX_ROM; NULL when the lexicon calls none */
    const rlx_fn *invokers;     /* RLX_ROM, each an rlx_invoke; the same */
    struct rlx_link *links;     /* as many as the image has, with their buffers */
    struct rlx_output *outputs; /* as many as the image has */
    void *port;                 /* first argument of every port function */
    void *user;                 /* handed to handlers */

    /* Read-only: after -RLX_ERR_BUILD the missing features, bits of RLX_FEATURES. */
    uint32_t lacks; /* 0 where it is slots, links or built-in words */
};

/* Starts a device whose fields are set: puts every output at its safe state, then greets on each
 * link. The port must be able to drive pins and to transmit. 0, or -RLX_ERR_VERSION, _IMAGE,
 * _BUILD, _BUFFER; then nothing was done, and rlx_poll() does nothing. */
#define rlx_init(device, cause) rlx_init_((device), (cause), RLX_INIT_CHECK)
#define RLX_INIT_CHECK \
    (RLX_VERSION * 4096u + (unsigned)(sizeof(struct rlx_device) + sizeof(struct rlx_link)))
int rlx_init_(struct rlx_device *device, enum rlx_reset cause, unsigned check)
    __attribute__((__warn_unused_result__));

/* Does what there is to do: takes at most RLX_POLL_BYTES from each link, answers complete frames.
 * `now_ms` is the board's clock and may wrap. Returns the milliseconds until it must run again: 0
 * when bytes are left, RLX_FOREVER when only an arrival (or sent bytes) can make work. Calls
 * handlers and port functions. Not re-entrant for one device. */
uint32_t rlx_poll(struct rlx_device *device, uint32_t now_ms);

/* Whether nothing came in since rlx_poll(): ask with interrupts masked, then sleep.
 *     wait = rlx_poll(&device, now); mask(); if (rlx_idle(&device)) sleep(wait); unmask(); */
bool rlx_idle(const struct rlx_device *device);

#endif
