/* Where a device's tables and memory are, for the rooms of the library. Not for firmware.
 * With RLX_FIXED what the lexicon fixes is constant: NAME_config.h has the header of its image and
 * the bytes in which its links agree, and each array stands at its place behind the device. */
#ifndef RLX_TABLES_H
#define RLX_TABLES_H

#include <stddef.h>

#include "rlx/device.h"
#include "rlx/drive.h"
#include "rlx/image.h"

#if RLX_FIXED
#ifndef RLX_FIXED_IMAGE
#error \
    "RLX_FIXED needs the NAME_config.h of a lexicon: compile with -DRLX_CONFIG='\"NAME_config.h\"'"
#endif

/* NAME.c has them. "undefined reference to rlx_image_1A2B3C4D" means: the library was compiled with
 * the NAME_config.h of another lexicon. */
extern const uint8_t RLX_FIXED_IMAGE[] RLX_ROM;
extern const rlx_fn RLX_FIXED_HANDLERS[] RLX_ROM, RLX_FIXED_INVOKERS[] RLX_ROM;

/* Read with constant places only: they are then not in the program. */
static const uint8_t rlx_fixed_header[RLX_IMG_HEADER] = {RLX_FIXED_HEADER};
static const uint8_t rlx_fixed_row[RLX_LNK_ROW] = {RLX_FIXED_ROW};
static const uint8_t rlx_fixed_more[RLX_MORE_SIZE] = {RLX_FIXED_MORE};
static const uint8_t rlx_fixed_hash[6] = {RLX_FIXED_HASH};

/* How the memory of struct NAME begins; NAME.c compares the places. */
struct rlx_fixed {
    struct rlx_device device;
    struct rlx_link link[RLX_FIXED_LINKS];
#if RLX_FIXED_OUTPUTS
    RLX_OUTPUTS(RLX_FIXED_OUTPUTS);
#endif
#if RLX_FIXED_INPUTS
    struct rlx_input input[RLX_FIXED_INPUTS];
#endif
#if RLX_FIXED_ROUTINES
    struct rlx_routine routine[RLX_FIXED_ROUTINES];
#endif
#if RLX_FIXED_SETTINGS
    rlx_value setting[RLX_FIXED_SETTINGS];
#endif
#if RLX_FIXED_SETTING_TEXTS
    uint8_t setting_texts[RLX_FIXED_SETTING_TEXTS];
#endif
    uint8_t buffer[1]; /* of the first link */
};
#define RLX_FIXED_AT(type, from, member, of) \
    ((type *)((uintptr_t)(from) + offsetof(struct rlx_fixed, member) - (of)))
#endif

/* ---- the image ---- */

static inline rlx_rom rlx_image(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return (rlx_rom)((uintptr_t)RLX_FIXED_IMAGE - RLX_IMG_HEADER); /* which is not in the program */
#else
    return d->image;
#endif
}

/* A byte, or 16 bits at an even place, of its header. */
__attribute__((__always_inline__)) static inline uint8_t rlx_head8(const struct rlx_device *d,
                                                                   uint8_t field)
{
#if RLX_FIXED
    (void)d;
    return rlx_fixed_header[field];
#else
    return RLX_ROM8(d->image + field);
#endif
}

__attribute__((__always_inline__)) static inline uint16_t rlx_head16(const struct rlx_device *d,
                                                                     uint8_t field)
{
#if RLX_FIXED
    (void)d;
    return (uint16_t)(rlx_fixed_header[field] | rlx_fixed_header[field + 1] << 8);
#else
    return RLX_ROM16_EVEN(d->image + field);
#endif
}

/* The part of the image whose 16-bit offset stands in the header. */
__attribute__((__always_inline__)) static inline rlx_rom rlx_part(const struct rlx_device *d,
                                                                  uint8_t field)
{
    return rlx_image(d) + rlx_head16(d, field);
}

/* How many rows a part of the image has that begins with their number; 0: there is no such part. */
__attribute__((__always_inline__)) static inline uint8_t rlx_rows_of(const struct rlx_device *d,
                                                                     uint8_t field)
{
    return rlx_head16(d, field) ? RLX_ROM8(rlx_part(d, field)) : 0;
}

static inline uint8_t rlx_n_outputs(const struct rlx_device *d)
{
    return rlx_head8(d, RLX_IMG_N_OUTPUTS);
}

