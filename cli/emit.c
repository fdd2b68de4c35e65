/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h.
 * Builds the table image, and has all three files written or none.
 * It never writes over a file that rlx did not make. */
#include "bundle/bundle.h"
#include "lexicon/write/emit.h"

#include <stdio.h>

#include "rlx_cli.h"
#include "sender/sender.h"

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

static int emit_sender(const struct lexicon *lx, const struct image *image, const char *name,
                       const char *to)
{
    const struct lex_link *link = lexicon_link(lx, name);
    const char *why = link ? sender_why_not(link) : NULL;
    GError *error = NULL;
    if (why) fprintf(stderr, "%s: link %s has no sender: %s\n", g_get_prgname(), name, why);
    if (!link) {
        GString *links = g_string_new(NULL);
        for (unsigned i = 0; i < lx->links->len; i++)
            g_string_append_printf(links, "%s%s", i ? ", " : "",
                                   ((struct lex_link *)lx->links->pdata[i])->name);
        fprintf(stderr, "%s: --sender: there is no link '%s'; %s has %s\n", g_get_prgname(), name,
                lx->name, links->len ? links->str : "none");
        g_string_free(links, TRUE);
    }
    if (!link || why) return 2;
    if (!sender_write(lx, image, link, to, &error)) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        return 2;
    }
    char *manner = sender_manner(link);
    printf("%s: wrote %s_%s.h and %s_%s.c\n%s\n", to, lx->name, name, lx->name, name, manner);
    g_free(manner);
    return 0;
}

int verb_emit(int argc, char **argv)
{
    g_autofree char *directory = NULL;
    g_autofree char *port = NULL;
    g_autofree char *sender = NULL;
    gboolean bundle = FALSE;
    const GOptionEntry entries[] = {
        {"bundle", 0, 0, G_OPTION_ARG_NONE, &bundle,
         "NAME.h and NAME.c with all of the library that it needs", NULL},
        {"port", 0, 0, G_OPTION_ARG_STRING, &port, "with --bundle: a port beside it", BUNDLE_PORTS},
        {"sender", 0, 0, G_OPTION_ARG_STRING, &sender,
         "the other side instead: NAME_LINK.h and NAME_LINK.c, to command it over this link",
         "LINK"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &directory,
         "folder for the files (default: this one)", "DIR"},
        {0}};
    struct image *image;
    GError *error = NULL;
    int code;
    if (!cli_options(&argc, &argv, entries, "LEXICON",
                     "Writes NAME.h, NAME.c and NAME_config.h: tables, device, start, prototypes "
                     "of the handlers. With --bundle the library is in them, and any "
                     "compiler\nneeds nothing else. With --sender it writes what goes into the "
                     "handset, the other board or the\n"
                     "PC: a function for each command, a reader for what comes back.\n\n"
                     "Example:\n  rlx emit examples/tide_tank/tidetank.lexicon -o build/tide\n",
                     1))
        return 2;
    if (!cli_is_file("-o", directory, "it is a folder, for several files")) return 2;
    if (port && !cli_choice("--port", BUNDLE_PORTS, port)) return 2;
    if ((port && !bundle) || (sender && bundle)) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(),
                sender ? "--sender goes without --bundle: it writes other files"
                       : "--port goes with --bundle");
        return 2;
    }
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    const char *to = directory ? directory : ".";
    if (sender)
        code = emit_sender(lx, image, sender, to);
    else if (bundle ? bundle_write(lx, image, to, port, &error)
                    : lexicon_emit(lx, image, to, &error)) {
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
