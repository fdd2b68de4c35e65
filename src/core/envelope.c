/* What stands around a frame: @3/1 #17 pump on *ABCD.
 * Read before the command, written around the reply; a tag's reply is kept for its repeat.
 * It does not look at the command. */
#include "core.h"

#if RLX_HAS_ENVELOPE

/* ---- the check ---- */

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

/* Sums the frame up, and takes its check off. */
static uint8_t take_check(struct rlx_device *d, uint8_t flags)
{
    uint8_t *text = rlx_frame_text(rlx_current(d)), *check = 0;
    uint16_t crc = RLX_CRC_START;
    if (RLX_HAS_CHECK && flags & (RLX_LINK_CHECK | RLX_LINK_CHECK_REQUIRED))
        check = find_check(text);
    for (const uint8_t *s = text; *s && s != check; s++) crc = rlx_crc_step(crc, *s);
    d->sum = crc;
    if (!check) return RLX_HAS_CHECK && flags & RLX_LINK_CHECK_REQUIRED ? RLX_ERR_CHECK : 0;
    for (uint8_t i = 0; i < 4; i++)
        if (check[1 + i] != rlx_crc_character(crc, i)) return RLX_ERR_CHECK;
    *check = 0;
    return 0;
}

/* The check of an answer to a tag covers what it answers, too: it is begun with that frame's sum,
 * so that nobody takes it for the answer to another frame with this tag. */
static void put_check(struct rlx_device *d)
{
    uint16_t crc = RLX_HAS_TAGS && d->tagged ? d->sum : RLX_CRC_START, end = d->tx_next;
    for (uint16_t at = rlx_current(d)->tx_head; at != end; at++)
        crc = rlx_crc_step(crc, rlx_reply_ring(d)[at & rlx_reply_mask(d)]);
    rlx_reply_put(d, '*');
    for (uint8_t i = 0; i < 4; i++) rlx_reply_put(d, rlx_crc_character(crc, i));
}

/* ---- numbers before the command ---- */

#define NONE UINT16_MAX

#if RLX_HAS_ADDRESS || RLX_HAS_TAGS

/* 0..most without leading zeros, up to this character or the end; NONE: something else. */
static uint16_t take_number(struct rlx_device *d, uint8_t end, uint16_t most)
{
    const uint8_t *s = d->text;
    uint16_t value = 0;
    if (*s == '0' && rlx_digit(s[1]) <= 9) return NONE;
    for (; rlx_digit(*s) <= 9; s++) {
        if (value > 3276) return NONE;
        value = (uint16_t)(value * 10u + rlx_digit(*s));
        if (value > most) return NONE;
    }
    if (s == d->text || (*s != end && *s)) return NONE;
    d->text = s + (*s != 0);
    return value;
}
#endif

#if RLX_HAS_ADDRESS
/* @3/1 or @3, @* to all. */
static uint8_t take_address(struct rlx_device *d, rlx_rom more)
{
    uint8_t senders = rlx_more8(more, RLX_MORE_SENDERS);
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
        to = take_number(d, wants_source ? '/' : ' ', 255);
        if (to != rlx_more8(more, RLX_MORE_ADDRESS)) return RLX_MATCH_OTHERS;
    }
    if (wants_source) from = take_number(d, ' ', 255);
    if (wants_source && (!from || from > senders)) return RLX_MATCH_OTHERS;
    d->source = (uint8_t)from;
    return 0;
}
#endif

/* ---- tags ---- */

#if RLX_HAS_TAGS
#define AHEAD_MOST 64u /* so many commands in a row may be lost */

/* How far the tag is ahead of the last one. */
static uint16_t ahead_of(const struct rlx_device *d, const struct rlx_tags *tags)
{
    return (uint16_t)((d->tag - tags->last) & (RLX_TAG_OPENS - 1u));
}

