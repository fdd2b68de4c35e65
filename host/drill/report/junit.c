/* A report as JUnit XML.
 * libxml2 writes it; control bytes are shown as \\xNN, as XML has none.
 * It reads the JSON of the report and nothing else. */
#include "drill/report/junit.h"
#include "files/files.h"

#include <libxml/xmlwriter.h>
#include <string.h>

#include "drill/report/report.h"

static const xmlChar *x(const char *text)
{
    return (const xmlChar *)text;
}

/* What failed in that cell; NULL: not reported. */
static const json_t *failure_of(const json_t *report, const json_t *cell)
{
    const json_t *failures = json_object_get(report, "failures");
    for (size_t i = 0; i < json_array_size(failures); i++) {
        const json_t *f = json_array_get(failures, i);
        if (!g_strcmp0(report_string(f, "case"), report_string(cell, "command")) &&
            !g_strcmp0(report_string(f, "link"), report_string(cell, "link")) &&
            !g_strcmp0(report_string(f, "fault"), report_string(cell, "fault")) &&
            !g_strcmp0(report_string(f, "strength"), report_string(cell, "strength")))
            return f;
    }
    return NULL;
}

/* When the suite was run, and as its properties, by what and of what. */
static void put_made(xmlTextWriterPtr out, const json_t *made)
{
    const char *name, *date = made ? report_string(made, "date") : NULL;
    json_t *value;
    if (!date) return;
    char *local = g_strndup(date, strcspn(date, "Z")); /* xs:dateTime without a zone */
    xmlTextWriterWriteAttribute(out, x("timestamp"), x(local));
    g_free(local);
    xmlTextWriterStartElement(out, x("properties"));
    json_object_foreach((json_t *)made, name, value)
    {
        char number[24];
        g_snprintf(number, sizeof number, "%" JSON_INTEGER_FORMAT, json_integer_value(value));
        xmlTextWriterStartElement(out, x("property"));
        xmlTextWriterWriteAttribute(out, x("name"), x(name));
        xmlTextWriterWriteAttribute(out, x("value"),
                                    x(json_is_string(value) ? json_string_value(value) : number));
        xmlTextWriterEndElement(out);
    }
    xmlTextWriterEndElement(out);
}

/* Its conversation, and the scene that it is, where there is one. */
static void put_failure(xmlTextWriterPtr out, const json_t *f, const char *message,
                        const char *type)
{
    const json_t *around = json_object_get(f, "around");
    GString *text = g_string_new(NULL);
    for (size_t i = 0; i < json_array_size(around); i++)
        g_string_append_printf(text, "%s\n", json_string_value(json_array_get(around, i)));
    if (report_string(f, "scene")) g_string_append_printf(text, "\n%s", report_string(f, "scene"));
    xmlTextWriterStartElement(out, x("failure"));
    xmlTextWriterWriteAttribute(out, x("message"), x(message));
    xmlTextWriterWriteAttribute(out, x("type"), x(type));
    xmlTextWriterWriteString(out, x(text->str));
    xmlTextWriterEndElement(out);
    g_string_free(text, TRUE);
}

static void put_cell(xmlTextWriterPtr out, const json_t *report, const json_t *cell)
{
    const char *fault = report_string(cell, "fault"), *strength = report_string(cell, "strength");
    unsigned cases = report_count(cell, "cases"), passed = report_count(cell, "passed");
    const json_t *f = failure_of(report, cell);
    char *name = g_strdup_printf("%s%s%s%s%s", report_string(cell, "command"), fault ? " [" : "",
                                 fault ? fault : "", fault ? " " : "", fault ? strength : "");
    char *whole = fault ? g_strconcat(name, "]", NULL) : g_strdup(name);
    char *message = g_strdup_printf("%u of %u failed: \"%s\": expected %s; came: %s",
                                    cases - passed, cases, f ? report_string(f, "text") : "",
                                    f ? report_string(f, "expected") : "as reported elsewhere",
                                    f ? report_string(f, "came") : "");
    xmlTextWriterStartElement(out, x("testcase"));
    xmlTextWriterWriteAttribute(out, x("name"), x(whole));
    xmlTextWriterWriteAttribute(out, x("classname"), x(report_string(cell, "link")));
    if (passed < cases || f) put_failure(out, f, message, "drill");
    xmlTextWriterEndElement(out);
    g_free(message), g_free(whole), g_free(name);
}

static void put_suite(xmlTextWriterPtr out, const json_t *report, const char *link)
{
    const json_t *cells = json_object_get(report, "cells");
    unsigned tests = 0, failures = 0;
    for (size_t i = 0; i < json_array_size(cells); i++) {
        const json_t *cell = json_array_get(cells, i);
        bool its = !strcmp(report_string(cell, "link"), link);
        tests += its;
        failures += its && (report_count(cell, "passed") < report_count(cell, "cases") ||
                            failure_of(report, cell));
    }
    xmlTextWriterStartElement(out, x("testsuite"));
    xmlTextWriterWriteAttribute(out, x("name"), x(link));
    xmlTextWriterWriteFormatAttribute(out, x("tests"), "%u", tests);
    xmlTextWriterWriteFormatAttribute(out, x("failures"), "%u", failures);
    put_made(out, json_object_get(report, "made"));
    for (size_t i = 0; i < json_array_size(cells); i++)
        if (!strcmp(report_string(json_array_get(cells, i), "link"), link))
            put_cell(out, report, json_array_get(cells, i));
    xmlTextWriterEndElement(out);
}

