/* The examples of docs/lexicon.md: each ```lexicon block is read without an error, what it leaves
 * out (name, link) added; each ```talk block is held with the device of the block before it: > line
 * said on the first link     @ LINK line   said on another     < reply      the next line that
 * comes back; and what rig_do() does */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "rig.h"

static char *path;

static bool has_statement(char **lines, const char *word)
{
    for (; *lines; lines++)
        if (g_str_has_prefix(*lines, word)) return true;
    return false;
}

/* Writes the block with what it leaves out. */
static void write_block(const char *block)
{
    char **lines = g_strsplit(block, "\n", -1);
    GString *text = g_string_new(NULL);
    if (!has_statement(lines, "lexicon ")) g_string_append(text, "lexicon doc 1\n");
    g_string_append(text, block);
    if (!has_statement(lines, "link "))
        g_string_append(text, "link bench serial 9600 frame line\n");
    g_file_set_contents(path, text->str, -1, NULL);
    g_string_free(text, TRUE);
    g_strfreev(lines);
}

static void check_block(const char *block)
{
    write_block(block);
    struct lexicon *lx = lexicon_read(path, NULL);
    struct image *image = image_build(lx);
    char *faults = lexicon_faults_text(lx, 20);
    test_context("%s\n%s", block, faults);
    CHECK(!lexicon_has(lx, false));
    g_free(faults);
    image_free(image);
    lexicon_free(lx);
}

/* A line that was said, with what ends a frame of its link. */
static char *answer_to(struct rig *rig, const char *line)
{
    unsigned link = 0;
    if (*line != '@') return g_strdup(rig_talk(rig, 0, line + 2));
    char **parts = g_strsplit(line, " ", 3);
    for (unsigned i = 0; i < rig->lx->links->len; i++)
        if (!strcmp(((struct lex_link *)rig->lx->links->pdata[i])->name, parts[1])) link = i;
    char *heard = g_strdup(rig_talk(rig, link, parts[2]));
    g_strfreev(parts);
    return heard;
}

/* Lines, whatever ends them. */
static void as_lines(GString *all)
{
    g_string_replace(all, "\r\n", "\n", 0);
    g_string_replace(all, "\r", "\n", 0);
    if (all->len && all->str[all->len - 1] != '\n') g_string_append_c(all, '\n');
}

/* What happens unasked: what came back on any link. */
static char *outcome_of(struct rig *rig, const char *line)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < rig->lx->links->len; i++) g_string_truncate(rig->sent[i], 0);
    CHECK(rig_do(rig, line));
    for (unsigned i = 0; i < rig->lx->links->len; i++) {
        as_lines(rig->sent[i]);
        g_string_append(all, rig->sent[i]->str);
    }
    return g_string_free(all, FALSE);
}

/* What the device of the block runs of it: only what the library can, so the other lines go. */
static void talk_block(const char *block, const char *conversation, unsigned *replies)
{
    char **lines = g_strsplit(block, "\n", -1), **says = g_strsplit(conversation, "\n", -1);
    GString *runs = g_string_new(NULL), *heard = g_string_new(NULL);
    unsigned links = 0;
    for (char **line = lines; *line; line++) links += g_str_has_prefix(*line, "link ") != 0;
    for (char **line = lines; *line; line++) /* of many links, those that are spoken over */
        if (links <= RIG_LINKS || !g_str_has_prefix(*line, "link ") ||
            strstr(*line, "frame keys") || strstr(*line, "link bench"))
            g_string_append_printf(runs, "%s\n", *line);
    write_block(runs->str);
    struct rig *rig = rig_new(path);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (char **line = says; *line; line++) {
        test_context("'%s'", *line);
        if (!**line) continue;
        if (**line == '<') {
            char *end = strchr(heard->str, '\n');
            char *reply = end ? g_strndup(heard->str, (gsize)(end - heard->str)) : g_strdup("");
            g_string_erase(heard, 0, end ? end + 1 - heard->str : 0);
            CHECK_TEXT(reply, *line + 2);
            g_free(reply);
            ++*replies;
            continue;
        }
        CHECK_TEXT(heard->str, ""); /* all that came was told */
        bool said = **line == '>' || **line == '@';
        char *came = said ? answer_to(rig, *line) : outcome_of(rig, *line);
        g_string_assign(heard, came);
        as_lines(heard);
        g_free(came);
    }
    CHECK_TEXT(heard->str, "");
    rig_free(rig);
    g_string_free(heard, TRUE);
    g_string_free(runs, TRUE);
    g_strfreev(lines);
    g_strfreev(says);
}

