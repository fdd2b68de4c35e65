/* The message in hand: whose it is, what was done of it before a power cut, and its answer.
 * A record of the last messages distinguishes a repeat from a new one.
 * It does not speak to the modem. */
#include "sms_parts.h"

#if RLX_HAS_SMS

/* ---- what may be kept: "I" or "D", the verdict, and the sums of the last messages ---- */

RLX_INTERNAL uint8_t rlx_sms_record_of(const struct rlx_device *d, rlx_rom row)
{
    return RLX_ROM8(rlx_sms_row(d, row) + RLX_SMS_ROW_RECORD);
}

/* A sum is six characters of six bits, none of which is a quote. */
static uint32_t kept_sum(const uint8_t *at)
{
    uint32_t sum = 0;
    for (uint8_t i = 6; i; i--) sum = sum << 6 | (uint8_t)(at[i - 1] - '#');
    return sum;
}

static void note_state(struct rlx_device *d, rlx_rom row, uint8_t state, uint8_t verdict)
{
    uint8_t *text = rlx_setting_record(d, rlx_sms_record_of(d, row)) + 1;
    text[0] = state;
    text[1] = (uint8_t)('#' + (verdict >> 4));
    text[2] = (uint8_t)('#' + (verdict & 15));
    rlx_setting_changed(d, rlx_sms_record_of(d, row));
}

static uint8_t record_bytes(const struct rlx_device *d, rlx_rom row)
{
#if RLX_HAS_SMS_CODE
    if (RLX_ROM8(rlx_sms_row(d, row) + RLX_SMS_ROW_CODE)) return RLX_SMS_RECORD_CODE;
#endif
    (void)d, (void)row;
    return RLX_SMS_RECORD;
}

RLX_INTERNAL bool rlx_sms_has_record(const struct rlx_device *d, rlx_rom row)
{
    return *rlx_setting_record(d, rlx_sms_record_of(d, row)) == record_bytes(d, row);
}

RLX_INTERNAL void rlx_sms_have_record(const struct rlx_device *d, rlx_rom row)
{
    uint8_t *record = rlx_setting_record(d, rlx_sms_record_of(d, row));
    if (rlx_sms_has_record(d, row)) return;
    *record = record_bytes(d, row);
    for (uint8_t i = 1; i <= *record; i++) record[i] = '#';
    record[1] = PENDING_DONE;
#if RLX_HAS_SMS_CODE
    if (*record == RLX_SMS_RECORD_CODE) record[RLX_SMS_RECORD_CODE] = RLX_SMS_NOBODY;
#endif
}

/* The message in hand is the newest one. */
static void note_new(struct rlx_device *d, rlx_rom row, uint8_t state, uint32_t sum,
                     uint8_t verdict)
{
    uint8_t *text = rlx_setting_record(d, rlx_sms_record_of(d, row)) + 1;
    rlx_sms_have_record(d, row);
    for (uint8_t i = RLX_SMS_RECORD - 1; i >= 9; i--) text[i] = text[i - 6];
    for (uint8_t i = 3; i < 9; i++, sum >>= 6) text[i] = (uint8_t)('#' + (sum & 63));
    note_state(d, row, state, verdict);
}

/* Which of the last messages it is, from 1, the newest; 0: none. */
static uint8_t kept_as(struct rlx_device *d, rlx_rom row, uint32_t sum)
{
    const uint8_t *record = rlx_setting_record(d, rlx_sms_record_of(d, row));
    if (!rlx_sms_has_record(d, row)) return 0;
    for (uint8_t i = 0; i < RLX_SMS_KEPT; i++)
        if (kept_sum(record + 4 + 6 * i) == sum) return (uint8_t)(i + 1);
    return 0;
}

RLX_INTERNAL bool rlx_sms_is_kept(const struct rlx_device *d, rlx_rom row)
{
    return !rlx_setting_unsaved(d, rlx_sms_record_of(d, row));
}

/* ---- who may command ---- */

static bool same_number(const uint8_t *a, const uint8_t *b)
{
    uint8_t n = (uint8_t)((a[0] + 1u) / 2);
    if (a[0] != b[0] || ((a[1] ^ b[1]) & 0x70)) return false; /* the type of number */
    for (uint8_t i = 0; i < n; i++)
        if (a[2 + i] != b[2 + i]) return false;
    return true;
}

