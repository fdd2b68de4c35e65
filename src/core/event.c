/* What the device sends unasked: events and notes.
 * A bit for each word that is pending; paced, confirmed and merged by the lexicon.
 * It has no queue of texts. */
#include "core.h"

#if RLX_HAS_EVENTS || RLX_HAS_NOTES

/* Bytes that an event or a note needs on this link, and the next reply with it; or the ring is
 * empty. */
static bool has_room(const struct rlx_link *link, rlx_rom more, rlx_rom row)
{
    uint8_t room = rlx_ring_room(link);
    return room > rlx_tx_mask(link) ||
           room >= (unsigned)rlx_more8(more, RLX_MORE_EVENT) + rlx_row8(row, RLX_LNK_REPLY);
}

static void begin_event(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
#if RLX_HAS_PEOPLE
    rlx_echo_break(d, rlx_link_at(d, link_no));
#endif
    rlx_reply_start(d, link_no, row);
#if RLX_HAS_ENVELOPE
    rlx_envelope_to_all(d, row);
#endif
}

static void end_event(struct rlx_device *d, rlx_rom row)
{
#if RLX_HAS_ENVELOPE
    rlx_envelope_close(d, row);
#endif
    rlx_reply_commit(d, row);
}

#endif

/* ---- events ---- */

#if RLX_HAS_EVENTS

#define DAY_MS UINT32_C(86400000)

static uint8_t n_events(const struct rlx_device *d)
{
    return rlx_rows_of(d, RLX_IMG_EVENTS);
}

static rlx_rom event_row(const struct rlx_device *d, uint8_t event)
{
    return rlx_part(d, RLX_IMG_EVENTS) + 1 + (unsigned)event * RLX_EVT_ROW;
}

static void want(struct rlx_link *link, struct rlx_pending *its, uint8_t word)
{
    uint8_t bit = (uint8_t)(1u << word);
    if (its->pending & bit) {
#if RLX_HAS_PACED
        if (its->number && its->word == word && !(its->fresh & bit)) {
            its->fresh |= bit; /* it was sent, and happened again */
            return;
        }
#endif
        rlx_count(&link->merged);
#if RLX_HAS_SMS
        rlx_count(&its->held);
#endif
    }
    its->pending |= bit;
}

/* Whether each event there is a text message. */
static bool is_message(const struct rlx_link *link)
{
#if RLX_HAS_SMS
    return link->sms;
#else
    (void)link;
    return false;
#endif
}

/* Whether an event that happens while the link is down is sent when it is up: by message, as the
 * network comes and goes, and what is kept. */
static bool waits_for(const struct rlx_link *link, rlx_rom row)
{
    (void)link, (void)row;
#if RLX_KEEPS_EVENTS
    if (RLX_ROM8(row + RLX_EVT_FLAGS) & RLX_EVT_IS_KEPT) return true;
#endif
    return is_message(link);
}

int rlx_event(struct rlx_device *d, uint8_t event, uint8_t word)
{
    if (!rlx_started(d) || event >= n_events(d)) return -RLX_ERR_RANGE;
    rlx_rom row = event_row(d, event);
    uint16_t links = RLX_ROM16(row + RLX_EVT_LINKS);
    uint8_t words = RLX_ROM8(row + RLX_EVT_WORDS);
    if (word >= (words ? words : 1)) return -RLX_ERR_RANGE;
    for (uint8_t i = 0; i < rlx_n_links(d); i++, links >>= 1) {
        struct rlx_pending *its = rlx_link_at(d, i)->events;
        if (!(links & 1)) continue;
        its[event].last = (uint8_t)(word + 1);
        if (!rlx_link_at(d, i)->down || waits_for(rlx_link_at(d, i), row))
            want(rlx_link_at(d, i), &its[event], word);
    }
    return 0;
}

