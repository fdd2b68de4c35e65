/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h.
 * Builds the table image, and has all three files written or none.
 * It never writes over a file that rlx did not make. */
#include "bundle/bundle.h"
#include "lexicon/write/emit.h"

#include <stdio.h>
#include <string.h>

#include "pages/pages.h"
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

/* Says that there is no link or handset of this name, and which there are. */
static void no_such(const struct lexicon *lx, const char *option, const char *what,
                    const char *name, const GPtrArray *names)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < names->len; i++)
        g_string_append_printf(all, "%s%s", i ? ", " : "", (char *)names->pdata[i]);
    fprintf(stderr, "%s: %s: there is no %s '%s'; %s has %s\n", g_get_prgname(), option, what, name,
            lx->name, all->len ? all->str : "none");
    g_string_free(all, TRUE);
}

static const struct lex_handset *handset_named(const struct lexicon *lx, const char *name)
{
    g_autoptr(GPtrArray) names = g_ptr_array_new();
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        if (!strcmp(handset->name, name)) return handset;
        g_ptr_array_add(names, handset->name);
    }
    no_such(lx, "--handset", "handset", name, names);
    return NULL;
}

static const struct lex_link *link_named(const struct lexicon *lx, const char *name)
{
    g_autoptr(GPtrArray) names = g_ptr_array_new();
    const struct lex_link *found = lexicon_link(lx, name);
    for (unsigned i = 0; i < lx->links->len; i++)
        g_ptr_array_add(names, ((struct lex_link *)lx->links->pdata[i])->name);
    if (!found) no_such(lx, "--sender", "link", name, names);
    return found;
}

static int emit_sender(const struct lexicon *lx, const struct image *image, const char *link_name,
                       const char *handset_name, const char *to)
{
    const struct lex_handset *handset = handset_name ? handset_named(lx, handset_name) : NULL;
    if (handset_name && !handset) return 2;
    const struct lex_link *link =
        handset ? lexicon_link(lx, handset->link) : link_named(lx, link_name);
    GError *error = NULL;
    if (!link) return 2;
    bool ok = handset ? sender_write_handset(lx, image, handset, to, &error)
                      : sender_write(lx, image, link, to, &error);
    if (!ok) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        return 2;
    }
    char *manner = sender_manner(link);
    printf("%s: wrote %s_%s.h and %s_%s.c", to, lx->name, link->name, lx->name, link->name);
    if (handset) printf(", %s_%s.h and %s_%s.c", lx->name, handset->name, lx->name, handset->name);
    printf("\n%s\n", manner);
    g_free(manner);
    return 0;
}

int verb_emit(int argc, char **argv)
{
    g_autofree char *directory = NULL;
    g_autofree char *port = NULL;
    g_autofree char *sender = NULL;
    g_autofree char *handset = NULL;
    gboolean bundle = FALSE, page = FALSE;
    const GOptionEntry entries[] = {
        {"bundle", 0, 0, G_OPTION_ARG_NONE, &bundle,
         "NAME.h and NAME.c with all of the library that it needs", NULL},
        {"port", 0, 0, G_OPTION_ARG_STRING, &port, "with --bundle: a port beside it", BUNDLE_PORTS},
        {"sender", 0, 0, G_OPTION_ARG_STRING, &sender,
         "the other side instead: NAME_LINK.h and NAME_LINK.c, to command it over this link",
         "LINK"},
        {"handset", 0, 0, G_OPTION_ARG_STRING, &handset,
         "the same with NAME_HANDSET.h and NAME_HANDSET.c: its buttons, sliders and lamps",
         "HANDSET"},
        {"page", 0, 0, G_OPTION_ARG_NONE, &page,
         "the other side as a page for a browser: NAME.html", NULL},
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
    const char *wrong = port && !bundle ? "--port goes with --bundle"
                        : sender && handset
                            ? "--handset writes the sender of its link, too: leave --sender out"
                        : page && (sender || handset)
                            ? "--page goes without --sender and --handset: it has all links"
                        : (sender || handset || page) && bundle
                            ? "--sender, --handset and --page go without --bundle: they write "
                              "other files"
                            : NULL;
    if (wrong) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), wrong);
        return 2;
    }
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    const char *to = directory ? directory : ".";
    if (sender || handset) {
        code = emit_sender(lx, image, sender, handset, to);
    } else if (page && pages_write_sender(lx, image, to, &error)) {
        printf("%s: wrote %s.html\n", to, lx->name);
    } else if (!page && (bundle ? bundle_write(lx, image, to, port, &error)
                                : lexicon_emit(lx, image, to, &error))) {
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
