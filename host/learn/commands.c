/* Makes commands of the texts that a sender says; those that begin alike become one.
 * Words that differ are a choice, numbers a range; what is no text of a command is kept apart.
 * What a command does is a function, named by its first word. */
#include <stdlib.h>
#include <string.h>

#include "learn/learn_parts.h"

/* A place of a command: words, or numbers with one unit. */
struct place {
    GPtrArray *words; /* char *; NULL: numbers */
    char *unit;
    int64_t low, high;
};

struct pattern {
    GPtrArray *places; /* struct place * */
};

static void place_free(void *p)
{
    struct place *place = p;
    if (place->words) g_ptr_array_free(place->words, TRUE);
    g_free(place->unit);
    g_free(place);
}

static void pattern_free(void *p)
{
    struct pattern *pattern = p;
    g_ptr_array_free(pattern->places, TRUE);
    g_free(pattern);
}

static bool is_word(const char *text)
{
    if (!g_ascii_isalpha(*text) && *text != '_') return false;
    while (g_ascii_isalnum(*text) || (*text && strchr("_-.", *text))) text++;
    return !*text;
}

/* "40%", "-7", "{0..100}mm" of a slider. NULL: neither a word nor a number. */
static struct place *place_of(const char *text)
{
    struct place *place = g_new0(struct place, 1);
    char *end = NULL;
    if (is_word(text)) {
        place->words = g_ptr_array_new_with_free_func(g_free);
        g_ptr_array_add(place->words, g_strdup(text));
        return place;
    }
    if (*text == '{') {
        place->low = strtol(text + 1, &end, 10);
        place->high = strtol(end + 2, &end, 10);
        end = strchr(end, '}') + 1;
    } else {
        bool number = g_ascii_isdigit(*text) || (*text == '-' && g_ascii_isdigit(text[1]));
        place->low = place->high = number ? g_ascii_strtoll(text, &end, 10) : 0;
        if (!number) end = NULL;
    }
    if (end && (!*end || is_word(end) || !strcmp(end, "%")) && llabs(place->low) <= INT32_MAX) {
        place->unit = g_strdup(end);
        return place;
    }
    place_free(place);
    return NULL;
}

static struct pattern *pattern_of(const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    struct pattern *p = g_new0(struct pattern, 1);
    p->places = g_ptr_array_new_with_free_func(place_free);
    bool ok = words[0] != NULL;
    for (unsigned i = 0; words[i] && ok; i++) {
        if (!*words[i]) continue;
        struct place *place = place_of(words[i]);
        ok = place != NULL;
        if (ok) g_ptr_array_add(p->places, place);
    }
    g_strfreev(words);
    const struct place *first = ok && p->places->len ? p->places->pdata[0] : NULL;
    if (first && (first->words || *first->unit)) return p;
    pattern_free(p);
    return NULL;
}

static bool has_word(GPtrArray *words, const char *word)
{
    return g_ptr_array_find_with_equal_func(words, word, g_str_equal, NULL);
}

/* Whether the one place can also be what the other is: of the second word any, else the same. */
static bool is_alike(const struct place *a, const struct place *b, unsigned at)
{
    if (!a->words != !b->words) return false;
    if (!a->words) return !strcmp(a->unit, b->unit);
    return at == 1 || !strcmp(a->words->pdata[0], b->words->pdata[0]);
}

static bool merge(struct pattern *into, const struct pattern *one)
{
    if (into->places->len != one->places->len) return false;
    for (unsigned i = 0; i < into->places->len; i++)
        if (!is_alike(into->places->pdata[i], one->places->pdata[i], i)) return false;
    for (unsigned i = 0; i < into->places->len; i++) {
        struct place *to = into->places->pdata[i];
        const struct place *from = one->places->pdata[i];
        to->low = MIN(to->low, from->low);
        to->high = MAX(to->high, from->high);
        if (to->words && !has_word(to->words, from->words->pdata[0]))
            g_ptr_array_add(to->words, g_strdup(from->words->pdata[0]));
    }
    return true;
}

/* Whether the braces are those of a slider's range alone. */
static bool is_one(const char *text, bool slides)
{
    const char *open = strchr(text, '{'), *close = strchr(text, '}');
    return !slides || (open && close > open && !strchr(open + 1, '{') && !strchr(close + 1, '}'));
}