#if RLX_HAS_INPUTS
RLX_INTERNAL void rlx_events_begin(struct rlx_device *d)
{
    rlx_rom row = rlx_link_rows(d);
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW)
        for (uint8_t e = 0; e < n_events(d) && !(rlx_ways(d, row) & RLX_WAY_STATE_TOLD); e++)
            rlx_link_at(d, i)->events[e].pending = 0;
}
#endif

RLX_INTERNAL void rlx_events_up(struct rlx_device *d, uint8_t link_no, bool up)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    rlx_rom row = rlx_link_row(d, link_no);
    for (uint8_t e = 0; e < n_events(d); e++) {
        struct rlx_pending *its = &link->events[e];
        if (!waits_for(link, event_row(d, e))) {
            its->pending = 0;
#if RLX_HAS_PACED
            its->number = 0;
            its->fresh = 0;
            its->armed = false;
#endif
        }
#if RLX_KEEPS_EVENTS
        else if (!is_message(link))
            its->armed = false; /* whoever comes hears it at once */
#endif
        if (up && rlx_ways(d, row) & RLX_WAY_STATE_TOLD && its->last)
            its->pending = (uint8_t)(its->pending | 1u << (its->last - 1));
    }
}

#if RLX_KEEPS_EVENTS
/* The record of what is pending: the last setting; NULL: nothing is kept. */
static uint8_t *kept_record(const struct rlx_device *d)
{
    if (!rlx_needs(d, RLX_BIT_KEPT)) return 0;
    return rlx_setting_record(d, (uint8_t)(rlx_rows_of(d, RLX_IMG_SETTINGS) - 1));
}

/* Whether the record is that of these events: it begins with what its slot is named. */
static bool is_of_these(const struct rlx_device *d, const uint8_t *record)
{
    rlx_rom head = rlx_setting_name(d, (uint8_t)(rlx_rows_of(d, RLX_IMG_SETTINGS) - 1));
    for (uint8_t i = 1; i <= RLX_KEPT_HEAD; i++)
        if (record[i] != (RLX_ROM8_NEXT(head) & ~RLX_TEXT_END)) return false;
    return *record != 0;
}

/* Each kept event on each link, one after the other. */
static bool next_kept(const struct rlx_device *d, uint8_t *event, uint8_t *link)
{
    if (++*link < rlx_n_links(d)) return true;
    *link = 0;
    do
        if (++*event >= n_events(d)) return false;
    while (!(RLX_ROM8(event_row(d, *event) + RLX_EVT_FLAGS) & RLX_EVT_IS_KEPT));
    return true;
}

RLX_INTERNAL void rlx_events_restore(struct rlx_device *d)
{
    const uint8_t *at = kept_record(d);
    uint8_t event = 255, link = 254;
    if (!at || !rlx_settings_loaded(d) || !is_of_these(d, at)) return;
    for (at += RLX_KEPT_HEAD + 1; next_kept(d, &event, &link); at += 2) {
        struct rlx_pending *its = &rlx_link_at(d, link)->events[event];
        uint8_t was = (uint8_t)((at[0] & 15) << 4 | (at[1] & 15)), words = 0;
        its->pending |= was;
        while (was >> words) words++;
        if (!its->last) its->last = words; /* nobody knows: in the order of the lexicon */
    }
}

RLX_INTERNAL void rlx_events_keep(struct rlx_device *d)
{
    uint8_t *record = kept_record(d), event = 255, link = 254;
    if (!record || !rlx_settings_loaded(d)) return;
    const bool known = is_of_these(d, record);
    bool any = false, changed = false;
    uint8_t *at = record + RLX_KEPT_HEAD + 1;
    for (; next_kept(d, &event, &link); at += 2) {
        uint8_t now = rlx_link_at(d, link)->events[event].pending;
        uint8_t high = (uint8_t)(RLX_KEPT_NIBBLE | now >> 4),
                low = (uint8_t)(RLX_KEPT_NIBBLE | (now & 15));
        changed = changed || at[0] != high || at[1] != low;
        any = any || now;
        at[0] = high;
        at[1] = low;
    }
    if (known ? !changed : !any) return;
    uint8_t setting = (uint8_t)(rlx_rows_of(d, RLX_IMG_SETTINGS) - 1);
    rlx_rom head = rlx_setting_name(d, setting);
    for (uint8_t i = 1; i <= RLX_KEPT_HEAD; i++)
        record[i] = (uint8_t)(RLX_ROM8_NEXT(head) & ~RLX_TEXT_END);
    *record = (uint8_t)(at - record - 1);
    rlx_setting_changed(d, setting);
}
#endif