/* The next number of a list that blanks or commas divide, at *at; false: there is none. */
static bool next_number(const char **at, const char *end, uint8_t address[RLX_PDU_ADDRESS])
{
    while (*at != end) {
        while (*at != end && (**at == ' ' || **at == ',')) ++*at;
        const char *from = *at;
        while (*at != end && **at != ' ' && **at != ',') ++*at;
        if (*at != from && *at - from < 22 && rlx_pdu_address(from, (uint8_t)(*at - from), address))
            return true;
    }
    return false;
}

/* The numbers that are served, from 1, one behind the other; false: there is none with this number.
 */
RLX_INTERNAL bool rlx_sms_served(const struct rlx_device *d, rlx_rom row, uint8_t number,
                                 uint8_t address[RLX_PDU_ADDRESS])
{
    rlx_rom sms = rlx_sms_row(d, row);
    uint8_t setting = RLX_ROM8(sms + RLX_SMS_ROW_ALLOW), n = RLX_ROM8(sms + RLX_SMS_ROW_NUMBERS);
    if (number <= n) {
        rlx_rom at = sms + RLX_SMS_ROW_FIRST + (number - 1u) * RLX_PDU_ADDRESS;
        for (uint8_t i = 0; i < RLX_PDU_ADDRESS; i++) address[i] = RLX_ROM8(at + i);
        return true;
    }
    if (!setting) return false;
    uint8_t count;
    const char *at = rlx_setting_text(d, (uint8_t)(setting - 1), &count), *end = at + count;
    for (; number > n; number--)
        if (!next_number(&at, end, address)) return false;
    return true;
}

/* Whether who sent it may command. */
static bool is_served(struct rlx_device *d, struct rlx_link *link, rlx_rom row, bool is_text)
{
    struct rlx_sms *s = link->sms;
    rlx_rom sms = rlx_sms_row(d, row);
    uint8_t address[RLX_PDU_ADDRESS];
    bool listed = RLX_ROM8(sms + RLX_SMS_ROW_ALLOW) || RLX_ROM8(sms + RLX_SMS_ROW_NUMBERS);
    if ((s->in.sender[1] & 0x70) == 0x50) return false; /* a name: nobody can be answered */
    s->source = 1;
    while (listed && rlx_sms_served(d, row, s->source, address) &&
           !same_number(address, s->in.sender))
        s->source++;
    if (listed && !rlx_sms_served(d, row, s->source, address)) return false;
#if RLX_HAS_SMS_CODE
    uint8_t code = RLX_ROM8(sms + RLX_SMS_ROW_CODE);
    if (code) return is_text && rlx_sms_takes_code(d, link, row, (uint8_t)(code - 1));
#endif
    (void)is_text;
    return true;
}

static bool is_stale(const struct rlx_device *d, const struct rlx_sms *s, rlx_rom row)
{
    uint32_t most = rlx_rom32(rlx_sms_row(d, row) + RLX_SMS_ROW_STALE);
    uint32_t stamp = rlx_pdu_seconds(s->in.stamp), now = s->clock + (d->now - s->clock_at) / 1000;
    if (!most) return false;
    return !s->clock_known || !stamp || (now > stamp && now - stamp > most);
}

/* ---- the message in hand ---- */

/* It is done: what comes after its record was kept. */
static void then(struct rlx_sms *s, uint8_t next)
{
    s->step = STEP_KEEP;
    s->next = next;
}

/* A message has no check: what is not read the same two
 * times is read anew, and what never is stays where it is until the next look. */
static bool is_read_twice(struct rlx_sms *s, enum rlx_pdu what)
{
    bool same = s->tries && s->seen == (s->in.sum ^ (uint32_t)what);
    s->seen = s->in.sum ^ (uint32_t)what;
    if (same) return true;
    if (++s->tries < READS) return false;
    s->tries = 0;
    rlx_sms_count(&s->damaged);
    return false;
}

