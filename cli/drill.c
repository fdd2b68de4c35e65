/* Drills a lexicon, or a firmware made from it, and writes the reports.
 * Turns the options into struct drill_options and the result into files and an exit code.
 * No test case is made or judged here. */
#include "drill/suites/drill.h"
#include "files/files.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "drill/report/made.h"
#include "drill/report/pictures.h"
#include "drill/report/report.h"
#include "endpoint/board_line.h"
#include "rlx_cli.h"

#define AROUND 3u /* failures that are shown with their conversation */

struct wanted {
    char *html, *junit, *csv, *write, *against, *scenes;
    gboolean json, stream;
};

/* ---- progress ---- */

static gint64 begun_us, shown_us;

/* On a terminal, for what takes more than a second. */
static void progress(unsigned done, unsigned of, unsigned failed, const json_t *part)
{
    (void)part;
    gint64 now = g_get_monotonic_time();
    if (now - begun_us < G_USEC_PER_SEC || now - shown_us < G_USEC_PER_SEC / 10) return;
    shown_us = now;
    fprintf(stderr, "\r%u of %u parts, %u failed ", done, of, failed);
}

static void put_line(json_t *line)
{
    json_dumpf(line, stdout, JSON_COMPACT | JSON_REAL_PRECISION(9));
    putchar('\n');
    fflush(stdout);
    json_decref(line);
}

/* As a line of JSON; a process that stopped has no part. */
static void stream(unsigned done, unsigned of, unsigned failed, const json_t *part)
{
    const json_t *all = json_object_get(part, "cells");
    json_t *cells = json_array(), *failures = json_object_get(part, "failures");
    for (size_t i = 0; i < json_array_size(all); i++) {
        json_t *cell = json_copy(json_array_get(all, i));
        json_object_set(cell, "command", json_object_get(cell, "case"));
        json_object_del(cell, "case");
        json_object_del(cell, "us");
        json_array_append_new(cells, cell);
    }
    failures = failures ? json_incref(failures) : json_array();
    put_line(json_pack("{s:s, s:i, s:i, s:i, s:o, s:o}", "is", "part", "done", (int)done, "of",
                       (int)of, "failed", (int)failed, "cells", cells, "failures", failures));
}

static void progress_over(void)
{
    if (shown_us) fputs("\r\033[K", stderr);
}

/* ---- what is written ---- */

static bool write_text(const char *file, char *text, GError **error)
{
    bool ok = !file || files_write(file, text, strlen(text), error);
    g_free(text);
    return ok;
}

/* The page has pictures, which no other form has. */
static bool write_page(json_t *report, const char *file, struct lexicon *lx,
                       const struct image *image, GError **error)
{
    pictures_put(report, lx, image);
    bool ok = write_text(file, report_html(report), error);
    pictures_drop(report);
    return ok;
}

static bool write_all(json_t *report, const struct wanted *w, const char *lexicon,
                      struct lexicon *lx, const struct image *image, GError **error)
{
    const double seconds = made_seconds(begun_us);
    if (w->against && !report_against(report, w->against, error)) return false;
    if (w->scenes && !report_scenes(report, w->scenes, lexicon, error)) return false;
    if (w->html && !write_page(report, w->html, lx, image, error)) return false;
    if (w->csv && !write_text(w->csv, report_csv(report), error)) return false;
    if (w->junit && !report_junit(report, seconds, w->junit, error)) return false;
    if (w->write) {
        char *text = json_dumps(report, JSON_INDENT(1) | JSON_REAL_PRECISION(9));
        bool ok = files_write(w->write, text, strlen(text), error);
        free(text);
        if (!ok) return false;
    }
    return true;
}

