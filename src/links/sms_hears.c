/* Reads the lines of the modem: ITU-T V.250, 3GPP TS 27.005 and 27.007.
 * A line is matched with what the step in hand awaits, or is unsolicited.
 * It sends nothing. */
#include "sms_parts.h"

#if RLX_HAS_SMS

static bool line_begins(const struct rlx_sms *s, const char *words)
{
    for (uint8_t i = 0; words[i]; i++)
        if (i >= s->line_count || s->line[i] != (uint8_t)words[i]) return false;
    return true;
}

static bool line_is(const struct rlx_sms *s, const char *words)
{
    uint8_t n = 0;
    while (words[n]) n++;
    return s->line_count == n && line_begins(s, words);
}

/* +CCLK: "26/11/23,19:05:00+04" */
static void take_clock(struct rlx_sms *s, uint32_t now)
{
    uint8_t stamp[7];
    const uint8_t *at = s->line + 8;
    s->clock_known = false;
    if (s->line_count < 28) return;
    for (uint8_t i = 0; i < 7; i++, at += 3)
        stamp[i] = (uint8_t)((at[0] - '0') | (at[1] - '0') << 4);
    if (s->line[25] == '-') stamp[6] |= 8;
    s->clock = rlx_pdu_seconds(stamp);
    s->clock_at = now;
    s->clock_known = s->clock >= YEAR_2020; /* a clock that nobody has set begins earlier */
}

/* +CPMS: "SM",3,30,...: how many there are, of how many. */
static void take_count(struct rlx_sms *s)
{
    uint16_t numbers[2] = {0, 0};
    uint8_t n = 0, i = 7;
    for (; i < s->line_count && i < RLX_SMS_LINE && n < 3; i++) {
        uint8_t digit = (uint8_t)(s->line[i] - '0');
        if (s->line[i] == ',')
            n++;
        else if (n && n < 3 && digit <= 9 && numbers[n - 1] < 6000)
            numbers[n - 1] = (uint16_t)(numbers[n - 1] * 10u + digit);
    }
    s->used = (uint8_t)(numbers[0] > 255 ? 255 : numbers[0]);
    s->total = numbers[1];
}

/* Information responses that a step waits for. */
static void take_information(struct rlx_sms *s, uint32_t now)
{
    if (s->step == STEP_CLOCK && line_begins(s, "+CCLK: ")) take_clock(s, now);
    if (s->step == STEP_COUNT && line_begins(s, "+CPMS: ")) take_count(s);
    if (s->step == STEP_PIN && line_begins(s, "+CPIN: READY")) s->registered = true;
    if (s->step == STEP_REGISTERED && line_begins(s, "+CREG: ") && s->line_count > 9)
        s->registered = s->line[9] == '1' || s->line[9] == '5';
    if (s->step == STEP_READ && line_begins(s, "+CMGR: ")) {
        /* a text mode would send more than its number */
        s->hex = s->line_count > 7 && (uint8_t)(s->line[7] - '0') <= 9;
        s->pdu_is_there = true;
        s->length = (uint8_t)(s->last_number > 255 ? 0 : s->last_number);
    }
}

static void take_line(struct rlx_sms *s, uint32_t now)
{
    bool error =
        line_is(s, "ERROR") || line_begins(s, "+CMS ERROR:") || line_begins(s, "+CME ERROR:");
    if (line_begins(s, "+CMTI:")) {
        s->more = true;
        s->hint = s->last_number;
    } else if (s->asked && s->step > STEP_SETTLE && line_begins(s, "AT")) {
        s->step = STEP_PAUSE; /* it echoes again: it was reset */
        s->asked = false;
        s->timed = false;
    } else if (s->asked && (line_is(s, "OK") || (s->step == STEP_HELLO && line_is(s, "0")))) {
        s->result = RESULT_OK;
    } else if (s->asked && error) {
        s->result = RESULT_ERROR;
        s->fault = s->last_number;
    } else if (s->asked) {
        take_information(s, now);
    }
}

/* A character of a message. */
static void take_hex(struct rlx_sms *s, uint8_t c)
{
    uint8_t value = c <= '9' ? (uint8_t)(c - '0') : (uint8_t)((c & ~0x20u) - 'A' + 10);
    if (value > 15 || (c > '9' && value < 10)) {
        s->in.damaged = true;
    } else if (s->nibble == 255) {
        s->nibble = value;
    } else {
        rlx_pdu_octet(&s->in, (uint8_t)(s->nibble << 4 | value));
        s->nibble = 255;
    }
}

static void hear_byte(struct rlx_sms *s, uint8_t c, uint32_t now)
{
    if (c == '>' && !s->line_count && s->asked && s->step == STEP_SEND) {
        s->result = RESULT_PROMPT;
        return;
    }
    if (c == '\r' || c == '\n') {
        bool was_hex = s->hex && s->line_count;
        if (was_hex) {
            s->hex = false;
            if (s->nibble != 255) s->in.damaged = true;
        } else if (s->line_count && !s->line_cut) {
            take_line(s, now);
        }
        if (s->line_cut) s->in.damaged = true;
        s->line_count = 0;
        s->line_cut = false;
        s->last_number = 0;
        return;
    }
    if (s->hex) take_hex(s, c);
    if (s->line_count < RLX_SMS_LINE) s->line[s->line_count] = c;
    if (s->line_count != 255) s->line_count++;
    if (c >= '0' && c <= '9')
        s->last_number = (uint16_t)(s->last_number > 6000 ? 6001 : s->last_number * 10u + c - '0');
    else
        s->last_number = 0;
}

RLX_INTERNAL void rlx_sms_hear(const struct rlx_device *d, struct rlx_link *link)
{
    uint8_t byte;
    enum rlx_got got;
    for (uint8_t budget = RLX_POLL_BYTES; budget && !link->sms->result; budget--) {
        got = rlx_ring_get(link, &byte);
        if (got == RLX_GOT_NONE) return;
        if (got == RLX_GOT_BYTE)
            hear_byte(link->sms, byte, d->now);
        else
            link->sms->line_cut = true;
    }
}
#endif
