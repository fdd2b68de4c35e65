#include "lines.h"

#include <string.h>

#include "rlx/def/built_ins.h"

uint32_t lines_seed = 1;

unsigned lines_chance(unsigned n)
{
    lines_seed = lines_seed * 1664525u + 1013904223u;
    return (unsigned)(((uint64_t)lines_seed * n) >> 32);
}

/* A number in the element's range, or just outside it. */
static void say_number(GString *line, const struct lex_element *e)
{
    static const char *const ends[] = {"", "", "", "", "mm", "%", "s", "x"};
    int64_t span = (int64_t)e->high - e->low, value = e->low;
    value += lines_chance(4) ? (int64_t)lines_chance((unsigned)MIN(span, 100000) + 1)
                             : span + (int64_t)lines_chance(3) - 1;
    value = CLAMP(value, -INT32_MAX, INT32_MAX);
    char *text = e->form == LEX_TIME && lines_chance(2)
                     ? g_strdup_printf("%d%s", (int)value, lines_chance(2) ? "ms" : "")
                     : lex_value_text(e, (int32_t)value);
    if (e->form == LEX_FRACTION && !lines_chance(3)) *strchr(text, '.') = 0;
    g_string_append_printf(line, "%s%s%s%s", e->prefix ? e->prefix : "", lines_chance(8) ? "" : "0",
                           text,
                           e->glued && lines_chance(4) ? e->unit
                           : lines_chance(3)           ? ""
                                                       : ends[lines_chance(G_N_ELEMENTS(ends))]);
    g_free(text);
}

static void say_text(GString *line, const struct lex_element *e)
{
    static const char letters[] = "ab 1.\xC3\xA9;x";
    if (!e->rest) g_string_append_c(line, '"');
    for (unsigned n = (unsigned)e->low + lines_chance((unsigned)(e->high - e->low) + 2); n; n--)
        g_string_append_c(line, letters[lines_chance(e->rest ? 5 : sizeof letters - 1)]);
    if (!e->rest && lines_chance(8)) g_string_append_c(line, '"');
}

static void say_word(GString *line, const struct lex_element *e)
{
    gsize from = line->len;
    g_string_append(line, !e->words ? e->text : e->words->pdata[lines_chance(e->words->len)]);
    if (e->kind != LEX_SET && !lines_chance(3))
        g_string_truncate(line, from + 1 + lines_chance((unsigned)(line->len - from)));
    if (!lines_chance(4)) line->str[from] = g_ascii_toupper(line->str[from]);
}

static void say_element(GString *line, const struct lex_element *e)
{
    unsigned more = e->kind == LEX_SET || e->kind == LEX_LIST ? lines_chance(e->most + 2) : 0;
    do {
        if (e->kind == LEX_NUMBER || e->kind == LEX_LIST)
            say_number(line, e);
        else if (e->kind == LEX_TEXT)
            say_text(line, e);
        else if (e->kind == LEX_SET && !lines_chance(5))
            g_string_append(line, "none");
        else
            say_word(line, e);
        if (more) g_string_append_c(line, e->kind == LEX_SET ? '+' : ',');
    } while (more--);
}

char *lines_random(const struct lexicon *lx)
{
    static const char *const more[] = {"a", "on", "stop", "5", "now", "lamp", "-", "toggle"};
    static const char letters[] = "abelmnopstxzABLO0123456789-.%_ ";
    GString *line = g_string_new(NULL);
    unsigned which = lines_chance((unsigned)(lx->commands->len + lx->queries->len));
    const struct lex_command *c =
        which < lx->commands->len
            ? lx->commands->pdata[which]
            : ((struct lex_query *)lx->queries->pdata[which - lx->commands->len])->asked;
    for (unsigned i = 0; i < c->elements->len; i++) {
        if (i || !lines_chance(8)) g_string_append(line, lines_chance(8) ? " " : "  ");
        const struct lex_element *e = c->elements->pdata[i];
        if (e->optional && !lines_chance(3)) break;
        if (e->filler && lines_chance(2)) continue;
        if (lines_chance(12)) say_element(line, e);
    }
    if (!lines_chance(8))
        g_string_append_printf(line, " %s", more[lines_chance(G_N_ELEMENTS(more))]);
    if (!lines_chance(4) && line->len) {
        gsize at = lines_chance((unsigned)line->len);
        char letter = letters[lines_chance(sizeof letters - 1)];
        if (lines_chance(2))
            line->str[at] = letter;
        else
            g_string_insert_c(line, (gssize)at, letter);
    }
    return g_string_free(line, FALSE);
}

char *lines_said(const struct lexicon *lx)
{
#define WORD(id, word, spoken, sentence) word,
    static const char *const words[] = {RLX_BUILT_INS(WORD) "got"};
#undef WORD
    if (lines_chance(8)) return lines_random(lx);
    if (lx->outputs->len && !lines_chance(3)) {
        const struct lex_output *out = lx->outputs->pdata[lines_chance(lx->outputs->len)];
        return g_strdup_printf("%s?", out->name);
    }
    const char *word = words[lines_chance(2) ? G_N_ELEMENTS(words) - 1
                                             : lines_chance(G_N_ELEMENTS(words))];
    return lines_chance(2) ? g_strdup(word) : g_strdup_printf("%s %u", word, lines_chance(6));
}
