#include "core.h"

/* Upper case to lower where letters are any-case: d->fold is 26 or 0. */
static uint8_t folded(const struct rlx_device *d, uint8_t c)
{
    if (RLX_HAS_ANY_CASE && (uint8_t)(c - 'A') < d->fold) c |= 0x20;
    return c;
}

static bool ends_word(uint8_t c)
{
    return c <= ' ';
}

/* Finds the word at d->text among entries of `before` bytes and a text each. Returns its entry,
 * with d->text behind the word, or NULL; *error tells why. */
static rlx_rom find_word(struct rlx_device *d, rlx_rom entry, rlx_rom end, uint8_t before,
                         uint8_t *error)
{
    rlx_rom near = 0;
    const uint8_t *s = d->text;
    while (entry != end) {
        rlx_rom t = entry + before;
        uint8_t c, want;
        s = d->text;
        while ((want = RLX_ROM8(t++)) == (c = folded(d, *s))) s++;
        if (want == (c | RLX_TEXT_END) && ends_word(s[1])) {
            d->text = s + 1;
            return entry;
        }
        if (RLX_HAS_SHORTEN && ends_word(c) && s - d->text >= d->shorten) {
            *error = near ? RLX_ERR_AMBIGUOUS : *error;
            near = entry;
        }
        while (want < RLX_TEXT_END) want = RLX_ROM8(t++);
        entry = t;
    }
    if (!RLX_HAS_SHORTEN || !near || *error == RLX_ERR_AMBIGUOUS) return 0;
    while (!ends_word(*d->text)) d->text++;
    return near;
}

/* The same in a hashed table: the hash of the word, or of as many letters as a shortened one must
 * have, leads to its group of entries. */
static rlx_rom find_hashed(struct rlx_device *d, rlx_rom op, uint8_t *error)
{
    uint8_t before = RLX_ROM8(op + 1), left = d->shorten;
    uint16_t mask = RLX_ROM16(op + 2), groups = RLX_ROM16(op + 4), hash = 0, shift, group;
    rlx_rom shifts = op + 6, table = shifts + 2u * (mask + 1u);
    for (const uint8_t *s = d->text; !ends_word(*s) && left--; s++)
        hash = RLX_HASH_STEP(hash, folded(d, *s));
    shift = RLX_ROM16(shifts + 2u * (hash & mask));
    group = RLX_HASH_GROUP(hash, shift, groups);
    d->group = group;
    table += 2u * group;
    return find_word(d, d->image + RLX_ROM16(table), d->image + RLX_ROM16(table + 2), before,
                     error);
}

/* Tells the found word to the reply and goes on at the entry's shape. */
static void take_word(struct rlx_device *d, rlx_rom entry, uint8_t before)
{
    uint16_t shape = RLX_ROM8(entry);
    if (RLX_HAS_MANY && d->many) {
        d->at = d->image + RLX_ROM16(entry);
    } else {
        rlx_rom shapes = d->image + RLX_ROM16(d->image + RLX_IMG_SHAPES);
        d->at = d->image + RLX_ROM16(shapes + 2u * shape);
    }
    rlx_reply_text(d, entry + before);
}

static rlx_value read_value(rlx_rom at, uint8_t op)
{
    if (RLX_HAS_WIDE && op == RLX_OP_NUM32)
        return (rlx_value)(RLX_ROM16(at) | (uint32_t)RLX_ROM16(at + 2) << 16);
    return (int16_t)RLX_ROM16(at);
}

/* The bounds of a number element; returns its unit or, without one, its name. */
rlx_rom rlx_number_row(rlx_rom at, rlx_value *low, rlx_value *high)
{
    uint8_t op = RLX_ROM8(at), size = RLX_HAS_WIDE && op == RLX_OP_NUM32 ? 4 : 2;
    *low = read_value(at + 3, op);
    *high = read_value(at + 3 + size, op);
    return at + 3 + 2 * size;
}

/* Whether the text at s is this unit and the word ends behind it. */
static bool is_unit(const struct rlx_device *d, const uint8_t *s, rlx_rom unit)
{
    uint8_t c, want;
    while ((want = RLX_ROM8(unit++)) == (c = folded(d, *s))) s++;
    return want == (c | RLX_TEXT_END) && ends_word(s[1]);
}

/* A whole number: optional '-', digits, optional unit. No '+', no "-0"; leading zeros up to the
 * slot's width. Tells it to the reply without zeros and unit. */
