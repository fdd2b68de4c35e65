/* What the framings share: characters, a time, frames that are filled up, lines.
 * Each is used by two framings or more.
 * What only one needs is in its file. */
#include "framings/common.h"

#include <string.h>

/* "\\x03" as a byte; -1: it is none. */
static int escaped(const char *text)
{
    bool hex = !strncmp(text, "\\x", 2) && strlen(text) == 4 && g_ascii_isxdigit(text[2]) &&
               g_ascii_isxdigit(text[3]);
    return hex ? g_ascii_xdigit_value(text[2]) * 16 + g_ascii_xdigit_value(text[3]) : -1;
}

bool framing_read_character(struct statement *st, const char *what, char *character)
{
    struct token *token = statement_take(st);
    bool text = token->kind == TOKEN_WORD || token->kind == TOKEN_STRING;
    int byte = text && strlen(token->text) == 1 && g_ascii_isprint(*token->text) ? *token->text
               : text ? escaped(token->text)
                      : -1;
    if (byte < 0) {
        lex_fault(st->lx, token->place,
                  "expected %s, one ASCII character like \".\", or a byte like \"\\x03\"", what);
        return false;
    }
    if (byte == '\r' || byte == '\n') {
        lex_fault(st->lx, token->place, "CR and LF end lines: write 'frame line'");
        return false;
    }
    *character = (char)byte;
    return true;
}

char *framing_character_text(char character)
{
    return g_ascii_isprint(character) ? g_strdup_printf("'%c'", character)
                                      : g_strdup_printf("0x%02X", (guchar)character);
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
