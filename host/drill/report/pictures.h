/* Timelines of failures, for the report as a page. */
#ifndef PICTURES_H
#define PICTURES_H

#include <jansson.h>

#include "lexicon/write/table_image.h"

#define PICTURES_MOST 24u /* failures with a picture: the first of each cause */

/* Plays the scenes of the failures again; what was drawn becomes their `picture`, SVG in base64
 * (RFC 4648). Where nothing can be drawn there is none. */
void pictures_put(json_t *report, struct lexicon *lx, const struct image *image);
/* Takes them out again. */
void pictures_drop(json_t *report);

#endif
