/* Finds the command of a text: words by hash or list, slots in their places.
 * A program of the image is followed, element by element.
 * It acts on nothing. */
#include "core.h"

/* Finds the word at d->text among entries of `before` bytes and a text each. Returns its entry,
 * with d->text behind the word and the word in the reply, or NULL; *error has the reason. Writing
 * while comparing overwrites what a wrong entry began with; tx_next moves when it is the right one.
 */
static rlx_rom find_word(struct rlx_device *d, rlx_rom entry, rlx_rom end, uint8_t before,
                         uint8_t *error)
{
    rlx_rom near = 0;
    uint8_t *tx = rlx_reply_ring(d);
    unsigned mask = rlx_reply_mask(d);
    for (; entry != end;) {
        rlx_rom t = entry + before;
        const uint8_t *s = d->text;
        unsigned next = d->tx_next;
        uint8_t c, want;
        for (; (want = RLX_ROM8_NEXT(t)) == (c = rlx_folded(d, *s)); s++, next++)
            if (rlx_in_ring(d, next)) tx[next & mask] = c;
        if (want == (c | RLX_TEXT_END) && rlx_ends_word(s[1])) {
            if (rlx_in_ring(d, next)) tx[next & mask] = c;
            next++;
            d->tx_next = (uint16_t)next;
            d->text = s + 1;
            return entry;
        }
        bool cut = RLX_HAS_SHORTEN && rlx_ends_word(c) && s - d->text >= rlx_least_letters(d);
        while (want < RLX_TEXT_END) want = RLX_ROM8_NEXT(t);
        if (cut && !(RLX_HAS_QUERY && want == ('?' | RLX_TEXT_END))) { /* what asks is never cut */
            if (near) *error = RLX_ERR_AMBIGUOUS;
            near = entry;
        }
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
    uint8_t left = rlx_least_letters(d);
    op = rlx_hashed(d, op);
    unsigned mask = rlx_hashed16(op, 2), hash = 0;
    rlx_rom shifts = op + 6, table = shifts + 2u * mask + 2;
    for (const uint8_t *s = d->text; !rlx_ends_word(*s); s++) {
        if (RLX_HAS_SHORTEN && !left--) break;
        hash = RLX_HASH_STEP(hash, rlx_folded(d, *s));
    }
    hash = RLX_HASH_GROUP(hash, RLX_ROM16_EVEN(shifts + 2u * (hash & mask)), rlx_hashed16(op, 4));
    d->group = (uint16_t)hash;
    table += 2u * hash;
    return find_word(d, rlx_image(d) + RLX_ROM16_EVEN(table),
                     rlx_image(d) + RLX_ROM16_EVEN(table + 2), rlx_hashed8(op, 1), error);
}

RLX_INTERNAL rlx_rom rlx_word_list(rlx_rom *at, uint8_t *before)
{
    rlx_rom op = *at;
    uint16_t size = RLX_ROM8(op + 1);
    *at = op + 2;
    *before = 1;
    if (RLX_HAS_WORDS && (!(RLX_HAS_CHOICE + RLX_HAS_SET) || RLX_ROM8(op) == RLX_OP_WORDS)) {
        *before = (uint8_t)size;
        size = RLX_ROM16(op + 2);
        *at = op + 4;
    }
    return *at + size;
}

static bool begins_number(uint8_t c)
{
    return c == '-' || rlx_digit(c) <= 9;
}

/* Steps over the word that touches a number, if it comes next, and writes it to the reply.
 * Else *op is what stands behind it. */
static bool take_glue(struct rlx_device *d, rlx_rom *op)
{
    rlx_rom at = *op + 3;
    const uint8_t *s = d->text;
    uint8_t c, want;
    while ((want = RLX_ROM8_NEXT(at)) == (c = rlx_folded(d, *s))) s++;
    if (want != (c | RLX_TEXT_END) || !begins_number(s[1])) {
        *op += 3 + RLX_ROM16(*op + 1);
        return false;
    }
    rlx_reply_put(d, ' ');
    rlx_reply_text(d, *op + 3);
    d->text = s + 1;
    d->at = *op = at;
    return true;
}

/* Steps over the elements that read nothing; true while there are some. Where a number may also be
 * a word, d->at stays at the IF_NUM for a message, and *op is what to try. */
RLX_INTERNAL bool rlx_take_silent(struct rlx_device *d, rlx_rom *op)
{
    rlx_rom at = *op;
    uint8_t kind = RLX_ROM8(at);
    if (kind == RLX_OP_IF_NUM) {
        bool number = begins_number(*d->text);
        *op = at + 3 + (number ? 0 : RLX_ROM16(at + 1));
        if (number) d->at = *op;
        return true;
    }
    if (kind == RLX_OP_PUSH) {
        rlx_keep_value(d, RLX_ROM8(at + 1));
    } else if (kind == RLX_OP_PUSH16) {
        rlx_keep_value(d, rlx_number_read(at + 1, 2));
        at++;
    } else if (RLX_HAS_WIDE && kind == RLX_OP_PUSH32) {
        rlx_keep_value(d, rlx_number_read(at + 1, 4));
        at += 3;
#if RLX_HAS_EXPIRY
    } else if (kind == RLX_OP_LASTS) {
        d->lasts = RLX_ROM16(at + 1) | (uint32_t)RLX_ROM16(at + 3) << 16;
#if RLX_HAS_SET_TIMES && RLX_HAS_SETTINGS
        if (d->lasts & RLX_LASTS_SET)
            d->lasts = (uint32_t)rlx_setting(d, (uint8_t)d->lasts) | (d->lasts & RLX_LASTS_OFF);
#endif
        at += 3;
#endif
#if RLX_HAS_BOUNDED && RLX_HAS_ROUTINES
    } else if (kind == RLX_OP_WITHIN) {
        uint8_t from = RLX_ROM8(at + 1), upto = RLX_ROM8(at + 2);
        rlx_value value = (rlx_value)rlx_rom32(at + 3);
        if ((from != RLX_NUM_FIXED && value < *rlx_setting_at(d, from)) ||
            (upto != RLX_NUM_FIXED && value > *rlx_setting_at(d, upto)))
            d->outside = true;
        at += 5;
#endif
#if RLX_HAS_GUARDS
    } else if (kind == RLX_OP_GUARD) {
        d->guard = rlx_image(d) + RLX_ROM16(at + 1);
        at++;
#endif
#if RLX_HAS_CODED
    } else if (kind == RLX_OP_CODE) {
        d->code = (uint8_t)(RLX_ROM8(at + 1) + 1);
        d->coded = d->value[--d->n_values];
#endif
#if RLX_HAS_SAYS
    } else if (kind == RLX_OP_SAYS) {
        d->says = rlx_image(d) + RLX_ROM16(at + 1);
        at++;
#endif
    } else if (kind == RLX_OP_IF_END) {
        at += *d->text ? RLX_ROM8(at + 1) : 0;
    } else {
        return false;
    }
    d->at = *op = at + 2;
    return true;
}

/* Whether the command's first word, or the number that some begin with, was read. */
RLX_APART static bool begun(const struct rlx_device *d)
{
#if RLX_HAS_FAMILY
    return d->entry || d->n_values;
#elif RLX_KEEPS_ENTRY
    return d->entry != 0;
#else
    return d->at != rlx_part(d, RLX_IMG_ROOT);
#endif
}

/* Reads the word that one element wants, writes it to the reply and goes on behind it. */
static uint8_t take_word(struct rlx_device *d, rlx_rom op)
{
    uint8_t kind = RLX_ROM8(op), before, error = begun(d) ? RLX_ERR_CHOICE : RLX_ERR_UNKNOWN;
    rlx_rom entry, end = 0, list = op;
    if (RLX_HAS_HASH && kind == RLX_OP_HASH) {
        entry = find_hashed(d, op, &error);
    } else {
        end = rlx_word_list(&list, &before);
        entry = find_word(d, list, end, before, &error);
    }
    if (!entry) return error;
    if (RLX_HAS_CHOICE && (RLX_HAS_WORDS ? kind == RLX_OP_CHOICE : kind != RLX_OP_HASH)) {
        rlx_keep_value(d, RLX_ROM8(entry));
        d->at = end;
        return 0;
    }
#if RLX_KEEPS_ENTRY
    if (!d->entry) d->entry = entry;
#endif
    d->at = rlx_image(d);
    if (rlx_is_many(d))
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

#if RLX_HAS_PEOPLE || RLX_HAS_TAGS || RLX_HAS_SEAL
/* Compares as far as both go; `over`: nothing comes behind the `count` bytes. */
static enum rlx_begun begins_as(const struct rlx_device *d, const uint8_t *s, uint8_t count,
                                rlx_rom word, bool over)
{
    for (uint8_t i = 0, last = 0; !last; i++, word++) {
        uint8_t c = RLX_ROM8(word);
        last = c & RLX_TEXT_END;
        if (i == count) return over ? RLX_BEGUN_OTHER : RLX_BEGUN_PERHAPS;
        if (rlx_folded(d, s[i]) != (c & ~RLX_TEXT_END)) return RLX_BEGUN_OTHER;
        if (last && i + 1 == count) return over ? RLX_BEGUN_REPLY : RLX_BEGUN_PERHAPS;
        if (last && s[i + 1] == ' ') return RLX_BEGUN_REPLY;
    }
    return RLX_BEGUN_OTHER;
}

RLX_INTERNAL enum rlx_begun rlx_reply_begun(const struct rlx_device *d, const uint8_t *s,
                                            uint8_t count, bool over)
{
    enum rlx_begun begun = RLX_BEGUN_OTHER, as;
    uint8_t i = 1;
    for (; count && *s == ' '; count--) s++;
    if (!count) return over ? RLX_BEGUN_OTHER : RLX_BEGUN_PERHAPS;
    if ((*s | 0x20) == 'e') {
        while (i < count && rlx_digit(s[i]) <= 9) i++;
        if (i == count && !over) return RLX_BEGUN_PERHAPS;
        if (i > 1 && (i == count || s[i] == ' ')) return RLX_BEGUN_REPLY;
    }
    for (rlx_rom word = reply_words; word != reply_words + sizeof reply_words;
         word = rlx_behind(word)) {
        as = begins_as(d, s, count, word, over);
        if (as > begun) begun = as;
    }
    return begun;
}
#endif

RLX_INTERNAL bool rlx_is_reply(struct rlx_device *d)
{
    const uint8_t *s = d->text;
    uint8_t error = RLX_ERR_AMBIGUOUS;    /* takes no shortened word */
    if (*s == RLX_ECHO_LEAD) return true; /* what another one echoes */
    if ((*s | 0x20) == 'e' && rlx_digit(s[1]) <= 9) {
        while (rlx_digit(*++s) <= 9) {}
        return rlx_ends_word(*s);
    }
    return find_word(d, reply_words, reply_words + sizeof reply_words, 0, &error) != 0;
}

static uint8_t take(struct rlx_device *d, rlx_rom op, uint8_t kind)
{
    if (RLX_HAS_TEXT && (kind == RLX_OP_TEXT || kind == RLX_OP_REST)) return rlx_take_text(d, op);
    if (RLX_HAS_SET && kind == RLX_OP_SET) return rlx_take_set(d, op);
#if RLX_HAS_LIST
    if (kind == RLX_OP_LIST) return rlx_take_list(d, op);
#endif
    if (RLX_HAS_NUMBER && kind >= RLX_OP_NUM16) return rlx_take_number(d, op, ' ');
    return take_word(d, op);
}

RLX_INTERNAL uint8_t rlx_match(struct rlx_device *d)
{
    uint8_t error;
#if RLX_COUNTS_VALUES
    d->n_values = 0;
#endif
#if RLX_KEEPS_ENTRY
    d->entry = 0;
#endif
#if RLX_HAS_GUARDS
    d->guard = 0;
#endif
#if RLX_HAS_CODED
    d->code = 0;
#endif
#if RLX_HAS_EXPIRY
    d->lasts = 0;
#endif
#if RLX_HAS_SAYS
    d->says = 0;
#endif
    d->at = rlx_part(d, RLX_IMG_ROOT);
    do {
        rlx_rom op = d->at;
        while (*d->text == ' ') d->text++;
        bool touches = false;
        while (RLX_HAS_FAMILY && rlx_take_silent(d, &op)) {}
        while (RLX_HAS_GLUE && !touches && RLX_ROM8(op) == RLX_OP_IF_GLUE)
            touches = take_glue(d, &op);
        uint8_t kind = RLX_ROM8(op);
        if (kind & RLX_OP_END) return *d->text ? RLX_ERR_EXTRA : 0;
        if (!*d->text) return begun(d) ? RLX_ERR_MISSING : RLX_MATCH_EMPTY;
        if (!RLX_HAS_GLUE || !touches) rlx_reply_put(d, ' ');
#if RLX_HAS_SWITCH || RLX_HAS_SAYS
        d->tx_word = d->tx_next;
#endif
        error = take(d, op, kind);
    } while (!error);
    /* commands that begin with a number refuse a word as no number */
    if (!begun(d) && rlx_is_reply(d)) return RLX_MATCH_REPLY;
    return error;
}
