#include "drill.h"

#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "rlx_cli.h"
#include "table.h"

#define FAILURES_SHOWN 20u

static double ms_at(const GArray *times, unsigned percent)
{
    if (!times->len) return 0;
    return g_array_index(times, uint32_t, (times->len - 1) * percent / 100) / 1000.0;
}

static const char *link_name(const struct drill_report *r, unsigned link)
{
    return ((struct lex_link *)r->lx->links->pdata[link])->name;
}

/* ---- for people ---- */

static void print_matrix(const struct drill_report *r)
{
    const char **heads = g_new0(const char *, r->n_links + 2);
    GString *out = g_string_new(NULL);
    heads[0] = "command";
    for (unsigned k = 0; k < r->n_links; k++) heads[k + 1] = link_name(r, k);
    struct table table = table_new(heads);
    for (unsigned k = 0; k <= r->n_links; k++) table_cell(&table, "%s", heads[k]);
    for (unsigned i = 0; i < r->rows->len; i++) {
        table_cell(&table, "%s", (char *)r->rows->pdata[i]);
        for (unsigned k = 0; k < r->n_links; k++) {
            const struct drill_cell *cell = &r->cells[i * r->n_links + k];
            if (!cell->tries)
                table_cell(&table, "%s", "-");
            else if (cell->passed == cell->tries)
                table_cell(&table, "%u", cell->tries);
            else
                table_cell(&table, "%u of %u", cell->passed, cell->tries);
        }
    }
    table_put(out, &table, "What was tried and answered as it must be", false);
    fputs(out->str, stdout);
    g_string_free(out, TRUE);
    g_free(heads);
}

static void print_links(const struct drill_report *r)
{
    static const char *const heads[] = {"link", "time", NULL};
    struct table table = table_new(heads);
    GString *out = g_string_new(NULL);
    for (unsigned k = 0; k < r->n_links; k++) {
        const GArray *times = r->reply_us[k];
        table_cell(&table, "%s", link_name(r, k));
        if (r->left_out[k])
            table_cell(&table, "not drilled: %s", r->left_out[k]);
        else
            table_cell(&table, "%.1f ms, 95 %% within %.1f ms, at most %.1f ms", ms_at(times, 50),
                       ms_at(times, 95), ms_at(times, 100));
    }
    table_put(out, &table, "Time to the answer, from the frame's first byte on", false);
    fputs(out->str, stdout);
    g_string_free(out, TRUE);
}

static void print_failures(const struct drill_report *r)
{
    for (unsigned i = 0; i < r->failures->len && i < FAILURES_SHOWN; i++) {
        const struct drill_failure *f = r->failures->pdata[i];
        printf("FAIL  %s \"%s\" (%s): expected %s; came: %s\n", link_name(r, f->link), f->text,
               f->why, f->expected, f->came);
    }
    if (r->failures->len > FAILURES_SHOWN)
        printf("      %u more not shown\n", r->failures->len - FAILURES_SHOWN);
}

static void print_report(const struct drill_report *r)
{
    print_matrix(r);
    print_links(r);
    print_failures(r);
    printf("%u tries: %u passed, %u failed\n", r->tries, r->tries - r->failed, r->failed);
}

/* ---- for programs ---- */

static json_t *cells_json(const struct drill_report *r)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < r->rows->len; i++) {
        const char *text = r->rows->pdata[i];
        for (unsigned k = 0; k < r->n_links; k++) {
            const struct drill_cell *cell = &r->cells[i * r->n_links + k];
            if (cell->tries)
                json_array_append_new(
                    all, json_pack("{s:s, s:s, s:i, s:i}", "command", text, "link", link_name(r, k),
                                   "tries", (int)cell->tries, "passed", (int)cell->passed));
        }
    }
    return all;
}

static json_t *links_json(const struct drill_report *r)
{
    json_t *all = json_array();
    for (unsigned k = 0; k < r->n_links; k++) {
        const GArray *times = r->reply_us[k];
        json_array_append_new(
            all, r->left_out[k]
                     ? json_pack("{s:s, s:s}", "link", link_name(r, k), "left_out", r->left_out[k])
                     : json_pack("{s:s, s:f, s:f, s:f}", "link", link_name(r, k), "median_ms",
                                 ms_at(times, 50), "p95_ms", ms_at(times, 95), "worst_ms",
                                 ms_at(times, 100)));
    }
    return all;
}

static void print_json(const struct drill_report *r)
{
    json_t *failures = json_array();
    for (unsigned i = 0; i < r->failures->len; i++) {
        const struct drill_failure *f = r->failures->pdata[i];
        json_array_append_new(failures,
                              json_pack("{s:s, s:s, s:s, s:s, s:s}", "link", link_name(r, f->link),
                                        "text", f->text, "tried", f->why, "expected", f->expected,
                                        "came", f->came));
    }
    json_t *all = json_pack("{s:s, s:i, s:i, s:o, s:o, s:o}", "lexicon", r->lx->name, "tries",
                            (int)r->tries, "failed", (int)r->failed, "cells", cells_json(r),
                            "links", links_json(r), "failures", failures);
    json_dumpf(all, stdout, JSON_INDENT(2));
    putchar('\n');
    json_decref(all);
}

int verb_drill(int argc, char **argv)
{
    struct drill_options options = {0};
    g_autofree char *firmware = NULL, *link = NULL;
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"firmware", 'f', 0, G_OPTION_ARG_FILENAME, &firmware,
         "drill this program, made for the simulated port", "PROGRAM"},
        {"link", 'l', 0, G_OPTION_ARG_STRING, &link, "only over this link", "NAME"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a program", NULL},
        {0}};
    struct image *image;
    int code;
    if (!cli_options(
            &argc, &argv, entries, "LEXICON",
            "Tries each command over each link: every choice, both ends of each range and "
            "one past each, the\nshortest and longest texts, cut short, a word too many, "
            "misspelt, in capitals. What is valid has to\nbe answered ok, and the rest err "
            "without anything that moves; each once.\n\n"
            "Example:\n  rlx drill examples/tide_tank/tidetank.lexicon\n",
            1))
        return 2;
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    if (link && !lexicon_link(lx, link)) {
        fprintf(stderr, "%s: there is no link '%s'\n", g_get_prgname(), link);
        code = 2;
    } else {
        options.firmware = firmware;
        options.link = link;
        struct drill_report *report = drill(lx, image, &options);
        if (json)
            print_json(report);
        else
            print_report(report);
        if (report->failure) fprintf(stderr, "%s: %s\n", g_get_prgname(), report->failure);
        code = report->failure ? 2 : report->failed ? 1 : 0;
        drill_report_free(report);
    }
    image_free(image);
    lexicon_free(lx);
    return code;
}
