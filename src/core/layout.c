/* Binary frames. Reads the bytes of a frame as its link's layout has them and puts the command's
 * text in their place, so that all behind it is as for text; writes answers and events by layouts.
 * It finds no frames: frame.c does. */
#include "core.h"

#if RLX_HAS_BINARY

/* ---- the fields of a list ---- */

static uint8_t bits_of(const struct rlx_field *f)
{
    return (uint8_t)((f->size & RLX_SIZE_BITS) + 1);
}

RLX_INTERNAL bool rlx_field_next(rlx_rom *at, struct rlx_field *f)
{
    static const uint8_t RLX_ROM operands[] = {
        [RLX_FLD_CONSTANT] = 4, [RLX_FLD_VALUE] = 1,           [RLX_FLD_SCALED] = 17,
        [RLX_FLD_LENGTH] = 1,   [RLX_FLD_CHANNELS] = 1,        [RLX_FLD_CHANNEL] = RLX_CHN_SIZE,
        [RLX_FLD_SUM] = 1,      [RLX_FLD_ZONE] = RLX_ZON_SIZE, [RLX_FLD_CRC] = 6};
    f->what = RLX_ROM8_NEXT(*at);
    if (f->what == RLX_FLD_END) return false;
    f->size = RLX_ROM8_NEXT(*at);
    f->operand = *at;
    *at += RLX_ROM8(operands + f->what);
    return true;
}

RLX_INTERNAL rlx_rom rlx_fields_end(rlx_rom at)
{
    struct rlx_field f;
    while (rlx_field_next(&at, &f)) {}
    return at;
}

/* Its bits, or those of all channels. */
static uint16_t width_of(const struct rlx_field *f)
{
    bool many = RLX_TAKES_CHANNELS && f->what == RLX_FLD_CHANNELS;
    return (uint16_t)(bits_of(f) * (many ? RLX_ROM8(f->operand) : 1));
}

/* Bits of all fields up to the body and behind it. */
static uint16_t bits_in(rlx_rom at)
{
    struct rlx_field f;
    uint16_t bits = 0;
    while (rlx_field_next(&at, &f))
        if (f.what != RLX_FLD_BODY && f.what != RLX_FLD_CHECKED)
            bits = (uint16_t)(bits + width_of(&f));
    return bits;
}

/* Its lowest bits as a number of two's complement. */
static uint32_t with_sign(const struct rlx_field *f, uint32_t value)
{
    uint32_t sign = UINT32_C(1) << (bits_of(f) - 1);
    return f->size & RLX_SIZE_SIGNED ? (value ^ sign) - sign : value;
}

#if RLX_HAS_SCALED || RLX_TAKES_CHANNELS
static uint32_t magnitude_of(int32_t n)
{
    return n < 0 ? 0u - (uint32_t)n : (uint32_t)n;
}

/* Without a sign, for on most chips that is the smaller division. */
RLX_INTERNAL int32_t rlx_stretched(int32_t value, int32_t from, int32_t range, int32_t to,
                                   int32_t other)
{
    int32_t product = (value - from) * other;
    bool minus = (product < 0) != (range < 0);
    uint32_t by = magnitude_of(range), n = (magnitude_of(product) + by / 2) / by;
    return minus ? to - (int32_t)n : to + (int32_t)n;
}
#endif

/* ---- checks ---- */

static uint16_t check_begin(const struct rlx_field *f)
{
    return f->what == RLX_FLD_CRC ? RLX_ROM16(f->operand + 2) : 0;
}

static uint16_t check_step(const struct rlx_field *f, uint16_t sum, uint8_t byte)
{
    if (f->what == RLX_FLD_SUM) return (uint16_t)(sum + byte);
    if (f->what == RLX_FLD_XOR) return sum ^ byte;
    uint16_t polynomial = RLX_ROM16(f->operand);
    bool reflected = f->size & RLX_SIZE_SIGNED;
    sum = (uint16_t)(sum ^ (reflected ? byte : (uint16_t)(byte << 8)));
    for (uint8_t i = 0; i < 8; i++) {
        bool out = sum & (reflected ? 1u : 0x8000u);
        sum = (uint16_t)(reflected ? sum >> 1 : sum << 1);
        if (out) sum ^= polynomial;
    }
    return sum;
}

