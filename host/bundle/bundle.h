/* A lexicon with all of the library that it needs, as two files for any compiler; and a port beside
 * it. */
#ifndef BUNDLE_H
#define BUNDLE_H

#include "lexicon/write/table_image.h"

/* Writes NAME.h and NAME.c into the folder, which is made where it is missing; `port` (NULL: none):
 * also board.h and port_PORT.c, and a linker script where it has one. False: error is set, and no
 * file was changed. */
bool bundle_write(const struct lexicon *lx, const struct image *image, const char *directory,
                  const char *port, GError **error);
/* The ports that there are. */
#define BUNDLE_PORTS "sim|cortex_m0|avr"

#endif
