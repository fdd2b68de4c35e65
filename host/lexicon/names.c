/* The C names of what a lexicon has: identifiers, enum types, arguments.
 * The same word gives the same name wherever it is emitted.
 * Whether two names collide is checked in check/c_names.c. */
#include "lexicon/names.h"
#include "lexicon/slot.h"

#include <string.h>

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

bool lex_is_keyword(const char *identifier)
{
    return g_strv_contains(keywords, identifier);
}

char *lex_identifier(const char *word, bool upper)
{
    char *name = upper ? g_ascii_strup(word, -1) : g_ascii_strdown(word, -1);
    for (char *p = name; *p; p++)
        if (!g_ascii_isalnum(*p)) *p = '_';
    return name;
}

bool lex_is_verbs(const struct lex_element *choice)
{
    if (choice->outputs || choice->kind == LEX_SET) return false;
    static const char *const verbs[] = {"off", "on", "toggle", NULL};
    for (unsigned i = 0; i < choice->words->len; i++)
        if (!g_strv_contains(verbs, choice->words->pdata[i])) return false;
    return true;
}

static bool same_words(const struct lex_element *a, const struct lex_element *b)
{
    bool same = a->kind == b->kind && a->words->len == b->words->len;
    for (unsigned i = 0; same && i < a->words->len; i++)
        same = !strcmp(a->words->pdata[i], b->words->pdata[i]);
    return same;
}

static char *plain_name(const struct lexicon *lx, const struct lex_element *choice)
{
    GString *name = g_string_new(lx->name);
    for (unsigned i = 0; i < (choice->text ? 1 : choice->words->len); i++) {
        char *part = lex_identifier(choice->text ? choice->text : choice->words->pdata[i], false);
        g_string_append_printf(name, "_%s", part);
        g_free(part);
    }
    return g_string_free(name, FALSE);
}

static void add_names(const struct lexicon *lx, GHashTable *names, const GPtrArray *elements)
{
    for (unsigned k = 0; k < elements->len; k++) {
        struct lex_element *e = elements->pdata[k];
        if (!lex_has_words(e)) continue;
        char *name = plain_name(lx, e);
        if (g_hash_table_contains(names, name))
            g_free(name);
        else
            g_hash_table_insert(names, name, e);
    }
}

GHashTable *lex_enum_names(const struct lexicon *lx)
{
    GHashTable *names = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind == LEX_CALL) add_names(lx, names, lex_arguments(command));
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_command *asked = ((struct lex_query *)lx->queries->pdata[i])->asked;
        if (asked) add_names(lx, names, lex_arguments(asked));
    }
    return names;
}

char *lex_enum_name(const struct lexicon *lx, const struct lex_command *command,
                    const struct lex_element *choice)
{
    if (lex_is_verbs(choice)) return g_strdup("rlx_verb");
    char *name = plain_name(lx, choice);
    const struct lex_element *first = g_hash_table_lookup(lx->enum_names, name);
    if (first && !same_words(first, choice)) {
        char *longer =
            g_strdup_printf("%s_%s%s", lx->name, command->effect.handler, name + strlen(lx->name));
        g_free(name);
        return longer;
    }
    return name;
}

char *lex_argument_name(const GPtrArray *elements, const struct lex_element *slot)
{
    unsigned number = 0, before = 0;
    bool named = slot->text && !slot->unnamed;
    if (named) return lex_identifier(slot->text, false);
    for (unsigned i = 0; i < elements->len; i++) {
        const struct lex_element *e = elements->pdata[i];
        if (e->kind == LEX_WORD || (e->text && !e->unnamed) || e->kind != slot->kind) continue;
        number++;
        if (e == slot) before = number;
    }
    const char *name = lex_slot_of(slot)->name;
    return number > 1 ? g_strdup_printf("%s%u", name, before) : g_strdup(name);
}
