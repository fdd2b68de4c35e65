/* What the framings share: characters, a time, frames that are filled up, lines.
 * Each is used by two framings or more.
 * What only one needs is in its file. */
#include "framings/common.h"

#include <string.h>

bool framing_read_character(struct statement *st, const char *what, char *character)
{
    struct token *token = statement_take(st);
    if ((token->kind != TOKEN_WORD && token->kind != TOKEN_STRING) || strlen(token->text) != 1 ||
        !g_ascii_isprint(*token->text)) {
        lex_fault(st->lx, token->place, "expected %s, one ASCII character, like \".\"", what);
        return false;
    }
    *character = *token->text;
    return true;
}

bool framing_read_gap(struct statement *st, const char *word, const char *what,
                      struct lex_link *link)
{
    return !statement_take_word(st, word) || statement_time(st, what, 1, 60000, &link->gap);
}

void framing_fill(const struct lex_link *link, GString *frame, const char *line_end)
{
    (void)line_end;
    while (frame->len < link->length) g_string_append_c(frame, link->pad);
}

char framing_pad(const struct lex_link *link)
{
    return link->length ? link->pad : ' ';
}

unsigned framing_payload(const struct lex_link *link)
{
    return link->payload;
}

char *framing_text_lines(const struct lex_link *link)
{
    return g_strdup_printf("lines up to %u bytes", link->longest);
}
