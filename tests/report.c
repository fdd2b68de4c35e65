/* What is written of a drill's report, and how two of them compare: from objects made by hand. */
#include "drill/report/cause.h"
#include "drill/report/report.h"

#include <glib/gstdio.h>
#include <libxml/parser.h>
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "drill/report/junit.h"

static char *folder;

static char *path(const char *name)
{
    if (!folder) folder = g_dir_make_tmp("rlx-report-XXXXXX", NULL);
    return g_build_filename(folder, name, NULL);
}

/* Two links, three commands, one fault with three strengths, one failure of everything that a
 * failure can have. */
static const char text[] =
    "{\"lexicon\":\"tank\",\"version\":3,\"cases\":60,\"failed\":2,\"conversations\":9,"
    "\"simulated_us\":7200000000,\"seed\":1,\"interrupted\":false,\"undone\":0,\"stand_ins\":["
    "\"dose\"],"
    "\"links\":[{\"link\":\"bench\",\"medium\":\"serial\",\"frame\":\"line\",\"answers\":20,"
    "\"median_ms\":2.5,"
    "\"p95_ms\":4.25,\"worst_ms\":120.4,\"spread\":{\"from_ms\":1,\"to_ms\":120.4,\"counts\":[18,0,"
    "2]}},"
    "{\"link\":\"shore\",\"medium\":\"sms\",\"frame\":\"message\",\"left_out\":\"it was not "
    "chosen\"}],"
    "\"cells\":[{\"command\":\"glow {level "
    "0..100%}\",\"link\":\"bench\",\"cases\":12,\"passed\":10,\"answers\":12,"
    "\"median_ms\":2.5,\"p95_ms\":4.25,\"worst_ms\":120.4},"
    "{\"command\":\"pump <&\\\">\",\"link\":\"bench\",\"cases\":9,\"passed\":9},"
    "{\"command\":\"tags\",\"link\":\"bench\",\"cases\":2,\"passed\":2,\"part\":true},"
    "{\"command\":\"glow {level "
    "0..100%}\",\"link\":\"bench\",\"fault\":\"noise\",\"strength\":\"1/200\",\"cases\":20,"
    "\"passed\":20,\"lost\":5,\"wrong\":1},"
    "{\"command\":\"pump "
    "<&\\\">\",\"link\":\"bench\",\"fault\":\"noise\",\"strength\":\"1/200\",\"cases\":20,"
    "\"passed\":19,\"lost\":5,\"wrong\":0},"
    "{\"command\":\"pump "
    "<&\\\">\",\"link\":\"bench\",\"fault\":\"noise\",\"strength\":\"1/20\",\"cases\":4,"
    "\"passed\":4,\"lost\":4,\"wrong\":0}],"
    "\"failures\":[{\"suite\":\"words\",\"case\":\"glow {level "
    "0..100%}\",\"link\":\"bench\",\"text\":\"glow 101\","
    "\"tried\":\"one above\",\"expected\":\"err range\",\"came\":\"ok glow "
    "101\",\"kind\":\"guarantee\","
    "\"around\":[\"3.0  >  bench   glow 101\"],\"scene\":\"lexicon \\\"LEXICON\\\" world "
    "\\\"WORLD\\\" seed 1\\n\","
    "\"world\":\"controller by_skiff on skiff\\n\"},"
    "{\"suite\":\"faults\",\"case\":\"pump "
    "<&\\\">\",\"link\":\"bench\",\"text\":\"\",\"tried\":\"noise\","
    "\"fault\":\"noise\",\"strength\":\"1/"
    "200\",\"expected\":\"a\",\"came\":\"b\",\"kind\":\"differs\"}],"
    "\"coverage\":{\"command\":{\"glow {level 0..100%}\":8,\"pump "
    "<&\\\">\":0},\"error\":{\"range\":1}}}";

static json_t *report_new(void)
{
    json_t *report = json_loads(text, 0, NULL);
    CHECK(report != NULL);
    causes_sort(json_object_get(report, "failures"));
    return report;
}

static bool holds(const char *where, const char *what)
{
    bool ok = strstr(where, what) != NULL;
    if (!ok) printf("no \"%s\" in:\n%s\n", what, where);
    return ok;
}