static uint16_t check_end(const struct rlx_field *f, uint16_t sum)
{
    if (f->what == RLX_FLD_SUM && RLX_ROM8(f->operand) != RLX_SUM_PLAIN) {
        sum = (uint16_t)~sum;
        if (RLX_ROM8(f->operand) == RLX_SUM_NEGATED) sum++;
    }
    if (f->what == RLX_FLD_CRC) sum ^= RLX_ROM16(f->operand + 4);
    if (bits_of(f) > 8) return sum;
    return f->what == RLX_FLD_CRC && !(f->size & RLX_SIZE_SIGNED) ? sum >> 8 : sum & 0xFF;
}

/* ---- reading ---- */

/* What stands in the field, and steps behind it. */
static uint32_t take_bits(struct rlx_reading *r, const struct rlx_field *f)
{
    uint8_t bits = bits_of(f);
    uint32_t value = 0;
    if (f->size & RLX_SIZE_LITTLE)
        for (uint8_t i = 0; i < bits; i = (uint8_t)(i + 8))
            value |= (uint32_t)r->bytes[(uint16_t)(r->bit + i) >> 3] << i;
    else
        for (uint16_t at = r->bit; at != r->bit + bits; at++)
            value = value << 1 | (r->bytes[at >> 3] >> (7 - (at & 7)) & 1);
    r->bit = (uint16_t)(r->bit + bits);
    return value;
}

static bool is_check_right(const struct rlx_reading *r, const struct rlx_field *f, uint16_t at,
                           uint32_t found)
{
    uint16_t sum = check_begin(f);
    for (uint16_t i = r->checked; i < at >> 3; i++) sum = check_step(f, sum, r->bytes[i]);
    return check_end(f, sum) == found;
}

RLX_INTERNAL bool rlx_layout_take(struct rlx_reading *r, rlx_rom at, uint8_t behind,
                                  uint32_t *number)
{
    struct rlx_field f;
    uint16_t body = 0;
    if (r->length * 8u < bits_in(at)) return false;
    while (rlx_field_next(&at, &f)) {
        uint16_t from = r->bit;
        if (f.what == RLX_FLD_BODY) {
            body = r->bit;
            r->bit = (uint16_t)((unsigned)(r->length - behind) * 8u);
            continue;
        }
        if (f.what == RLX_FLD_CHECKED) {
            r->checked = (uint8_t)(r->bit >> 3);
            continue;
        }
#if RLX_TAKES_CHANNELS
        if (f.what == RLX_FLD_CHANNELS) {
            r->channels = r->bit;
            r->size = f.size;
            r->bit = (uint16_t)(r->bit + width_of(&f));
            continue;
        }
#endif
        uint32_t value = take_bits(r, &f);
#if RLX_TAKES_CHANNELS
        if (f.what == RLX_FLD_FAILSAFE) r->failsafe = r->failsafe || value;
#endif
        if (f.what == RLX_FLD_CONSTANT && value != rlx_rom32(f.operand)) return false;
        if (f.what == RLX_FLD_LENGTH && value + RLX_ROM8(f.operand) != r->length) return false;
        if (f.what == RLX_FLD_NUMBER) *number = value;
        if (f.what >= RLX_FLD_SUM && !is_check_right(r, &f, from, value)) return false;
    }
    r->bit = body;
    r->length = (uint8_t)(r->length - behind);
    return true;
}

/* Whether the body is this row's; its values are then d->value. */
static bool take_body(struct rlx_device *d, struct rlx_reading r, rlx_rom at)
{
    struct rlx_field f;
    if (r.length * 8u != r.bit + (unsigned)bits_in(at)) return false;
    while (rlx_field_next(&at, &f)) {
        uint32_t value = take_bits(&r, &f);
        if (f.what == RLX_FLD_CONSTANT) {
            if (value != rlx_rom32(f.operand)) return false;
            continue;
        }
        int32_t got = (int32_t)with_sign(&f, value);
#if RLX_HAS_SCALED
        if (f.what == RLX_FLD_SCALED) {
            int32_t from = (int32_t)rlx_rom32(f.operand + 1),
                    to = (int32_t)rlx_rom32(f.operand + 9);
            got = rlx_stretched(got, from, (int32_t)rlx_rom32(f.operand + 5) - from, to,
                                (int32_t)rlx_rom32(f.operand + 13) - to);
        }
#endif
        d->value[RLX_ROM8(f.operand)] = (rlx_value)got;
    }
    return true;
}

