/* Random lines for a lexicon: about half of them are commands, in all their spellings; the rest are
 * commands with something changed. */
#ifndef LINES_H
#define LINES_H

#include <stdint.h>

#include "lexicon.h"

extern uint32_t lines_seed;
/* 0..n-1 */
unsigned lines_chance(unsigned n);
/* Owned by the caller. The lexicon has a command. */
char *lines_random(const struct lexicon *lx);

#endif