static inline uint8_t rlx_n_links(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return RLX_FIXED_LINKS;
#else
    return RLX_LINKS ? RLX_LINKS : d->n_links;
#endif
}

/* Whether the image's feature with this number is one that it needs. */
__attribute__((__always_inline__)) static inline bool rlx_needs(const struct rlx_device *d,
                                                                uint8_t bit)
{
    return rlx_head8(d, (uint8_t)(RLX_IMG_NEEDS + bit / 8)) >> bit % 8 & 1;
}

static inline bool rlx_has_built_in(const struct rlx_device *d, uint16_t bit)
{
    return rlx_head16(d, RLX_IMG_BUILT_IN) & bit;
}

/* Least letters of a shortened word; 255: never cut. */
static inline uint8_t rlx_least_letters(const struct rlx_device *d)
{
#if RLX_FIXED
    return rlx_head8(d, RLX_IMG_SHORTEN);
#else
    return d->shorten;
#endif
}

/* Whether shapes and operands have 16 bits. */
static inline bool rlx_is_many(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return RLX_HAS_MANY;
#else
    return RLX_HAS_MANY && d->many;
#endif
}

/* Upper case to lower where letters are any-case. */
static inline uint8_t rlx_folded(const struct rlx_device *d, uint8_t c)
{
#if RLX_FIXED
    (void)d;
    if (RLX_HAS_ANY_CASE && (uint8_t)(c - 'A') < 26) c |= 0x20;
#else
    if (RLX_HAS_ANY_CASE && (uint8_t)(c - 'A') < d->fold) c |= 0x20; /* 26, or 0 */
#endif
    return c;
}

/* Whether rlx_init() has started it. */
static inline bool rlx_started(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return true;
#else
    return d->rows != 0;
#endif
}

/* ---- rows of links ---- */

/* The first one, or this one. */
static inline rlx_rom rlx_link_rows(const struct rlx_device *d)
{
#if RLX_FIXED
    return rlx_part(d, RLX_IMG_LINK_ROWS);
#else
    return d->rows;
#endif
}

static inline rlx_rom rlx_link_row(const struct rlx_device *d, uint8_t link)
{
    return rlx_link_rows(d) + (RLX_LINKS == 1 ? 0 : link * RLX_LNK_ROW);
}

/* A byte or 16 bits of a row, and of what only some links have. */
__attribute__((__always_inline__)) static inline uint8_t rlx_row8(rlx_rom row, uint8_t field)
{
#if RLX_FIXED
    if (RLX_FIXED_SAME_ROW >> field & 1) return rlx_fixed_row[field];
#endif
    return RLX_ROM8(row + field);
}

__attribute__((__always_inline__)) static inline uint16_t rlx_row16(rlx_rom row, uint8_t field)
{
    return (uint16_t)(rlx_row8(row, field) |
                      (uint16_t)((uint16_t)rlx_row8(row, (uint8_t)(field + 1)) << 8));
}

__attribute__((__always_inline__)) static inline uint8_t rlx_more8(rlx_rom more, uint8_t field)
{
#if RLX_FIXED
    if (RLX_FIXED_SAME_MORE >> field & 1) return rlx_fixed_more[field];
#endif
    return RLX_ROM8(more + field);
}

__attribute__((__always_inline__)) static inline uint16_t rlx_more16(rlx_rom more, uint8_t field)
{
    return (uint16_t)(rlx_more8(more, field) |
                      (uint16_t)((uint16_t)rlx_more8(more, (uint8_t)(field + 1)) << 8));
}

/* What only some links have; NULL: this one has nothing of it. */
static inline rlx_rom rlx_more(const struct rlx_device *d, rlx_rom row)
{
    uint16_t at = rlx_row16(row, RLX_LNK_MORE);
    return at ? rlx_image(d) + at : 0;
}

/* A byte or 16 bits of it; 0: the link has nothing of it. */
static inline uint8_t rlx_perhaps8(const struct rlx_device *d, rlx_rom row, uint8_t field)
{
    uint16_t at = rlx_row16(row, RLX_LNK_MORE);
    return at ? rlx_more8(rlx_image(d) + at, field) : 0;
}

static inline uint16_t rlx_perhaps16(const struct rlx_device *d, rlx_rom row, uint8_t field)
{
    uint16_t at = rlx_row16(row, RLX_LNK_MORE);
    return at ? rlx_more16(rlx_image(d) + at, field) : 0;
}

