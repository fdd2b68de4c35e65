/* The report: what all jobs yielded, as one JSON object; every writer reads that. */
#ifndef MERGE_H
#define MERGE_H

#include "drill/suites/suite.h"

/* `results` by job, NULL where it was not done; `whole`: nobody interrupted it. */
json_t *merge_report(const struct drill *drill, json_t *const *results, bool whole);

#endif
