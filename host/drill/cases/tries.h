/* What is tried of a lexicon: texts, each with what the lexicon says of it. */
#ifndef TRIES_H
#define TRIES_H

#include "lexicon/model.h"

enum try_why {
    TRY_PLAIN,
    TRY_HIGHEST,
    TRY_MIDDLE,
    TRY_BETWEEN,
    TRY_UNIT,
    TRY_BELOW,
    TRY_ABOVE,
    TRY_MOST,
    TRY_MORE,
    TRY_ZEROS,
    TRY_MORE_ZEROS,
    TRY_NO_NUMBER,
    TRY_ALL_OF_SET,
    TRY_SHORTEST,
    TRY_LONGEST,
    TRY_LONGER,
    TRY_UNQUOTED,
    TRY_CHOICE,
    TRY_NO_CHOICE,
    TRY_LEFT_OUT,
    TRY_SHORT_FORM, /* a word is cut to as few letters as may be */
    TRY_CUT,        /* behind a word */
    TRY_CUT_WORD,   /* within a word */
    TRY_EXTRA,
    TRY_OTHER_WORD,
    TRY_CAPITALS,
    TRY_MIXED,
    TRY_BLANKS,
    TRY_KEY
};
/* In words: "one above". */
extern const char *const try_whys[];

/* A text that is said. */
struct drill_try {
    unsigned row;                 /* of the report */
    const struct lex_command *of; /* NULL: a query, a built-in word or a state is asked... */
    const char *word;             /* ...which `only` knows by this */
    char *text;
    char *says; /* the command that a key or code stands for; NULL: the text is it */
    bool valid; /* somebody takes it */
    enum try_why why;
    unsigned element; /* of the command, that it is about */
};

/* struct drill_try *, all that are tried of a lexicon, none twice; adds the rows of the report,
 * char *. */
GPtrArray *drill_tries(const struct lexicon *lx, GPtrArray *rows);
/* Those of a link's keys or codes: of digits each bound of what is valid, and one past it. */
GPtrArray *drill_keys(const struct lexicon *lx, const struct lex_link *link);
/* Those with a link's lead before them. */
GPtrArray *drill_led(const GPtrArray *tries, char lead);
/* The command that it says. */
static inline const char *drill_says(const struct drill_try *try)
{
    return try->says ? try->says : try->text;
}
/* Whether it may be said over that link. */
bool drill_may_say(const struct lex_link *link, const struct drill_try *try);

#endif
