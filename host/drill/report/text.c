/* A report for a terminal: matrix, fault levels, figures, failures by cause.
 * Failures that look alike are printed once with their number.
 * Colours are the terminal's business. */
#include <string.h>

#include "drill/report/report.h"
#include "lexicon/write/cells.h"

#define FAILURES_SHOWN 20u
#define NEVER_SHOWN    12u

static void put_matrix(GString *out, const json_t *report, bool parts)
{
    const json_t *links = json_object_get(report, "links");
    size_t n = json_array_size(links);
    const char **heads = g_new0(const char *, n + 2);
    GPtrArray *rows = report_rows(report, parts);
    heads[0] = parts ? "more than single commands" : "command";
    for (size_t k = 0; k < n; k++) heads[k + 1] = report_string(json_array_get(links, k), "link");
    struct table table = table_new(heads);
    for (size_t k = 0; k <= n && rows->len; k++) table_cell(&table, "%s", heads[k]);
    for (unsigned i = 0; i < rows->len; i++) {
        table_cell(&table, "%s", (char *)rows->pdata[i]);
        for (size_t k = 0; k < n; k++) {
            const json_t *cell = report_cell(report, rows->pdata[i], heads[k + 1]);
            unsigned cases = report_count(cell, "cases"), passed = report_count(cell, "passed");
            if (!cases && !cell)
                table_cell(&table, "-");
            else if (passed == cases)
                table_cell(&table, "%u", cases);
            else
                table_cell(&table, "%u of %u", passed, cases);
        }
    }
    table_put(out, &table,
              parts ? "What else was tried" : "What was tried and answered as it must be",
              TABLE_TEXT);
    g_ptr_array_free(rows, TRUE);
    g_free(heads);
}

/* "1/200: 18 %", with what is worse behind it. */
static void put_rung(struct table *table, const struct report_fault *f, unsigned at)
{
    const struct report_rung *r = &f->rungs[at];
    if (at >= f->n) {
        table_cell(table, "%s", "");
        return;
    }
    GString *text = g_string_new(NULL);
    g_string_append_printf(text, "%s: %.0f %%", r->strength,
                           r->cases ? 100.0 * r->lost / r->cases : 0);
    if (r->wrong) g_string_append_printf(text, ", %u wrong", r->wrong);
    if (r->passed < r->cases) g_string_append_printf(text, ", %u FAIL", r->cases - r->passed);
    table_cell(table, "%s", text->str);
    g_string_free(text, TRUE);
}

static void put_faults(GString *out, const json_t *report)
{
    static const char *const heads[] = {"link", "fault", "a", "b", "c", "d", "", NULL};
    GArray *faults = report_faults(report);
    struct table table = table_new(heads);
    for (unsigned i = 0; i < faults->len; i++) {
        const struct report_fault *f = &g_array_index(faults, struct report_fault, i);
        if (!strcmp(f->fault, "mixed")) continue;
        table_cell(&table, "%s", f->link);
        table_cell(&table, "%s", f->fault);
        for (unsigned k = 0; k < 4; k++) put_rung(&table, f, k);
        table_cell(&table, "%s", ""); /* the last one would be wrapped */
    }
    table_put(out, &table,
              "Commands that got no ok while the link was bad, by the fault's strength\n"
              "(\"wrong\": obeyed as something else; a link with a check must have none)",
              TABLE_TEXT);
    g_array_free(faults, TRUE);
}

static void put_times(GString *out, const json_t *report)
{
    static const char *const heads[] = {"link", "time", NULL};
    const json_t *links = json_object_get(report, "links");
    struct table table = table_new(heads);
    for (size_t i = 0; i < json_array_size(links); i++) {
        const json_t *link = json_array_get(links, i);
        table_cell(&table, "%s", report_string(link, "link"));
        if (report_string(link, "left_out")) {
            table_cell(&table, "not drilled: %s", report_string(link, "left_out"));
        } else if (!report_count(link, "answers")) {
            table_cell(&table, "it does not answer");
        } else {
            char *median = report_ms(report_real(link, "median_ms")),
                 *p95 = report_ms(report_real(link, "p95_ms")),
                 *worst = report_ms(report_real(link, "worst_ms"));
            table_cell(&table, "%s, 95 %% within %s, at most %s", median, p95, worst);
            g_free(median), g_free(p95), g_free(worst);
        }
    }
    table_put(out, &table, "Time to the answer, from the frame's first byte on", TABLE_TEXT);
}

