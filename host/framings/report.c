/* Lines in reports of 64 bytes, one or several.
 * What this framing has of its own, for framing.h.
 * When a host asks for a report is in world/media. */
#include "framings/common.h"

static unsigned longest(const struct lex_link *link, unsigned command, unsigned enveloped)
{
    (void)link;
    (void)command;
    return MAX(enveloped, RLX_REPORT);
}

static unsigned receives(const struct lex_link *link)
{
    (void)link;
    return RLX_RING_MAX;
}

const struct lex_framing lex_framing_report = {.media = LEX_IN(REPORT),
                                               .lines = true,
                                               .piece = RLX_REPORT,
                                               .text = framing_text_lines,
                                               .longest = longest,
                                               .receives = receives};
