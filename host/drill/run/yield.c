/* Plays the conversations and scenes of one job and keeps what failed.
 * A conversation is played on the firmware and on the model, and again with other clocks where
 * they differ.
 * It makes no conversation. */
#include "drill/run/yield.h"

#include <string.h>

#include "drill/run/board.h"
#include "drill/run/cover.h"
#include "drill/judge/judge.h"
#include "drill/scenes/offer.h"
#include "drill/scenes/play.h"
#include "drill/judge/shrink.h"

#define FAILURES_MOST 20u   /* reported of a job */
#define SHRUNK_MOST   2u    /* of them cut down */
#define SHRINKS       4000u /* moves that are made for it */
#define CLOCK_PART    50u   /* of a firmware's time: its clock may be 2 % slow or fast */
#define AROUND        14u   /* lines of a conversation */

struct cell {
    char *row, *link;
    const char *fault, *strength;
    unsigned cases, passed, lost, wrong;
    bool part;  /* of the drill, no command */
    json_t *us; /* reply times */
};

struct yield {
    GHashTable *cells;
    GPtrArray *order; /* struct cell * */
    json_t *failures, *cover;
    unsigned failed, shrunk, conversations;
    uint64_t us;
};

struct yield *yield_new(void)
{
    struct yield *y = g_new0(struct yield, 1);
    y->cells = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    y->order = g_ptr_array_new();
    y->failures = json_array();
    y->cover = json_object();
    return y;
}

static struct cell *cell_of(struct yield *y, const char *row, const char *link, const char *fault,
                            const char *strength)
{
    char *key = g_strjoin("\n", row, link, fault ? fault : "", strength ? strength : "", NULL);
    struct cell *cell = g_hash_table_lookup(y->cells, key);
    if (cell) {
        g_free(key);
        return cell;
    }
    cell = g_new0(struct cell, 1);
    *cell = (struct cell){.row = g_strdup(row),
                          .link = g_strdup(link),
                          .fault = fault,
                          .strength = strength,
                          .us = json_array()};
    g_hash_table_insert(y->cells, key, cell);
    g_ptr_array_add(y->order, cell);
    return cell;
}

void yield_cover(struct yield *y, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *key = g_strdup_vprintf(format, args);
    va_end(args);
    json_int_t before = json_integer_value(json_object_get(y->cover, key));
    json_object_set_new(y->cover, key, json_integer(before + 1));
    g_free(key);
}

/* ---- a conversation ---- */

struct listener {
    struct yield *yield;
    const struct drill *drill;
    const struct conversation *c;
    const struct setup *setup;
    struct cover cover;
    struct record *record; /* of a scene; NULL: nobody compares */
    GPtrArray *lines;      /* char *: what went over a real board's link */
    GArray *line_moves;    /* unsigned: in which move */
    unsigned move;
};

static const char *row_of(const struct drill *drill, const struct conversation *c,
                          const struct move *move)
{
    if (move->test && !move->raw) return drill->rows->pdata[move->test->row];
    return c->row ? c->row : c->job->title;
}

static struct setup setup_of(const struct drill *drill, const char *world, uint32_t seed)
{
    return (struct setup){.lx = drill->lx,
                          .image = drill->image,
                          .firmware = drill->options->firmware,
                          .board = drill->options->board,
                          .board_link = drill->options->board_link,
                          .slack_us = drill->options->slack_us,
                          .world = (char *)world,
                          .seed = seed};
}

/* Cut down, written as a scene, with the conversation around it. */
static void put_shortest(struct yield *y, const struct drill *drill, const struct conversation *c,
                         const struct setup *setup, struct failing *f, json_t *to)
{
    GArray *shortest = shrink(setup, c->moves, f, SHRINKS);
    char *title = g_strdup_printf("%s %u", c->job->title, y->failed);
    char *scene = offer_scene(setup, shortest, f, title);
    GPtrArray *lines = shrink_around(setup, shortest, AROUND);
    json_t *around = json_array();
    for (unsigned i = 0; i < lines->len; i++)
        json_array_append_new(around, json_string(lines->pdata[i]));
    json_object_set_new(to, "around", around);
    if (scene) json_object_set_new(to, "scene", json_string(scene));
    if (scene && *setup->world) json_object_set_new(to, "world", json_string(setup->world));
    json_object_set_new(to, "steps", json_integer(shortest->len));
    (void)drill;
    g_ptr_array_free(lines, TRUE);
    g_free(scene);
    g_free(title);
    g_array_free(shortest, TRUE);
    y->shrunk++;
}

/* The output that it is about, and what the lexicon says where a firmware drives it on purpose. */
static void put_output(json_t *one, const struct lex_output *out, bool safer)
{
    char *own =
        g_strdup_printf("output %s ... by firmware%s", out->name, safer ? " only safe" : "");
    json_object_set_new(one, "output", json_string(out->name));
    json_object_set_new(one, "own", json_string(own));
    g_free(own);
}

