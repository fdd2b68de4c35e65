/* The virtual clock: what happens when, in microseconds. Nothing in it looks at a real clock, so
 * the same input gives the same run; where a real board takes part, somebody paces it. */
#ifndef WORLD_H
#define WORLD_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

typedef void (*world_fn)(void *data, uint32_t argument);

struct world {
    uint64_t now_us;
    uint64_t count; /* of events so far: those of one moment happen in the order they were set */
    GSequence *queue;
    /* Where the clock is the real one: waits until then, or until something came in, and returns
     * when that is. NULL: time goes as fast as it is asked for. */
    uint64_t (*pace)(void *user, uint64_t at_us);
    void *pace_user;
};

struct world *world_new(void);
void world_free(struct world *world);

/* Calls fn(data, argument) at that time, or now where it is past. */
void world_at(struct world *world, uint64_t at_us, world_fn fn, void *data, uint32_t argument);

/* Runs the next event where it is not later than `until_us`; otherwise moves the clock there and
 * returns false. */
bool world_step(struct world *world, uint64_t until_us);

/* When the next event is due; UINT64_MAX: there is none. */
uint64_t world_next_us(const struct world *world);

#endif
