/* Makes the texts that a drill sends for one command, valid and not.
 * Every choice, bound, default and spelling of each slot is varied alone, on the plainest form of
 * the rest.
 * It sends nothing, and does not know what a reply must be. */
#include "drill/cases/cases.h"

#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/check/checks.h"
#include "rlx/config.h"

const char *const try_whys[] = {[CASE_PLAIN] = "as it is",
                                [CASE_HIGHEST] = "the highest",
                                [CASE_MIDDLE] = "in the middle",
                                [CASE_BETWEEN] = "between its ends",
                                [CASE_UNIT] = "with its unit",
                                [CASE_BELOW] = "one below",
                                [CASE_ABOVE] = "one above",
                                [CASE_MOST] = "the most",
                                [CASE_MORE] = "one more",
                                [CASE_ZEROS] = "with leading zeros",
                                [CASE_MORE_ZEROS] = "with one more",
                                [CASE_NO_NUMBER] = "no number",
                                [CASE_ALL_OF_SET] = "all of it",
                                [CASE_SHORTEST] = "the shortest",
                                [CASE_LONGEST] = "the longest",
                                [CASE_LONGER] = "one longer",
                                [CASE_UNQUOTED] = "without its end",
                                [CASE_CHOICE] = "each choice",
                                [CASE_NO_CHOICE] = "no choice",
                                [CASE_LEFT_OUT] = "left out",
                                [CASE_SHORT_FORM] = "shortened",
                                [CASE_CUT] = "cut short",
                                [CASE_CUT_WORD] = "cut in a word",
                                [CASE_EXTRA] = "a word too many",
                                [CASE_OTHER_WORD] = "another first word",
                                [CASE_CAPITALS] = "in capitals",
                                [CASE_MIXED] = "in mixed letters",
                                [CASE_BLANKS] = "with blanks around",
                                [CASE_KEY] = "its key"};

/* The pieces of one text. */
#define PIECES 32u

struct maker {
    const struct lexicon *lx;
    const struct lex_command *of;
    const char *word; /* of what is no command */
    GPtrArray *cases, *rows;
    GHashTable *known; /* texts */
    char *pieces[PIECES];
    unsigned n;
    unsigned element; /* that is varied */
};