/* Where a report goes to standard output, this does not. */
static void print(json_t *report, const struct wanted *w)
{
    if (w->stream) {
        put_line(json_pack("{s:s, s:O}", "is", "report", "report", report));
        return;
    }
    const char *const files[] = {w->html, w->junit, w->csv, w->write};
    FILE *to = stdout;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++)
        if (!g_strcmp0(files[i], "-")) to = stderr;
    if (w->json && to == stdout) {
        json_dumpf(report, stdout, JSON_INDENT(2) | JSON_REAL_PRECISION(9));
        putchar('\n');
        return;
    }
    char *text = report_text(report, AROUND);
    cli_print(to, text);
    g_free(text);
}

static int run(const char *file, struct lexicon *lx, const struct image *image,
               struct drill_options *options, const struct wanted *w)
{
    GError *error = NULL;
    if (w->stream)
        options->progress = stream;
    else if (isatty(STDERR_FILENO))
        options->progress = progress;
    begun_us = g_get_monotonic_time();
    json_t *report = drill(lx, image, options, &error);
    progress_over();
    if (report)
        json_object_set_new(report, "made", made_json(lx, image, options->firmware, options->seed));
    bool ok = report && write_all(report, w, file, lx, image, &error);
    if (report) print(report, w);
    if (error) fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
    bool cut = report && json_is_true(json_object_get(report, "interrupted"));
    unsigned failed = report ? report_count(report, "failed") : 0;
    g_clear_error(&error);
    if (report) json_decref(report);
    return !ok ? 2 : failed ? 1 : cut ? 2 : 0;
}

/* ---- options ---- */

static struct {
    struct wanted w;
    char *firmware, *link, *suite, *polls, *takes, **only;
    struct cli_board board;
    gboolean yes;
    uint64_t slack_us;
    gint64 seed, jobs, mixed;
    gboolean guarantees, first, bare;
} asked;

#define SUITE(name, ...) "|" #name
static const char suites[] = DRILL_SUITES(SUITE); /* behind its first byte, a choice */
#undef SUITE

static const GOptionEntry entries[] = {
    {"firmware", 'f', 0, G_OPTION_ARG_FILENAME, &asked.firmware,
     "drill this program, made for the simulated port", "PROGRAM"},
    CLI_BOARD_OPTIONS(asked.board),
    {"only", 0, 0, G_OPTION_ARG_STRING_ARRAY, &asked.only,
     "with --board: nothing but these outputs and handlers moves: pump,dose()", "NAMES"},
    {"yes", 'y', 0, G_OPTION_ARG_NONE, &asked.yes,
     "with --board: what is named may move, nobody is asked", NULL},
    {"polls", 0, 0, G_OPTION_ARG_STRING, &asked.polls,
     "the firmware polls this often, like 20ms: it may be so late", "TIME"},
    {"takes", 0, 0, G_OPTION_ARG_STRING, &asked.takes,
     "its handlers take at most so long, like 25ms", "TIME"},
    {"link", 'l', 0, G_OPTION_ARG_STRING, &asked.link, "only over this link", "NAME"},
    {"suite", 0, 0, G_OPTION_ARG_STRING, &asked.suite, "only this suite", suites + 1},
    {"mixed", 0, 0, G_OPTION_ARG_INT64, &asked.mixed, "number of mixed conversations (default: 40)",
     "N"},
    {"seed", 's', 0, G_OPTION_ARG_INT64, &asked.seed, "of what is random", "N"},
    {"guarantees", 0, 0, G_OPTION_ARG_NONE, &asked.guarantees,
     "with --firmware: not against the lexicon's tables", NULL},
    {"first", 0, 0, G_OPTION_ARG_NONE, &asked.first, "the first failure ends it", NULL},
    {"bare", 0, 0, G_OPTION_ARG_NONE, &asked.bare, "failures without their conversations", NULL},
    {"html", 0, 0, G_OPTION_ARG_FILENAME, &asked.w.html, "write the report here, as one page",
     "FILE"},
    {"junit", 0, 0, G_OPTION_ARG_FILENAME, &asked.w.junit, "the same as JUnit XML", "FILE"},
    {"csv", 0, 0, G_OPTION_ARG_FILENAME, &asked.w.csv, "its figures as CSV", "FILE"},
    {"write", 0, 0, G_OPTION_ARG_FILENAME, &asked.w.write, "write it here as JSON, for --against",
     "FILE"},
    {"against", 0, 0, G_OPTION_ARG_FILENAME, &asked.w.against, "compare with what --write wrote",
     "FILE"},
    {"scenes", 0, 0, G_OPTION_ARG_FILENAME, &asked.w.scenes,
     "write the shortest conversations that fail here, as scenes", "FOLDER"},
    {"json", 0, 0, G_OPTION_ARG_NONE, &asked.w.json, "for a program", NULL},
    {"stream", 0, 0, G_OPTION_ARG_NONE, &asked.w.stream,
     "for a program that watches: a line of JSON for each part, then one with the report", NULL},
    {"jobs", 'j', 0, G_OPTION_ARG_INT64, &asked.jobs, "number of processes", "N"},
    {0}};

