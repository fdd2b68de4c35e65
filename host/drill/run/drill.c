/* Runs a drill: makes the jobs, has them done by processes, and merges what they yield.
 * The first failure may end it; a process that dies costs its own job.
 * No conversation is made here: the suites do. */
#include "drill/suites/drill.h"

#include <string.h>

#include "lexicon/layout/layout.h"
#include "drill/real/real.h"
#include "drill/run/cover.h"
#include "lexicon/envelope.h"
#include "drill/suites/life.h"
#include "drill/run/merge.h"
#include "drill/run/workers.h"
#include "drill/run/yield.h"

/* ---- what the suite share ---- */

void drill_job_add(struct drill *drill, const char *suite, unsigned link, unsigned part,
                   drill_work work, const char *format, ...)
{
    struct drill_job *job = g_new0(struct drill_job, 1);
    va_list args;
    va_start(args, format);
    *job = (struct drill_job){g_strdup_vprintf(format, args), suite, link, part, work};
    va_end(args);
    g_ptr_array_add(drill->jobs, job);
}

const char *drill_why_not(const struct drill *drill, unsigned link)
{
    const struct lex_link *of = drill_link(drill, link);
    if (drill->options->link && strcmp(drill->options->link, of->name) != 0)
        return "it was not chosen";
    if (drill->options->board && link != drill->options->board_link)
        return "it does not lead to the board";
    if (of->seal == LEX_DEMAND_REQUIRED && of->medium != LEX_RADIO)
        return "its frames have seals, which only senders on a radio can make here";
    if (lex_is_raw(of)) return "the firmware reads its bytes";
    if (of->medium == LEX_SMS && of->handed && drill->options->firmware)
        return "its messages are handed in by the firmware";
    return NULL;
}

static bool is_others(bool any_case, const char *text)
{
    static const char *const leads[] = {"ok", "err", "ev", "note", "ready", NULL};
    while (*text == ' ') text++;
    size_t n = strcspn(text, " ");
    for (unsigned i = 0; leads[i]; i++)
        if (n == strlen(leads[i]) &&
            (any_case ? !g_ascii_strncasecmp(text, leads[i], n) : !strncmp(text, leads[i], n)))
            return true;
    return (*text == 'e' || (any_case && *text == 'E')) && g_ascii_isdigit(text[1]);
}

enum owed drill_owed(const struct drill *drill, unsigned link, const struct drill_case *test)
{
    const struct lex_link *of = drill_link(drill, link);
    bool valid = test->valid && drill_may_say(of, test);
    if (is_others(drill->lx->any_case, test->text)) return OWED_NONE;
    for (unsigned i = 0; i < drill->lx->ignores->len; i++)
        if (!g_ascii_strcasecmp(((struct lex_ignore *)drill->lx->ignores->pdata[i])->text,
                                test->text))
            return OWED_ANY;
    bool silent = of->one_way || of->replies == LEX_REPLIES_SILENT;
    /* it is refused or obeyed, by what it waits for: the suite of sessions knows that */
    if (valid && test->of && lex_is_guarded(test->of)) return silent ? OWED_ANY : OWED_ONE;
    if (silent) return valid ? OWED_SILENT : OWED_NONE;
    return valid ? OWED_OK : OWED_ERR;
}

unsigned drill_busy(const struct drill *drill, GArray *moves, unsigned link)
{
    guint said = moves->len;
    for (unsigned i = 0; i < drill->lx->commands->len; i++) {
        const struct lex_command *command = drill->lx->commands->pdata[i];
        if (command->query || command->effect.kind == LEX_STORE) continue;
        const char *text = life_text(drill, link, command, CASE_HIGHEST);
        if (!text) text = life_text(drill, link, command, CASE_PLAIN);
        if (text) moves_add(moves, MOVE_SAY, link, text)->owed = OWED_ONE;
    }
    return moves->len - said;
}

const struct lex_setting *drill_stored(const struct lexicon *lx, const struct drill_case *test)
{
    bool stores = test->of && test->of->effect.kind == LEX_STORE;
    return stores ? lx->settings->pdata[test->of->effect.output] : NULL;
}

