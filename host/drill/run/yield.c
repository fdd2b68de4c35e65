/* Keeps what comes of one job: cells with their counts and times, failures, what was covered.
 * It becomes one object of JSON.
 * Nothing is played or judged here. */
#include "drill/run/yield_parts.h"

struct yield *yield_new(void)
{
    struct yield *y = g_new0(struct yield, 1);
    y->cells = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    y->order = g_ptr_array_new();
    y->failures = json_array();
    y->cover = json_object();
    return y;
}

struct cell *yield_cell(struct yield *y, const char *row, const char *link, const char *fault,
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

struct setup yield_setup(const struct drill *drill, const char *world, uint32_t seed)
{
    return (struct setup){.lx = drill->lx,
                          .image = drill->image,
                          .firmware = drill->options->firmware,
                          .board = drill->options->board,
                          .board_link = drill->options->board_link,
                          .real = drill->real != NULL,
                          .resets = drill->real && drill->options->board->reset &&
                                    !drill->options->board->by_hand,
                          .slack_us = drill->options->slack_us,
                          .world = (char *)world,
                          .seed = seed};
}

void yield_put_output(json_t *one, const struct lex_output *out, bool safer)
{
    char *own =
        g_strdup_printf("output %s ... by firmware%s", out->name, safer ? " only safe" : "");
    json_object_set_new(one, "output", json_string(out->name));
    json_object_set_new(one, "own", json_string(own));
    g_free(own);
}

void yield_put_facts(json_t *one, const char *should, const char *is, int64_t late_us,
                     const struct at_wire *wire)
{
    if (should) json_object_set_new(one, "should", json_string(should));
    if (is) json_object_set_new(one, "is", json_string(is));
    if (late_us) json_object_set_new(one, "late_ms", json_real((double)late_us / 1e3));
    if (!json_object_get(one, "output")) return;
    json_object_set_new(one, "wire",
                        json_pack("{s:i, s:b, s:i, s:i, s:f, s:f}", "number", (int)wire->number,
                                  "pin", (int)wire->is_pin, "should", (int)wire->should, "is",
                                  (int)wire->is, "due_ms", (double)wire->due_us / 1e3, "did_ms",
                                  (double)wire->did_us / 1e3));
}

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
        if (cell->scene) json_object_set_new(one, "scene", json_string(cell->scene));
        if (cell->scene && *cell->world)
            json_object_set_new(one, "world", json_string(cell->world));
        json_array_append_new(cells, one);
        g_free(cell->row), g_free(cell->link);
        g_free(cell->scene), g_free(cell->world);
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