static void for_a_terminal(void)
{
    json_t *report = report_new();
    char *out = report_text(report, 1);
    CHECK(holds(out, "  command               bench     shore\n"
                     "  glow {level 0..100%}  10 of 12  -\n"
                     "  pump <&\">             9         -\n"));
    CHECK(holds(out, "\nWhat else was tried\n  more than single commands  bench  shore\n"
                     "  tags                       2      -\n"));
    CHECK(holds(out, "  bench  noise  1/200: 25 %, 1 wrong, 1 FAIL  1/20: 100 %\n"));
    CHECK(holds(out, "  bench  2.5 ms, 95 % within 4.2 ms, at most 120 ms\n"
                     "  shore  not drilled: it was not chosen\n"));
    CHECK(holds(out, "  commands obeyed  1 of 2; never: pump <&\">\n  errors           1 of 1\n"));
    CHECK(holds(out, "Handlers that a stub answered for: dose()\n"));
    CHECK(holds(out, "FAIL  bench \"glow 101\" (one above): expected err range; came: ok glow 101\n"
                     "      | 3.0  >  bench   glow 101\n"));
    CHECK(holds(out, "(noise; noise 1/200): expected as the reference model: a; came: b\n"));
    CHECK(holds(
        out, "9 conversations, 2.0 h of the bench's time\n60 test cases: 58 passed, 2 failed\n"));
    g_free(out);
    json_object_set_new(report, "interrupted", json_true());
    json_object_set_new(report, "undone", json_integer(5));
    out = report_text(report, 0);
    CHECK(holds(out, "ended before its end: 5 parts of the drill were not done\n"));
    CHECK(!strstr(out, "| 3.0"));
    g_free(out);
    json_decref(report);
}

/* What looks alike stands together, whatever its numbers and quotes, and is told once. */
static void by_cause(void)
{
    static const char *const told[][3] = {
        /* expected, came, nth of how many: in their new order */
        {"pump at 100 %", "pump off", "1 of 3"},
        {"nothing at 0.123 s", "pump (pin or channel 4) at 1 at 9.000 s", "1 of 1"},
        {"pump at 0 %", "pump on", "2 of 3"},
        {"ok", "err range 0..9 \"a b\"", "1 of 2"},
        {"that no other output changes", "pump changed", "3 of 3"},
        {"ok", "err range 0..100 \"c\"", "2 of 2"}};
    static const unsigned order[] = {0, 2, 4, 1, 3, 5};
    json_t *failures = json_array();
    for (unsigned i = 0; i < G_N_ELEMENTS(told); i++)
        json_array_append_new(failures, json_pack("{s:s, s:s, s:s}", "kind", "guarantee",
                                                  "expected", told[i][0], "came", told[i][1]));
    causes_sort(failures);
    CHECK_INT(json_array_size(failures), G_N_ELEMENTS(told));
    for (unsigned i = 0; i < G_N_ELEMENTS(told); i++) {
        const json_t *f = json_array_get(failures, i);
        char *nth = g_strdup_printf("%u of %u", report_count(f, "nth"), report_count(f, "alike"));
        CHECK_TEXT(report_string(f, "came"), told[order[i]][1]);
        CHECK_TEXT(nth, told[order[i]][2]);
        g_free(nth);
    }
    json_decref(failures);
}

static void as_a_page(void)
{
    json_t *report = report_new();
    char *out = report_html(report);
    CHECK(holds(out, "<title>Drill of tank</title>"));
    CHECK(holds(out, "✗ 60 test cases: 58 passed, 2 failed"));
    CHECK(holds(out, "<th>pump &lt;&amp;&quot;&gt;</th>"));
    CHECK(holds(out, "<td class=bad><a href=\"#f0\">✗ 10 of 12</a>"));
    CHECK(holds(out, "25 %<br>⚠ 1 wrong<br><a href=\"#f1\">✗ 1 failed</a>"));
    CHECK(holds(out, "<details id=f0 class=failure open>"));
    CHECK(holds(out, "<li><a href=\"#faults\">While a link is bad</a>"));
    CHECK(!strstr(out, "href=\"#against\"")); /* it was not compared */
    CHECK(holds(out, "<b>bench</b>, 20 answers"));
    CHECK(holds(out, "Expected what the lexicon's tables do: <b>a</b>"));
    CHECK(!strstr(out, "pump <&"));
    CHECK(!strstr(out, "http:") && !strstr(out, "https:") && !strstr(out, "src="));
    const char *script = strstr(out, "<script>"); /* its own, and no other */
    CHECK(script && !strstr(script + 1, "<script") && !strstr(script, "failed"));
    g_free(out);
    json_decref(report);
}

