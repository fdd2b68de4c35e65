/* Numbers of each form, read from any text and written again, also those that a setting narrows.
 * The elements are as `rlx emit` writes them: their bounds and scales are in order. */
#include "any.h"
#include "core/ring.c"
#include "core/reply.c"
#include "core/number.c"

#define TEXT(c) (uint8_t)((c) | RLX_TEXT_END)

/* -40..125 with the unit C; 0..4000 with mm, glued; 0..9999.99; 1..86400000 as a time; 0x0..0xFFFF;
 * 0..100 as 950..2050; -100000..100000, narrowed by settings 0 and 1. */
static const uint8_t whole[] = {RLX_OP_NUM16, 8, 3 | RLX_NUM_UNIT, 0xD8,     0xFF,
                                125,          0, TEXT('C'),        TEXT('t')};
static const uint8_t glued[] = {
    RLX_OP_NUM16, 9, 4 | RLX_NUM_UNIT | RLX_NUM_GLUED, 0, 0, 0xA0, 0x0F, 'm', TEXT('m'), TEXT('h')};
static const uint8_t fraction[] = {
    RLX_OP_NUM32, 11, 4 | RLX_NUM_FORM, 0, 0, 0, 0, 0x3F, 0x42, 0x0F, 0, 2, TEXT('f')};
static const uint8_t span[] = {RLX_OP_NUM32, 11,   8 | RLX_NUM_FORM, 1,        0, 0, 0, 0, 0x5C,
                               0x26,         0x05, RLX_FORM_TIME,    TEXT('t')};
static const uint8_t hex[] = {
    RLX_OP_NUM32, 11, 4 | RLX_NUM_FORM, 0, 0, 0, 0, 0xFF, 0xFF, 0, 0, RLX_FORM_HEX, TEXT('x')};
static const uint8_t scale[] = {
    RLX_OP_NUM16, 11, 3 | RLX_NUM_FORM, 0, 0, 100, 0, RLX_FORM_SCALE, 0xB6, 3, 2, 8, TEXT('s')};
static const uint8_t narrow[] = {
    RLX_OP_NUM32, 12, 6 | RLX_NUM_BOUND, 0x60, 0x79, 0xFE, 0xFF, 0xA0, 0x86, 1, 0, 0, 1, TEXT('n')};

static uint8_t buffer[2 * 128 + 130];
static rlx_value settings[2];

/* The text begins with one of these characters: what a sign is decided by is a value of its own to
 * the analysis, which does not part them. */
static void begun(rlx_rom op, uint8_t nines, uint8_t from, uint8_t to)
{
    struct rlx_device device = {0};
    struct rlx_link link = {0};
    uint8_t text[16];
    for (unsigned i = 0; i < nines; i++) text[i] = '9';
    text[nines] = (uint8_t)any_of(from, to);
    for (unsigned i = nines + 1u; i < nines + 9u; i++)
        text[i] = (uint8_t)any_of(0, '~'); /* frame.c */
    text[nines + 9] = 0;
    ANY(buffer);
    ANY(settings);
    link.buffer = buffer;
    link.rx_mask = 127;
    link.tx_mask = 127;
    device.link = &link;
    device.tx = buffer + 128;
    device.tx_mask = 127;
    device.tx_next = (uint16_t)any_of(0, 65535);
    device.fold = any_of(0, 1) ? 26 : 0;
    device.settings = settings;
    device.text = text;
    if (!rlx_take_number(&device, op, ',')) rlx_number_put(&device, op, device.value[0]);
    rlx_number_put(&device, op, (rlx_value)Frama_C_int_interval(INT32_MIN, INT32_MAX));
}

static void with(rlx_rom op)
{
    begun(op, 0, 0, '-' - 1);
    begun(op, 0, '-', '-');
    begun(op, 0, '-' + 1, '0' - 1);
    begun(op, 0, '0', '0');
    begun(op, 0, '1', '~');
    begun(op, 6, 0, '~'); /* too many digits */
}

void main(void)
{
    with(whole);
    with(glued);
    with(fraction);
    with(span);
    with(hex);
    with(scale);
    with(narrow);
}
