/* What happened, for programs: JSON Lines (RFC 8259 texts, one a line). docs/world.md lists the
 * members. */
#ifndef TRACE_H
#define TRACE_H

#include "world/boards/bench.h"

struct trace;

/* Begins the file; NULL and an error where it cannot be written. */
struct trace *trace_begin(const struct lexicon *lx, const char *file, GError **error);
/* Ends it; false and an error where something could not be written. */
bool trace_end(struct trace *trace, GError **error);

/* What happened, in a word: "said", "answered"; NULL: it is no text, or not recorded. */
const char *trace_word(const struct sight *sight);
/* A watcher of a bench; its user is the trace. */
void trace_sight(void *trace, const struct sight *sight);

#endif
