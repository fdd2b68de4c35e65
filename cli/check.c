#include <jansson.h>
#include <stdio.h>

#include "rlx_cli.h"

static void print_json(const struct lexicon *lx)
{
    json_t *faults = json_array();
    for (unsigned i = 0; i < lx->faults->len; i++) {
        const struct lex_fault *fault = lx->faults->pdata[i];
        json_array_append_new(faults, json_pack("{s:s, s:i, s:i, s:i, s:s, s:s}", "file", lx->file,
                                                "line", (int)fault->place.line, "column",
                                                (int)fault->place.column + 1, "length",
                                                (int)fault->place.length, "severity", "error",
                                                "message", fault->text));
    }
    json_t *all = json_pack("{s:s, s:o}", "file", lx->file, "faults", faults);
    json_dumpf(all, stdout, JSON_INDENT(2));
    putchar('\n');
    json_decref(all);
}

static void print_count(unsigned n, const char *what, const char *behind)
{
    printf("%u %s%s%s", n, what, n == 1 ? "" : "s", behind);
}

static void print_sound(const struct lexicon *lx, const struct image *image)
{
    printf("%s: %s %u is sound: ", lx->file, lx->name, lx->version);
    print_count(lx->commands->len, "command", ", ");
    print_count(lx->outputs->len, "output", ", ");
    print_count(lx->links->len, "link", "; ");
    printf("image %u bytes, fingerprint %s\n", image->bytes->len, image->fingerprint);
}

int verb_check(int argc, char **argv)
{
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "print the faults as JSON", NULL}, {0}};
    struct image *image;
    int code;
    if (!cli_options(&argc, &argv, entries, "LEXICON",
                     "Tells each fault with its place.\n\n"
                     "Example:\n  rlx check examples/tide_tank/tidetank.lexicon\n",
                     1))
        return 2;
    struct lexicon *lx = cli_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    char *text = lexicon_faults_text(lx, CLI_FAULTS);
    if (json)
        print_json(lx);
    else if (image)
        print_sound(lx, image);
    else
        fputs(text, stdout);
    g_free(text);
    image_free(image);
    lexicon_free(lx);
    return code;
}
