/* What an output is at by what the device drives, in the words of scenes. */
#ifndef OUTPUTS_H
#define OUTPUTS_H

#include "world/boards/bench.h"

/* on, off, 40%, opening, stopped, -60%, 1500us, 440Hz; owned by the caller. */
char *output_state(const struct board *board, const struct lex_output *out);
/* Coarser: a word that a report can count from and to, like "off", "on", "level", "back". */
const char *output_class(const struct board *board, const struct lex_output *out);
/* The classes that it can be in, NULL-ended. */
const char *const *output_classes(const struct lex_output *out);
/* Its index that owns the pin or channel of the event; -1: none. */
int output_of_event(const struct lexicon *lx, struct sim_event event);

/* How far from its safe state the event puts the pin or channel of this output, in its own units;
 * 0: it is safe, or the pin is only a direction. */
unsigned output_from_safe(const struct lex_output *out, struct sim_event event);
/* Whether it is in its safe state. */
bool output_is_safe(const struct board *board, const struct lex_output *out);

#endif
