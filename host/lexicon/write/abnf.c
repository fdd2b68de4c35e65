/* A lexicon as a grammar in ABNF (RFC 5234, 7405).
 * A rule for each command and slot, and for what stands around a frame.
 * Ranges of numbers are comments: ABNF has none. */
#include "lexicon/write/abnf.h"

#include <string.h>

#include "lexicon/write/graph.h"
#include "lexicon/read/reader.h"
#include "rlx/config.h"

struct abnf {
    const struct lexicon *lx;
    GString *out;
    GPtrArray *nodes;   /* const struct node *: rule numbers of places */
    GPtrArray *numbers; /* const struct lex_element *: rule numbers of slots but choices */
};

/* ---- words ---- */

static void put_literal(struct abnf *a, const char *text, size_t count)
{
    g_string_append_printf(a->out, "%s\"%.*s\"", a->lx->any_case ? "" : "%s", (int)count, text);
}

/* The words possible at a node. */
static GPtrArray *words_of(const struct node *node)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < node->words->len; i++)
        g_ptr_array_add(all, (char *)((struct edge *)node->words->pdata[i])->text);
    for (unsigned i = 0; i < node->choices->len; i++) {
        const GPtrArray *words = ((struct edge *)node->choices->pdata[i])->element->words;
        for (unsigned k = 0; k < words->len; k++) g_ptr_array_add(all, words->pdata[k]);
    }
    return all;
}

/* Whether the first `count` letters stand for this word alone. */
static bool means_it(const GPtrArray *all, const char *word, size_t count)
{
    for (unsigned i = 0; i < all->len; i++) {
        const char *other = all->pdata[i];
        bool asked = g_str_has_suffix(other, "?"); /* which is never cut */
        if (other != word && !asked && !strncmp(other, word, count)) return false;
    }
    return true;
}

/* The word and what it may be cut to: ("pump" / "pum"). */
static void put_forms(struct abnf *a, const GPtrArray *all, const char *word)
{
    size_t length = strlen(word);
    g_string_append_c(a->out, '(');
    put_literal(a, word, length);
    unsigned least = g_str_has_suffix(word, "?") ? 0 : a->lx->shorten;
    for (size_t n = length - 1; least && n >= least; n--) {
        if (!means_it(all, word, n)) break;
        g_string_append(a->out, " / ");
        put_literal(a, word, n);
    }
    g_string_append_c(a->out, ')');
}

/* ---- numbers ---- */

