/* What the kinds of devices share: running.c has what is the same for all, tables.c the reference
 * model, lockstep.c a firmware program, outside.c a board that is not simulated. */
#ifndef RUNNING_PARTS_H
#define RUNNING_PARTS_H

#include "world/run/running.h"

struct device_kind {
    /* Gives it what it does not run for. False: it is over. */
    bool (*hand)(struct device *device, struct sim_event event);
    void (*run)(struct device *device);
    void (*start)(struct device *device, enum rlx_reset cause);
    /* Before it starts again; false: it could not. NULL: there is nothing to do. */
    bool (*begin)(struct device *device);
    void (*end)(struct device *device);  /* the chip stops; may be NULL */
    void (*free)(struct device *device); /* its own members */
    /* What is in its memory before it starts. NULL: it has its own. */
    void (*keep)(struct device *device, const uint8_t *nv, size_t count);
};
extern const struct device_kind device_tables, device_lockstep, device_outside;

struct device {
    const struct device_kind *kind;
    struct world *world;
    const struct lexicon *lx;
    device_out out;
    void *user;
    device_called called; /* NULL: nobody asks */
    void *called_user;
    device_heard heard; /* the same */
    void *heard_user;
    char *failure;
    int32_t ppm;       /* its clock is faster by these */
    uint32_t start_ms; /* of its clock, where the world's began... */
    uint32_t first_ms; /* ...and when it is switched on next */
    uint32_t wake;     /* number of the wake-up that counts */
    bool on;
    bool idle; /* its handlers are stubs, which keep no contract */
    bool paced[SIM_UARTS];
    bool pin_told[256], pin[256]; /* levels at inputs, which a reset does not change */
    uint64_t busy_us; /* code has run since the last sleep, by the clock that it reads */
    struct tables *tables;
    struct lockstep *lockstep;
    struct outside *outside;
};

void device_fail(struct device *device, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* Milliseconds that its clock has counted since the world began. */
uint64_t device_counted_ms(const struct device *device);
/* It runs again then. */
void device_wake_at(struct device *device, uint64_t at_us);
/* It sleeps for `ms` of its own clock, which counts whole milliseconds. */
void device_sleep(struct device *device, uint32_t ms);
/* What a reset does not change. */
void device_hand_wiring(struct device *device);

#endif
