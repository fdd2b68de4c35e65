/* The keys of simulated boards and of who commands them. A real board has its own. */
#ifndef KEYS_H
#define KEYS_H

#include "world/run/running.h"

/* "sample-key-of-deck--": the key of this name on every simulated board. Owned by the caller. */
char *keys_sample(const char *name);
/* A device with a key over this link: the first of this sender, 0: of the first sender that has
 * one; *number: its number. NULL: there is none. */
const struct lex_seal_key *keys_of_sender(const struct lexicon *lx, const struct lex_link *link,
                                          unsigned sender, unsigned *number);

/* Puts the sample keys into its memory, as if somebody had given them to it before. Before
 * device_start(). */
void device_give_keys(struct device *device, const struct image *image);

#endif
