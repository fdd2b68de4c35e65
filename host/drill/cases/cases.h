/* The test cases of a lexicon: texts, each with what it must lead to. */
#ifndef TRIES_H
#define TRIES_H

#include "lexicon/model.h"

enum case_why {
    CASE_PLAIN,
    CASE_HIGHEST,
    CASE_MIDDLE,
    CASE_BETWEEN,
    CASE_UNIT,
    CASE_BELOW,
    CASE_ABOVE,
    CASE_MOST,
    CASE_MORE,
    CASE_ZEROS,
    CASE_MORE_ZEROS,
    CASE_NO_NUMBER,
    CASE_ALL_OF_SET,
    CASE_SHORTEST,
    CASE_LONGEST,
    CASE_LONGER,
    CASE_UNQUOTED,
    CASE_CHOICE,
    CASE_NO_CHOICE,
    CASE_LEFT_OUT,
    CASE_SHORT_FORM, /* a word is cut to as few letters as may be */
    CASE_CUT,        /* behind a word */
    CASE_CUT_WORD,   /* within a word */
    CASE_EXTRA,
    CASE_OTHER_WORD,
    CASE_CAPITALS,
    CASE_MIXED,
    CASE_BLANKS,
    CASE_KEY
};
/* In words: "one above". */
extern const char *const try_whys[];

/* A text to send. */
struct drill_case {
    unsigned row;                 /* of the report */
    const struct lex_command *of; /* NULL: a query, a built-in word or a state is asked... */
    const char *word;             /* ...which `only` knows by this */
    char *text;
    char *says; /* the command that a key or code stands for; NULL: the text is it */
    bool valid; /* somebody takes it */
    enum case_why why;
    unsigned element; /* of the command, that it is about */
};

/* struct drill_case *, all that are tried of a lexicon, none twice; adds the rows of the report,
 * char *. */
GPtrArray *drill_cases(const struct lexicon *lx, GPtrArray *rows);
/* Those of a link's keys or codes: of digits each bound of what is valid, and one past it. */
GPtrArray *drill_keys(const struct lexicon *lx, const struct lex_link *link);
/* Those with a link's lead before them. */
GPtrArray *drill_led(const GPtrArray *cases, char lead);
/* The command in its text. */
static inline const char *drill_text(const struct drill_case *test)
{
    return test->says ? test->says : test->text;
}
/* Whether that link accepts it. */
bool drill_may_say(const struct lex_link *link, const struct drill_case *test);

#endif