struct move *drill_say(const struct drill *drill, GArray *moves, unsigned link,
                       const struct drill_case *test)
{
    const struct lex_link *of = drill_link(drill, link);
    const struct lex_setting *stored = drill_stored(drill->lx, test);
    if (stored &&
        (!g_strcmp0(stored->name, of->code) || !g_strcmp0(stored->name, of->allow_setting)))
        return NULL;
    if (stored && lex_is_key(drill->lx, stored->name)) return NULL; /* its sender has the old one */
    if (strlen(test->text) > session_most(drill->lx, of)) return NULL;
    if (of->layout && !layout_asks(of, test->text)) return NULL;
    struct move *move = moves_add(moves, MOVE_SAY, link, test->text);
    move->owed = drill_owed(drill, link, test);
    move->test = test;
    return move;
}

/* Whether it asks what the link counted, or how something is. */
static bool asks(const struct drill_case *test, bool counts)
{
    static const char *const words[] = {"stats", "heard", "log", NULL};
    if (!test->word || test->of || test->why != CASE_PLAIN) return false;
    return counts ? g_strv_contains(words, test->word) : g_str_has_suffix(test->text, "?");
}

static void ask(const struct drill *drill, GArray *moves, unsigned link, bool counts)
{
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        bool may = asks(test, counts) && drill_may_say(drill_link(drill, link), test);
        struct move *move = may ? drill_say(drill, moves, link, test) : NULL;
        if (move) move->torn = move->busy = true;
    }
}

void drill_ask_counts(const struct drill *drill, GArray *moves, unsigned link)
{
    ask(drill, moves, link, true);
}

void drill_ask_all(const struct drill *drill, GArray *moves)
{
    guint said = moves->len;
    int link = life_link(drill);
    for (unsigned i = 0; i < drill->lx->links->len; i++) {
        bool somebody = *drill->world || !session_has_client(drill_link(drill, i));
        if ((life_is_spoken(drill, i) && somebody) || (int)i == link) ask(drill, moves, i, true);
    }
    if (link >= 0) ask(drill, moves, (unsigned)link, false);
    for (guint i = said; i < moves->len; i++) {
        struct move *move = &g_array_index(moves, struct move, i);
        move->owed = OWED_PERHAPS; /* its text is compared */
        move->excused = move->after = true;
    }
}

void drill_put_asked(const struct drill *drill, GString *scene)
{
    GArray *moves = moves_new();
    drill_ask_all(drill, moves);
    for (unsigned i = 0; i < moves->len; i++) {
        const struct move *move = &g_array_index(moves, struct move, i);
        const struct lex_link *of = drill_link(drill, move->link);
        g_string_append_printf(scene, "say %s%s \"%s\"\nwait 200ms\n",
                               session_has_client(of) ? "by_" : "", of->name, move->text);
    }
    g_array_free(moves, TRUE);
}

/* ---- all jobs ---- */

static const struct {
    const char *name;
    void (*of_link)(struct drill *drill, unsigned link);
    void (*of_device)(struct drill *drill);
    bool on_boards;
} suite[] = {
#define SUITE(name, of_link, of_device, on_boards) {#name, of_link, of_device, on_boards},
    DRILL_SUITES(SUITE)
#undef SUITE
};

bool drill_is_for_boards(const char *name)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(suite); i++)
        if (!strcmp(suite[i].name, name)) return suite[i].on_boards;
    return false;
}

static void make_jobs(struct drill *drill)
{
    const char *only = drill->options->suite;
    for (unsigned i = 0; i < G_N_ELEMENTS(suite); i++) {
        if (drill->options->board && !suite[i].on_boards) continue;
        if (only && strcmp(only, suite[i].name) != 0) continue;
        for (unsigned k = 0; suite[i].of_link && k < drill->lx->links->len; k++)
            if (!drill_why_not(drill, k)) suite[i].of_link(drill, k);
        if (suite[i].of_device) suite[i].of_device(drill);
    }
}

/* What takes long comes last: early results come soon. */
static int cost_of(const struct drill *drill, const struct drill_job *job)
{
    bool message = drill_link(drill, job->link)->medium == LEX_SMS;
    return (message ? 2 : 0) + !strcmp(job->suite, "faults");
}

static void sort_jobs(struct drill *drill)
{
    GPtrArray *sorted = g_ptr_array_new();
    for (int cost = 0; cost < 4; cost++)
        for (unsigned i = 0; i < drill->jobs->len; i++)
            if (cost_of(drill, drill->jobs->pdata[i]) == cost)
                g_ptr_array_add(sorted, drill->jobs->pdata[i]);
    for (unsigned i = 0; i < sorted->len; i++) drill->jobs->pdata[i] = sorted->pdata[i];
    g_ptr_array_free(sorted, TRUE);
}

