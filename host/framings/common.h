/* What the files of the framings share. */
#ifndef FRAMINGS_H
#define FRAMINGS_H

#include "lexicon/framing.h"
#include "lexicon/read/reader.h"
#include "rlx/image.h"
#include "rlx/link.h"

/* '.' or 0x03. Owned by the caller. */
char *framing_character_text(char character);
/* A character in quotes, as it is or as "\\x03": a fault says `what` is expected. */
bool framing_read_character(struct statement *st, const char *what, char *character);
/* [WORD T]: a time in ms. False after a fault. */
bool framing_read_gap(struct statement *st, const char *word, const char *what,
                      struct lex_link *link);
/* Up to the length of its frames. */
void framing_fill(const struct lex_link *link, GString *frame, const char *line_end);
char framing_pad(const struct lex_link *link);
/* All that a packet or message has. */
unsigned framing_payload(const struct lex_link *link);
char *framing_text_lines(const struct lex_link *link);
/* [within T]: after that long part of a frame is dropped. */
#define framing_read_within(st, link) \
    framing_read_gap(st, "within", "the time after which part of one is dropped", link)

#endif
