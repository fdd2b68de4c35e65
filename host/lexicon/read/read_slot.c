#include "reader.h"

#include <stdlib.h>
#include <string.h>

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

void lex_read_choice(struct lexicon *lx, struct lex_element *e, const char *body)
{
    const char *why;
    e->kind = LEX_CHOICE;
    e->words = g_ptr_array_new_with_free_func(g_free);
    char **words = g_strsplit(body, "|", -1);
    for (char **w = words; *w; w++) {
        g_strstrip(*w);
        if (!**w)
            lex_fault(lx, e->place, "a word is missing beside a '|'");
        else if (!lex_word_ok(*w, &why))
            lex_fault(lx, e->place, "'%s': %s", *w, why);
        char *word = lex_spelt(lx, *w);
        for (unsigned i = 0; i < e->words->len; i++)
            if (!strcmp(word, e->words->pdata[i]))
                lex_fault(lx, e->place, "'%s' stands twice in this choice", *w);
        g_ptr_array_add(e->words, word);
    }
    if (e->words->len > 255) lex_fault(lx, e->place, "more than 255 words in a choice");
    g_strfreev(words);
}

bool lex_read_bound(const char *text, const char **end, int32_t *bound)
{
    char *stop;
    if (!g_ascii_isdigit(text[*text == '-'])) return false;
    gint64 number = g_ascii_strtoll(text, &stop, 10);
    *end = stop;
    *bound = (int32_t)number;
    return number >= -(gint64)NUMBER_MAX && number <= NUMBER_MAX;
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

/* LOW..HIGH and a unit. */
static void read_range(struct lexicon *lx, struct lex_element *e, const char *body)
{
    const char *p = body;
    e->kind = LEX_NUMBER;
    if (!lex_read_bound(p, &p, &e->low) || strncmp(p, "..", 2) != 0 ||
        !lex_read_bound(p + 2, &p, &e->high)) {
        lex_fault(lx, e->place, "'%s': expected LOW..HIGH of whole numbers within %d..%d", body,
                  -NUMBER_MAX, NUMBER_MAX);
        return;
    }
    if (e->low > e->high)
        lex_fault(lx, e->place, "the range begins at %d and ends below it, at %d", e->low, e->high);
    if (*p) lex_read_unit(lx, e, p);
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
    const char *end = "";
    e->optional = true;
    if (e->kind == LEX_CHOICE) {
        guint index;
        char *word = lex_spelt(lx, text);
        if (g_ptr_array_find_with_equal_func(e->words, word, g_str_equal, &index))
            e->fallback = (int32_t)index;
        else
            lex_fault(lx, e->place, "'%s' is none of the words of this slot", text);
        g_free(word);
    } else if (!lex_read_bound(text, &end, &e->fallback) || e->fallback < e->low ||
               e->fallback > e->high || (*end && g_strcmp0(end, e->unit) != 0)) {
        lex_fault(lx, e->place, "'%s' is not in the slot's range, %d..%d%s", text, e->low, e->high,
                  e->unit ? e->unit : "");
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
    if (blank && !memchr(body, '|', (size_t)(blank - body))) {
        *blank = 0;
        rest = g_strchug(blank + 1);
        if (*rest != '|') {
            e->text = g_strdup(body);
            if (!lex_word_ok(body, &why) || strpbrk(body, ".-"))
                lex_fault(lx, e->place, "a slot's name is a letter, then letters, digits or '_'");
        }
    }
    if (strchr(rest, '|')) {
        lex_read_choice(lx, e, rest);
    } else if (strstr(rest, "..")) {
        read_range(lx, e, rest);
        e->unnamed = !e->text;
        if (!e->text) e->text = g_strdup("value");
    } else {
        lex_fault(lx, e->place, "expected a slot: {a|b|c} or {name LOW..HIGH}");
        e->kind = LEX_NUMBER;
        if (!e->text) e->text = g_strdup("value");
    }
    if (fallback) read_fallback(lx, e, fallback);
    g_free(fallback);
    g_free(body);
    return e;
}
