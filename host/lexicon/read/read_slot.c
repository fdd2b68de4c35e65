/* Reads the pieces of a command: words, choices, numbers, sets, lists, texts.
 * A slot stands in braces: name, range, unit, default.
 * It does not know which command they are of. */
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"

#include <stdlib.h>
#include <string.h>

#include "rlx/image.h"

#define NUMBER_MAX INT32_MAX

/* Words of commands: a letter or '_' first, so that none looks like a number. */
bool lex_word_ok(const char *word, const char **why)
{
    *why = "a word begins with a letter or '_'";
    if (!g_ascii_isalpha(word[0]) && word[0] != '_') return false;
    *why = "a word has letters, digits, '_', '-' and '.' only";
    for (const char *p = word; *p; p++)
        if (!g_ascii_isalnum(*p) && !strchr("_-.", *p)) return false;
    *why = "a word has at most 31 characters";
    return strlen(word) <= 31;
}

char *lex_spelt(const struct lexicon *lx, const char *word)
{
    return lx->any_case ? g_ascii_strdown(word, -1) : g_strdup(word);
}

bool lex_is_digits(const char *word)
{
    return *word && !word[strspn(word, "0123456789")];
}

/* A choice of a command may have numbers among its words. None may be cut: 13 is not meant by 1. */
static void check_word(struct lexicon *lx, const struct lex_element *e, const char *word)
{
    const char *why;
    bool digits = e->kind == LEX_CHOICE && lex_is_digits(word);
    if (!digits && !lex_word_ok(word, &why))
        lex_fault(lx, e->place, "'%s': %s", word, why);
    else if (digits && strlen(word) > 9)
        lex_fault(lx, e->place, "'%s': a number has at most 9 digits", word);
    else if (digits && lx->shorten && strlen(word) > lx->shorten)
        lex_fault(lx, e->place, "with 'shorten %u' a part of '%s' would be taken for it",
                  lx->shorten, word);
}

void lex_read_words(struct lexicon *lx, struct lex_element *e, char *body)
{
    e->words = g_ptr_array_new_with_free_func(g_free);
    char **words = g_strsplit(body, "|", -1);
    for (char **w = words; *w; w++) {
        g_strstrip(*w);
        if (!**w)
            lex_fault(lx, e->place, "a word is missing beside a '|'");
        else
            check_word(lx, e, *w);
        char *word = lex_spelt(lx, *w);
        for (unsigned i = 0; i < e->words->len; i++)
            if (!strcmp(word, e->words->pdata[i]))
                lex_fault(lx, e->place, "'%s' stands twice in this choice", *w);
        g_ptr_array_add(e->words, word);
    }
    if (e->words->len > 255) lex_fault(lx, e->place, "more than 255 words in a choice");
    g_strfreev(words);
}

/* One bound of a range, with what its form needs. */
struct bound {
    enum lex_form form;
    int64_t value; /* digits, without point */
    unsigned decimals, unit;
};

/* -5, 1.50, 0x1F, 250ms: up to ".." or a unit of another kind. */
static bool read_bound(const char *text, const char **end, struct bound *bound)
{
    bool minus = *text == '-';
    const char *p = text + minus;
    int digit;
    *bound = (struct bound){.form = LEX_WHOLE};
    if (!g_ascii_isdigit(*p)) return false;
    if (!minus && *p == '0' && g_ascii_tolower(p[1]) == 'x') {
        bound->form = LEX_HEX;
        for (p += 2; (digit = g_ascii_xdigit_value(*p)) >= 0 && bound->value <= NUMBER_MAX; p++)
            bound->value = bound->value * 16 + digit;
    }
    for (; g_ascii_isdigit(*p) && bound->value <= NUMBER_MAX; p++)
        bound->value = bound->value * 10 + *p - '0';
    if (bound->form == LEX_WHOLE && *p == '.' && g_ascii_isdigit(p[1])) {
        bound->form = LEX_FRACTION;
        for (p++; g_ascii_isdigit(*p) && bound->value <= NUMBER_MAX; p++, bound->decimals++)
            bound->value = bound->value * 10 + *p - '0';
    }
    size_t letters = strspn(p, "mshin");
    if (bound->form == LEX_WHOLE && letters && lex_time_unit(p, letters) >= 0) {
        bound->form = LEX_TIME;
        bound->unit = (unsigned)lex_time_unit(p, letters);
        p += letters;
    }
    if (minus) bound->value = -bound->value;
    *end = p;
    return true;
}

