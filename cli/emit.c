/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h.
 * Builds the table image, and has all three files written or none.
 * It never writes over a file that rlx did not make. */
#include "lexicon/write/emit.h"

#include <stdio.h>

#include "rlx_cli.h"

int verb_emit(int argc, char **argv)
{
    g_autofree char *directory = NULL;
    const GOptionEntry entries[] = {{"output", 'o', 0, G_OPTION_ARG_FILENAME, &directory,
                                     "folder for the files (default: this one)", "DIR"},
                                    {0}};
    struct image *image;
    GError *error = NULL;
    int code;
    if (!cli_options(&argc, &argv, entries, "LEXICON",
                     "Writes NAME.h, NAME.c and NAME_config.h: tables, device, start, prototypes "
                     "of the handlers.\n\n"
                     "Example:\n  rlx emit examples/tide_tank/tidetank.lexicon -o build/tide\n",
                     1))
        return 2;
    if (!cli_can_write("-o", directory, NULL, 0)) return 2;
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    if (lexicon_emit(lx, image, directory ? directory : ".", &error)) {
        printf("%s: wrote %s.h, %s.c and %s_config.h\n", directory ? directory : ".", lx->name,
               lx->name, lx->name);
    } else {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        code = 2;
    }
    image_free(image);
    lexicon_free(lx);
    return code;
}
