/* Editor grammars (TextMate's JSON form) of the three languages, with what an editor's extension
 * needs. The words that begin a statement are those of the readers; what is inside a line is common
 * to all. It colours, it checks nothing: rlx check does. */
#include <jansson.h>
#include <stdlib.h>
#include <string.h>

#include "options/describe.h"
#include "drill/scenes/scene.h"
#include "files/files.h"
#include "lexicon/read/reader.h"
#include "world/boards/world_file.h"

static const struct language {
    const char *name;
    const struct lex_statement_kind *(*statements)(void);
} languages[] = {
    {"lexicon", lex_statements}, {"world", world_statements}, {"scene", scene_statements}};

#define NUMBER "[-+]?\\b[0-9]+(?:\\.[0-9]+)?(?:%|ms|us|s|min|h|[kM]?Hz|mm|cm|m|B)?(?![A-Za-z0-9_])"

static json_t *one(const char *match, const char *scope)
{
    return json_pack("{ss,ss}", "match", match, "name", scope);
}

/* A statement's first word, and the name that it gives. */
static json_t *statement(const struct language *l)
{
    GString *match = g_string_new("^\\s*(");
    const struct lex_statement_kind *kind = l->statements();
    for (const char *between = ""; kind->word; kind++, between = "|")
        g_string_append_printf(match, "%s%s", between, kind->word);
    g_string_append(match, ")(?![\\w-])(?:\\s+([A-Za-z_][\\w-]*))?");
    json_t *rule = json_pack("{ss,s{s{ss},s{ss}}}", "match", match->str, "captures", "1", "name",
                             "keyword.control.rlx", "2", "name", "entity.name.function.rlx");
    g_string_free(match, TRUE);
    return rule;
}

static json_t *grammar(const struct language *l)
{
    char *name = g_strdup_printf("Ready Lexicon %s", l->name),
         *scope = g_strdup_printf("source.rlx.%s", l->name);
    json_t *inside = json_pack("[o,o,o]", one(NUMBER, "constant.numeric.rlx"),
                               one("\\.\\.|\\|", "keyword.operator.rlx"),
                               one("[A-Za-z_][\\w-]*", "variable.parameter.rlx"));
    json_t *slot = json_pack("{ss,ss,ss,so}", "begin", "\\{", "end", "\\}|$", "name",
                             "meta.slot.rlx", "patterns", inside);
    json_t *all =
        json_pack("{ss,ss,s[s],s[o,o,o,o,o,o,o]}", "name", name, "scopeName", scope, "fileTypes",
                  l->name, "patterns", one("#.*$", "comment.line.number-sign.rlx"),
                  one("\"(?:[^\"\\\\]|\\\\.)*\"", "string.quoted.double.rlx"), statement(l), slot,
                  one("=>|<=", "keyword.operator.rlx"),
                  one("[A-Za-z_]\\w*(?=\\()", "entity.name.function.rlx"),
                  one(NUMBER, "constant.numeric.rlx"));
    g_free(scope);
    g_free(name);
    return all;
}

/* Takes the object. */
static bool put(const char *folder, const char *name, json_t *what, GError **error)
{
    char *path = g_build_filename(folder, name, NULL), *text = json_dumps(what, JSON_INDENT(1));
    bool ok = files_write(path, text, strlen(text), error);
    free(text);
    g_free(path);
    json_decref(what);
    return ok;
}

bool describe_grammars(const char *folder, const char *version, GError **error)
{
    json_t *known = json_array(), *grammars = json_array();
    bool ok = true;
    for (unsigned i = 0; ok && i < G_N_ELEMENTS(languages); i++) {
        const char *name = languages[i].name;
        char *file = g_strdup_printf("%s.tmLanguage.json", name),
             *id = g_strdup_printf("rlx-%s", name), *end = g_strdup_printf(".%s", name),
             *scope = g_strdup_printf("source.rlx.%s", name), *path = g_strdup_printf("./%s", file);
        ok = put(folder, file, grammar(&languages[i]), error);
        json_array_append_new(known,
                              json_pack("{ss,s[s],s[s],ss}", "id", id, "aliases", id, "extensions",
                                        end, "configuration", "./language-configuration.json"));
        json_array_append_new(
            grammars, json_pack("{ss,ss,ss}", "language", id, "scopeName", scope, "path", path));
        g_free(path);
        g_free(scope);
        g_free(end);
        g_free(id);
        g_free(file);
    }
    json_t *package =
        json_pack("{ss,ss,ss,ss,ss,s{ss},s{so,so}}", "name", "ready-lexicon", "displayName",
                  "Ready Lexicon", "description", "Colours for lexicons, worlds and scenes",
                  "publisher", "ready-lexicon", "version", version, "engines", "vscode", "^1.60.0",
                  "contributes", "languages", known, "grammars", grammars);
    json_t *line = json_pack("{s{ss},s[[ss],[ss]],s[[ss],[ss],[ss]]}", "comments", "lineComment",
                             "#", "brackets", "{", "}", "(", ")", "autoClosingPairs", "{", "}", "(",
                             ")", "\"", "\"");
    ok = put(folder, "package.json", package, ok ? error : NULL) && ok;
    return put(folder, "language-configuration.json", line, ok ? error : NULL) && ok;
}
