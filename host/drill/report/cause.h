/* Failures that have one cause stand together. */
#ifndef CAUSE_H
#define CAUSE_H

#include <jansson.h>
#include <stdbool.h>

/* Puts failures that look alike one behind the other, in the order of the first of each, and into
 * each "alike", how many look like it, and "nth", which of them this is, from 1 on. */
void causes_sort(json_t *failures);
/* The causes that can be named: an array of `cause`, in words, and `failures`, how many point at
 * it; the most first. A failure gets its `cause`, too. Of a real board only answers are known.
 * Owned by the caller. */
json_t *causes_named(json_t *failures, bool board);

/* Whether the firmware did not go on. */
bool cause_is_death(const json_t *failure);

/* broken.c: the causes of those that are about contracts. */
typedef void (*cause_points)(void *user, json_t *failure, const char *cause);
void causes_of_contracts(json_t *failures, cause_points points, void *user);

/* wiring.c: those that many failures show together. */
void causes_of_many(json_t *failures, cause_points points, void *user);

#endif
