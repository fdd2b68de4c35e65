/* Cuts a statement into tokens: words, texts in quotes, slots, '=', '=>', '<='.
 * Each token keeps its line and column.
 * It gives no token a meaning. */
#include "lexicon/read/reader.h"

#include <stdlib.h>
#include <string.h>

static struct lex_place place_of(unsigned file, unsigned line, const char *start, const char *from,
                                 const char *to)
{
    return (struct lex_place){file, line, (unsigned)g_utf8_pointer_to_offset(start, from),
                              (unsigned)g_utf8_pointer_to_offset(from, to)};
}

static bool is_blank(char c)
{
    return c == ' ' || c == '\t' || c == '\r';
}

/* The end of the token at p, and its kind; NULL where a quote or brace is left open. */
static const char *token_end(const char *p, enum token_kind *kind)
{
    if (*p == '"') {
        *kind = TOKEN_STRING;
        for (p++; *p && *p != '"'; p++)
            if (*p == '\\' && p[1]) p++;
        return *p ? p + 1 : NULL;
    }
    if (*p == '{') {
        *kind = TOKEN_SLOT;
        const char *close = strchr(p + 1, '}');
        return close ? close + 1 : NULL;
    }
    if (*p == '=') {
        *kind = p[1] == '>' ? TOKEN_ARROW : TOKEN_EQUALS;
        return p + (p[1] == '>' ? 2 : 1);
    }
    if (*p == '<' && p[1] == '=') {
        *kind = TOKEN_FROM;
        return p + 2;
    }
    *kind = TOKEN_WORD;
    while (*p && !is_blank(*p) && !strchr("\"{}=#", *p)) p++;
    return p;
}

/* \" and \\ within quotes are " and \. */
static void unescape(char *text)
{
    char *to = text;
    for (const char *from = text; *from; *to++ = *from++)
        if (*from == '\\' && (from[1] == '"' || from[1] == '\\')) from++;
    *to = 0;
}

/* Cuts line number `line` (from 1) into tokens; false after a fault. */
bool statement_split(struct statement *st, struct lexicon *lx, unsigned file, unsigned line)
{
    const char *start = lex_source_line(lx, file, line), *p = start;
    *st = (struct statement){lx, g_array_new(FALSE, TRUE, sizeof(struct token)), 0};
    for (;;) {
        while (is_blank(*p)) p++;
        struct token token = {.kind = TOKEN_END, .place = place_of(file, line, start, p, p)};
        if (!*p || *p == '#') {
            g_array_append_val(st->tokens, token);
            return true;
        }
        const char *end = token_end(p, &token.kind);
        if (!end || end == p) {
            token.place.length = 1;
            if (end)
                lex_fault(lx, token.place, "stray '%c'", *p);
            else
                lex_fault(lx, token.place, "this %s is never closed",
                          *p == '"' ? "quote" : "brace");
            return false;
        }
        token.place = place_of(file, line, start, p, end);
        bool wrapped = token.kind == TOKEN_STRING || token.kind == TOKEN_SLOT;
        token.text = g_strndup(p + wrapped, (size_t)(end - p) - 2 * wrapped);
        if (token.kind == TOKEN_STRING) unescape(token.text);
        g_array_append_val(st->tokens, token);
        p = end;
    }
}

void statement_clear(struct statement *st)
{
    for (unsigned i = 0; i < st->tokens->len; i++)
        g_free(g_array_index(st->tokens, struct token, i).text);
    g_array_free(st->tokens, TRUE);
}

struct token *statement_peek(struct statement *st)
{
    return &g_array_index(st->tokens, struct token, st->next);
}

struct token *statement_take(struct statement *st)
{
    struct token *token = statement_peek(st);
    if (token->kind != TOKEN_END) st->next++;
    return token;
}

bool statement_take_word(struct statement *st, const char *word)
{
    struct token *token = statement_peek(st);
    if (token->kind != TOKEN_WORD || strcmp(token->text, word) != 0) return false;
    st->next++;
    return true;
}

bool statement_number(struct statement *st, const char *what, unsigned low, unsigned high,
                      unsigned *value)
{
    struct token *token = statement_peek(st);
    guint64 number;
    if (token->kind == TOKEN_WORD &&
        g_ascii_string_to_unsigned(token->text, 10, low, high, &number, NULL)) {
        st->next++;
        *value = (unsigned)number;
        return true;
    }
    lex_fault(st->lx, token->place, "expected %s, a whole number %u..%u", what, low, high);
    return false;
}

bool lex_name_ok(const char *text)
{
    bool ok = g_ascii_isalpha(*text) && strlen(text) <= LEX_NAME_MOST;
    for (const char *p = text; *p; p++) ok = ok && (g_ascii_isalnum(*p) || *p == '_');
    return ok;
}

char *statement_name(struct statement *st, const char *what)
{
    struct token *token = statement_peek(st);
    const char *text = token->kind == TOKEN_WORD ? token->text : "";
    if (strlen(text) > LEX_NAME_MOST) {
        lex_fault(st->lx, token->place, "%s is longer than %u characters", what, LEX_NAME_MOST);
        return NULL;
    }
    if (!lex_name_ok(text)) {
        lex_fault(st->lx, token->place, "expected %s: a letter, then letters, digits or '_'", what);
        return NULL;
    }
    st->next++;
    return g_strdup(token->text);
}

char *statement_rest(struct statement *st)
{
    GString *text = g_string_new(NULL);
    bool all = statement_peek(st)->kind == TOKEN_STRING && statement_peek(st)[1].kind == TOKEN_END;
    while (statement_peek(st)->kind != TOKEN_END) {
        struct token *token = statement_take(st);
        bool quoted = token->kind == TOKEN_STRING && !all;
        g_string_append_printf(text, quoted ? "%s\"%s\"" : "%s%s", text->len ? " " : "",
                               token->text ? token->text : "");
    }
    return g_string_free(text, FALSE);
}

char *statement_title(struct statement *st)
{
    struct token *token = statement_peek(st);
    char *title = NULL;
    if (token->kind == TOKEN_STRING) {
        title = g_strdup(token->text);
        st->next++;
        token = statement_peek(st);
    }
    if (token->kind != TOKEN_END)
        lex_fault(st->lx, token->place, "expected the end of the line%s",
                  title ? "" : ", or a \"title\" before it");
    return title;
}
