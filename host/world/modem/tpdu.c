/* Text messages as the network has them (3GPP TS 23.040): read and written.
 * Written apart from src/links/pdu.c, so that each checks the other.
 * It sends nothing. */
#include "world/modem/tpdu.h"

#include <string.h>

#include "world/modem/alphabet.h"

#define UDHI        0x40
#define REPORT      0x20
#define MORE        0x04 /* no more messages wait */
#define MOST_OCTETS 140u
#define MOST_TEXT   160u

void tpdu_clear(struct tpdu *t)
{
    g_free(t->number);
    g_free(t->text);
    memset(t, 0, sizeof *t);
}

static void put8(GByteArray *to, unsigned byte)
{
    guint8 one = (guint8)byte;
    g_byte_array_append(to, &one, 1);
}

/* ---- addresses and time ---- */

static bool is_digits(const char *number)
{
    const char *digits = *number == '+' ? number + 1 : number;
    return *digits && strspn(digits, "0123456789") == strlen(digits);
}

bool tpdu_put_address(GByteArray *to, const char *number)
{
    if (!is_digits(number)) { /* a name, in septets */
        GByteArray *septets = alphabet_septets(number);
        if (!septets || septets->len > 11) {
            if (septets) g_byte_array_free(septets, TRUE);
            return false;
        }
        GByteArray *packed = alphabet_pack(septets->data, septets->len, 0);
        put8(to, (septets->len * 7 + 3) / 4); /* its semi-octets */
        put8(to, 0xD0);
        g_byte_array_append(to, packed->data, packed->len);
        g_byte_array_free(packed, TRUE);
        g_byte_array_free(septets, TRUE);
        return true;
    }
    bool plus = *number == '+';
    const char *digits = number + plus;
    size_t n = strlen(digits);
    if (n > 20) return false;
    put8(to, (unsigned)n);
    put8(to, plus ? 0x91 : 0x81);
    for (size_t i = 0; i < n; i += 2)
        put8(to, (unsigned)((digits[i] - '0') | (i + 1 < n ? digits[i + 1] - '0' : 15) << 4));
    return true;
}

void tpdu_stamp(uint64_t seconds, int quarters, uint8_t stamp[7])
{
    GDateTime *begin = g_date_time_new_utc(2000, 1, 1, 0, 0, 0);
    GDateTime *at = g_date_time_add_seconds(begin, (double)seconds + quarters * 900.0);
    const int parts[6] = {g_date_time_get_year(at) % 100,   g_date_time_get_month(at),
                          g_date_time_get_day_of_month(at), g_date_time_get_hour(at),
                          g_date_time_get_minute(at),       g_date_time_get_second(at)};
    for (unsigned i = 0; i < 6; i++) stamp[i] = (uint8_t)(parts[i] / 10 | parts[i] % 10 << 4);
    unsigned ahead = (unsigned)ABS(quarters);
    stamp[6] = (uint8_t)(ahead / 10 | ahead % 10 << 4 | (quarters < 0 ? 8 : 0));
    g_date_time_unref(at);
    g_date_time_unref(begin);
}

char *tpdu_stamp_text(const uint8_t stamp[7])
{
    static const char marks[] = "//,::";
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < 7; i++) {
        unsigned octet = i == 6 ? stamp[i] & ~8u : stamp[i];
        if (i == 6) g_string_append_c(text, stamp[i] & 8 ? '-' : '+');
        g_string_append_printf(text, "%X%X", octet & 15, octet >> 4);
        if (i < 5) g_string_append_c(text, marks[i]);
    }
    return g_string_free(text, FALSE);
}

/* ---- user data ---- */

/* Length and data; false: it does not fit. */
static bool put_data(GByteArray *to, const struct tpdu *t)
{
    const guint8 header[] = {5, 0, 3, t->parts_of, t->parts, t->part};
    unsigned head = t->parts ? sizeof header : 0;
    bool ucs2 = tpdu_is_ucs2(t->coding);
    GByteArray *text = ucs2 ? alphabet_ucs2(t->text) : alphabet_septets(t->text);
    if (!text) return false;
    unsigned skip = (head * 8 + 6) / 7, most = ucs2 ? MOST_OCTETS - head : MOST_TEXT - skip;
    bool fits = text->len <= most;
    put8(to, (ucs2 ? head : skip) + text->len);
    if (head) g_byte_array_append(to, header, head);
    if (ucs2) {
        g_byte_array_append(to, text->data, text->len);
    } else {
        GByteArray *packed = alphabet_pack(text->data, text->len, skip * 7 - head * 8);
        g_byte_array_append(to, packed->data, packed->len);
        g_byte_array_free(packed, TRUE);
    }
    g_byte_array_free(text, TRUE);
    return fits;
}

static GByteArray *or_nothing(GByteArray *to, bool ok)
{
    if (ok) return to;
    g_byte_array_free(to, TRUE);
    return NULL;
}

GByteArray *tpdu_deliver(const struct tpdu *t)
{
    GByteArray *to = g_byte_array_new();
    put8(to, MORE | (t->parts ? UDHI : 0u));
    bool ok = tpdu_put_address(to, t->number);
    put8(to, t->protocol);
    put8(to, t->coding);
    g_byte_array_append(to, t->stamp, sizeof t->stamp);
    ok = put_data(to, t) && ok;
    return or_nothing(to, ok);
}

GByteArray *tpdu_submit(const struct tpdu *t)
{
    GByteArray *to = g_byte_array_new();
    put8(to, 0x11 | (t->parts ? UDHI : 0u) | (t->report ? REPORT : 0u));
    put8(to, t->reference);
    bool ok = tpdu_put_address(to, t->number);
    put8(to, t->protocol);
    put8(to, t->coding);
    put8(to, t->validity);
    ok = put_data(to, t) && ok;
    return or_nothing(to, ok);
}

