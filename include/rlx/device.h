/* A device: one image, its links, its outputs. All state is in structs the caller owns; any
 * number of devices live in one program. None of these calls waits, and none but the
 * interrupt side of rlx/link.h may be made from an interrupt. */
#ifndef RLX_DEVICE_H
#define RLX_DEVICE_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"
#include "rlx/def/states.h"
#include "rlx/error.h"
#include "rlx/link.h"
#include "rlx/rom.h"

#ifdef __cplusplus
extern "C" {
#endif

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
 * emit` writes one for each signature in use. Where a query is asked, it fills in the values. */
typedef int (*rlx_invoke)(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame);

/* A text slot's value: where it begins in the frame, and its length. */
#define RLX_TEXT_AT_OF(frame, value) ((const char *)(frame) + (uint8_t)((value) >> 8))
#define RLX_TEXT_LENGTH_OF(value)    ((uint8_t)(value))

/* State of one output. Private. */
struct rlx_output {
    uint16_t level; /* 0 off .. 65535 fully on, before polarity and curve: what it was told */
#if RLX_HAS_ACTS || RLX_HAS_RESTS
    uint16_t shown; /* what it is at */
#endif
#if RLX_HAS_COUNTED
    uint32_t switched; /* so often it went on */
    bool was_on;
#endif
#if RLX_HAS_ACTS || RLX_HAS_TONE || RLX_HAS_MOVING
    union { /* an output is of one kind: src/drive */
#if RLX_HAS_ACTS || RLX_HAS_TONE
        struct rlx_steady_state steady;
#endif
#define RLX_STATE(id, has, name, moves, switched) \
    RLX_WHEN(has, RLX_WHEN(moves, struct rlx_##name##_state name;))
        RLX_DRIVES(RLX_STATE)
#undef RLX_STATE
    };
#endif
#if RLX_HAS_RESTS
    bool recent;      /* it was switched not long ago... */
    uint32_t changed; /* ...at this time */
#endif
#if RLX_HAS_EXPIRY
    bool armed;   /* it goes safe... */
    bool to_off;  /* ...or off... */
    uint32_t due; /* ...at this time */
#endif
};

#if RLX_HAS_INPUTS
/* State of one input. Private. */
struct rlx_input {
    bool on;                       /* as it has settled */
    bool raw;                      /* as it was read last */
    bool settles, holds;           /* what comes next is due... */
    uint32_t settle_due, held_due; /* ...at these times */
};
#endif

#if RLX_HAS_ROUTINES
/* State of one routine. Private. */
struct rlx_routine {
    uint16_t at; /* its next element in the image; 0: it does not run */
    uint8_t step;
    bool failed;  /* at that step */
    uint32_t due; /* when it goes on */
};
#endif

#if RLX_HAS_SETTINGS
/* What is known of the settings' non-volatile memory. Private. */
struct rlx_keep {
    uint32_t unsaved; /* those that are still to be written, one bit each */
    uint32_t moving;  /* those that are to be written into the other area */
    uint16_t used;    /* bytes of the area in use; while the other one is erased, of that */
    uint16_t pause;   /* ms to the next try; 0: the last one was no failure */
    uint32_t due;     /* when that is */
    uint8_t area, age, step;
    bool none;    /* nothing can be kept now: the memory fails, or refuses for long */
    bool refused; /* a read */
};
#endif

#if RLX_HAS_LOG
/* Something that was done. Private. */
struct rlx_log_entry {
    uint32_t when;
    bool old; /* so long ago that `when` no longer tells */
    uint8_t link, source;
    uint8_t verdict; /* 0, RLX_OWN_ALREADY, or RLX_ERR_... */
    char what[RLX_LOG_CHARACTERS];
};
#endif

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
#if RLX_HAS_SOURCE
    uint8_t source;    /* who sent it; 0: nobody said */
    uint16_t tag, sum; /* of the frame, that without its check */
#if RLX_HAS_TAGS
    uint16_t
        tag_hint; /* the last tag, where this one was not obeyed before; 65535: perhaps it was */
#endif
    bool tagged, broadcast;
#endif
#if RLX_HAS_EXPIRY
    uint32_t lasts; /* of the command in hand: ms, and RLX_LASTS_OFF; 0: it does not expire */
#endif
#if RLX_HAS_UP
    bool bye; /* the frame in hand says so */
#endif
#if RLX_HAS_DROP
    bool unheard; /* the reply is not sent: there is no room for it */
#endif
#if RLX_HAS_RESTS
    bool runs; /* it was polled */
#endif
#if RLX_HAS_ROUTINES
    bool in_step; /* of a routine */
#endif
#if RLX_HAS_SETTINGS
    struct rlx_keep keep;
#endif
#if RLX_HAS_NOW
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
#if RLX_HAS_HEARD
    uint8_t frame_begun[RLX_HEARD_BYTES]; /* how it began */
    uint8_t frame_count;                  /* so many bytes of that */
    uint8_t heard[RLX_HEARD_BYTES];       /* how the last refused one began */
    uint8_t heard_count;
    uint8_t heard_link;
#endif
#if RLX_HAS_LOG
    struct rlx_log_entry log[RLX_LOG_ENTRIES]; /* of which the next one is written at... */
    uint8_t log_next;
    uint8_t log_count; /* so many there are */
#endif
#if RLX_HAS_NOTES
    char note[RLX_NOTE_BYTES]; /* is told on the links that have not told it yet */
    uint8_t note_length;
#endif
    uint8_t *tx;   /* its transmit ring */
    rlx_rom at;    /* element of the program */
    rlx_rom entry; /* entry of the first word */
    rlx_value value[RLX_SLOTS];

    /* Yours to set before rlx_init(); the rest is zero. What it points to is yours and must live as
     * long as the device. Emitted NAME_init() functions set it. */
    rlx_rom image;
    const rlx_fn *handlers;     /* RLX_ROM; NULL when the lexicon calls none */
    const rlx_fn *invokers;     /* RLX_ROM, each an rlx_invoke; the same */
    struct rlx_link *links;     /* as many as the image has, with their buffers */
    struct rlx_output *outputs; /* as many as the image has */
#if RLX_HAS_INPUTS
    struct rlx_input *inputs; /* the same */
#endif
#if RLX_HAS_ROUTINES
    struct rlx_routine *routines; /* the same */
#endif
#if RLX_HAS_SETTINGS
    rlx_value *settings;    /* the same */
    uint8_t *setting_texts; /* of settings that are texts; NULL where none is */
#if !RLX_NV_AREA_BYTES
    uint16_t nv_area; /* bytes of each area of non-volatile memory, as RLX_NV_AREA_BYTES */
#endif
#endif
    void *port; /* first argument of every port function */
    void *user; /* handed to handlers */

    /* Read-only: after -RLX_ERR_BUILD the missing features: bit n of RLX_FEATURES is bit n % 32 of
     * lacks[n / 32]. 0 where it is slots, links or built-in words. */
    uint32_t lacks[2];
};

/* Starts a device whose fields are set: puts every output at its safe state, then greets on each
 * link. The port must be able to drive pins and to transmit. Call it once, from the main side,
 * before any other call for this device. Returns 0, or -RLX_ERR_VERSION (the image is of another
 * version, or the compiler lays out structs otherwise than it did for the library), _IMAGE, _BUILD,
 * _BUFFER; then nothing was done, and rlx_poll() does nothing. The linker knows it by a name that
 * ends with the hash of the configuration: "undefined reference to rlx_init_3A51C0" means that
 * library and firmware were not compiled with the same NAME_config.h and the same knobs. */
#define rlx_init(device, cause) RLX_CONFIGURED(rlx_init)((device), (cause), RLX_INIT_SIZES)
#define RLX_INIT_SIZES          ((unsigned)(sizeof(struct rlx_device) + sizeof(struct rlx_link)))
int RLX_CONFIGURED(rlx_init)(struct rlx_device *device, enum rlx_reset cause, unsigned sizes)
    __attribute__((__warn_unused_result__));

/* Does what there is to do: takes at most RLX_POLL_BYTES from each link, answers complete frames.
 * `now_ms` is the board's clock and may wrap. Returns the milliseconds until it must run again: 0
 * when bytes are left, RLX_FOREVER when only an arrival (or sent bytes) can make work. Calls
 * handlers and port functions. Not re-entrant for one device. */
uint32_t rlx_poll(struct rlx_device *device, uint32_t now_ms);

#if RLX_HAS_EVENTS
/* An event happened: it is told on its links as soon as there is room; the same word that comes
 * again before it was told is told once. `event` is its place in the lexicon, `word` that of its
 * word. 0, or -RLX_ERR_RANGE where there is no such event or word. Emitted NAME_tell_EVENT()
 * functions call it. Main side, also from a handler. */
int rlx_event(struct rlx_device *device, uint8_t event, uint8_t word);
#endif

#if RLX_HAS_UP
/* The other side of a link has gone, or is there again (a link that there is not: nothing): by a
 * plug, a registration. Nothing is told on a link that is down, and the outputs with `lost LINK`
 * go to their safe state when it goes down; a valid frame brings it up too, unless its state pin
 * says otherwise. Main side. */
void rlx_link_is_up(struct rlx_device *device, uint8_t link, bool up);
#endif

#if RLX_HAS_NOTES
/* A line of the firmware's own: "note TEXT" on each link that has notes, as soon as there is room;
 * what is not printable ASCII becomes '?', what is longer than RLX_NOTE_BYTES is cut. False where
 * the last one has not been told anywhere yet; where it was told on some links only, the others
 * count it (`notes` of their stats). Where no link tells notes it is counted on the first one, and
 * true. The text is copied. Main side, also from a handler. */
bool rlx_note(struct rlx_device *device, const char *text);
#endif

#if RLX_HAS_SETTINGS
/* What a setting that is no text is now, 0 where there is none of this number: a number (a
 * fraction's without its point, a time in milliseconds), a word's place from 0, or a set's bits.
 * Emitted NAME_SETTING() functions call it. */
rlx_value rlx_setting(const struct rlx_device *device, uint8_t setting);

/* Of a setting that is a text: its bytes, not ended by a 0, and how many; of another one none. They
 * are the device's, and stay until the setting is changed. */
const char *rlx_setting_text(const struct rlx_device *device, uint8_t setting, uint8_t *count);

/* Whether what was stored has still to be written to non-volatile memory. */
bool rlx_setting_unsaved(const struct rlx_device *device, uint8_t setting);
#endif

#if RLX_HAS_MESSAGE
/* A text message of 1..254 bytes from sender number `source`, from 1; 0: one that nobody knows,
 * counted and not answered. False where the last one waits for its answer still: try again after
 * rlx_poll(). Main side. */
bool rlx_link_message(struct rlx_device *device, uint8_t link, const char *text, uint8_t count,
                      uint8_t source);
#endif

/* Whether nothing came in since rlx_poll(): ask with interrupts masked, then sleep.
 *     wait = rlx_poll(&device, now); mask(); if (rlx_idle(&device)) sleep(wait); unmask(); */
bool rlx_idle(const struct rlx_device *device);

#ifdef __cplusplus
}
#endif

#endif
