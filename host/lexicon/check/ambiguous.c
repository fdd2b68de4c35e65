/* Whether two commands take the same text, and the shortest one that they do.
 * Exact: a walk through all pairs of places in both that the same words lead to.
 * Ranges of numbers do not distinguish commands. */
#include <string.h>

#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"

/* ---- one word that two elements take ---- */

static bool has_word(const struct lex_element *e, const char *word)
{
    if (e->kind == LEX_WORD && !e->words) return !strcmp(e->text, word);
    return g_ptr_array_find_with_equal_func(e->words, word, g_str_equal, NULL);
}

static bool is_wordy(const struct lex_element *e)
{
    return e->kind == LEX_WORD || lex_has_words(e);
}

/* The shortest word that both have; a set has "none" too. */
static char *common_word(const struct lex_element *a, const struct lex_element *b)
{
    const char *best = NULL;
    unsigned n = a->words ? a->words->len : 1;
    for (unsigned i = 0; i < n; i++) {
        const char *word = a->words ? a->words->pdata[i] : a->text;
        if ((has_word(b, word) || (b->kind == LEX_SET && !strcmp(word, "none"))) &&
            (!best || strlen(word) < strlen(best)))
            best = word;
    }
    if (a->kind == LEX_SET && (b->kind == LEX_SET || has_word(b, "none")) &&
        (!best || strlen(best) > strlen("none")))
        best = "none";
    return g_strdup(best);
}

/* A value as the element takes it, with the unit if it is required. */
static char *number_said(const struct lex_element *e, int32_t value)
{
    char *text = lex_value_text(e, value);
    char *said = g_strconcat(e->prefix ? e->prefix : "", text, e->glued ? e->unit : "", NULL);
    g_free(text);
    return said;
}

/* Adds a bound as a text, and the whole number before its point or unit. */
static void add_numerals(GPtrArray *all, const struct lex_element *e, int32_t value)
{
    char *text = lex_value_text(e, value), *whole = g_strdup(text);
    bool hex = e->form == LEX_HEX;
    if (!hex) whole[1 + strspn(whole + 1, "0123456789")] = 0;
    g_ptr_array_add(all,
                    g_strdup_printf("%" G_GINT64_FORMAT, g_ascii_strtoll(whole, NULL, 10) + 1));
    g_ptr_array_add(all, text);
    g_ptr_array_add(all, whole);
}

/* The shortest of such texts that both take; within both ranges, if there is one. */
static char *common_number(const struct lex_element *a, const struct lex_element *b)
{
    const char *units[] = {"", a->unit, b->unit, "ms", "s", "min", "h"};
    GPtrArray *numerals = g_ptr_array_new_with_free_func(g_free);
    char *best = NULL;
    const int32_t bounds[] = {a->low, a->high, b->low, b->high};
    g_ptr_array_add(numerals, g_strdup("0"));
    for (unsigned i = 0; i < G_N_ELEMENTS(bounds); i++)
        add_numerals(numerals, i < 2 ? a : b, bounds[i]);
    for (unsigned strict = 2; strict-- && !best;) {
        for (unsigned i = 0; i < numerals->len * G_N_ELEMENTS(units); i++) {
            const char *unit = units[i % G_N_ELEMENTS(units)];
            char *said = g_strconcat(a->prefix ? a->prefix : "",
                                     (char *)numerals->pdata[i / G_N_ELEMENTS(units)],
                                     unit ? unit : "", NULL);
            bool fits = strict ? lex_number_takes(a, said) && lex_number_takes(b, said)
                               : lex_number_shaped(a, said) && lex_number_shaped(b, said);
            if (fits && (!best || strlen(said) < strlen(best))) {
                g_free(best);
                best = g_strdup(said);
            }
            g_free(said);
        }
    }
    g_ptr_array_free(numerals, TRUE);
    return best;
}

