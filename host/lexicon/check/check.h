/* Looks for design faults in a lexicon that was read without errors. */
#ifndef CHECK_H
#define CHECK_H

#include "image.h"

/* Adds to lx->faults, and marks those that the lexicon accepts. The image is the lexicon's, or NULL
 * when it could not be built. */
void lexicon_check(struct lexicon *lx, const struct image *image);

#endif
