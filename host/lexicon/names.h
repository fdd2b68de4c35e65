/* The C names of what a lexicon has. */
#ifndef NAMES_H
#define NAMES_H

#include "lexicon/model.h"

/* A word as part of a C identifier, in small or capital letters. */
char *lex_identifier(const char *word, bool upper);

/* Whether it is a word of C or C++, which nothing can be called. */
bool lex_is_keyword(const char *identifier);

/* Whether all words of a choice are on, off or toggle: its type is enum rlx_verb. */
bool lex_is_verbs(const struct lex_element *choice);

/* The choices that handlers get, by the name of their enum type: the first of each name. Made once,
 * for lx->enum_names. */
GHashTable *lex_enum_names(const struct lexicon *lx);

/* The enum type of a choice that a handler gets: NAME_SLOT, or NAME_WORD_WORD without a slot name;
 * shared by choices of the same words, NAME_FUNCTION_SLOT where another took the name. */
char *lex_enum_name(const struct lexicon *lx, const struct lex_command *command,
                    const struct lex_element *choice);

/* The name of a slot as a handler's argument: its own in small letters; "choice" or "value" without
 * one, numbered where several are. Owned by the caller. */
char *lex_argument_name(const GPtrArray *elements, const struct lex_element *slot);

#endif
