/* Completes a line by the lexicon: commands, queries, built-in words, and the lines for the tool.
 * A shortened word counts as the one that it begins.
 * It types nothing and prints nothing. */
#include "endpoint/complete.h"

#include <string.h>

static void complete_free(void *p)
{
    g_free(((struct complete *)p)->text);
    g_free(p);
}

/* Takes the text over. */
static void add(GPtrArray *all, char *text, bool slot, const char *begun)
{
    bool fits = slot || !g_ascii_strncasecmp(text, begun, strlen(begun));
    for (unsigned i = 0; fits && i < all->len; i++)
        fits = strcmp(((struct complete *)all->pdata[i])->text, text) != 0;
    if (!fits) {
        g_free(text);
        return;
    }
    struct complete *one = g_new(struct complete, 1);
    *one = (struct complete){text, slot};
    g_ptr_array_add(all, one);
}

/* Whether what was typed can be this word of the lexicon. */
static bool is_word(const struct lexicon *lx, const char *word, const char *typed)
{
    size_t n = strlen(typed);
    bool whole = n == strlen(word), cut = lx->shorten && n >= lx->shorten && n < strlen(word);
    if (!whole && !cut) return false;
    return lx->any_case ? !g_ascii_strncasecmp(word, typed, n) : !strncmp(word, typed, n);
}

/* Whether what was typed can stand for the element. */
static bool is_element(const struct lexicon *lx, const struct lex_element *e, const char *typed)
{
    bool words = e->kind == LEX_CHOICE || e->kind == LEX_SET;
    for (unsigned i = 0; words && i < e->words->len; i++)
        if (is_word(lx, e->words->pdata[i], typed)) return true;
    for (unsigned i = 0; e->kind == LEX_WORD && i < lex_spellings(e); i++)
        if (is_word(lx, lex_spelling(e, i), typed)) return true;
    return e->kind != LEX_WORD && !words;
}

static void add_element(GPtrArray *all, const struct lex_element *e, const char *begun)
{
    if (e->kind == LEX_WORD) {
        add(all, g_strdup(lex_spelling(e, 0)), false, begun);
        return;
    }
    bool words = e->kind == LEX_CHOICE || e->kind == LEX_SET;
    for (unsigned i = 0; words && i < e->words->len; i++)
        add(all, g_strdup(e->words->pdata[i]), false, begun);
    bool number = g_ascii_isdigit(*begun) || *begun == '-' || *begun == '"';
    if (!words && (!*begun || number)) add(all, lex_element_text(e), true, begun);
}

/* The element that comes behind these words; those that may be left out are passed over. */
static void add_next(GPtrArray *all, const struct lexicon *lx, const struct lex_command *command,
                     char **words, unsigned n)
{
    unsigned at = 0;
    for (unsigned i = 0; i < n; i++, at++) {
        for (; at < command->elements->len; at++) {
            const struct lex_element *e = command->elements->pdata[at];
            if (is_element(lx, e, words[i])) break;
            if (!e->filler && !e->optional) return;
        }
        if (at == command->elements->len) return;
    }
    for (; at < command->elements->len; at++) {
        const struct lex_element *e = command->elements->pdata[at];
        add_element(all, e, words[n]);
        if (!e->filler && !e->optional) return;
    }
}

static void add_asked(GPtrArray *all, const char *name, const char *begun)
{
    add(all, g_strconcat(name, "?", NULL), false, begun);
}

