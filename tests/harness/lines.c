#include "lines.h"

uint32_t lines_seed = 1;

unsigned lines_chance(unsigned n)
{
    lines_seed = lines_seed * 1664525u + 1013904223u;
    return (unsigned)(((uint64_t)lines_seed * n) >> 32);
}

static void say_element(GString *line, const struct lex_element *e)
{
    static const char *const ends[] = {"", "", "", "", "mm", "%", "s", "x"};
    if (e->kind == LEX_NUMBER) {
        int64_t span = (int64_t)e->high - e->low, value = e->low;
        value += lines_chance(4) ? (int64_t)lines_chance((unsigned)MIN(span, 100000) + 1)
                                 : span + (int64_t)lines_chance(3) - 1;
        g_string_append_printf(line, "%s%d%s", lines_chance(8) ? "" : "0", (int)value,
                               e->glued && lines_chance(4) ? e->unit
                               : lines_chance(3)           ? ""
                                                 : ends[lines_chance(G_N_ELEMENTS(ends))]);
        return;
    }
    gsize from = line->len;
    g_string_append(line, !e->words ? e->text : e->words->pdata[lines_chance(e->words->len)]);
    if (!lines_chance(3))
        g_string_truncate(line, from + 1 + lines_chance((unsigned)(line->len - from)));
    if (!lines_chance(4)) line->str[from] = g_ascii_toupper(line->str[from]);
}

char *lines_random(const struct lexicon *lx)
{
    static const char *const more[] = {"a", "on", "stop", "5", "now", "lamp", "-", "toggle"};
    static const char letters[] = "abelmnopstxzABLO0123456789-.%_ ";
    GString *line = g_string_new(NULL);
    const struct lex_command *c = lx->commands->pdata[lines_chance(lx->commands->len)];
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