static void add(struct maker *m, char *text, enum case_why why)
{
    int32_t values[15];
    unsigned given;
    if (!*text || g_hash_table_contains(m->known, text)) {
        g_free(text);
        return;
    }
    struct drill_case *test = g_new0(struct drill_case, 1);
    bool valid = m->of && lex_command_taking(m->lx, text, values, &given);
    *test =
        (struct drill_case){m->rows->len - 1, m->of, m->word, text, NULL, valid, why, m->element};
    g_hash_table_add(m->known, text);
    g_ptr_array_add(m->cases, test);
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

static void with(struct maker *m, unsigned at, const char *piece, enum case_why why)
{
    add(m, joined(m, m->n, at, piece), why);
}

/* ---- what an element can be ---- */

/* As a text of the slot, owned by the caller; of a list so many of it. */
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
static char *plain(const struct lexicon *lx, const struct lex_element *e)
{
    int32_t low, high;
    switch (e->kind) {
    case LEX_WORD: return g_strdup(e->text);
    case LEX_CHOICE:
    case LEX_SET: return g_strdup(e->words->pdata[0]);
    case LEX_TEXT: return quoted_text(e, MAX(e->low, 1));
    case LEX_NUMBER:
    case LEX_LIST: break;
    }
    lex_bounds_now(lx, e, &low, &high);
    return number_text(e, low, 1, false);
}

static void with_own(struct maker *m, unsigned at, char *piece, enum case_why why)
{
    with(m, at, piece, why);
    g_free(piece);
}

/* As many leading zeros as may be, and one more. */
static void vary_zeros(struct maker *m, unsigned at, const struct lex_element *e)
{
    unsigned digits = lex_number_digits(e);
    char *plain = number_text(e, e->high, 1, false);
    if (e->form == LEX_WHOLE && e->kind == LEX_NUMBER && e->high >= 0 && !e->prefix && !e->glued) {
        size_t has = strlen(plain);
        for (unsigned more = 0; more < 2; more++) {
            char *zeros = g_strnfill(digits + more - MIN(has, digits), '0');
            with_own(m, at, g_strconcat(zeros, plain, NULL), more ? CASE_MORE_ZEROS : CASE_ZEROS);
            g_free(zeros);
        }
    }
    g_free(plain);
}

/* Some between its ends, where what it becomes is rounded. */
static void vary_between(struct maker *m, unsigned at, const struct lex_element *e, int64_t low,
                         int64_t high)
{
    const int64_t way = high - low;
    const int64_t steps[] = {1, 2, 3, way / 3, 2 * way / 3, way - 1};
    for (unsigned i = 0; i < G_N_ELEMENTS(steps); i++)
        if (steps[i] > 0 && steps[i] < way)
            with_own(m, at, number_text(e, (int32_t)(low + steps[i]), 1, false), CASE_BETWEEN);
}

static void vary_number(struct maker *m, unsigned at, const struct lex_element *e)
{
    int32_t low, high;
    lex_bounds_now(m->lx, e, &low, &high);
    with_own(m, at, number_text(e, high, 1, false), CASE_HIGHEST);
    with_own(m, at, number_text(e, (int32_t)(((int64_t)low + high) / 2), 1, false), CASE_MIDDLE);
    if (e->unit) with_own(m, at, number_text(e, high, 1, true), CASE_UNIT);
    if (low > INT32_MIN) with_own(m, at, number_text(e, low - 1, 1, false), CASE_BELOW);
    if (high < INT32_MAX) with_own(m, at, number_text(e, high + 1, 1, false), CASE_ABOVE);
    if (e->kind == LEX_LIST) {
        with_own(m, at, number_text(e, high, e->most, false), CASE_MOST);
        with_own(m, at, number_text(e, high, e->most + 1, false), CASE_MORE);
    }
    vary_between(m, at, e, low, high);
    if (low > e->low) with_own(m, at, number_text(e, e->low, 1, false), CASE_BETWEEN);
    if (high < e->high) with_own(m, at, number_text(e, e->high, 1, false), CASE_BETWEEN);
    vary_zeros(m, at, e);
    with(m, at, "x1", CASE_NO_NUMBER);
    with(m, at, "1:", CASE_NO_NUMBER); /* the characters beside the digits */
    with(m, at, "1/", CASE_NO_NUMBER);
}

static void vary_set(struct maker *m, unsigned at, const struct lex_element *e)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < e->words->len; i++)
        g_string_append_printf(all, "%s%s", i ? "+" : "", (char *)e->words->pdata[i]);
    with(m, at, all->str, CASE_ALL_OF_SET);
    g_string_free(all, TRUE);
}

static void vary_text(struct maker *m, unsigned at, const struct lex_element *e)
{
    with_own(m, at, quoted_text(e, e->low), CASE_SHORTEST);
    with_own(m, at, quoted_text(e, e->low + (e->high - e->low) / 4), CASE_MIDDLE);
    with_own(m, at, quoted_text(e, e->high), CASE_LONGEST);
    with_own(m, at, quoted_text(e, e->high + 1), CASE_LONGER);
    if (!e->rest) with(m, at, "\"x", CASE_UNQUOTED);
}

static void vary(struct maker *m, unsigned at, const struct lex_element *e)
{
    for (unsigned i = 0; e->words && i < e->words->len; i++)
        with(m, at, e->words->pdata[i], CASE_CHOICE);
    switch (e->kind) {
    case LEX_WORD:
        if (e->filler) with(m, at, "", CASE_LEFT_OUT);
        break;
    case LEX_CHOICE: with(m, at, "zzz", CASE_NO_CHOICE); break;
    case LEX_SET: vary_set(m, at, e); break;
    case LEX_TEXT: vary_text(m, at, e); break;
    case LEX_NUMBER:
    case LEX_LIST: vary_number(m, at, e); break;
    }
    if (e->optional) with(m, at, "", CASE_LEFT_OUT);
}

/* ---- spellings of the whole ---- */