/* A number as a command has it; NULL: there is no room for it. */
static uint8_t *put_number(uint8_t *to, const uint8_t *last, rlx_value value, uint8_t decimals)
{
    uint8_t digit[RLX_NUMBER_DIGITS], n = 0;
    rlx_magnitude left = (rlx_magnitude)value;
    if (value < 0) left = (rlx_magnitude)(0u - left);
    do {
        rlx_magnitude rest = rlx_tenth(left);
        digit[n++] = (uint8_t)('0' + left - rest * 10u);
        left = rest;
    } while (left || n <= decimals);
    if (last - to < n + 2) return 0;
    if (value < 0) *to++ = '-';
    while (n) {
        *to++ = digit[--n];
        if (decimals && n == decimals) *to++ = '.';
    }
    return to;
}

RLX_INTERNAL bool rlx_layout_text(struct rlx_device *d, uint8_t *to, rlx_rom text)
{
    const struct rlx_link *link = rlx_current(d);
    const uint8_t *last = rlx_frame_text(link) + rlx_frame_most(link);
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(text);
        if (c == RLX_ROW_SLOT) {
            c = RLX_ROM8_NEXT(text);
            uint8_t slot = (uint8_t)(c & ~RLX_TEXT_END);
            to = put_number(to, last, d->value[(slot & ((1u << RLX_ROW_SLOT_BITS) - 1u)) - 1u],
                            slot >> RLX_ROW_SLOT_BITS);
            if (!to) return false;
        } else {
            if (to == last) return false;
            *to++ = (uint8_t)(c & ~RLX_TEXT_END);
        }
    } while (c < RLX_TEXT_END);
    *to = 0;
    return true;
}

RLX_INTERNAL rlx_rom rlx_layout_fields(const struct rlx_device *d, rlx_rom row, uint8_t which,
                                       rlx_rom *end)
{
    rlx_rom at = rlx_more_list(d, row, RLX_MORE_KEYS, end) + 1;
    while (which--) at = rlx_fields_end(at);
    return at;
}

RLX_INTERNAL rlx_rom rlx_row_end(rlx_rom at, uint8_t what)
{
    while (what < RLX_ROW_EVENTS && RLX_ROM8_NEXT(at) < RLX_TEXT_END) {}
    return RLX_BINARY_VALUES && what == RLX_ROW_ANSWERS ? rlx_fields_end(at) : at;
}

RLX_INTERNAL uint8_t rlx_layout_read(struct rlx_device *d, rlx_rom row, uint32_t *number,
                                     rlx_rom *answers)
{
    struct rlx_link *link = rlx_current(d);
    rlx_rom end = 0, at = rlx_layout_fields(d, row, RLX_OF_FRAME, &end);
    struct rlx_reading r = {.bytes = rlx_frame_text(link), .length = link->frame_len};
    if (!rlx_layout_take(&r, at, RLX_ROM8(at - 1), number)) return RLX_MATCH_OTHERS;
    if (RLX_BINARY_VALUES) *answers = 0;
    for (at = rlx_layout_fields(d, row, RLX_OF_ROWS, &end); at != end;) {
        uint8_t what = RLX_ROM8_NEXT(at);
        rlx_rom text = rlx_fields_end(at);
        if (what < RLX_ROW_EVENTS && take_body(d, r, at)) {
            if (RLX_BINARY_VALUES && what == RLX_ROW_ANSWERS)
                *answers = rlx_row_end(text, RLX_ROW_COMMAND);
            return rlx_layout_text(d, rlx_frame_text(link), text) ? 0 : RLX_ERR_LONG;
        }
        at = rlx_row_end(text, what);
    }
    *rlx_frame_text(link) = 0;
    return RLX_ERR_UNKNOWN;
}

/* ---- writing ---- */

struct writing {
    struct rlx_device *d;
    uint8_t fill; /* bits of the last byte that are written */
    uint16_t checked;
    uint32_t length, result;
    rlx_rom body;
};

