#include "alphabet.h"

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

char *alphabet_text(const guint8 *septets, unsigned count)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < count; i++) {
        gunichar c = basic[septets[i] & 127];
        if (septets[i] == ESCAPE) {
            c = ' '; /* what a receiver shows that does not know the table */
            for (unsigned k = 0; i + 1 < count && k < G_N_ELEMENTS(extension); k++)
                if (extension[k].septet == septets[i + 1]) c = extension[k].character;
            i++;
        }
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

GByteArray *alphabet_ucs2(const char *text)
{
    GByteArray *to = g_byte_array_new();
    for (const char *p = text; *p; p = g_utf8_next_char(p)) {
        gunichar c = g_utf8_get_char(p);
        guint8 both[2] = {(guint8)(c >> 8), (guint8)c};
        if (c > 0xFFFF) {
            g_byte_array_free(to, TRUE);
            return NULL;
        }
        g_byte_array_append(to, both, 2);
    }
    return to;
}

char *alphabet_of_ucs2(const guint8 *octets, unsigned size)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i + 1 < size; i += 2) {
        gunichar c = (gunichar)(octets[i] << 8 | octets[i + 1]);
        g_string_append_unichar(text, c && (c < 0xD800 || c > 0xDFFF) ? c : 0xFFFD);
    }
    return g_string_free(text, FALSE);
}