/* Whether the tag is new from this sender: 0, RLX_ERR_OLD, or RLX_MATCH_REPEAT. The last tag before
 * another text is no repeat. The answer to a frame that was surely not obeyed has the last tag, so
 * that its sender can go on from there. */
static uint8_t judge_tag(struct rlx_device *d, const struct rlx_tags *tags)
{
    uint16_t ahead = ahead_of(d, tags), back = (uint16_t)(RLX_TAG_OPENS - ahead);
    bool counts = ahead && !(d->tag & RLX_TAG_OPENS);
    d->tag_hint = tags->last;
    if (!tags->known) return 0;
    if (!ahead && d->sum == tags->sum) return RLX_MATCH_REPEAT;
    if (counts && ahead <= AHEAD_MOST) return 0;
    if (counts && back <= RLX_TAGS_BACK) {
        if (!(tags->seen >> (back - 1) & 1)) return 0;
        d->tag_hint = NONE;
    }
    if (d->sum == tags->first) d->tag_hint = NONE; /* which was obeyed */
    return RLX_ERR_OLD;
}

/* True: it is the last one now. */
static bool remember_tag(const struct rlx_device *d, struct rlx_tags *tags)
{
    uint16_t ahead = ahead_of(d, tags);
    if (!tags->known) {
        tags->seen = 0;
        tags->first = d->sum;
    } else if (ahead <= AHEAD_MOST) {
        unsigned seen = ahead > 15 ? 0u : (unsigned)tags->seen << ahead;
        tags->seen = (uint16_t)(ahead > 16 ? 0u : seen | 1u << (ahead - 1));
    } else {
        tags->seen |= (uint16_t)(1u << (RLX_TAG_OPENS - 1u - ahead));
        return false; /* the last one stays the last one */
    }
    tags->known = true;
    tags->last = d->tag & (RLX_TAG_OPENS - 1u);
    tags->sum = d->sum;
    return true;
}

/* NULL: a frame to all that names no source. */
static struct rlx_sender *sender_of(const struct rlx_device *d, rlx_rom more)
{
    uint8_t senders = rlx_more8(more, RLX_MORE_SENDERS);
    if (senders && !d->source) return 0;
    return &rlx_current(d)->senders[senders ? d->source - 1 : 0];
}

/* Its tags, or those of all without a source. */
static struct rlx_tags *tags_of(const struct rlx_device *d, struct rlx_sender *sender)
{
#if RLX_HAS_ADDRESS
    if (!sender) return &rlx_current(d)->to_all;
#endif
    (void)d;
    return &sender->tags;
}

#endif

#if RLX_HAS_TAGS || RLX_HAS_SEAL
/* The reply to the last frame of this sender, once more. */
static void send_again(struct rlx_device *d, const uint8_t *kept, uint8_t length, rlx_rom row)
{
    d->tx_next = rlx_current(d)->tx_head;
    for (uint8_t i = 0; i < length; i++) rlx_reply_put(d, kept[i]);
    if (length) rlx_reply_commit(d, row);
}

/* Keeps the reply in hand, if none is kept and it is not too long. */
static void keep_reply(const struct rlx_device *d, uint8_t *length, uint8_t *kept)
{
    uint16_t count = (uint16_t)(d->tx_next - rlx_current(d)->tx_head);
    if (*length || count > RLX_KEPT_REPLY_BYTES) return;
    *length = (uint8_t)count;
    for (uint8_t i = 0; i < *length; i++)
        kept[i] = rlx_reply_ring(d)[(rlx_current(d)->tx_head + i) & rlx_reply_mask(d)];
}

RLX_INTERNAL bool rlx_is_answer(struct rlx_device *d)
{
    const uint8_t *end = d->text;
#if RLX_HAS_OWN
    if (rlx_is_own(d, rlx_link_row(d, rlx_current_number(d)))) return true;
#endif
#if RLX_HAS_SAYS
    if (rlx_is_said(d, rlx_link_row(d, rlx_current_number(d)))) return true;
#endif
    while (*end) end++;
    return *d->text == RLX_ECHO_LEAD ||
           rlx_reply_begun(d, d->text, (uint8_t)(end - d->text), true) == RLX_BEGUN_REPLY;
}
#endif