/* The word to send next: the one that came last comes last. */
static uint8_t next_word(const struct rlx_pending *its)
{
    uint8_t last = (uint8_t)(its->last - 1), others = (uint8_t)(its->pending & ~(1u << last));
    if (!others) return last;
    uint8_t word = 0;
    while (!(others >> word & 1)) word++;
    return word;
}

#if RLX_HAS_PACED
/* Timers are cleared when they are due. Milliseconds until the next one is. */
static uint32_t run_timers(const struct rlx_device *d, struct rlx_pending *its)
{
    if (its->armed && (int32_t)(d->now - its->due) >= 0) its->armed = false;
    if (its->counting && (int32_t)(d->now - its->day_due) >= 0) {
        its->counting = false;
        its->today = 0;
    }
    uint32_t wait = its->armed ? its->due - d->now : RLX_FOREVER;
    uint32_t day = its->counting ? its->day_due - d->now : RLX_FOREVER;
    return day < wait ? day : wait;
}

/* Milliseconds until it may be sent. */
static uint32_t hold_of(const struct rlx_device *d, rlx_rom row, const struct rlx_pending *its)
{
    uint16_t a_day = RLX_ROM16(row + RLX_EVT_A_DAY);
    if (a_day && its->today >= a_day) return its->day_due - d->now;
    return its->armed ? its->due - d->now : 0;
}

/* It was sent: sets when the next one may be, or must be. */
static void pace(const struct rlx_device *d, rlx_rom row, struct rlx_pending *its)
{
    uint32_t every = RLX_ROM16(row + RLX_EVT_EVERY) | (uint32_t)RLX_ROM16(row + RLX_EVT_EVERY + 2)
                                                          << 16;
    if (RLX_ROM8(row + RLX_EVT_FLAGS) & RLX_EVT_IS_CONFIRMED) {
        uint32_t retry =
            (uint32_t)RLX_EVENT_RETRY_MS
            << (its->tries < RLX_EVENT_RETRY_DOUBLE ? its->tries : RLX_EVENT_RETRY_DOUBLE);
        if (its->tries < RLX_EVENT_RETRY_DOUBLE) its->tries++;
#if RLX_HAS_SMS
        if (rlx_current(d)->sms) retry *= RLX_EVENT_RETRY_MESSAGES;
#endif
        if (every < retry) every = retry;
    }
    its->armed = every != 0;
    its->due = d->now + every;
    if (!its->counting && RLX_ROM16(row + RLX_EVT_A_DAY)) {
        its->counting = true;
        its->day_due = d->now + DAY_MS;
    }
    its->today++;
}

/* The number of one that waits for its acknowledgement; its repeats have the same. */
static uint8_t number_of(struct rlx_link *link, struct rlx_pending *its, uint8_t word)
{
    if (!its->number) {
        if (!++link->event_number) link->event_number = 1;
        its->number = link->event_number;
        its->word = word;
        its->tries = 0;
        its->fresh = 0;
    }
    return its->number;
}

RLX_INTERNAL bool rlx_event_got(struct rlx_device *d, uint8_t number)
{
    struct rlx_link *link = rlx_current(d);
    bool got = false;
    for (uint8_t e = 0; e < n_events(d); e++) {
        struct rlx_pending *its = &link->events[e];
        uint8_t bit = (uint8_t)(1u << its->word);
        if (!its->number || (number && number != its->number)) continue;
        if (!(its->fresh & bit)) its->pending = (uint8_t)(its->pending & ~bit);
        its->number = 0;
        its->armed = false;
        got = true;
    }
    return got;
}
#endif