/* NAME? of each thing that can be asked, and what is built in. */
static void add_others(GPtrArray *all, const struct lexicon *lx, const char *begun)
{
    for (unsigned i = 0; i < lx->queries->len; i++)
        add_asked(all, ((struct lex_query *)lx->queries->pdata[i])->name, begun);
    for (unsigned i = 0; i < lx->settings->len; i++)
        add_asked(all, ((struct lex_setting *)lx->settings->pdata[i])->name, begun);
    bool state = lx->built_in & RLX_BUILT_IN_STATE;
    for (unsigned i = 0; state && i < lx->outputs->len; i++)
        add_asked(all, ((struct lex_output *)lx->outputs->pdata[i])->name, begun);
    for (unsigned i = 0; state && i < lx->inputs->len; i++)
        add_asked(all, ((struct lex_input *)lx->inputs->pdata[i])->name, begun);
    for (unsigned i = 0; state && i < lx->routines->len; i++)
        add_asked(all, ((struct lex_routine *)lx->routines->pdata[i])->name, begun);
    for (unsigned i = 0; state && i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (lex_drives_modem(link)) add_asked(all, link->name, begun);
    }
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
        if (b->said && lx->built_in & b->bit) add(all, g_strdup(b->word), false, begun);
}

/* Whether what stands there is to be replaced: NAME, +NUMBER, [CODE]. */
static bool is_meant(const char *word)
{
    return g_ascii_isupper(*word) || *word == '+' || *word == '[';
}

/* Behind "! ": by a line like "lean on|off". */
static void add_tool(GPtrArray *all, const char *line, char **words, unsigned n)
{
    char **parts = g_strsplit(line, " ", -1);
    bool fits = g_strv_length(parts) > n;
    for (unsigned i = 0; fits && i < n; i++) {
        char **either = g_strsplit(parts[i], "|", -1);
        fits = is_meant(parts[i]) || g_strv_contains((const char *const *)either, words[i]);
        g_strfreev(either);
    }
    char **either = g_strsplit(fits ? parts[n] : "", "|", -1);
    for (unsigned i = 0; either[i]; i++)
        add(all, g_strdup(either[i]), is_meant(either[i]), words[n]);
    g_strfreev(either);
    g_strfreev(parts);
}

GPtrArray *complete_line(struct talk *talk, const char *line)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(complete_free), *lines = talk_tool_lines(talk);
    const struct end *end = talk_end(talk);
    const struct lexicon *lx = end->board->lx;
    bool tool = g_str_has_prefix(line, "! ");
    const char *from = strrchr(line, ';');
    char **words = g_strsplit_set(tool ? line + 2 : from ? from + 1 : line, " ", -1);
    unsigned n = 0; /* words that are whole; the last one may be empty */
    for (unsigned i = 0; words[i]; i++) {
        bool last = !words[i + 1];
        if (!*words[i] && !last) {
            g_free(words[i]); /* more blanks than one */
            continue;
        }
        words[n++] = words[i];
    }
    if (n) {
        words[n] = NULL;
        n--;
        for (unsigned i = 0; !tool && i < lx->commands->len; i++) {
            const struct lex_command *command = lx->commands->pdata[i];
            if (!command->query && lex_may_say(end->of, command))
                add_next(all, lx, command, words, n);
        }
        if (!tool && !n) add_others(all, lx, words[n]);
        for (unsigned i = 0; tool && i < lines->len; i++) add_tool(all, lines->pdata[i], words, n);
    }
    g_strfreev(words);
    g_ptr_array_free(lines, TRUE);
    return all;
}

char *complete_common(const GPtrArray *all, const char *line)
{
    const char *blank = strrchr(line, ' '), *first = NULL;
    size_t begun = strlen(blank ? blank + 1 : line), common = 0;
    unsigned words = 0;
    bool commands = false; /* NAME? stands back behind the command of that name */
    for (unsigned i = 0; i < all->len; i++)
        commands |= !g_str_has_suffix(((struct complete *)all->pdata[i])->text, "?");
    for (unsigned i = 0; i < all->len; i++) {
        const struct complete *one = all->pdata[i];
        if (commands && g_str_has_suffix(one->text, "?")) continue;
        if (one->slot) return g_strdup(""); /* it may be that as well */
        if (!words++) {
            first = one->text;
            common = strlen(first);
        }
        for (size_t k = 0; k < common; k++)
            if (g_ascii_tolower(one->text[k]) != g_ascii_tolower(first[k])) common = k;
    }
    if (!first || common < begun) return g_strdup("");
    return g_strdup_printf("%.*s%s", (int)(common - begun), first + begun, words == 1 ? " " : "");
}
