/* Puts pages together of the parts in host/pages/parts, and the lexicon as JSON.
 * A page's "@NAME@" is replaced by that part.
 * It speaks to nobody: a page does, in its browser. */
#include "pages/pages.h"

#include <jansson.h>
#include <string.h>

#include "bundle/sources.h"
#include "lexicon/write/emit.h"
#include "sender/sender.h"

/* As a browser reads it: nothing of it is markup. */
static char *in_script(json_t *json)
{
    char *text = json_dumps(json, JSON_COMPACT);
    char **parts = g_strsplit(text, "<", -1), *safe = g_strjoinv("\\u003c", parts);
    g_strfreev(parts);
    free(text);
    json_decref(json);
    return safe;
}

static const char *part(GHashTable *sources, const char *name)
{
    char *path = g_strconcat("host/pages/parts/", name, NULL);
    const char *text = bundle_source(sources, path);
    if (!text) g_error("the tool lacks its own source %s", path);
    g_free(path);
    return text;
}

/* All of them, in this order. Owned by the caller. */
static char *parts(GHashTable *sources, const char *const *names)
{
    GString *all = g_string_new(NULL);
    for (; *names; names++) g_string_append(all, part(sources, *names));
    return g_string_free(all, FALSE);
}

/* Takes the text over. */
static void put_in(GString *page, const char *name, char *text)
{
    char *mark = g_strconcat("@", name, "@", NULL), *at = strstr(page->str, mark);
    if (!at) g_error("the page has no %s", mark);
    gssize where = at - page->str;
    g_string_erase(page, where, (gssize)strlen(mark));
    g_string_insert(page, where, text);
    g_free(mark);
    g_free(text);
}

/* `what`: what the page is, behind the lexicon's title; "": it is that alone. What is the lexicon's
 * own comes last: no text of it is taken for a mark. */
static char *page(const struct lexicon *lx, const struct image *image, const char *what,
                  const char *html, const char *const *styles, const char *const *scripts)
{
    const char *const all[] = {"head.html", html, "foot.html", NULL};
    GHashTable *sources = bundle_sources();
    char *text = parts(sources, all);
    GString *out = g_string_new(text);
    char *title = g_strconcat(lx->title ? lx->title : lx->name, what, NULL);
    g_free(text);
    put_in(out, "SCRIPT", parts(sources, scripts));
    put_in(out, "STYLE", parts(sources, styles));
    put_in(out, "LEXICON", in_script(sender_json(lx, image)));
    put_in(out, "TITLE", g_markup_escape_text(title, -1));
    put_in(out, "MADE", lexicon_made_by(lx, true));
    g_free(title);
    g_hash_table_destroy(sources);
    return g_string_free(out, FALSE);
}

char *pages_sender(const struct lexicon *lx, const struct image *image)
{
    static const char *const styles[] = {"base.css", "sender.css", NULL};
    static const char *const scripts[] = {"base.js",  "layout.js", "frames.js", "client.js",
                                          "lines.js", "slots.js",  "sender.js", NULL};
    return page(lx, image, "", "sender.html", styles, scripts);
}

bool pages_write_sender(const struct lexicon *lx, const struct image *image, const char *directory,
                        GError **error)
{
    bool any = false;
    for (unsigned i = 0; i < lx->links->len; i++) any |= sender_has_page(lx->links->pdata[i]);
    if (!any) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "%s has no link that a page speaks over: seals are not supported yet, channels "
                    "are a radio control's, and answers need an end",
                    lx->name);
        return false;
    }
    char *name = g_strconcat(lx->name, ".html", NULL), *text = pages_sender(lx, image);
    bool ok = emit_write(directory, &name, &text, 1, error);
    g_free(name), g_free(text);
    return ok;
}

char *pages_bench(const struct lexicon *lx, const struct image *image)
{
    static const char *const styles[] = {"base.css", "bench.css", NULL};
    static const char *const scripts[] = {"base.js",   "draw.js",  "scene.js",    "words.js",
                                          "faults.js", "bench.js", "drilling.js", "replay.js",
                                          "begin.js",  NULL};
    return page(lx, image, ": bench", "bench.html", styles, scripts);
}

char *pages_drill(const struct lexicon *lx, const struct image *image)
{
    static const char *const styles[] = {"base.css", "drill.css", NULL};
    static const char *const scripts[] = {"base.js", "drilling.js", "drill.js", NULL};
    return page(lx, image, ": drill", "drill.html", styles, scripts);
}
