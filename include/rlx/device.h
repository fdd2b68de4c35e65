/* A device: one table image, its links and its outputs. The caller owns all memory; a program can
 * have any number of devices. No call waits. Call none of these from an interrupt; the interrupt
 * side is in rlx/link.h. */
#ifndef RLX_DEVICE_H
#define RLX_DEVICE_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"
#include "rlx/def/states.h"
#include "rlx/error.h"
#if RLX_HAS_SEAL
#include "rlx/hmac.h"
#endif
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

/* Calls a handler of one signature with the values of the slots. `frame` holds their texts. `rlx
 * emit` writes one function for each signature. A handler of a query fills in the values. */
typedef int (*rlx_invoke)(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame);

/* The value of a text slot: where the text begins in the frame, and its length. */
#define RLX_TEXT_AT_OF(frame, value) ((const char *)(frame) + (uint8_t)((value) >> 8))
#define RLX_TEXT_LENGTH_OF(value)    ((uint8_t)(value))

struct rlx_device {
#include "rlx/def/private_device.h"

    /* Set these before rlx_init(), and all other members to zero. The memory behind the pointers is
     * yours; it must live as long as the device. The emitted NAME_init() sets them. With RLX_FIXED,
     * as emitted, those to tables and arrays are constants, and no members. */
#if !RLX_FIXED
    rlx_rom image;
    const rlx_fn *handlers;     /* RLX_ROM; NULL if the lexicon calls none */
    const rlx_fn *invokers;     /* RLX_ROM, each an rlx_invoke; NULL if the lexicon calls none */
    struct rlx_link *links;     /* as many as the image has, with their buffers */
    struct rlx_output *outputs; /* as many as the image has */
#endif
#if RLX_HAS_INPUTS && !RLX_FIXED
    struct rlx_input *inputs; /* as many as the image has */
#endif
#if RLX_HAS_ROUTINES && !RLX_FIXED
    struct rlx_routine *routines; /* as many as the image has */
#endif
#if RLX_HAS_SETTINGS
#if !RLX_FIXED
    rlx_value *settings;    /* as many as the image has */
    uint8_t *setting_texts; /* for settings that are texts; NULL if there are none */
#endif
#if !RLX_NV_AREA_BYTES
    uint16_t nv_area; /* bytes of each area of non-volatile memory, as RLX_NV_AREA_BYTES */
#endif
#endif
    void *port; /* first argument of every port function */
    void *user; /* argument of your handlers */

#if !RLX_FIXED
    /* Read-only. After -RLX_ERR_BUILD: the missing features. Bit n of RLX_FEATURES is bit n % 32 of
     * lacks[n / 32]. All are 0 if slots, links or built-in words are missing. */
    uint32_t lacks[RLX_FEATURE_WORDS];
#endif
};

/* Starts a device: puts every output into its safe state, then sends the greeting on each link. The
 * port must be able to drive pins and to transmit. Call it once per device, before any other call.
 * Returns 0, or a negative error; then it has done nothing, and rlx_poll() does nothing:
 * -RLX_ERR_VERSION (library, headers and image are of different versions, or the compiler lays out
 * structs in another way than for the library), -RLX_ERR_IMAGE, -RLX_ERR_BUILD, -RLX_ERR_BUFFER.
 * Its symbol ends with the hash of the configuration. "undefined reference to rlx_init_3A51C0"
 * means: library and firmware were compiled with different NAME_config.h files or knobs. */
#define rlx_init(device, cause) RLX_CONFIGURED(rlx_init)((device), (cause), RLX_INIT_SIZES)
#define RLX_INIT_SIZES          ((unsigned)(sizeof(struct rlx_device) + sizeof(struct rlx_link)))
int RLX_CONFIGURED(rlx_init)(struct rlx_device *device, enum rlx_reset cause, unsigned sizes)
    __attribute__((__warn_unused_result__));

/* Runs the device: takes at most RLX_POLL_BYTES from each link, answers complete frames, drives the
 * outputs. `now_ms` is the board's clock; it may wrap. Returns the milliseconds until the next call
 * is due: 0 if bytes are left, RLX_FOREVER if only an arrival or sent bytes can make work. Calls
 * handlers and port functions. Do not call it for one device from two threads at once. */
uint32_t rlx_poll(struct rlx_device *device, uint32_t now_ms);