/* Numerals on their way out: the digits so far, alternatives of them. */
struct numerals {
    struct abnf *abnf;
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
        GString *out = numerals->abnf->out;
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
static void put_signed(struct abnf *a, const struct lex_element *e, unsigned point, int64_t step)
{
    struct numerals n = {a, e->form == LEX_HEX, point, ""};
    int64_t low = ceil_div(e->low, step), high = floor_div(e->high, step);
    unsigned width = lex_number_digits(e);
    if (high >= 0) put_range(&n, n.hex ? "\"0x\"" : "", MAX(low, 0), high, width);
    if (low < 0) /* -0 is no number */
        put_range(&n, "\"-\"", high < 0 ? -high : 1, -low, width);
}

static void put_time(struct abnf *a, const struct lex_element *e)
{
    static const char *const units[] = {"ms", "s", "min", "h"};
    static const int32_t steps[] = {1, 1000, 60000, 3600000};
    const char *separator = "";
    for (unsigned i = 0; i < G_N_ELEMENTS(units); i++) {
        if (ceil_div(e->low, steps[i]) > floor_div(e->high, steps[i])) continue;
        g_string_append_printf(a->out, "%s(", separator);
        put_signed(a, e, 0, steps[i]);
        g_string_append(a->out, e->bare == i ? ") [" : ") ");
        put_literal(a, units[i], strlen(units[i]));
        if (e->bare == i) g_string_append_c(a->out, ']');
        separator = " / ";
    }
}

static void put_fraction(struct abnf *a, const struct lex_element *e)
{
    const char *separator = "";
    int64_t step = 1;
    for (unsigned point = e->decimals + 1; point--; step *= 10) {
        if (ceil_div(e->low, step) > floor_div(e->high, step)) continue;
        g_string_append(a->out, separator);
        put_signed(a, e, point, step);
        separator = " / ";
    }
}

static void put_number(struct abnf *a, const struct lex_element *e)
{
    g_string_append_c(a->out, '(');
    if (e->form == LEX_TIME)
        put_time(a, e);
    else if (e->form == LEX_FRACTION)
        put_fraction(a, e);
    else
        put_signed(a, e, 0, 1);
    g_string_append_c(a->out, ')');
    if (e->unit) {
        g_string_append(a->out, e->glued ? " " : " [");
        put_literal(a, e->unit, strlen(e->unit));
        g_string_append(a->out, e->glued ? "" : "]");
    }
}

/* ---- sets and texts ---- */

static void put_set(struct abnf *a, const struct lex_element *e)
{
    for (unsigned twice = 0; twice < 2; twice++) {
        g_string_append(a->out, twice ? " *(\"+\" (" : "((");
        for (unsigned i = 0; i < e->words->len; i++) {
            if (i) g_string_append(a->out, " / ");
            put_literal(a, e->words->pdata[i], strlen(e->words->pdata[i]));
        }
        g_string_append(a->out, twice ? "))) / " : ")");
    }
    put_literal(a, "none", strlen("none"));
}

/* In quotes any bytes but control ones; to the end of the line no blank at either end. */
static void put_text(struct abnf *a, const struct lex_element *e)
{
    if (!e->rest)
        g_string_append_printf(a->out, "%%x22 %d*%d(%%x20-21 / %%x23-7E / %%x80-FF) %%x22", e->low,
                               e->high);
    else if (e->high == 1)
        g_string_append(a->out, "%x21-7E");
    else
        g_string_append_printf(a->out, "%%x21-7E %s%d*%d%%x20-7E %%x21-7E%s", e->low < 2 ? "[" : "",
                               MAX(e->low - 2, 0), e->high - 2, e->low < 2 ? "]" : "");
}

static void put_slot(struct abnf *a, unsigned index)
{
    const struct lex_element *e = a->numbers->pdata[index];
    g_string_append_printf(a->out, "slot%u = ", index);
    if (e->kind == LEX_SET)
        put_set(a, e);
    else if (e->kind == LEX_TEXT)
        put_text(a, e);
    else
        put_number(a, e);
    if (e->kind == LEX_LIST) {
        g_string_append_printf(a->out, " *%u(\",\" ", e->most - 1);
        put_number(a, e);
        g_string_append_c(a->out, ')');
    }
    g_string_append_c(a->out, '\n');
}

/* ---- places ---- */

static unsigned number_of(GPtrArray *all, const void *what)
{
    guint index;
    if (g_ptr_array_find(all, what, &index)) return index;
    g_ptr_array_add(all, (void *)what);
    return all->len - 1;
}

/* What may follow: nothing, or blanks and the next place. */
static void put_rest(struct abnf *a, const struct node *to)
{
    if (!graph_next(to, 0)) return;
    g_string_append_printf(a->out, to->end ? " [1*SP place%u]" : " 1*SP place%u",
                           number_of(a->nodes, to));
}

static void put_place(struct abnf *a, const struct node *node, unsigned number)
{
    GPtrArray *all = words_of(node);
    const char *separator = "";
    g_string_append_printf(a->out, "place%u = ", number);
    if (node->number || node->slot) {
        g_string_append_printf(a->out, "slot%u",
                               number_of(a->numbers, node->number ? node->number : node->slot));
        put_rest(a, node->number ? node->after_number : node->after_slot);
        separator = "\n    / ";
    }
    for (unsigned i = 0; i < node->glued->len; i++, separator = "\n    / ") {
        const struct edge *edge = node->glued->pdata[i];
        g_string_append(a->out, separator);
        put_literal(a, edge->text, strlen(edge->text));
        g_string_append_printf(a->out, " slot%u", number_of(a->numbers, edge->element));
        put_rest(a, edge->to);
    }
    for (unsigned i = 0; i < node->words->len; i++, separator = "\n    / ") {
        const struct edge *edge = node->words->pdata[i];
        g_string_append(a->out, separator);
        put_forms(a, all, edge->text);
        put_rest(a, edge->to);
    }
    for (unsigned i = 0; i < node->choices->len; i++) {
        const struct edge *edge = node->choices->pdata[i];
        for (unsigned k = 0; k < edge->element->words->len; k++, separator = "\n    / ") {
            g_string_append(a->out, separator);
            put_forms(a, all, edge->element->words->pdata[k]);
            put_rest(a, edge->to);
        }
    }
    g_string_append_c(a->out, '\n');
    g_ptr_array_free(all, TRUE);
}

/* What may stand for the whole line beside a command: numbers, built-in words, outputs that are
 * asked. */
static void put_others(struct abnf *a)
{
    const struct lexicon *lx = a->lx;
    for (unsigned i = 0; i < lx->numbers->len; i++)
        g_string_append_printf(a->out, " / \"%s\"",
                               ((struct lex_number *)lx->numbers->pdata[i])->digits);
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++) {
        if (!b->said || !(lx->built_in & b->bit)) continue;
        g_string_append(a->out, " / ");
        put_literal(a, b->word, strlen(b->word));
        if (b->bit == RLX_BUILT_IN_HELP)
            g_string_append(a->out, " [1*SP helped] [1*SP 1*2%x30-39]");
        if (b->bit == RLX_BUILT_IN_LOG)
            g_string_append(a->out, " [1*SP (%x31-39 / \"1\" %x30-36)]");
    }
    for (unsigned i = 0; i < lx->events->len; i++) {
        if (!((struct lex_event *)lx->events->pdata[i])->confirmed) continue;
        g_string_append(a->out, " / ");
        put_literal(a, "got", 3);
        g_string_append(a->out, " [1*SP (%x31-39 [%x30-39] / \"1\" %x30-39 %x30-39 / "
                                "\"2\" %x30-34 %x30-39 / \"25\" %x30-35)]");
        break;
    }
    for (unsigned i = 0; lx->built_in & RLX_BUILT_IN_STATE && i < lx->outputs->len; i++) {
        char *name = lex_spelt(lx, ((struct lex_output *)lx->outputs->pdata[i])->name);
        g_string_append(a->out, " / ");
        put_literal(a, name, strlen(name));
        g_string_append(a->out, " \"?\"");
        g_free(name);
    }
    for (unsigned i = 0; lx->built_in & RLX_BUILT_IN_STATE && i < lx->inputs->len; i++) {
        char *name = lex_spelt(lx, ((struct lex_input *)lx->inputs->pdata[i])->name);
        g_string_append(a->out, " / ");
        put_literal(a, name, strlen(name));
        g_string_append(a->out, " \"?\"");
        g_free(name);
    }
}

