/* Parts of an ABNF grammar: literals, and numbers within bounds as digits.
 * Exact: a numeral is in the rule if, and only if, its value is within the bounds.
 * Which rules there are is in abnf.c. */
#include "lexicon/write/abnf_parts.h"

#include <string.h>

void abnf_literal(const struct lexicon *lx, GString *out, const char *text, size_t count)
{
    g_string_append_printf(out, "%s\"%.*s\"", lx->any_case ? "" : "%s", (int)count, text);
}

/* Numerals on their way out: the digits so far, alternatives of them. */
struct numerals {
    GString *out;
    bool hex;
    unsigned point;        /* so many digits stand behind a point */
    const char *separator; /* before the next alternative */
};

/* One digit of a class, and the point before it where that is its place. */
static void put_class(const struct numerals *n, GString *to, char low, char high, size_t left)
{
    static const char all[] = "0123456789ABCDEF";
    if (n->point && left == n->point) g_string_append(to, " %x2E");
    if (!n->hex) {
        g_string_append_printf(to, " %%x%02X", (unsigned)low);
        if (high > low) g_string_append_printf(to, "-%02X", (unsigned)high);
        return;
    }
    const char *separator = " (";
    for (const char *p = strchr(all, low); p <= strchr(all, high); p++, separator = " / ")
        g_string_append_printf(to, "%s\"%c\"", separator, *p);
    g_string_append_c(to, ')');
}

static char after(char digit)
{
    return digit == '9' ? 'A' : (char)(digit + 1);
}

/* Numbers of as many digits as both bounds have, first digit `at`: alternatives behind `prefix`. */
static void put_digits(struct numerals *numerals, const char *low, const char *high,
                       GString *prefix)
{
    size_t n = strlen(low);
    const char most[] = {numerals->hex ? 'F' : '9', 0};
    if (n == 0 || (strspn(low, "0") == n && strspn(high, most) == n)) {
        GString *out = numerals->out;
        g_string_append_printf(out, "%s%s", numerals->separator,
                               prefix->str + (*prefix->str == ' '));
        for (size_t i = 0; i < n; i++) put_class(numerals, out, '0', *most, n - i);
        numerals->separator = " / ";
        return;
    }
    char *zeros = g_strnfill(n - 1, '0'), *nines = g_strnfill(n - 1, *most);
    for (char c = *low; c <= *high; c = after(c)) {
        gsize length = prefix->len;
        const char *from = c == *low ? low + 1 : zeros;
        const char *to = c == *high ? high + 1 : nines;
        char last = c;
        /* digits in the middle have all numbers behind them: one alternative for them all */
        bool full = strspn(from, "0") == n - 1 && strspn(to, most) == n - 1;
        while (full && last < *high && (after(last) < *high || strspn(high + 1, most) == n - 1))
            last = after(last);
        put_class(numerals, prefix, c, last, n);
        put_digits(numerals, from, to, prefix);
        g_string_truncate(prefix, length);
        c = last;
    }
    g_free(zeros);
    g_free(nines);
}

/* low..high, both at least 0, in up to `width` digits before the point with leading zeros. */
static void put_range(struct numerals *n, const char *before, int64_t low, int64_t high,
                      unsigned width)
{
    int64_t base = n->hex ? 16 : 10, least = 0, most = base - 1;
    const char *format = n->hex ? "%0*" G_GINT64_MODIFIER "X" : "%0*" G_GINT64_MODIFIER "d";
    unsigned digits = 1;
    for (; digits <= n->point; digits++) most = most * base + base - 1;
    for (; least <= high; digits++, least = most + 1, most = most * base + base - 1) {
        char from[24], to[24];
        if (most < low) continue;
        g_snprintf(from, sizeof from, format, (int)digits, MAX(low, least));
        g_snprintf(to, sizeof to, format, (int)digits, MIN(high, most));
        GString *prefix = g_string_new(before);
        if (width + n->point > digits)
            g_string_append_printf(prefix, " *%u\"0\"", width + n->point - digits);
        put_digits(n, from, to, prefix);
        g_string_free(prefix, TRUE);
    }
}

static int64_t ceil_div(int64_t a, int64_t b)
{
    return a > 0 ? (a + b - 1) / b : -(-a / b);
}

static int64_t floor_div(int64_t a, int64_t b)
{
    return -ceil_div(-a, b);
}

/* The numerals n with low <= n * step <= high. */
static void put_signed(GString *out, const struct lex_element *e, unsigned point, int64_t step)
{
    struct numerals n = {out, e->form == LEX_HEX, point, ""};
    int64_t low = ceil_div(e->low, step), high = floor_div(e->high, step);
    unsigned width = lex_number_digits(e);
    if (high >= 0) put_range(&n, n.hex ? "\"0x\"" : "", MAX(low, 0), high, width);
    if (low < 0) /* -0 is no number */
        put_range(&n, "\"-\"", high < 0 ? -high : 1, -low, width);
}

static void put_time(const struct lexicon *lx, GString *out, const struct lex_element *e)
{
    static const char *const units[] = {"ms", "s", "min", "h"};
    static const int32_t steps[] = {1, 1000, 60000, 3600000};
    const char *separator = "";
    for (unsigned i = 0; i < G_N_ELEMENTS(units); i++) {
        if (ceil_div(e->low, steps[i]) > floor_div(e->high, steps[i])) continue;
        g_string_append_printf(out, "%s(", separator);
        put_signed(out, e, 0, steps[i]);
        g_string_append(out, e->bare == i ? ") [" : ") ");
        abnf_literal(lx, out, units[i], strlen(units[i]));
        if (e->bare == i) g_string_append_c(out, ']');
        separator = " / ";
    }
}

static void put_fraction(GString *out, const struct lex_element *e)
{
    const char *separator = "";
    int64_t step = 1;
    for (unsigned point = e->decimals + 1; point--; step *= 10) {
        if (ceil_div(e->low, step) > floor_div(e->high, step)) continue;
        g_string_append(out, separator);
        put_signed(out, e, point, step);
        separator = " / ";
    }
}

void abnf_number(const struct lexicon *lx, GString *out, const struct lex_element *e)
{
    g_string_append_c(out, '(');
    if (e->form == LEX_TIME)
        put_time(lx, out, e);
    else if (e->form == LEX_FRACTION)
        put_fraction(out, e);
    else
        put_signed(out, e, 0, 1);
    g_string_append_c(out, ')');
    if (e->unit) {
        g_string_append(out, e->glued ? " " : " [");
        abnf_literal(lx, out, e->unit, strlen(e->unit));
        g_string_append(out, e->glued ? "" : "]");
    }
}
