/* Frames that a zero byte ends, zeros within them folded away (COBS).
 * What this framing has of its own, for framing.h.
 * Their bytes are in lexicon/layout. */
#include "framings/common.h"

static char *text(const struct lex_link *link)
{
    (void)link;
    return g_strdup("frames of bytes that a zero ends (COBS)");
}

const struct lex_framing lex_framing_cobs = {.media = LEX_WIRED, .text = text};
