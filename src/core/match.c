#include "core.h"

/* Finds the word at d->text among entries of `before` bytes and a text each. Returns its entry,
 * with d->text behind the word and the word told to the reply, or NULL; *error tells why. Telling
 * while comparing overwrites what a wrong entry began with; tx_next moves when it is the right one.
 */
static rlx_rom find_word(struct rlx_device *d, rlx_rom entry, rlx_rom end, uint8_t before,
                         uint8_t *error)
{
    rlx_rom near = 0;
    uint8_t *tx = d->tx;
    unsigned mask = d->tx_mask;
    for (; entry != end;) {
        rlx_rom t = entry + before;
        const uint8_t *s = d->text;
        unsigned next = d->tx_next;
        uint8_t c, want;
        for (; (want = RLX_ROM8(t++)) == (c = rlx_folded(d, *s)); s++) tx[next++ & mask] = c;
        if (want == (c | RLX_TEXT_END) && rlx_ends_word(s[1])) {
            tx[next++ & mask] = c;
            d->tx_next = (uint16_t)next;
            d->text = s + 1;
            return entry;
        }
        if (RLX_HAS_SHORTEN && rlx_ends_word(c) && s - d->text >= d->shorten) {
            if (near) *error = RLX_ERR_AMBIGUOUS;
            near = entry;
        }
        while (want < RLX_TEXT_END) want = RLX_ROM8(t++);
        entry = t;
    }
    if (!RLX_HAS_SHORTEN || !near || *error == RLX_ERR_AMBIGUOUS) return 0;
    while (!rlx_ends_word(*d->text)) d->text++;
    rlx_reply_text(d, near + before);
    return near;
}

/* The same in a hashed table: the hash of the word, or of as many letters as a shortened one must
 * have, leads to its group of entries. */
static rlx_rom find_hashed(struct rlx_device *d, rlx_rom op, uint8_t *error)
{
    uint8_t left = d->shorten;
    unsigned mask = RLX_ROM16_EVEN(op + 2), hash = 0;
    rlx_rom shifts = op + 6, table = shifts + 2u * mask + 2;
    for (const uint8_t *s = d->text; !rlx_ends_word(*s); s++) {
        if (RLX_HAS_SHORTEN && !left--) break;
        hash = RLX_HASH_STEP(hash, rlx_folded(d, *s));
    }
    hash =
        RLX_HASH_GROUP(hash, RLX_ROM16_EVEN(shifts + 2u * (hash & mask)), RLX_ROM16_EVEN(op + 4));
    d->group = (uint16_t)hash;
    table += 2u * hash;
    return find_word(d, d->image + RLX_ROM16_EVEN(table), d->image + RLX_ROM16_EVEN(table + 2),
                     RLX_ROM8(op + 1), error);
}

RLX_INTERNAL rlx_rom rlx_word_list(rlx_rom *at, uint8_t *before)
{
    rlx_rom op = *at;
    uint16_t size = RLX_ROM8(op + 1);
    *at = op + 2;
    *before = 1;
    if (!RLX_HAS_CHOICE || RLX_ROM8(op) == RLX_OP_WORDS) {
        *before = (uint8_t)size;
        size = RLX_ROM16(op + 2);
        *at = op + 4;
    }
    return *at + size;
}

static uint8_t value_size(rlx_rom op)
{
    return RLX_HAS_WIDE && RLX_ROM8(op) == RLX_OP_NUM32 ? 4 : 2;
}

static rlx_value read_value(rlx_rom at, uint8_t size)
{
    if (RLX_HAS_WIDE && size == 4)
        return (rlx_value)(RLX_ROM16(at) | (uint32_t)RLX_ROM16(at + 2) << 16);
    return (int16_t)RLX_ROM16(at);
}

RLX_INTERNAL rlx_value rlx_number_low(rlx_rom op)
{
    return read_value(op + 3, value_size(op));
}

RLX_INTERNAL rlx_value rlx_number_high(rlx_rom op)
{
    return read_value(op + 3 + value_size(op), value_size(op));
}