static int64_t in_milliseconds(const struct bound *bound)
{
    static const int64_t steps[] = {1, 1000, 60000, 3600000};
    return bound->value * steps[bound->unit];
}

bool lex_read_bounds(struct lex_element *e, const char *p, const char **end, int64_t *low,
                     int64_t *high)
{
    struct bound a, b;
    if (!read_bound(p, &p, &a) || strncmp(p, "..", 2) != 0 || !read_bound(p + 2, &p, &b))
        return false;
    if (a.form == LEX_WHOLE && b.form == LEX_TIME) { /* 1..90min: a plain number with a unit */
        static const size_t letters[] = {2, 1, 3, 1};
        b.form = LEX_WHOLE;
        p -= letters[b.unit];
    }
    e->decimals = MAX(a.decimals, b.decimals);
    if (e->decimals) {
        for (; a.decimals < e->decimals; a.decimals++) a.value *= 10;
        for (; b.decimals < e->decimals; b.decimals++) b.value *= 10;
        a.form = b.form = LEX_FRACTION;
    }
    e->form = a.form;
    e->bare = a.unit;
    *low = a.form == LEX_TIME ? in_milliseconds(&a) : a.value;
    *high = b.form == LEX_TIME ? in_milliseconds(&b) : b.value;
    *end = p;
    return a.form == b.form && e->decimals <= RLX_DECIMALS_MOST;
}

void lex_read_unit(struct lexicon *lx, struct lex_element *e, const char *unit)
{
    for (const char *p = unit; *p; p++)
        if (!g_ascii_isalpha(*p) && *p != '%') {
            lex_fault(lx, e->place, "'%s' is no unit: letters or '%%'", unit);
            return;
        }
    if (strlen(unit) > 15) lex_fault(lx, e->place, "the unit '%s' is longer than 15 letters", unit);
    e->unit = lex_spelt(lx, unit);
}

static bool within(int64_t low, int64_t high)
{
    return MIN(low, high) >= -NUMBER_MAX && MAX(low, high) <= NUMBER_MAX;
}

void lex_check_scale(struct lexicon *lx, const struct lex_element *e, int64_t reach)
{
    int64_t span = (int64_t)e->high - e->low;
    if (span < 1)
        lex_fault(lx, e->place, "a range of one number cannot be scaled");
    else if (reach > ((int64_t)G_MAXUINT32 - span / 2) / span)
        lex_fault(lx, e->place,
                  "%" G_GINT64_FORMAT " steps as %" G_GINT64_FORMAT
                  ": their product is beyond 32 bits",
                  span, reach);
}

/* as LOW..HIGH, also backwards */
static void read_scale(struct lexicon *lx, struct lex_element *e, const char *text)
{
    struct lex_element to = {0};
    int64_t low, high;
    const char *end;
    e->scaled = true;
    if (!lex_read_bounds(&to, text, &end, &low, &high) || *end || to.form != LEX_WHOLE ||
        !within(low, high)) {
        lex_fault(lx, e->place, "'as %s': expected LOW..HIGH of whole numbers within %d..%d", text,
                  -NUMBER_MAX, NUMBER_MAX);
        return;
    }
    e->to_low = (int32_t)low;
    e->to_high = (int32_t)high;
    lex_check_scale(lx, e, high < low ? low - high : high - low);
}

/* " KEYWORD X" at the end of a text: cut off, and X returned; NULL: it is not there. */
static char *cut_behind(char *body, const char *keyword)
{
    char *at = strstr(body, keyword);
    if (!at) return NULL;
    *at = 0;
    g_strchomp(body);
    return g_strstrip(at + strlen(keyword));
}

/* LOW..HIGH, a unit, from SETTING, up to SETTING, as LOW..HIGH */
void lex_read_range(struct lexicon *lx, struct lex_element *e, char *body)
{
    const char *end;
    int64_t low, high;
    char *as = cut_behind(body, " as "), *upto = cut_behind(body, " up to ");
    char *from = cut_behind(body, " from ");
    e->upto = g_strdup(upto);
    e->from = g_strdup(from);
    g_strchomp(body);
    if (!lex_read_bounds(e, body, &end, &low, &high)) {
        lex_fault(lx, e->place,
                  "'%s': expected LOW..HIGH, like 0..100, -5..5, 0.0..9.9, 0x00..0xFF or 10ms..5s",
                  body);
        return;
    }
    if (!within(low, high)) {
        lex_fault(lx, e->place, "'%s': numbers are within %d..%d", body, -NUMBER_MAX, NUMBER_MAX);
        return;
    }
    e->low = (int32_t)low;
    e->high = (int32_t)high;
    if (e->low > e->high) {
        char *from = lex_value_text(e, e->low), *to = lex_value_text(e, e->high);
        lex_fault(lx, e->place, "the range begins at %s and ends below it, at %s", from, to);
        g_free(from);
        g_free(to);
    }
    if (*end && e->form == LEX_TIME)
        lex_fault(lx, e->place, "'%s': a time's units are ms, s, min and h", end);
    else if (*end)
        lex_read_unit(lx, e, end);
    if (as) read_scale(lx, e, as);
}

