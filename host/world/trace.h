/* What happened, for programs: JSON Lines (RFC 8259 texts, one a line), and pins and duties as a
 * value change dump (IEEE 1364-2005, 18). docs/world.md tells the members. */
#ifndef TRACE_H
#define TRACE_H

#include "lexicon.h"
#include "sim/sim.h"

struct trace;

/* Begins the files, each NULL where it is not wanted; NULL and an error where one cannot be
 * written. */
struct trace *trace_begin(const struct lexicon *lx, const char *json, const char *vcd,
                          GError **error);
/* Ends them; false and an error where something could not be written. */
bool trace_end(struct trace *trace, GError **error);

/* The calls take NULL for a trace that nobody wants. `what`: said, answered, lost, collided, ...: a
 * text on a link, or about an output or input. */
void trace_text(struct trace *trace, uint64_t now_us, const char *what, const char *name,
                const char *text, size_t count);
/* What the device does, or SIM_PIN_IN, SIM_FAULT. */
void trace_event(struct trace *trace, uint64_t now_us, struct sim_event event);

#endif
