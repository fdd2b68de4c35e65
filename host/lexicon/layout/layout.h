/* Binary frames by a layout: texts to bytes, as a sender writes them, and back. It is written apart
 * from the library, which tests hold against it. */
#ifndef LAYOUT_H
#define LAYOUT_H

#include "lexicon/model.h"

/* A published check: its name here and in the catalogues, and its parameters; polynomial and start
 * as the catalogues have them, not reflected. */
struct lex_sum {
    const char *word, *published;
    unsigned bits;
    uint16_t polynomial, start, last, of_digits; /* of_digits: of "123456789" */
    bool reflected;
};
extern const struct lex_sum lex_sums[];
extern const unsigned lex_n_sums;

/* Whether the link tells of the event. */
bool layout_has_event(const struct lex_link *link, const struct lex_event *event);
/* The check in a field, of these bytes. */
uint32_t layout_sum(const struct lex_field *field, const guint8 *bytes, size_t count);
/* Bits of all fields but the body. */
unsigned layout_bits(const GPtrArray *fields);
/* The lowest and highest number that a field takes. */
int64_t layout_low(const struct lex_field *field);
int64_t layout_high(const struct lex_field *field);

/* The bytes of a command's text, with the sender's number, as they go over the link. NULL: no row
 * says it, or one of its values does not fit its field. Bytes in hex, "0xA5 0x02", are themselves.
 * Owned by the caller. */
GByteArray *layout_encode(const struct lex_link *link, const char *text, uint32_t number);
/* Whether a frame says just this text, so that the device reads it as it stands here. */
bool layout_says(const struct lex_link *link, const char *text);
/* The same of one that the device then obeys: of sticks at rest it obeys nothing. */
bool layout_asks(const struct lex_link *link, const char *text);
/* The first thing in what the device sent, and how many bytes it is: "ok", "e4", "ev call pressed",
 * or the bytes in hex, where no layout has them. Owned by the caller. */
char *layout_decode(const struct lex_link *link, const guint8 *bytes, size_t count, size_t *used);
/* The text of the command in the bytes of one frame, without what stands around them: what the
 * device reads. NULL: damaged, or for others; "": no row. Owned by the caller. */
char *layout_command(const struct lex_link *link, const guint8 *bytes, size_t count);
/* The bytes of an answer (an error's number or 0), without what stands around them; of the row with
 * this text those of its event, or of its answer with zeros for values. NULL: there is no layout
 * for it. Owned by the caller. */
GByteArray *layout_answer(const struct lex_link *link, const char *row, unsigned result,
                          uint32_t number);
/* Puts around the bytes of a frame what its framing has, and takes it off; false: it is damaged. */
void layout_wrap(const struct lex_link *link, GByteArray *frame);
bool layout_unwrap(const struct lex_link *link, GByteArray *frame);
/* The most bytes of a frame, and of an answer or event, as they go over the link. */
unsigned layout_most(const struct lex_link *link, bool answers);
/* Bytes that a link of channels keeps: two frames, flags of rows, and a command's text; and where
 * in them the text begins. */
unsigned layout_room(const struct lex_link *link);
unsigned layout_text_place(const struct lex_link *link);
/* The most characters of the command that a row becomes. */
unsigned layout_text_most(const struct lex_packed *row);
/* The lowest and highest value of its slot that a field can stand for. */
void layout_reach(const struct lex_field *field, int64_t *low, int64_t *high);
/* A text that the command of the row may be; NULL: of the first command that has one. Owned by the
 * caller. */
char *layout_example(const struct lex_link *link, const struct lex_packed *row);
/* The bytes of one frame, without what stands around them, as layout_encode(). */
GByteArray *layout_frame(const struct lex_link *link, const char *text, uint32_t number);
/* Which damage of a frame its check finds, as a sentence. Owned by the caller. */
char *layout_check_text(const struct lex_link *link);
/* Whether it finds every burst of damaged bits up to 16. */
bool layout_finds_bursts(const struct lex_link *link);
/* A field in words: 0xA5, "length", "level 0..255", "CRC-16/MODBUS"; and how it lies: "u16 little".
 * Owned by the caller. */
char *layout_field_text(const struct lex_field *field);
char *layout_field_type(const struct lex_field *field);
/* Bits of the check of a frame; 0: it has none. */
unsigned layout_check_bits(const struct lex_link *link);
/* "A5 02 01". Owned by the caller. */
char *layout_hex(const guint8 *bytes, size_t count);

#endif
