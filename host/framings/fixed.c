/* Frames of one length, filled up with a character.
 * What this framing has of its own, for framing.h.
 * On a radio its frames are packets: packet.c. */
#include "framings/common.h"

static bool read_more(struct statement *st, struct lex_link *link)
{
    if (!statement_number(st, "its bytes", 1, RLX_FRAME_MAX, &link->length)) return false;
    if (!statement_take_word(st, "pad")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'pad' and what fills a short one, like: pad \".\"");
        return false;
    }
    return framing_read_character(st, "what fills a short one", &link->pad) &&
           framing_read_gap(st, "gap", "the silence after which a frame begins anew", link);
}

static char *text(const struct lex_link *link)
{
    char *character = framing_character_text(link->pad);
    char *all = g_strdup_printf("%u bytes, filled with %s", link->length, character);
    g_free(character);
    return all;
}

static unsigned holds(const struct lex_link *link)
{
    return link->length;
}

static unsigned longest(const struct lex_link *link, unsigned command, unsigned enveloped)
{
    (void)command;
    (void)enveloped;
    return link->length;
}

const struct lex_framing lex_framing_fixed = {.media = LEX_WIRED | LEX_IN(RADIO),
                                              .read = read_more,
                                              .text = text,
                                              .complete = framing_fill,
                                              .holds = holds,
                                              .longest = longest,
                                              .character = framing_pad};
