/* The 7-bit alphabet of text messages and its extension (3GPP TS 23.038).
 * Two tables, from and to Unicode.
 * National tables are not supported. */
#include "world/modem/alphabet.h"

#include <string.h>

#define ESCAPE 0x1B

/* 23.038, 6.2.1: the character of each septet; 0x1B leads into the table below. */
static const gunichar basic[128] = {
    '@',   0xA3, '$',  0xA5,  0xE8, 0xE9,  0xF9,  0xEC,  0xF2,  0xC7,  '\n',  0xD8,  0xF8,
    '\r',  0xC5, 0xE5, 0x394, '_',  0x3A6, 0x393, 0x39B, 0x3A9, 0x3A0, 0x3A8, 0x3A3, 0x398,
    0x39E, 0,    0xC6, 0xE6,  0xDF, 0xC9,  ' ',   '!',   '"',   '#',   0xA4,  '%',   '&',
    '\'',  '(',  ')',  '*',   '+',  ',',   '-',   '.',   '/',   '0',   '1',   '2',   '3',
    '4',   '5',  '6',  '7',   '8',  '9',   ':',   ';',   '<',   '=',   '>',   '?',   0xA1,
    'A',   'B',  'C',  'D',   'E',  'F',   'G',   'H',   'I',   'J',   'K',   'L',   'M',
    'N',   'O',  'P',  'Q',   'R',  'S',   'T',   'U',   'V',   'W',   'X',   'Y',   'Z',
    0xC4,  0xD6, 0xD1, 0xDC,  0xA7, 0xBF,  'a',   'b',   'c',   'd',   'e',   'f',   'g',
    'h',   'i',  'j',  'k',   'l',  'm',   'n',   'o',   'p',   'q',   'r',   's',   't',
    'u',   'v',  'w',  'x',   'y',  'z',   0xE4,  0xF6,  0xF1,  0xFC,  0xE0};

/* 6.2.1.1: behind an escape. */
static const struct {
    guint8 septet;
    gunichar character;
} extension[] = {{0x0A, '\f'}, {0x14, '^'}, {0x28, '{'}, {0x29, '}'}, {0x2F, '\\'},
                 {0x3C, '['},  {0x3D, '~'}, {0x3E, ']'}, {0x40, '|'}, {0x65, 0x20AC}};

static bool put_septets(GByteArray *to, gunichar c)
{
    guint8 pair[2] = {ESCAPE, 0};
    for (guint8 i = 0; i < 128; i++) {
        if (basic[i] != c || i == ESCAPE) continue;
        g_byte_array_append(to, &i, 1);
        return true;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(extension); i++) {
        if (extension[i].character != c) continue;
        pair[1] = extension[i].septet;
        g_byte_array_append(to, pair, 2);
        return true;
    }
    return false;
}

GByteArray *alphabet_septets(const char *text)
{
    GByteArray *to = g_byte_array_new();
    for (const char *p = text; *p; p = g_utf8_next_char(p)) {
        if (put_septets(to, g_utf8_get_char(p))) continue;
        g_byte_array_free(to, TRUE);
        return NULL;
    }
    return to;
}

/* 23.038, annex A: what a language's table has where the standard one has something else. */
struct national {
    unsigned language;
    guint8 septet;
    gunichar character;
};

/* A.2: single shift, of Turkish, Spanish and Portuguese. */
static const struct national singles[] = {
    {1, 0x47, 0x11E}, {1, 0x49, 0x130}, {1, 0x53, 0x15E}, {1, 0x63, 0xE7},  {1, 0x67, 0x11F},
    {1, 0x69, 0x131}, {1, 0x73, 0x15F}, {2, 0x09, 0xE7},  {2, 0x41, 0xC1},  {2, 0x49, 0xCD},
    {2, 0x4F, 0xD3},  {2, 0x55, 0xDA},  {2, 0x61, 0xE1},  {2, 0x69, 0xED},  {2, 0x6F, 0xF3},
    {2, 0x75, 0xFA},  {3, 0x05, 0xEA},  {3, 0x09, 0xE7},  {3, 0x0B, 0xD4},  {3, 0x0C, 0xF4},
    {3, 0x0E, 0xC1},  {3, 0x0F, 0xE1},  {3, 0x12, 0x3A6}, {3, 0x13, 0x393}, {3, 0x15, 0x3A9},
    {3, 0x16, 0x3A0}, {3, 0x17, 0x3A8}, {3, 0x18, 0x3A3}, {3, 0x19, 0x398}, {3, 0x1F, 0xCA},
    {3, 0x41, 0xC0},  {3, 0x49, 0xCD},  {3, 0x4F, 0xD3},  {3, 0x55, 0xDA},  {3, 0x5B, 0xC3},
    {3, 0x5C, 0xD5},  {3, 0x61, 0xC2},  {3, 0x69, 0xED},  {3, 0x6F, 0xF3},  {3, 0x75, 0xFA},
    {3, 0x7B, 0xE3},  {3, 0x7C, 0xF5},  {3, 0x7F, 0xE2}};

