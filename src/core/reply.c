/* Writes a reply into the transmit ring, and makes it visible when it is whole.
 * Room is reserved before the command acts.
 * What is written is decided elsewhere. */
#include "core.h"

/* Most characters of an unknown word in a reply. */

#if RLX_HAS_LONG_REPLY
/* Bytes of a reply that the link carries, less what stands behind it: check and end. */
static uint8_t most_of(const struct rlx_device *d, rlx_rom row)
{
    uint8_t framing = rlx_framing(row), most = rlx_row8(row, RLX_LNK_REPLY);
    bool counted =
        framing == RLX_FRAME_FIXED || framing == RLX_FRAME_PACKET || framing == RLX_FRAME_MESSAGE;
    if (counted) most = rlx_more8(rlx_more(d, row), RLX_MORE_LENGTH);
    if (rlx_flags(d, row) & (RLX_LINK_CHECK | RLX_LINK_CHECK_REQUIRED)) most = (uint8_t)(most - 5);
    if (counted || framing == RLX_FRAME_GAP || rlx_is_binary(d, row)) return most;
    return (uint8_t)(most - (framing == RLX_FRAME_ENDED ? 1 : 2));
}
#endif

RLX_INTERNAL bool rlx_reply_begin(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    if (rlx_ring_room(rlx_link_at(d, link_no)) < rlx_row8(row, RLX_LNK_REPLY)) return false;
    rlx_reply_start(d, link_no, row);
    return true;
}

RLX_INTERNAL void rlx_reply_start(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    rlx_set_current(d, link, link_no);
#if RLX_REPLY_RING
    d->tx = rlx_tx_ring(link);
#endif
    d->tx_next = link->tx_head;
#if RLX_REPLY_MASK
    d->tx_mask = rlx_tx_mask(link);
#endif
    if (rlx_is_keyed(row)) rlx_reply_put(d, RLX_REPLY_LEAD);
    rlx_set_reply_from(d);
#if RLX_HAS_LONG_REPLY
    d->tx_most = most_of(d, row);
#endif
}

/* Where a reply may be too long, the ring is empty when it begins: it overwrites itself only, and
 * is then written anew, in short. */
RLX_INTERNAL bool rlx_reply_fits(const struct rlx_device *d)
{
#if RLX_HAS_LONG_REPLY
    return (uint16_t)(d->tx_next - rlx_current(d)->tx_head) <= d->tx_most;
#else
    (void)d;
    return true;
#endif
}

RLX_INTERNAL void rlx_reply_put(struct rlx_device *d, uint8_t c)
{
    if (rlx_in_ring(d, d->tx_next)) rlx_reply_ring(d)[d->tx_next & rlx_reply_mask(d)] = c;
    d->tx_next++;
}

#if RLX_HAS_BUILT_IN || RLX_HAS_EVENTS || RLX_KEEPS_INTENT || RLX_HAS_WAITS || RLX_HAS_SEAL
RLX_INTERNAL void rlx_reply_words(struct rlx_device *d, const char *text)
{
    while (*text) rlx_reply_put(d, (uint8_t)*text++);
}
#endif

RLX_INTERNAL rlx_rom rlx_reply_text(struct rlx_device *d, rlx_rom text)
{
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(text);
        rlx_reply_put(d, (uint8_t)(c & ~RLX_TEXT_END));
    } while (c < RLX_TEXT_END);
    return text;
}

RLX_INTERNAL void rlx_reply_nth(struct rlx_device *d, uint8_t n)
{
    rlx_rom text = rlx_part(d, RLX_IMG_TEXTS);
    while (n--) text = rlx_behind(text);
    rlx_reply_text(d, text);
}

