/* Plays scenes, several at a time, and prints what failed.
 * Each scene runs in a process of its own; results are put in the order of the files.
 * A scene's statements are read and done in host/drill/scenes. */
#include "drill/scenes/play.h"

#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "drill/report/junit.h"
#include "drill/report/made.h"
#include "endpoint/board_line.h"
#include "rlx_cli.h"
#include "files/files.h"
#include "world/boards/board_states.h"
#include "world/boards/trace.h"
#include "drill/run/workers.h"

#define SCENE_SHOWN (64u * 1024) /* bytes of a file that goes into a trace */

/* A scene that is played, and what became of it. */
struct job {
    const struct scene_file *file;
    const struct scene *scene;
    json_t *result; /* NULL: it did not come to an end */
};

/* ---- reading ---- */

/* 0; 1 after its faults were printed; 2 where it cannot be read. */
static int read_scenes(const char *name, GPtrArray *files)
{
    GError *error = NULL;
    struct scene_file *file = scene_file_read(name, &error);
    if (!file) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        return 2;
    }
    g_ptr_array_add(files, file);
    if (!lexicon_has(file->read, false)) return 0;
    char *text = lexicon_faults_text(file->read, CLI_FAULTS);
    cli_print(stderr, text);
    g_free(text);
    return 1;
}

/* Those whose title holds this, in any case. */
static GArray *choose(const GPtrArray *files, const char *only)
{
    GArray *jobs = g_array_new(FALSE, TRUE, sizeof(struct job));
    char *wanted = only ? g_utf8_casefold(only, -1) : NULL;
    for (unsigned i = 0; i < files->len; i++) {
        const struct scene_file *file = files->pdata[i];
        for (unsigned k = 0; k < file->scenes->len; k++) {
            const struct scene *scene = file->scenes->pdata[k];
            char *title = g_utf8_casefold(scene->title, -1);
            struct job job = {.file = file, .scene = scene};
            if (!wanted || strstr(title, wanted)) g_array_append_val(jobs, job);
            g_free(title);
        }
    }
    g_free(wanted);
    return jobs;
}

/* ---- playing ---- */

static bool on_board; /* a real one: nothing but the board makes it play again */

static json_t *play_one(const struct job *job, const struct play_options *options)
{
    gint64 begun_us = g_get_monotonic_time();
    struct play_result *r = play_scene(job->file, job->scene, options);
    json_t *all = json_pack("{s:s, s:s, s:b, s:i, s:f, s:i}", "scene", job->scene->title, "file",
                            job->file->name, "passed", r->passed, "steps", (int)r->steps, "took_s",
                            r->took_s, "seed", (int)r->seed);
    json_object_set_new(all, "real_s", json_real(made_seconds(begun_us)));
    json_object_set_new(all, "made",
                        made_json(job->file->lx, job->file->image, options->firmware, r->seed));
    if (r->left_out) json_object_set_new(all, "left_out", json_string(r->left_out));
    if (r->unseen) json_object_set_new(all, "unseen", json_integer(r->unseen));
    if (options->firmware) json_object_set_new(all, "firmware", json_string(options->firmware));
    if (!r->passed) {
        json_t *around = json_array();
        for (unsigned i = 0; i < r->around->len; i++)
            json_array_append_new(around, json_string(r->around->pdata[i]));
        json_object_set_new(all, "line", json_integer(r->place.line));
        json_object_set_new(all, "expected", json_string(r->expected));
        json_object_set_new(all, "came", json_string(r->came));
        json_object_set_new(all, "around", around);
    }
    play_result_free(r);
    return all;
}

/* Standard error where the report goes to standard output. */
static FILE *to;

static void print(const struct job *job, bool json)
{
    const char *expected = json_string_value(json_object_get(job->result, "expected"));
    if (json) {
        json_dumpf(job->result, to, JSON_COMPACT);
        fputc('\n', to);
        return;
    }
    const char *left_out = json_string_value(json_object_get(job->result, "left_out"));
    long long unseen = json_integer_value(json_object_get(job->result, "unseen"));
    if (left_out) {
        fprintf(to, "-     left out      %s (%s)\n", job->scene->title, left_out);
        return;
    }
    if (json_is_true(json_object_get(job->result, "passed"))) {
        cli_printf(to, "ok    %10.3f s  %s",
                   json_real_value(json_object_get(job->result, "took_s")), job->scene->title);
        if (unseen) fprintf(to, " (%lld step%s not seen)", unseen, unseen == 1 ? "" : "s");
        fputc('\n', to);
        return;
    }
    cli_printf(to, "FAIL  %s\n", job->scene->title);
    if (!expected) {
        fprintf(to, "      it did not come to an end: the player stopped\n");
        return;
    }
    long long line = json_integer_value(json_object_get(job->result, "line"));
    const json_t *around = json_object_get(job->result, "around");
    fprintf(to, "      %s:%lld: expected %s; came: %s\n", job->file->name, line, expected,
            json_string_value(json_object_get(job->result, "came")));
    for (size_t i = 0; i < json_array_size(around); i++)
        fprintf(to, "      | %s\n", json_string_value(json_array_get(around, i)));
    const char *firmware = json_string_value(json_object_get(job->result, "firmware"));
    if (on_board) return;
    fprintf(to, "      again: rlx play %s --only \"%s\" --seed %lld%s%s\n", job->file->name,
            job->scene->title, json_integer_value(json_object_get(job->result, "seed")),
            firmware ? " --firmware " : "", firmware ? firmware : "");
}