/* The last lines of a real board's link up to this move's. */
static void put_heard(const struct listener *l, unsigned move, json_t *to)
{
    json_t *around = json_array();
    unsigned end = 0;
    while (end < l->lines->len && g_array_index(l->line_moves, unsigned, end) <= move) end++;
    for (unsigned i = end > AROUND ? end - AROUND : 0; i < end; i++)
        json_array_append_new(around, json_string(l->lines->pdata[i]));
    json_object_set_new(to, "around", around);
}

static void put_failure(struct listener *l, const struct setup *setup, struct failing *f)
{
    struct yield *y = l->yield;
    const struct drill *drill = l->drill;
    const struct conversation *c = l->c;
    const struct move *move = &g_array_index(c->moves, struct move, f->move);
    bool spoken = move->what == MOVE_SAY || move->what == MOVE_TYPE;
    y->failed++;
    if (json_array_size(y->failures) >= FAILURES_MOST) return;
    json_t *one = json_pack("{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:s}", "suite", c->job->suite,
                            "case", row_of(drill, c, move), "link",
                            drill_link(drill, spoken ? move->link : c->job->link)->name, "text",
                            move->text ? move->text : "", "tried",
                            move->test ? try_whys[move->test->why] : c->job->title, "expected",
                            f->expected, "came", f->came, "kind",
                            f->died      ? "died"
                            : f->differs ? "differs"
                                         : "guarantee");
    if (f->out) put_output(one, f->out, f->safer);
    if (c->fault) json_object_set_new(one, "fault", json_string(c->fault));
    if (c->strength) json_object_set_new(one, "strength", json_string(c->strength));
    if (setup->board && !drill->options->bare)
        put_heard(l, f->move, one); /* it is not said again and again to find the shortest */
    else if (y->shrunk < SHRUNK_MOST && !drill->options->bare)
        put_shortest(y, drill, c, setup, f, one);
    json_array_append_new(y->failures, one);
}

static void on_result(void *user, const struct move *move, const struct result *result)
{
    struct listener *l = user;
    if (!result->said || move->owed == OWED_ANY) return;
    const struct lex_link *link = drill_link(l->drill, move->link);
    bool after = move->after && !result->expected;
    if (after) return;
    struct cell *cell =
        cell_of(l->yield, row_of(l->drill, l->c, move), link->name, l->c->fault, l->c->strength);
    cell->part = !move->test || move->raw;
    bool ok = result->answer &&
              !(move->owed == OWED_PERHAPS && !judge_is_ok(l->drill->lx, link, result->answer));
    bool wanted = move->owed != OWED_NONE && move->owed != OWED_SILENT;
    bool excused = result->wrong && move->excused;
    cell->cases++;
    cell->lost += wanted && !ok && move->owed == OWED_PERHAPS;
    cell->wrong += result->wrong;
    if (ok && wanted) json_array_append_new(cell->us, json_integer((json_int_t)result->took_us));
    cover_said(l->yield, l->drill, move, result);
    if (!result->expected || excused) {
        cell->passed++;
        return;
    }
    struct failing f = {.move = result->move,
                        .expected = g_strdup(result->expected),
                        .came = g_strdup(result->came),
                        .states = g_strdup(result->states)};
    put_failure(l, l->setup, &f);
    failing_clear(&f);
}

/* What goes over a real board's link, in the order of talk. */
static void keep_line(struct listener *l, const struct sight *sight)
{
    bool said = sight->kind == SIGHT_SAID;
    if (!said && sight->kind != SIGHT_ANSWERED) return;
    char *text = g_strndup(sight->text, sight->count), *shown = g_strescape(text, NULL);
    g_ptr_array_add(l->lines, g_strdup_printf("%10.3f  %c %s",
                                              (double)sight->board->bench->world->now_us / 1e6,
                                              said ? '>' : '<', shown));
    g_array_append_val(l->line_moves, l->move);
    g_free(shown);
    g_free(text);
}

static void on_sight(void *user, const struct sight *sight)
{
    struct listener *l = user;
    if (l->lines) keep_line(l, sight);
    cover_seen(&l->cover, l->yield, l->drill, sight);
    if (l->record) record_sight(l->record, sight);
}

/* Whether a real board is late again, whenever it is asked: a busy machine between is no fault of
 * its. */
#define LATE_AGAIN 2u
static bool is_late_again(const struct setup *setup, const GArray *moves)
{
    for (unsigned i = 0; i < LATE_AGAIN; i++) {
        struct shown again = shown_new(setup);
        struct session_options options = {.record = again.record, .states = again.states};
        struct failing f = {0};
        uint64_t us;
        g_free(session_run(setup, moves, &options, &us));
        bool differs = shrink_differs(setup, moves, &again, &f);
        failing_clear(&f);
        shown_free(&again);
        if (!differs) return false;
    }
    return true;
}

/* The firmware has to do what the lexicon's tables do. */
static void compare(struct listener *l, const struct setup *setup, const struct shown *firmware)
{
    const struct conversation *c = l->c;
    struct failing f = {0};
    if (!shrink_differs(setup, c->moves, firmware, &f)) return;
    const struct move *move = &g_array_index(c->moves, struct move, f.move);
    if (!setup->board || !f.late || is_late_again(setup, c->moves)) {
        cell_of(l->yield, row_of(l->drill, c, move), drill_link(l->drill, move->link)->name,
                c->fault, c->strength);
        put_failure(l, setup, &f);
    }
    failing_clear(&f);
}