static void every_example(void)
{
    char *text, *folder = g_dir_make_tmp("rlx-docs-XXXXXX", NULL);
    path = g_build_filename(folder, "it.lexicon", NULL);
    CHECK(g_file_get_contents(DOCS "/lexicon.md", &text, NULL, NULL));
    char **parts = g_strsplit(text, "```", -1), *lexicon = NULL;
    unsigned lexicons = 0, replies = 0;
    for (unsigned i = 1; parts[i] && parts[i + 1]; i += 2) {
        char *body = strchr(parts[i], '\n') + 1;
        if (g_str_has_prefix(parts[i], "lexicon\n")) {
            check_block(lexicon = body);
            lexicons++;
        } else if (g_str_has_prefix(parts[i], "talk\n")) {
            talk_block(lexicon, body, &replies);
        }
    }
    test_context("%u examples, %u replies", lexicons, replies);
    CHECK(lexicons >= 15 && replies >= 30);
    remove(path);
    remove(folder);
    g_strfreev(parts);
    g_free(text);
    g_free(path);
    g_free(folder);
}

/* What a page lacks of a list. */
static void wants(const char *page, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void wants(const char *page, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args), *name = g_strconcat(DOCS "/", page, NULL), *all;
    va_end(args);
    test_context("%s: %s", page, text);
    if (CHECK(g_file_get_contents(name, &all, NULL, NULL))) CHECK(strstr(all, text) != NULL);
    g_free(all);
    g_free(name);
    g_free(text);
}

static void every_row_of_the_lists(void)
{
#define ERROR(number, id, name, sentence) wants("lexicon.md", "`" name "%s", "");
    RLX_REPLY_ERRORS(ERROR)
#define KIND(id, word, drive) wants("lexicon.md", " " #word " %s", "");
    RLX_OUTPUT_KINDS(KIND)
#define FRAME(id, word, feature, keyed, ends, whole) wants("lexicon.md", "`" #word "%s", "");
    RLX_FRAMES(FRAME)
    for (unsigned i = 0; i < LEX_VERBS; i++)
        if (lex_verbs[i].word) wants("lexicon.md", "%s", lex_verbs[i].word);
    for (unsigned i = 0; i < LEX_N_CODES; i++)
        if (*lex_codes[i].code == 'D') wants("checks.md", "## %s ", lex_codes[i].code);
}

/* A check that is never made would not be missed otherwise. */
static void every_check_has_a_case(void)
{
    GString *all = g_string_new(NULL);
    GDir *folder = g_dir_open(CASES, 0, NULL);
    for (const char *name; folder && (name = g_dir_read_name(folder));) {
        char *file = g_build_filename(CASES, name, NULL), *text = NULL;
        if (g_file_get_contents(file, &text, NULL, NULL)) g_string_append(all, text);
        g_free(text);
        g_free(file);
    }
    for (unsigned i = 0; i < LEX_N_CODES; i++) {
        char *told = g_strdup_printf(" %s: ", lex_codes[i].code),
             *json = g_strdup_printf("\"%s\"", lex_codes[i].code);
        test_context("%s", lex_codes[i].code);
        if (*lex_codes[i].code == 'D') CHECK(strstr(all->str, told) || strstr(all->str, json));
        g_free(told);
        g_free(json);
    }
    g_dir_close(folder);
    g_string_free(all, TRUE);
}

static const struct test_case cases[] = {
    {"the examples of docs/lexicon.md", every_example},
    {"every row of the lists stands in the docs", every_row_of_the_lists},
    {"every check finds something in a case of the tool", every_check_has_a_case},
};
TEST_MAIN(cases)
