/* Frames that end with a character of the lexicon's choice.
 * What this framing has of its own, for framing.h.
 * How the device finds it is in src/core/frame.c. */
#include "framings/common.h"

static bool read_more(struct statement *st, struct lex_link *link)
{
    return framing_read_character(st, "the last character", &link->end) &&
           framing_read_within(st, link);
}

static char *text(const struct lex_link *link)
{
    char *character = framing_character_text(link->end);
    char *all = g_strconcat("frames that end with ", character, NULL);
    g_free(character);
    return all;
}

static void complete(const struct lex_link *link, GString *frame, const char *line_end)
{
    (void)line_end;
    g_string_append_c(frame, link->end);
}

static char character(const struct lex_link *link)
{
    return link->end;
}

const struct lex_framing lex_framing_ended = {.media = LEX_WIRED,
                                              .read = read_more,
                                              .text = text,
                                              .complete = complete,
                                              .character = character};
