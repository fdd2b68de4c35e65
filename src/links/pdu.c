/* Text messages in PDU mode: 3GPP TS 23.040, the alphabet of 23.038.
 * Read octet by octet within the message's length.
 * It sends nothing. */
#include "rlx/pdu.h"

#include "rlx/inside.h"

#if RLX_HAS_SMS

#define ESCAPE        0x1Bu
#define INTERNATIONAL 0x91u /* type of number: international, ISDN */
#define NATIONAL      0x81u /* unknown, ISDN */
#define SUBMIT        0x11u /* SMS-SUBMIT with a relative validity period */
#define A_DAY         0xA7u /* of validity: (167 - 143) * 30 min and 12 h */
#define UDHI          0x40u
#define MOST_OCTETS   140u

/* ASCII characters that have another place in the default alphabet, or take two septets. */
static const uint8_t moved[] RLX_ROM = {'@', 0x00, '$', 0x02, '_', 0x11};
static const uint8_t extended[] RLX_ROM = {'^', 0x14, '{', 0x28, '}', 0x29, '\\', 0x2F,
                                           '[', 0x3C, '~', 0x3D, ']', 0x3E, '|',  0x40};

/* Of pairs, the other one of what has this at `side`; 255: none has. */
static uint8_t other_of(const uint8_t *pairs, uint8_t size, uint8_t side, uint8_t value)
{
    for (uint8_t i = 0; i < size; i = (uint8_t)(i + 2))
        if (RLX_ROM8(pairs + i + side) == value) return RLX_ROM8(pairs + i + !side);
    return 255;
}

/* Whether ASCII and the alphabet have the same character there. */
static bool is_ascii(uint8_t c)
{
    return (c >= ' ' && c <= 'Z' && c != '$' && c != '@') || (c >= 'a' && c <= 'z');
}

/* ---- reading ---- */

enum {
    AT_CENTRE,
    AT_CENTRE_DIGITS,
    AT_FIRST,
    AT_ADDRESS,
    AT_TYPE,
    AT_DIGITS,
    AT_PROTOCOL,
    AT_CODING,
    AT_STAMP,
    AT_LENGTH,
    AT_HEADER_LENGTH,
    AT_HEADER,
    AT_TEXT,
    AT_END
};

static const uint32_t sum_begins = UINT32_C(2166136261); /* FNV-1a */

static void add_up(struct rlx_pdu_in *in, uint8_t octet)
{
    in->sum = (in->sum ^ octet) * UINT32_C(16777619);
}

void rlx_pdu_begin(struct rlx_pdu_in *in, uint8_t *text, uint8_t size)
{
    *in = (struct rlx_pdu_in){.sum = sum_begins, .text = text, .size = size};
}

/* The general data coding groups and those with the class of a message; reserved codings are
 * taken as the default alphabet (23.038, 4). */
static bool is_7_bit(uint8_t dcs)
{
    if (dcs < 0x80) return !(dcs & 0x20) && (dcs & 0x0C) != 0x04 && (dcs & 0x0C) != 0x08;
    if (dcs >= 0xF0) return !(dcs & 0x04);
    return dcs < 0xE0;
}

static void put_character(struct rlx_pdu_in *in, uint8_t c)
{
    if (in->count == in->size)
        in->long_ = true;
    else
        in->text[in->count++] = c;
}

static void take_septet(struct rlx_pdu_in *in, uint8_t septet)
{
    if (!in->septets) return; /* what fills the last octet */
    in->septets--;
    if (in->skip) {
        in->skip--;
        return;
    }
    uint8_t c;
    if (in->escaped) {
        c = other_of(extended, sizeof extended, 1, septet);
        in->escaped = false;
    } else if (septet == ESCAPE) {
        in->escaped = true;
        return;
    } else if (is_ascii(septet) || septet == '\n' || septet == '\r') {
        c = septet == '\n' || septet == '\r' ? ' ' : septet;
    } else {
        c = other_of(moved, sizeof moved, 1, septet);
    }
    if (c == 255) {
        in->strange = true;
        c = '?';
    }
    put_character(in, c);
}

/* Information elements of the header (23.040, 9.2.3.24): a part of several, or another alphabet. */
static void take_header(struct rlx_pdu_in *in, uint8_t octet)
{
    if (in->element_at == 0) {
        in->element = octet;
        in->element_at = 1;
        return;
    }
    if (in->element_at == 1) {
        in->element_left = octet;
        in->element_at = 2;
        if (in->element == 0x24 || in->element == 0x25) in->strange = true;
    } else {
        bool reference =
            in->element == 0x00 ? in->element_at == 2 : in->element == 0x08 && in->element_at <= 3;
        if (reference) {
            if (!in->part) { /* all parts of one message are the same one */
                in->sum = sum_begins;
                for (uint8_t i = 0; i < RLX_PDU_ADDRESS; i++) add_up(in, in->sender[i]);
            }
            in->part = true;
            add_up(in, octet);
        }
        in->element_at++;
        in->element_left--;
    }
    if (!in->element_left) in->element_at = 0;
    if (in->element_left > in->header) in->damaged = true;
}

