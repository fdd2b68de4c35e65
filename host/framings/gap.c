/* Frames that a silence ends.
 * What this framing has of its own, for framing.h.
 * How the device measures it is in src/core/frame.c. */
#include "framings/common.h"

static bool read_more(struct statement *st, struct lex_link *link)
{
    return statement_time(st, "the silence that ends it", 1, 60000, &link->gap);
}

static char *text(const struct lex_link *link)
{
    (void)link;
    return g_strdup("frames that a silence ends");
}

const struct lex_framing lex_framing_gap = {
    .media = LEX_WIRED, .silence = true, .read = read_more, .text = text};
