#include "reader.h"

#include <string.h>

static void read_call(struct statement *st, struct lex_command *command, struct token *token)
{
    static const char *const keywords[] = {
        "auto",    "break",  "case",     "char",   "const",    "continue", "default",
        "do",      "double", "else",     "enum",   "extern",   "float",    "for",
        "goto",    "if",     "inline",   "int",    "long",     "register", "restrict",
        "return",  "short",  "signed",   "sizeof", "static",   "struct",   "switch",
        "typedef", "union",  "unsigned", "void",   "volatile", "while",    NULL};
    command->effect.kind = LEX_CALL;
    command->effect.handler = g_strndup(token->text, strlen(token->text) - 2);
    const char *name = command->effect.handler;
    bool ok = g_ascii_isalpha(*name) && strlen(name) <= 31;
    for (const char *p = name; *p; p++) ok = ok && (g_ascii_isalnum(*p) || *p == '_');
    if (!ok || g_strv_contains(keywords, name))
        lex_fault(st->lx, token->place, "'%s' cannot be the name of a C function", name);
}

/* What the output is told, where it stands in the lexicon. */
static void read_fixed(struct statement *st, struct lex_command *command,
                       const struct lex_output *out)
{
    static const char *const verbs[] = {"off", "on", "toggle", NULL}; /* enum rlx_verb */
    struct token *token = statement_take(st);
    guint64 percent;
    char *digits = g_strdup(token->text);
    if (g_str_has_suffix(digits, "%")) digits[strlen(digits) - 1] = 0;
    for (int i = 0; verbs[i]; i++)
        if (!strcmp(token->text, verbs[i])) command->effect.fixed = i;
    if (command->effect.fixed < 0) {
        if (out->pwm && g_ascii_string_to_unsigned(digits, 10, 0, 100, &percent, NULL)) {
            command->effect.kind = LEX_LEVEL;
            command->effect.fixed = (int)percent;
        } else {
            char *near = lex_did_you_mean(token->text, verbs);
            lex_fault(st->lx, token->place, "'%s' is told on, off%s%s", out->name,
                      out->pwm ? ", toggle or 0..100%" : " or toggle", near);
            g_free(near);
        }
    }
    g_free(digits);
}

/* An output whose name is spelt so in commands, or -1. */
static int output_spelt(const struct lexicon *lx, const char *word)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        char *name = lex_spelt(lx, ((struct lex_output *)lx->outputs->pdata[i])->name);
        bool same = !strcmp(name, word);
        g_free(name);
        if (same) return (int)i;
    }
    return -1;
}

/* The slot of this name says which output it is: each of its words is one. */
static bool read_which(struct lexicon *lx, struct lex_command *command, const char *name)
{
    struct lex_element *slot = NULL;
    for (unsigned i = 0; command->elements && i < command->elements->len; i++) {
        struct lex_element *e = command->elements->pdata[i];
        if (!slot && e->kind != LEX_WORD) slot = e; /* the first slot only */
    }
    if (!slot || slot->kind != LEX_CHOICE || g_strcmp0(slot->text, name) != 0) return false;
    slot->outputs = g_new0(unsigned, slot->words->len);
    for (unsigned i = 0; i < slot->words->len; i++) {
        int index = output_spelt(lx, slot->words->pdata[i]);
        slot->outputs[i] = (unsigned)MAX(index, 0);
        if (index < 0)
            lex_find(lx, LEX_D14, slot->place, "'%s' is none of the outputs above",
                     (char *)slot->words->pdata[i]);
    }
    command->effect.which = slot;
    command->effect.output = slot->outputs[0];
    return true;
}

/* OUTPUT [VERB | LEVEL], or the first slot's name instead of an output; or FUNCTION() */
bool read_effect(struct statement *st, struct lex_command *command)
{
    struct token *token = statement_take(st);
    command->effect.fixed = -1;
    if (token->kind != TOKEN_WORD) {
        lex_fault(st->lx, token->place, "expected an output or a function() after '=>'");
        return false;
    }
    if (g_str_has_suffix(token->text, "()")) {
        read_call(st, command, token);
        return true;
    }
    int index = lexicon_output_index(st->lx, token->text);
    if (index >= 0) command->effect.output = (unsigned)index;
    if (index < 0 && !read_which(st->lx, command, token->text)) {
        char *near = lex_did_you_mean_output(st->lx, token->text);
        if (*near)
            lex_fault(st->lx, token->place, "there is no output '%s' above%s", token->text, near);
        else
            lex_fault(st->lx, token->place,
                      "there is no output '%s' above; a function is written '%s()'", token->text,
                      token->text);
        g_free(near);
        return false;
    }
    if (statement_peek(st)->kind == TOKEN_WORD && st->lx->outputs->len)
        read_fixed(st, command, st->lx->outputs->pdata[command->effect.output]);
    return true;
}
