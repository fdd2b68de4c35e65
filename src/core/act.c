#include "core.h"

/* The operand of the END whose own bytes end before `at`. */
static uint16_t operand(const struct rlx_device *d, uint8_t end, rlx_rom at)
{
    end &= RLX_OPERAND_MASK;
    if (end == RLX_OPERAND_GROUP) return d->group;
    if ((RLX_HAS_SWITCH || RLX_HAS_LEVEL) && end == RLX_OPERAND_VALUE) return (uint16_t)d->value[0];
    if (end == RLX_OPERAND_ENTRY) at = d->entry + (RLX_HAS_MANY && d->many ? 2 : 1);
    if (RLX_HAS_MANY && d->many) return RLX_ROM16(at);
    return RLX_ROM8(at);
}

/* A toggle's reply tells the outcome: instead of the word, or behind the command. */
static void tell_toggle(struct rlx_device *d, uint8_t end, uint8_t output)
{
    if (end & RLX_END_APPEND)
        rlx_reply_put(d, ' ');
    else
        d->tx_next = d->tx_word;
    rlx_reply_nth(d, rlx_output_is_on(d, output) ? RLX_TEXT_ON : RLX_TEXT_OFF);
}

/* Does what the END at d->at says. 0, RLX_ALREADY, or negative. */
static int act(struct rlx_device *d)
{
    rlx_rom at = d->at;
    uint8_t end = RLX_ROM8(at++), kind = end & RLX_ACT_MASK;
    if (RLX_HAS_CALL && ((!RLX_HAS_SWITCH && !RLX_HAS_LEVEL) || kind == RLX_ACT_CALL)) {
        rlx_invoke invoke = (rlx_invoke)RLX_ROM_FN(d->invokers + RLX_ROM8(at));
        return invoke(RLX_ROM_FN(d->handlers + operand(d, end, at + 1)), d->user, d->value,
                      rlx_frame_text(d->link));
    }
    uint8_t output = (uint8_t)operand(d, end, at);
    rlx_value what = d->value[(end & RLX_OPERAND_MASK) == RLX_OPERAND_VALUE];
#if RLX_HAS_EXPIRY
    rlx_output_lasts(d, output, d->lasts);
#endif
    if (RLX_HAS_LEVEL && (!RLX_HAS_SWITCH || kind == RLX_ACT_LEVEL))
        return rlx_output_level(d, output, (uint8_t)what);
    enum rlx_verb verb = (enum rlx_verb)what;
    int done = rlx_output_switch(d, output, verb);
    if (verb == RLX_TOGGLE) tell_toggle(d, end, output);
    return done;
}

static void tell_ok(struct rlx_device *d)
{
    rlx_reply_put(d, 'o');
    rlx_reply_put(d, 'k');
}

/* Whether what was matched may be said here; else d->text is where it begins. */
static bool allowed(struct rlx_device *d, rlx_rom row, uint16_t start, const uint8_t *text)
{
#if RLX_HAS_LIMITED
    if (rlx_is_allowed(d, row, start)) return true;
    d->text = text;
    while (*d->text == ' ') d->text++;
    return false;
#else
    (void)d, (void)row, (void)start, (void)text;
    return true;
#endif
}

/* Reads one command, and obeys it where `acts` says so; the reply is written but for an error. 0,
 * an error, RLX_MATCH_..., or RLX_OWN_ALREADY. */
static uint8_t obey_one(struct rlx_device *d, rlx_rom row, bool acts)
{
    uint16_t start = d->tx_next;
    const uint8_t *text = d->text;
    tell_ok(d);
#if RLX_HAS_BUILT_IN
    if (rlx_is_halt(d) || rlx_built_in(d, false)) { /* halt is never denied */
        bool halt = rlx_is_halt(d);
        if (!halt && !allowed(d, row, start, text)) return RLX_ERR_DENIED;
        d->tx_next = start;
        d->text = text;
        tell_ok(d);
        rlx_built_in(d, acts);
        if (!rlx_reply_fits(d)) d->tx_next = (uint16_t)(start + 2);
        return 0;
    }
#endif
    uint8_t error = rlx_match(d);
    if (error) return error;
    if (!allowed(d, row, start, text)) return RLX_ERR_DENIED;
    if (!acts) return 0;
    bool fits = rlx_reply_fits(d); /* as it was said: a toggle's word may yet be replaced */
    int done = act(d);
    if (done < 0) return done == -RLX_ERR_BUSY ? RLX_ERR_BUSY : RLX_ERR_FAILED;
    if (done) rlx_reply_nth(d, RLX_TEXT_ALREADY);
    if (!fits || !rlx_reply_fits(d)) {
        d->tx_next = start;
        tell_ok(d);
    }
    return done ? RLX_OWN_ALREADY : 0;
}