/* A.3: locking shift, of Turkish. */
static const struct national lockings[] = {{1, 0x04, 0x20AC}, {1, 0x07, 0x131}, {1, 0x0B, 0x11E},
                                           {1, 0x0C, 0x11F},  {1, 0x1C, 0x15E}, {1, 0x1D, 0x15F},
                                           {1, 0x40, 0x130},  {1, 0x60, 0xE7}};

#define NOT_KNOWN 0xFFFD

/* 0: it is as in the standard table. */
static gunichar national(const struct national *table, unsigned n, unsigned language, guint8 septet)
{
    bool known = !language;
    for (unsigned i = 0; i < n; i++) {
        known |= table[i].language == language;
        if (table[i].language == language && table[i].septet == septet) return table[i].character;
    }
    return known ? 0 : NOT_KNOWN;
}

/* Behind an escape. */
static gunichar shifted(guint8 septet, unsigned language)
{
    gunichar c = national(singles, G_N_ELEMENTS(singles), language, septet);
    for (unsigned k = 0; !c && k < G_N_ELEMENTS(extension); k++)
        if (extension[k].septet == septet) c = extension[k].character;
    return c ? c : ' '; /* what a receiver shows that does not know the table */
}

char *alphabet_text(const guint8 *septets, unsigned count, unsigned single, unsigned locking)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < count; i++) {
        guint8 septet = septets[i] & 127;
        gunichar c = national(lockings, G_N_ELEMENTS(lockings), locking, septet);
        if (!c) c = basic[septet];
        if (septets[i] == ESCAPE) c = i + 1 < count ? shifted(septets[i + 1], single) : ' ';
        i += septets[i] == ESCAPE;
        g_string_append_unichar(text, c);
    }
    return g_string_free(text, FALSE);
}

GByteArray *alphabet_pack(const guint8 *septets, unsigned count, unsigned fill)
{
    GByteArray *to = g_byte_array_new();
    unsigned bits = 0, n = fill;
    guint8 octet;
    for (unsigned i = 0; i < count; i++) {
        bits |= (unsigned)septets[i] << n;
        for (n += 7; n >= 8; n -= 8, bits >>= 8) {
            octet = (guint8)bits;
            g_byte_array_append(to, &octet, 1);
        }
    }
    octet = (guint8)bits;
    if (n) g_byte_array_append(to, &octet, 1);
    return to;
}

GByteArray *alphabet_unpack(const guint8 *octets, unsigned size, unsigned count, unsigned fill)
{
    GByteArray *to = g_byte_array_new();
    for (unsigned i = 0; i < count; i++) {
        unsigned bit = fill + 7 * i, at = bit / 8;
        unsigned both = at < size ? octets[at] : 0u;
        if (at + 1 < size) both |= (unsigned)octets[at + 1] << 8;
        guint8 septet = both >> bit % 8 & 127;
        g_byte_array_append(to, &septet, 1);
    }
    return to;
}

static void put_unit(GByteArray *to, gunichar unit)
{
    guint8 both[2] = {(guint8)(unit >> 8), (guint8)unit};
    g_byte_array_append(to, both, 2);
}

GByteArray *alphabet_ucs2(const char *text)
{
    GByteArray *to = g_byte_array_new();
    for (const char *p = text; *p; p = g_utf8_next_char(p)) {
        gunichar c = g_utf8_get_char(p);
        if (c > 0xFFFF) put_unit(to, 0xD800 + ((c - 0x10000) >> 10));
        put_unit(to, c > 0xFFFF ? 0xDC00 + ((c - 0x10000) & 0x3FF) : c);
    }
    return to;
}

char *alphabet_of_ucs2(const guint8 *octets, unsigned size)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i + 1 < size; i += 2) {
        gunichar c = (gunichar)(octets[i] << 8 | octets[i + 1]), low = 0;
        if (i + 3 < size) low = (gunichar)(octets[i + 2] << 8 | octets[i + 3]);
        if ((c & 0xFC00) == 0xD800 && (low & 0xFC00) == 0xDC00) {
            c = 0x10000 + ((c & 0x3FF) << 10) + (low & 0x3FF);
            i += 2;
        }
        g_string_append_unichar(text, c && (c < 0xD800 || c > 0xDFFF) ? c : NOT_KNOWN);
    }
    return g_string_free(text, FALSE);
}