/* " = X" at the end of a slot: cut off, and returned. */
static char *cut_fallback(char *body)
{
    char *equals = strrchr(body, '=');
    if (!equals) return NULL;
    *equals = 0;
    g_strchomp(body);
    return g_strstrip(g_strdup(equals + 1));
}

static void read_fallback(struct lexicon *lx, struct lex_element *e, const char *text)
{
    e->optional = true;
    if (lex_slot_of(e)->read_default)
        lex_slot_of(e)->read_default(lx, e, text);
    else
        lex_fault(lx, e->place, "only a choice or a number may be left out");
}

static bool begins_with(const char *body, const char *keyword)
{
    size_t n = keyword ? strlen(keyword) : 0;
    return n && !strncmp(body, keyword, n) && (!body[n] || body[n] == ' ');
}

/* Whether the text begins with a keyword of this kind. */
static bool is_keyword(const struct lex_slot *slot, const char *body)
{
    return begins_with(body, slot->keywords[0]) || begins_with(body, slot->keywords[1]);
}

/* Whether the slot begins with its name: a word before what it holds. */
static bool has_name(const char *body, const char *blank)
{
    char *first = g_strndup(body, (size_t)(blank - body));
    bool named = !strchr(first, '|') && !strstr(first, "..") && !g_ascii_isdigit(*first) &&
                 blank[strspn(blank, " \t")] != '|';
    for (unsigned i = 0; named && i < LEX_ELEMENT_KINDS; i++)
        named = !is_keyword(lex_slots[i], first);
    g_free(first);
    return named;
}

/* What the slot holds, its name cut off. */
static void read_body(struct lexicon *lx, struct lex_element *e, char *body)
{
    e->kind = LEX_NUMBER;
    for (unsigned i = 0; i < LEX_ELEMENT_KINDS; i++) {
        const struct lex_slot *slot = lex_slots[i];
        if (!is_keyword(slot, body) && !(slot->sign && strstr(body, slot->sign))) continue;
        e->kind = (enum lex_element_kind)i;
        slot->read(lx, e, body);
        return;
    }
    if (lex_word_ok(body, &(const char *){NULL})) {
        lex_fault(lx, e->place,
                  "'{%s}' has no range or words, like {%s 0..99} or {a|b}; a fixed word "
                  "has no "
                  "braces",
                  body, body);
    } else {
        lex_fault(
            lx, e->place,
            "expected a slot: {a|b|c}, {name LOW..HIGH}, {name text 1..16}, {name set a|b} or "
            "{name 4 of LOW..HIGH}");
    }
}

/* {[name] a|b|c} or {[name] LOW..HIGH[unit]}, and = X where it may be left out */
struct lex_element *lex_read_slot(struct lexicon *lx, struct token *token)
{
    struct lex_element *e = g_new0(struct lex_element, 1);
    const char *why;
    char *body = g_strstrip(g_strdup(token->text)), *rest = body, *fallback = cut_fallback(body);
    e->place = token->place;
    char *blank = strpbrk(body, " \t");
    if (blank && has_name(body, blank)) {
        *blank = 0;
        rest = g_strchug(blank + 1);
        e->text = g_strdup(body);
        if (!lex_word_ok(body, &why) || strpbrk(body, ".-"))
            lex_fault(lx, e->place, "a slot's name is a letter, then letters, digits or '_'");
    }
    read_body(lx, e, rest);
    e->unnamed = !e->text && !lex_has_words(e);
    if (e->unnamed) e->text = g_strdup(lex_has_numbers(e) ? "value" : lex_slot_of(e)->name);
    if (fallback) read_fallback(lx, e, fallback);
    g_free(fallback);
    g_free(body);
    return e;
}
