/* What stands around a frame: address and source, tag, check, written and read apart from the
 * library, so that a fault there is seen. */
#ifndef ENVELOPE_H
#define ENVELOPE_H

#include "lexicon/model.h"

#define ENVELOPE_SOURCE 1u
#define ENVELOPE_CHECK  5u /* bytes of a check */

/* Whether the link wants one from a sender that the bench has none for. */
bool envelope_wanted(const struct lex_link *link);
/* The frame around `text`, owned by the caller. */
char *envelope_around(const struct lex_link *link, unsigned tag, const char *text);
/* Puts the check of all that stands in it behind it, begun with this sum. */
void envelope_check(GString *frame, unsigned start);
/* Whether a check stands behind the frame that is right for it. */
bool envelope_is_checked(const char *frame);
/* What is in an answer to a frame with that tag, owned by the caller; NULL: its envelope is wrong.
 * Events and notes have no tag. */
char *envelope_inside(const struct lex_link *link, unsigned tag, unsigned sum, const char *answer);
/* With what the check of an answer to this frame begins, where it has a tag. */
unsigned envelope_sum(const char *frame);
/* An answer without a check that fits it, where the link may write one. Owned by the caller. */
char *envelope_unchecked(const struct lex_link *link, const char *answer);

#endif
