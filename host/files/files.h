/* Files that are written whole or not at all, and read up to a limit. */
#ifndef FILES_H
#define FILES_H

#include <glib.h>
#include <stdbool.h>

/* Puts this in the place of the file; what stood there stays where it cannot be written. A device
 * or a pipe is written to; "-" is standard output. False: *error has the reason. */
bool files_write(const char *name, const char *text, size_t count, GError **error);

/* The bytes of a file or pipe ("-": standard input), at most one more than `most`: *size shows
 * whether there are too many. A 0 stands behind them. *text is owned by the caller. False: *error
 * has the reason. */
bool files_read(const char *name, size_t most, char **text, size_t *size, GError **error);

/* What it is called in a message. */
const char *files_shown(const char *name);

#endif
