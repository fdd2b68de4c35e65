/* A report as one page with all that it needs in it.
 * Readable without colours, on a phone, on paper; every text is escaped.
 * It loads nothing; its script only filters and opens, and all is there without it. */
#include <string.h>

#include "drill/report/html_parts.h"
#include "drill/report/made.h"
#include "drill/report/report.h"

#define PLOT_WIDTH  360.0
#define PLOT_HEIGHT 120.0
#define NEVER_SHOWN 60u

static const char style[] =
    "body{font:16px/1.45 system-ui,sans-serif;margin:0 "
    "auto;padding:1rem;max-width:76rem;color:#111;"
    "background:#fff}h1{font-size:1.5rem;margin:.2rem 0}h2{font-size:1.15rem;margin:1.8rem 0 .4rem;"
    "border-bottom:2px solid #111}p{margin:.3rem "
    "0}.verdict{font-size:1.25rem;font-weight:700;padding:"
    ".5rem .8rem;border:3px solid;display:inline-block;margin:.5rem "
    "0}.good{color:#064e2b}.bad{color:"
    "#8c1111}.wide{overflow-x:auto}table{border-collapse:collapse;font-size:.92rem}th,td{border:"
    "1px "
    "solid #999;padding:.22rem .5rem;text-align:left;vertical-align:top}thead th{background:#eee}"
    "td.n{text-align:right;white-space:nowrap}td.bad,th.bad{font-weight:700;outline:2px solid "
    "#8c1111;"
    "outline-offset:-2px}.bar{height:.5rem;border:1px solid #444;width:7rem;background:#fff}.bar i{"
    "display:block;height:100%;background:repeating-linear-gradient(45deg,#555 0 2px,#aaa 2px 4px)}"
    "small{color:#333}pre{background:#f4f4f4;border:1px solid #bbb;padding:.5rem;overflow-x:auto;"
    "font-size:.82rem}details.more{margin-left:2em}details{margin:.4rem "
    "0}summary{cursor:pointer}.plots{display:flex;flex-wrap:"
    "wrap;gap:1rem}.beside{display:flex;flex-wrap:wrap;gap:1.5rem;align-items:flex-start}figure{"
    "margin:0}svg{max-width:100%;height:auto}.never{font-weight:700}"
    "footer{margin-top:1.5rem}nav ul{display:flex;flex-wrap:wrap;gap:.2rem "
    "1.2rem;list-style:none;padding:0}h3{font-size:1rem;margin:"
    "1rem 0 .2rem}details img{max-width:100%;background:#fff;border:1px solid #bbb}.bad "
    "a{color:inherit}#filter{font:inherit;padding:.3rem;width:20rem;max-width:100%}@media(max-"
    "width:40rem){body{padding:.6rem}table{font-size:.8rem}.bar{width:4rem}}"
    "@media "
    "print{body{max-width:none;font-size:10pt}.wide{overflow:visible}details::details-content{"
    "content-visibility:visible}summary,h2{break-after:avoid}pre{overflow:visible;white-space:"
    "pre-wrap;overflow-wrap:anywhere}tr,figure{break-inside:avoid}thead{display:table-header-group}"
    "}";

/* ---- text ---- */

static void put_ms(GString *out, const json_t *of, const char *name)
{
    char *ms = report_count(of, "answers") ? report_ms(report_real(of, name)) : g_strdup("–");
    html_put_in(out, "td class=n", ms);
    g_free(ms);
}

/* ---- the head ---- */

static void put_handlers(GString *out, const json_t *names, const char *what)
{
    for (size_t i = 0; i < json_array_size(names); i++) {
        g_string_append(out, i ? ", " : what);
        html_put_in(out, "code", json_string_value(json_array_get(names, i)));
    }
}

