/* Commands' own answers: writes them in place of "ok" and the command, and knows them when they
 * come back. Their texts stand in the image; what their slots hold comes from the reply as it was
 * written. Own texts of a link are in reply.c. */
#include "core.h"

#if RLX_HAS_SAYS

#define SLOT_OF(c) ((uint8_t)((c) & ~RLX_TEXT_END)) /* below RLX_SAYS_SLOTS: a slot */

/* Whether the link in hand has it. */
static bool is_here(const struct rlx_device *d, rlx_rom answer)
{
    return RLX_ROM16(answer) >> rlx_current_number(d) & 1;
}

/* Writes what the value's slot holds: from its place in the copy up to a blank; of a quoted text
 * what is between the quotes; or all up to the end. */
static void put_slot(struct rlx_device *d, uint8_t slot, const uint8_t *s, const uint8_t *end)
{
    uint8_t stop = slot & RLX_SAYS_REST ? 0 : ' ';
    if (stop && s < end && *s == '"') {
        stop = '"';
        s++;
    }
    while (s < end && *s != stop) rlx_reply_put(d, *s++);
}

RLX_INTERNAL enum rlx_said rlx_say(struct rlx_device *d, uint16_t start, bool already)
{
    uint8_t kept[RLX_SAYS_BYTES], c;
    uint16_t count = (uint16_t)(d->tx_next - start);
    enum rlx_said said = RLX_SAID;
    if (!d->says || !is_here(d, d->says) || count > RLX_SAYS_BYTES ||
        count > rlx_reply_mask(d) + 1u)
        return RLX_SAID_NOTHING;
    rlx_rom text = d->says + 2, other = rlx_behind(text);
    if (already && RLX_ROM8(other) != RLX_TEXT_END) {
        said = RLX_SAID_ALREADY;
        text = other;
    }
    for (uint16_t i = 0; i < count; i++)
        kept[i] = rlx_reply_ring(d)[(start + i) & rlx_reply_mask(d)];
    d->tx_next = start;
    do {
        c = RLX_ROM8_NEXT(text);
        uint8_t slot = SLOT_OF(c);
        if (slot < RLX_SAYS_SLOTS)
            put_slot(d, slot, kept + (uint8_t)(d->said[slot % RLX_SAYS_REST - 1] - (uint8_t)start),
                     kept + count);
        else
            rlx_reply_put(d, slot);
    } while (c < RLX_TEXT_END);
    return said;
}

/* Behind such an answer, or NULL: a slot stands for what comes up to the character behind it. */
static const uint8_t *behind(const uint8_t *s, rlx_rom text)
{
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(text);
        if (SLOT_OF(c) >= RLX_SAYS_SLOTS) {
            if (*s++ != SLOT_OF(c)) return 0;
        } else {
            uint8_t end = c < RLX_TEXT_END ? SLOT_OF(RLX_ROM8(text)) : 0; /* behind the slot */
            if (!*s) return 0;
            do s++;
            while (*s && *s != end);
        }
    } while (c < RLX_TEXT_END);
    return s;
}

static bool is_over(const uint8_t *s)
{
    while (*s == ' ') s++;
    return !*s;
}

/* Whether the text is one of the two answers, also with " already" or " waiting ..." behind it. */
static bool is_own_answer(const struct rlx_device *d, rlx_rom text)
{
    const uint8_t *s = behind(d->text, text);
    if (s) {
        rlx_rom already = rlx_part(d, RLX_IMG_TEXTS); /* the first of them */
        const uint8_t *more = behind(s, already);
        if (is_over(s) || (more && is_over(more))) return true;
#if RLX_HAS_WAITS
        const char *waiting = RLX_TXT_WAITING;
        while (*waiting && *s == (uint8_t)*waiting) s++, waiting++;
        if (!*waiting) return true;
#endif
    }
    text = rlx_behind(text);
    if (RLX_ROM8(text) == RLX_TEXT_END) return false;
    s = behind(d->text, text);
    return s && is_over(s);
}

RLX_INTERNAL bool rlx_is_said(const struct rlx_device *d, rlx_rom row)
{
    rlx_rom at = rlx_part(d, RLX_IMG_SAYS), end = at + 2 + RLX_ROM16(at);
    if (at == rlx_image(d) || rlx_is_keyed(row)) return false; /* keys: they have a lead there */
    for (at += 2; at != end; at = rlx_behind(rlx_behind(at + 2)))
        if (is_here(d, at) && is_own_answer(d, at + 2)) return true;
    return false;
}
#endif
