/* One frame in a packet of a radio, as it is or filled up.
 * What this framing has of its own, for framing.h.
 * What may happen to a packet on its way is in world/media. */
#include "framings/common.h"

static char *text(const struct lex_link *link)
{
    char *character = framing_character_text(link->pad);
    char *all = link->length ? g_strconcat("one frame a packet, filled with ", character, NULL)
                             : g_strdup("one frame a packet");
    g_free(character);
    return all;
}

static unsigned longest(const struct lex_link *link, unsigned command, unsigned enveloped)
{
    (void)enveloped;
    return MAX(link->payload, command);
}

/* Two packets with their lengths. */
static unsigned receives(const struct lex_link *link)
{
    return lex_ring_bytes(2 * (link->payload + 1));
}

const struct lex_framing lex_framing_packet = {.media = LEX_IN(RADIO),
                                               .text = text,
                                               .complete = framing_fill,
                                               .holds = framing_payload,
                                               .longest = longest,
                                               .receives = receives,
                                               .character = framing_pad};
