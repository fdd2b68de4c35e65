/* Runs the tool as a user does. Cases are data:
 *     case TITLE
 *     + line           of the file it.lexicon in a folder of its own, where the command runs
 *     $ command        for sh, with rlx and the examples' programs on its path; $SRC: the source
 *     < line           of standard input; \r \n \xNN
 *     | line           of standard output, in order and complete
 *     ! line           of standard error
 *     exit N           0 when left out
 * and # comments. */
#include <glib.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>

#include "harness.h"

static const char *file;

struct tool_case {
    char *title;
    GString *lexicon, *command, *input, *out, *err;
    int code;
};

static struct tool_case *case_new(const char *title)
{
    struct tool_case *c = g_new0(struct tool_case, 1);
    c->title = g_strdup(title);
    c->lexicon = g_string_new(NULL);
    c->command = g_string_new(NULL);
    c->input = g_string_new(NULL);
    c->out = g_string_new(NULL);
    c->err = g_string_new(NULL);
    return c;
}

/* A temporary file with these bytes. */
static char *put_file(const char *folder, const char *name, const GString *text)
{
    char *path = g_build_filename(folder, name, NULL);
    if (!g_file_set_contents(path, text->str, (gssize)text->len, NULL)) exit(2);
    return path;
}

/* An image's size and fingerprint change with every change of its format, and what made a report with
 * every commit. */
static void hide_numbers(char **text)
{
    static const char *const hidden[][2] = {
        {"image [0-9]+ bytes, fingerprint [0-9a-f]{8}", "image ..."},
        {"(fingerprint\\W+(?:value=\")?)[0-9a-f]{8}", "\\1FINGERPR"},
        {"rlx [0-9]+\\.[0-9]+\\.[0-9]+(, commit [0-9a-f]+)?", "rlx VERSION"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(hidden); i++) {
        GRegex *regex = g_regex_new(hidden[i][0], 0, 0, NULL);
        char *now = g_regex_replace(regex, *text, -1, 0, hidden[i][1], 0, NULL);
        g_free(*text);
        *text = now;
        g_regex_unref(regex);
    }
}

static void run(struct tool_case *c)
{
    char *folder = g_dir_make_tmp("rlx-test-XXXXXX", NULL), *out = NULL, *err = NULL;
    char *lexicon = put_file(folder, "it.lexicon", c->lexicon);
    char *input = put_file(folder, "input", c->input);
    char *shell = g_strdup_printf("(%s) <input", c->command->str);
    char *argv[] = {"/bin/sh", "-c", shell, NULL};
    int status = 0;
    test_context("%s", c->title);
    g_spawn_sync(folder, argv, NULL, 0, NULL, NULL, &out, &err, &status, NULL);
    g_strdelimit(out, "\r", ' '); /* a device's line end shows as a blank */
    hide_numbers(&out);
    CHECK_TEXT(out, c->out->str);
    CHECK_TEXT(err, c->err->str);
    CHECK_INT(WIFEXITED(status) ? WEXITSTATUS(status) : -1, c->code);
    char *remove = g_strdup_printf("rm -r '%s'", folder);
    if (system(remove) != 0) exit(2);
    g_free(remove);
    g_free(shell);
    g_free(lexicon);
    g_free(input);
    g_free(folder);
    g_free(out);
    g_free(err);
    g_free(c->title);
    for (GString **part = &c->lexicon; part <= &c->err; part++) g_string_free(*part, TRUE);
    g_free(c);
}

static void run_all(void)
{
    char *text;
    struct tool_case *now = NULL;
    unsigned count = 0;
    if (!g_file_get_contents(file, &text, NULL, NULL)) exit(2);
    char **lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line; line++) {
        const char *rest = (*line)[0] && (*line)[1] == ' ' ? *line + 2 : "";
        if (g_str_has_prefix(*line, "case ")) {
            if (now) run(now);
            now = case_new(*line + 5);
            count++;
        } else if (!now || !**line || **line == '#') {
            continue;
        } else if (g_str_has_prefix(*line, "exit ")) {
            now->code = atoi(*line + 5);
        } else if (**line == '+') {
            char *bytes = g_strcompress(rest);
            g_string_append_printf(now->lexicon, "%s\n", bytes);
            g_free(bytes);
        } else if (**line == '$') {
            g_string_append(now->command, rest);
        } else if (**line == '<') {
            g_string_append_printf(now->input, "%s\n", rest);
        } else if (**line == '|') {
            g_string_append_printf(now->out, "%s\n", rest);
        } else if (**line == '!') {
            g_string_append_printf(now->err, "%s\n", rest);
        } else {
            fprintf(stderr, "%s: what is '%s'?\n", file, *line);
            exit(2);
        }
    }
    if (now) run(now);
    CHECK(count > 0);
    g_strfreev(lines);
    g_free(text);
}

int main(int argc, char **argv)
{
    static const struct test_case cases[] = {{"cases of the tool", run_all}};
    if (argc != 2) return 2;
    file = argv[1];
    return test_main(1, argv, cases, 1);
}
