/* Names of the lexicon as identifiers of the emitted C. */
#include <string.h>

#include "checks.h"
#include "names.h"

static const char *const keywords[] = {
    "alignas",  "alignof",  "and",      "asm",      "auto",     "bool",    "break",     "case",
    "catch",    "char",     "class",    "const",    "continue", "default", "delete",    "do",
    "double",   "else",     "enum",     "explicit", "export",   "extern",  "false",     "float",
    "for",      "friend",   "goto",     "if",       "inline",   "int",     "long",      "mutable",
    "new",      "noexcept", "not",      "operator", "or",       "private", "protected", "public",
    "register", "restrict", "return",   "short",    "signed",   "sizeof",  "static",    "struct",
    "switch",   "template", "this",     "throw",    "true",     "try",     "typedef",   "typeid",
    "typename", "union",    "unsigned", "using",    "virtual",  "void",    "volatile",  "while",
    "xor",      "main",     NULL};

struct names {
    struct lexicon *lx;
    GHashTable *taken; /* identifier -> what has it */
};

/* One identifier of the emitted C and what it is for. */
static void claim(struct names *names, struct lex_place place, char *identifier, char *what)
{
    const char *other = g_hash_table_lookup(names->taken, identifier);
    if (g_strv_contains(keywords, identifier))
        lex_find(names->lx, LEX_D09, place, "%s becomes '%s', a word of C or C++", what,
                 identifier);
    else if (other)
        lex_find(names->lx, LEX_D09, place, "%s and %s both become '%s' in C", other, what,
                 identifier);
    g_hash_table_insert(names->taken, identifier, what);
}

static void claim_upper(struct names *names, struct lex_place place, const char *kind,
                        const char *name)
{
    char *upper = lex_identifier(name, true), *prefix = lex_identifier(names->lx->name, true);
    claim(names, place, g_strdup_printf("%s_%s_%s", prefix, kind, upper),
          g_strdup_printf("the %s '%s'", g_str_equal(kind, "LINK") ? "link" : "output", name));
    g_free(upper);
    g_free(prefix);
}

/* A handler's arguments, beside the device itself. */
static void claim_arguments(struct lexicon *lx, const struct lex_command *command)
{
    struct names names = {lx, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    g_hash_table_insert(names.taken, g_strdup(lx->name), g_strdup("the device itself"));
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        claim(&names, e->place, lex_argument_name(command, e),
              g_strdup_printf("the slot '%s'", e->text ? e->text : "choice"));
    }
    g_hash_table_destroy(names.taken);
}

void check_names(struct lexicon *lx)
{
    struct names names = {lx, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    claim(&names, lx->place, g_strdup(lx->name), g_strdup("the lexicon's name"));
    claim(&names, lx->place, g_strdup_printf("%s_init", lx->name),
          g_strdup("the start of the device"));
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        claim_upper(&names, out->place, "OUTPUT", out->name);
    }
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        claim_upper(&names, link->place, "LINK", link->name);
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind != LEX_CALL) continue;
        char *name = g_strdup_printf("%s_%s", lx->name, command->effect.handler);
        const char *before = g_hash_table_lookup(names.taken, name);
        if (!before || !g_str_has_prefix(before, "the handler"))
            claim(&names, command->place, g_strdup(name),
                  g_strdup_printf("the handler '%s()'", command->effect.handler));
        g_free(name);
        claim_arguments(lx, command);
    }
    g_hash_table_destroy(names.taken);
}
