/* What the values of slots are in words, and words in values.
 * Fractions, hex numbers and times by the slot's form.
 * It looks at ranges only where its comment has it. */
#include <string.h>

#include "lexicon/read/reader.h"

static const char *const time_units[] = {"ms", "s", "min", "h"};
static const int32_t time_steps[] = {1, 1000, 60000, 3600000};

int lex_time_unit(const char *text, size_t length)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(time_units); i++)
        if (strlen(time_units[i]) == length && !g_ascii_strncasecmp(text, time_units[i], length))
            return (int)i;
    return -1;
}

static unsigned digits_of(const struct lex_element *e, int32_t value)
{
    char text[16];
    int64_t size = value < 0 ? -(int64_t)value : value;
    for (unsigned i = 0; i < e->decimals; i++) size /= 10;
    g_snprintf(text, sizeof text,
               e->form == LEX_HEX ? "%" G_GINT64_MODIFIER "X" : "%" G_GINT64_FORMAT, size);
    return (unsigned)strlen(text);
}

unsigned lex_number_digits(const struct lex_element *e)
{
    return MAX(digits_of(e, e->low), digits_of(e, e->high));
}

static char *fraction_text(const struct lex_element *e, int32_t value)
{
    int64_t size = value < 0 ? -(int64_t)value : value, one = 1;
    for (unsigned i = 0; i < e->decimals; i++) one *= 10;
    return g_strdup_printf("%s%" G_GINT64_FORMAT ".%0*" G_GINT64_MODIFIER "d", value < 0 ? "-" : "",
                           size / one, (int)e->decimals, size % one);
}

char *lex_value_text(const struct lex_element *e, int32_t value)
{
    switch (e->form) {
    case LEX_HEX: return g_strdup_printf("0x%X", (unsigned)value);
    case LEX_FRACTION: return fraction_text(e, value);
    case LEX_TIME: {
        unsigned unit = value ? 3 : 0;
        while (value % time_steps[unit]) unit--;
        return g_strdup_printf("%d%s", value / time_steps[unit], time_units[unit]);
    }
    case LEX_WHOLE: break;
    }
    return g_strdup_printf("%d", value);
}

char *lex_set_text(const struct lex_element *e, int32_t value)
{
    GString *words = g_string_new(value ? NULL : "none");
    for (unsigned i = 0; i < e->words->len; i++)
        if (value >> i & 1)
            g_string_append_printf(words, "%s%s", words->len ? "+" : "",
                                   (char *)e->words->pdata[i]);
    return g_string_free(words, FALSE);
}

char *lex_range_text(const struct lex_element *e)
{
    char *low = lex_value_text(e, e->low), *high = lex_value_text(e, e->high);
    char *text = g_strdup_printf("%s..%s", low, high);
    g_free(low);
    g_free(high);
    return text;
}

/* The digits at *p with what belongs to them, as a size without sign; -1: none. */
static int64_t size_said(const struct lex_element *e, const char **p)
{
    bool hex = e->form == LEX_HEX;
    int64_t size = 0;
    if (hex && (**p != '0' || g_ascii_tolower((*p)[1]) != 'x')) return -1;
    if (hex) *p += 2;
    const char *from = *p;
    for (; hex ? g_ascii_isxdigit(**p) : g_ascii_isdigit(**p); ++*p)
        size = size > G_MAXINT32 ? size : size * (hex ? 16 : 10) + g_ascii_xdigit_value(**p);
    if (*p == from || (size_t)(*p - from) > lex_number_digits(e)) return -1;
    if (e->form == LEX_TIME) {
        size_t letters = strspn(*p, "mshinMSHIN");
        int unit = letters ? lex_time_unit(*p, letters) : (int)e->bare;
        *p += letters;
        return unit < 0 ? -1 : size * time_steps[unit];
    }
    unsigned left = e->decimals;
    if (left && **p == '.') {
        if (!g_ascii_isdigit((*p)[1])) return -1;
        for (++*p; left && g_ascii_isdigit(**p); left--) size = size * 10 + *(*p)++ - '0';
    }
    while (left--) size *= 10;
    return size;
}

bool lex_value_said(const struct lex_element *e, const char *text, int32_t *value)
{
    bool minus = *text == '-';
    const char *p = text + minus;
    int64_t size = size_said(e, &p), signed_size = minus ? -size : size;
    if (size < 0 || (minus && !size)) return false;
    if (*p ? !e->unit || g_ascii_strcasecmp(p, e->unit) != 0 : e->glued) return false;
    *value = (int32_t)signed_size;
    return signed_size >= e->low && signed_size <= e->high;
}

int32_t lex_value_scaled(const struct lex_element *e, int32_t value)
{
    if (!e->scaled) return value;
    if (e->low == e->high) return e->to_low;
    int64_t span = (int64_t)e->high - e->low, reach = (int64_t)e->to_high - e->to_low;
    int64_t size = ((value - (int64_t)e->low) * (reach < 0 ? -reach : reach) + span / 2) / span;
    return (int32_t)(reach < 0 ? e->to_low - size : e->to_low + size);
}

unsigned lex_slot_values(const struct lex_element *e)
{
    return e->kind == LEX_WORD ? 0 : e->kind == LEX_LIST ? 1 + e->most : 1;
}

bool lex_number_takes(const struct lex_element *e, const char *text)
{
    size_t before = e->prefix ? strlen(e->prefix) : 0;
    int32_t value;
    return !strncmp(text, e->prefix ? e->prefix : "", before) &&
           lex_value_said(e, text + before, &value);
}

bool lex_number_shaped(const struct lex_element *number, const char *text)
{
    struct lex_element any = *number;
    any.low = -G_MAXINT32;
    any.high = G_MAXINT32;
    return lex_number_takes(&any, text);
}