static void as_values(void)
{
    json_t *report = report_new();
    char *out = report_csv(report);
    char **lines = g_strsplit(out, "\r\n", -1);
    CHECK_INT(g_strv_length(lines), 8);
    CHECK_TEXT(lines[1],
               "\"glow {level 0..100%}\",\"bench\",\"\",\"\",12,10,0,0,12,2.500,4.250,120.400,\"\"");
    CHECK_TEXT(lines[2], "\"pump <&\"\">\",\"bench\",\"\",\"\",9,9,0,0,0,,,,\"\"");
    CHECK_TEXT(lines[4], "\"glow {level 0..100%}\",\"bench\",\"noise\",\"1/200\",20,20,5,1,0,,,,\"\"");
    g_strfreev(lines);
    g_free(out);
    json_decref(report);
}

static void for_a_server(void)
{
    json_t *report = report_new();
    char *file = path("j.xml");
    CHECK(report_junit(report, 1.5, file, NULL));
    xmlDocPtr doc = xmlReadFile(file, NULL, 0);
    CHECK(doc != NULL);
    xmlNodePtr root = xmlDocGetRootElement(doc), suite = xmlFirstElementChild(root);
    xmlChar *tests = xmlGetProp(suite, (const xmlChar *)"tests"),
            *failures = xmlGetProp(suite, (const xmlChar *)"failures");
    CHECK_TEXT((char *)root->name, "testsuites");
    CHECK_TEXT((char *)tests, "6");
    CHECK_TEXT((char *)failures, "2");
    CHECK_INT(xmlChildElementCount(suite), 6);
    CHECK_INT(xmlChildElementCount(xmlFirstElementChild(suite)), 1);
    xmlFree(tests), xmlFree(failures);
    xmlFreeDoc(doc);
    GError *error = NULL;
    CHECK(!report_junit(report, 1.5, "/nowhere/j.xml", &error));
    CHECK(error != NULL);
    g_clear_error(&error);
    g_free(file);
    json_decref(report);
}

static void of_scenes(void)
{
    json_t *results =
        json_pack("[{s:s, s:s, s:b, s:f}, {s:s, s:s, s:b, s:i, s:s, s:s, s:[s]}, {s:s, s:s, s:b}]",
                  "scene", "a <b>", "file", "f", "passed", true, "real_s", 1.5, "scene", "c",
                  "file", "f", "passed", false, "line", 7, "expected", "x", "came", "y", "around",
                  "1 > z", "scene", "d", "file", "f", "passed", false);
    char *file = path("s.xml"), *bytes;
    CHECK(results != NULL);
    CHECK(junit_scenes(results, "rlx play", file, NULL));
    CHECK(g_file_get_contents(file, &bytes, NULL, NULL));
    CHECK(holds(bytes, "<testsuite name=\"f\" tests=\"3\" failures=\"2\" time=\"1.500\">"));
    CHECK(holds(bytes, "<testcase name=\"a &lt;b&gt;\" classname=\"f\" time=\"1.500\" file=\"f\"/>"));
    CHECK(holds(bytes, "<failure message=\"line 7: expected x; came: y\" "
                       "type=\"expectation\">1 &gt; z\n</failure>"));
    CHECK(holds(bytes, "expected an end; came: none"));
    g_free(bytes);
    g_free(file);
    json_decref(results);
}

/* ---- against an earlier one ---- */

static void set(json_t *report, size_t cell, const char *what, json_t *value)
{
    json_object_set_new(json_array_get(json_object_get(report, "cells"), cell), what, value);
}

static json_t *against(void (*before)(json_t *report), void (*now)(json_t *report))
{
    json_t *was = report_new(), *is = report_new();
    char *file = path("was.json");
    GError *error = NULL;
    if (before) before(was);
    if (now) now(is);
    CHECK_INT(json_dump_file(was, file, 0), 0);
    CHECK(report_against(is, file, &error));
    json_decref(was);
    g_free(file);
    return is;
}

static void check_against(json_t *report, unsigned failing, unsigned passing, unsigned slower,
                          unsigned new, unsigned gone)
{
    const json_t *a = json_object_get(report, "against");
    CHECK_INT(json_array_size(json_object_get(a, "newly_failing")), failing);
    CHECK_INT(json_array_size(json_object_get(a, "newly_passing")), passing);
    CHECK_INT(json_array_size(json_object_get(a, "slower")), slower);
    CHECK_INT(report_count(a, "new"), new);
    CHECK_INT(report_count(a, "gone"), gone);
    json_decref(report);
}

