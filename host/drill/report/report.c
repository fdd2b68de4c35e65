/* Writes a report in the form that is asked for, and reads an earlier one.
 * Files are whole or not there.
 * No form is laid out here. */
#include "drill/report/report.h"
#include "drill/report/made.h"
#include "files/files.h"

#include <errno.h>
#include <string.h>

const char *const report_kinds[][2] = {{"command", "commands obeyed"},
                                       {"bound", "ends of slots, and past them"},
                                       {"error", "errors"},
                                       {"output", "output changes"},
                                       {"event", "events"},
                                       {"fault", "faults of links"},
                                       {NULL, NULL}};

const char *report_string(const json_t *object, const char *name)
{
    return json_string_value(json_object_get(object, name));
}

const char *report_text_of(const json_t *object, const char *name)
{
    const char *text = report_string(object, name);
    return text ? text : "";
}

unsigned report_count(const json_t *object, const char *name)
{
    return (unsigned)json_integer_value(json_object_get(object, name));
}

double report_real(const json_t *object, const char *name)
{
    return json_number_value(json_object_get(object, name));
}

const json_t *report_cell(const json_t *report, const char *command, const char *link)
{
    const json_t *cells = json_object_get(report, "cells");
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        if (!report_string(cell, "fault") && !strcmp(report_string(cell, "command"), command) &&
            !strcmp(report_string(cell, "link"), link))
            return cell;
    }
    return NULL;
}

GPtrArray *report_rows(const json_t *report, bool parts)
{
    GPtrArray *rows = g_ptr_array_new();
    const json_t *cells = json_object_get(report, "cells");
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        const char *command = report_string(cell, "command");
        if (report_string(cell, "fault") || !json_object_get(cell, "part") == parts) continue;
        if (!g_ptr_array_find_with_equal_func(rows, command, g_str_equal, NULL))
            g_ptr_array_add(rows, (void *)command);
    }
    return rows;
}

static struct report_fault *fault_of(GArray *faults, const char *link, const char *fault)
{
    for (unsigned i = 0; i < faults->len; i++) {
        struct report_fault *f = &g_array_index(faults, struct report_fault, i);
        if (!strcmp(f->link, link) && !strcmp(f->fault, fault)) return f;
    }
    struct report_fault new = {.link = link, .fault = fault};
    g_array_append_val(faults, new);
    return &g_array_index(faults, struct report_fault, faults->len - 1);
}

GArray *report_faults(const json_t *report)
{
    GArray *faults = g_array_new(FALSE, TRUE, sizeof(struct report_fault));
    const json_t *cells = json_object_get(report, "cells");
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        const char *fault = report_string(cell, "fault");
        const char *strength = report_string(cell, "strength");
        if (!fault) continue;
        struct report_fault *f = fault_of(faults, report_string(cell, "link"), fault);
        unsigned at = 0;
        while (at < f->n && strcmp(f->rungs[at].strength, strength) != 0) at++;
        if (at == G_N_ELEMENTS(f->rungs)) continue;
        struct report_rung *rung = &f->rungs[at];
        if (at == f->n) f->n++;
        rung->strength = strength;
        rung->cases += report_count(cell, "cases");
        rung->passed += report_count(cell, "passed");
        rung->lost += report_count(cell, "lost");
        rung->wrong += report_count(cell, "wrong");
    }
    return faults;
}

char *report_ms(double ms)
{
    if (ms >= 1000) return g_strdup_printf("%.1f s", ms / 1000);
    return ms >= 100 ? g_strdup_printf("%.0f ms", ms) : g_strdup_printf("%.1f ms", ms);
}

void report_covered(const json_t *report, const char *kind, unsigned *all, unsigned *never)
{
    json_t *of = json_object_get(json_object_get(report, "coverage"), kind), *value;
    const char *name;
    *all = *never = 0;
    json_object_foreach(of, name, value)
    {
        ++*all;
        *never += !json_integer_value(value);
    }
}

/* ---- CSV ---- */

static void put_field(GString *out, const char *text, const char *behind)
{
    g_string_append_c(out, '"');
    for (; text && *text; text++) g_string_append_printf(out, *text == '"' ? "\"%c" : "%c", *text);
    g_string_append_printf(out, "\"%s", behind);
}

