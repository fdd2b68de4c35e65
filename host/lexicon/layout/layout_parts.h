/* What the files about layouts share. */
#ifndef LAYOUT_PARTS_H
#define LAYOUT_PARTS_H

#include "lexicon/layout/layout.h"
#include "rlx/config.h"
#include "rlx/image.h"

/* ---- fields.c ---- */

/* Bits that are written one behind the other. */
struct layout_bits {
    GByteArray *bytes;
    unsigned fill; /* bits of the last byte that are written */
};

/* Whether the field has bits: not the body's place, nor where the check begins. */
bool layout_is_placed(const struct lex_field *field);
/* So many; those of all channels. */
unsigned layout_width(const struct lex_field *field);
void layout_put_bits(struct layout_bits *to, const struct lex_field *field, uint32_t value);
uint32_t layout_bits_at(const struct lex_field *field, const guint8 *bytes, unsigned at);
/* A slot's value as the frame has it, and back: to the nearest. */
int64_t layout_between(int64_t value, int64_t from, int64_t to, int64_t low, int64_t high);

/* ---- sticks.c ---- */

/* The bits of all channels. */
void layout_put_channels(struct layout_bits *to, const struct lex_field *field,
                         const uint16_t *channels);
void layout_take_channels(const struct lex_field *field, const guint8 *bytes, unsigned at,
                          uint16_t *channels);

/* ---- encode.c ---- */

/* What a frame is written from. */
struct layout_said {
    uint32_t number, result;
    unsigned length;          /* of the frame, in bytes */
    const GPtrArray *body;    /* the row's fields; NULL: none */
    const int64_t *values;    /* of its slots, in their order */
    const uint16_t *channels; /* what each has; NULL: there are none */
    bool failsafe;
};

/* The bytes of fields, with those of the body in its place. Sets the length. Owned by the caller.
 */
GByteArray *layout_written(const GPtrArray *fields, struct layout_said *said);

/* ---- decode.c ---- */

/* What was read of a frame. */
struct layout_got {
    uint32_t number, result;
    int64_t values[RLX_MOST_SLOTS];
    uint16_t channels[LEX_CHANNELS_MOST];
    bool failsafe;
};

/* Whether the bytes are these fields, with those of the body in its place. */
bool layout_is_frame(const GPtrArray *fields, const GPtrArray *body, const guint8 *bytes,
                     size_t count, struct layout_got *got);
/* The number in a text, whatever its range: 40, -12.5, 120mm. False: it is none. */
bool layout_number_said(const struct lex_element *e, const char *text, int64_t *value);

/* A row's text with the values that were read. Owned by the caller. */
char *layout_row_text(const struct lex_packed *row, const struct layout_got *got);

#endif