static void take_text(struct rlx_pdu_in *in, uint8_t octet)
{
    if (!is_7_bit(in->dcs)) return;
    in->bits = (uint16_t)(in->bits | (unsigned)octet << in->n_bits);
    for (in->n_bits = (uint8_t)(in->n_bits + 8); in->n_bits >= 7;
         in->n_bits = (uint8_t)(in->n_bits - 7)) {
        take_septet(in, (uint8_t)(in->bits & 0x7F));
        in->bits >>= 7;
    }
}

/* The user data's length: in septets, or in octets. */
static void take_length(struct rlx_pdu_in *in, uint8_t octet)
{
    bool septets = is_7_bit(in->dcs);
    in->septets = septets ? octet : 0;
    in->left = (uint8_t)(septets ? (octet * 7u + 7u) / 8u : octet);
    if (octet > (septets ? RLX_PDU_TEXT : MOST_OCTETS)) in->damaged = true;
    in->at = !in->left ? AT_END : in->first & UDHI ? AT_HEADER_LENGTH : AT_TEXT;
    if (!in->left && in->first & UDHI) in->damaged = true;
}

static void take_header_length(struct rlx_pdu_in *in, uint8_t octet)
{
    in->header = octet;
    in->skip = (uint8_t)(((octet + 1u) * 8 + 6) / 7);
    if (octet >= in->left || (in->septets && in->skip > in->septets)) in->damaged = true;
    in->at = octet ? AT_HEADER : AT_TEXT;
}

/* User data: its octets are header or text, by their place. */
static void take_data(struct rlx_pdu_in *in, uint8_t octet)
{
    uint8_t at = in->at;
    if (at == AT_HEADER_LENGTH) take_header_length(in, octet);
    if (at == AT_HEADER) {
        in->header--;
        take_header(in, octet);
        if (!in->header) {
            in->at = AT_TEXT;
            if (in->element_at) in->damaged = true;
        }
    }
    take_text(in, octet);
    if (!in->part) add_up(in, octet);
    if (!--in->left) in->at = AT_END;
}

static void take_digits(struct rlx_pdu_in *in, uint8_t octet)
{
    uint8_t n = (uint8_t)((in->sender[0] + 1u) / 2);
    in->sender[2 + n - in->left] = octet;
    if (!--in->left) in->at = AT_PROTOCOL;
}

void rlx_pdu_octet(struct rlx_pdu_in *in, uint8_t octet)
{
    if (in->at >= AT_FIRST && in->octets != 255) in->octets++;
    if (in->damaged) return;
    if (in->at >= AT_ADDRESS && in->at < AT_HEADER_LENGTH) add_up(in, octet);
    switch (in->at) {
    case AT_CENTRE:
        in->left = octet;
        if (octet > RLX_PDU_ADDRESS) in->damaged = true;
        in->at = octet ? AT_CENTRE_DIGITS : AT_FIRST;
        break;
    case AT_CENTRE_DIGITS:
        if (!--in->left) in->at = AT_FIRST;
        break;
    case AT_FIRST:
        in->first = octet;
        in->at = octet & 3 ? AT_END : AT_ADDRESS;
        break;
    case AT_ADDRESS:
        in->sender[0] = octet;
        if (octet > 2 * (RLX_PDU_ADDRESS - 2)) in->damaged = true;
        in->at = AT_TYPE;
        break;
    case AT_TYPE:
        in->sender[1] = octet;
        in->left = (uint8_t)((in->sender[0] + 1u) / 2);
        in->at = in->left ? AT_DIGITS : AT_PROTOCOL;
        break;
    case AT_DIGITS: take_digits(in, octet); break;
    case AT_PROTOCOL: in->at = AT_CODING; break;
    case AT_CODING:
        in->dcs = octet;
        in->left = sizeof in->stamp;
        in->at = AT_STAMP;
        break;
    case AT_STAMP:
        in->stamp[sizeof in->stamp - in->left] = octet;
        if (!--in->left) in->at = AT_LENGTH;
        break;
    case AT_LENGTH: take_length(in, octet); break;
    case AT_END:
        if (!(in->first & 3)) in->damaged = true;
        break;
    default: take_data(in, octet);
    }
}

enum rlx_pdu rlx_pdu_end(struct rlx_pdu_in *in, uint8_t length)
{
    if (in->damaged || in->at != AT_END || in->octets != length) return RLX_PDU_DAMAGED;
    if (in->first & 3) return RLX_PDU_OTHER;
    if (in->part || in->long_) return RLX_PDU_LONG;
    if (in->strange || in->escaped || !is_7_bit(in->dcs)) return RLX_PDU_ALPHABET;
    return RLX_PDU_SOUND;
}

/* ---- time stamps ---- */

/* Two digits, the lower one first; 255: they are none. */
static uint8_t two_digits(uint8_t octet)
{
    uint8_t tens = octet & 15, ones = octet >> 4;
    return tens > 9 || ones > 9 ? 255 : (uint8_t)(tens * 10 + ones);
}

static bool is_within(uint8_t value, uint8_t low, uint8_t high)
{
    return value >= low && value <= high;
}

