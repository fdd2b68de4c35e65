/* Prints the reference card of a lexicon: text, Markdown, HTML, ABNF or JSON.
 * Reads and checks the lexicon, then calls the writer of that form.
 * No form of a card is laid out here. */
#include "lexicon/write/card.h"

#include <stdio.h>
#include <string.h>

#include "lexicon/write/abnf.h"
#include "rlx_cli.h"

#define FORMS "text|markdown|html|json|abnf"

static char *make(struct lexicon *lx, const struct image *image, const char *form)
{
    if (!strcmp(form, "text")) return lexicon_card_text(lx, image);
    if (!strcmp(form, "markdown")) return lexicon_card_markdown(lx, image);
    if (!strcmp(form, "html")) return lexicon_card_html(lx, image);
    if (!strcmp(form, "json")) return lexicon_card_json(lx, image);
    return lexicon_abnf(lx);
}

int verb_card(int argc, char **argv)
{
    g_autofree char *form = NULL;
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"as", 0, 0, G_OPTION_ARG_STRING, &form, "its form (default: text)", FORMS},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "the same as --as json", NULL},
        {0}};
    struct image *image;
    int code;
    if (!cli_options(
            &argc, &argv, entries, "LEXICON",
            "Prints the reference card for the sender: a card to read or to print, JSON with the "
            "exact bytes\nfor the program on the other side, or a grammar (RFC 5234, RFC "
            "7405).\n\n"
            "Example:\n  rlx card --as markdown examples/tide_tank/tidetank.lexicon\n",
            1))
        return 2;
    if (form && !cli_choice("--as", FORMS, form)) return 2;
    struct lexicon *lx = cli_sound_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    char *text = make(lx, image, json ? "json" : form ? form : "text");
    fputs(text, stdout);
    g_free(text);
    image_free(image);
    lexicon_free(lx);
    return code;
}
