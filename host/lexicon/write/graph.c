/* The commands as a graph of words and slots, from which the image is made.
 * Commands that begin alike share their nodes.
 * It writes no byte. */
#include "lexicon/write/graph.h"

#include <string.h>

#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"

static struct node *node_new(void)
{
    struct node *node = g_new0(struct node, 1);
    node->words = g_ptr_array_new_with_free_func(g_free);
    node->choices = g_ptr_array_new_with_free_func(g_free);
    node->glued = g_ptr_array_new_with_free_func(g_free);
    return node;
}

struct node *graph_next(const struct node *node, unsigned n)
{
    const GPtrArray *edges[] = {node->words, node->choices, node->glued};
    for (unsigned i = 0; i < G_N_ELEMENTS(edges); n -= edges[i++]->len)
        if (n < edges[i]->len) return ((struct edge *)edges[i]->pdata[n])->to;
    if (node->after_number && !n--) return node->after_number;
    return n ? NULL : node->after_slot;
}

void graph_free(struct node *node)
{
    if (!node) return;
    struct node *next;
    for (unsigned i = 0; (next = graph_next(node, i)); i++) graph_free(next);
    g_ptr_array_free(node->words, TRUE);
    g_ptr_array_free(node->choices, TRUE);
    g_ptr_array_free(node->glued, TRUE);
    g_free(node);
}

unsigned graph_ends(const struct node *node)
{
    unsigned ends = node->end != NULL;
    struct node *next;
    for (unsigned i = 0; (next = graph_next(node, i)); i++) ends += graph_ends(next);
    return ends;
}

static struct node *edge_add(GPtrArray *edges, const struct lex_element *element, const char *text)
{
    struct edge *edge = g_new0(struct edge, 1);
    edge->element = element;
    edge->text = text;
    edge->to = node_new();
    g_ptr_array_add(edges, edge);
    return edge->to;
}

static bool choice_has(const struct lex_element *choice, const char *word)
{
    return g_ptr_array_find_with_equal_func(choice->words, word, g_str_equal, NULL);
}

static bool same_choice(const struct lex_element *a, const struct lex_element *b)
{
    if (a->words->len != b->words->len || !a->outputs != !b->outputs) return false;
    for (unsigned i = 0; i < a->words->len; i++)
        if (strcmp(a->words->pdata[i], b->words->pdata[i]) != 0) return false;
    return true;
}

/* A word that both choices have, or NULL. */
static const char *common_word(const struct lex_element *a, const struct lex_element *b)
{
    for (unsigned i = 0; i < a->words->len; i++)
        if (choice_has(b, a->words->pdata[i])) return a->words->pdata[i];
    return NULL;
}

static struct node *clash(struct lexicon *lx, const struct lex_element *e, const char *word)
{
    lex_find(
        lx, LEX_D01, e->place,
        "'%s' can stand here in an earlier command too, but not as part of the same choice: use "
        "another word, or write both alike",
        word);
    return NULL;
}

static bool same_range(const struct lex_element *a, const struct lex_element *b)
{
    return a->form == b->form && a->decimals == b->decimals && a->bare == b->bare &&
           a->low == b->low && a->high == b->high && a->scaled == b->scaled &&
           a->to_low == b->to_low && a->to_high == b->to_high && !g_strcmp0(a->unit, b->unit) &&
           !g_strcmp0(a->from, b->from) && !g_strcmp0(a->upto, b->upto) && a->glued == b->glued;
}

static struct node *two_numbers(struct lexicon *lx, const struct lex_element *e,
                                const struct lex_element *before)
{
    char *range = lex_range_text(before);
    lex_find(
        lx, LEX_D02, e->place,
        "an earlier command has another number here, %s%s%s, and it would have to be known at once "
        "which is meant",
        before->prefix ? before->prefix : "", range, before->unit ? before->unit : "");
    g_free(range);
    return NULL;
}

/* A number that a word touches. */
static struct node *step_glued(struct lexicon *lx, struct node *node, const struct lex_element *e)
{
    for (unsigned i = 0; i < node->glued->len; i++) {
        struct edge *edge = node->glued->pdata[i];
        if (strcmp(edge->text, e->prefix) != 0) continue;
        return same_range(edge->element, e) ? edge->to : two_numbers(lx, e, edge->element);
    }
    return edge_add(node->glued, e, e->prefix);
}

static struct node *step_number(struct lexicon *lx, struct node *node, const struct lex_element *e)
{
    if (e->prefix) return step_glued(lx, node, e);
    if (!node->number) {
        node->number = e;
        return node->after_number = node_new();
    }
    return same_range(node->number, e) ? node->after_number : two_numbers(lx, e, node->number);
}

static bool same_slot(const struct lex_element *a, const struct lex_element *b)
{
    if (a->kind != b->kind || a->rest != b->rest || a->most != b->most || !same_range(a, b))
        return false;
    if (!a->words) return true;
    bool same = a->words->len == b->words->len;
    for (unsigned i = 0; same && i < a->words->len; i++)
        same = !strcmp(a->words->pdata[i], b->words->pdata[i]);
    return same;
}

/* A slot that is alone at its place. */
static struct node *step_alone(struct lexicon *lx, struct node *node, const struct lex_element *e)
{
    if (!node->slot) {
        node->slot = e;
        return node->after_slot = node_new();
    }
    if (same_slot(node->slot, e)) return node->after_slot;
    char *text = lex_element_text(node->slot);
    lex_find(lx, LEX_D18, e->place, "an earlier command has %s here", text);
    g_free(text);
    return NULL;
}

