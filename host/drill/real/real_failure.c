/* What can be found out about a failure of a real board, beside what came.
 * The failing text is said again a few times; what was called before it is looked up.
 * Which cause that points at is decided in host/drill/report. */
#include <string.h>

#include "drill/real/real.h"

#define AGAIN  5u  /* how often a failing text is said again */
#define AROUND 14u /* lines of a conversation */

/* ---- what is heard ---- */

struct heard *heard_new(const struct setup *setup, const GArray *moves)
{
    struct heard *heard = g_new0(struct heard, 1);
    heard->setup = setup;
    heard->moves = moves;
    heard->lines = g_ptr_array_new_with_free_func(g_free);
    heard->line_moves = g_array_new(FALSE, FALSE, sizeof(unsigned));
    heard->move = heard->reset = UINT_MAX;
    return heard;
}

void heard_free(struct heard *heard)
{
    g_ptr_array_free(heard->lines, TRUE);
    g_array_free(heard->line_moves, TRUE);
    g_free(heard);
}

static void add_line(struct heard *heard, const struct sight *sight, char mark, const char *text)
{
    char *shown = g_strescape(text, NULL);
    double s = (double)sight->board->bench->world->now_us / 1e6;
    g_ptr_array_add(heard->lines, g_strdup_printf("%10.3f  %c %s", s, mark, shown));
    g_array_append_val(heard->line_moves, heard->move);
    g_free(shown);
}

static unsigned last_move(const struct heard *heard)
{
    unsigned n = heard->line_moves->len;
    return n ? g_array_index(heard->line_moves, unsigned, n - 1) : UINT_MAX;
}

void heard_sight(struct heard *heard, const struct sight *sight)
{
    bool said = sight->kind == SIGHT_SAID, begun = heard->move < heard->moves->len;
    if (!begun || (!said && sight->kind != SIGHT_ANSWERED)) return;
    const struct move *move = &g_array_index(heard->moves, struct move, heard->move);
    if (move->what == MOVE_TYPE && last_move(heard) != heard->move)
        add_line(heard, sight, '>', move->text); /* its bytes are typed, not told */
    char *text = g_strndup(sight->text, sight->count);
    add_line(heard, sight, said ? '>' : '<', text);
    if (!move->calm && heard->reset == UINT_MAX && session_greets(heard->setup, sight))
        heard->reset = heard->move;
    g_free(text);
}

static void put_lines(const struct heard *heard, unsigned move, json_t *to)
{
    json_t *around = json_array();
    unsigned end = 0;
    while (end < heard->lines->len && g_array_index(heard->line_moves, unsigned, end) <= move)
        end++;
    for (unsigned i = end > AROUND ? end - AROUND : 0; i < end; i++)
        json_array_append_new(around, json_string(heard->lines->pdata[i]));
    json_object_set_new(to, "around", around);
}

/* ---- said again ---- */

struct again {
    unsigned said, passed;
};

static void on_again(void *user, const struct move *move, const struct result *result)
{
    struct again *again = user;
    if (!move->test || !result->said) return;
    again->said++;
    again->passed += !result->expected;
}

static void put_again(const struct drill *drill, const struct setup *setup, const struct move *move,
                      json_t *to)
{
    struct again again = {0};
    GArray *moves = moves_copy(drill->real->calm, UINT_MAX, 0, 0);
    for (unsigned i = 0; i < AGAIN; i++) {
        struct move *one = moves_add(moves, MOVE_SAY, move->link, move->text);
        one->owed = move->owed;
        one->test = move->test;
        one->busy = true;
    }
    struct session_options options = {.told = on_again, .user = &again};
    uint64_t us;
    g_free(session_run(setup, moves, &options, &us));
    json_object_set_new(to, "repeats", json_integer(again.said));
    json_object_set_new(to, "repeats_passed", json_integer(again.passed));
    g_array_free(moves, TRUE);
}

/* ---- who was called ---- */

static bool calls(const struct move *move)
{
    const struct drill_case *test = move->test;
    return test && test->of && test->valid && test->of->effect.kind == LEX_CALL;
}

/* The move itself, or the last one before it that called a handler; NULL: none did. */
static const struct move *last_call(const struct heard *heard, unsigned move)
{
    for (unsigned i = move + 1; i-- > 0;) {
        const struct move *before = &g_array_index(heard->moves, struct move, i);
        if (calls(before)) return before;
    }
    return NULL;
}

void real_put_facts(const struct drill *drill, const struct heard *heard, const struct failing *f,
                    json_t *to)
{
    const struct move *move = &g_array_index(heard->moves, struct move, f->move);
    const struct move *call = last_call(heard, f->move);
    const bool anew = heard->reset != UINT_MAX;
    if (f->should) json_object_set_new(to, "should", json_string(f->should));
    if (f->is) json_object_set_new(to, "is", json_string(f->is));
    if (f->late_us) json_object_set_new(to, "late_ms", json_real((double)f->late_us / 1e3));
    if (anew) json_object_set_new(to, "anew", json_true());
    if (call) {
        json_object_set_new(to, "behind", json_string(call->text));
        json_object_set_new(to, "handler", json_string(call->test->of->effect.handler));
        json_object_set_new(to, "its", json_boolean(call == move));
    }
    if (!drill->options->bare) put_lines(heard, f->move, to);
    if (move->what == MOVE_SAY && move->test && !f->died && !f->late_us && !anew)
        put_again(drill, heard->setup, move, to);
}
