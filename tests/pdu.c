/* Text messages in PDU mode: against exchanges worked out by hand from 3GPP TS 23.040 and 23.038,
 * against the codec of the simulated network, and damaged in every way. */
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "world/modem/alphabet.h"
#include "world/run/draw.h"
#include "harness.h"
#include "rlx/pdu.h"
#include "world/modem/tpdu.h"

static uint8_t text[RLX_PDU_TEXT];

/* What the library reads of these octets, behind an empty service centre's address. */
static enum rlx_pdu read_octets(struct rlx_pdu_in *in, const uint8_t *octets, unsigned size,
                                unsigned told)
{
    rlx_pdu_begin(in, text, sizeof text);
    rlx_pdu_octet(in, 0);
    for (unsigned i = 0; i < size; i++) rlx_pdu_octet(in, octets[i]);
    return rlx_pdu_end(in, (uint8_t)told);
}

static enum rlx_pdu read_hex(struct rlx_pdu_in *in, const char *hex, unsigned told)
{
    rlx_pdu_begin(in, text, sizeof text);
    for (; *hex; hex += 2)
        rlx_pdu_octet(in,
                      (uint8_t)(g_ascii_xdigit_value(hex[0]) << 4 | g_ascii_xdigit_value(hex[1])));
    return rlx_pdu_end(in, (uint8_t)told);
}

/* What it writes, as hex; NULL: the text is too long. */
static char *write_hex(const char *number, const char *said, unsigned *length)
{
    uint8_t address[RLX_PDU_ADDRESS], octet;
    struct rlx_pdu_out out;
    GString *hex = g_string_new(NULL);
    CHECK(rlx_pdu_address(number, (uint8_t)strlen(number), address));
    *length = rlx_pdu_write(&out, address, (const uint8_t *)said, (uint8_t)strlen(said));
    if (!*length) return g_string_free(hex, TRUE);
    while (rlx_pdu_next(&out, &octet)) g_string_append_printf(hex, "%02X", octet);
    return g_string_free(hex, FALSE);
}

static void check_written(const char *number, const char *said, const char *wanted, unsigned wants)
{
    unsigned length;
    char *hex = write_hex(number, said, &length);
    CHECK_TEXT(hex, wanted);
    CHECK_INT(length, wants);
    g_free(hex);
}

/* "pump on" is 70 75 6D 70 20 6F 6E: each septet gives its low bits to the octet before it,
 * F0 7A 1B 0E 7A BB 01. +15550142 has 8 digits, swapped in pairs: 08 91 51 55 10 24. */
static void by_hand(void)
{
    struct rlx_pdu_in in;
    CHECK_INT(read_hex(&in,
                       "069151550510F0" /* the centre: +155550010, 6 octets with its type */
                       "04"             /* SMS-DELIVER, no more messages */
                       "089151551024"   /* from +15550142 */
                       "0000"           /* protocol, coding */
                       "62306031852400" /* 26-03-06 13:58:42, UTC */
                       "07F07A1B0E7ABB01",
                       24),
              RLX_PDU_SOUND);
    CHECK_INT(in.count, 7);
    CHECK(!memcmp(text, "pump on", 7));
    CHECK(!memcmp(in.sender, "\x08\x91\x51\x55\x10\x24", 6));
    /* 9561 days and 50322 s behind 2000-01-01 */
    CHECK_INT(rlx_pdu_seconds(in.stamp), 9561 * 86400 + 13 * 3600 + 58 * 60 + 42);
    /* first 11, reference 00, to, protocol, coding, validity A7, 2 septets */
    check_written("+15550142", "ok",
                  "001100089151551024"
                  "0000A702EF35",
                  14);
    /* an odd number of digits: the last half is F */
    check_written("0142123", "ok",
                  "0011000781102421"
                  "F3"
                  "0000A702EF35",
                  14);
    /* '{' is 1B 28, '@' is 00 */
    check_written("+1", "{@",
                  "00110001"
                  "91F1"
                  "0000A703"
                  "1B1400",
                  12);
    /* ten septets in nine octets */
    check_written("+1", "hellohello",
                  "00110001"
                  "91F1"
                  "0000A70A"
                  "E8329BFD4697D9EC37",
                  18);
}

