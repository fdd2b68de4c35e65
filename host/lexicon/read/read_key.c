/* Reads the keys and codes of a link, and checks what each stands for.
 * A key is a whole command; `KEY => EFFECT` makes one where there is none.
 * The link itself is read in read_link.c. */
#include "lexicon/framing.h"
#include "lexicon/read/reader.h"

#include <string.h>

#include "rlx/image.h"
#include "rlx/link.h"

void lex_key_free(void *p)
{
    g_free(((struct lex_key *)p)->text);
    g_free(((struct lex_key *)p)->code);
    g_free(p);
}

static bool is_bound(struct lexicon *lx, const struct lex_link *link, struct lex_place place,
                     const char *code)
{
    for (unsigned i = 0; i < link->keys->len; i++) {
        if (strcmp(((struct lex_key *)link->keys->pdata[i])->code, code) != 0) continue;
        lex_fault(lx, place, "the %s '%s' is bound already", lex_framing_of(link)->unit, code);
        return true;
    }
    return false;
}

static bool add_key(struct lexicon *lx, struct lex_link *link, struct lex_place place,
                    struct lex_place text_place, const char *code, const char *text)
{
    if (is_bound(lx, link, place, code)) return false;
    struct lex_key *key = g_new0(struct lex_key, 1);
    *key = (struct lex_key){text_place, *code, g_strdup(code), g_strdup(text)};
    g_ptr_array_add(link->keys, key);
    return true;
}

/* Characters that can be seen; in a code, blanks between them, too. */
static bool is_seen(const char *text, bool blanks)
{
    char last = 0;
    for (const char *p = text; *p; last = *p++)
        if (!g_ascii_isgraph(*p) && !(blanks && *p == ' ' && p != text)) return false;
    return last != ' ';
}

/* abcdefghijk = "feed {0..100 step 10}" */
static bool add_run(struct lexicon *lx, struct lex_link *link, const struct token *token,
                    const struct token *text)
{
    GPtrArray *texts = lex_step_texts(lx, text->place, text->text);
    bool ok = texts != NULL;
    if (ok && texts->len != strlen(token->text)) {
        lex_fault(lx, token->place, "%zu keys for %u values", strlen(token->text), texts->len);
        ok = false;
    }
    for (unsigned i = 0; ok && i < texts->len; i++) {
        char code[2] = {token->text[i], 0};
        ok = add_key(lx, link, token->place, text->place, code, texts->pdata[i]);
    }
    if (texts) g_ptr_array_free(texts, TRUE);
    return ok;
}

/* `t => lamp toggle` is short for the command `lamp toggle => lamp toggle`, where there is none
 * for it, and the key t = "lamp toggle". */
static char *bind_effect(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_command effect = {.place = statement_peek(st)->place};
    unsigned faults = lx->faults->len;
    if (!read_effect(st, &effect) || lx->faults->len != faults) {
        g_free(effect.effect.handler);
        g_free(effect.effect.lasts_by);
        return NULL;
    }
    if (effect.effect.kind == LEX_CALL || effect.effect.fixed < 0 || effect.effect.lasts ||
        effect.effect.lasts_by ||
        (effect.effect.kind == LEX_VERB && effect.effect.verb->behind != RLX_BEHIND_NONE)) {
        lex_fault(
            lx, effect.place,
            "a key is a whole command: write an output and what it does, like '=> lamp toggle', or "
            "= \"a command\"");
        g_free(effect.effect.handler);
        g_free(effect.effect.lasts_by);
        return NULL;
    }
    return lex_effect_command(lx, &effect);
}

