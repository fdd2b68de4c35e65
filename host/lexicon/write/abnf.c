#include "abnf.h"

#include <string.h>

#include "graph.h"

struct abnf {
    const struct lexicon *lx;
    GString *out;
    GPtrArray *nodes;   /* const struct node *: rule numbers of places */
    GPtrArray *numbers; /* const struct lex_element *: rule numbers of ranges */
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
        if (other != word && !strncmp(other, word, count)) return false;
    }
    return true;
}

/* The word and what it may be cut to: ("pump" / "pum"). */
static void put_forms(struct abnf *a, const GPtrArray *all, const char *word)
{
    size_t length = strlen(word);
    g_string_append_c(a->out, '(');
    put_literal(a, word, length);
    for (size_t n = length - 1; a->lx->shorten && n >= a->lx->shorten; n--) {
        if (!means_it(all, word, n)) break;
        g_string_append(a->out, " / ");
        put_literal(a, word, n);
    }
    g_string_append_c(a->out, ')');
}

/* ---- numbers ---- */

/* Numbers of as many digits as both bounds have, first digit `at`: alternatives behind `prefix`. */
static void put_digits(struct abnf *a, const char *low, const char *high, GString *prefix,
                       const char **separator)
{
    size_t n = strlen(low);
    if (n == 0 || (strspn(low, "0") == n && strspn(high, "9") == n)) {
        g_string_append_printf(a->out, "%s%s", *separator, prefix->str + (*prefix->str == ' '));
        for (size_t i = 0; i < n; i++) g_string_append(a->out, " %x30-39");
        *separator = " / ";
        return;
    }
    static const char nines[] = "9999999999", zeros[] = "0000000000";
    for (char c = *low; c <= *high; c++) {
        gsize length = prefix->len;
        const char *from = c == *low ? low + 1 : zeros + 10 - (n - 1);
        const char *to = c == *high ? high + 1 : nines + 10 - (n - 1);
        char last = c;
        /* digits in the middle have all numbers behind them: one alternative for them all */
        bool full = strspn(from, "0") == n - 1 && strspn(to, "9") == n - 1;
        while (full && last < *high && (last + 1 < *high || strspn(high + 1, "9") == n - 1)) last++;
        g_string_append_printf(prefix, " %%x%02X", (unsigned)c);
        if (last > c) g_string_append_printf(prefix, "-%02X", (unsigned)last);
        put_digits(a, from, to, prefix, separator);
        g_string_truncate(prefix, length);
        c = last;
    }
}

/* low..high, both at least 0, in up to `width` digits with leading zeros. */
static void put_range(struct abnf *a, const char *sign, int64_t low, int64_t high, unsigned width,
                      const char **separator)
{
    int64_t least = 0, most = 9;
    for (unsigned digits = 1; least <= high; digits++, least = most + 1, most = most * 10 + 9) {
        char from[24], to[24];
        if (most < low) continue;
        g_snprintf(from, sizeof from, "%" G_GINT64_FORMAT, MAX(low, least));
        g_snprintf(to, sizeof to, "%" G_GINT64_FORMAT, MIN(high, most));
        GString *prefix = g_string_new(sign);
        if (width > digits) g_string_append_printf(prefix, " *%u\"0\"", width - digits);
        put_digits(a, from, to, prefix, separator);
        g_string_free(prefix, TRUE);
    }
}

static void put_number(struct abnf *a, const struct lex_element *e)
{
    const char *separator = "";
    unsigned width = lex_number_digits(e);
    g_string_append_c(a->out, '(');
    if (e->high >= 0) put_range(a, "", MAX(e->low, 0), e->high, width, &separator);
    if (e->low < 0) /* -0 is no number */
        put_range(a, "\"-\"", e->high < 0 ? -(int64_t)e->high : 1, -(int64_t)e->low, width,
                  &separator);
    g_string_append_c(a->out, ')');
    if (e->unit) {
        g_string_append(a->out, e->glued ? " " : " [");
        put_literal(a, e->unit, strlen(e->unit));
        g_string_append(a->out, e->glued ? "" : "]");
    }
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
    if (!to->number && !to->words->len && !to->choices->len) return;
    g_string_append_printf(a->out, to->end ? " [1*SP place%u]" : " 1*SP place%u",
                           number_of(a->nodes, to));
}

static void put_place(struct abnf *a, const struct node *node, unsigned number)
{
    GPtrArray *all = words_of(node);
    const char *separator = "";
    g_string_append_printf(a->out, "place%u = ", number);
    if (node->number) {
        g_string_append_printf(a->out, "number%u", number_of(a->numbers, node->number));
        put_rest(a, node->after_number);
        separator = "\n    / ";
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

char *lexicon_abnf(struct lexicon *lx)
{
    struct abnf a = {lx, g_string_new(NULL), g_ptr_array_new(), g_ptr_array_new()};
    struct node *root = graph_build(lx);
    g_string_append_printf(a.out,
                           "; What a line to %s %u may be; RFC 5234%s.\n"
                           "line = *SP place0 *SP\n",
                           lx->name, lx->version, lx->any_case ? "" : " with RFC 7405");
    number_of(a.nodes, root);
    for (unsigned i = 0; lx->commands->len && i < a.nodes->len; i++)
        put_place(&a, a.nodes->pdata[i], i);
    for (unsigned i = 0; i < a.numbers->len; i++) {
        g_string_append_printf(a.out, "number%u = ", i);
        put_number(&a, a.numbers->pdata[i]);
        g_string_append_c(a.out, '\n');
    }
    g_string_append(a.out, "SP = %x20\n");
    graph_free(root);
    g_ptr_array_free(a.nodes, TRUE);
    g_ptr_array_free(a.numbers, TRUE);
    return g_string_free(a.out, FALSE);
}