/* The library's message, read by the network; and the network's, read by the library. */
static bool goes_round(const char *number, const char *said)
{
    struct rlx_pdu_in in;
    struct tpdu read, t = {.number = (char *)number, .text = (char *)said};
    unsigned length;
    char *hex = write_hex(number, said, &length);
    uint8_t octets[200];
    unsigned n = 0;
    bool ok = hex != NULL;
    for (const char *p = hex; ok && *p; p += 2)
        octets[n++] = (uint8_t)(g_ascii_xdigit_value(p[0]) << 4 | g_ascii_xdigit_value(p[1]));
    ok = ok && n == length + 1 && tpdu_read_submit(octets + 1, n - 1, &read);
    if (ok) {
        ok = !strcmp(read.number, number) && !strcmp(read.text, said);
        tpdu_clear(&read);
    }
    g_free(hex);
    tpdu_stamp(1000000, -18, t.stamp);
    GByteArray *deliver = tpdu_deliver(&t);
    ok = ok && deliver &&
         read_octets(&in, deliver->data, deliver->len, deliver->len) == RLX_PDU_SOUND;
    ok = ok && in.count == strlen(said) && !memcmp(text, said, in.count) &&
         rlx_pdu_seconds(in.stamp) == 1000000;
    if (deliver) g_byte_array_free(deliver, TRUE);
    return ok;
}

static bool is_in_alphabet(char c)
{
    return c != '`';
}

static void round_trips(void)
{
    char said[RLX_PDU_TEXT + 1] = "";
    struct draw draw = draw_from(8);
    unsigned tried = 0;
    CHECK(goes_round("+15550142", ""));
    for (char a = ' '; a <= '~'; a++) {
        for (char b = ' ' - 1; b <= '~'; b++) {
            said[0] = a;
            said[1] = b < ' ' ? 0 : b;
            said[2] = 0;
            if (!is_in_alphabet(a) || !is_in_alphabet(b)) continue;
            tried++;
            test_context("\"%s\"", said);
            if (!CHECK(goes_round("+15550142", said))) return;
        }
    }
    for (unsigned i = 0; i < 20000 * test_rounds(); i++) {
        char number[24] = "";
        unsigned digits = 1 + draw_below(&draw, 20), septets = 0, n = 0;
        if (i & 1) strcpy(number, "+");
        for (unsigned k = 0; k < digits; k++)
            strncat(number, &"0123456789"[draw_below(&draw, 10)], 1);
        for (unsigned most = draw_below(&draw, 161); septets < most;) {
            char c = (char)(' ' + draw_below(&draw, 95));
            unsigned takes = strchr("[]{}\\^~|", c) ? 2 : 1;
            if (!is_in_alphabet(c) || septets + takes > most) {
                if (septets + 1 == most) break;
                continue;
            }
            said[n++] = c;
            septets += takes;
        }
        said[n] = 0;
        tried++;
        test_context("%s \"%s\"", number, said);
        if (!CHECK(goes_round(number, said))) return;
    }
    CHECK(tried > 28000);
}

static enum rlx_pdu read_deliver(struct rlx_pdu_in *in, const struct tpdu *t)
{
    GByteArray *deliver = tpdu_deliver(t);
    if (!CHECK(deliver)) return RLX_PDU_OTHER;
    enum rlx_pdu what = read_octets(in, deliver->data, deliver->len, deliver->len);
    g_byte_array_free(deliver, TRUE);
    return what;
}

static void what_it_is(void)
{
    struct rlx_pdu_in in;
    struct tpdu t = {.number = "+15550142"};
    char longest[200];
    unsigned length;
    memset(longest, 'x', sizeof longest);
    longest[160] = 0;
    t.text = longest;
    tpdu_stamp(1, 0, t.stamp);
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_SOUND);
    CHECK_INT(in.count, 160);
    CHECK(!tpdu_deliver(&(struct tpdu){.number = "+1", .text = strcat(longest, "x")}));
    g_free(write_hex("+1", longest, &length));
    CHECK_INT(length, 0);
    strcpy(longest + 158, "{"); /* 160 septets, the last two one character */
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_SOUND);
    CHECK(in.count == 159 && text[158] == '{');
    t.text = "p\xC3\xA4mp on"; /* in the alphabet, in no command */
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_ALPHABET);
    t.text = "pump on";
    t.coding = 8;
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_ALPHABET);
    t.coding = 0;
    t.number = "Nursery";
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_SOUND);
    CHECK_INT(in.sender[1] & 0x70, 0x50);
    t.number = "+15550142";
    uint32_t whole = (read_deliver(&in, &t), in.sum), part;
    tpdu_stamp(2, 0, t.stamp);
    read_deliver(&in, &t);
    CHECK(in.sum != whole);
    t.parts = 2;
    t.part = 1;
    t.parts_of = 77;
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_LONG);
    part = in.sum;
    t.part = 2;
    t.text = "something else";
    tpdu_stamp(9, 0, t.stamp);
    CHECK_INT(read_deliver(&in, &t), RLX_PDU_LONG);
    CHECK_INT(in.sum, part); /* the same message */
    t.parts_of = 78;
    read_deliver(&in, &t);
    CHECK(in.sum != part);
    /* an escape as the last septet, and in a buffer that is too small */
    CHECK_INT(read_hex(&in,
                       "0004019121"
                       "0000"
                       "62306031852400"
                       "02"
                       "F00D",
                       16),
              RLX_PDU_ALPHABET);
    rlx_pdu_begin(&in, text, 3);
    for (const char *p = "0004019121"
                         "0000"
                         "62306031852400"
                         "07F07A1B0E7ABB01";
         *p; p += 2)
        rlx_pdu_octet(&in, (uint8_t)(g_ascii_xdigit_value(p[0]) << 4 | g_ascii_xdigit_value(p[1])));
    CHECK_INT(rlx_pdu_end(&in, 21), RLX_PDU_LONG);
    CHECK_INT(in.count, 3);
}

