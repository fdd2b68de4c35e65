#include "names.h"
#include "reader.h"

#include <string.h>

/* Longest line in bytes. */
#define LINE_MAX_BYTES 8192
/* Larger files are refused: no lexicon that fits a 64 KiB image needs them. */
#define FILE_MAX (4 * 1024 * 1024)

static void read_lexicon(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_place place = g_array_index(st->tokens, struct token, 0).place;
    if (lx->name) {
        lex_fault(lx, place, "a second 'lexicon'; the first is in line %u", lx->place.line);
        return;
    }
    lx->place = place;
    if (!(lx->name = statement_name(st, "the lexicon's name"))) return;
    if (!statement_number(st, "the lexicon's version", 0, 65535, &lx->version)) return;
    lx->title = statement_title(st);
}

static void read_letters(struct statement *st)
{
    static const char *const words[] = {"any-case", "exact", NULL};
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_WORD && !strcmp(token->text, "any-case")) {
        lx->any_case = true;
    } else if (token->kind != TOKEN_WORD || strcmp(token->text, "exact") != 0) {
        char *near = lex_did_you_mean(token->text ? token->text : "", words);
        lex_fault(lx, token->place, "expected 'any-case' or 'exact'%s", near);
        g_free(near);
        return;
    }
    if (statement_take_word(st, "shorten") &&
        !statement_number(st, "the least letters of a shortened word", 1, 31, &lx->shorten))
        return;
    g_free(statement_title(st));
}

static void read_greeting(struct statement *st)
{
    struct token *token = statement_peek(st);
    st->lx->silent = statement_take_word(st, "off");
    if (!st->lx->silent && !statement_take_word(st, "on")) {
        lex_fault(st->lx, token->place, "expected 'on' or 'off'");
        return;
    }
    g_free(statement_title(st));
}

/* accept CODE NAME "reason" */
static void read_accept(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_peek(st);
    int code = token->kind == TOKEN_WORD ? lex_code_named(token->text) : -1;
    if (code < 0 || lex_codes[code].severity == SEVERITY_ERROR) {
        lex_fault(lx, token->place,
                  code < 0 ? "expected the code of a warning, like D05"
                           : "%s is an error, which cannot be accepted",
                  token->text);
        return;
    }
    struct lex_place place = statement_take(st)->place;
    char *subject = statement_name(st, "the name that the warning is about");
    char *reason = subject ? statement_title(st) : NULL;
    if (!subject || !reason || !*reason) {
        if (subject && !reason) lex_fault(lx, place, "expected the reason in quotes at the end");
        g_free(subject);
        g_free(reason);
        return;
    }
    struct lex_accept *accept = g_new0(struct lex_accept, 1);
    *accept = (struct lex_accept){place, (enum lex_code)code, subject, reason, false};
    g_ptr_array_add(lx->accepts, accept);
}

/* number 12 = gate close */
static void read_number(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_WORD || !*token->text || strlen(token->text) > 9 ||
        strspn(token->text, "0123456789") != strlen(token->text)) {
        lex_fault(lx, token->place, "expected a number of 1 to 9 digits");
        return;
    }
    for (unsigned i = 0; i < lx->numbers->len; i++)
        if (!strcmp(((struct lex_number *)lx->numbers->pdata[i])->digits, token->text))
            lex_fault(lx, token->place, "%s stands for a command already", token->text);
    struct token *equals = statement_take(st);
    if (equals->kind != TOKEN_EQUALS) {
        lex_fault(lx, equals->place, "expected '=' and the command that %s stands for",
                  token->text);
        return;
    }
    char *text = statement_rest(st);
    if (!*text) lex_fault(lx, equals->place, "expected a command behind '='");
    struct lex_number *number = g_new0(struct lex_number, 1);
    *number = (struct lex_number){token->place, g_strdup(token->text), text};
    g_ptr_array_add(lx->numbers, number);
}

static const struct {
    const char *word;
    void (*read)(struct statement *st);
} statements[] = {
    {"lexicon", read_lexicon}, {"letters", read_letters}, {"greeting", read_greeting},
    {"output", read_output},   {"command", read_command}, {"link", read_link},
    {"number", read_number},   {"accept", read_accept},
};

static void read_line(struct lexicon *lx, unsigned line)
{
    struct statement st;
    const char *known[G_N_ELEMENTS(statements) + 1] = {NULL};
    size_t length = strlen(lx->lines[line - 1]);
    if (length > LINE_MAX_BYTES) { /* not shown with the fault */
        lex_find(lx, LEX_F02, (struct lex_place){0}, "line %u has %zu bytes; %d is the most", line,
                 length, LINE_MAX_BYTES);
        return;
    }
    if (statement_split(&st, lx, line)) {
        struct token *first = statement_take(&st);
        unsigned i = 0;
        for (; i < G_N_ELEMENTS(statements); i++) {
            known[i] = statements[i].word;
            if (first->kind == TOKEN_WORD && !strcmp(first->text, known[i])) break;
        }
        if (i < G_N_ELEMENTS(statements)) {
            statements[i].read(&st);
        } else if (first->kind != TOKEN_END) {
            char *near = lex_did_you_mean(first->text, known);
            lex_fault(lx, first->place,
                      "expected a statement: lexicon, letters, greeting, output, command, number, "
                      "link or accept%s",
                      near);
            g_free(near);
        }
    }
    statement_clear(&st);
}

