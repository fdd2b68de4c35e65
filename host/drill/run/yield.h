/* What a job yields, as one line of JSON: cells, failures, what was covered. */
#ifndef YIELD_H
#define YIELD_H

#include "drill/suites/suite.h"

struct yield *yield_new(void);
/* Frees it. Owned by the caller. */
json_t *yield_json(struct yield *yield);

#endif