/* It is made in memory: a file that cannot be written whole is not begun. */
static xmlTextWriterPtr begin(xmlBufferPtr *text)
{
    *text = xmlBufferCreate();
    xmlTextWriterPtr out = *text ? xmlNewTextWriterMemory(*text, 0) : NULL;
    if (!out) return NULL;
    xmlTextWriterSetIndent(out, 1);
    xmlTextWriterStartDocument(out, NULL, "UTF-8", NULL);
    return out;
}

static bool end(xmlTextWriterPtr out, xmlBufferPtr text, const char *file, GError **error)
{
    bool ok = out && xmlTextWriterEndDocument(out) >= 0;
    if (out) xmlFreeTextWriter(out);
    if (ok)
        ok = files_write(file, (const char *)xmlBufferContent(text), (size_t)xmlBufferLength(text),
                         error);
    else
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: it cannot be made", file);
    if (text) xmlBufferFree(text);
    return ok;
}

bool report_junit(const json_t *report, double seconds, const char *file, GError **error)
{
    const json_t *links = json_object_get(report, "links");
    xmlBufferPtr text = NULL;
    xmlTextWriterPtr out = begin(&text);
    if (out) {
        xmlTextWriterStartElement(out, x("testsuites"));
        xmlTextWriterWriteAttribute(out, x("name"), x("rlx drill"));
        xmlTextWriterWriteFormatAttribute(out, x("time"), "%.3f", seconds);
        for (size_t i = 0; i < json_array_size(links); i++)
            put_suite(out, report, report_string(json_array_get(links, i), "link"));
    }
    return end(out, text, file, error);
}

/* ---- scenes ---- */

static void put_scene(xmlTextWriterPtr out, const json_t *r)
{
    const char *expected = report_string(r, "expected"), *left_out = report_string(r, "left_out");
    xmlTextWriterStartElement(out, x("testcase"));
    xmlTextWriterWriteAttribute(out, x("name"), x(report_string(r, "scene")));
    xmlTextWriterWriteAttribute(out, x("classname"), x(report_string(r, "file")));
    xmlTextWriterWriteFormatAttribute(out, x("time"), "%.3f", report_real(r, "real_s"));
    xmlTextWriterWriteAttribute(out, x("file"), x(report_string(r, "file")));
    if (report_count(r, "line"))
        xmlTextWriterWriteFormatAttribute(out, x("line"), "%u", report_count(r, "line"));
    if (!json_is_true(json_object_get(r, "passed"))) {
        char *message = g_strdup_printf("line %u: expected %s; came: %s", report_count(r, "line"),
                                        expected ? expected : "an end",
                                        expected ? report_string(r, "came") : "none");
        json_t *bare = json_pack("{s:O?}", "around", json_object_get(r, "around"));
        put_failure(out, bare, message, expected ? "expectation" : "stopped");
        json_decref(bare);
        g_free(message);
    }
    if (left_out) {
        xmlTextWriterStartElement(out, x("skipped"));
        xmlTextWriterWriteAttribute(out, x("message"), x(left_out));
        xmlTextWriterEndElement(out);
    }
    xmlTextWriterEndElement(out);
}

/* The scenes of one file, from this one on; returns the number behind them. */
static size_t put_file(xmlTextWriterPtr out, const json_t *results, size_t from)
{
    const json_t *first = json_array_get(results, from);
    const char *file = report_string(first, "file");
    unsigned failed = 0, skipped = 0;
    double seconds = 0;
    size_t end = from;
    for (; end < json_array_size(results); end++) {
        const json_t *r = json_array_get(results, end);
        if (strcmp(report_string(r, "file"), file) != 0) break;
        failed += !json_is_true(json_object_get(r, "passed"));
        skipped += json_object_get(r, "left_out") != NULL;
        seconds += report_real(r, "real_s");
    }
    xmlTextWriterStartElement(out, x("testsuite"));
    xmlTextWriterWriteAttribute(out, x("name"), x(file));
    xmlTextWriterWriteFormatAttribute(out, x("tests"), "%zu", end - from);
    xmlTextWriterWriteFormatAttribute(out, x("failures"), "%u", failed);
    if (skipped) xmlTextWriterWriteFormatAttribute(out, x("skipped"), "%u", skipped);
    xmlTextWriterWriteFormatAttribute(out, x("time"), "%.3f", seconds);
    put_made(out, json_object_get(first, "made"));
    for (; from < end; from++) put_scene(out, json_array_get(results, from));
    xmlTextWriterEndElement(out);
    return end;
}

bool junit_scenes(const json_t *results, const char *verb, const char *file, GError **error)
{
    xmlBufferPtr text = NULL;
    xmlTextWriterPtr out = begin(&text);
    if (out) {
        xmlTextWriterStartElement(out, x("testsuites"));
        xmlTextWriterWriteAttribute(out, x("name"), x(verb));
        for (size_t i = 0; i < json_array_size(results);) i = put_file(out, results, i);
    }
    return end(out, text, file, error);
}