/* Valid if letters are any-case, and the text is valid. */
static void add_cased(struct maker *m, char *text, enum case_why why)
{
    unsigned before = m->cases->len;
    add(m, text, why);
    if (m->cases->len > before && m->lx->any_case)
        ((struct drill_case *)m->cases->pdata[before])->valid = true;
}

static char *mixed(const char *text)
{
    char *own = g_strdup(text);
    for (char *p = own; *p; p++) *p = (p - own) % 2 ? *p : g_ascii_toupper(*p);
    return own;
}

/* Whether something else than `word` that is possible there begins with its first n letters. */
static bool begins_others(const struct maker *m, unsigned at, const char *word, gsize n)
{
    for (unsigned i = 0; i < m->lx->commands->len; i++) {
        const struct lex_command *other = m->lx->commands->pdata[i];
        for (unsigned k = at ? 1 : 0; k <= at && k < other->elements->len; k++) {
            const struct lex_element *e = other->elements->pdata[k];
            unsigned words = e->words ? e->words->len : 0;
            for (unsigned w = 0; w < words; w++)
                if (!g_ascii_strncasecmp(e->words->pdata[w], word, n) &&
                    g_ascii_strcasecmp(e->words->pdata[w], word) != 0)
                    return true;
            if (e->kind == LEX_WORD && !g_ascii_strncasecmp(e->text, word, n) &&
                g_ascii_strcasecmp(e->text, word) != 0)
                return true;
        }
    }
    for (const struct lex_built_in *b = lex_built_ins; !at && b->word; b++)
        if (b->said && m->lx->built_in & b->bit && !g_ascii_strncasecmp(b->word, word, n))
            return true;
    return false;
}

/* A word with as few letters as may be, and with one less, which nobody takes. */
static void shorten(struct maker *m, unsigned at)
{
    const struct lex_element *e = m->of->elements->pdata[at];
    bool word = (e->kind == LEX_WORD && !e->filler) || e->kind == LEX_CHOICE;
    gsize least = m->lx->shorten, length = strlen(m->pieces[at]);
    bool plain = word && least > 1 && length > least && !m->of->query && !m->of->implied;
    if (!plain || begins_others(m, at, m->pieces[at], least - 1)) return;
    for (gsize n = least; n >= least - 1; n--) {
        char *piece = g_strndup(m->pieces[at], n);
        unsigned before = m->cases->len;
        with(m, at, piece, n == least ? CASE_SHORT_FORM : CASE_CUT_WORD);
        if (m->cases->len > before)
            ((struct drill_case *)m->cases->pdata[before])->valid |= n == least;
        g_free(piece);
    }
}

/* Every truncation; where words may be shortened only those that leave too few letters of the
 * first one, as others may be somebody's. */
static void cut_words(struct maker *m, const char *whole)
{
    gsize length = strlen(whole), most = m->lx->shorten ? m->lx->shorten - 1 : length - 1;
    bool rests = false; /* a text up to the end of the line is one however short */
    for (unsigned i = 0; i < m->n; i++)
        rests |= ((struct lex_element *)m->of->elements->pdata[i])->rest;
    for (gsize n = 1; !rests && n <= most && n < length; n++)
        add(m, g_strchomp(g_strndup(whole, n)), CASE_CUT_WORD);
}

static void try_command(struct maker *m)
{
    m->n = MIN(m->of->elements->len, PIECES);
    for (unsigned i = 0; i < m->n; i++) m->pieces[i] = plain(m->lx, m->of->elements->pdata[i]);
    add(m, joined(m, m->n, 0, NULL), CASE_PLAIN);
    for (m->element = 0; m->element < m->n; m->element++)
        vary(m, m->element, m->of->elements->pdata[m->element]);
    m->element = 0;
    for (unsigned n = 1; n < m->n; n++) add(m, joined(m, n, 0, NULL), CASE_CUT);
    char *whole = joined(m, m->n, 0, NULL);
    add(m, g_strconcat(whole, " zzz", NULL), CASE_EXTRA);
    add(m, g_strconcat("zz", whole, NULL), CASE_OTHER_WORD);
    add_cased(m, g_ascii_strup(whole, -1), CASE_CAPITALS);
    add_cased(m, mixed(whole), CASE_MIXED);
    add(m, g_strconcat("  ", whole, "  ", NULL), CASE_BLANKS);
    for (unsigned i = 0; i < m->n; i++) shorten(m, i);
    cut_words(m, whole);
    g_free(whole);
    for (unsigned i = 0; i < m->n; i++) g_free(m->pieces[i]);
}

