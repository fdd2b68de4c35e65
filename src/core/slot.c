/* Slots that hold more than a word or a number: sets, texts, lists.
 * Each gives the values that a handler gets.
 * Numbers themselves are in number.c. */
#include "core.h"

/* The bit of the word from s to the next '+' or the word's end, which *behind becomes; 255: none of
 * the entries. */
static uint8_t bit_of(const struct rlx_device *d, const uint8_t *s, rlx_rom entry, rlx_rom end,
                      const uint8_t **behind)
{
    while (entry != end) {
        const uint8_t *p = s;
        uint8_t bit = RLX_ROM8_NEXT(entry), c, want;
        while ((want = RLX_ROM8_NEXT(entry)) == (c = rlx_folded(d, *p))) p++;
        if (want == (c | RLX_TEXT_END) && (rlx_ends_word(p[1]) || p[1] == '+')) {
            *behind = p + 1;
            return bit;
        }
        while (want < RLX_TEXT_END) want = RLX_ROM8_NEXT(entry);
    }
    return 255;
}

/* The words of the bits in the order of the lexicon, joined by '+'. The last entry is "none", with
 * bit 15. */
RLX_INTERNAL bool rlx_put_set(struct rlx_device *d, uint16_t bits, rlx_rom entry, rlx_rom end)
{
    bool any = false;
    while (entry != end) {
        uint8_t bit = RLX_ROM8_NEXT(entry);
        bool none = bit == RLX_SET_NONE;
        if (none ? !any : bits >> bit & 1) {
            if (any) rlx_reply_put(d, '+');
            any = true;
            if (!none) bits = (uint16_t)(bits & ~(1u << bit));
            entry = rlx_reply_text(d, entry);
        } else {
            while (RLX_ROM8_NEXT(entry) < RLX_TEXT_END) {}
        }
    }
    return !bits;
}

RLX_INTERNAL uint8_t rlx_take_set(struct rlx_device *d, rlx_rom op)
{
    rlx_rom entry = op + 2, end = entry + RLX_ROM8(op + 1);
    const uint8_t *s = d->text, *behind = s;
    uint16_t bits = 0;
    for (;; s = behind + 1) {
        uint8_t bit = bit_of(d, s, entry, end, &behind);
        /* "none" stands alone */
        if (bit == 255 || (bit == RLX_SET_NONE && (s != d->text || *behind == '+')))
            return RLX_ERR_CHOICE;
        if (bit != RLX_SET_NONE) bits |= (uint16_t)(1u << bit);
        if (*behind != '+') break;
    }
    rlx_put_set(d, bits, entry, end);
    d->text = behind;
    rlx_keep_value(d, (rlx_value)bits);
    d->at = end;
    return 0;
}

/* What was cut into several commands is one text again, where it is all that is left. */
static void join_again(const struct rlx_device *d, const uint8_t *from)
{
#if RLX_HAS_BUILT_IN
    uint8_t *s = rlx_frame_text(rlx_current(d)) + (from - rlx_frame_text(rlx_current(d)));
    for (; d->text_end && s < d->text_end; s++)
        if (!*s) *s = ';';
#else
    (void)d, (void)from;
#endif
}

/* A text in quotes, or all that is left of the frame but the blanks at its end. */
RLX_INTERNAL uint8_t rlx_take_text(struct rlx_device *d, rlx_rom op)
{
    bool quoted = RLX_ROM8(op) == RLX_OP_TEXT;
    const uint8_t *s = d->text + quoted, *end = s;
    if (quoted) {
        if (*d->text != '"') return RLX_ERR_TEXT;
        while (*end && *end != '"') end++;
        if (!*end || !rlx_ends_word(end[1])) return RLX_ERR_TEXT;
    } else {
        join_again(d, end);
        while (*end && *end <= '~') end++;
        if (*end) {
            d->text = end;
            return RLX_ERR_BYTE;
        }
        while (end[-1] == ' ') end--;
    }
    uint8_t length = (uint8_t)(end - s);
    if (length < RLX_ROM8(op + 1) || length > RLX_ROM8(op + 2)) return RLX_ERR_RANGE;
    uint16_t where = (uint16_t)((unsigned)(s - rlx_frame_text(rlx_current(d))) << 8 | length);
    if (quoted) rlx_reply_put(d, '"');
    while (s != end) rlx_reply_put(d, *s++);
    if (quoted) rlx_reply_put(d, '"');
    rlx_keep_value(d, (rlx_value)where);
    d->text = end + quoted;
    d->at = rlx_behind(op + 3);
    return 0;
}

#if RLX_HAS_LIST
/* Numbers joined by ','. Their count comes before them. */
RLX_APART RLX_INTERNAL uint8_t rlx_take_list(struct rlx_device *d, rlx_rom op)
{
    uint8_t at = d->n_values, error;
    rlx_keep_value(d, 0);
    for (d->value[at] = 0;; d->text++, rlx_reply_put(d, ',')) {
        if (d->value[at] == RLX_ROM8(op + 1)) {
            error = RLX_ERR_EXTRA;
        } else {
            d->value[at]++;
            error = rlx_take_number(d, op + 2, ',');
        }
        if (error || *d->text != ',') break;
    }
    d->n_values = (uint8_t)(at + 1 + RLX_ROM8(op + 1)); /* what follows has its place */
    if (error) d->at = op;
    return error;
}
#endif