/* Where an END has its operand: RLX_OPERAND_... */
static inline uint8_t rlx_operand(uint8_t end)
{
#if RLX_FIXED
    if (RLX_FIXED_OPERAND != 0xFF) return RLX_FIXED_OPERAND;
#endif
    return end & RLX_OPERAND_MASK;
}

/* ---- the hashed table of first words ---- */

/* Its place, and a byte or 16 bits of its beginning; RLX_OP_HASH. */
static inline rlx_rom rlx_hashed(const struct rlx_device *d, rlx_rom op)
{
#if RLX_FIXED
    (void)op;
    return rlx_image(d) + RLX_FIXED_HASHED;
#else
    (void)d;
    return op;
#endif
}

__attribute__((__always_inline__)) static inline uint8_t rlx_hashed8(rlx_rom op, uint8_t field)
{
#if RLX_FIXED
    (void)op;
    return rlx_fixed_hash[field];
#else
    return RLX_ROM8(op + field);
#endif
}

__attribute__((__always_inline__)) static inline uint16_t rlx_hashed16(rlx_rom op, uint8_t field)
{
#if RLX_FIXED
    (void)op;
    return (uint16_t)(rlx_fixed_hash[field] | rlx_fixed_hash[field + 1] << 8);
#else
    return RLX_ROM16_EVEN(op + field);
#endif
}

#if RLX_HAS_OWN
/* Whether links have texts of their own. */
static inline bool rlx_has_texts(const struct rlx_device *d, rlx_rom row)
{
    return rlx_perhaps16(d, row, RLX_MORE_TEXTS) != 0;
}
#endif

/* ---- memory ---- */

static inline const rlx_fn *rlx_handlers(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return RLX_FIXED_HANDLERS;
#else
    return d->handlers;
#endif
}

static inline const rlx_fn *rlx_invokers(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return RLX_FIXED_INVOKERS;
#else
    return d->invokers;
#endif
}

static inline struct rlx_link *rlx_link_at(const struct rlx_device *d, uint8_t link)
{
#if RLX_FIXED
    return RLX_FIXED_AT(struct rlx_link, d, link, 0) + (RLX_FIXED_LINKS == 1 ? 0 : link);
#else
    return &d->links[link];
#endif
}

static inline uint8_t rlx_link_number(const struct rlx_device *d, const struct rlx_link *link)
{
    return (uint8_t)(RLX_LINKS == 1 ? 0 : link - rlx_link_at(d, 0));
}