/* ---- what is no command ---- */

static void add_known(struct maker *m, char *text, enum case_why why, bool valid)
{
    unsigned before = m->cases->len;
    add(m, text, why);
    if (m->cases->len > before) ((struct drill_case *)m->cases->pdata[before])->valid = valid;
}

/* A single word; `alone`: it takes no other behind it. */
static void try_word(struct maker *m, const char *name, const char *said, bool alone)
{
    m->word = name;
    g_ptr_array_add(m->rows, g_strdup(said));
    add_known(m, g_strdup(said), CASE_PLAIN, true);
    add_known(m, g_ascii_strup(said, -1), CASE_CAPITALS, m->lx->any_case);
    add_known(m, g_strconcat("  ", said, "  ", NULL), CASE_BLANKS, true);
    if (alone) add_known(m, g_strconcat(said, " zzz", NULL), CASE_EXTRA, false);
}

static void try_asked(struct maker *m, const char *name)
{
    char *said = g_strconcat(name, "?", NULL);
    try_word(m, name, said, true);
    g_free(said);
}

/* A number or other words; what they stand for is a built-in word or a command. */
static void try_number(struct maker *m, const struct lex_number *number)
{
    const struct lex_built_in *built_in = lex_said_built_in(number->text);
    int32_t values[15];
    unsigned given, before = m->cases->len;
    m->of = built_in ? NULL : lex_command_taking(m->lx, number->text, values, &given);
    if (built_in) {
        try_word(m, built_in->word, number->said, true);
    } else if (m->of && !m->of->query) {
        m->word = NULL;
        g_ptr_array_add(m->rows, g_strdup(number->said));
        add_known(m, g_strdup(number->said), CASE_PLAIN, true);
        if (m->cases->len > before)
            ((struct drill_case *)m->cases->pdata[before])->says = g_strdup(number->text);
    }
    m->of = NULL;
}

static void try_others(struct maker *m)
{
    const struct lexicon *lx = m->lx;
    m->of = NULL;
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        if (!query->of->len) try_asked(m, query->name);
    }
    if (lx->built_in & RLX_BUILT_IN_STATE) {
        for (unsigned i = 0; i < lx->outputs->len; i++)
            try_asked(m, ((struct lex_output *)lx->outputs->pdata[i])->name);
        for (unsigned i = 0; i < lx->inputs->len; i++)
            try_asked(m, ((struct lex_input *)lx->inputs->pdata[i])->name);
        for (unsigned i = 0; i < lx->routines->len; i++)
            try_asked(m, ((struct lex_routine *)lx->routines->pdata[i])->name);
        for (unsigned i = 0; i < lx->settings->len; i++)
            try_asked(m, ((struct lex_setting *)lx->settings->pdata[i])->name);
        for (unsigned i = 0; i < lx->links->len; i++)
            if (lex_drives_modem(lx->links->pdata[i]))
                try_asked(m, ((struct lex_link *)lx->links->pdata[i])->name);
    }
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
        if (b->said && lx->built_in & b->bit)
            try_word(m, b->word, b->word,
                     b->bit != RLX_BUILT_IN_HELP && b->bit != RLX_BUILT_IN_LOG);
    for (unsigned i = 0; i < lx->numbers->len; i++) try_number(m, lx->numbers->pdata[i]);
}

static void case_free(void *p)
{
    g_free(((struct drill_case *)p)->text);
    g_free(((struct drill_case *)p)->says);
    g_free(p);
}

/* ---- keys and codes ---- */

#define DIGITS_MOST 4u /* of a code, that are all looked at */

/* The text with these digits for its '#'. Owned by the caller. */
static char *with_digits(const char *text, const char *digits)
{
    char *filled = g_strdup(text);
    for (char *p = filled; *p; p++)
        if (*p == '#' && *digits) *p = *digits++;
    return filled;
}

