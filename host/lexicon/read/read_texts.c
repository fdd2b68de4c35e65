/* Reads `texts`: what a link sends instead of the replies and events.
 * What a text can stand for is known when everything is read.
 * Whether it is a command elsewhere is asked in check/senders.c. */
#include "lexicon/read/reader.h"

#include <string.h>

#include "lexicon/answers.h"
#include "rlx/image.h"

void lex_text_free(void *p)
{
    g_free(((struct lex_text *)p)->what);
    g_free(((struct lex_text *)p)->text);
    g_free(p);
}

void lex_only_ascii(struct lexicon *lx, const struct token *text)
{
    for (const char *p = text->text; p && *p; p++) {
        if (*p >= ' ' && *p <= '~') continue;
        lex_fault(lx, text->place, "the tables have ASCII characters only, from blank to ~");
        return;
    }
}

/* texts LINK  ok = "+"  err = "-"  ev call pressed = "P" */
void read_texts(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_peek(st);
    char *name = statement_name(st, "the link whose texts these are");
    struct lex_link *link = name ? lexicon_link(lx, name) : NULL;
    if (name && !link) lex_fault(lx, token->place, "there is no link '%s' above", name);
    g_free(name);
    while (link && statement_peek(st)->kind == TOKEN_WORD) {
        GString *what = g_string_new(NULL);
        struct lex_place place = statement_peek(st)->place;
        while (statement_peek(st)->kind == TOKEN_WORD)
            g_string_append_printf(what, "%s%s", what->len ? " " : "", statement_take(st)->text);
        struct token *equals = statement_take(st), *text = statement_take(st);
        if (equals->kind != TOKEN_EQUALS || text->kind != TOKEN_STRING) {
            lex_fault(lx, equals->place, "expected = and a text in quotes, like: ok = \"+\"");
            g_string_free(what, TRUE);
            return;
        }
        lex_only_ascii(lx, text);
        struct lex_text *own = g_new0(struct lex_text, 1);
        *own = (struct lex_text){place, g_string_free(what, FALSE), g_strdup(text->text)};
        g_ptr_array_add(link->texts, own);
    }
    if (link && statement_peek(st)->kind != TOKEN_END)
        lex_fault(lx, statement_peek(st)->place, "expected like: ok = \"+\"");
}

/* ---- when everything is read ---- */

/* All that a text can stand for, as `texts` writes it. Ended by NULL; owned by the caller. */
static GPtrArray *all_told(const struct lexicon *lx)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    static const char *const plain[] = {"ok", "already", "err", "note", "ready"};
    for (unsigned i = 0; i < G_N_ELEMENTS(plain); i++) g_ptr_array_add(all, g_strdup(plain[i]));
#define ADD(number, id, name, sentence) g_ptr_array_add(all, g_strdup("err " name));
    RLX_REPLY_ERRORS(ADD)
#undef ADD
    for (unsigned i = 0; i < lx->reasons->len; i++)
        g_ptr_array_add(all, g_strdup_printf("err %s", (char *)lx->reasons->pdata[i]));
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        g_ptr_array_add(all, g_strdup_printf("ev %s", event->name));
        GPtrArray *words = event->what ? event->what->words : NULL; /* a fault: no words */
        for (unsigned k = 0; words && k < words->len; k++)
            g_ptr_array_add(all, g_strdup_printf("ev %s %s", event->name, (char *)words->pdata[k]));
    }
    g_ptr_array_add(all, NULL);
    return all;
}

/* The errors that can know a field, as bits. */
static uint64_t errors_of(const char *field, size_t length)
{
#define FIELD(number, id, name, errors) \
    if (strlen(name) == length && !strncmp(field, name, length)) return (errors);
    RLX_ERROR_FIELDS(FIELD)
#undef FIELD
    return 0;
}

/* The error that the text is for, as a bit; every one: for all of them, or for a reason. */
static uint64_t error_of(const struct lex_text *own)
{
#define ERROR(number, id, name, sentence) \
    if (!strcmp(own->what, "err " name)) return UINT64_C(1) << (number);
    RLX_REPLY_ERRORS(ERROR)
#undef ERROR
    return ~UINT64_C(0);
}

/* Where a field stands in a text that has none, or one that its error does not know. */
static void check_fields(struct lexicon *lx, const struct lex_text *own)
{
    GString *known = g_string_new(NULL);
    uint64_t error = error_of(own);
#define FIELD(number, id, name, errors) \
    if (!(error & ~(errors))) g_string_append(known, " {" name "}");
    RLX_ERROR_FIELDS(FIELD)
#undef FIELD
    bool of_error = g_str_has_prefix(own->what, "err");
    const struct lex_text read = {.what = "err", .text = own->text};
    struct answer_piece piece;
    const char *at = own->text;
    while ((at = own_text_next(&read, at, &piece))) {
        if (piece.slot == -1 || (!of_error && piece.slot < 0)) continue;
        if (!of_error)
            lex_fault(lx, own->place, "'{%.*s}' can stand in the text of an error only",
                      (int)piece.length, piece.text);
        else if (error & ~errors_of(piece.text, piece.length))
            lex_fault(lx, own->place, "'{%.*s}' cannot stand in the text of '%s'; it knows%s",
                      (int)piece.length, piece.text, own->what, known->str);
    }
    g_string_free(known, TRUE);
    if (!of_error || !own_text_has_fields(own)) return;
    own_text_next(own, own->text, &piece);
    const char *blank = memchr(piece.text, ' ', piece.length);
    if (piece.slot == -1 && blank && blank != own->text) return;
    lex_fault(
        lx, own->place,
        "a text with values begins with a word of its own, by which it is known when it comes "
        "back, like: %s = \"not so: {name}\"",
        own->what);
}

static void check_text(struct lexicon *lx, const struct lex_link *link, const struct lex_text *own)
{
    check_fields(lx, own);
    GPtrArray *all = all_told(lx);
    const char *const *known = (const char *const *)all->pdata;
    const char *near = NULL;
    if (!g_strv_contains(known, own->what)) {
        struct lex_fault *fault =
            lex_find(lx, LEX_F01, own->place,
                     "'%s' is no reply or event of '%s': ok, already, err, err "
                     "NAME, note, ready, ev EVENT, ev EVENT WORD",
                     own->what, link->name);
        near = lex_nearest(own->what, known);
        char **words =
            g_strsplit(own->what, " ", 2); /* ok lamp on: the words are not distinguished */
        if (!near && g_strv_contains(known, words[0])) near = words[0];
        if (near) fault->advice = g_strdup_printf("%s = \"%s\"", near, own->text);
        g_strfreev(words);
    }
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *other = link->texts->pdata[i];
        if (other == own) break;
        if (!strcmp(other->what, own->what))
            lex_fault(lx, own->place, "a second text for '%s' on '%s'", own->what, link->name);
    }
    g_ptr_array_free(all, TRUE);
}

void lex_finish_texts(struct lexicon *lx, struct lex_link *link)
{
    for (unsigned k = 0; k < link->texts->len; k++) check_text(lx, link, link->texts->pdata[k]);
}
