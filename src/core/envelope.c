/* What stands around a frame: @3/1 #17 pump on *ABCD */
#include "core.h"

#if RLX_HAS_CHECK || RLX_HAS_ADDRESS || RLX_HAS_TAGS

/* ---- the check ---- */

/* A nibble as one of @A..O: one bit of the check is one bit of a character. */
static uint8_t crc_character(uint16_t crc, uint8_t n)
{
    return (uint8_t)('@' + (crc >> (12 - 4 * n) & 15));
}

/* Where the check begins, with its '*'; NULL: there is none. */
static uint8_t *find_check(uint8_t *text)
{
    uint8_t *end = text;
    while (*end) end++;
    if (end - text < 5 || end[-5] != '*') return 0;
    for (uint8_t i = 1; i <= 4; i++)
        if ((uint8_t)(end[-i] - '@') > 15) return 0;
    return end - 5;
}

/* Takes the check off. */
static uint8_t take_check(struct rlx_device *d, uint8_t flags)
{
    uint8_t *text = rlx_frame_text(d->link), *check = find_check(text);
    uint16_t crc = 0xFFFF;
    if (!check) return flags & RLX_LINK_CHECK_REQUIRED ? RLX_ERR_CHECK : 0;
    for (const uint8_t *s = text; s != check; s++) crc = rlx_crc_step(crc, *s);
    for (uint8_t i = 0; i < 4; i++)
        if (check[1 + i] != crc_character(crc, i)) return RLX_ERR_CHECK;
    *check = 0;
    return 0;
}

static void put_check(struct rlx_device *d)
{
    uint16_t crc = 0xFFFF, end = d->tx_next;
    for (uint16_t at = d->link->tx_head; at != end; at++)
        crc = rlx_crc_step(crc, d->tx[at & d->tx_mask]);
    rlx_reply_put(d, '*');
    for (uint8_t i = 0; i < 4; i++) rlx_reply_put(d, crc_character(crc, i));
}

/* ---- numbers before the command ---- */

#if RLX_HAS_ADDRESS || RLX_HAS_TAGS
/* 0..255 without leading zeros, up to this character or the end; 256: none. */
static uint16_t take_byte(struct rlx_device *d, uint8_t end)
{
    const uint8_t *s = d->text;
    uint16_t value = 0;
    if (*s == '0' && rlx_digit(s[1]) <= 9) return 256;
    for (; rlx_digit(*s) <= 9; s++) {
        value = (uint16_t)(value * 10u + rlx_digit(*s));
        if (value > 255) return 256;
    }
    if (s == d->text || (*s != end && *s)) return 256;
    d->text = s + (*s != 0);
    return value;
}
#endif

#if RLX_HAS_ADDRESS
/* @3/1 or @3, @* to all. */
static uint8_t take_address(struct rlx_device *d, rlx_rom more)
{
    uint8_t senders = RLX_ROM8(more + RLX_MORE_SENDERS);
    bool wants_source = senders != 0;
    uint16_t to = 0, from = 0;
    if (*d->text != '@') return RLX_MATCH_OTHERS;
    d->text++;
    if (*d->text == '*') {
        d->broadcast = true;
        d->text++;
        if (*d->text == '/')
            d->text++;
        else if (*d->text == ' ')
            wants_source = false;
        else
            return RLX_MATCH_OTHERS;
    } else {
        to = take_byte(d, wants_source ? '/' : ' ');
        if (to != RLX_ROM8(more + RLX_MORE_ADDRESS)) return RLX_MATCH_OTHERS;
    }
    if (wants_source) from = take_byte(d, ' ');
    if (wants_source && (!from || from > senders)) return RLX_MATCH_OTHERS;
    d->source = (uint8_t)from;
    return 0;
}
#endif

/* ---- tags ---- */

#if RLX_HAS_TAGS
/* Whether the tag is new from this sender: 0, RLX_ERR_OLD, or RLX_MATCH_REPEAT. */
static uint8_t judge_tag(struct rlx_device *d, struct rlx_sender *sender)
{
    uint8_t ahead = (uint8_t)(d->tag - sender->tag), back = (uint8_t)(sender->tag - d->tag);
    if (!sender->known || !ahead || ahead >= 128) {
        if (!sender->known) return 0;
        if (!ahead) return RLX_MATCH_REPEAT;
        return back > 16 || sender->seen >> (back - 1) & 1 ? RLX_ERR_OLD : 0;
    }
    return 0;
}

static void remember_tag(struct rlx_device *d, struct rlx_sender *sender)
{
    uint8_t ahead = (uint8_t)(d->tag - sender->tag), back = (uint8_t)(sender->tag - d->tag);
    sender->until = d->now + RLX_TAG_WINDOW_MS;
    if (!sender->known) {
        sender->seen = 0;
    } else if (ahead < 128) {
        unsigned seen = ahead > 15 ? 0u : (unsigned)sender->seen << ahead;
        sender->seen = (uint16_t)(ahead > 16 ? 0u : seen | 1u << (ahead - 1));
    } else {
        sender->seen |= (uint16_t)(1u << (back - 1));
        return; /* the last one stays the last one */
    }
    sender->known = true;
    sender->tag = d->tag;
    sender->length = 0;
}

static struct rlx_sender *sender_of(const struct rlx_device *d, rlx_rom more)
{
    uint8_t senders = RLX_ROM8(more + RLX_MORE_SENDERS);
    return &d->link->senders[senders && d->source ? d->source - 1 : 0];
}

