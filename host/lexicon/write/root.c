/* The element that every command begins with: a list of words, or a hash.
 * Above eight first words a hash is sought that has no collisions in a bucket.
 * It knows nothing about slots. */
#include <string.h>

#include "lexicon/write/build.h"
#include "lexicon/write/word_hash.h"
#include "lexicon/read/reader.h"

/* More first words cannot fit 64 KiB. */
#define WORDS_MAX 16384
/* From this many first words on they are hashed. */
#define HASH_FROM 9

/* A first word, and the node behind it; of a choice also the value of its slot. */
struct first {
    const char *text;
    const struct node *to;
    int value; /* -1: it is no choice's */
};

/* All of them; an array of struct first, owned by the caller. */
static GArray *first_words(const struct node *root)
{
    GArray *all = g_array_new(FALSE, FALSE, sizeof(struct first));
    for (unsigned i = 0; i < root->words->len; i++) {
        const struct edge *edge = root->words->pdata[i];
        struct first first = {edge->text, edge->to, -1};
        g_array_append_val(all, first);
    }
    for (unsigned i = 0; i < root->choices->len; i++) {
        const struct edge *edge = root->choices->pdata[i];
        for (unsigned k = 0; k < edge->element->words->len; k++) {
            struct first first = {edge->element->words->pdata[k], edge->to,
                                  (int)image_choice_value(edge->element, k)};
            g_array_append_val(all, first);
        }
    }
    return all;
}

static const struct first *first_at(const GArray *all, unsigned i)
{
    return &g_array_index(all, struct first, i);
}

/* What comes behind it; a choice's value is pushed first. */
static GByteArray *first_program(struct build *b, const struct first *first, unsigned operand)
{
    GByteArray *rest = build_program(b, first->to, operand), *to;
    if (first->value < 0) return rest;
    build_need(b, RLX_BIT_FAMILY);
    to = g_byte_array_new();
    build_put8(to, RLX_OP_PUSH);
    build_put8(to, (unsigned)first->value);
    build_put_all(to, rest);
    g_byte_array_free(rest, TRUE);
    return to;
}

/* One first word: its entry's bytes. */
static void put_root_entry(struct build *b, GByteArray *to, const struct first *first,
                           bool with_operands)
{
    bool single = graph_ends(first->to) == 1;
    unsigned operand = b->by_group               ? RLX_OPERAND_GROUP
                       : with_operands && single ? RLX_OPERAND_ENTRY
                                                 : RLX_OPERAND_INLINE;
    unsigned shape = build_shape(b, first_program(b, first, operand), first->to), value = 0;
    if (operand == RLX_OPERAND_ENTRY) value = build_operand(b, build_some_end(first->to));
    build_put_shape(b, to, shape);
    if (with_operands && b->many) build_put16(to, value);
    if (with_operands && !b->many) build_put8(to, value);
    build_put_text(to, first->text);
}

/* Whether entries carry operands: where more than one command is alone with its first word. */
static bool operands_pay(const struct build *b, const GArray *all)
{
    unsigned singles = 0;
    for (unsigned i = 0; i < all->len; i++) singles += graph_ends(first_at(all, i)->to) == 1;
    return !b->by_group && singles > 1;
}

/* The root begins here. Where a command may begin with a number, that stands before the first
 * words, which then are at an even offset again. */
static void begin_root(struct build *b, const GByteArray *number)
{
    GByteArray *to = b->image->bytes;
    build_align(to);
    build_set16(to, RLX_IMG_ROOT, to->len);
    if (!number) return;
    build_row(b, "a number first");
    build_put_all(to, number);
}

static void put_root_linear(struct build *b, const GArray *all, const GByteArray *number)
{
    GByteArray *entries = g_byte_array_new();
    bool with_operands = operands_pay(b, all);
    for (unsigned i = 0; i < all->len; i++)
        put_root_entry(b, entries, first_at(all, i), with_operands);
    begin_root(b, number);
    build_row(b, "the first words");
    build_need(b, RLX_BIT_WORDS);
    build_put8(b->image->bytes, RLX_OP_WORDS);
    build_put8(b->image->bytes, (1u + with_operands) * (b->many ? 2u : 1u));
    build_put16(b->image->bytes, entries->len);
    build_put_all(b->image->bytes, entries);
    g_byte_array_free(entries, TRUE);
}

/* Whether every first word is one command that calls, alone in its group. */
static bool groups_serve(const struct build *b, const struct hash_table *table)
{
    if (table->n_groups != b->root->words->len || b->root->number || b->root->glued->len ||
        b->root->choices->len)
        return false;
    for (unsigned i = 0; i < b->root->words->len; i++) {
        struct edge *edge = b->root->words->pdata[i];
        if (graph_ends(edge->to) != 1 || build_some_end(edge->to)->effect.kind != LEX_CALL)
            return false;
    }
    return true;
}