char *lexicon_abnf(struct lexicon *lx)
{
    struct abnf a = {lx, g_string_new(NULL), g_ptr_array_new(), g_ptr_array_new()};
    struct node *root = graph_build(lx);
    g_string_append_printf(a.out, "; What a line to %s %u may be; RFC 5234%s.\n", lx->name,
                           lx->version, lx->any_case ? "" : " with RFC 7405");
    if (lx->built_in & RLX_BUILT_IN_BATCH)
        g_string_append(a.out, "; Several of them may stand in one frame, with \";\" between.\n");
    g_string_append(a.out, "line = *SP (place0");
    put_others(&a);
    g_string_append(a.out, ") *SP\n");
    number_of(a.nodes, root);
    for (unsigned i = 0; lx->commands->len && i < a.nodes->len; i++)
        put_place(&a, a.nodes->pdata[i], i);
    for (unsigned i = 0; i < a.numbers->len; i++) put_slot(&a, i);
    if (lx->built_in & RLX_BUILT_IN_HELP)
        g_string_append(a.out, "helped = (%x21 / %x23-2F / %x3A / %x3C-7E) "
                               "*(%x21 / %x23-3A / %x3C-7E)\n");
    g_string_append(a.out, "SP = %x20\n");
    graph_free(root);
    g_ptr_array_free(a.nodes, TRUE);
    g_ptr_array_free(a.numbers, TRUE);
    return g_string_free(a.out, FALSE);
}