/* Each octet with each value, each length, with a header and without. */
static void damaged(void)
{
    struct tpdu t = {.number = "+155501421", .text = "pump on"};
    unsigned sound = 0, tried = 0;
    for (unsigned parts = 0; parts <= 2; parts += 2) {
        struct rlx_pdu_in in;
        t.parts = (uint8_t)parts;
        t.part = 1;
        tpdu_stamp(5, 3, t.stamp);
        GByteArray *whole = tpdu_deliver(&t);
        for (unsigned i = 0; i < whole->len; i++) {
            uint8_t was = whole->data[i];
            for (unsigned value = 0; value < 256; value++, tried++) {
                whole->data[i] = (uint8_t)value;
                enum rlx_pdu what = read_octets(&in, whole->data, whole->len, whole->len);
                sound += what == RLX_PDU_SOUND;
                CHECK(in.count <= sizeof text);
            }
            whole->data[i] = was;
        }
        for (unsigned n = 0; n < whole->len; n++, tried++) {
            CHECK_INT(read_octets(&in, whole->data, n, n), RLX_PDU_DAMAGED);
            CHECK_INT(read_octets(&in, whole->data, n, whole->len), RLX_PDU_DAMAGED);
            CHECK_INT(read_octets(&in, whole->data, whole->len, n), RLX_PDU_DAMAGED);
        }
        g_byte_array_append(whole, (const guint8 *)"x", 1);
        CHECK_INT(read_octets(&in, whole->data, whole->len, whole->len), RLX_PDU_DAMAGED);
        g_byte_array_free(whole, TRUE);
    }
    CHECK(tried > 14000 && sound > 1000); /* other digits, other letters, other times are sound */
}

static void times(void)
{
    struct draw draw = draw_from(3);
    uint8_t stamp[7];
    for (unsigned i = 0; i < 100000; i++) {
        uint64_t seconds = draw_below(&draw, UINT32_MAX / 2 + UINT32_MAX / 4) + 100000ull;
        int zone = (int)draw_below(&draw, 113) - 48;
        if (seconds > 3155000000u) continue;
        tpdu_stamp(seconds, zone, stamp);
        char *said = tpdu_stamp_text(stamp);
        test_context("%s", said);
        CHECK_INT(rlx_pdu_seconds(stamp), seconds);
        g_free(said);
    }
    memcpy(stamp, "\x62\x31\x60\x31\x85\x24\x00", 7); /* month 13 */
    CHECK_INT(rlx_pdu_seconds(stamp), 0);
    memcpy(stamp, "\x62\x30\x6A\x31\x85\x24\x00", 7); /* no digit */
    CHECK_INT(rlx_pdu_seconds(stamp), 0);
}

static void addresses(void)
{
    uint8_t address[RLX_PDU_ADDRESS];
    static const char *const none[] = {"", "+", "+1555x", "15 55", "+123456789012345678901"};
    for (unsigned i = 0; i < G_N_ELEMENTS(none); i++)
        CHECK(!rlx_pdu_address(none[i], (uint8_t)strlen(none[i]), address));
    CHECK(rlx_pdu_address("+12345678901234567890", 21, address));
    CHECK_INT(address[0], 20);
}

static const struct test_case cases[] = {
    {"messages worked out by hand", by_hand},
    {"what is written is read, by another codec", round_trips},
    {"lengths, alphabets, parts and senders", what_it_is},
    {"every field damaged", damaged},
    {"time stamps", times},
    {"addresses", addresses},
};
TEST_MAIN(cases)
