/* Jobs done by several processes, each result a JSON value. A process that dies takes only its own
 * job with it. */
#ifndef WORKERS_H
#define WORKERS_H

#include <glib.h>
#include <jansson.h>
#include <stdbool.h>

struct workers {
    unsigned jobs;                             /* how many there are */
    unsigned processes;                        /* at most */
    json_t *(*work)(void *user, unsigned job); /* in a process of its own */
    /* In this one, as they are ready; NULL: the process died. False: the rest is left undone. */
    bool (*done)(void *user, unsigned job, json_t *result);
    void *user;
};

/* False: it was interrupted (SIGINT, SIGTERM), or by `done`. */
bool workers_run(const struct workers *workers);

#endif