uint32_t rlx_pdu_seconds(const uint8_t stamp[7])
{
    static const uint8_t months[] RLX_ROM = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    uint8_t year = two_digits(stamp[0]), month = two_digits(stamp[1]), day = two_digits(stamp[2]);
    uint8_t hour = two_digits(stamp[3]), minute = two_digits(stamp[4]),
            second = two_digits(stamp[5]);
    uint8_t zone = two_digits((uint8_t)(stamp[6] & ~8u));
    if (year == 255 || !is_within(month, 1, 12) || !is_within(day, 1, 31) || hour > 23 ||
        minute > 59 || second > 59 || zone > 79)
        return 0;
    uint32_t days = year * UINT32_C(365) + (year + 3u) / 4u + day - 1u;
    for (uint8_t m = 1; m < month; m++) days += RLX_ROM8(months + m - 1);
    if (month > 2 && year % 4 == 0) days++;
    uint32_t seconds = days * UINT32_C(86400) + hour * UINT32_C(3600) + minute * UINT32_C(60) +
                       second + UINT32_C(86400);
    uint32_t ahead = zone * UINT32_C(900); /* of UTC, in quarters of an hour; bit 3: behind it */
    seconds = stamp[6] & 8 ? seconds + ahead : seconds - ahead;
    return seconds - UINT32_C(86400) ? seconds - UINT32_C(86400) : 1;
}

/* ---- writing ---- */

/* The septets of a character: 1 or 2, into place[]. */
static uint8_t septets_of(uint8_t c, uint8_t place[2])
{
    uint8_t at = other_of(extended, sizeof extended, 0, c);
    if (at != 255) {
        place[0] = ESCAPE;
        place[1] = at;
        return 2;
    }
    at = other_of(moved, sizeof moved, 0, c);
    place[0] = at != 255 ? at : is_ascii(c) ? c : '?';
    return 1;
}

uint8_t rlx_pdu_write(struct rlx_pdu_out *out, const uint8_t *to, const uint8_t *text,
                      uint8_t count)
{
    uint8_t place[2];
    unsigned septets = 0;
    for (uint8_t i = 0; i < count; i++) septets += septets_of(text[i], place);
    *out = (struct rlx_pdu_out){.to = to, .text = text, .count = count};
    if (septets > RLX_PDU_TEXT) return 0;
    out->septets = (uint8_t)septets;
    /* first, reference, address, protocol, coding, validity, length */
    return (uint8_t)(2u + 2u + (to[0] + 1u) / 2u + 4u + (septets * 7u + 7u) / 8u);
}

/* The next septet; false: there is none. */
static bool next_septet(struct rlx_pdu_out *out, uint8_t *septet)
{
    uint8_t place[2];
    if (out->done == out->count) return false;
    uint8_t n = septets_of(out->text[out->done], place);
    *septet = place[out->second];
    out->second = n == 2 && !out->second;
    if (!out->second) out->done++;
    return true;
}

static bool next_of_text(struct rlx_pdu_out *out, uint8_t *octet)
{
    uint8_t septet;
    while (out->n_bits < 8 && next_septet(out, &septet)) {
        out->bits = (uint16_t)(out->bits | (unsigned)septet << out->n_bits);
        out->n_bits = (uint8_t)(out->n_bits + 7);
    }
    if (!out->n_bits) return false;
    *octet = (uint8_t)out->bits;
    out->bits >>= 8;
    out->n_bits = (uint8_t)(out->n_bits > 8 ? out->n_bits - 8 : 0);
    return true;
}

bool rlx_pdu_next(struct rlx_pdu_out *out, uint8_t *octet)
{
    uint8_t address = (uint8_t)(2 + (out->to[0] + 1u) / 2), at = out->at;
    if (at >= address + 7) return next_of_text(out, octet);
    out->at++;
    if (at == 1) {
        *octet = SUBMIT;
    } else if (at >= 3 && at < 3 + address) {
        *octet = out->to[at - 3];
    } else if (at == address + 5) {
        *octet = A_DAY;
    } else if (at == address + 6) {
        *octet = out->septets;
    } else {
        *octet = 0; /* the centre's address, reference, protocol, coding */
    }
    return true;
}

bool rlx_pdu_address(const char *number, uint8_t count, uint8_t address[RLX_PDU_ADDRESS])
{
    bool international = count && *number == '+';
    if (international) number++, count--;
    if (!count || count > 2 * (RLX_PDU_ADDRESS - 2)) return false;
    for (uint8_t i = 0; i < RLX_PDU_ADDRESS; i++) address[i] = i < 2 ? 0 : 0xFF;
    address[0] = count;
    address[1] = international ? INTERNATIONAL : NATIONAL;
    for (uint8_t i = 0; i < count; i++) {
        uint8_t digit = (uint8_t)(number[i] - '0'), *at = &address[2 + i / 2];
        if (digit > 9) return false;
        *at = (uint8_t)(i & 1 ? (*at & 0x0F) | digit << 4 : 0xF0 | digit);
    }
    return true;
}
#endif
