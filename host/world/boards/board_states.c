/* What a page draws of a bench: each output as its kind and its load have it, inputs, links.
 * Kept as text by name: what is the same as before is left out.
 * It sends and writes nothing. */
#include "world/boards/board_states.h"

#include <string.h>

#include "lexicon/kind.h"

struct states {
    const struct bench *bench;
    GHashTable *shown; /* name -> its JSON as it was last */
};

json_t *states_text(const char *text, size_t count)
{
    char *valid = g_utf8_make_valid(text, (gssize)count);
    json_t *json = json_string(valid);
    g_free(valid);
    return json;
}

/* ---- as they are ---- */

static json_t *output_state(const struct board *board, unsigned i)
{
    const struct lex_output *out = board->lx->outputs->pdata[i];
    const struct loads *l = board->loads;
    char *state = lex_kind_of(out)->state(&board->driven, out);
    json_t *all = json_pack("{s:s, s:b}", "state", state, "safe",
                            (int)lex_kind_of(out)->is_safe(&board->driven, out));
    g_free(state);
    if (l)
        json_object_update_new(all, json_pack("{s:b, s:i, s:[i, i], s:i}", "on",
                                              (int)loads_is_on(l, i), "looks",
                                              (int)loads_looks(l, i), "speed", loads_speed(l, i, 0),
                                              loads_speed(l, i, 1), "place", loads_place(l, i)));
    return all;
}

static char *name_on(const struct board *board, const char *name)
{
    return *board->name ? g_strdup_printf("%s.%s", board->name, name) : g_strdup(name);
}

/* Adds what is so by now to an object, and keeps it; `all`: also what was sent before. */
static void add_state(struct states *s, json_t *to, const char *name, json_t *is, bool all)
{
    char *text = json_dumps(is, JSON_COMPACT);
    const char *before = g_hash_table_lookup(s->shown, name);
    if (all || !before || strcmp(before, text) != 0) json_object_set(to, name, is);
    g_hash_table_insert(s->shown, g_strdup(name), g_strdup(text));
    json_decref(is);
    free(text);
}

static void add_board(struct states *s, json_t *to, const struct board *board, bool all)
{
    for (unsigned i = 0; i < board->lx->outputs->len; i++) {
        const struct lex_output *out = board->lx->outputs->pdata[i];
        char *name = name_on(board, out->name);
        if (!out->members->len) add_state(s, to, name, output_state(board, i), all);
        g_free(name);
    }
    for (unsigned i = 0; i < board->lx->inputs->len; i++) {
        const struct lex_input *in = board->lx->inputs->pdata[i];
        char *name = name_on(board, in->name);
        add_state(s, to, name, json_pack("{s:b}", "on", (int)board_input_is_on(board, in)), all);
        g_free(name);
    }
}

json_t *states_now(struct states *s, bool all)
{
    json_t *to = json_object();
    for (unsigned i = 0; i < s->bench->boards->len; i++) {
        const struct board *board = s->bench->boards->pdata[i];
        if (!device_is_outside(board->device)) add_board(s, to, board, all);
    }
    for (unsigned i = 0; i < s->bench->ends->len; i++) {
        const struct end *end = s->bench->ends->pdata[i];
        const char *is = end_is(end);
        char *name = g_strconcat("link ", end->name, NULL);
        if (is) add_state(s, to, name, json_pack("{s:s}", "state", is), all);
        g_free(name);
    }
    return to;
}

/* ---- what is there ---- */

static json_t *output_json(const struct board *board, const struct lex_output *out)
{
    char *wiring = lex_kind_of(out)->wiring(out), *name = name_on(board, out->name);
    char *safe = lex_kind_of(out)->safe_text(out);
    json_t *all =
        json_pack("{s:s, s:s, s:s?, s:s, s:s}", "name", name, "kind", lex_output_kinds[out->kind],
                  "title", out->title, "wiring", wiring, "safe", safe);
    if (out->range && out->range->scaled)
        json_object_set_new(all, "range",
                            json_pack("[i, i]", (int)out->range->to_low, (int)out->range->to_high));
    g_free(wiring), g_free(name), g_free(safe);
    return all;
}

static json_t *input_json(const struct board *board, const struct lex_input *in)
{
    char *name = name_on(board, in->name);
    json_t *all =
        json_pack("{s:s, s:s?, s:i}", "name", name, "title", in->title, "pin", (int)in->pin);
    g_free(name);
    return all;
}

static json_t *end_json(const struct end *end)
{
    return json_pack("{s:s, s:s, s:s, s:b}", "name", end->name, "medium",
                     lex_media[end->of->medium], "frame", lex_frames[end->of->frame], "message",
                     (int)(end->of->medium == LEX_SMS));
}

json_t *states_parts(const struct bench *bench)
{
    json_t *outputs = json_array(), *inputs = json_array(), *links = json_array();
    for (unsigned i = 0; i < bench->boards->len; i++) {
        const struct board *board = bench->boards->pdata[i];
        for (unsigned k = 0; k < board->lx->outputs->len; k++) {
            const struct lex_output *out = board->lx->outputs->pdata[k];
            if (!out->members->len) json_array_append_new(outputs, output_json(board, out));
        }
        for (unsigned k = 0; k < board->lx->inputs->len; k++)
            json_array_append_new(inputs, input_json(board, board->lx->inputs->pdata[k]));
    }
    for (unsigned i = 0; i < bench->ends->len; i++)
        json_array_append_new(links, end_json(bench->ends->pdata[i]));
    return json_pack("{s:b, s:o, s:o, s:o}", "loads",
                     (int)(((struct board *)bench->boards->pdata[0])->loads != NULL), "outputs",
                     outputs, "inputs", inputs, "links", links);
}

/* ---- begin and end ---- */

struct states *states_new(const struct bench *bench)
{
    struct states *s = g_new(struct states, 1);
    *s = (struct states){bench, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    return s;
}

void states_free(struct states *s)
{
    if (!s) return;
    g_hash_table_destroy(s->shown);
    g_free(s);
}