#if RLX_HAS_SMS
/* A message costs money: those that were held back are counted, and the number is sent with it. */
static void write_held(struct rlx_device *d, struct rlx_pending *its)
{
    rlx_reply_words(d, RLX_TXT_HELD_BEGIN);
    rlx_reply_number(d, (rlx_value)(its->held > RLX_HELD_MOST ? RLX_HELD_MOST : its->held), 0);
    rlx_reply_words(d, RLX_TXT_HELD_END);
    its->held = 0;
}
#endif

/* ev call pressed */
static void send_event(struct rlx_device *d, uint8_t link_no, rlx_rom row, uint8_t event)
{
    rlx_rom ev = event_row(d, event), text = rlx_image(d) + RLX_ROM16(ev + RLX_EVT_TEXT);
    struct rlx_link *link = rlx_link_at(d, link_no);
    struct rlx_pending *its = &link->events[event];
    uint8_t word = next_word(its);
#if RLX_HAS_PACED
    if (its->number) word = its->word;
#endif
    begin_event(d, link_no, row);
    rlx_reply_words(d, RLX_TXT_EVENT);
#if RLX_HAS_PACED
    if (RLX_ROM8(ev + RLX_EVT_FLAGS) & RLX_EVT_IS_CONFIRMED) {
        rlx_reply_put(d, '#');
        rlx_reply_number(d, number_of(link, its, word), 0);
        rlx_reply_put(d, ' ');
    } else
#endif
        its->pending = (uint8_t)(its->pending & ~(1u << word));
    text = rlx_reply_text(d, text);
    if (RLX_ROM8(ev + RLX_EVT_WORDS)) {
        for (uint8_t i = word; i; i--) text = rlx_behind(text);
        rlx_reply_put(d, ' ');
        rlx_reply_text(d, text);
    }
#if RLX_HAS_SMS
    if (link->sms && its->held) write_held(d, its);
#endif
    bool written = true;
#if RLX_HAS_OWN
    written =
        rlx_reply_own(d, row, (uint8_t)(RLX_OWN_EVENT + RLX_ROM8(ev + RLX_EVT_FIRST) + word)) !=
        RLX_OWN_EMPTY;
#endif
    if (written) end_event(d, row);
#if RLX_HAS_PACED
    pace(d, ev, its);
#endif
}

/* The next event to send here; 255: none. *wait: milliseconds until there is one. */
static uint8_t due_event(const struct rlx_device *d, const struct rlx_link *link, uint32_t *wait)
{
    uint8_t found = 255;
    for (uint8_t e = 0; e < n_events(d); e++) {
        const struct rlx_pending *its = &link->events[e];
        if (!its->pending) continue;
#if RLX_HAS_PACED
        uint32_t hold = hold_of(d, event_row(d, e), its);
#else
        uint32_t hold = 0;
#endif
        if (!hold && found == 255) found = e;
        if (hold && hold < *wait) *wait = hold;
    }
    return found;
}
#endif

/* ---- notes ---- */

#if RLX_HAS_NOTES

static bool has_notes(const struct rlx_device *d, uint8_t link_no)
{
    return rlx_ways(d, rlx_link_row(d, link_no)) & RLX_WAY_ALOUD;
}

static void keep_note(struct rlx_device *d, const char *text)
{
    uint8_t n = 0;
    for (; n < RLX_NOTE_BYTES && text[n]; n++)
        d->note[n] = (uint8_t)(text[n] - ' ') > '~' - ' ' ? '?' : text[n];
    d->note_length = n;
}