#if RLX_FIXED && defined(RLX_FIXED_STATES)
/* From the device. */
static const uint16_t rlx_output_places[] RLX_ROM = {
#define RLX_STATE_PLACE(number, kind) \
    offsetof(struct rlx_fixed, output) + offsetof(struct rlx_outputs, of_##number),
    RLX_FIXED_STATES(RLX_STATE_PLACE)
#undef RLX_STATE_PLACE
};
#endif

/* Called where states differ in size: a table's place takes more code than a product. */
#if RLX_FIXED && defined(RLX_FIXED_STATES)
__attribute__((__noinline__, __const__, __unused__)) static struct rlx_output *
#else
static inline struct rlx_output *
#endif
rlx_output_at(const struct rlx_device *d, uint8_t output)
{
#if RLX_FIXED && defined(RLX_FIXED_STATES)
    return (struct rlx_output *)((uintptr_t)d +
                                 RLX_ROM16_EVEN((rlx_rom)(rlx_output_places + output)));
#elif RLX_FIXED_OUTPUTS
    return RLX_FIXED_AT(struct rlx_output, d, output, 0) + output;
#elif RLX_FIXED
    (void)output;
    return (struct rlx_output *)(uintptr_t)d; /* there are none */
#else
    return &d->outputs[output];
#endif
}

#if RLX_HAS_INPUTS
static inline struct rlx_input *rlx_input_at(const struct rlx_device *d, uint8_t input)
{
#if RLX_FIXED
    return RLX_FIXED_AT(struct rlx_input, d, input, 0) + input;
#else
    return &d->inputs[input];
#endif
}
#endif

#if RLX_HAS_ROUTINES
static inline struct rlx_routine *rlx_routine_at(const struct rlx_device *d, uint8_t routine)
{
#if RLX_FIXED
    return RLX_FIXED_AT(struct rlx_routine, d, routine, 0) + routine;
#else
    return &d->routines[routine];
#endif
}
#endif

#if RLX_HAS_SETTINGS
/* At least as many as there are. */
#if RLX_FIXED
#define RLX_SETTINGS_ROOM (RLX_FIXED_SETTINGS + 1)
#else
#define RLX_SETTINGS_ROOM RLX_SETTINGS_MOST
#endif
static inline rlx_value *rlx_setting_at(const struct rlx_device *d, uint8_t setting)
{
#if RLX_FIXED
    return RLX_FIXED_AT(rlx_value, d, setting, 0) + setting;
#else
    return &d->settings[setting];
#endif
}

static inline uint8_t *rlx_setting_texts(const struct rlx_device *d)
{
#if RLX_FIXED_SETTING_TEXTS
    return RLX_FIXED_AT(uint8_t, d, setting_texts, 0);
#elif RLX_FIXED
    (void)d;
    return 0;
#else
    return d->setting_texts;
#endif
}
#endif

/* ---- a link's buffer: receive ring, transmit ring, frame and its final 0 ---- */

static inline uint8_t *rlx_rx_ring(const struct rlx_link *link)
{
#if RLX_FIXED_BUFFER
    return RLX_FIXED_AT(uint8_t, link, buffer, offsetof(struct rlx_fixed, link));
#else
    return link->buffer;
#endif
}

/* Sizes of its rings less 1. */
static inline uint8_t rlx_rx_mask(const struct rlx_link *link)
{
#if RLX_FIXED_RECEIVE
    (void)link;
    return RLX_FIXED_RECEIVE;
#else
    return link->rx_mask;
#endif
}

static inline uint8_t rlx_tx_mask(const struct rlx_link *link)
{
#if RLX_FIXED_TRANSMIT
    (void)link;
    return RLX_FIXED_TRANSMIT;
#else
    return link->tx_mask;
#endif
}

static inline uint8_t *rlx_tx_ring(const struct rlx_link *link)
{
    return rlx_rx_ring(link) + rlx_rx_mask(link) + 1;
}

/* The frame, and its longest. */
static inline uint8_t *rlx_frame_text(const struct rlx_link *link)
{
#if RLX_FIXED_FRAME
    return rlx_tx_ring(link) + rlx_tx_mask(link) + 1;
#else
    return link->frame;
#endif
}

static inline uint8_t rlx_frame_most(const struct rlx_link *link)
{
#if RLX_FIXED_FRAME
    (void)link;
    return RLX_FIXED_LONGEST;
#else
    return link->frame_size;
#endif
}

/* The link of the command in hand, and its number. */
static inline struct rlx_link *rlx_current(const struct rlx_device *d)
{
#if RLX_FIXED_BUFFER
    return rlx_link_at(d, 0);
#else
    return d->link;
#endif
}

static inline uint8_t rlx_current_number(const struct rlx_device *d)
{
#if RLX_FIXED_BUFFER
    (void)d;
    return 0;
#else
    return d->link_no;
#endif
}

static inline void rlx_set_current(struct rlx_device *d, struct rlx_link *link, uint8_t number)
{
#if RLX_FIXED_BUFFER
    (void)d, (void)link, (void)number;
#else
    d->link = link;
    d->link_no = number;
#endif
}

/* The ring that the reply in hand is written to, and its size less 1. */
static inline uint8_t *rlx_reply_ring(const struct rlx_device *d)
{
#if !RLX_REPLY_RING
    return rlx_tx_ring(rlx_current(d));
#else
    return d->tx;
#endif
}

/* Where the reply begins, behind lead, address and tag: an index of that ring; it begins here. */
static inline uint16_t rlx_reply_from(const struct rlx_device *d)
{
#if RLX_REPLY_FROM
    return d->tx_start;
#else
    return rlx_current(d)->tx_head;
#endif
}

static inline void rlx_set_reply_from(struct rlx_device *d)
{
#if RLX_REPLY_FROM
    d->tx_start = d->tx_next;
#else
    (void)d;
#endif
}

static inline uint8_t rlx_reply_mask(const struct rlx_device *d)
{
#if !RLX_REPLY_MASK
    (void)d;
    return RLX_FIXED_TRANSMIT;
#else
    return d->tx_mask;
#endif
}

#endif
