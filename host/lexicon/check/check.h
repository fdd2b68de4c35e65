/* Looks for design faults in a lexicon that was read without errors. */
#ifndef CHECK_H
#define CHECK_H

#include "lexicon/model.h"

struct image;

/* Adds to lx->faults, and marks those that the lexicon accepts. The image is the lexicon's, or NULL
 * when it could not be built. */
void lexicon_check(struct lexicon *lx, const struct image *image);

/* The shortest text that both commands take, whatever the ranges of numbers; NULL: there is none.
 * Owned by the caller. */
char *lex_common_text(const struct lexicon *lx, const struct lex_command *a,
                      const struct lex_command *b);
/* The shortest form of the word that is also the number behind its own word, or NULL. */
char *lex_cut_to_number(const struct lexicon *lx, const char *word,
                        const struct lex_element *number);
/* Adds a fault for each pair of commands that take a common text; returns how many. */
unsigned lexicon_find_ambiguous(struct lexicon *lx);

#endif