/* What stands behind a reply, as the link's frames have it. */
static void put_end(struct rlx_device *d, rlx_rom row)
{
    const bool others =
        RLX_HAS_MARKED || RLX_HAS_PACKET || RLX_HAS_TIMED || RLX_HAS_REPORT || RLX_HAS_MESSAGE;
    if (rlx_is_binary(d, row)) return; /* it has all of its bytes */
    uint8_t framing = others ? rlx_framing(row) : RLX_FRAME_LINE;
    if (RLX_HAS_MARKED && framing == RLX_FRAME_ENDED) {
        rlx_reply_put(d, rlx_more8(rlx_more(d, row), RLX_MORE_CHAR));
    } else if (RLX_HAS_MARKED &&
               (framing == RLX_FRAME_FIXED || rlx_ways(d, row) & RLX_WAY_FILLED)) {
        rlx_rom more = rlx_more(d, row);
        while ((uint8_t)(d->tx_next - rlx_current(d)->tx_head) < rlx_more8(more, RLX_MORE_LENGTH))
            rlx_reply_put(d, rlx_more8(more, RLX_MORE_CHAR));
    } else if (framing != RLX_FRAME_PACKET && framing != RLX_FRAME_GAP &&
               framing != RLX_FRAME_MESSAGE) {
#if RLX_HAS_LINE_ENDS
        uint8_t ways = rlx_ways(d, row);
        if (!(ways & RLX_WAY_NO_CR)) rlx_reply_put(d, '\r');
        if (!(ways & RLX_WAY_NO_LF)) rlx_reply_put(d, '\n');
#else
        rlx_reply_put(d, '\r');
        rlx_reply_put(d, '\n');
#endif
    }
    while (RLX_HAS_REPORT && framing == RLX_FRAME_REPORT && d->tx_next % RLX_REPORT)
        rlx_reply_put(d, 0);
}

#if RLX_HAS_WAITS
RLX_INTERNAL void rlx_write_waits(struct rlx_device *d, uint8_t output)
{
    rlx_reply_words(d, RLX_TXT_WAITING);
    rlx_reply_number(d, (rlx_value)rlx_out_waits(d, output), 0);
    rlx_reply_words(d, RLX_TXT_MS);
}
#endif

#if RLX_HAS_NEWEST
/* From the reply's beginning on: ok newer. */
RLX_INTERNAL void rlx_reply_newer(struct rlx_device *d)
{
    static const uint8_t text[] RLX_ROM = {'o', 'k', ' ', 'n', 'e', 'w', 'e', 'r' | RLX_TEXT_END};
    d->tx_next = rlx_reply_from(d);
    rlx_reply_text(d, text);
}
#endif

#if RLX_HAS_DROP
/* What was written beside the ring goes into it where it is shorter than the room that is left. */
static bool put_after_all(struct rlx_device *d)
{
    struct rlx_link *link = rlx_current(d);
    if ((uint16_t)(d->tx_next - link->tx_head) > rlx_ring_room(link)) return false;
    for (uint16_t at = link->tx_head; at != d->tx_next; at++)
        rlx_tx_ring(link)[at & rlx_tx_mask(link)] = rlx_reply_ring(d)[at & rlx_reply_mask(d)];
    return true;
}
#endif

RLX_INTERNAL void rlx_reply_commit(struct rlx_device *d, rlx_rom row)
{
    put_end(d, row);
#if RLX_HAS_DROP
    if (d->unheard && !put_after_all(d)) {
        rlx_count(&rlx_current(d)->unheard);
        return;
    }
#endif
    rlx_ring_publish(rlx_current(d), (uint8_t)d->tx_next);
    if (rlx_in_packets(row))
        rlx_reply_packet(d, rlx_current_number(d), row);
    else
        rlx_port_kick(d->port, RLX_LINKS == 1 ? 0 : rlx_current_number(d));
}

/* A packet is sent from the ring's beginning, which is empty before it and after it. Reports of 64
 * bytes follow one another. */
RLX_INTERNAL void rlx_reply_packet(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
#if RLX_HAS_PACKET || RLX_HAS_REPORT || RLX_HAS_MESSAGE
    struct rlx_link *link = rlx_link_at(d, link_no);
    uint8_t count = (uint8_t)(link->tx_head - link->tx_tail);
    if (!rlx_in_packets(row) || !count) return;
#if RLX_HAS_SMS
    if (link->sms) return; /* its driver takes it */
#endif
    if (RLX_HAS_REPORT && rlx_framing(row) == RLX_FRAME_REPORT) count = RLX_REPORT;
    do { /* as many reports as the port takes now: nothing may come that wakes for the others */
        if (!rlx_port_packet_send(d->port, link_no, rlx_tx_ring(link) + link->tx_tail, count))
            return;
        link->tx_tail = (uint8_t)(link->tx_tail + count);
    } while (RLX_HAS_REPORT && (uint8_t)(link->tx_head - link->tx_tail) >= RLX_REPORT);
    if (link->tx_tail == link->tx_head) link->tx_head = link->tx_tail = 0;
#else
    (void)d, (void)link_no, (void)row;
#endif
}

#if RLX_HAS_ERRORS || RLX_HAS_OWN
/* Behind `err old`: from which tag on the sender can go on. */
static void put_hint(struct rlx_device *d, uint8_t error)
{
#if RLX_HAS_TAGS
    if (error != RLX_ERR_OLD || d->tag_hint > RLX_TAG_MOST) return;
    rlx_reply_put(d, ' ');
    rlx_reply_number(d, (rlx_value)d->tag_hint, 0);
#else
    (void)d, (void)error;
#endif
}

