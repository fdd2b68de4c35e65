/* Answers of a command's own: `says "lamp at {level} %"` and `already "..."`. */
#ifndef ANSWERS_H
#define ANSWERS_H

#include "lexicon/model.h"

/* A piece of one: `length` characters from `text` on, or the slot with this number, from 0. */
struct answer_piece {
    const char *text;
    size_t length;
    int slot; /* -1: characters; -2: a slot, or field, that there is not */
};

/* The next piece of an answer from `at` on; behind it, or NULL at the end of the answer. */
const char *answer_next(const struct lex_command *command, const char *at,
                        struct answer_piece *piece);
/* The answer with these texts in its slots. Owned by the caller. */
char *answer_text(const struct lex_command *command, const char *answer, char *const *slots);
/* The longest one. Owned by the caller. */
char *answer_longest(const struct lex_command *command, const char *answer);
/* Where the rest of a line stands behind such an answer; NULL: it does not begin with one. As the
 * device does it: a slot goes up to the character behind it. */
const char *answer_behind(const struct lex_command *command, const char *answer, const char *line);
/* The next piece of a link's own text from `at` on, likewise; the slot is an enum rlx_error_field
 * where the text is of an error. */
const char *own_text_next(const struct lex_text *own, const char *at, struct answer_piece *piece);
/* Whether such a field stands in it. */
bool own_text_has_fields(const struct lex_text *own);
/* Whether the command has an answer of its own on this link. */
bool answer_is_on(const struct lex_command *command, const struct lex_link *link);
/* Whether the line is one of this lexicon's commands' own answers on this link, with ` waiting N
 * ms` behind it or not, or ` already` where it has none for that. */
bool answer_is_of(const struct lexicon *lx, const struct lex_link *link, const char *line);
/* Whether its answers need not begin with ok and err: some command has its own there, or the link
 * has texts of its own. */
bool answers_are_own(const struct lexicon *lx, const struct lex_link *link);
/* What a board says it is: the greeting, or what `about` answers, with or without what stands
 * before either. NULL: the line is neither; "": it is of this lexicon; else in words, of which
 * other one. Owned by the caller. */
char *answer_identity(const struct lexicon *lx, const char *fingerprint, const char *line);

#endif
