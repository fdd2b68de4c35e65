/* Random lines for a lexicon: about half of them are commands, in all their spellings; the rest are
 * commands with something changed. */
#ifndef LINES_H
#define LINES_H

#include <stdint.h>

#include "lexicon/model.h"

extern uint32_t lines_seed;
/* 0..n-1 */
unsigned lines_chance(unsigned n);
/* Owned by the caller. The lexicon has a command. */
char *lines_random(const struct lexicon *lx);

/* The same, or a word that is built in or could be: stats, got 3, NAME? */
char *lines_said(const struct lexicon *lx);

/* lexicons.c: the text of a random lexicon, which may have faults. Owned by the caller. */
char *lines_lexicon(void);
/* shapes.c: the same of every shape: outputs, framings, settings, texts of links' own. */
char *lines_shape(void);
/* Two random commands, likely to be alike, and what stands before them; all owned by the caller. */
char *lines_two_commands(char *commands[2]);

#endif
