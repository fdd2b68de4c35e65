/* Makes and reads what stands around a frame, as a sender does.
 * Written from docs/lexicon.md and not from the library, so that each checks the other.
 * It knows no command. */
#include "lexicon/envelope.h"

#include <string.h>

bool envelope_wanted(const struct lex_link *link)
{
    return link->address >= 0 || link->check == LEX_DEMAND_REQUIRED ||
           link->tags == LEX_DEMAND_REQUIRED;
}

#define CRC_START 0xFFFFu

/* ITU-T V.41, bit by bit. */
static unsigned crc_of(unsigned crc, const char *bytes, size_t count)
{
    for (size_t i = 0; i < count * 8; i++) {
        unsigned bit = (unsigned)(unsigned char)bytes[i / 8] >> (7 - i % 8) & 1;
        unsigned top = crc >> 15 & 1;
        crc = crc << 1 & 0xFFFF;
        if (top != bit) crc ^= 0x1021;
    }
    return crc;
}

void envelope_check(GString *frame, unsigned start)
{
    unsigned crc = crc_of(start, frame->str, frame->len);
    g_string_append_c(frame, '*');
    for (int shift = 12; shift >= 0; shift -= 4)
        g_string_append_c(frame, (char)('@' + (crc >> shift & 15)));
}

char *envelope_around(const struct lex_link *link, unsigned tag, const char *text)
{
    GString *frame = g_string_new(NULL);
    if (link->address >= 0) g_string_append_printf(frame, "@%d", link->address);
    if (link->address >= 0 && link->senders) g_string_append_printf(frame, "/%u", ENVELOPE_SOURCE);
    if (link->address >= 0) g_string_append_c(frame, ' ');
    if (link->tags) g_string_append_printf(frame, "#%u ", tag);
    g_string_append(frame, text);
    if (link->check == LEX_DEMAND_REQUIRED) envelope_check(frame, CRC_START);
    return g_string_free(frame, FALSE);
}

/* Whether a right check stands behind it, begun with this. */
static bool is_checked(const char *answer, unsigned start)
{
    size_t length = strlen(answer);
    if (length < ENVELOPE_CHECK) return false;
    GString *own = g_string_new_len(answer, (gssize)(length - ENVELOPE_CHECK));
    envelope_check(own, start);
    bool right = !strcmp(own->str, answer);
    g_string_free(own, TRUE);
    return right;
}

bool envelope_is_checked(const char *frame)
{
    return is_checked(frame, CRC_START);
}

unsigned envelope_sum(const char *frame)
{
    size_t length = strlen(frame);
    bool checked = is_checked(frame, CRC_START);
    return crc_of(CRC_START, frame, length - (checked ? ENVELOPE_CHECK : 0));
}

char *envelope_unchecked(const struct lex_link *link, const char *answer)
{
    bool checked = link->check && is_checked(answer, CRC_START);
    return g_strndup(answer, strlen(answer) - (checked ? ENVELOPE_CHECK : 0));
}

/* Passes over a piece where it stands there. */
static bool take(const char **at, const char *piece)
{
    if (!g_str_has_prefix(*at, piece)) return false;
    *at += strlen(piece);
    return true;
}

char *envelope_inside(const struct lex_link *link, unsigned tag, unsigned sum, const char *answer)
{
    char source[24], unasked[24], number[16];
    size_t length = strlen(answer);
    const char *at = answer;
    if (link->check) {
        bool checked = is_checked(answer, CRC_START) || (link->tags && is_checked(answer, sum));
        if (!checked && link->check == LEX_DEMAND_REQUIRED) return NULL;
        if (checked) length -= ENVELOPE_CHECK;
    }
    g_snprintf(source, sizeof source, "@%u/%d ", link->senders ? ENVELOPE_SOURCE : 0u,
               link->address);
    g_snprintf(unasked, sizeof unasked, "@*/%d ", link->address);
    g_snprintf(number, sizeof number, "#%u ", tag);
    bool told = link->address >= 0 && take(&at, unasked);
    if (link->address >= 0 && !told && !take(&at, source)) return NULL;
    told |= g_str_has_prefix(at, "ev ") || g_str_has_prefix(at, "note ") ||
            g_str_has_prefix(at, "ready ");
    if (link->tags && !told && !take(&at, number)) return NULL;
    size_t passed = (size_t)(at - answer);
    return length < passed ? NULL : g_strndup(at, length - passed);
}