static void put_never(GString *out, json_t *of)
{
    const char *name;
    json_t *value;
    unsigned shown = 0, never = 0;
    json_object_foreach(of, name, value)
    {
        if (json_integer_value(value)) continue;
        if (never++ < NEVER_SHOWN)
            g_string_append_printf(out, "%s%s", shown++ ? "; " : "; never: ", name);
    }
    if (never > shown) g_string_append_printf(out, "; and %u more", never - shown);
}

static void put_coverage(GString *out, const json_t *report)
{
    static const char *const heads[] = {"kind", "share", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; report_kinds[i][0]; i++) {
        unsigned all, never;
        GString *text = g_string_new(NULL);
        report_covered(report, report_kinds[i][0], &all, &never);
        g_string_append_printf(text, "%u of %u", all - never, all);
        put_never(text, json_object_get(json_object_get(report, "coverage"), report_kinds[i][0]));
        if (all) table_cell(&table, "%s", report_kinds[i][1]);
        if (all) table_cell(&table, "%s", text->str);
        g_string_free(text, TRUE);
    }
    table_put(out, &table, "What of the design was exercised", TABLE_TEXT);
}

static void put_around(GString *out, const json_t *f)
{
    const json_t *around = json_object_get(f, "around");
    for (size_t i = 0; i < json_array_size(around); i++)
        g_string_append_printf(out, "      | %s\n", json_string_value(json_array_get(around, i)));
    if (report_string(f, "again"))
        g_string_append_printf(out, "      again: %s\n", report_string(f, "again"));
}

static void put_failure(GString *out, const json_t *f)
{
    const char *fault = report_string(f, "fault"), *strength = report_string(f, "strength");
    char *text = g_strescape(report_string(f, "text"), "\"");
    bool differs = !strcmp(report_string(f, "kind"), "differs");
    g_string_append_printf(out, "FAIL  %s", report_string(f, "link"));
    if (*text && strcmp(report_string(f, "suite"), "life") != 0)
        g_string_append_printf(out, " \"%.60s%s\"", text, strlen(text) > 60 ? "..." : "");
    else
        g_string_append_printf(out, " %s:", report_string(f, "case"));
    g_string_append_printf(out, " (%s", report_string(f, "tried"));
    if (fault && strcmp(fault, "mixed") != 0)
        g_string_append_printf(out, "; %s %s", fault, strength);
    g_string_append_printf(out, "): expected %s%s; came: %s\n",
                           differs ? "as the reference model: " : "", report_string(f, "expected"),
                           report_string(f, "came"));
    g_free(text);
}

/* One of each cause, with its conversation, and how many look like it. */
static void put_failures(GString *out, const json_t *report, unsigned around)
{
    const json_t *failures = json_object_get(report, "failures");
    size_t n = json_array_size(failures), listed = 0;
    unsigned shown = 0, scenes = 0;
    for (size_t i = 0; i < n; i++) {
        const json_t *f = json_array_get(failures, i);
        scenes += report_string(f, "again") != NULL;
        if (report_count(f, "nth") != 1 || shown == FAILURES_SHOWN) continue;
        put_failure(out, f);
        listed += report_count(f, "alike");
        if (shown++ < around) put_around(out, f);
        if (report_count(f, "alike") > 1)
            g_string_append_printf(out, "      and %u more like it\n",
                                   report_count(f, "alike") - 1);
        if (report_string(f, "own"))
            g_string_append_printf(out, "      where the firmware does so on purpose: %s\n",
                                   report_string(f, "own"));
    }
    if (n && around && !scenes && !json_object_get(report, "board"))
        g_string_append(out, "      --scenes FOLDER writes such conversations as scenes\n");
    if (report_count(report, "failed") > listed)
        g_string_append_printf(out, "      %u more not shown\n",
                               report_count(report, "failed") - (unsigned)listed);
}

static void put_causes(GString *out, const json_t *report)
{
    const json_t *causes = json_object_get(report, "causes");
    for (size_t i = 0; i < json_array_size(causes); i++) {
        const json_t *one = json_array_get(causes, i);
        unsigned n = report_count(one, "failures");
        g_string_append_printf(out, "CAUSE %s (%u failure%s)\n", report_string(one, "cause"), n,
                               n == 1 ? "" : "s");
    }
}

