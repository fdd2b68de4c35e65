/* The code before a text message (`code setting pin`), and why nobody guesses it: after some wrong
 * ones in a row no code is looked at for a time that doubles, also after a power cut.
 * The number that knew the code last is counted apart, so that others do not lock it out.
 * It does not know what the message says. */
#include "sms_parts.h"

#if RLX_HAS_SMS_CODE

/* The sender's number as it stands in the record: 16 bits in three characters. */
static uint16_t number_sum(const uint8_t address[RLX_PDU_ADDRESS])
{
    uint16_t sum = RLX_CRC_START;
    uint8_t bytes = (uint8_t)((address[0] + 1u) / 2 + 2);
    for (uint8_t i = 0; i < bytes && i < RLX_PDU_ADDRESS; i++) sum = rlx_crc_step(sum, address[i]);
    return sum;
}

static uint8_t *guesses_of(const struct rlx_device *d, rlx_rom row)
{
    return rlx_setting_record(d, rlx_sms_record_of(d, row)) + 1 + RLX_SMS_RECORD;
}

static bool is_known(const struct rlx_device *d, rlx_rom row, uint16_t sum)
{
    const uint8_t *at = guesses_of(d, row);
    for (uint8_t i = 2; i < 5; i++, sum = (uint16_t)(sum >> 6))
        if (at[i] != '#' + (sum & 63)) return false;
    return true;
}

/* Both counts, and who knew the code last. */
static void note_guesses(struct rlx_device *d, const struct rlx_sms *s, rlx_rom row)
{
    uint8_t *at = guesses_of(d, row);
    for (uint8_t i = 0; i < 2; i++) at[i] = (uint8_t)('#' + s->guesses[i].wrong);
    rlx_setting_changed(d, rlx_sms_record_of(d, row));
}

RLX_INTERNAL void rlx_sms_load_guesses(const struct rlx_device *d, struct rlx_sms *s, rlx_rom row)
{
    for (uint8_t i = 0; i < 2; i++) rlx_guess_load(d, &s->guesses[i], guesses_of(d, row)[i]);
}

/* Pauses that are over end, before the clock comes round. */
RLX_INTERNAL void rlx_sms_run_guesses(const struct rlx_device *d, struct rlx_sms *s)
{
    for (uint8_t i = 0; i < 2; i++) rlx_guess_run(d, &s->guesses[i]);
}

/* Takes the code and the blank behind it off; false: it is wrong. */
static bool take_code(struct rlx_link *link, const char *code, uint8_t count)
{
    uint8_t *text = rlx_frame_text(link);
    struct rlx_pdu_in *in = &link->sms->in;
    if (in->count < count || (in->count > count && text[count] != ' ')) return false;
    if (!rlx_same_code(text, (const uint8_t *)code, count)) return false;
    while (count < in->count && text[count] == ' ') count++;
    in->count = (uint8_t)(in->count - count);
    for (uint8_t i = 0; i < in->count; i++) text[i] = text[count + i];
    return true;
}

RLX_INTERNAL bool rlx_sms_takes_code(struct rlx_device *d, struct rlx_link *link, rlx_rom row,
                                     uint8_t setting)
{
    struct rlx_sms *s = link->sms;
    uint16_t sum = number_sum(s->in.sender);
    uint8_t count, known = is_known(d, row, sum);
    struct rlx_guesses *g = &s->guesses[known];
    const char *code = rlx_setting_text(d, setting, &count);
    if (!count || g->pauses) return false;
    rlx_sms_have_record(d, row);
    if (!take_code(link, code, count)) {
        rlx_sms_count(&s->wrong);
        rlx_guess_wrong(d, g, setting);
        note_guesses(d, s, row);
        return false;
    }
    if (known && !g->wrong) return true;
    for (uint8_t i = 2; i < 5; i++, sum = (uint16_t)(sum >> 6))
        guesses_of(d, row)[i] = (uint8_t)('#' + (sum & 63));
    rlx_guess_right(g);
    if (!known) s->guesses[1] = (struct rlx_guesses){0, false, 0};
    note_guesses(d, s, row);
    return true;
}
#endif