/* e7 */
static void put_short(struct rlx_device *d, uint8_t number)
{
    uint8_t error = number;
    d->tx_next = rlx_reply_from(d);
    rlx_reply_put(d, 'e');
#if RLX_HAS_ERRORS
    rlx_reply_number(d, error, 0);
#else
    uint8_t tens = '0'; /* two digits at most: without a division, or a number's five digits */
    for (; error > 9; error = (uint8_t)(error - 10)) tens++;
    if (tens > '0') rlx_reply_put(d, tens);
    rlx_reply_put(d, (uint8_t)('0' + error));
#endif
    put_hint(d, number);
}
#endif

/* ---- errors ---- */

/* A tenth without a division: exact for 16 bits by one product, for 32 by shifts and a correction
 * (n * 0.8 is n/2 + n/4, and then + 1/16, + 1/256, + 1/65536 of itself). */
#if RLX_HAS_WIDE || RLX_HAS_SEAL
RLX_INTERNAL uint32_t rlx_tenth32(uint32_t n)
{
    uint32_t q = (n >> 1) + (n >> 2);
    q += q >> 4;
    q += q >> 8;
    q += q >> 16;
    q >>= 3;
    return q + (n - q * 10u > 9u);
}
#endif

RLX_INTERNAL rlx_magnitude rlx_tenth(rlx_magnitude n)
{
#if RLX_HAS_WIDE
    return (rlx_magnitude)rlx_tenth32(n);
#else
    return (rlx_magnitude)(n * UINT32_C(52429) >> 19);
#endif
}

RLX_INTERNAL void rlx_reply_number(struct rlx_device *d, rlx_value value, uint8_t decimals)
{
    uint8_t digit[RLX_NUMBER_DIGITS], n = 0;
    rlx_magnitude left = (rlx_magnitude)value;
    if (value < 0) {
        rlx_reply_put(d, '-');
        left = (rlx_magnitude)(0u - left);
    }
    do {
        rlx_magnitude rest = rlx_tenth(left);
        digit[n++] = (uint8_t)('0' + left - rest * 10u);
        left = rest;
    } while (left || (RLX_HAS_FORM && n <= decimals));
    while (n) {
        rlx_reply_put(d, digit[--n]);
        if (RLX_HAS_FORM && decimals && n == decimals) rlx_reply_put(d, '.');
    }
}

#if RLX_HAS_ERRORS
/* The least or most that it takes now; of what was refused what it took then. */
static void put_limit(struct rlx_device *d, rlx_rom at, bool most)
{
#if RLX_TRIES_BOUNDS
    if (at == d->out_of) {
        rlx_number_put(d, at, most ? d->most : d->least);
        return;
    }
#endif
    rlx_number_put(d, at, most ? rlx_number_most(d, at) : rlx_number_least(d, at));
}

static void put_bounds(struct rlx_device *d, rlx_rom at)
{
    put_limit(d, at, false);
    rlx_reply_put(d, '.');
    rlx_reply_put(d, '.');
    put_limit(d, at, true);
    if (RLX_HAS_UNIT && RLX_ROM8(at + 2) & RLX_NUM_GLUED) rlx_reply_text(d, rlx_number_unit(at));
}

/* "level 0..100": what a number element wants. */
static void put_range(struct rlx_device *d, rlx_rom at)
{
    rlx_reply_text(d, rlx_number_name(at));
    rlx_reply_put(d, ' ');
    put_bounds(d, at);
}

/* "name 1..16": how many bytes a text has. */
static void put_text_range(struct rlx_device *d, rlx_rom at)
{
    rlx_reply_text(d, at + 3);
    rlx_reply_put(d, ' ');
    rlx_reply_number(d, RLX_ROM8(at + 1), 0);
    rlx_reply_put(d, '.');
    rlx_reply_put(d, '.');
    rlx_reply_number(d, RLX_ROM8(at + 2), 0);
}

/* Steps over the numbers that are possible here instead of a word, and writes them. */
static void put_numbers(struct rlx_device *d, rlx_rom *at)
{
    while (RLX_HAS_FAMILY && RLX_ROM8(*at) == RLX_OP_IF_NUM) {
        put_range(d, *at + 3);
        *at += 3 + RLX_ROM16(*at + 1);
        rlx_reply_put(d, '|');
    }
    while (RLX_HAS_GLUE && RLX_ROM8(*at) == RLX_OP_IF_GLUE) {
        put_bounds(d, rlx_reply_text(d, *at + 3));
        *at += 3 + RLX_ROM16(*at + 1);
        rlx_reply_put(d, '|');
    }
}

