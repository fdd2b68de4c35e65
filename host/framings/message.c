/* One frame in a text message.
 * What this framing has of its own, for framing.h.
 * Modem and network are in src/links and world/modem. */
#include "framings/common.h"

static char *text(const struct lex_link *link)
{
    (void)link;
    return g_strdup("one frame a message");
}

static unsigned longest(const struct lex_link *link, unsigned command, unsigned enveloped)
{
    (void)command;
    (void)enveloped;
    return MAX(link->payload, 8);
}

/* It goes straight into the frame. */
static unsigned receives(const struct lex_link *link)
{
    (void)link;
    return 2;
}

const struct lex_framing lex_framing_message = {.media = LEX_IN(SMS),
                                                .text = text,
                                                .holds = framing_payload,
                                                .longest = longest,
                                                .receives = receives};
