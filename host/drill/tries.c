/* What is tried of a command. */
#include <string.h>

#include "drill.h"
#include "rlx/config.h"

/* The pieces of one text. */
#define PIECES 32u

struct maker {
    const struct lexicon *lx;
    const struct lex_command *of;
    const char *word; /* of what is no command */
    GPtrArray *tries, *rows;
    GHashTable *known; /* texts */
    char *pieces[PIECES];
    unsigned n;
};

static void add(struct maker *m, char *text, const char *why)
{
    int32_t values[15];
    unsigned given;
    if (!*text || g_hash_table_contains(m->known, text)) {
        g_free(text);
        return;
    }
    struct drill_try *try = g_new0(struct drill_try, 1);
    bool valid = m->of && lex_command_taking(m->lx, text, values, &given);
    *try = (struct drill_try){m->rows->len - 1, m->of, m->word, text, valid, why};
    g_hash_table_add(m->known, text);
    g_ptr_array_add(m->tries, try);
}

/* The pieces up to the n-th, with this one in the place of one of them; NULL: as it is. */
static char *joined(const struct maker *m, unsigned n, unsigned at, const char *piece)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < n; i++) {
        const char *one = i == at && piece ? piece : m->pieces[i];
        if (*one) g_string_append_printf(text, "%s%s", text->len ? " " : "", one);
    }
    return g_string_free(text, FALSE);
}

static void with(struct maker *m, unsigned at, const char *piece, const char *why)
{
    add(m, joined(m, m->n, at, piece), why);
}

/* ---- what an element can be ---- */

/* As it is said there, owned by the caller; of a list so many of it. */
static char *number_text(const struct lex_element *e, int32_t value, unsigned times, bool unit)
{
    GString *text = g_string_new(e->prefix);
    for (unsigned i = 0; i < times; i++) {
        char *one = lex_value_text(e, value);
        bool said = e->unit && (unit || e->glued);
        g_string_append_printf(text, "%s%s%s", i ? "," : "", one, said ? e->unit : "");
        g_free(one);
    }
    return g_string_free(text, FALSE);
}

static char *quoted_text(const struct lex_element *e, int32_t length)
{
    char *fill = g_strnfill((gsize)length, 'x');
    char *text = e->rest ? g_strdup(fill) : g_strdup_printf("\"%s\"", fill);
    g_free(fill);
    return text;
}

/* Its plainest form. */
static char *plain(const struct lex_element *e)
{
    switch (e->kind) {
    case LEX_WORD: return g_strdup(e->text);
    case LEX_CHOICE:
    case LEX_SET: return g_strdup(e->words->pdata[0]);
    case LEX_TEXT: return quoted_text(e, MAX(e->low, 1));
    default: return number_text(e, e->low, 1, false);
    }
}

static void with_own(struct maker *m, unsigned at, char *piece, const char *why)
{
    with(m, at, piece, why);
    g_free(piece);
}

static void vary_number(struct maker *m, unsigned at, const struct lex_element *e)
{
    int32_t low = e->low, high = e->high;
    with_own(m, at, number_text(e, high, 1, false), "the highest");
    with_own(m, at, number_text(e, (int32_t)(((int64_t)low + high) / 2), 1, false),
             "in the middle");
    if (e->unit) with_own(m, at, number_text(e, high, 1, true), "with its unit");
    if (low > INT32_MIN) with_own(m, at, number_text(e, low - 1, 1, false), "one below");
    if (high < INT32_MAX) with_own(m, at, number_text(e, high + 1, 1, false), "one above");
    if (e->kind == LEX_LIST) {
        with_own(m, at, number_text(e, high, e->most, false), "as many as may be");
        with_own(m, at, number_text(e, high, e->most + 1, false), "one more");
    }
    with(m, at, "x1", "no number");
}

static void vary_set(struct maker *m, unsigned at, const struct lex_element *e)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < e->words->len; i++)
        g_string_append_printf(all, "%s%s", i ? "+" : "", (char *)e->words->pdata[i]);
    with(m, at, all->str, "all of it");
    g_string_free(all, TRUE);
}

static void vary_text(struct maker *m, unsigned at, const struct lex_element *e)
{
    with_own(m, at, quoted_text(e, e->high), "the longest");
    with_own(m, at, quoted_text(e, e->high + 1), "one longer");
    if (!e->rest) with(m, at, "\"x", "without its end");
}

