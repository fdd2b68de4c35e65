/* What the lexicon alone tells of an answer and of an output. */
#ifndef EXPECT_H
#define EXPECT_H

#include "world/boards/bench.h"
#include "drill/cases/tries.h"

/* How the answer begins to what is not valid; NULL: with some error. */
const char *expect_error(const struct lexicon *lx, const struct drill_try *try);
/* Whether the answer to what is valid has the words that were said. */
bool expect_words(const struct lexicon *lx, const struct drill_try *try, const char *answer);
/* Whether the output that it tells is as it was told; false: *wanted, owned by the caller. */
bool expect_output(const struct lexicon *lx, const struct drill_try *try, const struct board *board,
                   char **wanted);

#endif