/* Of scenes in the order of the files, whoever is ready first. */
struct playing {
    GArray *jobs;
    const struct play_options *options;
    unsigned printed;
    bool json;
};

static json_t *work(void *user, unsigned number)
{
    const struct playing *p = user;
    return play_one(&g_array_index(p->jobs, struct job, number), p->options);
}

static bool done(void *user, unsigned number, json_t *result)
{
    struct playing *p = user;
    struct job *job = &g_array_index(p->jobs, struct job, number);
    job->result = result ? json_incref(result)
                         : json_pack("{s:s, s:s, s:b}", "scene", job->scene->title, "file",
                                     job->file->name, "passed", false);
    for (; p->printed < p->jobs->len; p->printed++) {
        const struct job *next = &g_array_index(p->jobs, struct job, p->printed);
        if (!next->result) break;
        print(next, p->json);
        fflush(to);
    }
    return true;
}

/* False: it was interrupted. */
static bool play_all(GArray *jobs, unsigned n, bool json, const struct play_options *options)
{
    struct playing playing = {jobs, options, 0, json};
    struct workers workers = {jobs->len, n, work, done, &playing};
    return workers_run(&workers);
}

/* ---- results ---- */

static unsigned failed_of(const GArray *jobs)
{
    unsigned failed = 0;
    for (unsigned i = 0; i < jobs->len; i++)
        failed +=
            !json_is_true(json_object_get(g_array_index(jobs, struct job, i).result, "passed"));
    return failed;
}

static void print_sum(const GArray *jobs)
{
    unsigned failed = failed_of(jobs), left_out = 0;
    for (unsigned i = 0; i < jobs->len; i++)
        left_out += json_object_get(g_array_index(jobs, struct job, i).result, "left_out") != NULL;
    cli_printf(to, "%u scene%s: %u passed, %u failed", jobs->len, jobs->len == 1 ? "" : "s",
               jobs->len - failed - left_out, failed);
    if (left_out) fprintf(to, ", %u left out", left_out);
    fputc('\n', to);
}

/* Its title, and the text of its file, which a page shows beside it. */
static json_t *scene_json(const struct job *job)
{
    char *text;
    size_t length;
    json_t *all = json_pack("{s:s}", "title", job->scene->title);
    if (files_read(job->file->name, SCENE_SHOWN, &text, &length, NULL)) {
        if (length <= SCENE_SHOWN) json_object_set_new(all, "source", states_text(text, length));
        g_free(text);
    }
    return all;
}

/* One scene, in this process: its trace goes to a file. */
static bool play_traced(struct job *job, const char *name, bool json, struct play_options *options)
{
    GError *error = NULL;
    options->trace = trace_begin(job->file->lx, name, &error);
    if (options->trace) {
        if (options->states) trace_put(options->trace, 0, "scene", scene_json(job));
        job->result = play_one(job, options);
        print(job, json);
        trace_end(options->trace, &error);
    }
    if (error) fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
    bool ok = !error;
    g_clear_error(&error);
    return ok;
}

static void free_file(void *file)
{
    scene_file_free(file);
}

/* What comes over a real board's line may take so much longer. */
#define BOARD_LATE_US 100000

/* All files have to be of one lexicon. False after a message. */
static bool opens_board(const struct cli_board *board, const char *link, const GPtrArray *files,
                        struct board_line **line, struct play_options *options)
{
    const struct scene_file *first = files->pdata[0];
    for (unsigned i = 1; i < files->len; i++) {
        const struct scene_file *other = files->pdata[i];
        if (!strcmp(other->image->fingerprint, first->image->fingerprint)) continue;
        fprintf(stderr, "%s: --board: %s and %s are of different lexicons\n", g_get_prgname(),
                first->name, other->name);
        return false;
    }
    if (!cli_board_open(board, first->lx, link, line, &options->board_link)) return false;
    options->board = board_line_outside(*line);
    options->fingerprint = first->image->fingerprint;
    options->late_us = BOARD_LATE_US;
    on_board = true;
    return true;
}