static void mend(json_t *report)
{
    set(report, 0, "passed", json_integer(12));
}

static void slow(json_t *report)
{
    set(report, 0, "p95_ms", json_real(5.9));
}

static void hardly_slow(json_t *report)
{
    set(report, 0, "p95_ms", json_real(5.0));
}

static void one_less(json_t *report)
{
    json_array_remove(json_object_get(report, "cells"), 2);
}

static void compared(void)
{
    check_against(against(NULL, NULL), 0, 0, 0, 0, 0);
    check_against(against(mend, NULL), 1, 0, 0, 0, 0);
    check_against(against(NULL, mend), 0, 1, 0, 0, 0);
    check_against(against(NULL, slow), 0, 0, 1, 0, 0);
    check_against(against(slow, NULL), 0, 0, 0, 0, 0);
    check_against(against(NULL, hardly_slow), 0, 0, 0, 0, 0);
    check_against(against(one_less, NULL), 0, 0, 0, 1, 0);
    check_against(against(NULL, one_less), 0, 0, 0, 0, 1);
    json_t *report = against(mend, slow);
    char *out = report_text(report, 0), *page = report_html(report);
    CHECK(holds(out,
                "1 newly failing, 0 newly passing, 1 slower, 0 new, 0 gone\n"
                "  newly failing: glow {level 0..100%} over bench\n"
                "  slower: glow {level 0..100%} over bench: 95 % within 5.9 ms, was 4.2 ms\n"));
    CHECK(holds(page, "1 newly failing, 0 newly passing, 1 slower, 0 new, 0 gone"));
    g_free(out), g_free(page);
    json_decref(report);
}

static void of_another(void)
{
    static const char *const files[] = {
        "", "{", "[]", "3", "{\"lexicon\":\"other\"}", "{\"lexicon\":7}"};
    json_t *report = report_new();
    char *file = path("other.json");
    for (size_t i = 0; i < G_N_ELEMENTS(files); i++) {
        GError *error = NULL;
        test_context("%s", files[i]);
        CHECK(g_file_set_contents(file, files[i], -1, NULL));
        CHECK(!report_against(report, file, &error));
        CHECK(error != NULL && strstr(error->message, "other.json"));
        g_clear_error(&error);
    }
    test_context("%s", "");
    CHECK(g_file_set_contents(file, "{\"lexicon\":\"tank\"}", -1, NULL));
    CHECK(report_against(report, file, NULL)); /* an earlier one that knew nothing */
    check_against(report, 0, 0, 0, 6, 0);
    g_free(file);
}

/* ---- scenes ---- */

static void written_down(void)
{
    json_t *report = report_new();
    char *to = path("scenes"), *scene = g_build_filename(to, "failure_1.scene", NULL),
         *world = g_build_filename(to, "failure_1.world", NULL), *bytes;
    json_object_set_new(report, "firmware", json_string("build/tank"));
    char *lexicon = path("tank.lexicon"); /* beside the scenes' folder */
    CHECK(report_scenes(report, to, lexicon, NULL));
    CHECK(g_file_get_contents(scene, &bytes, NULL, NULL));
    CHECK_TEXT(bytes, "lexicon \"../tank.lexicon\" world \"failure_1.world\" seed 1\n");
    g_free(bytes);
    CHECK(g_file_get_contents(world, &bytes, NULL, NULL));
    CHECK_TEXT(bytes, "controller by_skiff on skiff\n");
    g_free(bytes);
    const json_t *failures = json_object_get(report, "failures");
    char *again = g_strdup_printf("rlx play --firmware build/tank %s", scene);
    CHECK_TEXT(report_string(json_array_get(failures, 0), "again"), again);
    CHECK(!report_string(json_array_get(failures, 1), "again"));
    GError *error = NULL;
    CHECK(!report_scenes(report, "/dev/null/scenes", "x", &error));
    CHECK(error != NULL);
    g_clear_error(&error);
    g_free(again), g_free(scene), g_free(world), g_free(to), g_free(lexicon);
    json_decref(report);
}

static const struct test_case cases[] = {
    {"by cause", by_cause},   {"for a terminal", for_a_terminal}, {"as a page", as_a_page},
    {"as values", as_values}, {"for a server", for_a_server},     {"of scenes", of_scenes},
    {"compared", compared},   {"of another", of_another},         {"written down", written_down},
};
TEST_MAIN(cases)
