/* What failed, of a report as a page: by cause, with its conversation, scene and timeline.
 * Also what every part of the page needs: texts, which are escaped, contents, places to jump to.
 * It finds no cause: drill/report/cause.c does. */
#include "drill/report/html_parts.h"

#include <string.h>

#include "drill/report/report.h"

/* ---- text ---- */

void html_put(GString *out, const char *text)
{
    for (; text && *text; text++) {
        unsigned char c = (unsigned char)*text;
        if (c == '<')
            g_string_append(out, "&lt;");
        else if (c == '>')
            g_string_append(out, "&gt;");
        else if (c == '&')
            g_string_append(out, "&amp;");
        else if (c == '"')
            g_string_append(out, "&quot;");
        else if (c < ' ' && c != '\n')
            g_string_append_printf(out, "\\x%02X", c);
        else
            g_string_append_c(out, (char)c);
    }
}

void html_put_in(GString *out, const char *tag, const char *text)
{
    g_string_append_printf(out, "<%s>", tag);
    html_put(out, text);
    g_string_append_printf(out, "</%.*s>", (int)strcspn(tag, " "), tag);
}

static bool has_faults(const json_t *report)
{
    GArray *faults = report_faults(report);
    bool some = false;
    for (unsigned i = 0; i < faults->len; i++)
        some |= strcmp(g_array_index(faults, struct report_fault, i).fault, "mixed") != 0;
    g_array_free(faults, TRUE);
    return some;
}

static void put_lines(GString *out, const json_t *lines, const char *head)
{
    if (!json_array_size(lines)) return;
    g_string_append_printf(out, "<p>%s</p><pre>", head);
    for (size_t i = 0; i < json_array_size(lines); i++) {
        html_put(out, json_string_value(json_array_get(lines, i)));
        g_string_append_c(out, '\n');
    }
    g_string_append(out, "</pre>");
}

static void put_failure(GString *out, const json_t *f, size_t number, bool open)
{
    const char *fault = report_string(f, "fault"), *strength = report_string(f, "strength");
    char *escaped = g_strescape(report_string(f, "text"), "\""), *text;
    text = g_strdup_printf("%.60s%s", escaped, strlen(escaped) > 60 ? "..." : "");
    g_string_append_printf(out, "<details id=f%zu class=failure%s><summary>✗ <b>", number,
                           open ? " open" : "");
    html_put(out, report_string(f, "case"));
    g_string_append(out, "</b> over <b>");
    html_put(out, report_string(f, "link"));
    g_string_append(out, "</b>");
    if (*text) {
        g_string_append(out, ": <code>");
        html_put(out, text);
        g_string_append(out, "</code>");
    }
    g_free(escaped);
    g_free(text);
    g_string_append(out, " (");
    html_put(out, report_string(f, "tried"));
    if (fault) g_string_append_printf(out, "; %s %s", fault, strength);
    g_string_append(out, ")</summary><p>Expected ");
    if (!strcmp(report_string(f, "kind"), "differs"))
        g_string_append(out, "what the lexicon's tables do: ");
    html_put_in(out, "b", report_string(f, "expected"));
    g_string_append(out, "; came: ");
    html_put_in(out, "b", report_string(f, "came"));
    g_string_append(out, "</p>");
    if (report_string(f, "own") && open) {
        g_string_append(out, "<p>Where the firmware does so on purpose: ");
        html_put_in(out, "code", report_string(f, "own"));
        g_string_append(out, "</p>");
    }
    if (report_string(f, "picture"))
        g_string_append_printf(
            out, "<p><img alt=\"its timeline\" src=\"data:image/svg+xml;base64,%s\"></p>",
            report_string(f, "picture"));
    put_lines(out, json_object_get(f, "around"),
              "The shortest conversation that fails so, or its end:");
    if (report_string(f, "scene")) {
        g_string_append(out, "<p>As a scene:</p><pre>");
        html_put(out, report_string(f, "scene"));
        g_string_append(out, "</pre>");
    }
    if (report_string(f, "again")) {
        g_string_append(out, "<p>Again: <code>");
        html_put(out, report_string(f, "again"));
        g_string_append(out, "</code></p>");
    }
    g_string_append(out, "</details>");
}

/* What is the same in all of its cause: what was expected and came, without what only one of them
 * has. */
static void put_cause(GString *out, const json_t *f, size_t group)
{
    g_string_append_printf(out, "<section class=cause><h3>%zu. Expected ", group);
    html_put(out, report_string(f, "expected"));
    g_string_append(out, "; came: ");
    html_put(out, report_string(f, "came"));
    g_string_append_printf(out, " (%u failure%s)</h3>", report_count(f, "alike"),
                           report_count(f, "alike") == 1 ? "" : "s");
}

void html_put_failures(GString *out, const json_t *report)
{
    const json_t *failures = json_object_get(report, "failures");
    size_t n = json_array_size(failures);
    if (!n) return;
    g_string_append(out, "<h2 id=failures>What failed</h2><p><label>Show only <input id=filter "
                         "type=search placeholder=\"bench, gate, noise\"></label> <span id=left "
                         "role=status></span></p>");
    for (size_t i = 0, group = 0; i < n; i++) {
        const json_t *f = json_array_get(failures, i);
        unsigned nth = report_count(f, "nth"), alike = report_count(f, "alike");
        if (nth == 1) put_cause(out, f, ++group);
        if (nth == 2)
            g_string_append_printf(
                out, "<details class=more><summary>and %u more like it</summary>", alike - 1);
        put_failure(out, f, i, nth == 1 && group <= 3);
        if (nth > 1 && nth == alike) g_string_append(out, "</details>");
        if (nth == alike) g_string_append(out, "</section>");
    }
    if (report_count(report, "failed") > n)
        g_string_append_printf(out, "<p>%u more of these kinds are not shown.</p>",
                               report_count(report, "failed") - (unsigned)n);
}

int html_failure_of(const json_t *report, const char *command, const char *link, const char *fault)
{
    const json_t *failures = json_object_get(report, "failures");
    for (size_t i = 0; i < json_array_size(failures); i++) {
        const json_t *f = json_array_get(failures, i);
        if ((!command || !strcmp(report_string(f, "case"), command)) &&
            !strcmp(report_string(f, "link"), link) && !g_strcmp0(report_string(f, "fault"), fault))
            return (int)i;
    }
    return 0; /* it is among those that are not shown: the first ones are like it */
}

void html_put_contents(GString *out, const json_t *report)
{
    const struct {
        const char *id, *title;
        bool is;
    } all[] = {
        {"causes", "What is probably wrong",
         json_array_size(json_object_get(report, "causes")) > 0},
        {"failures", "What failed", json_array_size(json_object_get(report, "failures")) > 0},
        {"against", "Against an earlier drill", json_object_get(report, "against") != NULL},
        {"matrix", "Commands over links", true},
        {"faults", "While a link is bad", has_faults(report)},
        {"times", "Time to the answer", true},
        {"coverage", "What of the design was exercised", true}};
    g_string_append(out, "<nav aria-label=Contents><ul>");
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        if (all[i].is)
            g_string_append_printf(out, "<li><a href=\"#%s\">%s</a>", all[i].id, all[i].title);
    g_string_append(out, "</ul></nav>");
}
