/* What an output is at by what the device drives, in the words of scenes. */
#ifndef OUTPUTS_H
#define OUTPUTS_H

#include "bench.h"

/* on, off, 40%, opening, stopped, -60%, 1500us, 440Hz; owned by the caller. */
char *output_state(const struct board *board, const struct lex_output *out);
/* Coarser: a word that a report can count from and to, like "off", "on", "level", "back". */
const char *output_class(const struct board *board, const struct lex_output *out);
/* The classes that it can be in, NULL-ended. */
const char *const *output_classes(const struct lex_output *out);
/* Its index that owns the pin or channel of the event; -1: none. */
int output_of_event(const struct lexicon *lx, struct sim_event event);

#endif