/* A message was read: what is done with it. */
RLX_INTERNAL void rlx_sms_judge(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    struct rlx_sms *s = link->sms;
    enum rlx_pdu what = rlx_pdu_end(&s->in, s->length);
    if (!is_read_twice(s, what)) return;
    s->tries = 0;
    s->found++;
    uint8_t kept = what == RLX_PDU_DAMAGED ? 0 : kept_as(d, row, s->in.sum);
    if (s->resumes && kept != 1) return; /* first that one which was in hand */
    s->in_hand = true;
    s->step = STEP_DELETE;
    uint8_t code = what == RLX_PDU_LONG       ? RLX_ERR_LONG
                   : what == RLX_PDU_ALPHABET ? RLX_ERR_ALPHABET
                                              : 0;
    if (what == RLX_PDU_DAMAGED) {
        rlx_sms_count(&s->damaged);
        return;
    }
    if (what == RLX_PDU_OTHER || !is_served(d, link, row, !code)) {
        rlx_sms_count(&s->strangers);
        if (what != RLX_PDU_OTHER && link->others != UINT16_MAX) link->others++;
        return;
    }
    for (uint8_t i = 0; i < RLX_PDU_ADDRESS; i++) s->to[i] = s->in.sender[i];
    s->again = false;
    if (kept && !s->resumes) {
        rlx_sms_count(&s->repeats);
        return;
    }
    if (s->resumes) {
        const uint8_t *text = rlx_setting_record(d, rlx_sms_record_of(d, row)) + 1;
        s->resumes = false;
        s->verdict = (uint8_t)((text[1] - '#') << 4 | (text[2] - '#'));
        s->again = true;
        s->done = text[0] == PENDING_DONE;
        s->old = is_stale(d, s, row);
        s->step = STEP_ACT;
    } else {
        if (!code && is_stale(d, s, row)) code = RLX_ERR_LATE;
        note_new(d, row, code ? PENDING_DONE : PENDING_BEGUN, s->in.sum, code);
        then(s, STEP_ACT);
        s->begins = d->keep.none;
        if (s->begins) s->step = STEP_DELETE;
    }
    rlx_frame_text(link)[s->in.count] = 0;
    link->frame_len = code ? 0 : s->in.count;
    link->frame_state = (uint8_t)(RLX_FRAME_READY | code);
}

/* It was answered: the next one. */
RLX_INTERNAL void rlx_sms_forget(struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    rlx_frame_over(link);
    s->in_hand = s->begins = s->done = s->again = s->old = false;
    s->tries = 0;
    s->more = true;
    s->timed = false;
    s->step = STEP_IDLE;
}

/* It was sent, or there was nothing to send: the place of its message is emptied. */
RLX_INTERNAL void rlx_sms_answered(struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    if (s->in_hand && !s->begins)
        s->step = STEP_DELETE;
    else
        rlx_sms_forget(link);
}

static void write_verdict(struct rlx_device *d, struct rlx_link *link, rlx_rom row, uint8_t verdict)
{
    link->sms->verdict = verdict;
    rlx_reply_start(d, rlx_link_number(d, link), row);
    rlx_reply_verdict(d, verdict);
    rlx_reply_commit(d, row);
}

/* The parser has it, and answers. */
RLX_INTERNAL void rlx_sms_act(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    struct rlx_sms *s = link->sms;
    uint8_t was = s->verdict;
    bool ok = was == RLX_OWN_OK || was == RLX_OWN_ALREADY;
    if (s->done && was >= RLX_OWN_EVENT) { /* it was somebody's reply, and never answered */
        rlx_sms_answered(link);
        return;
    }
    if (s->done && !ok) { /* it was refused before the power cut */
        write_verdict(d, link, row, was);
        s->step = STEP_SEND;
        return;
    }
    link->source = s->source;
    s->verdict = RLX_OWN_OK;
    uint8_t *text = rlx_frame_text(link), count = s->in.count;
    while (count && text[count - 1] == ' ') text[--count] = 0;
    if (link->frame_state == RLX_FRAME_READY && !count)
        rlx_frame_over(link); /* an empty message */
    else if (!rlx_answer(d, rlx_link_number(d, link), row))
        return; /* never: the ring is empty while a message is in hand */
    if (s->done && s->verdict == RLX_ERR_UNSURE) {
        link->tx_head = link->tx_tail = 0;
        link->refused--;
        write_verdict(d, link, row, was); /* it was done, and that is known */
    }
    note_state(d, row, PENDING_DONE, s->verdict);
    then(s, STEP_SEND);
}
#endif