#if RLX_HAS_TAGS
/* A halt needs none. */
static uint8_t take_tag(struct rlx_device *d, uint8_t flags)
{
    while (*d->text == ' ') d->text++;
    if (*d->text != '#') {
        if (!(flags & RLX_LINK_TAGS_REQUIRED) || rlx_halts(d)) return 0;
        return rlx_is_answer(d) ? RLX_MATCH_REPLY : RLX_ERR_TAG;
    }
    d->text++;
    uint16_t tag = take_number(d, ' ', RLX_TAG_MOST);
    if (tag == NONE) return RLX_ERR_TAG;
    while (*d->text == ' ') d->text++;
    if (rlx_is_answer(d)) return RLX_MATCH_REPLY; /* somebody's, to a tag of this number */
    d->tag = tag;
    d->tagged = true;
    d->tag_hint = NONE;
    return 0;
}

/* Whether the frame has a tag that is kept: a halt has none that holds it up. */
static bool is_kept(const struct rlx_device *d, rlx_rom more)
{
    return more && d->tagged && !rlx_halts(d);
}

RLX_INTERNAL uint8_t rlx_envelope_judge(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    if (!is_kept(d, more)) return 0;
    struct rlx_tags *tags = tags_of(d, sender_of(d, more));
    if (tags->known && (int32_t)(d->now - tags->until) >= 0) tags->known = false;
    return judge_tag(d, tags);
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
        rlx_reply_number(d, rlx_more8(more, RLX_MORE_ADDRESS), 0);
        rlx_reply_put(d, ' ');
    }
    if (RLX_HAS_TAGS && d->tagged) {
        rlx_reply_put(d, '#');
        rlx_reply_number(d, (rlx_value)d->tag, 0);
        rlx_reply_put(d, ' ');
    }
#if RLX_HAS_SEAL
    rlx_seal_put(d);
#endif
    (void)more;
    rlx_set_reply_from(d);
}

RLX_INTERNAL uint8_t rlx_envelope_read(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    uint8_t flags = rlx_flags(d, row), error = 0;
    if (!more) return 0;
    if (*d->text == RLX_ECHO_LEAD) return RLX_MATCH_REPLY; /* an echo has no envelope of its own */
    error = take_check(d, flags);
#if RLX_HAS_ADDRESS
    if (!error && flags & RLX_LINK_ADDRESSED) error = take_address(d, more);
#endif
#if RLX_HAS_SEAL
    bool sealed = (flags & RLX_LINK_SEALED) == RLX_LINK_SEALED;
    if (sealed && !error) error = rlx_seal_read(d, more);
#else
    const bool sealed = false;
#endif
#if RLX_HAS_TAGS
    if (!error && !sealed && flags & RLX_LINK_SEALED) error = take_tag(d, flags);
#endif
    (void)sealed;
    bool wrong =
        (RLX_HAS_CHECK && error == RLX_ERR_CHECK) || (RLX_HAS_SEAL && error == RLX_ERR_SEAL);
    if (wrong && flags & RLX_LINK_SHARED) {
#if RLX_HAS_HEARD && RLX_COUNTS_OTHERS
        d->frame_why = RLX_HAS_SEAL && error == RLX_ERR_SEAL ? RLX_HEARD_SEAL : RLX_HEARD_CHECK;
#endif
        error = RLX_MATCH_OTHERS;
    }
    return error;
}

