/* Frames between flags, with byte stuffing by RFC 1662.
 * What this framing has of its own, for framing.h.
 * Their bytes are in lexicon/layout. */
#include "framings/common.h"

static char *text(const struct lex_link *link)
{
    (void)link;
    return g_strdup("frames of bytes between flags (RFC 1662)");
}

const struct lex_framing lex_framing_stuffed = {.media = LEX_WIRED, .text = text};