/* A real board: who it is, how fast, and what is not judged. */
static void put_board(GString *out, const json_t *report, const json_t *board)
{
    const json_t *texts = json_object_get(board, "not_judged");
    const char *is = report_string(board, "is");
    g_string_append(out, "<p>Drilled: the board at <code>");
    html_put(out, report_string(board, "where"));
    g_string_append(out, "</code>, over <b>");
    html_put(out, report_string(board, "link"));
    g_string_append(out, "</b>: ");
    html_put(out, is ? is : "it does not say what it is");
    g_string_append_printf(
        out,
        ". It answers within %.1f ms, at most %.1f ms; what is %.0f ms late is a "
        "failure. %u conversations, %.1f minutes, seed %u.</p><p>Not judged:</p><ul>",
        report_real(board, "median_ms"), report_real(board, "worst_ms"),
        report_real(board, "slack_ms"), report_count(report, "conversations"),
        report_real(report, "simulated_us") / 6e7, report_count(report, "seed"));
    for (size_t i = 0; i < json_array_size(texts); i++)
        html_put_in(out, "li", json_string_value(json_array_get(texts, i)));
    put_handlers(out, json_object_get(report, "handlers"), "<li>what these do: ");
    g_string_append(out, "</ul>");
}

static void put_causes(GString *out, const json_t *report)
{
    const json_t *causes = json_object_get(report, "causes");
    if (!json_array_size(causes)) return;
    g_string_append(out, "<h2 id=causes>What is probably wrong</h2><ul>");
    for (size_t i = 0; i < json_array_size(causes); i++) {
        const json_t *one = json_array_get(causes, i);
        g_string_append(out, "<li><b>");
        html_put(out, report_string(one, "cause"));
        g_string_append_printf(out, "</b> (%u of the failures)", report_count(one, "failures"));
    }
    g_string_append(out, "</ul>");
}

static void put_head(GString *out, const json_t *report)
{
    unsigned cases = report_count(report, "cases"), failed = report_count(report, "failed");
    const char *firmware = report_string(report, "firmware");
    g_string_append(out, "<!doctype html><html lang=en><meta charset=utf-8><meta name=viewport "
                         "content=\"width=device-width,initial-scale=1\"><title>Drill of ");
    html_put(out, report_string(report, "lexicon"));
    g_string_append_printf(out, "</title><style>%s</style><h1>Drill of ", style);
    html_put(out, report_string(report, "lexicon"));
    g_string_append_printf(out, " %u</h1>", report_count(report, "version"));
    g_string_append_printf(out,
                           "<p class=\"verdict %s\">%s %u test cases: %u passed, %u failed</p>",
                           failed ? "bad" : "good", failed ? "✗" : "✓", cases,
                           cases > failed ? cases - failed : 0, failed);
    if (json_is_true(json_object_get(report, "interrupted")))
        g_string_append_printf(out,
                               "<p class=\"verdict bad\">Ended before its end: %u parts of it "
                               "were not done</p>",
                               report_count(report, "undone"));
    if (json_object_get(report, "board")) {
        put_board(out, report, json_object_get(report, "board"));
        return;
    }
    g_string_append_printf(
        out,
        "<p>Every command over every link, on links without faults, under "
        "each fault of the link at growing strength, and all mixed: %u conversations, "
        "%.1f hours of the bench's own time, seed %u. ",
        report_count(report, "conversations"), report_real(report, "simulated_us") / 3.6e9,
        report_count(report, "seed"));
    if (firmware) {
        g_string_append(out, "Drilled: the program <code>");
        html_put(out, firmware);
        g_string_append(out, "</code>, compared with the reference model");
        put_handlers(out, json_object_get(report, "handlers"), "; not judged is what these do: ");
        g_string_append(out, ".</p>");
    } else {
        g_string_append(out, "Drilled: the reference model, which is the lexicon's own tables");
        put_handlers(out, json_object_get(report, "stand_ins"),
                     "; stubs answered for the handlers ");
        g_string_append(out, ".</p>");
    }
}

/* ---- another drill ---- */

static void put_changes(GString *out, const json_t *list, const char *what, bool times)
{
    if (!json_array_size(list)) return;
    g_string_append_printf(out, "<p><b>%s</b></p><ul>", what);
    for (size_t i = 0; i < json_array_size(list); i++) {
        const json_t *one = json_array_get(list, i);
        g_string_append(out, "<li>");
        html_put(out, report_string(one, "command"));
        g_string_append(out, " over ");
        html_put(out, report_string(one, "link"));
        if (report_string(one, "fault"))
            g_string_append_printf(out, ", %s %s", report_string(one, "fault"),
                                   report_string(one, "strength"));
        if (times)
            g_string_append_printf(out, ": 95 %% within %.1f ms, was %.1f ms",
                                   report_real(one, "p95_ms"), report_real(one, "was_ms"));
    }
    g_string_append(out, "</ul>");
}

