/* Codes: fixed texts of a few characters, which nothing ends.
 * What this framing has of its own, for framing.h.
 * What a code stands for is read in lexicon/read/read_link.c. */
#include "framings/common.h"

static bool read_more(struct statement *st, struct lex_link *link)
{
    return framing_read_within(st, link);
}

static char *text(const struct lex_link *link)
{
    (void)link;
    return g_strdup("codes");
}

const struct lex_framing lex_framing_codes = {.media = LEX_WIRED,
                                              .unit = "code",
                                              .like = "\"P1\" = \"pump on\"",
                                              .read = read_more,
                                              .text = text};