bool rlx_note_to(struct rlx_device *d, uint8_t link_no, const char *text)
{
    if (!rlx_started(d) || link_no >= rlx_n_links(d)) return false;
    for (uint8_t i = 0; i < rlx_n_links(d); i++)
        if (rlx_link_at(d, i)->note) return false;
    struct rlx_link *link = rlx_link_at(d, link_no);
    if (!has_notes(d, link_no)) rlx_count(&link->unnoted);
    keep_note(d, text);
    link->note = has_notes(d, link_no) && !link->down;
    return true;
}

bool rlx_note(struct rlx_device *d, const char *text)
{
    uint8_t waits = 0, links = 0;
    if (!rlx_started(d)) return false;
    for (uint8_t i = 0; i < rlx_n_links(d); i++) {
        if (!has_notes(d, i)) continue;
        links++;
        waits = (uint8_t)(waits + rlx_link_at(d, i)->note);
    }
    if (!links) { /* no link has notes */
        rlx_count(&rlx_link_at(d, 0)->unnoted);
        return true;
    }
    if (waits == links) return false;
    keep_note(d, text);
    for (uint8_t i = 0; i < rlx_n_links(d); i++) {
        if (rlx_link_at(d, i)->note) rlx_count(&rlx_link_at(d, i)->unnoted);
        rlx_link_at(d, i)->note = has_notes(d, i) && !rlx_link_at(d, i)->down;
    }
    return true;
}

static void send_note(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    rlx_link_at(d, link_no)->note = false;
    begin_event(d, link_no, row);
    rlx_reply_words(d, RLX_TXT_NOTE);
    for (uint8_t i = 0; i < d->note_length; i++) rlx_reply_put(d, (uint8_t)d->note[i]);
#if RLX_HAS_OWN
    if (rlx_reply_own(d, row, RLX_OWN_NOTE) == RLX_OWN_EMPTY) return;
#endif
    end_event(d, row);
}
#endif

/* ---- both ---- */

#if RLX_HAS_EVENTS || RLX_HAS_NOTES

RLX_INTERNAL uint32_t rlx_events_run(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    rlx_rom more = rlx_more(d, row);
    uint32_t wait = RLX_FOREVER;
    if (!more || !rlx_more8(more, RLX_MORE_EVENT)) return wait;
#if RLX_HAS_SMS
    if (rlx_sms_is_busy(link)) return wait;
#endif
    for (;;) {
        wait = RLX_FOREVER;
#if RLX_HAS_NOTES
#if RLX_HAS_SEAL
        if (link->note && !rlx_seal_is_ready(d, row)) {
            d->own_wanted = true;
            return wait;
        }
#endif
        if (link->note && has_room(link, more, row)) send_note(d, link_no, row);
#endif
#if RLX_HAS_EVENTS
#if RLX_HAS_PACED
        for (uint8_t e = 0; e < n_events(d); e++) {
            uint32_t due = run_timers(d, &link->events[e]);
            if (due < wait) wait = due;
        }
#endif
        uint8_t event = link->down ? 255 : due_event(d, link, &wait);
#if RLX_HAS_SEAL
        if (event != 255 && !rlx_seal_is_ready(d, row)) {
            d->own_wanted = true;
            return wait;
        }
#endif
        if (event != 255 && has_room(link, more, row)) {
            send_event(d, link_no, row, event);
            continue;
        }
#endif
        return wait;
    }
}

RLX_INTERNAL bool rlx_event_fits(const struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    const struct rlx_link *link = rlx_link_at(d, link_no);
    rlx_rom more = rlx_more(d, row);
    if (!more || !rlx_more8(more, RLX_MORE_EVENT) || !has_room(link, more, row)) return false;
#if RLX_HAS_SEAL
    if (!rlx_seal_is_ready(d, row)) return false;
#endif
#if RLX_HAS_SMS
    if (rlx_sms_is_busy(link)) return false;
#endif
#if RLX_HAS_NOTES
    if (link->note) return true;
#endif
#if RLX_HAS_EVENTS
    uint32_t wait = RLX_FOREVER;
    return !link->down && due_event(d, link, &wait) != 255;
#else
    return false;
#endif
}
#endif