static void put_against(GString *out, const json_t *report)
{
    const json_t *a = json_object_get(report, "against");
    if (!a) return;
    const json_t *failing = json_object_get(a, "newly_failing"),
                 *passing = json_object_get(a, "newly_passing"),
                 *slower = json_object_get(a, "slower");
    g_string_append(out, "<h2 id=against>Against an earlier drill</h2><p>");
    html_put(out, report_string(a, "file"));
    g_string_append_printf(
        out, ": %zu newly failing, %zu newly passing, %zu slower, %u new, %u gone.</p>",
        json_array_size(failing), json_array_size(passing), json_array_size(slower),
        report_count(a, "new"), report_count(a, "gone"));
    put_changes(out, failing, "✗ Newly failing", false);
    put_changes(out, passing, "✓ Newly passing", false);
    put_changes(out, slower, "Slower", true);
}

/* ---- matrices ---- */

static void put_table(GString *out, const json_t *report, bool parts)
{
    const json_t *links = json_object_get(report, "links");
    GPtrArray *rows = report_rows(report, parts);
    g_string_append_printf(out, "<table><thead><tr><th>%s",
                           parts ? "more than single commands" : "command");
    for (size_t k = 0; k < json_array_size(links); k++) {
        const json_t *link = json_array_get(links, k);
        g_string_append(out, "<th>");
        html_put(out, report_string(link, "link"));
        g_string_append(out, "<br><small>");
        html_put(out, report_string(link, "left_out") ? report_string(link, "left_out")
                                                      : report_string(link, "medium"));
        g_string_append(out, "</small>");
    }
    g_string_append(out, "</thead>");
    for (unsigned i = 0; i < rows->len; i++) {
        g_string_append(out, "<tr>");
        html_put_in(out, "th", rows->pdata[i]);
        for (size_t k = 0; k < json_array_size(links); k++) {
            const json_t *cell = report_cell(report, rows->pdata[i],
                                             report_string(json_array_get(links, k), "link"));
            unsigned cases = report_count(cell, "cases"), passed = report_count(cell, "passed");
            if (!cases)
                g_string_append(out, "<td>–");
            else if (passed == cases)
                g_string_append_printf(out, "<td>✓ %u", cases);
            else
                g_string_append_printf(
                    out, "<td class=bad><a href=\"#f%d\">✗ %u of %u</a>",
                    html_failure_of(report, rows->pdata[i],
                                    report_string(json_array_get(links, k), "link"), NULL),
                    passed, cases);
        }
    }
    g_string_append(out, "</table>");
    g_ptr_array_free(rows, TRUE);
}

static void put_matrix(GString *out, const json_t *report)
{
    g_string_append(
        out, "<h2 id=matrix>Commands over links</h2><p>✓ and a number: that many test cases, all "
             "passed. ✗: that many "
             "failed. –: not possible over this link.</p><div class=\"wide beside\">");
    put_table(out, report, false);
    put_table(out, report, true);
    g_string_append(out, "</div>");
}

static void put_rung(GString *out, const json_t *report, const struct report_fault *f,
                     const struct report_rung *r)
{
    double lost = r->cases ? 100.0 * r->lost / r->cases : 0;
    unsigned failed = r->cases - r->passed;
    g_string_append_printf(out, "<td%s><small>", failed ? " class=bad" : "");
    html_put(out, r->strength);
    g_string_append_printf(
        out, "</small><div class=bar><i style=\"width:%.0f%%\"></i></div>%.0f %%", lost, lost);
    if (r->wrong) g_string_append_printf(out, "<br>⚠ %u wrong", r->wrong);
    if (failed)
        g_string_append_printf(out, "<br><a href=\"#f%d\">✗ %u failed</a>",
                               html_failure_of(report, NULL, f->link, f->fault), failed);
}

