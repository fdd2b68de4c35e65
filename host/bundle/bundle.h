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
/* "rlx_port_kick(), rlx_port_pin_write()": what a port has to have for this lexicon. Owned by the
 * caller. */
char *bundle_port_functions(const struct lexicon *lx, const struct image *image);
/* The ports that there are. */
#define BUNDLE_PORTS "sim|cortex_m0|cortex_m3|avr|riscv"

#endif
