/* Plays the conversations of a job and keeps what failed.
 * A conversation is played on the firmware and on the model, and again with other clocks where
 * they differ.
 * It makes no conversation. */
#include <string.h>

#include "drill/judge/judge.h"
#include "drill/real/real.h"
#include "drill/run/cover.h"
#include "drill/run/yield_parts.h"
#include "drill/scenes/offer.h"

#define SHRINKS 4000u /* moves that are made to cut one down */
#define AROUND  14u   /* lines of a conversation */
#define EXAMPLE 120u  /* moves of an example */

struct listener {
    struct yield *yield;
    const struct drill *drill;
    const struct conversation *c;
    const struct setup *setup;
    struct cover cover;
    struct heard *heard; /* of a real board; else NULL */
    unsigned move;
};

static const char *row_of(const struct drill *drill, const struct conversation *c,
                          const struct move *move)
{
    if (move->test && !move->raw) return drill->rows->pdata[move->test->row];
    return c->row ? c->row : c->job->title;
}

/* Cut down, written as a scene, with the conversation around it. */
static void put_shortest(struct yield *y, const struct conversation *c, const struct setup *setup,
                         struct failing *f, json_t *to)
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
    g_ptr_array_free(lines, TRUE);
    g_free(scene);
    g_free(title);
    g_array_free(shortest, TRUE);
    y->shrunk++;
}

static void put_clocks(json_t *one, unsigned clocks)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < SHRINK_CLOCKS; i++)
        if (clocks >> i & 1) json_array_append_new(all, json_real(shrink_clocks[i]));
    json_object_set_new(one, "clocks", all);
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
    if (f->out) yield_put_output(one, f->out, f->safer);
    if (!l->heard && f->differs) yield_put_facts(one, f->should, f->is, f->late_us, &f->wire);
    if (f->clocked) put_clocks(one, f->clocks);
    if (c->fault) json_object_set_new(one, "fault", json_string(c->fault));
    if (c->strength) json_object_set_new(one, "strength", json_string(c->strength));
    if (l->heard)
        real_put_facts(drill, l->heard, f, one);
    else if (y->shrunk < SHRUNK_MOST && !drill->options->bare)
        put_shortest(y, c, setup, f, one);
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
        yield_cell(l->yield, row_of(l->drill, l->c, move), link->name, l->c->fault, l->c->strength);
    cell->part = !move->test || move->raw;
    if (cell->of != l->yield->conversations + 1) cell->from = result->move, cell->good = false;
    cell->of = l->yield->conversations + 1;
    cell->to = result->move;
    bool ok = result->answer &&
              !(move->owed == OWED_PERHAPS && !judge_is_ok(l->drill->lx, link, result->answer));
    bool wanted = move->owed != OWED_NONE && move->owed != OWED_SILENT;
    bool excused = result->wrong && move->excused;
    cell->good |= result->answer && judge_is_ok(l->drill->lx, link, result->answer);
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

static void on_sight(void *user, const struct sight *sight)
{
    struct listener *l = user;
    if (l->heard) l->heard->move = l->move;
    if (l->heard) heard_sight(l->heard, sight);
    cover_seen(&l->cover, l->yield, l->drill, sight);
}

/* Whether a real board is late again at this move, whenever it is asked, with the few moves before
 * it: a busy machine between is no fault of the board's. */
#define LATE_AGAIN   3u
#define BEFORE       3u
#define LATE_ONCE_US UINT64_C(2000000)
static bool is_late_again(const struct listener *l, const struct setup *setup, unsigned move)
{
    const unsigned rests = l->drill->real->calm->len;
    const unsigned without = move > rests + BEFORE ? move - rests - BEFORE : 0;
    GArray *moves = moves_copy(l->c->moves, move + 1, rests, without);
    bool late = true;
    for (unsigned i = 0; i < LATE_AGAIN && late; i++) {
        struct shown again = shown_new(setup);
        struct session_options options = {.record = again.record, .states = again.states};
        struct failing f = {0};
        uint64_t us;
        g_free(session_run(setup, moves, &options, &us));
        late = shrink_differs(setup, moves, &again, &f) && f.late_us && f.move == moves->len - 1;
        failing_clear(&f);
        shown_free(&again);
    }
    g_array_free(moves, TRUE);
    return late;
}