static void put_bit(struct writing *w, bool on)
{
    struct rlx_device *d = w->d;
    if (!w->fill) rlx_reply_put(d, 0);
    uint8_t *byte = &rlx_reply_ring(d)[(d->tx_next - 1u) & rlx_reply_mask(d)];
    *byte = (uint8_t)(*byte | (on ? 0x80u >> w->fill : 0u));
    w->fill = (w->fill + 1) & 7;
}

static void put_bits(struct writing *w, const struct rlx_field *f, uint32_t value)
{
    uint8_t bits = bits_of(f);
    if (f->size & RLX_SIZE_LITTLE)
        for (; bits; bits = (uint8_t)(bits - 8), value >>= 8) rlx_reply_put(w->d, (uint8_t)value);
    else
        while (bits--) put_bit(w, value >> bits & 1);
}

static uint32_t check_of(const struct writing *w, const struct rlx_field *f)
{
    const struct rlx_device *d = w->d;
    uint16_t sum = check_begin(f);
    for (uint16_t at = w->checked; at != d->tx_next; at++)
        sum = check_step(f, sum, rlx_reply_ring(d)[at & rlx_reply_mask(d)]);
    return check_end(f, sum);
}

#if RLX_BINARY_VALUES
/* What the handler answered with, behind the values that it got. */
static uint32_t told_value(const struct rlx_device *d, const struct rlx_field *f)
{
    uint8_t at = RLX_ROM8(f->operand);
#if RLX_HAS_ANSWERS
    at = (uint8_t)(at + d->n_values);
#endif
    int32_t value = d->value[at];
#if RLX_HAS_SCALED
    if (f->what == RLX_FLD_SCALED) {
        int32_t from = (int32_t)rlx_rom32(f->operand + 1), to = (int32_t)rlx_rom32(f->operand + 9);
        value = rlx_stretched(value, to, (int32_t)rlx_rom32(f->operand + 13) - to, from,
                              (int32_t)rlx_rom32(f->operand + 5) - from);
    }
#endif
    return (uint32_t)value;
}
#endif

static uint32_t field_value(const struct writing *w, const struct rlx_field *f)
{
    switch (f->what) {
    case RLX_FLD_CONSTANT: return rlx_rom32(f->operand);
    case RLX_FLD_LENGTH: return w->length - RLX_ROM8(f->operand);
    case RLX_FLD_NUMBER: return w->d->frame_number;
    case RLX_FLD_UNUSED: return 0;
    case RLX_FLD_RESULT: return w->result;
#if RLX_BINARY_VALUES
    case RLX_FLD_VALUE:
    case RLX_FLD_SCALED: return told_value(w->d, f);
#endif
    default: return check_of(w, f);
    }
}

/* Fields, and those of the body in its place. */
static void put_fields(struct writing *w, rlx_rom at)
{
    struct rlx_field f;
    rlx_rom behind = 0;
    for (;;) {
        while (!rlx_field_next(&at, &f)) {
            if (!behind) return;
            at = behind;
            behind = 0;
        }
        if (f.what == RLX_FLD_BODY) {
            if (w->body) {
                behind = at;
                at = w->body;
            }
        } else if (f.what == RLX_FLD_CHECKED) {
            w->checked = w->d->tx_next;
        } else {
            put_bits(w, &f, field_value(w, &f));
        }
    }
}

#if RLX_HAS_STUFFED
/* RFC 1662: from its end on, for it becomes longer. */
static void stuff(struct rlx_device *d)
{
    uint8_t *ring = rlx_reply_ring(d), mask = rlx_reply_mask(d);
    uint16_t head = rlx_current(d)->tx_head, from = d->tx_next, to = (uint16_t)(from + 2);
    for (uint16_t at = head; at != from; at++) {
        uint8_t byte = ring[at & mask];
        to = (uint16_t)(to + (byte == RLX_STUFF_FLAG || byte == RLX_STUFF_ESCAPE));
    }
    d->tx_next = to;
    ring[--to & mask] = RLX_STUFF_FLAG;
    while (from != head) {
        uint8_t byte = ring[--from & mask];
        bool special = byte == RLX_STUFF_FLAG || byte == RLX_STUFF_ESCAPE;
        ring[--to & mask] = special ? byte ^ RLX_STUFF_XOR : byte;
        if (special) ring[--to & mask] = RLX_STUFF_ESCAPE;
    }
    ring[--to & mask] = RLX_STUFF_FLAG;
}
#endif

