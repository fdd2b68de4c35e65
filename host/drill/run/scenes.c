/* Plays the scenes of a job and keeps what failed.
 * On a firmware it is played again on the model, with other clocks where they differ.
 * It writes no scene. */
#include "drill/run/cover.h"
#include "drill/run/yield_parts.h"
#include "drill/scenes/offer.h"
#include "drill/scenes/play.h"

#define CLOCK_PART 50u /* of a firmware's time: its clock may be 2 % slow or fast */

struct listener {
    struct yield *yield;
    const struct drill *drill;
    struct cover cover;
    struct record *record; /* NULL: nobody compares */
};

static void on_sight(void *user, const struct sight *sight)
{
    struct listener *l = user;
    cover_seen(&l->cover, l->yield, l->drill, sight);
    if (l->record) record_sight(l->record, sight);
}

static void scene_failed(struct yield *y, const struct drill *drill, const struct drill_job *job,
                         unsigned link, const char *row, const char *title,
                         const struct play_result *r, const char *text, const struct difference *d)
{
    json_t *around = json_array();
    for (unsigned i = 0; i < r->around->len; i++)
        json_array_append_new(around, json_string(r->around->pdata[i]));
    json_t *one = json_pack("{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:o}", "suite", job->suite,
                            "case", row, "link", drill_link(drill, link)->name, "text", "", "tried",
                            job->title, "expected", r->expected, "came", r->came, "kind",
                            d->expected ? "differs"
                            : r->died   ? "died"
                                        : "guarantee",
                            "around", around);
    if (d->out) yield_put_output(one, d->out, d->safer);
    if (d->expected) yield_put_facts(one, d->should, d->is, d->late_us, &d->wire);
    json_object_set_new(one, "title", json_string(title));
    char *scene = NULL;
    if (y->shrunk < SHRUNK_MOST && !drill->options->bare) {
        struct setup setup = yield_setup(drill, drill->world, drill->options->seed);
        scene = offer_played(&setup, text);
        y->shrunk++;
    }
    if (scene) json_object_set_new(one, "scene", json_string(scene));
    if (scene && *drill->world) json_object_set_new(one, "world", json_string(drill->world));
    g_free(scene);
    y->failed++;
    json_array_append_new(y->failures, one);
}

static void on_step(void *user, unsigned number, uint64_t us)
{
    struct listener *l = user;
    if (l->record) record_move(l->record, number, us);
}

static void on_tables_step(void *record, unsigned number, uint64_t us)
{
    record_move(record, number, us);
}

static struct record *record_of_scene(const struct drill *drill)
{
    struct record *record = record_new(drill->lx, drill->options->slack_us);
    bool calls = lex_has_own(drill->lx);
    for (unsigned i = 0; i < drill->lx->commands->len; i++) {
        const struct lex_command *command = drill->lx->commands->pdata[i];
        calls |= command->effect.kind == LEX_CALL && !command->query;
    }
    for (unsigned i = 0; i < drill->lx->links->len; i++) record_loose(record, i, calls);
    record_chance(record);
    return record;
}

/* From the reference model with a clock that is so much faster. */
static struct difference scene_differs(const struct drill *drill, const struct scene_file *file,
                                       const struct record *firmware, int32_t ppm)
{
    struct record *tables = record_of_scene(drill);
    struct play_options options = {.watcher = record_sight,
                                   .watcher_user = tables,
                                   .stepped = on_tables_step,
                                   .late_part = CLOCK_PART,
                                   .clock_ppm = ppm,
                                   .idle = true};
    play_result_free(play_scene(file, file->scenes->pdata[0], &options));
    struct difference d = record_difference(tables, firmware, ppm != 0);
    record_free(tables);
    return d;
}

/* It fails where the firmware did something else than the reference model, whatever its clock. */
static struct difference compare_scene(const struct drill *drill, const struct scene_file *file,
                                       const struct record *firmware, struct play_result *r)
{
    struct difference d = scene_differs(drill, file, firmware, 0);
    bool differs = d.expected != NULL;
    for (int32_t ppm = CLOCK_STEP; differs && ppm <= CLOCK_MOST; ppm += CLOCK_STEP)
        for (int way = -1; way <= 1; way += 2) {
            struct difference drifting = scene_differs(drill, file, firmware, way * ppm);
            differs = differs && drifting.expected;
            difference_clear(&drifting);
        }
    if (differs) {
        r->passed = false;
        r->expected = g_strdup(d.expected);
        r->came = g_strdup(d.came);
    }
    return d;
}

void yield_scene(struct yield *y, const struct drill *drill, const struct drill_job *job,
                 unsigned link, const char *row, const char *title, const char *text)
{
    const bool compares = drill->options->firmware && !drill->options->guarantees;
    struct listener l = {
        .yield = y, .drill = drill, .record = compares ? record_of_scene(drill) : NULL};
    struct play_options options = {.firmware = drill->options->firmware,
                                   .watcher = on_sight,
                                   .watcher_user = &l,
                                   .stepped = on_step,
                                   .late_us = drill->options->slack_us,
                                   .late_part = drill->options->firmware ? CLOCK_PART : 0};
    GString *asked = g_string_new(NULL);
    if (compares) drill_put_asked(drill, asked);
    char *all = g_strdup_printf("scene \"%s\"\n%s%s", title, text, asked->str);
    char *whole =
        g_strdup_printf("lexicon \"LEXICON\"%s seed %u\n\n%s",
                        *drill->world ? " world \"WORLD\"" : "", drill->options->seed, all);
    struct scene_file *file = scene_file_of(drill->lx, drill->image, drill->world, all);
    if (lexicon_has(file->read, false))
        g_error("%s\n%s", lexicon_faults_text(file->read, 3), whole);
    file->seed = drill->options->seed;
    struct play_result *r = play_scene(file, file->scenes->pdata[0], &options);
    struct difference d = {0};
    if (r->passed && compares) d = compare_scene(drill, file, l.record, r);
    struct cell *cell = yield_cell(y, row, drill_link(drill, link)->name, NULL, NULL);
    cell->part = true;
    if (drill->options->examples && !cell->scene) {
        cell->scene = g_strdup(whole);
        cell->world = g_strdup(drill->world);
    }
    cell->cases++;
    cell->passed += r->passed;
    y->conversations++;
    y->us += (uint64_t)(r->took_s * 1e6);
    if (!r->passed) scene_failed(y, drill, job, link, row, title, r, whole, &d);
    difference_clear(&d);
    play_result_free(r);
    record_free(l.record);
    scene_file_free(file);
    g_string_free(asked, TRUE);
    g_free(whole);
    g_free(all);
}
