/* What follows from the lexicon alone for an answer and an output. */
#ifndef EXPECT_H
#define EXPECT_H

#include "world/boards/bench.h"
#include "drill/cases/cases.h"

/* How the answer begins to what is not valid; NULL: with some error. */
const char *expect_error(const struct lexicon *lx, const struct drill_case *test);
/* Whether the answer to a valid text has its words. */
bool expect_words(const struct lexicon *lx, const struct lex_link *link,
                  const struct drill_case *test, const char *answer);
/* Whether the output is as commanded; false: *wanted, owned by the caller. */
bool expect_output(const struct lexicon *lx, const struct drill_case *test,
                   const struct board *board, char **wanted);

#endif