/* A text in quotes of both lengths. */
static char *common_text(const struct lex_element *a, const struct lex_element *b)
{
    int32_t length = MAX(a->low, b->low);
    if (length > MIN(a->high, b->high)) return NULL;
    char *body = g_strnfill((gsize)length, 'x'), *text = g_strdup_printf("\"%s\"", body);
    g_free(body);
    return text;
}

char *lex_cut_to_number(const struct lexicon *lx, const char *word,
                        const struct lex_element *number)
{
    size_t length = strlen(word);
    for (size_t n = lx->shorten ? lx->shorten : length; number->prefix && n <= length; n++) {
        char *cut = g_strndup(word, n);
        if (lex_number_shaped(number, cut)) return cut;
        g_free(cut);
    }
    return NULL;
}

/* The shortest single word that both elements take, or NULL. */
static char *common(const struct lexicon *lx, const struct lex_element *a,
                    const struct lex_element *b)
{
    if (is_wordy(a) && is_wordy(b)) return common_word(a, b);
    if (lex_has_numbers(a) && lex_has_numbers(b)) return common_number(a, b);
    if (a->kind == LEX_TEXT && b->kind == LEX_TEXT) return common_text(a, b);
    if (is_wordy(b)) return common(lx, b, a);
    if (!is_wordy(a) || !lex_has_numbers(b)) return NULL;
    for (unsigned i = 0; i < (a->words ? a->words->len : 1); i++) { /* g5 against g{0..9} */
        char *cut = lex_cut_to_number(lx, a->words ? a->words->pdata[i] : a->text, b);
        if (cut) return cut;
    }
    return NULL;
}

/* ---- all pairs of places ---- */

/* A pair of places, and the shortest text that leads to it. */
struct pair {
    unsigned a, b;
    char *text;
};

struct walk {
    const struct lexicon *lx;
    const struct lex_command *a, *b;
    GHashTable *best; /* a * 256 + b -> shortest length so far, and 1 */
    GPtrArray *open;  /* struct pair * */
};

static void pair_free(void *p)
{
    g_free(((struct pair *)p)->text);
    g_free(p);
}

static void reach(struct walk *w, unsigned a, unsigned b, const char *text, const char *word)
{
    char *longer = g_strdup_printf("%s%s%s", text, *text && *word ? " " : "", word);
    gpointer key = GUINT_TO_POINTER(a * 256 + b);
    unsigned before = GPOINTER_TO_UINT(g_hash_table_lookup(w->best, key));
    unsigned length = (unsigned)strlen(longer) + 1;
    if (before && before <= length) {
        g_free(longer);
        return;
    }
    g_hash_table_insert(w->best, key, GUINT_TO_POINTER(length));
    struct pair *pair = g_new(struct pair, 1);
    *pair = (struct pair){a, b, longer};
    g_ptr_array_add(w->open, pair);
}

static const struct lex_element *element(const struct lex_command *c, unsigned i)
{
    return i < c->elements->len ? c->elements->pdata[i] : NULL;
}

/* The shortest text of what is left of a command, at least so long. */
static char *shortest_rest(const struct lex_command *c, unsigned from, size_t least)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = from; i < c->elements->len; i++) {
        const struct lex_element *e = c->elements->pdata[i];
        if ((e->filler || e->optional) && out->len >= least) continue;
        char *word = e->kind == LEX_TEXT ? g_strnfill((gsize)MAX(e->low, (int32_t)least), 'x')
                     : is_wordy(e)       ? common_word(e, e)
                                         : number_said(e, e->low);
        g_string_append_printf(out, e->kind == LEX_TEXT && !e->rest ? "%s\"%s\"" : "%s%s",
                               out->len ? " " : "", word);
        g_free(word);
    }
    return g_string_free(out, FALSE);
}

/* A slot that takes the rest of the line takes any text of the other. */
static bool rest_takes(const struct lex_element *e, const struct lex_command *other, unsigned from,
                       char **text)
{
    if (!e || !e->rest) return false;
    char *rest = shortest_rest(other, from, (size_t)e->low);
    bool fits = strlen(rest) >= (size_t)e->low && strlen(rest) <= (size_t)e->high;
    if (fits) {
        char *all = g_strdup_printf("%s %s", *text, rest);
        g_free(*text);
        *text = all;
    }
    g_free(rest);
    return fits;
}

