/* Compares two versions of a lexicon: which senders in the field meet something else.
 * For people, or as JSON.
 * It finds nothing by itself. */
#include <jansson.h>
#include <stdio.h>

#include "compare/compare.h"
#include "drill/report/junit.h"
#include "rlx_cli.h"

static void print_json(const struct comparison *c, const char *old, const char *now)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < c->findings->len; i++) {
        const struct finding *f = c->findings->pdata[i];
        json_array_append_new(all,
                              json_pack("{s:s, s:s, s:s?, s:s?, s:s?, s:i, s:i, s:i}", "kind",
                                        finding_kinds[f->kind], "subject", f->subject, "text",
                                        f->witness, "was", f->was, "is", f->is, "more",
                                        (int)f->more, "line", (int)f->line, "now", (int)f->now));
    }
    json_t *report = json_pack("{s:s, s:s, s:i, s:o, s:o}", "old", old, "new", now, "texts",
                               (int)c->texts, "findings", all, "version_wanted",
                               c->version ? json_integer(c->version) : json_null());
    json_dumpf(report, stdout, JSON_INDENT(2));
    putchar('\n');
    json_decref(report);
}

/* A test case for each change; one that passed where there is none. */
static bool write_junit(const struct comparison *c, const char *now, const char *file,
                        GError **error)
{
    json_t *results = json_array();
    for (unsigned i = 0; i < c->findings->len; i++) {
        const struct finding *f = c->findings->pdata[i];
        char *name = g_strdup_printf("%s: %s%s%s", f->subject, finding_kinds[f->kind],
                                     f->witness ? ": " : "", f->witness ? f->witness : "");
        json_array_append_new(results, json_pack("{s:s, s:s, s:i, s:b, s:s?, s:s?, s:f}", "scene",
                                                 name, "file", now, "line",
                                                 (int)(f->now ? f->now : f->line), "passed", 0,
                                                 "expected", f->was, "came", f->is, "real_s", 0.0));
        g_free(name);
    }
    if (!c->findings->len)
        json_array_append_new(results,
                              json_pack("{s:s, s:s, s:b, s:f}", "scene", "senders in the field",
                                        "file", now, "passed", 1, "real_s", 0.0));
    bool ok = junit_scenes(results, "rlx compare", file, error);
    json_decref(results);
    return ok;
}

static void print_finding(const struct finding *f)
{
    if (f->witness)
        printf("  %s: \"%s\"", finding_kinds[f->kind], f->witness);
    else
        printf("  %s", finding_kinds[f->kind]);
    if (f->more) printf(", and %u more", f->more);
    printf("\n    was: %s\n    is:  %s\n", f->was, f->is);
}

static void print_text(const struct comparison *c, const char *old, const char *now)
{
    const char *last = NULL;
    printf("%s -> %s: ", old, now);
    if (!c->findings->len) {
        printf("no sender meets anything else; %u texts read by both\n", c->texts);
        return;
    }
    printf("%u change%s for senders in the field; %u texts read by both\n", c->findings->len,
           c->findings->len == 1 ? "" : "s", c->texts);
    for (unsigned i = 0; i < c->findings->len; i++) {
        const struct finding *f = c->findings->pdata[i];
        if (!last || !g_str_equal(last, f->subject)) {
            printf("\n%s", f->subject);
            if (f->line) printf("   line %u", f->line);
            if (f->now && f->now != f->line) printf(", now %u", f->now);
            putchar('\n');
        }
        last = f->subject;
        print_finding(f);
    }
    if (c->version) printf("\nraise the version: lexicon %s %u\n", c->name, c->version);
}

int verb_compare(int argc, char **argv)
{
    gboolean json = FALSE;
    g_autofree char *junit = NULL;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "print the changes as JSON", NULL},
        {"junit", 0, 0, G_OPTION_ARG_FILENAME, &junit, "write them here, as JUnit XML", "FILE"},
        {0}};
    GError *error = NULL;
    if (!cli_options(
            &argc, &argv, entries, "OLD NEW",
            "Says which senders in the field would meet something else, if a device of OLD "
            "became one of\nNEW: commands, keys, buttons, answers, events, and what stands "
            "around them. Exit code 1 where\none would.\n\n"
            "Example:\n  git show HEAD~1:tank.lexicon >old.lexicon; rlx compare old.lexicon "
            "tank.lexicon\n",
            2))
        return 2;
    const char *const inputs[] = {argv[1], argv[2]};
    if (!cli_can_write("--junit", junit, inputs, 2)) return 2;
    for (int i = 1; i < 3; i++) { /* its faults are printed */
        struct image *image;
        int code;
        struct lexicon *lx = cli_sound_lexicon(argv[i], &image, &code);
        if (!lx) return 2;
        image_free(image);
        lexicon_free(lx);
    }
    struct comparison *c = compare_files(argv[1], argv[2], &error);
    if (!c) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        return 2;
    }
    int code = c->findings->len != 0;
    if (json)
        print_json(c, argv[1], argv[2]);
    else if (g_strcmp0(junit, "-") != 0)
        print_text(c, argv[1], argv[2]);
    if (junit && !write_junit(c, argv[2], junit, &error)) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        code = 2;
    }
    comparison_free(c);
    return code;
}