#if RLX_HAS_SEAL
/* What a seal that is right leads to: 0, it is obeyed, or RLX_MATCH_... */
static uint8_t open_sealed(struct rlx_device *d, rlx_rom row, rlx_rom more)
{
    if (rlx_seal_opens(d, more)) {
        if (!d->seal_key) return RLX_MATCH_REPEAT;
        put_prefix(d, rlx_flags(d, row), more);
        rlx_envelope_close(d, row);
        rlx_reply_commit(d, row);
        return RLX_MATCH_REPEAT;
    }
    uint8_t what = rlx_seal_judge(d);
    if (what == RLX_MATCH_OTHERS && !rlx_seal_needs_halt(more) && rlx_halts(d)) {
        d->seal_key = 0; /* as one without a seal */
        return 0;
    }
    if (what == RLX_MATCH_OTHERS) return what;
    rlx_seal_take(d, more, !what);
    const struct rlx_session *s = rlx_seal_session(d);
    if (what == RLX_MATCH_REPEAT && s) send_again(d, s->kept, s->length, row);
    return what;
}
#endif

RLX_INTERNAL uint8_t rlx_envelope_open(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    uint8_t error = rlx_envelope_read(d, row);
    rlx_set_reply_from(d);
    if (!more) return 0;
#if RLX_HAS_SEAL
    if (!error) error = open_sealed(d, row, more);
#endif
#if RLX_HAS_TAGS
    bool kept = !error && is_kept(d, more);
    struct rlx_sender *sender = kept ? sender_of(d, more) : 0;
    if (kept) error = rlx_envelope_judge(d, row);
    if (error == RLX_MATCH_REPEAT && sender && !d->broadcast)
        send_again(d, sender->kept, sender->length, row);
#endif
    put_prefix(d, rlx_flags(d, row), more);
#if RLX_KEEPS_TAGS
    if (error == RLX_MATCH_REPEAT && sender && !d->broadcast && !sender->length &&
        rlx_intent_came(d, row) != RLX_MATCH_REPEAT)
        return RLX_MATCH_CAME;
#endif
#if RLX_HAS_TAGS
    if (kept) {
        struct rlx_tags *tags = tags_of(d, sender);
        bool answers = !d->broadcast && !(rlx_flags(d, row) & RLX_LINK_SILENT);
        /* a sender that hears of an old tag repeats with another one: no copy of this one is
         * obeyed, then */
        if (!error || answers) tags->until = d->now + rlx_rom32(more + RLX_MORE_WINDOW);
        if (!error && remember_tag(d, tags) && sender) sender->length = 0;
    }
#endif
    return error;
}

#if RLX_KEEPS_TAGS
RLX_INTERNAL void rlx_envelope_resume(struct rlx_device *d, rlx_rom row)
{
    rlx_set_reply_from(d);
    put_prefix(d, rlx_flags(d, row), rlx_more(d, row));
}
#endif

#if RLX_HAS_EVENTS || RLX_HAS_NOTES || RLX_HAS_SEAL
RLX_INTERNAL void rlx_envelope_to_all(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    d->tagged = false;
    d->source = 0;
    d->broadcast = true;
#if RLX_HAS_SEAL
    rlx_seal_to_all(d, row);
#endif
    put_prefix(d, rlx_flags(d, row), more);
}
#endif

RLX_INTERNAL void rlx_envelope_close(struct rlx_device *d, rlx_rom row)
{
    rlx_rom more = rlx_more(d, row);
    uint8_t flags = rlx_flags(d, row);
#if RLX_HAS_SEAL
    rlx_seal_close(d, more);
#endif
    if (RLX_HAS_CHECK && flags & (RLX_LINK_CHECK | RLX_LINK_CHECK_REQUIRED)) put_check(d);
#if RLX_HAS_SEAL
    struct rlx_session *session = rlx_seal_session(d);
    if (session) keep_reply(d, &session->length, session->kept);
#endif
#if RLX_HAS_TAGS
    struct rlx_sender *sender = more && d->tagged ? sender_of(d, more) : 0;
    if (sender && sender->tags.sum == d->sum) keep_reply(d, &sender->length, sender->kept);
#else
    (void)more;
#endif
}
#endif
