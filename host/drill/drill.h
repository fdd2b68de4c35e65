/* Drills: the tests that follow from a lexicon alone. Each command over each link: every choice,
 * both ends of every range and one past each, cut short, too long, misspelt; judged by the
 * promises: what is valid is answered ok, once; what is not is answered err, once, and no output
 * changes. */
#ifndef DRILL_H
#define DRILL_H

#include "image.h"
#include "lexicon.h"

/* A text that is said. */
struct drill_try {
    unsigned row;                 /* of the report */
    const struct lex_command *of; /* NULL: a query, a built-in word or a state is asked... */
    const char *word;             /* ...which `only` knows by this */
    char *text;
    bool valid;      /* somebody takes it */
    const char *why; /* what is tried by it */
};

/* struct drill_try *, all that are tried of a lexicon, none twice; adds the rows of the report,
 * char *. */
GPtrArray *drill_tries(const struct lexicon *lx, GPtrArray *rows);

/* What became of a command over a link. */
struct drill_cell {
    unsigned tries, passed;
};

struct drill_failure {
    unsigned row, link;
    char *text, *expected, *came;
    const char *why;
};

struct drill_report {
    const struct lexicon *lx;
    GPtrArray *rows; /* char *: a command, query, built-in word */
    unsigned n_links;
    struct drill_cell *cells; /* by row, then link */
    char **left_out;          /* of each link why it was not drilled; NULL: it was */
    GArray **reply_us;        /* of each link uint32_t: its reply times, in order */
    GPtrArray *failures;      /* struct drill_failure * */
    unsigned tries, failed;
    char *failure; /* why the device no longer runs; NULL */
};

struct drill_options {
    const char *firmware; /* NULL: the lexicon's tables */
    const char *link;     /* only this one; NULL: all */
};

struct drill_report *drill(struct lexicon *lx, const struct image *image,
                           const struct drill_options *options);
void drill_report_free(struct drill_report *report);

#endif
