/* What stands around the bytes of a frame: flags with byte stuffing (RFC 1662), zeros (COBS).
 * Puts it around, and takes it off.
 * Where a silence or a packet ends a frame there is nothing. */
#include "lexicon/layout/layout_parts.h"

static void append(GByteArray *to, unsigned byte)
{
    guint8 one = (guint8)byte;
    g_byte_array_append(to, &one, 1);
}

static void stuff(GByteArray *to, const guint8 *bytes, size_t count)
{
    append(to, RLX_STUFF_FLAG);
    for (size_t i = 0; i < count; i++) {
        bool special = bytes[i] == RLX_STUFF_FLAG || bytes[i] == RLX_STUFF_ESCAPE;
        if (special) append(to, RLX_STUFF_ESCAPE);
        append(to, special ? bytes[i] ^ RLX_STUFF_XOR : bytes[i]);
    }
    append(to, RLX_STUFF_FLAG);
}

/* Blocks up to a zero, each behind its length and 1; a block of 254 bytes has no zero behind it. */
static void fold_zeros(GByteArray *to, const guint8 *bytes, size_t count)
{
    for (size_t at = 0;;) {
        size_t n = 0;
        while (at + n < count && bytes[at + n] && n < 254) n++;
        append(to, (unsigned)n + 1);
        g_byte_array_append(to, bytes + at, (guint)n);
        at += n;
        if (at >= count) break;
        if (n < 254) at++;
    }
    append(to, 0);
}

void layout_wrap(const struct lex_link *link, GByteArray *frame)
{
    GByteArray *plain = g_byte_array_new();
    g_byte_array_append(plain, frame->data, frame->len);
    if (link->frame == LEX_FRAME_STUFFED || link->frame == LEX_FRAME_COBS)
        g_byte_array_set_size(frame, 0);
    if (link->frame == LEX_FRAME_STUFFED) stuff(frame, plain->data, plain->len);
    if (link->frame == LEX_FRAME_COBS) fold_zeros(frame, plain->data, plain->len);
    g_byte_array_free(plain, TRUE);
}

static bool unstuff(GByteArray *to, const guint8 *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        if (bytes[i] != RLX_STUFF_ESCAPE) {
            append(to, bytes[i]);
        } else {
            if (++i == count) return false;
            append(to, bytes[i] ^ RLX_STUFF_XOR);
        }
    }
    return true;
}

static bool unfold_zeros(GByteArray *to, const guint8 *bytes, size_t count)
{
    for (size_t at = 0; at < count;) {
        size_t n = bytes[at];
        if (!n || at + n > count) return false;
        g_byte_array_append(to, bytes + at + 1, (guint)n - 1);
        at += n;
        if (at < count && n < 255) append(to, 0);
    }
    return true;
}

bool layout_unwrap(const struct lex_link *link, GByteArray *frame)
{
    if (link->frame != LEX_FRAME_STUFFED && link->frame != LEX_FRAME_COBS) return true;
    GByteArray *plain = g_byte_array_new();
    bool whole = link->frame == LEX_FRAME_COBS ? unfold_zeros(plain, frame->data, frame->len)
                                               : unstuff(plain, frame->data, frame->len);
    g_byte_array_set_size(frame, 0);
    g_byte_array_append(frame, plain->data, plain->len);
    g_byte_array_free(plain, TRUE);
    return whole;
}