static int play_files(char **names, const char *only, const char *junit, const char *trace,
                      bool json, unsigned n, struct play_options *options,
                      const struct cli_board *board, const char *link)
{
    GPtrArray *files = g_ptr_array_new_with_free_func(free_file);
    bool ok = true;
    int code = 2, read = 0;
    for (; *names; names++) {
        int its = read_scenes(*names, files);
        read = MAX(read, its);
    }
    if (read) {
        g_ptr_array_free(files, TRUE);
        return read;
    }
    GArray *jobs = choose(files, only);
    if (ok && !jobs->len) {
        fprintf(stderr, "%s: no scene's title holds \"%s\"\n", g_get_prgname(), only ? only : "");
        ok = false;
    }
    if (ok && trace && jobs->len != 1) {
        fprintf(stderr, "%s: --trace takes one scene: choose it by --only\n", g_get_prgname());
        ok = false;
    }
    struct board_line *line = NULL;
    if (ok && board->where) ok = opens_board(board, link, files, &line, options);
    if (line) n = 1;
    if (ok && trace)
        ok = play_traced(&g_array_index(jobs, struct job, 0), trace, json, options);
    else if (ok && !play_all(jobs, n, json, options)) {
        fprintf(stderr, "%s: interrupted\n", g_get_prgname());
        ok = false;
    }
    if (ok && !json) print_sum(jobs);
    if (ok && junit) {
        json_t *results = json_array();
        GError *error = NULL;
        for (unsigned i = 0; i < jobs->len; i++)
            json_array_append(results, g_array_index(jobs, struct job, i).result);
        ok = junit_scenes(results, "rlx play", junit, &error);
        if (error) fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        json_decref(results);
    }
    board_line_free(line);
    if (ok) code = failed_of(jobs) ? 1 : 0;
    for (unsigned i = 0; i < jobs->len; i++) {
        json_t *result = g_array_index(jobs, struct job, i).result;
        if (result) json_decref(result);
    }
    g_array_free(jobs, TRUE);
    g_ptr_array_free(files, TRUE);
    return code;
}

int verb_play(int argc, char **argv)
{
    struct play_options options = {0};
    g_autofree char *only = NULL, *junit = NULL, *trace = NULL, *firmware = NULL;
    g_autofree char *link = NULL;
    static struct cli_board board; /* until the program ends */
    gboolean json = FALSE, states = FALSE;
    gint64 seed = 0, jobs = g_get_num_processors();
    const GOptionEntry entries[] = {
        {"only", 0, 0, G_OPTION_ARG_STRING, &only, "scenes whose title holds this", "TEXT"},
        {"firmware", 'f', 0, G_OPTION_ARG_FILENAME, &firmware,
         "play against this program, made for the simulated port", "PROGRAM"},
        CLI_BOARD_OPTIONS(board),
        {"link", 'l', 0, G_OPTION_ARG_STRING, &link, "with --board: the link that leads to it",
         "NAME"},
        {"seed", 's', 0, G_OPTION_ARG_INT64, &seed, "of what is random, instead of the file's",
         "N"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "each result as a line of JSON", NULL},
        {"junit", 0, 0, G_OPTION_ARG_FILENAME, &junit, "write the results here, as JUnit XML",
         "FILE"},
        {"trace", 't', 0, G_OPTION_ARG_FILENAME, &trace,
         "write all that happens in one scene here, as JSON Lines", "FILE"},
        {"states", 0, 0, G_OPTION_ARG_NONE, &states,
         "with --trace: also how each output is, so that the page of rlx serve --web can show it",
         NULL},
        {"jobs", 'j', 0, G_OPTION_ARG_INT64, &jobs, "number of processes", "N"},
        {0}};
    if (!cli_options(&argc, &argv, entries, "FILE...",
                     "Plays scenes: scripted tests of a lexicon, each on a simulated bench of its "
                     "own, from power-up on.\nFor a failed scene it prints the line, the "
                     "conversation before "
                     "it, and the command that\nplays it again. See docs/scenes.md.\n\n"
                     "Example:\n  rlx play examples/tide_tank/tidetank.scene\n",
                     -1))
        return 2;
    if (argc < 2) {
        fprintf(stderr, "%s: expected FILE...\n", g_get_prgname());
        return 2;
    }
    if (seed < 0 || seed > INT32_MAX || jobs < 1 || jobs > 64) {
        fprintf(stderr, "%s: --seed takes 1..%d, --jobs 1..64\n", g_get_prgname(), INT32_MAX);
        return 2;
    }
    if (states && !trace) {
        fprintf(stderr, "%s: --states goes with --trace FILE\n", g_get_prgname());
        return 2;
    }
    if (!cli_is_file("--trace", trace, "the results are printed there")) return 2;
    for (int i = 1; i < argc; i++) {
        const char *const inputs[] = {argv[i], firmware};
        if (!cli_can_write("--junit", junit, inputs, 2) ||
            !cli_can_write("--trace", trace, inputs, 2))
            return 2;
    }
    if (!cli_board_alone(&board, firmware ? "--firmware" : NULL)) return 2;
    to = !g_strcmp0(junit, "-") ? stderr : stdout;
    options.firmware = firmware;
    options.seed = (uint32_t)seed;
    options.states = states;
    return play_files(argv + 1, only, junit, trace, json, (unsigned)jobs, &options, &board, link);
}