GByteArray *tpdu_report(const struct tpdu *t, const uint8_t came[7], uint8_t status)
{
    GByteArray *to = g_byte_array_new();
    put8(to, 2 | MORE);
    put8(to, t->reference);
    bool ok = tpdu_put_address(to, t->number);
    g_byte_array_append(to, t->stamp, sizeof t->stamp);
    g_byte_array_append(to, came, 7);
    put8(to, status);
    return or_nothing(to, ok);
}

/* ---- reading ---- */

struct reader {
    const guint8 *at, *end;
    bool bad;
};

static unsigned take8(struct reader *r)
{
    if (r->at == r->end) r->bad = true;
    return r->bad ? 0 : *r->at++;
}

static char *take_address(struct reader *r)
{
    unsigned digits = take8(r), type = take8(r), octets = (digits + 1) / 2;
    if (r->bad || digits > 20 || (unsigned)(r->end - r->at) < octets) {
        r->bad = true;
        return g_strdup("");
    }
    const guint8 *from = r->at;
    r->at += octets;
    if ((type & 0x70) == 0x50) {
        unsigned count = digits * 4 / 7;
        GByteArray *septets = alphabet_unpack(from, octets, count, 0);
        char *name = alphabet_text(septets->data, septets->len, 0, 0);
        g_byte_array_free(septets, TRUE);
        return name;
    }
    GString *number = g_string_new((type & 0x70) == 0x10 ? "+" : "");
    for (unsigned i = 0; i < digits; i++) {
        unsigned digit = from[i / 2] >> (i & 1 ? 4 : 0) & 15;
        if (digit > 9) r->bad = true;
        g_string_append_c(number, (char)('0' + digit));
    }
    return g_string_free(number, FALSE);
}

/* Of parts: which of how many, with a number of 8 or 16 bits; the national tables. */
static void take_element(struct tpdu *t, const guint8 *element, unsigned size)
{
    if ((element[0] == 0 && size == 3) || (element[0] == 8 && size == 4)) {
        t->parts_of = element[size - 1];
        t->parts = element[size];
        t->part = element[size + 1];
    } else if (element[0] == 0x24 && size == 1) {
        t->single = element[2];
    } else if (element[0] == 0x25 && size == 1) {
        t->locking = element[2];
    }
}

static void take_header(struct tpdu *t, const guint8 *header, unsigned size)
{
    for (unsigned i = 0; i + 1 < size && i + 2 + header[i + 1] <= size; i += 2u + header[i + 1])
        take_element(t, header + i, header[i + 1]);
}

bool tpdu_is_ucs2(uint8_t coding)
{
    return (coding & 0x8C) == 0x08 || (coding & 0xF0) == 0xE0; /* also marked for deletion */
}

static char *hex_of(const guint8 *bytes, unsigned size)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < size; i++) g_string_append_printf(text, "%02X", bytes[i]);
    return g_string_free(text, FALSE);
}

static bool take_data(struct reader *r, struct tpdu *t, bool headed)
{
    unsigned length = take8(r), coding = t->coding;
    bool ucs2 = tpdu_is_ucs2(t->coding);
    bool octets = coding < 0x80 ? (coding & 0x0C) == 0x04 : (coding & 0xF4) == 0xF4;
    bool septets = !ucs2 && !octets;
    unsigned size = septets ? (length * 7 + 7) / 8 : length;
    if (r->bad || size != (unsigned)(r->end - r->at) || size > MOST_OCTETS) return false;
    unsigned head = headed && size ? r->at[0] + 1u : 0;
    unsigned skip = (head * 8 + 6) / 7;
    if (head > size || (septets && skip > length) || (headed && !size)) return false;
    if (head) take_header(t, r->at + 1, head - 1);
    if (septets) {
        GByteArray *all = alphabet_unpack(r->at, size, length, 0);
        t->text = length > skip
                      ? alphabet_text(all->data + skip, length - skip, t->single, t->locking)
                      : g_strdup("");
        g_byte_array_free(all, TRUE);
    } else {
        t->text =
            ucs2 ? alphabet_of_ucs2(r->at + head, size - head) : hex_of(r->at + head, size - head);
        t->octets = octets;
    }
    return true;
}

bool tpdu_read_deliver(const guint8 *bytes, unsigned size, struct tpdu *t)
{
    struct reader r = {bytes, bytes + size, false};
    *t = (struct tpdu){0};
    unsigned first = take8(&r);
    t->number = take_address(&r);
    t->protocol = (uint8_t)take8(&r);
    t->coding = (uint8_t)take8(&r);
    for (unsigned i = 0; i < 7; i++) t->stamp[i] = (uint8_t)take8(&r);
    if (!r.bad && !(first & 3) && take_data(&r, t, first & UDHI)) return true;
    tpdu_clear(t);
    return false;
}

bool tpdu_read_submit(const guint8 *bytes, unsigned size, struct tpdu *t)
{
    struct reader r = {bytes, bytes + size, false};
    *t = (struct tpdu){0};
    unsigned first = take8(&r), periods[4] = {0, 7, 1, 7};
    t->reference = (uint8_t)take8(&r);
    t->report = first & REPORT;
    t->number = take_address(&r);
    t->protocol = (uint8_t)take8(&r);
    t->coding = (uint8_t)take8(&r);
    for (unsigned i = 0; i < periods[first >> 3 & 3]; i++) {
        unsigned octet = take8(&r);
        if (!i) t->validity = (uint8_t)octet;
    }
    if (!r.bad && (first & 3) == 1 && take_data(&r, t, first & UDHI)) return true;
    tpdu_clear(t);
    return false;
}