static bool may_end(const struct lex_command *c, unsigned i)
{
    const struct lex_element *e = element(c, i);
    return !e || e->optional;
}

/* The pair with the shortest text, taken off the list. */
static struct pair *take_nearest(struct walk *w)
{
    unsigned best = 0;
    for (unsigned i = 1; i < w->open->len; i++)
        if (strlen(((struct pair *)w->open->pdata[i])->text) <
            strlen(((struct pair *)w->open->pdata[best])->text))
            best = i;
    return g_ptr_array_steal_index_fast(w->open, best);
}

/* Goes on from a pair; true when its text is one that both take. */
static bool step(struct walk *w, struct pair *p)
{
    const struct lex_element *a = element(w->a, p->a), *b = element(w->b, p->b);
    if (may_end(w->a, p->a) && may_end(w->b, p->b)) return true;
    if (rest_takes(a, w->b, p->b, &p->text) || rest_takes(b, w->a, p->a, &p->text)) return true;
    if (a && a->filler) reach(w, p->a + 1, p->b, p->text, "");
    if (b && b->filler) reach(w, p->a, p->b + 1, p->text, "");
    char *word = a && b ? common(w->lx, a, b) : NULL;
    if (word) reach(w, p->a + 1, p->b + 1, p->text, word);
    g_free(word);
    return false;
}

char *lex_common_text(const struct lexicon *lx, const struct lex_command *a,
                      const struct lex_command *b)
{
    struct walk w = {lx, a, b, g_hash_table_new(NULL, NULL),
                     g_ptr_array_new_with_free_func(pair_free)};
    char *found = NULL;
    reach(&w, 0, 0, "", "");
    while (!found && w.open->len) {
        struct pair *pair = take_nearest(&w);
        if (step(&w, pair)) found = g_strdup(pair->text);
        pair_free(pair);
    }
    g_hash_table_destroy(w.best);
    g_ptr_array_free(w.open, TRUE);
    return found;
}

/* ---- all pairs of commands ---- */

/* Pairs beyond which a lexicon that cannot be read is not searched for all its reasons. */
#define PAIRS_MAX 2000000
/* And pairs with a fault. */
#define FOUND_MAX 50

/* Whether the commands can begin alike. Cheap: most pairs end here. */
static bool begin_alike(const struct lex_command *a, const struct lex_command *b)
{
    const struct lex_element *x = a->elements->pdata[0], *y = b->elements->pdata[0];
    if (x->kind == LEX_WORD && y->kind == LEX_WORD && !x->words && !y->words)
        return !strcmp(x->text, y->text);
    return true;
}

unsigned lexicon_find_ambiguous(struct lexicon *lx)
{
    unsigned found = 0, pairs = 0;
    for (unsigned i = 1; i < lx->commands->len; i++) {
        const struct lex_command *b = lx->commands->pdata[i];
        for (unsigned k = 0; k < i; k++) {
            const struct lex_command *a = lx->commands->pdata[k];
            if (++pairs > PAIRS_MAX || found == FOUND_MAX) {
                lex_find(lx, LEX_D20, b->place,
                         "undecided: %u pairs of commands were compared, of %u", pairs - 1,
                         lx->commands->len * (lx->commands->len - 1) / 2);
                return found;
            }
            char *text = begin_alike(a, b) ? lex_common_text(lx, a, b) : NULL;
            if (!text) continue;
            char *other = lex_command_text(a);
            struct lex_fault *fault =
                lex_find(lx, LEX_D03, b->place, "\"%s\" is also a text of '%s' in line %u", text,
                         other, a->place.line);
            fault->witness = text;
            g_free(other);
            found++;
        }
    }
    return found;
}
