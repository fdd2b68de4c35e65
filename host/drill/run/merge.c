/* Makes one JSON report of what all jobs yielded.
 * Counts add up by link and case; failures keep their order.
 * It writes no file. */
#include "drill/run/merge.h"

#include <string.h>

#include "drill/report/cause.h"
#include "lexicon/contract.h"
#include "drill/real/real.h"
#include "drill/run/cover.h"

struct sum {
    const char *row, *link, *fault, *strength;
    unsigned cases, passed, lost, wrong;
    bool part;
    GArray *us; /* uint32_t */
};

struct merge {
    const struct drill *drill;
    GHashTable *sums;
    GPtrArray *order; /* struct sum * */
    GArray **link_us; /* of each link */
    json_t *failures, *cover;
    unsigned failed, conversations, stopped;
    uint64_t us;
};

static const char *text_of(const json_t *object, const char *name)
{
    return json_string_value(json_object_get(object, name));
}

static unsigned count_of(const json_t *object, const char *name)
{
    return (unsigned)json_integer_value(json_object_get(object, name));
}

static struct sum *sum_of(struct merge *m, const json_t *cell)
{
    const char *fault = text_of(cell, "fault"), *strength = text_of(cell, "strength");
    char *key = g_strjoin("\n", text_of(cell, "case"), text_of(cell, "link"), fault ? fault : "",
                          strength ? strength : "", NULL);
    struct sum *sum = g_hash_table_lookup(m->sums, key);
    if (sum) {
        g_free(key);
        return sum;
    }
    sum = g_new0(struct sum, 1);
    *sum = (struct sum){.row = text_of(cell, "case"),
                        .link = text_of(cell, "link"),
                        .fault = fault,
                        .strength = strength,
                        .part = json_object_get(cell, "part") != NULL,
                        .us = g_array_new(FALSE, FALSE, sizeof(uint32_t))};
    g_hash_table_insert(m->sums, key, sum);
    g_ptr_array_add(m->order, sum);
    return sum;
}

static unsigned link_number(const struct drill *drill, const char *name)
{
    unsigned i = 0;
    while (i < drill->lx->links->len && strcmp(drill_link(drill, i)->name, name) != 0) i++;
    return i;
}

static void add_cell(struct merge *m, const json_t *cell)
{
    struct sum *sum = sum_of(m, cell);
    const json_t *us = json_object_get(cell, "us");
    sum->cases += count_of(cell, "cases");
    sum->passed += count_of(cell, "passed");
    sum->lost += count_of(cell, "lost");
    sum->wrong += count_of(cell, "wrong");
    for (size_t i = 0; i < json_array_size(us); i++) {
        uint32_t one = (uint32_t)json_integer_value(json_array_get(us, i));
        g_array_append_val(sum->us, one);
        if (!sum->fault) g_array_append_val(m->link_us[link_number(m->drill, sum->link)], one);
    }
}

static void add_result(struct merge *m, json_t *result, const struct drill_job *job)
{
    const json_t *cells = json_object_get(result, "cells");
    const json_t *cover = json_object_get(result, "cover");
    const char *key;
    json_t *value;
    if (!result) return;
    if (json_object_get(result, "stopped")) {
        m->stopped++;
        m->failed++;
        json_array_append_new(m->failures,
                              json_pack("{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:s}", "suite",
                                        job->suite, "case", job->title, "link",
                                        drill_link(m->drill, job->link)->name, "text", "", "tried",
                                        job->title, "expected", "that the drill goes on", "came",
                                        "its process stopped", "kind", "stopped"));
        return;
    }
    for (size_t i = 0; i < json_array_size(cells); i++) add_cell(m, json_array_get(cells, i));
    json_array_extend(m->failures, json_object_get(result, "failures"));
    json_object_foreach((json_t *)cover, key, value)
        json_object_set_new(m->cover, key,
                            json_integer(json_integer_value(json_object_get(m->cover, key)) +
                                         json_integer_value(value)));
    m->failed += count_of(result, "failed");
    m->conversations += count_of(result, "conversations");
    m->us += (uint64_t)json_integer_value(json_object_get(result, "us"));
}

/* Commands that were sent again and again, and never obeyed. */
static void add_never(struct merge *m)
{
    const char *key;
    json_t *value;
    json_object_foreach(m->cover, key, value)
    {
        if (!g_str_has_prefix(key, "owed|")) continue;
        const char *what = key + strlen("owed|"), *link = strrchr(key, '|') + 1;
        char *done = g_strconcat("done|", what, NULL);
        char *row = g_strndup(what, (gsize)(link - 1 - what));
        bool own = *row;
        if (!json_object_get(m->cover, done)) {
            char *came =
                g_strdup_printf("sent %d times over %s, never %s", (int)json_integer_value(value),
                                link, own ? "answered ok" : "obeyed");
            m->failed++;
            json_array_append_new(
                m->failures,
                json_pack("{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:s}", "suite", "words", "case",
                          own ? row : "all that switches an output", "link", link, "text", "",
                          "tried", "each valid form", "expected",
                          own ? "ok at least once" : "that an output changes at least once", "came",
                          came, "kind", "guarantee"));
            g_free(came);
        }
        g_free(done);
        g_free(row);
    }
}

/* ---- its report ---- */

static int by_size(const void *a, const void *b)
{
    uint32_t x = *(const uint32_t *)a, y = *(const uint32_t *)b;
    return x < y ? -1 : x > y;
}

static double ms_at(const GArray *times, unsigned percent)
{
    unsigned at = (times->len - 1) * percent / 100;
    return g_array_index(times, uint32_t, at) / 1000.0;
}

