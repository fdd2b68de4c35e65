/* Keys: each character is a command, and behind a leading one comes a line.
 * What this framing has of its own, for framing.h.
 * What a key stands for is read in lexicon/read/read_link.c. */
#include "framings/common.h"

static bool read_more(struct statement *st, struct lex_link *link)
{
    if (!statement_take_word(st, "lead")) return true;
    struct lex_place place = statement_peek(st)->place;
    if (!framing_read_character(st, "the character that a line stands behind", &link->lead))
        return false;
    if (g_ascii_isprint(link->lead)) return true;
    lex_fault(st->lx, place, "a line stands behind a character that can be seen, like \":\"");
    return false;
}

static char *text(const struct lex_link *link)
{
    return link->lead ? g_strdup_printf("single keys, lines behind '%c'", link->lead)
                      : g_strdup("single keys");
}

static unsigned longest(const struct lex_link *link, unsigned command, unsigned enveloped)
{
    (void)command;
    return MAX(enveloped, link->lead ? 48 : 1);
}

static char character(const struct lex_link *link)
{
    return link->lead;
}

const struct lex_framing lex_framing_keys = {.media = LEX_WIRED,
                                             .unit = "key",
                                             .like = "t = \"pump on\"",
                                             .answers_lines = true,
                                             .read = read_more,
                                             .text = text,
                                             .longest = longest,
                                             .character = character};
