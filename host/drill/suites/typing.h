/* What is typed by hand. */
#ifndef TYPING_H
#define TYPING_H

#include "drill/suites/suite.h"

/* Texts of a line for people, corrected as they are typed; `plain`: struct drill_case *, texts that
 * are taken. */
void typing_people(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                   const GPtrArray *plain);
/* Every byte that is no key of a keypad's. */
void typing_keys(const struct drill *drill, const struct drill_job *job, struct yield *yield);

#endif