static void put_root_hashed(struct build *b, const GArray *all, const struct hash_table *table,
                            const GByteArray *number)
{
    unsigned n = all->len, n_groups = table->n_groups;
    bool with_operands = operands_pay(b, all);
    GByteArray **entry = g_new(GByteArray *, n);
    for (unsigned i = 0; i < n; i++) {
        const struct first *first = first_at(all, i);
        put_root_entry(b, entry[i] = g_byte_array_new(), first, with_operands);
        if (b->by_group)
            b->image->handlers->pdata[table->group_of[i]] = (void *)build_some_end(first->to);
    }
    GByteArray *to = b->image->bytes;
    build_need(b, RLX_BIT_HASH);
    begin_root(b, number);
    build_row(b, "the first words, hashed: %u groups, %u shifts", n_groups, table->n_shifts);
    b->image->hashed = to->len;
    build_put8(to, RLX_OP_HASH);
    build_put8(to, (1u + with_operands) * (b->many ? 2u : 1u));
    build_put16(to, table->n_shifts - 1);
    build_put16(to, n_groups);
    build_row(b, "shift of each bucket");
    for (unsigned i = 0; i < table->n_shifts; i++) build_put16(to, table->shifts[i]);
    build_row(b, "entries of each group");
    unsigned at = to->len;
    for (unsigned i = 0; i <= n_groups; i++) build_put16(to, 0);
    /* the words of each group, in their order: head[g], then next[] up to n */
    unsigned *head = g_new(unsigned, n_groups), *next = g_new(unsigned, n);
    for (unsigned g = 0; g < n_groups; g++) head[g] = n;
    for (unsigned i = n; i--; head[table->group_of[i]] = i) next[i] = head[table->group_of[i]];
    for (unsigned g = 0; g < n_groups; g++) {
        build_set16(to, at + 2 * g, to->len);
        for (unsigned i = head[g]; i < n; i = next[i]) {
            build_row(b, "%s", first_at(all, i)->text);
            build_put_all(to, entry[i]);
            g_byte_array_free(entry[i], TRUE);
        }
    }
    build_set16(to, at + 2 * n_groups, to->len);
    g_free(head);
    g_free(next);
    g_free(entry);
}

static bool put_root_words(struct build *b, const GArray *all, const GByteArray *number)
{
    unsigned n = all->len;
    struct hash_table table;
    if (n < HASH_FROM) {
        put_root_linear(b, all, number);
        return true;
    }
    GPtrArray *words = g_ptr_array_new();
    for (unsigned i = 0; i < n; i++) g_ptr_array_add(words, (char *)first_at(all, i)->text);
    bool found =
        n <= WORDS_MAX && hash_arrange(&table, (char *const *)words->pdata, n, b->lx->shorten);
    if (found) {
        b->by_group = groups_serve(b, &table);
        if (b->by_group) g_ptr_array_set_size(b->image->handlers, (int)n);
        put_root_hashed(b, all, &table, number);
    } else {
        lex_find(b->lx, LEX_D17, b->lx->place, "%u first words are more than the image can hold",
                 n);
    }
    if (n <= WORDS_MAX) hash_clear(&table);
    g_ptr_array_free(words, TRUE);
    return found;
}

/* The program of commands that begin with a number, to be skipped where none comes; an even count
 * of bytes. NULL: there is none. */
static GByteArray *root_numbers(struct build *b)
{
    if (!b->root->number && !b->root->glued->len) return NULL;
    GByteArray *to = g_byte_array_new();
    unsigned skip = build_put_numbers(b, to, b->root, RLX_OPERAND_INLINE);
    if (to->len & 1) {
        build_put8(to, 0);
        build_set16(to, skip, to->data[skip] + to->data[skip + 1] * 256u + 1);
    }
    return to;
}

static void put_root_number(struct build *b)
{
    GByteArray *number = g_byte_array_new();
    build_need(b, RLX_BIT_FAMILY); /* a first value stands for a first word */
    build_put_number(b, number, b->root->number);
    build_put_rest(b, number, b->root->after_number, RLX_OPERAND_INLINE);
    begin_root(b, number);
    g_byte_array_free(number, TRUE);
}

bool build_put_root(struct build *b)
{
    if (b->root->number && !b->root->words->len && !b->root->choices->len && !b->root->glued->len) {
        put_root_number(b);
        return true;
    }
    GByteArray *numbers = root_numbers(b);
    GArray *all = first_words(b->root);
    bool ok = put_root_words(b, all, numbers);
    g_array_free(all, TRUE);
    if (numbers) g_byte_array_free(numbers, TRUE);
    return ok;
}