static void put_times(json_t *to, GArray *us)
{
    if (!us->len) return;
    g_array_sort(us, by_size);
    json_object_set_new(to, "answers", json_integer(us->len));
    json_object_set_new(to, "median_ms", json_real(ms_at(us, 50)));
    json_object_set_new(to, "p95_ms", json_real(ms_at(us, 95)));
    json_object_set_new(to, "worst_ms", json_real(ms_at(us, 100)));
}

static json_t *cells_json(const struct merge *m)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < m->order->len; i++) {
        const struct sum *sum = m->order->pdata[i];
        json_t *one = json_pack("{s:s, s:s, s:i, s:i}", "command", sum->row, "link", sum->link,
                                "cases", (int)sum->cases, "passed", (int)sum->passed);
        if (sum->fault) {
            json_object_set_new(one, "fault", json_string(sum->fault));
            json_object_set_new(one, "strength", json_string(sum->strength));
            json_object_set_new(one, "lost", json_integer(sum->lost));
            json_object_set_new(one, "wrong", json_integer(sum->wrong));
        }
        if (sum->part) json_object_set_new(one, "part", json_true());
        put_times(one, sum->us);
        json_array_append_new(all, one);
    }
    return all;
}

/* How many answers took how long, in steps from the shortest to the longest. */
static json_t *spread_json(const GArray *us)
{
    enum { STEPS = 30 };
    json_t *counts = json_array();
    unsigned count[STEPS] = {0};
    uint32_t least = g_array_index(us, uint32_t, 0),
             most = g_array_index(us, uint32_t, us->len - 1);
    for (unsigned i = 0; i < us->len; i++)
        count[(uint64_t)(g_array_index(us, uint32_t, i) - least) * STEPS / (most - least + 1)]++;
    for (unsigned i = 0; i < STEPS; i++) json_array_append_new(counts, json_integer(count[i]));
    return json_pack("{s:f, s:f, s:o}", "from_ms", least / 1000.0, "to_ms", most / 1000.0, "counts",
                     counts);
}

static json_t *links_json(const struct merge *m)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < m->drill->lx->links->len; i++) {
        const struct lex_link *link = drill_link(m->drill, i);
        const char *why = drill_why_not(m->drill, i);
        json_t *one = json_pack("{s:s, s:s, s:s}", "link", link->name, "medium",
                                lex_media[link->medium], "frame", lex_frames[link->frame]);
        if (why) json_object_set_new(one, "left_out", json_string(why));
        put_times(one, m->link_us[i]);
        if (m->link_us[i]->len) json_object_set_new(one, "spread", spread_json(m->link_us[i]));
        json_array_append_new(all, one);
    }
    return all;
}

/* The handlers without a contract, which nobody judges: only stand-ins answered for them, or the firmware's own. */
static json_t *handlers_json(const struct drill *drill, bool stand_ins)
{
    json_t *all = json_array();
    if (stand_ins == drill_is_own(drill)) return all;
    for (unsigned i = 0; i < drill->image->handlers->len; i++) {
        const struct lex_command *command = drill->image->handlers->pdata[i];
        if (drill->real && !real_may_say(drill, command)) continue;
        if (!drill->real && lex_contract_of(drill->lx, command->effect.handler)) continue;
        json_array_append_new(all, json_string(command->effect.handler));
    }
    return all;
}

static void free_sum(void *p)
{
    g_array_free(((struct sum *)p)->us, TRUE);
    g_free(p);
}

json_t *merge_report(const struct drill *drill, json_t *const *results, bool whole)
{
    struct merge m = {.drill = drill};
    unsigned cases = 0, n = drill->lx->links->len, undone = 0;
    m.sums = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    m.order = g_ptr_array_new_with_free_func(free_sum);
    m.link_us = g_new0(GArray *, n + 1);
    for (unsigned i = 0; i <= n; i++) m.link_us[i] = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    m.failures = json_array();
    m.cover = json_object();
    for (unsigned i = 0; i < drill->jobs->len; i++) {
        add_result(&m, results[i], drill->jobs->pdata[i]);
        undone += !results[i];
    }
    add_never(&m);
    causes_sort(m.failures);
    json_t *causes = causes_named(m.failures, drill->real != NULL);
    for (unsigned i = 0; i < m.order->len; i++) cases += ((struct sum *)m.order->pdata[i])->cases;
    json_t *all = json_pack(
        "{s:s, s:i, s:s*, s:i, s:i, s:i, s:I, s:i, s:b, s:o, s:o, s:o, s:o, s:o}", "lexicon",
        drill->lx->name, "version", (int)drill->lx->version, "firmware", drill->options->firmware,
        "cases", (int)cases, "failed", (int)m.failed, "conversations", (int)m.conversations,
        "simulated_us", (json_int_t)m.us, "seed", (int)drill->options->seed, "interrupted",
        !whole && undone > 0, "stand_ins", handlers_json(drill, true), "links", links_json(&m),
        "cells", cells_json(&m), "failures", m.failures, "coverage", cover_all(drill, m.cover));
    if (drill->real) json_object_set_new(all, "board", real_json(drill));
    if (json_array_size(causes))
        json_object_set_new(all, "causes", causes);
    else
        json_decref(causes);
    json_object_set_new(all, "undone", json_integer(undone));
    json_object_set_new(all, "handlers", handlers_json(drill, false));
    for (unsigned i = 0; i <= n; i++) g_array_free(m.link_us[i], TRUE);
    g_free(m.link_us);
    g_hash_table_destroy(m.sums);
    g_ptr_array_free(m.order, TRUE);
    json_decref(m.cover);
    return all;
}