static void job_free(void *p)
{
    struct drill_job *job = p;
    g_free(job->title);
    g_free(job);
}

struct running {
    const struct drill *drill;
    json_t **results;
    unsigned done, failed, died;
};

/* A program that fails again and again is not started a hundred times more. */
#define DEATHS_MOST 3u

static json_t *work(void *user, unsigned number)
{
    const struct running *r = user;
    const struct drill_job *job = r->drill->jobs->pdata[number];
    struct yield *yield = yield_new();
    job->work(r->drill, job, yield);
    return yield_json(yield);
}

static bool done(void *user, unsigned number, json_t *result)
{
    struct running *r = user;
    const struct drill_options *o = r->drill->options;
    const json_t *failures = json_object_get(result, "failures");
    r->results[number] = result ? json_incref(result) : json_pack("{s:b}", "stopped", true);
    r->done++;
    r->failed += !result;
    r->failed += (unsigned)json_integer_value(json_object_get(result, "failed"));
    for (size_t i = 0; i < json_array_size(failures); i++)
        r->died += !strcmp("died",
                           json_string_value(json_object_get(json_array_get(failures, i), "kind")));
    if (o->progress) o->progress(r->done, r->drill->jobs->len, r->failed, result);
    return !(o->first && r->failed) && r->died < (o->board ? 1 : DEATHS_MOST);
}

/* Whether the device runs at all; otherwise error is set. */
static bool is_running(const struct drill *d, GError **error)
{
    GArray *none = moves_new();
    moves_wait(none, 1000);
    struct setup setup = {.lx = d->lx,
                          .image = d->image,
                          .firmware = d->options->firmware,
                          .slack_us = d->options->slack_us,
                          .world = d->world,
                          .seed = 1};
    struct session_options silent = {.told = NULL};
    uint64_t us;
    char *failure = session_run(&setup, none, &silent, &us);
    if (failure) g_set_error_literal(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, failure);
    g_array_free(none, TRUE);
    g_free(failure);
    return !error || !*error;
}

/* Only what may move is said to a real board. */
static void drop_cases(struct drill *d)
{
    for (unsigned i = d->cases->len; i-- > 0;) {
        const struct drill_case *test = d->cases->pdata[i];
        if (test->of && !real_may_say(d, test->of)) g_ptr_array_remove_index(d->cases, i);
    }
}

/* The same for a real board, which is measured; how late it may be is in the options from then on.
 */
static bool is_met(struct drill *d, struct drill_options *options, GError **error)
{
    drop_cases(d);
    d->real = real_meet(d, error);
    if (!d->real) return false;
    options->slack_us = MAX(options->slack_us, REAL_SLACK_US + 3 * d->real->median_us);
    return true;
}

json_t *drill(struct lexicon *lx, const struct image *image, const struct drill_options *asked,
              GError **error)
{
    struct drill_options options = *asked;
    struct drill d = {.lx = lx, .image = image, .options = &options};
    d.rows = g_ptr_array_new_with_free_func(g_free);
    d.cases = drill_cases(lx, d.rows);
    d.jobs = g_ptr_array_new_with_free_func(job_free);
    d.world = options.board ? g_strdup("") : session_world(lx);
    json_t *report = NULL;
    if (options.board ? is_met(&d, &options, error) : is_running(&d, error)) {
        make_jobs(&d);
        sort_jobs(&d);
        struct running r = {.drill = &d, .results = g_new0(json_t *, d.jobs->len + 1)};
        struct workers w = {d.jobs->len, options.board ? 1 : options.jobs, work, done, &r};
        bool whole = workers_run(&w);
        if (options.board) real_leave(&d);
        report = merge_report(&d, r.results, whole);
        for (unsigned i = 0; i < d.jobs->len; i++)
            if (r.results[i]) json_decref(r.results[i]);
        g_free(r.results);
    }
    real_free(d.real);
    g_free(d.world);
    g_ptr_array_free(d.jobs, TRUE);
    g_ptr_array_free(d.cases, TRUE);
    g_ptr_array_free(d.rows, TRUE);
    return report;
}
