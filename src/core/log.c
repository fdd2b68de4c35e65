/* What was refused last (heard), and what was done (log).
 * A ring of short copies with their times.
 * It keeps nothing through a reset. */
#include "core.h"

#if RLX_HAS_HEARD || RLX_HAS_LOG
static rlx_rom name_of(const struct rlx_device *d, uint8_t link)
{
    rlx_rom name = rlx_part(d, RLX_IMG_LINK_NAMES);
    while (link--) name = rlx_behind(name);
    return name;
}

static void put_link(struct rlx_device *d, uint8_t link)
{
    rlx_reply_text(d, name_of(d, link));
}
#endif

#if RLX_HAS_HEARD
RLX_INTERNAL uint8_t rlx_link_named(struct rlx_device *d, const uint8_t *s)
{
    if (rlx_part(d, RLX_IMG_LINK_NAMES) == rlx_image(d)) return RLX_NO_LINK;
    for (uint8_t i = 0; i < rlx_n_links(d); i++) {
        const uint8_t *t = rlx_behind_text(d, s, name_of(d, i));
        while (t && *t == ' ') t++;
        if (!t || *t) continue;
        rlx_reply_put(d, ' ');
        put_link(d, i);
        return i;
    }
    return RLX_NO_LINK;
}
#endif

#if RLX_HAS_HEARD
/* A copy, for reading may change it. */
RLX_INTERNAL void rlx_heard_begin(struct rlx_device *d)
{
    const struct rlx_link *link = rlx_current(d);
    uint8_t state = link->frame_state & (uint8_t)~RLX_FRAME_READY, n = 0;
    if (!rlx_has_built_in(d, RLX_BUILT_IN_HEARD)) return;
    bool whole = !state || state == RLX_ERR_HALF; /* up to its 0 */
#if RLX_HAS_BINARY
    if (rlx_is_binary(d, rlx_link_row(d, rlx_current_number(d)))) whole = false;
#endif
    /* of a damaged frame what came before the damage, and the byte that did it; a key is that byte
     */
    bool byte = state == RLX_ERR_BYTE || state == RLX_ERR_UNKNOWN;
    uint8_t most = (uint8_t)(link->frame_len + byte);
    for (; n < RLX_HEARD_BYTES && (whole ? rlx_frame_text(link)[n] : n < most); n++)
        d->frame_begun[n] = rlx_frame_text(link)[n];
    d->frame_count = n;
}

static bool has_secrets(const struct rlx_device *d)
{
    (void)d;
    return (RLX_HAS_SEAL && rlx_needs(d, RLX_BIT_SEAL)) ||
           (RLX_HAS_CODED && rlx_needs(d, RLX_BIT_CODED)) ||
           (RLX_HAS_SMS_CODE && rlx_needs(d, RLX_BIT_SMS_CODE));
}

/* What was meant for others replaces nothing that was meant for this device. Where there are codes
 * or keys, nobody is shown what stood in quotes: it may be one. */
RLX_INTERNAL void rlx_heard_end(struct rlx_device *d, uint8_t why)
{
#if RLX_COUNTS_OTHERS
    if (!rlx_has_built_in(d, RLX_BUILT_IN_HEARD)) return;
    if (why == RLX_HEARD_ADDRESS && d->heard_link && d->heard_why != RLX_HEARD_ADDRESS) return;
    d->heard_why = why;
#endif
    (void)why;
    for (uint8_t i = 0; i < d->frame_count; i++) {
        d->heard[i] = d->frame_begun[i];
        if (d->heard[i] == '"' && has_secrets(d)) d->frame_count = i;
    }
    d->heard_count = d->frame_count;
    d->heard_link = (uint8_t)(rlx_current_number(d) + 1);
}

static uint8_t hex(uint8_t nibble)
{
    return (uint8_t)(nibble < 10 ? '0' + nibble : 'A' - 10 + nibble);
}

#if RLX_COUNTS_OTHERS
/* In the order of RLX_HEARD_..., each up to the blank of the next. */
static const uint8_t RLX_ROM heard_words[] = RLX_TXT_HEARD_WHYS
#if RLX_HAS_SEAL
    RLX_TXT_HEARD_SEAL
#endif
    ;
#endif

