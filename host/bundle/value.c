/* Works out the expressions behind #if, with three values: true, false, and not known.
 * By precedence, from the loosest operator to the tightest; macros are worked out where they stand.
 * A name that is not the library's own may be the compiler's, and is not known. */
#include "bundle/value.h"

#include <string.h>

#define DEEPEST 512 /* macros in macros */

struct reader {
    GHashTable *macros;
    const char *at;
    unsigned depth;
};

static const struct value unknown = {false, 0};

static struct value known(gint64 is)
{
    return (struct value){true, is};
}

static void skip(struct reader *r)
{
    for (;;) {
        while (g_ascii_isspace(*r->at) || *r->at == '\\') r->at++;
        if (r->at[0] != '/' || r->at[1] != '*') return;
        const char *end = strstr(r->at + 2, "*/");
        r->at = end ? end + 2 : r->at + strlen(r->at);
    }
}

static bool is_name(char c)
{
    return g_ascii_isalnum(c) || c == '_';
}

static gsize name_length(const char *at)
{
    gsize n = 0;
    while (is_name(at[n])) n++;
    return g_ascii_isdigit(*at) ? 0 : n;
}

/* The library's own names are known to be undefined where they are. */
static bool is_own(const char *name, gsize length)
{
    static const char *const begins[] = {"RLX_", "SIM_"};
    for (unsigned i = 0; i < G_N_ELEMENTS(begins); i++)
        if (length > 4 && !strncmp(name, begins[i], 4)) return true;
    return length > 2 && !strncmp(name + length - 2, "_H", 2);
}

struct value value_defined(GHashTable *macros, const char *name, gsize length)
{
    char *own = g_strndup(name, length);
    gpointer text;
    bool found = g_hash_table_lookup_extended(macros, own, NULL, &text);
    g_free(own);
    if (found && !g_strcmp0(text, VALUE_OPEN)) return unknown;
    if (found) return known(1);
    return is_own(name, length) ? known(0) : unknown;
}

static struct value expression(struct reader *r, unsigned level);

static struct value of_name(struct reader *r)
{
    const char *name = r->at;
    gsize n = name_length(name);
    char *own = g_strndup(name, n);
    gpointer text = NULL;
    r->at += n;
    skip(r);
    struct value value = unknown;
    bool found = g_hash_table_lookup_extended(r->macros, own, NULL, &text);
    if (found && text && r->depth < DEEPEST) {
        struct reader inner = {r->macros, text, r->depth + 1};
        value = expression(&inner, 0);
        if (*inner.at) value = unknown;
    } else if (!found && is_own(name, n) && *r->at != '(') {
        value = known(0);
    }
    if (*r->at == '(' && !value.known) { /* its arguments */
        unsigned open = 0;
        do {
            open += *r->at == '(';
            open -= *r->at == ')';
            r->at++;
        } while (open && *r->at);
        skip(r);
    }
    g_free(own);
    return value;
}

static struct value of_defined(struct reader *r)
{
    r->at += strlen("defined");
    skip(r);
    bool open = *r->at == '(';
    if (open) r->at++;
    skip(r);
    gsize n = name_length(r->at);
    struct value value = value_defined(r->macros, r->at, n);
    r->at += n;
    skip(r);
    if (open && *r->at == ')') r->at++;
    skip(r);
    return value;
}

static struct value of_number(struct reader *r)
{
    char *end;
    gint64 is = (gint64)g_ascii_strtoull(r->at, &end, 0);
    while (*end == 'u' || *end == 'U' || *end == 'l' || *end == 'L') end++;
    r->at = end;
    skip(r);
    return known(is);
}

static struct value primary(struct reader *r)
{
    skip(r);
    char c = *r->at;
    if (c == '!' || c == '~' || c == '-' || c == '+') {
        r->at++;
        struct value value = primary(r);
        value.is = c == '!' ? !value.is : c == '~' ? ~value.is : c == '-' ? -value.is : value.is;
        return value;
    }
    if (c == '(') {
        r->at++;
        struct value value = expression(r, 0);
        if (*r->at == ')') r->at++;
        skip(r);
        return value;
    }
    if (g_ascii_isdigit(c)) return of_number(r);
    if (g_str_has_prefix(r->at, "defined") && !is_name(r->at[7])) return of_defined(r);
    if (name_length(r->at)) return of_name(r);
    r->at += strlen(r->at); /* it is none of this */
    return unknown;
}

/* Operators from the loosest to the tightest; longer ones first where one begins another. */
static const char *const operators[][5] = {
    {"||"},       {"&&"},     {"|"},          {"^"}, {"&"}, {"==", "!="}, {"<=", ">=", "<", ">"},
    {"<<", ">>"}, {"+", "-"}, {"*", "/", "%"}};

static const char *operator_at(const struct reader *r, unsigned level)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(operators[0]) && operators[level][i]; i++) {
        const char *one = operators[level][i];
        gsize n = strlen(one);
        if (strncmp(r->at, one, n) != 0) continue;
        bool longer = n == 1 && (r->at[1] == *one || (r->at[1] == '=' && strchr("<>", *one)));
        if (!longer || strchr("+-*/%^", *one)) return one;
    }
    return NULL;
}

static struct value apply(const char *op, struct value a, struct value b)
{
    bool none = !a.known || !b.known;
    if (!strcmp(op, "||") && ((a.known && a.is) || (b.known && b.is))) return known(1);
    if (!strcmp(op, "&&") && ((a.known && !a.is) || (b.known && !b.is))) return known(0);
    if (none) return unknown;
    guint64 x = (guint64)a.is, y = (guint64)b.is;
    switch (op[0] | (op[1] << 8)) {
    case '|' | '|' << 8: return known(a.is || b.is);
    case '&' | '&' << 8: return known(a.is && b.is);
    case '|': return known((gint64)(x | y));
    case '^': return known((gint64)(x ^ y));
    case '&': return known((gint64)(x & y));
    case '=' | '=' << 8: return known(a.is == b.is);
    case '!' | '=' << 8: return known(a.is != b.is);
    case '<' | '=' << 8: return known(a.is <= b.is);
    case '>' | '=' << 8: return known(a.is >= b.is);
    case '<': return known(a.is < b.is);
    case '>': return known(a.is > b.is);
    case '<' | '<' << 8: return y < 64 ? known((gint64)(x << y)) : unknown;
    case '>' | '>' << 8: return y < 64 ? known((gint64)(x >> y)) : unknown;
    case '+': return known((gint64)(x + y));
    case '-': return known((gint64)(x - y));
    case '*': return known((gint64)(x * y));
    case '/': return b.is ? known(a.is / b.is) : unknown;
    case '%': return b.is ? known(a.is % b.is) : unknown;
    default: return unknown;
    }
}

static struct value expression(struct reader *r, unsigned level)
{
    if (level == G_N_ELEMENTS(operators)) return primary(r);
    struct value value = expression(r, level + 1);
    for (const char *op; (op = operator_at(r, level));) {
        r->at += strlen(op);
        value = apply(op, value, expression(r, level + 1));
    }
    if (level || *r->at != '?') return value;
    r->at++;
    struct value yes = expression(r, 0);
    if (*r->at == ':') r->at++;
    struct value no = expression(r, 0);
    return !value.known ? unknown : value.is ? yes : no;
}

struct value value_of(GHashTable *macros, const char *text)
{
    struct reader r = {macros, text, 0};
    struct value value = expression(&r, 0);
    return *r.at ? unknown : value;
}