#if RLX_HAS_EVENTS
/* Sends an event on its links as soon as they have room. If the same word comes again before it was
 * sent, the device sends it once. `event` is the number of the event in the lexicon, `word` the
 * number of its word. Returns 0, or -RLX_ERR_RANGE if there is no such event or word. The emitted
 * NAME_send_EVENT() functions call it. Also from a handler. */
int rlx_event(struct rlx_device *device, uint8_t event, uint8_t word);
#endif

#if RLX_HAS_UP
/* Reports that the other side of a link went away or came back: by a plug, or a registration. While
 * a link is down the device sends no events on it; when it goes down the outputs with `lost LINK`
 * go to their safe state. A valid frame also brings the link up, unless its state pin is off. A
 * link number that does not exist is ignored. */
void rlx_link_is_up(struct rlx_device *device, uint8_t link, bool up);
#endif

#if RLX_HAS_NOTES
/* Sends "note TEXT" on each link that has notes, as soon as it has room. The text is copied; bytes
 * that are not printable ASCII become '?', and it is cut at RLX_NOTE_BYTES. Returns false if no
 * link has sent the last note yet. If some links have sent it and others not, the others count it
 * (`notes` in their stats). If no link has notes, the first link counts it; true then. Also from a
 * handler. */
bool rlx_note(struct rlx_device *device, const char *text);

/* As rlx_note(), but on one link only; `link` is its emitted number, or rlx_asker(). Returns false
 * while any link still has a note to send, and if there is no such link. A link without notes
 * counts it, a link that is down does not hear of it; true then. */
bool rlx_note_to(struct rlx_device *device, uint8_t link, const char *text);
#endif

#if RLX_HAS_RAW
/* Of a link with `frame raw`: takes at most `most` of the bytes that came, and returns how many.
 * *lost: bytes were lost before them, because the ring was full or the receiver reported a fault.
 * It never waits. Call it from the main loop, behind rlx_poll(), until it returns 0: rlx_idle() is
 * false as long as bytes wait. 0 for any other link. Not from an interrupt. */
uint8_t rlx_raw_read(struct rlx_device *device, uint8_t link, uint8_t *bytes, uint8_t most,
                     bool *lost);
/* Sends bytes over such a link: all of them, or none and false if the transmit ring has no room for
 * all, or if the link is another one. Not from an interrupt. */
bool rlx_raw_write(struct rlx_device *device, uint8_t link, const uint8_t *bytes, uint8_t count);
#endif

/* No link. */
#define RLX_NO_LINK 255u
/* In a handler: the number of the link over which the command in hand came. RLX_NO_LINK in a step
 * of a routine, and in what an input does. Elsewhere it has no meaning. */
uint8_t rlx_asker(const struct rlx_device *device);

#if RLX_HAS_SETTINGS
/* The value of a setting that is no text: a number (a fraction without its point, a time in
 * milliseconds), the number of a word from 0, or the bits of a set. 0 if there is no such setting.
 * The emitted NAME_SETTING() functions call it. */
rlx_value rlx_setting(const struct rlx_device *device, uint8_t setting);

#if RLX_HAS_SEAL
/* Gives a key to the device, as the command of its name does: at the factory, or from a switch.
 * 20..32 printable characters but '"'; they are copied. Returns 0, RLX_ALREADY if it is the key so
 * far, or -RLX_ERR_RANGE. The emitted NAME_key_KEY() functions call it. */
int rlx_key_store(struct rlx_device *device, uint8_t setting, const char *key, uint8_t count);
#endif

/* The bytes of a setting that is a text, and in *count how many; 0 bytes for another one. The text
 * is not ended by a 0. The device owns it; it stays until the setting changes. */
const char *rlx_setting_text(const struct rlx_device *device, uint8_t setting, uint8_t *count);

/* Whether the value still has to be written to non-volatile memory. */
bool rlx_setting_unsaved(const struct rlx_device *device, uint8_t setting);
#endif

#if RLX_HAS_MESSAGE
/* Gives the device a text message of 1..254 bytes. `source` is the number of the sender from 1; 0:
 * an unknown sender, whose message is counted and not answered. Returns false if the last message
 * still waits for its answer: try again after rlx_poll(). */
bool rlx_link_message(struct rlx_device *device, uint8_t link, const char *text, uint8_t count,
                      uint8_t source);
#endif

/* Whether nothing arrived since rlx_poll(). Ask with interrupts masked, then sleep:
 *     wait = rlx_poll(&device, now); mask(); if (rlx_idle(&device)) sleep(wait); unmask(); */
bool rlx_idle(const struct rlx_device *device);

#ifdef __cplusplus
}
#endif

#endif
