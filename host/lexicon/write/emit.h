/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h. */
#ifndef EMIT_H
#define EMIT_H

#include "lexicon/write/table_image.h"

/* Into folder `directory`, which is made where it is missing. */
bool lexicon_emit(const struct lexicon *lx, const struct image *image, const char *directory,
                  GError **error);
/* One of its three files: 0 NAME.h, 1 NAME.c, 2 NAME_config.h. Owned by the caller. */
char *lexicon_emitted(const struct lexicon *lx, const struct image *image, unsigned which);
/* The first line of each file, by which it is known that it may be replaced. Owned by the caller.
 */
char *lexicon_made_by(const struct lexicon *lx, bool html);
/* Knobs that follow from a lexicon, in bytes: the longest frame that is looked at before its turn;
 * the longest "ok" and a command that has an answer of its own, -1 where none has; the longest
 * reply that is kept for a sender with tags. */
unsigned emit_ahead(const struct lexicon *lx);
int emit_says(const struct lexicon *lx);
unsigned emit_kept(const struct lexicon *lx);
/* Writes so many files into the folder, all or none; one that was not made by rlx emit is left as
 * it is, and nothing is written. */
bool emit_write(const char *directory, char *const *names, char *const *texts, unsigned count,
                GError **error);

#endif
