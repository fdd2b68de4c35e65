/* Arranges words in a table without gaps: a word's hash and its bucket's shift give its group. */
#ifndef HASH_H
#define HASH_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

struct hash_table {
    unsigned n_groups;
    unsigned n_shifts; /* a power of two */
    uint16_t *shifts;
    unsigned *group_of; /* of each word */
};

/* Words that agree in their first `letters` (0: in all of them) share a group, and so do words
 * whose hashes are the same. false: no arrangement was found. */
bool hash_arrange(struct hash_table *table, char *const *words, unsigned count, unsigned letters);
void hash_clear(struct hash_table *table);

#endif