static void free_fault(void *p)
{
    struct lex_fault *fault = p;
    g_free(fault->text);
    g_free(fault->advice);
    g_free(fault->subject);
    g_free(fault->reason);
    g_free(fault->witness);
    g_free(fault);
}

static void free_accept(void *p)
{
    struct lex_accept *accept = p;
    g_free(accept->subject);
    g_free(accept->reason);
    g_free(accept);
}

static void free_output(void *p)
{
    g_free(((struct lex_output *)p)->name);
    g_free(p);
}

static void free_number(void *p)
{
    struct lex_number *number = p;
    g_free(number->digits);
    g_free(number->text);
    g_free(number);
}

static void free_link(void *p)
{
    struct lex_link *link = p;
    g_free(link->name);
    g_ptr_array_free(link->keys, TRUE);
    g_free(link);
}

/* Faults of the whole file, before any statement is looked at. */
static bool check_bytes(struct lexicon *lx, const char *text, size_t size)
{
    const char *bad;
    if (g_utf8_validate(text, (gssize)size, &bad)) return true;
    struct lex_place place = {1, 0, 1};
    const char *line = text;
    for (const char *p = text; p < bad; p++)
        if (*p == '\n') place.line++, line = p + 1;
    place.column = (unsigned)g_utf8_strlen(line, bad - line);
    char *shown = g_strndup(text, (size_t)(bad - text)); /* the line up to the place */
    g_strfreev(lx->lines);
    lx->lines = g_strsplit(*shown ? shown : " ", "\n", -1);
    g_free(shown);
    if (*bad)
        lex_find(lx, LEX_F02, place, "byte 0x%02X is not UTF-8", (unsigned char)*bad);
    else
        lex_find(lx, LEX_F02, place, "a NUL byte: this is not a text file");
    return false;
}

struct lexicon *lexicon_read(const char *file, GError **error)
{
    char *text;
    gsize size;
    if (!g_file_get_contents(file, &text, &size, error)) return NULL;
    struct lexicon *lx = g_new0(struct lexicon, 1);
    lx->file = g_strdup(file);
    lx->faults = g_ptr_array_new_with_free_func(free_fault);
    lx->outputs = g_ptr_array_new_with_free_func(free_output);
    lx->commands = g_ptr_array_new_with_free_func(lex_command_free);
    lx->links = g_ptr_array_new_with_free_func(free_link);
    lx->numbers = g_ptr_array_new_with_free_func(free_number);
    lx->accepts = g_ptr_array_new_with_free_func(free_accept);
    lx->lines = g_new0(char *, 1);
    if (size > FILE_MAX) {
        lex_find(lx, LEX_F02, (struct lex_place){0}, "%zu bytes; a lexicon has at most %d", size,
                 FILE_MAX);
    } else if (check_bytes(lx, text, size)) {
        g_strfreev(lx->lines);
        lx->lines = g_strsplit(text, "\n", -1);
        for (unsigned i = 0; lx->lines[i]; i++) read_line(lx, i + 1);
        if (!lx->name && !lx->faults->len)
            lex_fault(lx, (struct lex_place){0}, "no 'lexicon NAME VERSION' in it");
        finish_commands(lx);
        finish_links(lx);
    }
    lx->enum_names = lex_enum_names(lx);
    g_free(text);
    return lx;
}

void lexicon_free(struct lexicon *lx)
{
    if (!lx) return;
    g_hash_table_destroy(lx->enum_names);
    g_ptr_array_free(lx->faults, TRUE);
    g_ptr_array_free(lx->outputs, TRUE);
    g_ptr_array_free(lx->commands, TRUE);
    g_ptr_array_free(lx->links, TRUE);
    g_ptr_array_free(lx->numbers, TRUE);
    g_ptr_array_free(lx->accepts, TRUE);
    g_strfreev(lx->lines);
    g_free(lx->file);
    g_free(lx->name);
    g_free(lx->title);
    g_free(lx);
}

struct lex_link *lexicon_link(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        if (!strcmp(link->name, name)) return link;
    }
    return NULL;
}

int lexicon_output_index(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->outputs->len; i++)
        if (!strcmp(((struct lex_output *)lx->outputs->pdata[i])->name, name)) return (int)i;
    return -1;
}
