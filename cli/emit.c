/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h.
 * Builds the table image, and has all three files written or none.
 * It never writes over a file that rlx did not make. */
#include "bundle/bundle.h"
#include "lexicon/write/emit.h"

#include <stdio.h>

#include "rlx_cli.h"

static void told(const struct lexicon *lx, const char *to, bool bundle, const char *port)
{
    printf("%s: wrote %s.h", to, lx->name);
    if (port)
        printf(", %s.c, board.h and port_%s.c\n", lx->name, port);
    else if (bundle)
        printf(" and %s.c\n", lx->name);
    else
        printf(", %s.c and %s_config.h\n", lx->name, lx->name);
}

int verb_emit(int argc, char **argv)
{
    g_autofree char *directory = NULL;
    g_autofree char *port = NULL;
    gboolean bundle = FALSE;
    const GOptionEntry entries[] = {
        {"bundle", 0, 0, G_OPTION_ARG_NONE, &bundle,
         "NAME.h and NAME.c with all of the library that it needs", NULL},
        {"port", 0, 0, G_OPTION_ARG_STRING, &port, "with --bundle: a port beside it", BUNDLE_PORTS},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &directory,
         "folder for the files (default: this one)", "DIR"},
        {0}};
    struct image *image;
    GError *error = NULL;
    int code;
    if (!cli_options(&argc, &argv, entries, "LEXICON",
                     "Writes NAME.h, NAME.c and NAME_config.h: tables, device, start, prototypes "
                     "of the handlers. With --bundle the library is in them, and any "
                     "compiler\nneeds nothing else.\n\n"
                     "Example:\n  rlx emit examples/tide_tank/tidetank.lexicon -o build/tide\n",
                     1))
        return 2;
    if (!cli_is_file("-o", directory, "it is a folder, for several files")) return 2;
    if (port && !cli_choice("--port", BUNDLE_PORTS, port)) return 2;
    if (port && !bundle) {
        fprintf(stderr, "%s: --port goes with --bundle\n", g_get_prgname());
        return 2;
    }
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    const char *to = directory ? directory : ".";
    if (bundle ? bundle_write(lx, image, to, port, &error) : lexicon_emit(lx, image, to, &error)) {
        told(lx, to, bundle, port);
        char *functions = bundle_port_functions(lx, image);
        if (!port) printf("its port needs %s\n", functions);
        g_free(functions);
    } else {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        code = 2;
    }
    image_free(image);
    lexicon_free(lx);
    return code;
}