#if RLX_HAS_BUILT_IN
/* Several commands: all of them are read before the first one is obeyed. The reply is their count.
 */
static uint8_t obey_all(struct rlx_device *d, rlx_rom row)
{
    const uint8_t *first = d->text;
    uint16_t start = d->tx_next;
    uint8_t count = 0;
    for (uint8_t acts = 0; acts < 2; acts++) {
        const uint8_t *text = first;
        for (d->part = 1, count = 0; text < d->text_end; d->part++) {
            d->text = text;
            d->tx_next = start;
            uint8_t error = obey_one(d, row, acts);
            if (error == RLX_MATCH_REPLY || (error && error < RLX_OWN_ALREADY)) return error;
            if (error != RLX_MATCH_EMPTY) count++;
            while (*text) text++;
            text++;
        }
    }
    d->part = 0;
    d->tx_next = start;
    if (!count) return RLX_MATCH_EMPTY;
    tell_ok(d);
    rlx_reply_put(d, ' ');
    rlx_reply_number(d, count, 0);
    return 0;
}
#endif

static uint8_t obey(struct rlx_device *d, rlx_rom row)
{
#if RLX_HAS_BUILT_IN
    d->text_end = 0;
    d->part = 0;
    if (rlx_split(d)) return obey_all(d, row);
    d->text_end = 0;
#endif
    if (RLX_HAS_NUMBERED) rlx_frame_number(d);
    return obey_one(d, row, true);
}

/* What the frame is, and what it leads to; the reply is begun. */
static uint8_t read_frame(struct rlx_device *d, rlx_rom row)
{
    struct rlx_link *link = d->link;
    uint8_t error = link->frame_state & (uint8_t)~RLX_FRAME_READY;
    d->text = rlx_frame_text(link);
#if RLX_HAS_CHECK || RLX_HAS_ADDRESS || RLX_HAS_TAGS
    d->tagged = d->broadcast = false; /* also where this one is damaged */
    d->source = 0;
#endif
    if (error) {
        d->text += link->frame_len;
        return RLX_COUNTS_OTHERS && rlx_flags(d, row) & RLX_LINK_SHARED ? RLX_MATCH_OTHERS : error;
    }
    if (RLX_HAS_TEXT && rlx_frame_stray(link)) {
        d->text = rlx_frame_stray(link);
        return RLX_ERR_BYTE;
    }
#if RLX_HAS_LIMITED
    if (rlx_is_known(d, row)) return RLX_MATCH_KNOWN;
#endif
#if RLX_HAS_CHECK || RLX_HAS_ADDRESS || RLX_HAS_TAGS
    error = rlx_envelope_open(d, row);
    if (error) return error;
#endif
    return obey(d, row);
}

RLX_INTERNAL bool rlx_answer(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = &d->links[link_no];
    if (!rlx_reply_begin(d, link_no, row)) {
#if RLX_HAS_BUILT_IN
        /* what moves is safe at once, also where the answer has to wait; but not by a frame that
         * has still to be checked, or is not addressed here */
        d->text = rlx_frame_text(link);
        if (link->frame_state == RLX_FRAME_READY && rlx_is_halt(d) &&
            !(rlx_flags(d, row) & (RLX_LINK_CHECK_REQUIRED | RLX_LINK_ADDRESSED)))
            rlx_drive_init(d);
#endif
        return false;
    }
    uint8_t what = read_frame(d, row);
    link->frame_len = 0;
    link->frame_state = 0;
#if RLX_HAS_LIMITED
    if (what == RLX_MATCH_KNOWN) {
        link->known++;
        if (d->tx_next != d->tx_start && !(rlx_flags(d, row) & RLX_LINK_SILENT))
            rlx_reply_commit(d, row);
        return true;
    }
#endif
    if (what >= RLX_MATCH_REPEAT) {
        if (what == RLX_MATCH_REPLY) link->ignored++;
#if RLX_COUNTS_OTHERS
        if (what == RLX_MATCH_OTHERS) link->others++;
#endif
        return true;
    }
    if (what && what != RLX_OWN_ALREADY) {
        link->refused++;
        rlx_reply_error(d, what);
    }
#if RLX_HAS_OWN
    if (rlx_flags(d, row) & RLX_LINK_SILENT) return true;
    rlx_reply_own(d, row, what);
#endif
#if RLX_HAS_CHECK || RLX_HAS_ADDRESS || RLX_HAS_TAGS
    if (d->broadcast) return true;
    rlx_envelope_close(d, row);
#endif
    rlx_reply_commit(d, row);
    return true;
}