static void put_faults(GString *out, const json_t *report)
{
    GArray *faults = report_faults(report);
    bool begun = false;
    for (unsigned i = 0; i < faults->len; i++) {
        const struct report_fault *f = &g_array_index(faults, struct report_fault, i);
        bool mixed = !strcmp(f->fault, "mixed");
        if (mixed) continue;
        if (!begun)
            g_string_append(
                out,
                "<h2 id=faults>While a link is bad</h2><p>The bar and the share: commands that got "
                "no ok while the fault was there, at growing strength from left to "
                "right. ⚠ wrong: obeyed as another command, which a link "
                "without a check cannot know. ✗: something that must not happen, or not "
                "as before when the fault was over.</p><div class=wide><table><thead><tr>"
                "<th>link<th>fault<th colspan=4>share without an ok, by strength</thead>");
        begun = true;
        g_string_append(out, "<tr>");
        html_put_in(out, "th", f->link);
        html_put_in(out, "th", f->fault);
        for (unsigned k = 0; k < f->n; k++) put_rung(out, report, f, &f->rungs[k]);
        for (unsigned k = f->n; k < 4; k++) g_string_append(out, "<td>");
    }
    if (begun) g_string_append(out, "</table></div>");
    g_array_free(faults, TRUE);
}

/* ---- reply times ---- */

/* Where a time stands on the plot. */
static double at(const json_t *spread, double ms)
{
    double from = report_real(spread, "from_ms"), to = report_real(spread, "to_ms");
    return to > from ? 10 + (ms - from) / (to - from) * (PLOT_WIDTH - 20) : PLOT_WIDTH / 2;
}

static void put_mark(GString *out, const json_t *spread, double ms, const char *what, double y)
{
    double x = at(spread, ms);
    bool left = x > PLOT_WIDTH / 2;
    char *text = report_ms(ms);
    g_string_append_printf(
        out,
        "<line x1=%.1f y1=12 x2=%.1f y2=%.0f stroke=#000 stroke-dasharray=\"4 2\"/>"
        "<text x=%.1f y=%.0f font-size=11 text-anchor=%s>%s %s</text>",
        x, x, PLOT_HEIGHT, left ? x - 4 : x + 4, y, left ? "end" : "start", what, text);
    g_free(text);
}

static void put_plot(GString *out, const json_t *link)
{
    const json_t *spread = json_object_get(link, "spread"),
                 *counts = json_object_get(spread, "counts");
    size_t n = json_array_size(counts);
    json_int_t most = 1;
    for (size_t i = 0; i < n; i++) most = MAX(most, json_integer_value(json_array_get(counts, i)));
    char *from = report_ms(report_real(spread, "from_ms")),
         *to = report_ms(report_real(spread, "to_ms"));
    g_string_append_printf(out, "<figure><figcaption><b>");
    html_put(out, report_string(link, "link"));
    g_string_append_printf(out,
                           "</b>, %u answers</figcaption><svg width=%.0f height=%.0f "
                           "viewBox=\"0 0 %.0f %.0f\" role=img aria-label=\"reply times\">",
                           report_count(link, "answers"), PLOT_WIDTH, PLOT_HEIGHT + 20, PLOT_WIDTH,
                           PLOT_HEIGHT + 20);
    double step = (PLOT_WIDTH - 20) / (double)n;
    for (size_t i = 0; i < n; i++) {
        double height = (PLOT_HEIGHT - 34) * (double)json_integer_value(json_array_get(counts, i)) /
                        (double)most;
        if (height > 0)
            g_string_append_printf(out,
                                   "<rect x=%.1f y=%.1f width=%.1f height=%.1f fill=#bbb "
                                   "stroke=#333 />",
                                   10 + (double)i * step, PLOT_HEIGHT - MAX(height, 2), step - 1,
                                   MAX(height, 2));
    }
    put_mark(out, spread, report_real(link, "median_ms"), "median", 10);
    put_mark(out, spread, report_real(link, "p95_ms"), "95 %", 23);
    g_string_append_printf(
        out,
        "<line x1=10 y1=%.0f x2=%.0f y2=%.0f stroke=#000 /><text x=10 y=%.0f "
        "font-size=11>%s</text><text x=%.0f y=%.0f font-size=11 text-anchor=end>%s"
        "</text></svg></figure>",
        PLOT_HEIGHT, PLOT_WIDTH - 10, PLOT_HEIGHT, PLOT_HEIGHT + 14, from, PLOT_WIDTH - 10,
        PLOT_HEIGHT + 14, to);
    g_free(from);
    g_free(to);
}

static void put_times(GString *out, const json_t *report)
{
    const json_t *links = json_object_get(report, "links");
    g_string_append(
        out,
        "<h2 id=times>Time to the answer</h2><p>From the frame's first byte to the answer's last "
        "one, on links without faults.</p><div class=plots>");
    for (size_t i = 0; i < json_array_size(links); i++)
        if (report_count(json_array_get(links, i), "answers"))
            put_plot(out, json_array_get(links, i));
    g_string_append(out, "</div>");
}

