/* Finds a hash for the first words: shifts that spread them over their buckets.
 * The same steps as on the chip: RLX_HASH_STEP and RLX_HASH_MIX.
 * It writes no byte. */
#include "lexicon/write/word_hash.h"

#include <string.h>

#include "rlx/image.h"

static uint16_t hash_of(const char *word, unsigned letters)
{
    uint16_t hash = 0;
    for (unsigned i = 0; word[i] && (!letters || i < letters); i++)
        hash = (uint16_t)RLX_HASH_STEP(hash, (unsigned char)word[i]);
    return hash;
}

/* The different hashes in buckets, the fullest bucket first. */
struct buckets {
    GArray **keys; /* of each bucket: uint16_t */
    unsigned *order;
    unsigned count;
};

static int by_size(const void *a, const void *b, void *keys)
{
    GArray **k = keys;
    unsigned x = *(const unsigned *)a, y = *(const unsigned *)b;
    if (k[x]->len != k[y]->len) return k[x]->len > k[y]->len ? -1 : 1;
    return x < y ? -1 : x > y;
}

static struct buckets buckets_new(const uint16_t *keys, unsigned n, unsigned count)
{
    struct buckets b = {g_new0(GArray *, count), g_new0(unsigned, count), count};
    for (unsigned i = 0; i < count; i++) {
        b.keys[i] = g_array_new(FALSE, FALSE, sizeof(uint16_t));
        b.order[i] = i;
    }
    for (unsigned i = 0; i < n; i++) g_array_append_val(b.keys[keys[i] & (count - 1)], keys[i]);
    g_qsort_with_data(b.order, (int)count, sizeof(unsigned), by_size, b.keys);
    return b;
}

static void buckets_free(struct buckets *b)
{
    for (unsigned i = 0; i < b->count; i++) g_array_free(b->keys[i], TRUE);
    g_free(b->keys);
    g_free(b->order);
}

/* Marks the groups of a bucket under this shift; false, with nothing marked, where one is taken. */
static bool place(const GArray *keys, unsigned shift, unsigned n, bool *taken)
{
    for (unsigned i = 0; i < keys->len; i++) {
        unsigned group = RLX_HASH_GROUP(g_array_index(keys, uint16_t, i), shift, n);
        if (taken[group]) {
            while (i--) taken[RLX_HASH_GROUP(g_array_index(keys, uint16_t, i), shift, n)] = false;
            return false;
        }
        taken[group] = true;
    }
    return true;
}

static bool find_shifts(const uint16_t *keys, unsigned n, unsigned count, uint16_t *shifts)
{
    struct buckets b = buckets_new(keys, n, count);
    bool *taken = g_new0(bool, n), found = true;
    for (unsigned i = 0; found && i < count && b.keys[b.order[i]]->len; i++) {
        unsigned shift = 0;
        while (shift < 65536 && !place(b.keys[b.order[i]], shift, n, taken)) shift++;
        found = shift < 65536;
        shifts[b.order[i]] = (uint16_t)shift;
    }
    buckets_free(&b);
    g_free(taken);
    return found;
}

bool hash_arrange(struct hash_table *table, char *const *words, unsigned count, unsigned letters)
{
    bool *seen = g_new0(bool, 65536), found = false;
    uint16_t *keys = g_new(uint16_t, count);
    unsigned n = 0;
    *table = (struct hash_table){.group_of = g_new(unsigned, count)};
    for (unsigned i = 0; i < count; i++) {
        uint16_t hash = hash_of(words[i], letters);
        if (!seen[hash]) keys[n++] = hash;
        seen[hash] = true;
    }
    for (unsigned size = 1; !found && size <= 4 * n; size *= 2) {
        if (size * 5 < n) continue;
        table->shifts = g_renew(uint16_t, table->shifts, size);
        memset(table->shifts, 0, size * sizeof(uint16_t));
        table->n_shifts = size;
        found = find_shifts(keys, n, size, table->shifts);
    }
    table->n_groups = n;
    for (unsigned i = 0; found && i < count; i++) {
        uint16_t hash = hash_of(words[i], letters);
        table->group_of[i] = RLX_HASH_GROUP(hash, table->shifts[hash & (table->n_shifts - 1)], n);
    }
    g_free(seen);
    g_free(keys);
    return found;
}

void hash_clear(struct hash_table *table)
{
    g_free(table->shifts);
    g_free(table->group_of);
}