/* "level 0..100" or "on|off|toggle": what the program wants at d->at. */
static void put_wanted(struct rlx_device *d)
{
    rlx_rom at = d->at;
    put_numbers(d, &at);
    uint8_t op = RLX_ROM8(at), before;
    if (RLX_HAS_TEXT && (op == RLX_OP_TEXT || op == RLX_OP_REST)) {
        put_text_range(d, at);
        return;
    }
    if (RLX_HAS_LIST && op == RLX_OP_LIST) at += 2;
    if (RLX_HAS_NUMBER &&
        (RLX_HAS_SET ? op == RLX_OP_LIST || op == RLX_OP_NUM16 || op == RLX_OP_NUM32
                     : op >= RLX_OP_NUM16)) {
        put_range(d, at);
        return;
    }
    rlx_rom end = rlx_word_list(&at, &before);
    if (at == end) d->tx_next--; /* no word but the numbers before: their last '|' goes */
    while (at != end) {
        at = rlx_reply_text(d, at + before);
        if (at != end) rlx_reply_put(d, RLX_HAS_SET && op == RLX_OP_SET ? '+' : '|');
    }
}

/* The word of the frame at d->text, cut if it is too long for the reply. */
static void put_word(struct rlx_device *d)
{
    const uint8_t *s = d->text;
    while (!rlx_ends_word(*s) && s != d->text + RLX_WORD_SHOWN) rlx_reply_put(d, *s++);
}

/* At which byte of the frame. */
static void put_place(struct rlx_device *d)
{
    rlx_reply_number(d, (rlx_value)(d->text - rlx_frame_text(rlx_current(d))), 0);
}

/* From the reply's beginning on: err NAME. */
static void put_name(struct rlx_device *d, uint8_t error)
{
    d->tx_next = rlx_reply_from(d);
    rlx_reply_nth(d, RLX_TEXT_ERR);
    rlx_reply_nth(d, rlx_text_of_error(error));
}

/* Where it does not fit, the name alone. */
RLX_INTERNAL void rlx_reply_error(struct rlx_device *d, uint8_t error)
{
    bool denied = (RLX_HAS_LIMITED || RLX_HAS_CODED) && error == RLX_ERR_DENIED;
    bool placed = error < RLX_ERR_FAILED || (RLX_HAS_TEXT && error == RLX_ERR_TEXT) || denied;
    put_name(d, error);
    if (placed && error != RLX_ERR_LONG && error != RLX_ERR_LOST) {
        rlx_reply_put(d, ' ');
        if (error == RLX_ERR_BYTE)
            rlx_reply_number(d, *d->text, 0);
        else if (denied ||
                 (error <= RLX_ERR_EXTRA && error != RLX_ERR_CHOICE && error != RLX_ERR_MISSING))
            put_word(d);
        else
            put_wanted(d);
    }
    if (placed) {
        rlx_reply_nth(d, RLX_TEXT_AT);
        put_place(d);
    }
    put_hint(d, error);
#if RLX_HAS_BLOCKED
    if (error == RLX_ERR_BLOCKED && d->blocked) {
        rlx_reply_put(d, ' ');
        rlx_reply_text(d, d->blocked);
    }
#endif
#if RLX_HAS_BUILT_IN
    if (!placed && d->part && (error <= RLX_ERR_BUSY || error >= RLX_ERR_BLOCKED)) { /* which one */
        rlx_reply_put(d, ' ');
        rlx_reply_number(d, d->part, 0);
    }
#endif
    if (!rlx_reply_fits(d)) put_name(d, error);
    if (!rlx_reply_fits(d)) put_short(d, error);
}
#endif

#if RLX_KEEPS_INTENT
RLX_INTERNAL void rlx_reply_verdict(struct rlx_device *d, uint8_t verdict)
{
#if RLX_HAS_ERRORS
    if (rlx_has_error_text(d, verdict)) {
        put_name(d, verdict);
        return;
    }
#endif
    rlx_reply_words(d, RLX_TXT_OK);
    if (verdict == RLX_OWN_ALREADY) rlx_reply_nth(d, RLX_TEXT_ALREADY);
}
#endif

/* ---- a link's own texts ---- */

