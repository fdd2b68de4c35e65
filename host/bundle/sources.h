/* The library's sources, as they stand in the tool, and what is done with a file made of them. */
#ifndef SOURCES_H
#define SOURCES_H

#include <glib.h>

/* Texts that were loaded, by their path. g_hash_table_destroy() frees them. */
GHashTable *bundle_sources(void);
/* The text of a file by its path, "rlx/port.h", "src/core/ring.c"; `sources`: those that were
 * loaded. NULL: it is none of ours. */
const char *bundle_source(void *sources, const char *path);
/* At most one empty line, and none at the beginning. Owned by the caller. */
char *bundle_tidied(const char *text);
/* Without the inline functions that nobody calls, as often as there are some. */
void bundle_drop_uncalled(GString *c);

#endif