static unsigned digits_of(const char *code)
{
    unsigned n = 0;
    for (; *code; code++) n += *code == '#';
    return n;
}

/* Whether the code is a command with these digits; *of becomes it. */
static bool says_command(const struct lexicon *lx, const struct lex_key *key, const char *digits,
                         const struct lex_command **of)
{
    int32_t values[15];
    unsigned given;
    char *says = with_digits(key->text, digits);
    const struct lex_command *command = lex_command_taking(lx, says, values, &given);
    g_free(says);
    if (command) *of = command;
    return command != NULL;
}

static void add_key(const struct lexicon *lx, GPtrArray *cases, const struct lex_key *key,
                    const char *digits, const struct lex_command *of, enum case_why why)
{
    guint row = 0;
    if (!of || !g_ptr_array_find(lx->commands, of, &row)) return;
    struct drill_case *test = g_new(struct drill_case, 1);
    *test = (struct drill_case){row,
                                of,
                                NULL,
                                with_digits(key->code, digits),
                                with_digits(key->text, digits),
                                why == CASE_KEY,
                                why,
                                0};
    g_ptr_array_add(cases, test);
}

/* Wherever what is valid begins or ends, the last of both. */
static void key_cases(const struct lexicon *lx, GPtrArray *cases, const struct lex_key *key)
{
    unsigned n = digits_of(key->code), all = 1;
    const struct lex_command *of = NULL;
    char digits[16], was[16] = "";
    bool valid = false;
    for (unsigned i = 0; i < MIN(n, DIGITS_MOST); i++) all *= 10;
    for (unsigned i = 0; i < all; i++) {
        g_snprintf(digits, sizeof digits, "%0*u", (int)n, i);
        const struct lex_command *before = of;
        bool now = says_command(lx, key, n ? digits : "", &of);
        bool bound = i && now != valid;
        if (bound && !now) add_key(lx, cases, key, was, before, CASE_KEY);
        if (bound && now) add_key(lx, cases, key, was, of, CASE_BELOW);
        if (bound || (!i && now) || (i == all - 1 && now && i))
            add_key(lx, cases, key, n ? digits : "", of, now ? CASE_KEY : CASE_ABOVE);
        valid = now;
        memcpy(was, digits, sizeof was);
    }
}

GPtrArray *drill_keys(const struct lexicon *lx, const struct lex_link *link)
{
    GPtrArray *cases = g_ptr_array_new_with_free_func(case_free);
    for (unsigned i = 0; i < link->keys->len; i++) key_cases(lx, cases, link->keys->pdata[i]);
    return cases;
}

GPtrArray *drill_led(const GPtrArray *cases, char lead)
{
    GPtrArray *led = g_ptr_array_new_with_free_func(case_free);
    for (unsigned i = 0; i < cases->len; i++) {
        struct drill_case *test = g_new(struct drill_case, 1);
        *test = *(const struct drill_case *)cases->pdata[i];
        test->says = g_strdup(test->text);
        test->text = g_strdup_printf("%c%s", lead, test->says);
        g_ptr_array_add(led, test);
    }
    return led;
}

bool drill_may_say(const struct lex_link *link, const struct drill_case *test)
{
    if (link->layout) return layout_asks(link, test->text ? test->text : test->word);
    if (!test->word) return lex_may_say(link, test->of);
    return lex_may_say_word(link, test->word) || !strcmp(test->word, "halt"); /* never denied */
}

GPtrArray *drill_cases(const struct lexicon *lx, GPtrArray *rows)
{
    struct maker m = {.lx = lx, .rows = rows, .known = g_hash_table_new(g_str_hash, g_str_equal)};
    m.cases = g_ptr_array_new_with_free_func(case_free);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        m.of = lx->commands->pdata[i];
        g_ptr_array_add(rows, lex_command_text(m.of));
        try_command(&m);
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        if (!query->of->len) continue;
        m.of = query->asked;
        g_ptr_array_add(rows, lex_command_text(m.of));
        try_command(&m);
    }
    try_others(&m);
    g_hash_table_destroy(m.known);
    return m.cases;
}