#if RLX_HAS_COBS
/* Each zero becomes the distance to the next one: before the first stands its own, and a zero ends
 * the frame. It has at most 253 bytes. */
static void fold_zeros(struct rlx_device *d)
{
    uint8_t *ring = rlx_reply_ring(d), mask = rlx_reply_mask(d);
    uint16_t head = rlx_current(d)->tx_head, at = d->tx_next, zero = (uint16_t)(at + 1);
    d->tx_next = (uint16_t)(at + 2);
    ring[zero & mask] = 0;
    for (; at != head; at--) {
        uint8_t byte = ring[(at - 1u) & mask];
        ring[at & mask] = byte ? byte : (uint8_t)(zero - at);
        if (!byte) zero = at;
    }
    ring[head & mask] = (uint8_t)(zero - head);
}
#endif

/* The row of an event; NULL: it has none. */
static rlx_rom row_of(rlx_rom at, rlx_rom end, uint8_t what)
{
    while (at != end) {
        uint8_t is = RLX_ROM8_NEXT(at);
        if (is == what) return at;
        at = rlx_row_end(rlx_fields_end(at), is);
    }
    return 0;
}

RLX_INTERNAL enum rlx_own rlx_layout_write(struct rlx_device *d, rlx_rom row, uint8_t what)
{
    bool answer = what < RLX_OWN_NOTE;
    rlx_rom end = 0,
            fields = rlx_layout_fields(d, row, answer ? RLX_OF_ANSWER : RLX_OF_EVENT, &end);
    struct writing w = {.d = d, .result = what < RLX_OWN_ALREADY ? what : 0};
#if RLX_BINARY_VALUES
    if (answer && !w.result) w.body = d->frame_answers;
#endif
    if (!answer) w.body = row_of(rlx_layout_fields(d, row, RLX_OF_ROWS, &end), end, what);
    if (RLX_ROM8(fields) == RLX_FLD_END || (!answer && !w.body)) return RLX_OWN_EMPTY;
    w.length = (uint32_t)(bits_in(fields) + (w.body ? bits_in(w.body) : 0)) / 8;
    d->tx_next = rlx_current(d)->tx_head;
    w.checked = d->tx_next;
    put_fields(&w, fields);
#if RLX_HAS_STUFFED
    if (rlx_framing(row) == RLX_FRAME_STUFFED) stuff(d);
#endif
#if RLX_HAS_COBS
    if (rlx_framing(row) == RLX_FRAME_COBS) fold_zeros(d);
#endif
    return RLX_OWN_WRITTEN;
}

/* ---- what stands around the bytes of a frame ---- */

#if RLX_HAS_STUFFED
/* False: it is damaged. */
static bool unstuff(uint8_t *bytes, uint8_t *length)
{
    uint8_t to = 0;
    for (uint8_t i = 0; i < *length; i++) {
        uint8_t byte = bytes[i];
        if (byte == RLX_STUFF_ESCAPE) {
            if (++i == *length) return false;
            byte = bytes[i] ^ RLX_STUFF_XOR;
        }
        bytes[to++] = byte;
    }
    *length = to;
    return true;
}
#endif

#if RLX_HAS_COBS
static bool unfold_zeros(uint8_t *bytes, uint8_t *length)
{
    uint8_t to = 0, left = bytes[0];
    for (uint8_t i = 1; i < *length; i++) {
        if (--left) {
            bytes[to++] = bytes[i];
        } else {
            bytes[to++] = 0;
            left = bytes[i];
        }
    }
    *length = to;
    return left == 1;
}
#endif

RLX_INTERNAL void rlx_layout_unwrap(struct rlx_link *link, uint8_t framing)
{
    bool whole = true;
    (void)framing;
#if RLX_HAS_STUFFED
    if (framing == RLX_FRAME_STUFFED) whole = unstuff(rlx_frame_text(link), &link->frame_len);
#endif
#if RLX_HAS_COBS
    if (framing == RLX_FRAME_COBS) whole = unfold_zeros(rlx_frame_text(link), &link->frame_len);
#endif
    if (!whole) link->frame_state = RLX_ERR_BYTE;
    link->frame_state |= RLX_FRAME_READY;
}
#endif
