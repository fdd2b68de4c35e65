/* Compares a report with an earlier one.
 * Failures are matched by suite, link, case and text.
 * It does not play anything again. */
#include <string.h>

#include "drill/report/report.h"

/* Slower: the 95 % time by so much, and by more than a millisecond. */
#define SLOWER 1.2

static char *key_of(const json_t *cell)
{
    const char *fault = report_string(cell, "fault"), *strength = report_string(cell, "strength");
    return g_strjoin("\n", report_string(cell, "command"), report_string(cell, "link"),
                     fault ? fault : "", strength ? strength : "", NULL);
}

static json_t *told(const json_t *cell, const json_t *was)
{
    json_t *one =
        json_pack("{s:s, s:s, s:s*, s:s*}", "command", report_string(cell, "command"), "link",
                  report_string(cell, "link"), "fault", report_string(cell, "fault"), "strength",
                  report_string(cell, "strength"));
    json_object_set(one, "p95_ms", json_object_get(cell, "p95_ms"));
    json_object_set_new(one, "was_ms", json_real(report_real(was, "p95_ms")));
    json_object_set_new(one, "failed",
                        json_integer(report_count(cell, "cases") - report_count(cell, "passed")));
    json_object_set_new(one, "had_failed",
                        json_integer(report_count(was, "cases") - report_count(was, "passed")));
    return one;
}

static GHashTable *cells_of(const json_t *report)
{
    GHashTable *table = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    const json_t *cells = json_object_get(report, "cells");
    for (size_t i = 0; i < json_array_size(cells); i++) {
        json_t *cell = json_array_get(cells, i);
        if (report_string(cell, "command") && report_string(cell, "link"))
            g_hash_table_insert(table, key_of(cell), cell);
    }
    return table;
}

static void compare(json_t *report, const json_t *before, const char *file)
{
    json_t *failing = json_array(), *passing = json_array(), *slower = json_array();
    GHashTable *was = cells_of(before);
    const json_t *cells = json_object_get(report, "cells");
    unsigned new = 0, same = 0;
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        char *key = key_of(cell);
        const json_t *old = g_hash_table_lookup(was, key);
        g_free(key);
        new += !old;
        if (!old) continue;
        same++;
        bool fails = report_count(cell, "passed") < report_count(cell, "cases");
        bool failed = report_count(old, "passed") < report_count(old, "cases");
        double ms = report_real(cell, "p95_ms"), old_ms = report_real(old, "p95_ms");
        if (fails && !failed) json_array_append_new(failing, told(cell, old));
        if (!fails && failed) json_array_append_new(passing, told(cell, old));
        if (old_ms > 0 && ms > SLOWER * old_ms && ms > old_ms + 1)
            json_array_append_new(slower, told(cell, old));
    }
    json_object_set_new(report, "against",
                        json_pack("{s:s, s:o, s:o, s:o, s:i, s:i}", "file", file, "newly_failing",
                                  failing, "newly_passing", passing, "slower", slower, "new",
                                  (int)new, "gone", (int)(g_hash_table_size(was) - same)));
    g_hash_table_destroy(was);
}

bool report_against(json_t *report, const char *file, GError **error)
{
    json_error_t fault;
    json_t *before = json_load_file(file, 0, &fault);
    const char *name = before ? report_string(before, "lexicon") : NULL;
    bool ok = name && !strcmp(name, report_string(report, "lexicon"));
    if (!before)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s, line %d: %s", file, fault.line,
                    fault.text);
    else if (!ok)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED,
                    "%s: expected what rlx drill --json wrote of lexicon %s%s%s", file,
                    report_string(report, "lexicon"), name ? ", not " : "", name ? name : "");
    else
        compare(report, before, file);
    if (before) json_decref(before);
    return ok;
}
