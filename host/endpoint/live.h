/* A bench on the real clock, or on a factor of it: what is due by now happens, in the order and at
 * the virtual times that it would have without it. A wake-up that comes late is caught up; nothing
 * of the virtual time is lost. */
#ifndef LIVE_H
#define LIVE_H

#include "world/boards/bench.h"

#define LIVE_SPEED_LEAST 0.001
#define LIVE_SPEED_MOST  100000.0

struct live;

/* `speed`: virtual seconds in a real one. `after` is called when all that is due was done. */
struct live *live_new(struct bench *bench, double speed, void (*after)(void *user), void *user);
void live_free(struct live *live);

/* All that is due by now happens: call it before and after something comes in from outside. */
void live_now(struct live *live);
/* From now on so fast; 0: it stands. */
void live_pace(struct live *live, double speed);
double live_speed(const struct live *live);
/* While it stands: what happens next happens. False: nothing will. */
bool live_step(struct live *live);
/* Goes on until live_quit(), a failure of the bench, a signal that ends a program, or this virtual
 * time; UINT64_MAX: for ever. False: a signal ended it. */
bool live_run(struct live *live, uint64_t until_us);
void live_quit(struct live *live);
/* Asked at Ctrl-C: true where something else was stopped, and it goes on. */
void live_on_break(struct live *live, bool (*stops)(void *user));

#endif
