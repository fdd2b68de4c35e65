/* Files that are written whole or not at all. */
#ifndef FILES_H
#define FILES_H

#include <glib.h>
#include <stdbool.h>

/* Puts this in the place of the file; what stood there stays where it cannot be written. A device
 * or a pipe is written to. False: *error tells why. */
bool files_write(const char *name, const char *text, size_t count, GError **error);

#endif
