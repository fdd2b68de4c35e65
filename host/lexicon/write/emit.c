/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h.
 * Three files, written beside their places and moved there together.
 * What is in each stands in its own file. */
#include "lexicon/write/emit.h"

#include <errno.h>
#include <fcntl.h>
#include <glib/gstdio.h>
#include <string.h>
#include <sys/file.h>
#include <unistd.h>

#include "lexicon/names.h"
#include "lexicon/write/emit_parts.h"

/* Each file's first line: in C, and in HTML. */
#define MADE "Made by rlx emit from "
static const char *const opens[] = {"/* " MADE, "<!-- " MADE};

void emit_put(struct emit *e, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_string_append_vprintf(e->out, format, args);
    va_end(args);
}

char *emit_comment(const char *text)
{
    GString *out = g_string_new(NULL);
    for (const char *c = text; *c; c++) {
        bool opens = c[0] == '/' && c[1] == '*', closes = c[0] == '*' && c[1] == '/';
        if (opens || closes)
            g_string_append_printf(out, "%c ", *c);
        else
            g_string_append_c(out, (guchar)*c < ' ' ? ' ' : *c);
    }
    return g_string_free(out, FALSE);
}

char *lexicon_made_by(const struct lexicon *lx, bool html)
{
    char *base = g_path_get_basename(lx->file);
    char *comment = html ? g_markup_escape_text(base, -1) : emit_comment(base);
    char *line = g_strconcat(opens[html], comment, "; change that file, not this one.",
                             html ? " -->" : " */", NULL);
    g_free(comment);
    g_free(base);
    return line;
}

void emit_made_by(struct emit *e)
{
    char *line = lexicon_made_by(e->lx, false);
    emit_put(e, "%s\n", line);
    g_free(line);
}

static const struct {
    const char *suffix;
    void (*fill)(struct emit *);
} files[] = {{".h", emit_header}, {".c", emit_source}, {"_config.h", emit_config}};

/* Whether the file is none, or was emitted before. */
static bool may_replace(const char *path, GError **error)
{
    char *text = NULL;
    bool ok = !g_file_test(path, G_FILE_TEST_EXISTS);
    if (!ok && g_file_get_contents(path, &text, NULL, NULL))
        ok = g_str_has_prefix(text, opens[0]) || g_str_has_prefix(text, opens[1]);
    if (!ok)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_EXIST,
                    "%s was not made by rlx emit, and is left as it is: choose another folder (-o)",
                    path);
    g_free(text);
    return ok;
}

/* All of them or none: written beside their places first. */
static bool write_files(const char *directory, char *const *names, char *const *texts, unsigned n,
                        GError **error)
{
    char **path = g_new0(char *, n + 1), **beside = g_new0(char *, n + 1);
    bool ok = true;
    for (unsigned i = 0; i < n; i++) {
        path[i] = g_build_filename(directory, names[i], NULL);
        beside[i] = g_strconcat(path[i], ".new", NULL);
        ok = ok && may_replace(path[i], error);
    }
    for (unsigned i = 0; ok && i < n; i++) ok = g_file_set_contents(beside[i], texts[i], -1, error);
    for (unsigned i = 0; ok && i < n; i++)
        if (g_rename(beside[i], path[i]) != 0) {
            ok = false;
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", path[i],
                        g_strerror(errno));
        }
    for (unsigned i = 0; !ok && i < n; i++) g_remove(beside[i]);
    g_strfreev(path);
    g_strfreev(beside);
    return ok;
}

bool emit_write(const char *directory, char *const *names, char *const *texts, unsigned count,
                GError **error)
{
    int folder = g_mkdir_with_parents(directory, 0777) == 0 ? g_open(directory, O_RDONLY, 0) : -1;
    bool ok = folder >= 0;
    if (ok) { /* one at a time: the files belong together */
        flock(folder, LOCK_EX);
        ok = write_files(directory, names, texts, count, error);
        close(folder);
    } else {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "cannot make the folder %s",
                    directory);
    }
    return ok;
}

char *lexicon_emitted(const struct lexicon *lx, const struct image *image, unsigned which)
{
    struct emit e = {.lx = lx,
                     .image = image,
                     .upper = lex_identifier(lx->name, true),
                     .out = g_string_new(NULL)};
    files[which].fill(&e);
    g_free(e.upper);
    return g_string_free(e.out, FALSE);
}

bool lexicon_emit(const struct lexicon *lx, const struct image *image, const char *directory,
                  GError **error)
{
    char *names[G_N_ELEMENTS(files)], *texts[G_N_ELEMENTS(files)];
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        names[i] = g_strconcat(lx->name, files[i].suffix, NULL);
        texts[i] = lexicon_emitted(lx, image, i);
    }
    bool ok = emit_write(directory, names, texts, G_N_ELEMENTS(files), error);
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        g_free(names[i]);
        g_free(texts[i]);
    }
    return ok;
}
