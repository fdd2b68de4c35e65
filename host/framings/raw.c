/* Raw bytes, which the firmware reads and sends itself.
 * What this framing has of its own, for framing.h.
 * The calls are in src/core/raw.c. */
#include "framings/common.h"

static bool read_nothing(struct statement *st, struct lex_link *link)
{
    (void)st;
    lex_make_raw(link);
    return true;
}

static char *text(const struct lex_link *link)
{
    (void)link;
    return g_strdup("raw bytes, which the firmware reads");
}

const struct lex_framing lex_framing_raw = {.media = LEX_WIRED, .read = read_nothing, .text = text};
