/* The record of intent and completion of a link with tags: a command that must not be done twice is
 * recorded before it is obeyed, and its result after that. After a start the tags go on from there,
 * and a repeat is answered with that result.
 *
 * A sender's part of the record, each character six bits: its tag, the sum of its frame, and its
 * result.
 *
 * It does not know which commands those are. */
#include "core.h"

#if RLX_KEEPS_TAGS

#define TAG  0u /* three characters */
#define SUM  3u /* three */
#define CAME 6u /* two: a verdict, and these */
#define DONE 0x100u
#define USED 0x200u

/* Its record, from 1; 0: it has none. */
static uint8_t record_of(const struct rlx_device *d, rlx_rom row)
{
    bool required = (rlx_flags(d, row) & RLX_LINK_SEALED) == RLX_LINK_TAGS_REQUIRED;
    if (!rlx_needs(d, RLX_BIT_KEPT_TAGS) || !required) return 0;
    return rlx_more8(rlx_more(d, row), RLX_MORE_INTENT);
}

static uint16_t get_sixes(const uint8_t *at, uint8_t characters)
{
    uint16_t value = 0;
    while (characters) value = (uint16_t)(value << 6 | (uint8_t)(at[--characters] - '#'));
    return value;
}

static void put_sixes(uint8_t *at, uint8_t characters, uint16_t value)
{
    for (; characters; characters--, value >>= 6) *at++ = (uint8_t)('#' + (value & 63));
}

static uint8_t n_senders(const struct rlx_device *d, rlx_rom row)
{
    uint8_t senders = rlx_more8(rlx_more(d, row), RLX_MORE_SENDERS);
    return senders ? senders : 1;
}

/* The part of a sender, from 0. What nobody wrote is empty. */
static uint8_t *part_of(const struct rlx_device *d, rlx_rom row, uint8_t sender)
{
    uint8_t *record = rlx_setting_record(d, (uint8_t)(record_of(d, row) - 1));
    uint8_t bytes = (uint8_t)(n_senders(d, row) * RLX_INTENT_BYTES);
    if (*record != bytes) {
        *record = bytes;
        for (uint8_t i = 1; i <= bytes; i++) record[i] = '#';
    }
    return record + 1 + sender * RLX_INTENT_BYTES;
}

/* That of the frame in hand. */
static uint8_t *part_in_hand(const struct rlx_device *d, rlx_rom row)
{
    return part_of(d, row, d->source ? (uint8_t)(d->source - 1) : 0);
}

static void note_came(struct rlx_device *d, rlx_rom row, uint16_t came)
{
    put_sixes(part_in_hand(d, row) + CAME, 2, came | USED);
    rlx_setting_changed(d, (uint8_t)(record_of(d, row) - 1));
}

/* The tags go on from the record: what came before it is old. A sender that was heard before the
 * memory could be read goes on from there. */
static void load_tags(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    for (uint8_t i = n_senders(d, row); i--;) {
        const uint8_t *part = part_of(d, row, i);
        struct rlx_tags *tags = &link->senders[i].tags;
        if (!(get_sixes(part + CAME, 2) & USED)) continue;
        tags->seen = UINT16_MAX;
        if (tags->known) continue;
        tags->known = true;
        tags->last = get_sixes(part + TAG, 3);
        tags->sum = tags->first = get_sixes(part + SUM, 3);
        tags->until = d->now + rlx_rom32(rlx_more(d, row) + RLX_MORE_WINDOW);
    }
    link->intent.loaded = true;
}

RLX_INTERNAL bool rlx_intent_waits(const struct rlx_device *d, const struct rlx_link *link,
                                   rlx_rom row)
{
    uint8_t record = record_of(d, row);
    if (!record || d->keep.none) return false;
    if (!rlx_settings_loaded(d)) return true;
    return link->intent.waits && rlx_setting_unsaved(d, (uint8_t)(record - 1));
}

RLX_INTERNAL void rlx_intent_load(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    if (!link->intent.loaded && record_of(d, row) && rlx_settings_read(d)) load_tags(d, link, row);
}

RLX_INTERNAL void rlx_intent_read(struct rlx_device *d)
{
    struct rlx_intent *intent = &rlx_current(d)->intent;
    intent->at = (uint8_t)(d->text - rlx_frame_text(rlx_current(d)));
}

