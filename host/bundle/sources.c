/* Finds the library's sources in the tool, and tidies what was put together of them.
 * They are a resource: CMakeLists.txt lists the files.
 * What is put together is decided elsewhere. */
#include "bundle/sources.h"

#include <gio/gio.h>
#include <stdbool.h>
#include <string.h>

#define SOURCES "/rlx/"

GHashTable *bundle_sources(void)
{
    return g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
}

static const char *load(GHashTable *texts, const char *path, const char *at)
{
    GBytes *bytes = g_resources_lookup_data(at, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
    if (!bytes) return NULL;
    gsize n;
    const char *data = g_bytes_get_data(bytes, &n);
    char *text = g_strndup(data, n);
    g_bytes_unref(bytes);
    g_hash_table_insert(texts, g_strdup(path), text);
    return text;
}

const char *bundle_source(void *sources, const char *path)
{
    static const char *const roots[] = {"", "include/", "ports/", "ports/sim/"};
    char *plain = g_canonicalize_filename(path, "/"), *name = plain + 1;
    const char *text = g_hash_table_lookup(sources, name);
    for (unsigned i = 0; !text && i < G_N_ELEMENTS(roots); i++) {
        char *at = g_strconcat(SOURCES, roots[i], name, NULL);
        text = load(sources, name, at);
        g_free(at);
    }
    g_free(plain);
    return text;
}

char *bundle_tidied(const char *text)
{
    GString *out = g_string_new(NULL);
    unsigned empty = 2;
    while (*text) {
        gsize n = strcspn(text, "\n");
        bool blank = strspn(text, " \t") >= n;
        empty = blank ? empty + 1 : 0;
        if (empty < 2) g_string_append_printf(out, "%.*s\n", (int)n, text);
        text += n + (text[n] == '\n');
    }
    return g_string_free(out, FALSE);
}

/* Whether the name stands in the text somewhere else than from `at` to `end`. */
static bool is_called(const char *text, const char *name, const char *at, const char *end)
{
    gsize n = strlen(name);
    for (const char *found = text; (found = strstr(found, name)); found += n) {
        bool whole = (found == text || !(g_ascii_isalnum(found[-1]) || found[-1] == '_')) &&
                     !(g_ascii_isalnum(found[n]) || found[n] == '_');
        if (whole && (found < at || found >= end)) return true;
    }
    return false;
}

/* Where the comment right before a function begins, or the function. */
static const char *with_comment(const char *text, const char *at)
{
    const char *line = at;
    while (line > text) {
        const char *before = line - 1;
        while (before > text && before[-1] != '\n') before--;
        if (!g_str_has_prefix(before, "/*") && !g_str_has_prefix(before, " *")) break;
        line = before;
        if (g_str_has_prefix(before, "/*")) return line;
    }
    return at;
}

void bundle_drop_uncalled(GString *c)
{
    static const char is[] = "static inline ";
    for (bool dropped = true; dropped;) {
        dropped = false;
        for (const char *at = c->str; (at = strchr(at, '\n')); at++) {
            const char *begins = strstr(at, is);
            if (!begins || begins > at + 1 + strcspn(at + 1, "\n") || at[1] == ' ') continue;
            const char *open = strchr(begins, '('), *name = open, *end = strstr(at, "\n}\n");
            while (g_ascii_isalnum(name[-1]) || name[-1] == '_') name--;
            char *own = g_strndup(name, (gsize)(open - name));
            bool called = !end || is_called(c->str, own, at, end);
            g_free(own);
            if (called) continue;
            const char *from = with_comment(c->str, at + 1);
            gssize offset = from - c->str;
            g_string_erase(c, offset, end + 3 - from);
            at = c->str + MAX(offset - 1, 0);
            dropped = true;
        }
    }
}
