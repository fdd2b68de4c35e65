#include "reader.h"

#include <string.h>

#include "rlx/link.h"

static void free_key(void *p)
{
    g_free(((struct lex_key *)p)->text);
    g_free(p);
}

static bool key_place(struct statement *st, struct lex_link *link, struct token *token, char *key)
{
    if ((token->kind != TOKEN_WORD && token->kind != TOKEN_STRING) || strlen(token->text) != 1 ||
        !g_ascii_isgraph(token->text[0])) {
        lex_fault(st->lx, token->place,
                  "a key is one visible ASCII character; write \"%s\" for one that is a mark of "
                  "the language",
                  "#");
        return false;
    }
    *key = token->text[0];
    for (unsigned i = 0; i < link->keys->len; i++)
        if (((struct lex_key *)link->keys->pdata[i])->key == *key) {
            lex_fault(st->lx, token->place, "the key '%c' is bound already", *key);
            return false;
        }
    return true;
}

/* `t => lamp toggle` is short for the command `lamp toggle => lamp toggle`, where there is none
 * that says so, and the key t = "lamp toggle". */
static char *bind_effect(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_command effect = {.place = statement_peek(st)->place};
    unsigned faults = lx->faults->len;
    if (!read_effect(st, &effect) || lx->faults->len != faults) return NULL;
    if (effect.effect.kind == LEX_CALL || effect.effect.fixed < 0) {
        lex_fault(lx, effect.place,
                  "a key says it all: write an output and what it does, like '=> lamp toggle', or "
                  "= \"a command\"");
        g_free(effect.effect.handler);
        return NULL;
    }
    return lex_effect_command(lx, &effect);
}

/* KEY = "command" or KEY => EFFECT */
static bool read_key(struct statement *st, struct lex_link *link)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st), *mark;
    struct lex_key *key = g_new0(struct lex_key, 1);
    key->place = token->place;
    if (!key_place(st, link, token, &key->key)) goto bad;
    mark = statement_take(st);
    if (mark->kind == TOKEN_EQUALS) {
        token = statement_take(st);
        key->place = token->place;
        if (token->kind != TOKEN_STRING) {
            lex_fault(lx, token->place, "expected the command in quotes, like \"pump on\"");
            goto bad;
        }
        key->text = g_strdup(token->text);
    } else if (mark->kind == TOKEN_ARROW) {
        key->text = bind_effect(st);
        if (!key->text) goto bad;
        key->place = token->place;
    } else {
        lex_fault(lx, mark->place, "expected = \"a command\" or => an output behind the key '%c'",
                  key->key);
        goto bad;
    }
    g_ptr_array_add(link->keys, key);
    return true;
bad:
    free_key(key);
    return false;
}

/* A transmit ring holds at least the longest short reply, "err ambiguous" and a line end. */
static bool read_ring(struct statement *st, const char *what, unsigned least, unsigned *size)
{
    struct token *token = statement_peek(st);
    if (!statement_number(st, what, least, RLX_RING_MAX, size)) return false;
    if ((*size & (*size - 1)) == 0) return true;
    lex_fault(st->lx, token->place, "%s is a power of two: 16, 32, 64 or 128", what);
    return false;
}

static bool read_frame(struct statement *st, struct lex_link *link)
{
    static const char *const known[] = {"line", "keys", NULL};
    struct token *token = statement_peek(st);
    if (statement_take_word(st, "line")) {
        link->frame = LEX_FRAME_LINE;
    } else if (statement_take_word(st, "keys")) {
        link->frame = LEX_FRAME_KEYS;
    } else {
        char *near = lex_did_you_mean(token->text ? token->text : "", known);
        lex_fault(st->lx, token->place, "expected the framing: line or keys%s", near);
        g_free(near);
        return false;
    }
    return true;
}

static bool read_attribute(struct statement *st, struct lex_link *link, bool *framed)
{
    static const char *const known[] = {"frame", "receive", "transmit", "longest", NULL};
    struct token *token = statement_peek(st), *after = token + 1;
    if (after->kind == TOKEN_EQUALS || after->kind == TOKEN_ARROW) {
        if (*framed && link->frame == LEX_FRAME_KEYS) return read_key(st, link);
        lex_fault(st->lx, token->place, "keys stand behind 'frame keys'");
        return false;
    }
    if (statement_take_word(st, "frame")) return *framed = read_frame(st, link);
    if (statement_take_word(st, "receive")) return read_ring(st, "receive", 2, &link->receive);
    if (statement_take_word(st, "transmit")) return read_ring(st, "transmit", 16, &link->transmit);
    if (statement_take_word(st, "longest"))
        return statement_number(st, "the longest line in bytes", 8, RLX_FRAME_MAX, &link->longest);
    char *near = lex_did_you_mean(token->text ? token->text : "", known);
    lex_fault(st->lx, token->place, "expected frame, receive, transmit, longest or a key%s", near);
    g_free(near);
    return false;
}

/* link NAME serial BAUD frame line|keys [receive N] [transmit N] [longest N] [KEY = "..."] */
void read_link(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_link *link = g_new0(struct lex_link, 1);
    bool framed = false;
    link->keys = g_ptr_array_new_with_free_func(free_key);
    link->place = statement_peek(st)->place;
    link->name = statement_name(st, "the link's name");
    if (!link->name) {
        link->name = g_strdup("");
    } else if (lexicon_link(lx, link->name)) {
        lex_fault(lx, link->place, "a second link '%s'", link->name);
    }
    g_ptr_array_add(lx->links, link);
    if (!*link->name) return;
    if (lx->links->len == 256) lex_fault(lx, link->place, "more than 255 links");
    if (!statement_take_word(st, "serial")) {
        lex_fault(lx, statement_peek(st)->place, "expected what it is: serial");
        return;
    }
    if (!statement_number(st, "the baud rate", 50, 12000000, &link->baud)) return;
    while (statement_peek(st)->kind == TOKEN_WORD ||
           (statement_peek(st)->kind == TOKEN_STRING && statement_peek(st)[1].kind != TOKEN_END))
        if (!read_attribute(st, link, &framed)) return;
    g_free(statement_title(st));
    if (!framed) lex_fault(lx, link->place, "'%s' has no framing; write 'frame line'", link->name);
}

/* ---- when everything is read ---- */

static void check_key(struct lexicon *lx, const struct lex_key *key)
{
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (lex_command_says(lx, lx->commands->pdata[i], key->text)) return;
    lex_find(lx, LEX_D15, key->place, "the key '%c' stands for \"%s\", which no command takes",
             key->key, key->text);
}

void finish_links(struct lexicon *lx)
{
    if (!lx->links->len && lx->name)
        lex_fault(lx, lx->place,
                  "no link: nothing can be said; write 'link bench serial 115200 "
                  "frame line'");
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->keys->len; k++) check_key(lx, link->keys->pdata[k]);
        if (link->baud && link->frame == LEX_FRAME_KEYS && !link->keys->len && !lx->faults->len)
            lex_fault(lx, link->place, "no key is bound on '%s'", link->name);
    }
}