/* Whether a later frame of this sender has come already, and has the record. After a start that
 * record makes this frame an old one, so that it needs none. */
static bool is_overtaken(const struct rlx_device *d, rlx_rom row)
{
    const uint8_t *part = part_in_hand(d, row);
    const struct rlx_sender *sender = &rlx_current(d)->senders[d->source ? d->source - 1 : 0];
    uint16_t tag = d->tag & (RLX_TAG_OPENS - 1u),
             behind = (uint16_t)((get_sixes(part + TAG, 3) - tag) & (RLX_TAG_OPENS - 1u));
    return get_sixes(part + CAME, 2) & USED && sender->tags.last != tag && behind &&
           behind <= RLX_TAGS_BACK;
}

RLX_INTERNAL uint8_t rlx_intent_begin(struct rlx_device *d, rlx_rom row)
{
    struct rlx_link *link = rlx_current(d);
    struct rlx_intent *intent = &link->intent;
    if (!record_of(d, row) || !d->tagged) return 0;
    if (!d->source && rlx_more8(rlx_more(d, row), RLX_MORE_SENDERS)) return 0; /* to all */
    if (d->keep.none) return RLX_ERR_FAILED;
    if (intent->waits || is_overtaken(d, row)) return 0;
    uint8_t *part = part_in_hand(d, row);
    if (rlx_setting_held(d, (uint8_t)(record_of(d, row) - 1))) return RLX_ERR_BUSY;
    intent->tag = d->tag;
    intent->sum = d->sum;
    intent->source = d->source;
    intent->broadcast = d->broadcast;
    intent->waits = true;
    intent->end = 0;
#if RLX_HAS_BUILT_IN
    if (d->text_end) intent->end = (uint8_t)(d->text_end - rlx_frame_text(link));
#endif
#if RLX_HAS_HALT
    link->looked = true; /* it is none */
#endif
    put_sixes(part + TAG, 3, d->tag & (RLX_TAG_OPENS - 1u));
    put_sixes(part + SUM, 3, d->sum);
    note_came(d, row, 0);
    return RLX_MATCH_LATER;
}

RLX_INTERNAL void rlx_intent_resume(struct rlx_device *d)
{
    struct rlx_link *link = rlx_current(d);
    const struct rlx_intent *intent = &link->intent;
    d->tagged = true;
    d->tag = intent->tag;
    d->sum = intent->sum;
    d->source = intent->source;
    d->broadcast = intent->broadcast;
    d->text = rlx_frame_text(link) + intent->at;
#if RLX_HAS_BUILT_IN
    d->text_end = intent->end ? rlx_frame_text(link) + intent->end : 0;
    d->part = 0;
#endif
}

static bool is_verdict(const struct rlx_device *d, uint8_t what)
{
    return !what || what == RLX_OWN_ALREADY || rlx_has_error_text(d, what);
}

/* An error with its place is recorded as unsure: nobody knows the place any more. */
RLX_INTERNAL void rlx_intent_end(struct rlx_device *d, rlx_rom row, uint8_t what)
{
    bool placed = (what && what < RLX_ERR_FAILED) || what == RLX_ERR_TEXT || what == RLX_ERR_DENIED;
#if RLX_HAS_BUILT_IN
    placed = placed || (what && d->part); /* the first ones of several are done */
#endif
    note_came(d, row, is_verdict(d, what) && !placed ? DONE | what : 0);
    rlx_current(d)->intent.waits = false;
}

RLX_INTERNAL uint8_t rlx_intent_came(struct rlx_device *d, rlx_rom row)
{
    if (!record_of(d, row)) return RLX_MATCH_REPEAT;
    const uint8_t *part = part_in_hand(d, row);
    uint16_t came = get_sixes(part + CAME, 2);
    if (!(came & USED) || get_sixes(part + TAG, 3) != (d->tag & (RLX_TAG_OPENS - 1u)) ||
        get_sixes(part + SUM, 3) != d->sum)
        return RLX_MATCH_REPEAT;
    return (uint8_t)(came & DONE && is_verdict(d, (uint8_t)came) ? came : RLX_ERR_UNSURE);
}
#endif
