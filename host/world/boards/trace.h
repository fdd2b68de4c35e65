/* What happened, for programs: JSON Lines (RFC 8259 texts, one a line). docs/world.md lists the
 * members. */
#ifndef TRACE_H
#define TRACE_H

#include <jansson.h>

#include "world/boards/bench.h"

struct trace;

/* Begins the file; NULL and an error where it cannot be written. */
struct trace *trace_begin(const struct lexicon *lx, const char *file, GError **error);
/* From before bench_start() on, it also has what there is, as a page draws it, and how each output,
 * input and link is: what changed, at most 60 times a second. Nothing may happen after the bench is
 * gone. */
void trace_states(struct trace *trace, const struct bench *bench);
/* From before bench_start() on, it also has the bytes that reach each board, with their times. */
void trace_bytes(struct trace *trace, struct bench *bench);
/* What moves by itself is looked at: call it as time goes by. NULL is fine. */
void trace_look(struct trace *trace);
/* The same, however short the last look is ago: nothing follows. */
void trace_last_look(struct trace *trace);
/* A line of somebody else's: `more` has its members and is taken over; NULL is a fine trace. */
void trace_put(struct trace *trace, uint64_t now_us, const char *what, json_t *more);
/* All that was put is in the file. */
bool trace_flush(struct trace *trace);
/* So many bytes are in it. */
uint64_t trace_size(const struct trace *trace);

/* Ends it; false and an error where something could not be written. */
bool trace_end(struct trace *trace, GError **error);

/* What happened, in a word: "said", "answered"; NULL: it is no text, or not recorded. */
const char *trace_word(const struct sight *sight);
/* A watcher of a bench; its user is the trace. */
void trace_sight(void *trace, const struct sight *sight);

#endif