void commands_add(struct commands *c, const char *text, bool slides)
{
    size_t n = strlen(text);
    char *asked = n > 1 && text[n - 1] == '?' ? g_strndup(text, n - 1) : NULL;
    struct pattern *one = NULL;
    if (asked && is_word(asked) && !has_word(c->queries, asked)) {
        g_ptr_array_add(c->queries, g_strdup(asked));
    } else if (!asked || !is_word(asked)) {
        bool braces = strchr(text, '{') || strchr(text, '}');
        one = braces == slides && is_one(text, slides) ? pattern_of(text) : NULL;
        if (!one && !has_word(c->odd, text)) g_ptr_array_add(c->odd, g_strdup(text));
    }
    for (unsigned i = 0; one && i < c->patterns->len; i++)
        if (merge(c->patterns->pdata[i], one)) {
            pattern_free(one);
            one = NULL;
        }
    if (one) g_ptr_array_add(c->patterns, one);
    g_free(asked);
}

/* The first word of a command, or its unit, as a name in C. */
static char *base_of(const struct pattern *p)
{
    const struct place *first = p->places->pdata[0];
    char *own = g_ascii_strdown(first->words ? first->words->pdata[0] : first->unit, -1);
    for (char *c = own; *c; c++)
        if (!g_ascii_isalnum(*c)) *c = '_';
    return own;
}

/* The function that a command calls: a number behind its name where that is taken. */
static char *function_of(const struct commands *c, unsigned of)
{
    char *own = base_of(c->patterns->pdata[of]), *name;
    unsigned same = 1;
    for (unsigned i = 0; i < of; i++) {
        char *other = base_of(c->patterns->pdata[i]);
        same += !strcmp(own, other);
        g_free(other);
    }
    name = same > 1 ? g_strdup_printf("%s_%u", own, same) : g_strdup(own);
    g_free(own);
    return name;
}

static void put_place(GString *out, const struct place *place, unsigned at)
{
    if (!place->words && at && !strcmp(place->unit, "%")) {
        g_string_append_printf(out, " {value %d..%d%%}", (int)place->low, (int)place->high);
    } else if (!place->words) {
        char name = (char)('v' + MIN(at, 4));
        if (at < 2)
            g_string_append_printf(out, " {value %d..%d}%s", (int)place->low, (int)place->high,
                                   place->unit);
        else
            g_string_append_printf(out, " {%c %d..%d}%s", name, (int)place->low, (int)place->high,
                                   place->unit);
    } else if (place->words->len == 1) {
        g_string_append_printf(out, " %s", (char *)place->words->pdata[0]);
    } else {
        for (unsigned i = 0; i < place->words->len; i++)
            g_string_append_printf(out, "%s%s", i ? "|" : " {", (char *)place->words->pdata[i]);
        g_string_append_c(out, '}');
    }
}

void commands_put(const struct commands *c, struct learnt *l, GString *out)
{
    for (unsigned i = 0; i < c->patterns->len; i++) {
        const struct pattern *p = c->patterns->pdata[i];
        char *function = function_of(c, i);
        g_string_append(out, "command");
        for (unsigned k = 0; k < p->places->len; k++) put_place(out, p->places->pdata[k], k);
        g_string_append_printf(out, "  => %s()\n", function);
        g_free(function);
    }
    for (unsigned i = 0; i < c->queries->len; i++) {
        const char *name = c->queries->pdata[i];
        g_string_append_printf(out, "query %s {value 0..100}  => read_%s()\n", name, name);
        learn_doubt(l, "%s? asks for something: write what, and its range", name);
    }
}

struct commands *commands_new(void)
{
    struct commands *c = g_new0(struct commands, 1);
    c->patterns = g_ptr_array_new_with_free_func(pattern_free);
    c->queries = g_ptr_array_new_with_free_func(g_free);
    c->odd = g_ptr_array_new_with_free_func(g_free);
    return c;
}

void commands_free(struct commands *c)
{
    g_ptr_array_free(c->patterns, TRUE);
    g_ptr_array_free(c->queries, TRUE);
    g_ptr_array_free(c->odd, TRUE);
    g_free(c);
}
