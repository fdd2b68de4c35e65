/* Writes the C of a lexicon: NAME.h, NAME.c and NAME_config.h. */
#ifndef EMIT_H
#define EMIT_H

#include "lexicon/write/table_image.h"

/* Into folder `directory`, which is made where it is missing. */
bool lexicon_emit(const struct lexicon *lx, const struct image *image, const char *directory,
                  GError **error);

#endif