/* The reply to the last frame of this sender, once more. */
static void send_again(struct rlx_device *d, const struct rlx_sender *sender, rlx_rom row)
{
    d->tx_next = d->link->tx_head;
    for (uint8_t i = 0; i < sender->length; i++) rlx_reply_put(d, sender->kept[i]);
    if (sender->length) rlx_reply_commit(d, row);
}

/* Whether what is left of the frame is somebody's reply. */
static bool is_answer(struct rlx_device *d)
{
#if RLX_HAS_OWN
    if (rlx_is_own(d, d->rows + d->link_no * RLX_LNK_ROW)) return true;
#endif
    return rlx_is_reply(d);
}

/* A halt needs none. */
static uint8_t take_tag(struct rlx_device *d, uint8_t flags)
{
    while (*d->text == ' ') d->text++;
    if (*d->text != '#') {
        if (!(flags & RLX_LINK_TAGS_REQUIRED) || rlx_halts(d)) return 0;
        return is_answer(d) ? RLX_MATCH_REPLY : RLX_ERR_TAG;
    }
    d->text++;
    uint16_t tag = take_byte(d, ' ');
    if (tag > 255) return RLX_ERR_TAG;
    while (*d->text == ' ') d->text++;
    if (is_answer(d)) return RLX_MATCH_REPLY; /* somebody's, to a tag of this number */
    d->tag = (uint8_t)tag;
    d->tagged = true;
    return 0;
}

/* Who has sent a tag that is kept; NULL: nobody, or it is a halt, which no tag holds up. */
static struct rlx_sender *kept_of(const struct rlx_device *d, rlx_rom more)
{
    return more && d->tagged && !rlx_halts(d) ? sender_of(d, more) : 0;
}

RLX_INTERNAL uint8_t rlx_envelope_judge(struct rlx_device *d, rlx_rom row)
{
    struct rlx_sender *sender = kept_of(d, rlx_more(d, row));
    if (!sender) return 0;
    if (sender->known && (int32_t)(d->now - sender->until) >= 0) sender->known = false;
    return judge_tag(d, sender);
}
#endif

/* ---- the whole ---- */

/* @1/3 #17 before the reply: to whom, from whom, to what. */
static void put_prefix(struct rlx_device *d, uint8_t flags, rlx_rom more)
{
    if (RLX_HAS_ADDRESS && flags & RLX_LINK_ADDRESSED) {
        rlx_reply_put(d, '@');
        if (d->broadcast)
            rlx_reply_put(d, '*');
        else
            rlx_reply_number(d, d->source, 0);
        rlx_reply_put(d, '/');
        rlx_reply_number(d, RLX_ROM8(more + RLX_MORE_ADDRESS), 0);
        rlx_reply_put(d, ' ');
    }
    if (RLX_HAS_TAGS && d->tagged) {
        rlx_reply_put(d, '#');
        rlx_reply_number(d, d->tag, 0);
        rlx_reply_put(d, ' ');
    }
    d->tx_start = d->tx_next;
}

RLX_INTERNAL uint8_t rlx_envelope_read(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    uint8_t flags = rlx_flags(d, row), error = 0;
    if (!more) return 0;
    if (RLX_HAS_CHECK && flags & (RLX_LINK_CHECK | RLX_LINK_CHECK_REQUIRED))
        error = take_check(d, flags);
#if RLX_HAS_ADDRESS
    if (!error && flags & RLX_LINK_ADDRESSED) error = take_address(d, more);
#endif
#if RLX_HAS_TAGS
    if (!error && flags & (RLX_LINK_TAGS | RLX_LINK_TAGS_REQUIRED)) error = take_tag(d, flags);
#endif
    if (error == RLX_ERR_CHECK && flags & RLX_LINK_SHARED) error = RLX_MATCH_OTHERS;
    return error;
}

RLX_INTERNAL uint8_t rlx_envelope_open(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    uint8_t error = rlx_envelope_read(d, row);
    d->tx_start = d->tx_next;
    if (!more) return 0;
#if RLX_HAS_TAGS
    struct rlx_sender *sender = error ? 0 : kept_of(d, more);
    if (sender) error = rlx_envelope_judge(d, row);
    if (error == RLX_MATCH_REPEAT && !d->broadcast) send_again(d, sender, row);
#endif
    put_prefix(d, rlx_flags(d, row), more);
#if RLX_HAS_TAGS
    if (sender && !error) remember_tag(d, sender);
#endif
    return error;
}

#if RLX_HAS_EVENTS || RLX_HAS_NOTES
RLX_INTERNAL void rlx_envelope_to_all(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    d->tagged = false;
    d->source = 0;
    d->broadcast = true;
    put_prefix(d, rlx_flags(d, row), more);
}
#endif

RLX_INTERNAL void rlx_envelope_close(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    uint8_t flags = rlx_flags(d, row);
    if (RLX_HAS_CHECK && flags & (RLX_LINK_CHECK | RLX_LINK_CHECK_REQUIRED)) put_check(d);
#if RLX_HAS_TAGS
    struct rlx_sender *sender = more && d->tagged ? sender_of(d, more) : 0;
    uint16_t length = (uint16_t)(d->tx_next - d->link->tx_head);
    if (!sender || sender->tag != d->tag || sender->length || length > RLX_KEPT) return;
    sender->length = (uint8_t)length;
    for (uint8_t i = 0; i < sender->length; i++)
        sender->kept[i] = d->tx[(d->link->tx_head + i) & d->tx_mask];
#else
    (void)more;
#endif
}
#endif