static uint8_t take_number(struct rlx_device *d)
{
    const uint8_t *s = d->text, *first;
    rlx_value low, high;
    rlx_rom unit = rlx_number_row(d->at, &low, &high);
    uint8_t width = RLX_ROM8(d->at + 2), digits = 0, digit;
    rlx_magnitude most = RLX_VALUE_MAX, sum = 0;
    bool minus = *s == '-';
    if (minus) s++, most++;
    if ((uint8_t)(*s - '0') > 9) return RLX_ERR_NUMBER;
    while (*s == '0' && (uint8_t)(s[1] - '0') <= 9) s++, digits++;
    first = s;
    for (; (digit = (uint8_t)(*s - '0')) <= 9; s++, digits++)
        sum = sum > ((rlx_magnitude)-1 - 9) / 10 ? (rlx_magnitude)-1
                                                 : (rlx_magnitude)(sum * 10u + digit);
    if (minus && !sum) return RLX_ERR_NUMBER;
    if (!ends_word(*s) &&
        !(RLX_HAS_UNIT && (width & RLX_NUM_UNIT) && is_unit(d, s, unit)))
        return RLX_ERR_NUMBER;
    if (sum > most) return RLX_ERR_RANGE;
    rlx_value value = minus ? (rlx_value)(-(rlx_value)(sum - 1) - 1) : (rlx_value)sum;
    if (value < low || value > high) return RLX_ERR_RANGE;
    if (digits > (width & RLX_NUM_DIGITS)) return RLX_ERR_DIGITS;
    if (minus) rlx_reply_put(d, '-');
    while (first != s) rlx_reply_put(d, *first++);
    while (!ends_word(*s)) s++;
    d->text = s;
    d->value[d->n_values++] = value;
    d->at += 2 + RLX_ROM8(d->at + 1);
    return 0;
}

static bool starts_number(uint8_t c)
{
    return c == '-' || (uint8_t)(c - '0') <= 9;
}

/* Steps over the elements that read nothing; true while there are some. Where d->text wants a
 * number that may also be a word, d->at stays at the IF_NUM for a message, *op is what to try. */
static bool take_silent(struct rlx_device *d, rlx_rom *op)
{
    rlx_rom at = *op;
    switch (RLX_ROM8(at)) {
    case RLX_OP_PUSH:
        d->value[d->n_values++] = RLX_ROM8(at + 1);
        d->at = *op = at + 2;
        return true;
    case RLX_OP_IF_END:
        at += *d->text ? 2 + RLX_ROM8(at + 1) : 2;
        d->at = *op = at;
        return true;
    case RLX_OP_IF_NUM:
        if (starts_number(*d->text)) {
            d->at = *op = at + 3;
        } else {
            *op = at + 3 + RLX_ROM16(at + 1);
        }
        return true;
    default: return false;
    }
}

/* Reads what one element wants. */
static uint8_t take_element(struct rlx_device *d, rlx_rom op)
{
    uint8_t kind = RLX_ROM8(op), before, error;
    rlx_rom entry, end;
    rlx_reply_put(d, ' ');
    d->tx_word = d->tx_next;
    if (RLX_HAS_NUMBER && (kind == RLX_OP_NUM16 || (RLX_HAS_WIDE && kind == RLX_OP_NUM32)))
        return take_number(d);
    error = d->entry ? RLX_ERR_CHOICE : RLX_ERR_UNKNOWN;
    if (RLX_HAS_HASH && kind == RLX_OP_HASH) {
        entry = find_hashed(d, op, &error);
        if (!entry) return error;
        d->entry = entry;
        take_word(d, entry, RLX_ROM8(op + 1));
        return 0;
    }
    end = op + 4 + RLX_ROM16(op + 1);
    before = RLX_ROM8(op + 3);
    entry = find_word(d, op + 4, end, before, &error);
    if (!entry) return error;
    if (RLX_HAS_CHOICE && kind == RLX_OP_CHOICE) {
        d->value[d->n_values++] = RLX_ROM8(entry);
        rlx_reply_text(d, entry + 1);
        d->at = end;
    } else {
        if (!d->entry) d->entry = entry;
        take_word(d, entry, before);
    }
    return 0;
}

int rlx_match(struct rlx_device *d)
{
    d->n_values = 0;
    d->entry = 0;
    d->at = d->image + RLX_ROM16(d->image + RLX_IMG_ROOT);
    for (;;) {
        rlx_rom op = d->at;
        while (*d->text == ' ') d->text++;
        while (RLX_HAS_FAMILY && take_silent(d, &op)) {}
        if (RLX_ROM8(op) & RLX_OP_END) return *d->text ? RLX_ERR_EXTRA : 0;
        if (!*d->text) return d->entry ? RLX_ERR_MISSING : RLX_MATCH_EMPTY;
        uint8_t error = take_element(d, op);
        if (error) return error;
    }
}

/* ---- what others reply ---- */

/* The first words of replies, events and notes; "e" stands for e1, e2, ... */
static const char reply_words[] RLX_ROM = "ok\0err\0ev\0note\0ready\0e\0";

bool rlx_match_reply_word(const uint8_t *text)
{
    rlx_rom t = (rlx_rom)reply_words;
    while (*text == ' ') text++;
    while (RLX_ROM8(t)) {
        const uint8_t *s = text;
        bool number = RLX_ROM8(t + 1) == 0;
        while (RLX_ROM8(t) && RLX_ROM8(t) == (*s | 0x20)) s++, t++;
        if (!RLX_ROM8(t)) {
            const uint8_t *digits = s;
            while (number && (uint8_t)(*s - '0') <= 9) s++;
            if (ends_word(*s) && number == (s != digits)) return true;
        }
        while (RLX_ROM8(t++)) {}
    }
    return false;
}