/* KEY = "command", KEYS = "command {0..100 step 10}" or KEY => EFFECT */
bool lex_read_key(struct statement *st, struct lex_link *link)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st), *mark = statement_take(st);
    bool keys = link->frame == LEX_FRAME_KEYS;
    if ((token->kind != TOKEN_WORD && token->kind != TOKEN_STRING) || !*token->text ||
        strlen(token->text) > 64 || !is_seen(token->text, !keys) ||
        (keys && mark->kind == TOKEN_ARROW && token->text[1])) {
        lex_fault(
            lx, token->place,
            !keys ? "a code is 1 to 64 visible ASCII characters in quotes, with blanks only "
                    "between them%.0s"
                  : "a key is one visible ASCII character; write \"%s\" for one that is a mark of "
                    "the language",
            "#");
        return false;
    }
    if (mark->kind == TOKEN_ARROW) {
        char *text = bind_effect(st);
        bool ok = text && add_key(lx, link, token->place, token->place, token->text, text);
        g_free(text);
        return ok;
    }
    struct token *text = statement_take(st);
    if (text->kind != TOKEN_STRING) {
        lex_fault(lx, text->place, "expected the command in quotes, like \"pump on\"");
        return false;
    }
    if (strchr(token->text, RLX_REPLY_LEAD)) {
        lex_fault(lx, token->place, "'%c' begins the device's replies, and is no key",
                  RLX_REPLY_LEAD);
        return false;
    }
    if (keys && strlen(token->text) > 1) return add_run(lx, link, token, text);
    return add_key(lx, link, token->place, text->place, token->text, text->text);
}

/* ---- when everything is read ---- */

static bool anybody_says(const struct lexicon *lx, const char *text)
{
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (lex_command_says(lx, lx->commands->pdata[i], text)) return true;
    if (lex_number_text(lx, text)) return true; /* what that is, is checked there */
    const struct lex_built_in *b = lex_said_built_in(text);
    return b && lx->built_in & b->bit;
}

/* The key's text, with the code's digits all 0 or all 9 in the places of '#'. */
static char *key_text(const struct lex_key *key, char digit)
{
    char *text = g_strdup(key->text);
    return g_strdelimit(text, "#", digit);
}

static void check_key(struct lexicon *lx, const struct lex_link *link, const struct lex_key *key)
{
    const char *kind = lex_framing_of(link)->unit;
    unsigned digits = 0, wanted = 0;
    for (const char *p = key->code; link->frame == LEX_FRAME_CODES && *p; p++) digits += *p == '#';
    for (const char *p = key->text; link->frame == LEX_FRAME_CODES && *p; p++) wanted += *p == '#';
    if (digits > RLX_CODE_DIGITS)
        lex_fault(lx, key->place, "the code '%s' has more than %d digits", key->code,
                  RLX_CODE_DIGITS);
    if (digits != wanted) {
        lex_fault(lx, key->place, "the code '%s' has %u digits, its text \"%s\" takes %u",
                  key->code, digits, key->text, wanted);
        return;
    }
    char *text = digits ? key_text(key, '0') : g_strdup(key->text);
    char *other = digits ? key_text(key, '9') : g_strdup(key->text);
    if (!anybody_says(lx, text) && !anybody_says(lx, other)) {
        struct lex_fault *fault = lex_find(lx, LEX_D15, key->place,
                                           "the %s '%s' stands for \"%s\", which no command takes",
                                           kind, key->code, key->text);
        fault->witness = g_strdup(text);
    }
    g_free(text);
    g_free(other);
}

/* Whether what begins a comment on the line looks like a key: # = "pump on". */
static bool comments_key(const char *line)
{
    bool quoted = false;
    for (; *line && (quoted || *line != '#'); line++) quoted ^= *line == '"';
    if (!*line) return false;
    line++;
    while (*line == ' ' || *line == '\t') line++;
    return *line == '=';
}

void lex_finish_keys(struct lexicon *lx, struct lex_link *link)
{
    for (unsigned k = 0; k < link->keys->len; k++) check_key(lx, link, link->keys->pdata[k]);
    if (!lex_is_keyed(link)) return;
    if (comments_key(lex_source_line(lx, link->place.file, link->place.line)))
        lex_fault(lx, link->place,
                  "a '#' without quotes begins a comment: write \"#\" = \"%s\" for the key",
                  "pump on");
    else if (!link->keys->len && !link->lead && !lx->faults->len)
        lex_fault(lx, link->place, "no %s is bound on '%s': write %s", lex_framing_of(link)->unit,
                  link->name, lex_framing_of(link)->like);
}
