/* A board that is not simulated, at the other end of one of its links: its time is the real one,
 * and all that is known of it comes over that link. */
#ifndef OUTSIDE_H
#define OUTSIDE_H

#include "world/run/running.h"

/* How one gets there. Whoever opened it keeps it open as long as the device lives. */
struct outside_line {
    void *user;
    /* To the board. False: it is gone. */
    bool (*give)(void *user, const uint8_t *bytes, size_t count);
    /* Bytes from the board, after at most so many real microseconds; 0: there are none. */
    size_t (*take)(void *user, uint8_t *bytes, size_t most, uint64_t us);
    /* NULL, or why the board is gone. */
    const char *(*failure)(void *user);
    /* The chip starts anew; NULL: nobody can do that. False: it could not. */
    bool (*reset)(void *user);
    bool by_hand; /* a person does that, and is not asked again and again */
};

/* Only the link of this number leads to it. */
struct device *device_of_outside(struct world *world, const struct lexicon *lx,
                                 const struct outside_line *line, uint8_t link);

/* What is there by now comes in. Where something else paces the world; otherwise the world waits
 * for the real clock, see outside_paces(). */
void outside_come(struct device *device);
/* From now on the world waits for the real clock, and for the board. */
void outside_paces(struct device *device);

/* Whether it is one: its pins are not seen, and its inputs not pushed. */
bool device_is_outside(const struct device *device);

#endif