RLX_INTERNAL rlx_rom rlx_number_unit(rlx_rom op)
{
    return op + 3 + 2 * value_size(op);
}

RLX_INTERNAL rlx_rom rlx_number_name(rlx_rom op)
{
    rlx_rom text = rlx_number_unit(op);
    if (RLX_HAS_UNIT && RLX_ROM8(op + 2) & RLX_NUM_UNIT)
        while (RLX_ROM8(text++) < RLX_TEXT_END) {}
    return text;
}

static uint8_t digit_of(uint8_t c)
{
    return (uint8_t)(c - '0'); /* above 9: none */
}

/* Behind the unit at s, or s where it is another. */
static const uint8_t *behind_unit(const struct rlx_device *d, const uint8_t *s, rlx_rom unit)
{
    const uint8_t *p = s;
    uint8_t c, want;
    while ((want = RLX_ROM8(unit++)) == (c = rlx_folded(d, *p))) p++;
    return want == (c | RLX_TEXT_END) ? p + 1 : s;
}

/* A whole number: optional '-', digits, optional unit. No '+', no "-0"; leading zeros up to the
 * slot's width. Tells it to the reply without zeros and unit. */
static uint8_t take_number(struct rlx_device *d, rlx_rom op)
{
    /* five digits fit 32 bits: the count of digits then tells what is too large */
    const bool may_overflow = RLX_HAS_WIDE || sizeof(rlx_magnitude) < 4;
    const uint8_t *s = d->text, *digits, *first, *end;
    uint8_t width = RLX_ROM8(op + 2), digit, minus = *s == '-';
    rlx_magnitude sum = 0;
    digits = s += minus;
    while (*s == '0') s++;
    for (first = s; (digit = digit_of(*s)) <= 9; s++) {
        if (may_overflow && sum > ((rlx_magnitude)-1 - 9) / 10)
            sum = (rlx_magnitude)-1; /* and stays there */
        else
            sum = sum * 10u + digit;
    }
    if (s == digits) return RLX_ERR_NUMBER;
    if (s == first) first--; /* zero has one */
    end = s;
    rlx_rom unit = rlx_number_unit(op);
    if (RLX_HAS_UNIT && width & RLX_NUM_GLUED && rlx_ends_word(*s)) return RLX_ERR_NUMBER;
    if (RLX_HAS_UNIT && width & RLX_NUM_UNIT && !rlx_ends_word(*s)) s = behind_unit(d, s, unit);
    if (!rlx_ends_word(*s) || (minus && *first == '0')) return RLX_ERR_NUMBER;
    bool glued = width & RLX_NUM_GLUED;
    width &= RLX_NUM_DIGITS;
    if (end - first > width || (may_overflow && sum > RLX_VALUE_MAX)) return RLX_ERR_RANGE;
    rlx_number value = minus ? -(rlx_number)sum : (rlx_number)sum;
    if (value < rlx_number_low(op) || value > rlx_number_high(op)) return RLX_ERR_RANGE;
    if (end - digits > width) return RLX_ERR_DIGITS;
    if (minus) rlx_reply_put(d, '-');
    while (first != end) rlx_reply_put(d, *first++);
    if (RLX_HAS_UNIT && glued) rlx_reply_text(d, unit);
    d->text = s;
    d->value[d->n_values++] = (rlx_value)value;
    d->at = op + 2 + RLX_ROM8(op + 1);
    return 0;
}

/* Steps over the elements that read nothing; true while there are some. Where a number may also be
 * a word, d->at stays at the IF_NUM for a message, and *op is what to try. */
