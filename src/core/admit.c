/* Which commands a link accepts, and which texts it ignores.
 * Lists of the image, compared word by word.
 * It parses no command. */
#include "core.h"

#if RLX_HAS_LIMITED || RLX_HAS_OWN

/* Whether the text of the image is the same as that of the frame, up to blanks at its end; from a
 * field on, anything may stand there. */
static bool is_text(const uint8_t *s, rlx_rom text)
{
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(text);
        uint8_t shown = (uint8_t)(c & ~RLX_TEXT_END);
        if (RLX_HAS_WORDED && shown && shown < RLX_FIELD_BELOW) return true;
        if (*s++ != shown) return false;
    } while (c < RLX_TEXT_END);
    while (*s == ' ') s++;
    return !*s;
}

#endif

#if RLX_HAS_OWN
RLX_INTERNAL bool rlx_is_own(const struct rlx_device *d, rlx_rom row)
{
    if (!rlx_has_texts(d, row) || rlx_is_keyed(row))
        return false; /* keys: they have a lead there */
    rlx_rom end = 0, at = rlx_more_list(d, row, RLX_MORE_TEXTS, &end);
    for (; at != end; at = rlx_behind(at + 1))
        if (is_text(d->text, at + 1)) return true;
    return false;
}
#endif

#if RLX_HAS_LIMITED
/* Writes the answer to the reply. */
RLX_INTERNAL bool rlx_is_known(struct rlx_device *d, rlx_rom row)
{
    rlx_rom end = 0, at = rlx_more_list(d, row, RLX_MORE_IGNORED, &end);
    const uint8_t *s = d->text;
    while (*s == ' ') s++;
    for (; at != end; at = rlx_behind(rlx_behind(at))) {
        if (!is_text(s, at)) continue;
        at = rlx_behind(at);
        if (RLX_ROM8(at) != RLX_TEXT_END) rlx_reply_text(d, at);
        return true;
    }
    return false;
}

/* The first word of a command stands in the reply as the lexicon spells it, behind "ok ". */
RLX_INTERNAL bool rlx_is_allowed(const struct rlx_device *d, rlx_rom row, uint16_t start)
{
    rlx_rom end = 0, at = rlx_more_list(d, row, RLX_MORE_ONLY, &end);
    if (!at) return true;
    bool may = RLX_ROM8(at) != RLX_TEXT_END; /* the others: the list has those that may not */
    if (!may) at++;
    while (at != end) {
        uint16_t tx = (uint16_t)(start + 3);
        uint8_t c;
        bool same = true;
        do {
            c = RLX_ROM8_NEXT(at);
            same = same && tx != d->tx_next &&
                   rlx_reply_ring(d)[tx & rlx_reply_mask(d)] == (c & ~RLX_TEXT_END);
            tx++;
        } while (c < RLX_TEXT_END);
        if (same && (tx == d->tx_next || rlx_reply_ring(d)[tx & rlx_reply_mask(d)] == ' '))
            return may;
    }
    return !may;
}
#endif