/* Of a command over a link, all faults together. */
static void put_bad(GString *out, const json_t *report, const json_t *of)
{
    const json_t *cells = json_object_get(report, "cells");
    unsigned cases = 0, lost = 0, wrong = 0;
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        const char *fault = report_string(cell, "fault");
        if (!fault || !strcmp(fault, "mixed") ||
            strcmp(report_string(cell, "command"), report_string(of, "command")) != 0 ||
            strcmp(report_string(cell, "link"), report_string(of, "link")) != 0)
            continue;
        cases += report_count(cell, "cases");
        lost += report_count(cell, "lost");
        wrong += report_count(cell, "wrong");
    }
    if (cases)
        g_string_append_printf(out, "<td class=n>%u<td class=n>%.0f %%<td class=n>%u", cases,
                               100.0 * lost / cases, wrong);
    else
        g_string_append(out, "<td class=n>–<td class=n>–<td class=n>–");
}

static void put_figures(GString *out, const json_t *report)
{
    const json_t *cells = json_object_get(report, "cells");
    g_string_append(
        out, "<details><summary>Figures for each command and link</summary><div class=wide>"
             "<table><thead><tr><th rowspan=2>command<th rowspan=2>link<th colspan=5>on a link "
             "as it should be<th colspan=3>over the bad link<tr><th>tries<th>passed<th>median"
             "<th>95 %<th>longest<th>tries<th>no ok<th>wrong</thead>");
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        if (report_string(cell, "fault")) continue;
        g_string_append(out, "<tr>");
        html_put_in(out, "th", report_string(cell, "command"));
        html_put_in(out, "td", report_string(cell, "link"));
        g_string_append_printf(out, "<td class=n>%u<td class=n>%u", report_count(cell, "cases"),
                               report_count(cell, "passed"));
        put_ms(out, cell, "median_ms");
        put_ms(out, cell, "p95_ms");
        put_ms(out, cell, "worst_ms");
        put_bad(out, report, cell);
    }
    g_string_append(out, "</table></div></details>");
}

/* ---- coverage ---- */

static void put_kind(GString *out, const json_t *report, const char *kind, const char *called)
{
    json_t *of = json_object_get(json_object_get(report, "coverage"), kind), *value;
    const char *name;
    unsigned all, never, shown = 0;
    report_covered(report, kind, &all, &never);
    if (!all) return;
    g_string_append_printf(out, "<tr><th>%s<td class=n>%u of %u<td>", called, all - never, all);
    json_object_foreach(of, name, value)
    {
        if (json_integer_value(value) || shown == NEVER_SHOWN) continue;
        g_string_append(out, shown++ ? "; " : "<span class=never>never: ");
        html_put(out, name);
    }
    g_string_append(out, shown ? "</span>" : "all of it");
    g_string_append(out, "<details><summary>how often</summary><ul>");
    json_object_foreach(of, name, value)
    {
        g_string_append(out, "<li>");
        html_put(out, name);
        g_string_append_printf(out, ": %" JSON_INTEGER_FORMAT, json_integer_value(value));
    }
    g_string_append(out, "</ul></details>");
}

static void put_coverage(GString *out, const json_t *report)
{
    g_string_append(out,
                    "<h2 id=coverage>What of the design was exercised</h2><div class=wide><table>");
    for (unsigned i = 0; report_kinds[i][0]; i++)
        put_kind(out, report, report_kinds[i][0], report_kinds[i][1]);
    g_string_append(out, "</table></div>");
}

char *report_html(const json_t *report)
{
    GString *out = g_string_new(NULL);
    put_head(out, report);
    html_put_contents(out, report);
    put_causes(out, report);
    html_put_failures(out, report);
    put_against(out, report);
    put_matrix(out, report);
    put_faults(out, report);
    put_times(out, report);
    put_figures(out, report);
    put_coverage(out, report);
    char *made = made_text(json_object_get(report, "made"));
    g_string_append(out, "<footer><p><small>Made by ");
    html_put(out, made);
    g_string_append(out, "</small></p></footer><script>" HTML_SCRIPT "</script></html>\n");
    g_free(made);
    return g_string_free(out, FALSE);
}