static void put_changes(GString *out, const json_t *list, const char *what, bool times)
{
    for (size_t i = 0; i < json_array_size(list) && i < FAILURES_SHOWN; i++) {
        const json_t *one = json_array_get(list, i);
        const char *fault = report_string(one, "fault");
        g_string_append_printf(out, "  %s: %s over %s%s%s%s%s", what, report_string(one, "command"),
                               report_string(one, "link"), fault ? ", " : "", fault ? fault : "",
                               fault ? " " : "", fault ? report_string(one, "strength") : "");
        if (times)
            g_string_append_printf(out, ": 95 %% within %.1f ms, was %.1f ms",
                                   report_real(one, "p95_ms"), report_real(one, "was_ms"));
        g_string_append_c(out, '\n');
    }
}

static void put_against(GString *out, const json_t *report)
{
    const json_t *a = json_object_get(report, "against");
    if (!a) return;
    g_string_append_printf(out,
                           "\nAgainst %s: %zu newly failing, %zu newly passing, %zu slower, "
                           "%u new, %u gone\n",
                           report_string(a, "file"),
                           json_array_size(json_object_get(a, "newly_failing")),
                           json_array_size(json_object_get(a, "newly_passing")),
                           json_array_size(json_object_get(a, "slower")), report_count(a, "new"),
                           report_count(a, "gone"));
    put_changes(out, json_object_get(a, "newly_failing"), "newly failing", false);
    put_changes(out, json_object_get(a, "newly_passing"), "newly passing", false);
    put_changes(out, json_object_get(a, "slower"), "slower", true);
}

static void put_handlers(GString *out, const json_t *report, const char *which, const char *what)
{
    const json_t *names = json_object_get(report, which);
    for (size_t i = 0; i < json_array_size(names); i++)
        g_string_append_printf(out, "%s%s()", i ? ", " : what,
                               json_string_value(json_array_get(names, i)));
    if (json_array_size(names)) g_string_append_c(out, '\n');
}

static void put_list(GString *out, const json_t *texts, const char *before)
{
    for (size_t i = 0; i < json_array_size(texts); i++)
        g_string_append_printf(out, "%s%s\n", before, json_string_value(json_array_get(texts, i)));
}

static void put_board(GString *out, const json_t *report)
{
    const json_t *board = json_object_get(report, "board");
    const char *is = report_string(board, "is");
    if (!board) return;
    g_string_append_printf(out, "The board at %s, over %s: %s\n", report_string(board, "where"),
                           report_string(board, "link"),
                           is ? is : "it does not say what it is (no greeting, no `about`)");
    if (report_count(board, "asked"))
        g_string_append_printf(out,
                               "It answers within %.1f ms, at most %.1f ms (%u of %u asked): what "
                               "is %.0f ms late is a failure\n",
                               report_real(board, "median_ms"), report_real(board, "worst_ms"),
                               report_count(board, "answered"), report_count(board, "asked"),
                               report_real(board, "slack_ms"));
    g_string_append(out, "Not judged:\n");
    put_list(out, json_object_get(board, "not_judged"), "  ");
    g_string_append_c(out, '\n');
}

char *report_text(const json_t *report, unsigned around)
{
    GString *out = g_string_new(NULL);
    unsigned cases = report_count(report, "cases"), failed = report_count(report, "failed");
    put_board(out, report);
    put_matrix(out, report, false);
    put_matrix(out, report, true);
    put_faults(out, report);
    put_times(out, report);
    put_coverage(out, report);
    put_handlers(out, report, "stand_ins", "\nHandlers that a stub answered for: ");
    put_handlers(out, report, "handlers", "\nNot judged, what these do: ");
    put_against(out, report);
    g_string_append_c(out, '\n');
    put_causes(out, report);
    put_failures(out, report, around);
    if (json_is_true(json_object_get(report, "interrupted")))
        g_string_append_printf(out, "ended before its end: %u parts of the drill were not done\n",
                               report_count(report, "undone"));
    if (json_object_get(report, "board"))
        g_string_append_printf(out, "%u conversations, %.1f min\n",
                               report_count(report, "conversations"),
                               report_real(report, "simulated_us") / 6e7);
    else
        g_string_append_printf(out, "%u conversations, %.1f h of the bench's time\n",
                               report_count(report, "conversations"),
                               report_real(report, "simulated_us") / 3.6e9);
    g_string_append_printf(out, "%u test cases: %u passed, %u failed\n", cases,
                           cases > failed ? cases - failed : 0, failed);
    return g_string_free(out, FALSE);
}