static void vary(struct maker *m, unsigned at, const struct lex_element *e)
{
    for (unsigned i = 0; e->words && i < e->words->len; i++)
        with(m, at, e->words->pdata[i], "each choice");
    switch (e->kind) {
    case LEX_WORD:
        if (e->filler) with(m, at, "", "left out");
        break;
    case LEX_CHOICE: with(m, at, "zzz", "no choice"); break;
    case LEX_SET: vary_set(m, at, e); break;
    case LEX_TEXT: vary_text(m, at, e); break;
    default: vary_number(m, at, e);
    }
    if (e->optional) with(m, at, "", "left out");
}

static void try_command(struct maker *m)
{
    m->n = MIN(m->of->elements->len, PIECES);
    for (unsigned i = 0; i < m->n; i++) m->pieces[i] = plain(m->of->elements->pdata[i]);
    add(m, joined(m, m->n, 0, NULL), "as it is");
    for (unsigned i = 0; i < m->n; i++) vary(m, i, m->of->elements->pdata[i]);
    for (unsigned n = 1; n < m->n; n++) add(m, joined(m, n, 0, NULL), "cut short");
    char *whole = joined(m, m->n, 0, NULL);
    add(m, g_strconcat(whole, " zzz", NULL), "a word too many");
    add(m, g_strconcat("zz", whole, NULL), "another first word");
    unsigned before = m->tries->len;
    add(m, g_ascii_strup(whole, -1), "in capitals");
    if (m->tries->len > before && m->lx->any_case)
        ((struct drill_try *)m->tries->pdata[before])->valid = true;
    add(m, g_strconcat("  ", whole, "  ", NULL), "with blanks around");
    g_free(whole);
    for (unsigned i = 0; i < m->n; i++) g_free(m->pieces[i]);
}

/* ---- what is no command ---- */

static void add_known(struct maker *m, char *text, const char *why, bool valid)
{
    unsigned before = m->tries->len;
    add(m, text, why);
    if (m->tries->len > before) ((struct drill_try *)m->tries->pdata[before])->valid = valid;
}

/* What is said as one word, and takes no other behind it where `alone` says so. */
static void try_word(struct maker *m, const char *name, const char *said, bool alone)
{
    m->word = name;
    g_ptr_array_add(m->rows, g_strdup(said));
    add_known(m, g_strdup(said), "as it is", true);
    add_known(m, g_ascii_strup(said, -1), "in capitals", m->lx->any_case);
    add_known(m, g_strconcat("  ", said, "  ", NULL), "with blanks around", true);
    if (alone) add_known(m, g_strconcat(said, " zzz", NULL), "a word too many", false);
}

static void try_asked(struct maker *m, const char *name)
{
    char *said = g_strconcat(name, "?", NULL);
    try_word(m, name, said, true);
    g_free(said);
}

static void try_others(struct maker *m)
{
    const struct lexicon *lx = m->lx;
    m->of = NULL;
    for (unsigned i = 0; i < lx->queries->len; i++)
        try_asked(m, ((struct lex_query *)lx->queries->pdata[i])->name);
    for (unsigned i = 0; lx->built_in & RLX_BUILT_IN_STATE && i < lx->outputs->len; i++)
        try_asked(m, ((struct lex_output *)lx->outputs->pdata[i])->name);
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
        if (b->said && lx->built_in & b->bit)
            try_word(m, b->word, b->word,
                     b->bit != RLX_BUILT_IN_HELP && b->bit != RLX_BUILT_IN_LOG);
}

static void try_free(void *p)
{
    g_free(((struct drill_try *)p)->text);
    g_free(p);
}

GPtrArray *drill_tries(const struct lexicon *lx, GPtrArray *rows)
{
    struct maker m = {.lx = lx, .rows = rows, .known = g_hash_table_new(g_str_hash, g_str_equal)};
    m.tries = g_ptr_array_new_with_free_func(try_free);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        m.of = lx->commands->pdata[i];
        g_ptr_array_add(rows, lex_command_text(m.of));
        try_command(&m);
    }
    try_others(&m);
    g_hash_table_destroy(m.known);
    return m.tries;
}