static void play_conversation(struct listener *l, struct setup *setup)
{
    struct yield *y = l->yield;
    const struct drill *drill = l->drill;
    const GArray *moves = l->c->moves;
    const bool compares = setup_is_own(setup) && !drill->options->guarantees;
    unsigned before = y->failed;
    struct shown shown = shown_new(setup);
    struct session_options options = {.told = on_result,
                                      .user = l,
                                      .record = compares ? shown.record : NULL,
                                      .states = shown.states,
                                      .reached = &l->move,
                                      .watcher = on_sight,
                                      .watcher_user = l};
    uint64_t took = 0;
    char *died = session_run(setup, moves, &options, &took);
    y->conversations++;
    y->us += took;
    if (died) {
        struct failing f = {.move = l->move,
                            .expected = g_strdup("that the device runs"),
                            .came = g_strdup(died),
                            .states = g_strdup(""),
                            .died = true};
        put_failure(l, setup, &f);
        failing_clear(&f);
    } else if (compares && y->failed == before) {
        compare(l, setup, &shown);
    }
    shown_free(&shown);
    g_free(died);
}

void yield_conversation(struct yield *y, const struct drill *drill,
                        const struct conversation *asked)
{
    struct conversation c = *asked;
    if (!c.moves->len) return;
    if (drill->real && !(c.moves = real_moves(drill, asked->moves))) return;
    struct setup setup = setup_of(drill, c.world ? c.world : drill->world, c.seed ? c.seed : 1);
    setup.patience_us = c.patience_us;
    setup.after_us = c.after_us;
    struct listener l = {.yield = y, .drill = drill, .c = &c, .setup = &setup};
    if (drill->real) {
        l.lines = g_ptr_array_new_with_free_func(g_free);
        l.line_moves = g_array_new(FALSE, FALSE, sizeof(unsigned));
    } else if (setup.firmware && !drill->options->guarantees) {
        drill_ask_all(drill, c.moves);
    }
    play_conversation(&l, &setup);
    if (!drill->real) return;
    g_ptr_array_free(l.lines, TRUE);
    g_array_free(l.line_moves, TRUE);
    g_array_free(c.moves, TRUE);
}

/* ---- scenes ---- */

static void scene_failed(struct yield *y, const struct drill *drill, const struct drill_job *job,
                         unsigned link, const char *row, const struct play_result *r,
                         const char *text, const struct difference *d)
{
    json_t *around = json_array();
    for (unsigned i = 0; i < r->around->len; i++)
        json_array_append_new(around, json_string(r->around->pdata[i]));
    json_t *one = json_pack("{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:o}", "suite", job->suite,
                            "case", row, "link", drill_link(drill, link)->name, "text", "", "tried",
                            job->title, "expected", r->expected, "came", r->came, "kind",
                            d->expected ? "differs" : "guarantee", "around", around);
    if (d->out) put_output(one, d->out, d->safer);
    char *scene = NULL;
    if (y->shrunk < SHRUNK_MOST && !drill->options->bare) {
        struct setup setup = setup_of(drill, drill->world, drill->options->seed);
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
                                   .clock_ppm = ppm};
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
    struct cell *cell = cell_of(y, row, drill_link(drill, link)->name, NULL, NULL);
    cell->part = true;
    cell->cases++;
    cell->passed += r->passed;
    y->conversations++;
    y->us += (uint64_t)(r->took_s * 1e6);
    if (!r->passed) scene_failed(y, drill, job, link, row, r, whole, &d);
    difference_clear(&d);
    play_result_free(r);
    record_free(l.record);
    scene_file_free(file);
    g_string_free(asked, TRUE);
    g_free(whole);
    g_free(all);
}

/* ---- the whole ---- */

json_t *yield_json(struct yield *y)
{
    json_t *cells = json_array();
    for (unsigned i = 0; i < y->order->len; i++) {
        struct cell *cell = y->order->pdata[i];
        json_t *one = json_pack("{s:s, s:s, s:i, s:i, s:i, s:i, s:o}", "case", cell->row, "link",
                                cell->link, "cases", (int)cell->cases, "passed", (int)cell->passed,
                                "lost", (int)cell->lost, "wrong", (int)cell->wrong, "us", cell->us);
        if (cell->part) json_object_set_new(one, "part", json_true());
        if (cell->fault) json_object_set_new(one, "fault", json_string(cell->fault));
        if (cell->strength) json_object_set_new(one, "strength", json_string(cell->strength));
        json_array_append_new(cells, one);
        g_free(cell->row);
        g_free(cell->link);
        g_free(cell);
    }
    json_t *all = json_pack("{s:o, s:o, s:o, s:i, s:i, s:I}", "cells", cells, "failures",
                            y->failures, "cover", y->cover, "failed", (int)y->failed,
                            "conversations", (int)y->conversations, "us", (json_int_t)y->us);
    g_hash_table_destroy(y->cells);
    g_ptr_array_free(y->order, TRUE);
    g_free(y);
    return all;
}
