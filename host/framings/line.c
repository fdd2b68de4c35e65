/* Lines: a frame ends with CR, LF or both.
 * What this framing has of its own, for framing.h.
 * How the device cuts lines is in src/core/frame.c. */
#include "framings/common.h"

static void complete(const struct lex_link *link, GString *frame, const char *line_end)
{
    (void)link;
    g_string_append(frame, line_end);
}

const struct lex_framing lex_framing_line = {.media = LEX_WIRED,
                                             .lines = true,
                                             .answers_lines = true,
                                             .text = framing_text_lines,
                                             .complete = complete};
