/* The commands merged into one graph: what can come next after each word or value. */
#ifndef GRAPH_H
#define GRAPH_H

#include "lexicon/model.h"

struct node {
    const struct lex_command *end; /* the command that is complete here... */
    unsigned given;                /* ...with so many of its slots given */
    const struct lex_element *number;
    struct node *after_number;
    const struct lex_element *slot; /* a set, text or list: alone at its place */
    struct node *after_slot;
    GPtrArray *glued;   /* struct edge *: numbers that a word touches */
    GPtrArray *words;   /* struct edge *: words on their own */
    GPtrArray *choices; /* struct edge *: choice slots, all their words in one */
};

struct edge {
    const struct lex_element *element;
    const char *text; /* of a word: this one of its spellings; of a number: the word before it */
    struct node *to;
};

/* A fault if two commands cannot be distinguished. */
struct node *graph_build(struct lexicon *lx);
void graph_free(struct node *node);
/* The nth of the places that may follow; NULL: there are no more. */
struct node *graph_next(const struct node *node, unsigned n);
/* How many commands end below the node. */
unsigned graph_ends(const struct node *node);

#endif