RLX_INTERNAL void rlx_write_heard(struct rlx_device *d)
{
    rlx_reply_words(d, RLX_TXT_HEARD);
    if (!d->heard_link) {
        rlx_reply_words(d, RLX_TXT_NOTHING);
        return;
    }
    put_link(d, (uint8_t)(d->heard_link - 1));
#if RLX_COUNTS_OTHERS
    rlx_rom why = heard_words;
    for (uint8_t n = 0; n <= d->heard_why; why++) {
        uint8_t c = RLX_ROM8(why);
        n = (uint8_t)(n + (c == ' '));
        if (n && n == d->heard_why) rlx_reply_put(d, c);
    }
#endif
    for (uint8_t i = 0; i < d->heard_count; i++) {
        rlx_reply_put(d, ' ');
        rlx_reply_put(d, hex(d->heard[i] >> 4));
        rlx_reply_put(d, hex(d->heard[i] & 15));
    }
}
#endif

#if RLX_HAS_LOG
/* An entry is marked old long before the clock comes round to it. */
#define OLD_MS UINT32_C(0x40000000)

RLX_INTERNAL void rlx_log_add(struct rlx_device *d, const uint8_t *text, uint8_t verdict,
                              bool secret)
{
    struct rlx_log_entry *entry = &d->log[d->log_next];
    uint8_t i = 0;
    if (!rlx_has_built_in(d, RLX_BUILT_IN_LOG)) return;
#if RLX_TAKES_CHANNELS
    if (d->renews) return;
#endif
    while (*text == ' ') text++;
    for (; i < RLX_LOG_CHARACTERS && text[i] && !(secret && text[i] == ' '); i++)
        entry->what[i] = (char)text[i];
    if (i < RLX_LOG_CHARACTERS) entry->what[i] = 0;
    entry->when = d->now;
    entry->old = false;
    entry->link = rlx_current_number(d);
#if RLX_HAS_SOURCE
    entry->source = d->source;
#else
    entry->source = 0;
#endif
    entry->verdict = verdict;
    d->log_next = (uint8_t)((d->log_next + 1) % RLX_LOG_ENTRIES);
    if (d->log_count < RLX_LOG_ENTRIES) d->log_count++;
}

RLX_INTERNAL uint32_t rlx_log_run(struct rlx_device *d)
{
    for (uint8_t i = 0; i < d->log_count; i++)
        if (d->now - d->log[i].when > OLD_MS) d->log[i].old = true;
    return d->log_count ? OLD_MS / 2 : RLX_FOREVER;
}

/* "12s ago": whole seconds, minutes or hours, rounded down. */
static void put_ago(struct rlx_device *d, uint32_t ms)
{
    static const char units[] = "smh";
    uint8_t unit = 0;
    uint32_t n = ms / 1000;
    for (; unit < 2 && n >= 60; unit++) n /= 60;
    rlx_reply_number(d, (rlx_value)n, 0);
    rlx_reply_put(d, (uint8_t)units[unit]);
    rlx_reply_words(d, RLX_TXT_AGO);
}

/* 1 is the last one: when, who, what, verdict. */
RLX_INTERNAL void rlx_write_log(struct rlx_device *d, uint8_t back)
{
    const struct rlx_log_entry *entry =
        &d->log[(uint8_t)(d->log_next + RLX_LOG_ENTRIES - back) % RLX_LOG_ENTRIES];
    rlx_reply_words(d, RLX_TXT_LOG);
    rlx_reply_number(d, back, 0);
    rlx_reply_put(d, ' ');
    if (back > d->log_count) {
        rlx_reply_words(d, RLX_TXT_NOTHING);
        return;
    }
    if (entry->old)
        rlx_reply_words(d, RLX_TXT_LONG_AGO);
    else
        put_ago(d, d->now - entry->when);
    rlx_reply_put(d, ' ');
    put_link(d, entry->link);
    if (entry->source) {
        rlx_reply_put(d, '/');
        rlx_reply_number(d, entry->source, 0);
    }
    rlx_reply_put(d, ' ');
    rlx_reply_put(d, '"');
    for (uint8_t i = 0; i < RLX_LOG_CHARACTERS && entry->what[i]; i++)
        rlx_reply_put(d, (uint8_t)entry->what[i]);
    rlx_reply_put(d, '"');
    if (!entry->verdict) {
        rlx_reply_words(d, RLX_TXT_LOG_OK);
    } else if (entry->verdict == RLX_OWN_ALREADY) {
        rlx_reply_nth(d, RLX_TEXT_ALREADY);
    } else {
        rlx_reply_put(d, ' ');
        rlx_reply_nth(d, RLX_TEXT_ERR);
        rlx_reply_nth(d, rlx_text_of_error(entry->verdict));
    }
}
#endif
