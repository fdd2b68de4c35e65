/* What the files of the slots share. */
#ifndef SLOTS_H
#define SLOTS_H

#include "lexicon/slot.h"
#include "lexicon/write/abnf_parts.h"
#include "lexicon/write/build.h"
#include "lexicon/read/reader.h"

/* Whether a word is this one, as letters count. */
bool slot_word_is(const struct lexicon *lx, const char *word, const char *said);
/* All words with `between` between them. Owned by the caller. */
char *slot_joined(const struct lex_element *e, const char *between);
/* The longest word, and the index of the one that is said. */
char *slot_longest_word(const struct lex_element *e, bool units);
bool slot_says_word(const struct lexicon *lx, const struct lex_element *e, const char *text,
                    int32_t *value);
unsigned slot_wanted_words(const struct lex_element *e);
/* So many numbers with ',' between them, each with its unit. Owned by the caller. */
char *slot_longest_numbers(const struct lex_element *e, unsigned count, bool units);
/* Its range with its unit and scale. Owned by the caller. */
char *slot_holds_range(const struct lex_element *e);
/* Within its bounds; a unit behind it in its case, where letters count. */
bool slot_says_number(const struct lexicon *lx, const struct lex_element *e, const char *text,
                      int32_t *value);
/* "-400..1250 tenths of C": in what a handler counts. Owned by the caller. */
char *slot_note_number(const struct lex_element *e);
unsigned slot_wanted_range(const struct lex_element *e);

#endif