static bool take_silent(struct rlx_device *d, rlx_rom *op)
{
    rlx_rom at = *op;
    uint8_t kind = RLX_ROM8(at);
    if (kind == RLX_OP_IF_NUM) {
        bool number = *d->text == '-' || digit_of(*d->text) <= 9;
        *op = at + 3 + (number ? 0 : RLX_ROM16(at + 1));
        if (number) d->at = *op;
        return true;
    }
    if (kind == RLX_OP_PUSH) {
        d->value[d->n_values++] = RLX_ROM8(at + 1);
    } else if (kind == RLX_OP_PUSH16) {
        d->value[d->n_values++] = read_value(at + 1, 2);
        at++;
    } else if (RLX_HAS_WIDE && kind == RLX_OP_PUSH32) {
        d->value[d->n_values++] = read_value(at + 1, 4);
        at += 3;
    } else if (kind == RLX_OP_IF_END) {
        at += *d->text ? RLX_ROM8(at + 1) : 0;
    } else {
        return false;
    }
    d->at = *op = at + 2;
    return true;
}

/* Whether the command's first word, or the number that some begin with, was read. */
static bool begun(const struct rlx_device *d)
{
    return d->entry || (RLX_HAS_FAMILY && d->n_values);
}

/* Reads the word that one element wants, tells it to the reply and goes on behind it. */
static uint8_t take_word(struct rlx_device *d, rlx_rom op)
{
    uint8_t kind = RLX_ROM8(op), before, error = begun(d) ? RLX_ERR_CHOICE : RLX_ERR_UNKNOWN;
    rlx_rom entry, end = 0, list = op;
    if (RLX_HAS_HASH && kind == RLX_OP_HASH) {
        before = RLX_ROM8(op + 1);
        entry = find_hashed(d, op, &error);
    } else {
        end = rlx_word_list(&list, &before);
        entry = find_word(d, list, end, before, &error);
    }
    if (!entry) return error;
    if (RLX_HAS_CHOICE && kind == RLX_OP_CHOICE) {
        d->value[d->n_values++] = RLX_ROM8(entry);
        d->at = end;
        return 0;
    }
    if (!d->entry) d->entry = entry;
    d->at = d->image;
    if (RLX_HAS_MANY && d->many)
        d->at += RLX_ROM16(entry);
    else
        d->at += RLX_ROM16_EVEN(rlx_part(d, RLX_IMG_SHAPES) + 2u * RLX_ROM8(entry));
    return 0;
}

/* How replies, events and notes begin; those of others are never answered. e stands for e1, e2, ...
 */
static const uint8_t reply_words[] RLX_ROM = {
    'o', 'k' | 0x80, 'e',        'r', 'r' | 0x80, 'e', 'v' | 0x80, 'n',
    'o', 't',        'e' | 0x80, 'r', 'e',        'a', 'd',        'y' | 0x80};

static bool is_reply(struct rlx_device *d)
{
    const uint8_t *s = d->text;
    uint8_t error = RLX_ERR_AMBIGUOUS; /* takes no shortened word */
    if (digit_of(s[1]) <= 9 && (*s | 0x20) == 'e') {
        while (digit_of(*++s) <= 9) {}
        return rlx_ends_word(*s);
    }
    return find_word(d, reply_words, reply_words + sizeof reply_words, 0, &error) != 0;
}

RLX_INTERNAL uint8_t rlx_match(struct rlx_device *d)
{
    uint8_t error;
    d->n_values = 0;
    d->entry = 0;
    d->at = rlx_part(d, RLX_IMG_ROOT);
    do {
        rlx_rom op = d->at;
        while (*d->text == ' ') d->text++;
        while (RLX_HAS_FAMILY && take_silent(d, &op)) {}
        uint8_t kind = RLX_ROM8(op);
        if (kind & RLX_OP_END) return *d->text ? RLX_ERR_EXTRA : 0;
        if (!*d->text) return begun(d) ? RLX_ERR_MISSING : RLX_MATCH_EMPTY;
        rlx_reply_put(d, ' ');
        d->tx_word = d->tx_next;
        error = RLX_HAS_NUMBER && kind >= RLX_OP_NUM16 ? take_number(d, op) : take_word(d, op);
    } while (!error);
    if (error == RLX_ERR_UNKNOWN && is_reply(d)) return RLX_MATCH_REPLY;
    return error;
}
