/* Draws a trace as a picture, VCD, CSV or text.
 * Reads the trace into a timeline and hands it to the writer of that form.
 * It runs nothing: a trace comes from talk or play. */
#include <stdio.h>
#include <string.h>

#include "rlx_cli.h"
#include "files/files.h"
#include "draw/timeline.h"

#define FORMS "png|svg|vcd|csv|text"

static bool write_form(const struct timeline *t, const char *form, const char *to, uint64_t from_us,
                       uint64_t to_us, GError **error)
{
    bool svg = !strcmp(form, "svg");
    if (svg || !strcmp(form, "png")) return timeline_picture(t, to, svg, from_us, to_us, error);
    char *text = !strcmp(form, "csv")   ? timeline_csv(t, from_us, to_us)
                 : !strcmp(form, "vcd") ? timeline_vcd(t, from_us, to_us)
                                        : timeline_text(t, from_us, to_us);
    bool ok = true;
    if (to)
        ok = files_write(to, text, strlen(text), error);
    else
        fputs(text, stdout);
    g_free(text);
    return ok;
}

/* By the name of the file, or by the option; NULL after a message. */
static const char *form_of(const char *as, const char *to)
{
    const char *dot = to ? strrchr(to, '.') : NULL, *wanted = as ? as : dot ? dot + 1 : "text";
    if (!as && !g_strcmp0(wanted, "txt")) wanted = "text";
    if (!as && to && !strcmp(to, "-")) wanted = "text";
    if (!cli_choice(as ? "--as" : "the end of -o", FORMS, wanted)) return NULL;
    if (to || (strcmp(wanted, "png") != 0 && strcmp(wanted, "svg") != 0)) return wanted;
    fprintf(stderr, "%s: a picture goes to a file: -o trace.%s\n", g_get_prgname(), wanted);
    return NULL;
}

int verb_draw(int argc, char **argv)
{
    g_autofree char *to = NULL, *as = NULL, *from_text = NULL, *to_text = NULL;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &to,
         "write it here: FILE.png, .svg, .vcd, .csv, .txt", "FILE"},
        {"as", 0, 0, G_OPTION_ARG_STRING, &as, "its form, whatever the file is called", FORMS},
        {"from", 0, 0, G_OPTION_ARG_STRING, &from_text, "only from this time on, like 2.5s",
         "TIME"},
        {"to", 0, 0, G_OPTION_ARG_STRING, &to_text, "only up to this time", "TIME"},
        {0}};
    uint64_t from_us = 0, to_us = UINT64_MAX;
    GError *error = NULL;
    if (!cli_options(
            &argc, &argv, entries, "TRACE",
            "Draws what rlx talk --trace or rlx play --trace wrote: a lane for each link with the "
            "frames in both\ndirections, lost and damaged ones marked, lanes for inputs, outputs "
            "and "
            "loads, over one axis of time.\n\n"
            "Example:\n  rlx talk --trace tank.jsonl tidetank.lexicon <conversation.txt\n"
            "  rlx draw tank.jsonl -o tank.png\n",
            1))
        return 2;
    const char *const inputs[] = {argv[1]};
    if (!cli_can_write("-o", to, inputs, 1)) return 2;
    const char *form = form_of(as, to);
    if (!form || (from_text && !cli_time("--from", from_text, &from_us)) ||
        (to_text && !cli_time("--to", to_text, &to_us)))
        return 2;
    struct timeline *t = timeline_read(argv[1], &error);
    bool ok = t != NULL;
    if (ok && t->cut)
        fprintf(stderr, "%s: %s, line %u is cut off: what stands before it is drawn\n",
                g_get_prgname(), argv[1], t->cut);
    if (ok && to_us == UINT64_MAX) to_us = t->end_us + t->end_us / 50 + 1;
    if (ok && from_us >= to_us) {
        fprintf(stderr, "%s: nothing is left between --from and --to: the trace ends at %.3f s\n",
                g_get_prgname(), (double)t->end_us / 1e6);
        ok = false;
    } else if (ok) {
        ok = write_form(t, form, to, from_us, to_us, &error);
    }
    if (error) fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
    g_clear_error(&error);
    timeline_free(t);
    return ok ? 0 : 2;
}