#if RLX_HAS_WORDED
/* The number that was wrong, or the text's bounds: where they stand. */
static rlx_rom bounded(const struct rlx_device *d)
{
    rlx_rom at = d->at;
    uint8_t op = RLX_ROM8(at);
    if (RLX_HAS_GLUE && op == RLX_OP_IF_GLUE) return rlx_behind(at + 3);
    if (RLX_HAS_FAMILY && op == RLX_OP_IF_NUM) return at + 3;
    return RLX_HAS_LIST && op == RLX_OP_LIST ? at + 2 : at;
}

/* Its name, or its lowest or highest value; of a text how many bytes. */
static void put_bound(struct rlx_device *d, uint8_t field)
{
    rlx_rom at = bounded(d);
    uint8_t op = RLX_ROM8(at);
    bool text = RLX_HAS_TEXT && (op == RLX_OP_TEXT || op == RLX_OP_REST);
    if (field == RLX_FIELD_SLOT)
        rlx_reply_text(d, text ? at + 3 : rlx_number_name(at));
    else if (text)
        rlx_reply_number(d, RLX_ROM8(at + 1 + (field == RLX_FIELD_HIGH)), 0);
    else
        put_limit(d, at, field == RLX_FIELD_HIGH);
}

static void put_field(struct rlx_device *d, uint8_t field, uint8_t error)
{
    switch (field) {
    case RLX_FIELD_NAME: rlx_reply_nth(d, rlx_text_of_error(error)); break;
    case RLX_FIELD_WORD: put_word(d); break;
    case RLX_FIELD_WANTED: put_wanted(d); break;
    case RLX_FIELD_AT: put_place(d); break;
    case RLX_FIELD_INPUT:
#if RLX_HAS_BLOCKED
        if (d->blocked) rlx_reply_text(d, d->blocked);
#endif
        break;
    default: put_bound(d, field);
    }
}

/* A link's own text, with what was wrong where a field of it stands for that. */
static void put_own(struct rlx_device *d, rlx_rom text, uint8_t error)
{
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(text);
        uint8_t shown = (uint8_t)(c & ~RLX_TEXT_END);
        if (shown < RLX_FIELD_BELOW)
            put_field(d, shown, error);
        else
            rlx_reply_put(d, shown);
    } while (c < RLX_TEXT_END);
}
#endif

#if RLX_HAS_OWN
/* Whether the own text for `own` stands for this. */
static bool is_meant(uint8_t own, uint8_t what)
{
    if (own == RLX_OWN_ERR) return what != RLX_OWN_OK && what < RLX_OWN_ALREADY;
    return own == what || (own == RLX_OWN_OK && what == RLX_OWN_ALREADY);
}

/* The link's own text for this, or NULL. */
static rlx_rom own_text(const struct rlx_device *d, rlx_rom row, uint8_t what)
{
    rlx_rom end = 0, at = rlx_more_list(d, row, RLX_MORE_TEXTS, &end), best = 0;
    for (; at != end; at++) {
        uint8_t own = RLX_ROM8_NEXT(at);
        if (is_meant(own, what) && (!best || own == what)) best = at;
        while (RLX_ROM8(at) < RLX_TEXT_END) at++;
    }
    return best;
}

RLX_INTERNAL enum rlx_own rlx_reply_own(struct rlx_device *d, rlx_rom row, uint8_t what)
{
#if RLX_HAS_BINARY
    if (rlx_is_binary(d, row)) return rlx_layout_write(d, row, what);
#endif
    rlx_rom own = rlx_has_texts(d, row) ? own_text(d, row, what) : 0;
    bool done = what == RLX_OWN_OK || what == RLX_OWN_ALREADY;
    if (own && RLX_ROM8(own) == RLX_TEXT_END) return RLX_OWN_EMPTY;
    if (own) {
        d->tx_next = rlx_reply_from(d);
#if RLX_HAS_WORDED
        put_own(d, own, what);
#else
        rlx_reply_text(d, own);
#endif
        if (what > RLX_OWN_ALREADY || rlx_reply_fits(d)) return RLX_OWN_WRITTEN;
    } else if (!(rlx_flags(d, row) & RLX_LINK_SHORT)) {
        return RLX_OWN_NONE;
    }
    if (done) {
        d->tx_next = rlx_reply_from(d);
        rlx_reply_put(d, 'o');
        rlx_reply_put(d, 'k');
    } else if (what < RLX_OWN_ALREADY) {
        put_short(d, what);
    } else {
        return RLX_OWN_NONE;
    }
    return RLX_OWN_WRITTEN;
}
#endif