static bool add_time(const char *option, const char *text)
{
    uint64_t us = 0;
    if (!text) return true;
    if (!cli_time(option, text, &us)) return false;
    asked.slack_us += us;
    if (us <= 10000000) return true;
    fprintf(stderr, "%s: %s takes a time up to 10s\n", g_get_prgname(), option);
    return false;
}

static bool takes_times(void)
{
    return add_time("--polls", asked.polls) && add_time("--takes", asked.takes);
}

/* Whether what was asked can be; otherwise after a message. */
static bool can_be(void)
{
    bool numbers = asked.seed >= 1 && asked.seed <= INT32_MAX && asked.jobs >= 1 &&
                   asked.jobs <= 64 && asked.mixed >= 0 && asked.mixed <= 100000;
    if (!numbers)
        fprintf(stderr, "%s: --seed takes 1..%d, --jobs 1..64, --mixed 0..100000\n",
                g_get_prgname(), INT32_MAX);
    else if (asked.suite && !cli_choice("--suite", suites + 1, asked.suite))
        return false;
    else
        return takes_times();
    return false;
}

/* "pump,glow" and "dose()" in one list; NULL after a message: one is nothing that moves. */
static char **only_names(const struct lexicon *lx)
{
    char *all = g_strjoinv(",", asked.only), **names = g_strsplit_set(all, ", ", -1);
    GString *known = g_string_new(NULL);
    const char *wrong = NULL;
    for (unsigned i = 0; i < lx->outputs->len; i++)
        g_string_append_printf(known, "%s ", ((struct lex_output *)lx->outputs->pdata[i])->name);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_effect *effect = &((struct lex_command *)lx->commands->pdata[i])->effect;
        if (effect->kind == LEX_CALL) g_string_append_printf(known, "%s() ", effect->handler);
    }
    char **those = g_strsplit(known->str, " ", -1);
    for (unsigned i = 0; names[i] && !wrong; i++)
        if (!g_strv_contains((const char *const *)those, names[i])) wrong = names[i];
    if (wrong)
        fprintf(stderr, "%s: --only: '%s' is no output or handler(); there are: %s\n",
                g_get_prgname(), wrong, g_strchomp(known->str));
    g_strfreev(those);
    g_string_free(known, TRUE);
    g_free(all);
    if (!wrong) return names;
    g_strfreev(names);
    return NULL;
}

/* At a terminal a person is asked. */
static bool may_move(const char *what)
{
    char line[16];
    fprintf(stderr, "On the board at %s these move: %s.\n", asked.board.where, what);
    if (asked.yes) return true;
    if (!isatty(STDIN_FILENO)) {
        fprintf(stderr, "%s: say --yes where they may, or --only NAMES where some may\n",
                g_get_prgname());
        return false;
    }
    fputs("May they? [y/N] ", stderr);
    return fgets(line, sizeof line, stdin) && (line[0] == 'y' || line[0] == 'Y');
}

