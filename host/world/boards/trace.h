/* What happened, for programs: JSON Lines (RFC 8259 texts, one a line), and pins and duties as a
 * value change dump (IEEE 1364-2005, 18). docs/world.md lists the members. */
#ifndef TRACE_H
#define TRACE_H

#include "world/boards/bench.h"

struct trace;

/* Begins the files, each NULL where it is not wanted; NULL and an error where one cannot be
 * written. */
struct trace *trace_begin(const struct lexicon *lx, const char *json, const char *vcd,
                          GError **error);
/* Ends them; false and an error where something could not be written. */
bool trace_end(struct trace *trace, GError **error);

/* A watcher of a bench; its user is the trace. */
void trace_sight(void *trace, const struct sight *sight);

#endif