/* The node behind a choice: shared by commands with the very same words. */
static struct node *step_choice(struct lexicon *lx, struct node *node, const struct lex_element *e)
{
    for (unsigned i = 0; i < node->choices->len; i++) {
        struct edge *edge = node->choices->pdata[i];
        if (same_choice(edge->element, e)) return edge->to;
        const char *word = common_word(edge->element, e);
        if (word) return clash(lx, e, word);
    }
    for (unsigned i = 0; i < node->words->len; i++) {
        const char *word = ((struct edge *)node->words->pdata[i])->text;
        if (choice_has(e, word)) return clash(lx, e, word);
    }
    return edge_add(node->choices, e, NULL);
}

static struct node *step_word(struct lexicon *lx, struct node *node, const struct lex_element *e,
                              char *text, GHashTable *root_words)
{
    struct node *to = root_words ? g_hash_table_lookup(root_words, text) : NULL;
    for (unsigned i = 0; !root_words && i < node->words->len; i++) {
        struct edge *edge = node->words->pdata[i];
        if (!strcmp(edge->text, text)) return edge->to;
    }
    for (unsigned i = 0; i < node->choices->len; i++) {
        struct edge *edge = node->choices->pdata[i];
        if (choice_has(edge->element, text)) return clash(lx, e, text);
    }
    if (to) return to;
    to = edge_add(node->words, e, text);
    if (root_words) g_hash_table_insert(root_words, text, to);
    return to;
}

static void add_end(struct lexicon *lx, struct node *node, const struct lex_command *command,
                    unsigned given)
{
    if (node->end) {
        char *text = lex_command_text(command);
        lex_find(lx, LEX_D03, command->place, "'%s' is there already, in line %u", text,
                 node->end->place.line);
        g_free(text);
        return;
    }
    node->end = command;
    node->given = given;
}

/* The command from its element number i on, behind this node. Where the rest may be left out it
 * ends here too; a filler word is passed by. */
static void add_command(struct lexicon *lx, struct node *node, const struct lex_command *command,
                        unsigned i, unsigned given, GHashTable *root_words)
{
    if (i == command->elements->len) {
        add_end(lx, node, command, given);
        return;
    }
    const struct lex_element *e = command->elements->pdata[i];
    if (e->optional) add_end(lx, node, command, given);
    if (e->filler) add_command(lx, node, command, i + 1, given, NULL);
    if (e->kind == LEX_WORD) {
        for (unsigned k = 0; k < lex_spellings(e); k++) {
            struct node *next = step_word(lx, node, e, lex_spelling(e, k), root_words);
            if (next) add_command(lx, next, command, i + 1, given, NULL);
        }
        return;
    }
    struct node *next = NULL;
    switch (lex_slot_of(e)->share) {
    case LEX_SHARE_WORD: break;
    case LEX_SHARE_NUMBER: next = step_number(lx, node, e); break;
    case LEX_SHARE_CHOICE: next = step_choice(lx, node, e); break;
    case LEX_SHARE_ALONE: next = step_alone(lx, node, e); break;
    }
    if (next) add_command(lx, next, command, i + 1, given + 1, NULL);
}

/* A word that looks like a number and the word before it. */
static void check_glued(struct lexicon *lx, const struct edge *glued, const struct edge *edge)
{
    const struct lex_element *e = edge->element;
    unsigned n = edge->text || !e->words ? 1 : e->words->len;
    for (unsigned i = 0; i < n; i++) {
        const char *word = edge->text ? edge->text : e->words->pdata[i];
        char *cut = lex_cut_to_number(lx, word, glued->element);
        if (cut)
            lex_find(lx, LEX_D01, e->place, "'%s' is a number behind '%s' in another command, too",
                     cut, glued->text);
        g_free(cut);
    }
}

/* A number among a choice's words and a slot's number: the parser takes digits for the slot's. */
static void check_digits(struct lexicon *lx, const struct node *node)
{
    for (unsigned i = 0; node->number && i < node->choices->len; i++) {
        const struct lex_element *e = ((struct edge *)node->choices->pdata[i])->element;
        for (unsigned k = 0; k < e->words->len; k++) {
            if (!lex_is_digits(e->words->pdata[k])) continue;
            char *range = lex_range_text(node->number);
            lex_find(lx, LEX_D01, e->place,
                     "another command has a number here, %s, and '%s' is one, too", range,
                     (char *)e->words->pdata[k]);
            g_free(range);
            return;
        }
    }
}

/* A slot that is alone has its place for itself: the parser reads it without looking on. */
static void check_slots(struct lexicon *lx, const struct node *node)
{
    struct node *next;
    if (node->slot &&
        (node->number || node->glued->len || node->words->len || node->choices->len)) {
        char *text = lex_element_text(node->slot);
        lex_find(lx, LEX_D18, node->slot->place,
                 "where %s stands, another command has a word or a number", text);
        g_free(text);
    }
    check_digits(lx, node);
    for (unsigned i = 0; i < node->glued->len; i++) {
        for (unsigned k = 0; k < node->words->len; k++)
            check_glued(lx, node->glued->pdata[i], node->words->pdata[k]);
        for (unsigned k = 0; k < node->choices->len; k++)
            check_glued(lx, node->glued->pdata[i], node->choices->pdata[k]);
    }
    for (unsigned i = 0; (next = graph_next(node, i)); i++) check_slots(lx, next);
}

struct node *graph_build(struct lexicon *lx)
{
    struct node *root = node_new();
    GHashTable *root_words = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < lx->commands->len; i++)
        add_command(lx, root, lx->commands->pdata[i], 0, 0, root_words);
    for (unsigned i = 0; i < lx->queries->len; i++) {
        struct lex_query *query = lx->queries->pdata[i];
        if (query->asked) add_command(lx, root, query->asked, 0, 0, root_words);
    }
    g_hash_table_destroy(root_words);
    check_slots(lx, root);
    return root;
}