/* The clocks of a real board and of the model began at different times. */
static void say_plainly(struct failing *f)
{
    const char *is = f->is ? f->is : "nothing";
    g_free(f->expected);
    g_free(f->came);
    f->expected = g_strdup_printf("\"%s\"", f->should ? f->should : "nothing");
    f->came = f->late_us ? g_strdup_printf("it %.0f ms late", (double)f->late_us / 1e3)
                         : g_strdup_printf("\"%s\"", is);
}

static void differs(struct listener *l, const struct setup *setup, struct failing *f)
{
    const struct move *move = &g_array_index(l->c->moves, struct move, f->move);
    if (l->heard) say_plainly(f);
    yield_cell(l->yield, row_of(l->drill, l->c, move), drill_link(l->drill, move->link)->name,
               l->c->fault, l->c->strength);
    put_failure(l, setup, f);
}

/* The firmware has to do what the lexicon's tables do. What answers wrong is not late besides; what
 * was late once is looked at again without its times. */
static void compare(struct listener *l, const struct setup *setup, const struct shown *firmware,
                    bool wrong)
{
    struct failing f = {0};
    if (!shrink_differs(setup, l->c->moves, firmware, &f)) return;
    bool once = l->heard && f.late_us && (wrong || !is_late_again(l, setup, f.move));
    if (once) {
        failing_clear(&f);
        record_slack(firmware->record, LATE_ONCE_US);
        once = !shrink_differs(setup, l->c->moves, firmware, &f);
    }
    bool timed = !l->heard && f.wire.due_us && f.wire.did_us;
    f.clocked = timed && l->yield->clocks++ < CLOCKS_MOST;
    if (f.clocked) f.clocks = shrink_clocked(setup, l->c->moves, firmware);
    if (!once) differs(l, setup, &f);
    failing_clear(&f);
}

/* The cells that it was about get a scene of it, where they have none yet in which something was
 * obeyed. */
static void put_examples(const struct listener *l, const struct setup *setup)
{
    struct yield *y = l->yield;
    for (unsigned i = 0; l->drill->options->examples && i < y->order->len; i++) {
        struct cell *cell = y->order->pdata[i];
        if (cell->of != y->conversations || (cell->scene && !cell->good) || cell->shown_good)
            continue;
        g_free(cell->scene), g_free(cell->world);
        cell->shown_good = cell->good;
        GArray *moves =
            moves_copy(l->c->moves, MIN(cell->to + 1, cell->from + EXAMPLE), 0, cell->from);
        char *title = g_strdup_printf("%s over %s", cell->row, cell->link);
        cell->scene = shrink_conversation(setup, moves, title);
        cell->world = g_strdup(setup->world);
        g_free(title);
        g_array_free(moves, TRUE);
    }
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
    } else if (l->heard && l->heard->reset != UINT_MAX) {
        struct failing f = {.move = l->heard->reset,
                            .expected = g_strdup("that the board goes on"),
                            .came = g_strdup("it started anew by itself"),
                            .states = g_strdup("")};
        put_failure(l, setup, &f);
        failing_clear(&f);
    } else if (compares && (l->heard || y->failed == before)) {
        compare(l, setup, &shown, y->failed > before);
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
    struct setup setup = yield_setup(drill, c.world ? c.world : drill->world, c.seed ? c.seed : 1);
    setup.patience_us = c.patience_us;
    setup.after_us = c.after_us;
    struct listener l = {.yield = y, .drill = drill, .c = &c, .setup = &setup};
    if (drill->real)
        l.heard = heard_new(&setup, c.moves);
    else if (setup.firmware && !drill->options->guarantees)
        drill_ask_all(drill, c.moves);
    play_conversation(&l, &setup);
    put_examples(&l, &setup);
    if (!drill->real) return;
    heard_free(l.heard);
    g_array_free(c.moves, TRUE);
}
