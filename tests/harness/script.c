#include "script.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static GString *unescape(const char *text)
{
    GString *out = g_string_new(NULL);
    for (; *text; text++) {
        char hex[3] = {0};
        if (text[0] != '\\') {
            g_string_append_c(out, *text);
        } else if (text[1] == 'x') {
            memcpy(hex, text + 2, 2);
            g_string_append_c(out, (char)strtoul(hex, NULL, 16));
            text += 3;
        } else {
            g_string_append_c(out, text[1] == 'r' ? '\r' : text[1] == 'n' ? '\n' : text[1]);
            text++;
        }
    }
    return out;
}

static void bad(const char *file, unsigned line, const char *what)
{
    fprintf(stderr, "%s:%u: %s\n", file, line, what);
    exit(2);
}

static void add_line(struct script *script, const char *text)
{
    struct script_line line = {text[0], NULL};
    bool raw = g_str_has_prefix(text, ">>");
    text += raw ? 2 : 1;
    line.text = unescape(*text == ' ' ? text + 1 : text);
    if (line.kind == '>' && !raw) g_string_append_c(line.text, '\r');
    g_array_append_val(script->lines, line);
}

GPtrArray *script_read(const char *file)
{
    char *text, *folder = g_path_get_dirname(file);
    GPtrArray *all = g_ptr_array_new();
    struct script *now = NULL;
    if (!g_file_get_contents(file, &text, NULL, NULL)) bad(file, 0, "cannot be read");
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i]; i++) {
        const char *line = lines[i];
        if (g_str_has_prefix(line, "conversation ")) {
            now = g_new0(struct script, 1);
            now->title = g_strdup(line + 13);
            now->lines = g_array_new(FALSE, FALSE, sizeof(struct script_line));
            g_ptr_array_add(all, now);
        } else if (!*line || *line == '#') {
            continue;
        } else if (!now) {
            bad(file, i + 1, "a line before the first conversation");
        } else if (g_str_has_prefix(line, "lexicon ")) {
            now->lexicon = g_build_filename(folder, line + 8, NULL);
        } else if (g_str_has_prefix(line, "link ")) {
            now->link = (unsigned)atoi(line + 5);
        } else if (strchr("><=~!?", *line)) {
            add_line(now, line);
        } else {
            bad(file, i + 1, "not a line of a conversation");
        }
    }
    g_strfreev(lines);
    g_free(text);
    g_free(folder);
    if (!all->len) bad(file, 0, "no conversation in it");
    return all;
}

GString *script_expected(const struct script *script, char kind)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = 0; i < script->lines->len; i++) {
        struct script_line *line = &g_array_index(script->lines, struct script_line, i);
        if (line->kind == kind) g_string_append_printf(out, "%s\n", line->text->str);
    }
    return out;
}