/* One thing at most goes to standard output; false after a message. */
static bool is_one_output(void)
{
    const char *const files[] = {asked.w.html, asked.w.junit, asked.w.csv, asked.w.write};
    bool taken = asked.w.json;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++)
        if (!g_strcmp0(files[i], "-")) taken = true;
    if (!asked.w.stream || !taken) return true;
    fprintf(stderr, "%s: with --stream nothing else goes to standard output\n", g_get_prgname());
    return false;
}

/* What only one of both has; false after a message. */
static bool is_one_board(void)
{
    const char *not = asked.firmware   ? "--firmware"
                      : asked.polls    ? "--polls"
                      : asked.w.scenes ? "--scenes"
                                       : NULL;
    if (!cli_board_alone(&asked.board, not )) return false;
    if (!asked.board.where && (asked.only || asked.yes || asked.board.reset))
        fprintf(stderr, "%s: --only, --yes and --reset go with --board\n", g_get_prgname());
    else if (asked.board.where && asked.suite && !drill_is_for_boards(asked.suite))
        fprintf(stderr,
                "%s: on a board --suite takes words or ends: the others press, cut and jam\n",
                g_get_prgname());
    else
        return true;
    return false;
}

/* The same of the lexicon's names. */
static bool has_names(const struct lexicon *lx)
{
    if (asked.link && !lexicon_link(lx, asked.link)) {
        fprintf(stderr, "%s: there is no link '%s'\n", g_get_prgname(), asked.link);
        return false;
    }
    return true;
}

static int drill_it(const char *file, struct lexicon *lx, const struct image *image,
                    struct drill_options *options)
{
    struct board_line *line = NULL;
    char **only = asked.only ? only_names(lx) : NULL;
    int code = 2;
    bool ok = !asked.only || only;
    if (ok && asked.board.where) {
        ok = cli_board_open(&asked.board, lx, asked.link, &line, &options->board_link);
        if (ok) options->board = board_line_outside(line);
        options->where = asked.board.where;
        options->only = (const char *const *)only;
        options->may_move = may_move;
    }
    if (ok) code = run(file, lx, image, options, &asked.w);
    board_line_free(line);
    g_strfreev(only);
    return code;
}

int verb_drill(int argc, char **argv)
{
    struct image *image;
    int code;
    asked.seed = 1;
    asked.mixed = 40;
    asked.jobs = g_get_num_processors();
    if (!cli_options(
            &argc, &argv, entries, "LEXICON",
            "Tries all that follows from a lexicon over each link: every choice, both ends of each "
            "range "
            "and\none past each, every truncation, spelling, line end and split frame; expiry, "
            "events, "
            "settings,\nroutines; everything mixed; and all of it under each fault of the link. "
            "Checked against the\nguarantees, and a firmware also against the reference model. "
            "See docs/drill.md.\n\nExample:\n  rlx drill examples/tide_tank/tidetank.lexicon "
            "--html report.html\n",
            1) ||
        !can_be() || !is_one_board() || !is_one_output())
        return 2;
    const struct {
        const char *option, *file;
    } outputs[] = {{"--html", asked.w.html},
                   {"--junit", asked.w.junit},
                   {"--csv", asked.w.csv},
                   {"--write", asked.w.write}};
    const char *const inputs[] = {argv[1], asked.firmware};
    for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++)
        if (!cli_can_write(outputs[i].option, outputs[i].file, inputs, 2)) return 2;
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    struct drill_options options = {.firmware = asked.firmware,
                                    .link = asked.link,
                                    .suite = asked.suite,
                                    .slack_us = asked.slack_us,
                                    .guarantees = asked.guarantees,
                                    .first = asked.first,
                                    .bare = asked.bare,
                                    .examples = asked.w.stream,
                                    .seed = (uint32_t)asked.seed,
                                    .jobs = (unsigned)asked.jobs,
                                    .mixed = (unsigned)asked.mixed};
    code = has_names(lx) ? drill_it(argv[1], lx, image, &options) : 2;
    image_free(image);
    lexicon_free(lx);
    return code;
}
