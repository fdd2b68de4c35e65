/* How the outputs, inputs and links of a bench are, as JSON, for pages and traces:
 * docs/bench-protocol.md lists the members. */
#ifndef BOARD_STATES_H
#define BOARD_STATES_H

#include <jansson.h>

#include "world/boards/bench.h"

struct states;

/* The bench must outlive it. */
struct states *states_new(const struct bench *bench);
void states_free(struct states *states);

/* By name, what changed since the last call; `all`: everything. Owned by the caller. */
json_t *states_now(struct states *states, bool all);

/* What there is: `outputs`, `inputs`, `links`. Owned by the caller. */
json_t *states_parts(const struct bench *bench);

/* Bytes that are no UTF-8 become what can be shown. Owned by the caller. */
json_t *states_text(const char *text, size_t count);

#endif