char *report_csv(const json_t *report)
{
    GString *out = g_string_new("command,link,fault,strength,tries,passed,unanswered,wrong,answers,"
                                "median_ms,p95_ms,worst_ms,made\r\n");
    char *made = made_text(json_object_get(report, "made"));
    const json_t *cells = json_object_get(report, "cells");
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        char number[3][G_ASCII_DTOSTR_BUF_SIZE] = {"", "", ""};
        static const char *const times[] = {"median_ms", "p95_ms", "worst_ms"};
        for (unsigned k = 0; k < 3 && report_count(cell, "answers"); k++)
            g_ascii_formatd(number[k], sizeof number[k], "%.3f", report_real(cell, times[k]));
        put_field(out, report_string(cell, "command"), ",");
        put_field(out, report_string(cell, "link"), ",");
        put_field(out, report_string(cell, "fault"), ",");
        put_field(out, report_string(cell, "strength"), ",");
        g_string_append_printf(out, "%u,%u,%u,%u,%u,%s,%s,%s,", report_count(cell, "cases"),
                               report_count(cell, "passed"), report_count(cell, "lost"),
                               report_count(cell, "wrong"), report_count(cell, "answers"),
                               number[0], number[1], number[2]);
        put_field(out, made, "\r\n");
    }
    g_free(made);
    return g_string_free(out, FALSE);
}

/* ---- scenes ---- */

/* The first `what` of the text becomes `by`. Owned by the caller. */
static char *with(const char *text, const char *what, const char *by)
{
    char **parts = g_strsplit(text, what, 2);
    char *whole =
        g_strv_length(parts) == 2 ? g_strconcat(parts[0], by, parts[1], NULL) : g_strdup(text);
    g_strfreev(parts);
    return whole;
}

/* The file as it is called from a folder. Owned by the caller. */
static char *relative(const char *file, const char *folder)
{
    char *to = g_canonicalize_filename(file, NULL), *from = g_canonicalize_filename(folder, NULL);
    char **a = g_strsplit(to, "/", -1), **b = g_strsplit(from, "/", -1);
    GString *path = g_string_new(NULL);
    unsigned same = 0;
    while (a[same] && a[same + 1] && b[same] && !strcmp(a[same], b[same])) same++;
    for (unsigned i = same; b[i]; i++)
        if (*b[i]) g_string_append(path, "../");
    for (unsigned i = same; a[i]; i++)
        g_string_append_printf(path, "%s%s", a[i], a[i + 1] ? "/" : "");
    g_strfreev(a), g_strfreev(b);
    g_free(to), g_free(from);
    return g_string_free(path, FALSE);
}

static bool write_scene(json_t *failure, unsigned number, const char *folder, const char *lexicon,
                        const char *firmware, GError **error)
{
    char *name = g_strdup_printf("failure_%u", number), *world = g_strconcat(name, ".world", NULL);
    char *file = g_strdup_printf("%s/%s.scene", folder, name);
    char *beside = g_strdup_printf("%s/%s", folder, world);
    char *whole = relative(lexicon, folder);
    char *named = with(report_string(failure, "scene"), "LEXICON", whole);
    char *text = with(named, "WORLD", world);
    const char *statements = report_string(failure, "world");
    bool ok = files_write(file, text, strlen(text), error);
    if (ok && statements) ok = files_write(beside, statements, strlen(statements), error);
    if (ok) {
        char *again = g_strdup_printf("rlx play%s%s %s", firmware ? " --firmware " : "",
                                      firmware ? firmware : "", file);
        json_object_set_new(failure, "again", json_string(again));
        json_object_set_new(failure, "scene", json_string(text));
        g_free(again);
    }
    g_free(name), g_free(world), g_free(file), g_free(beside), g_free(whole), g_free(named);
    g_free(text);
    return ok;
}

bool report_scenes(json_t *report, const char *folder, const char *lexicon, GError **error)
{
    json_t *failures = json_object_get(report, "failures");
    const char *firmware = report_string(report, "firmware");
    bool ok = g_mkdir_with_parents(folder, 0777) == 0;
    if (!ok)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", folder, g_strerror(errno));
    unsigned number = 0;
    for (size_t i = 0; ok && i < json_array_size(failures); i++) {
        json_t *failure = json_array_get(failures, i);
        if (report_string(failure, "scene"))
            ok = write_scene(failure, ++number, folder, lexicon, firmware, error);
    }
    return ok;
}
