/* What the files of the loads share. */
#ifndef LOAD_PARTS_H
#define LOAD_PARTS_H

#include "world/loads/loads.h"

#define LOAD_FULL 32767 /* of a shaft's drive and speed */

/* A relay's contact. */
struct contact {
    bool coil, closed, welded;
    unsigned wear, version; /* version: of what is on its way to it */
};

/* What turns. */
struct shaft {
    int32_t drive, speed; /* -LOAD_FULL..LOAD_FULL */
    bool brakes, jammed, stalls, ticking, open, closed;
    int64_t place, most, beyond; /* most: its other end, 0: it has none; beyond: up to its stop */
};

struct load {
    const struct lex_output *out;
    struct loads *all;
    struct contact contact[2]; /* of a reverser: open, close */
    struct shaft shaft[2];     /* of a pair: left, right */
    struct {
        unsigned duty, other;
        bool direction, brake;
    } wires[2];
    unsigned duty;         /* of a lamp */
    bool dead;             /* a lamp */
    unsigned pulse, horn;  /* of a servo: commanded, and where it is */
    bool far;              /* it has to go some way, not a step of its slew */
    struct sim_steps run;  /* of a stepper: its pulses, */
    unsigned taken;        /* how many of them it followed already, */
    int32_t steps;         /* and where it is */
    bool back, free, ends; /* its direction, whether it has no current; it is at a stop */
};

struct sensor {
    const struct lex_input *in;
    struct loads *all;
    bool on, stuck, cut; /* on: what moves it has it so */
    unsigned version;
};

struct loads {
    struct world *world;
    const struct lexicon *lx;
    struct loads_ends ends;
    uint32_t seed;
    struct load *loads;
    struct sensor *sensors;
    unsigned shorts, stalls;
};

/* What hangs on a kind of output: a file each. */
enum load_break { LOAD_WELD = 1, LOAD_JAM = 2, LOAD_DEAD = 4 };
struct load_kind {
    void (*begin)(struct load *load); /* NULL: nothing */
    void (*out)(struct load *load, struct sim_event event);
    unsigned breaks; /* what can happen to it */
    int (*place)(const struct load *load);
};
#define LOAD_DECLARE(id, word, drive) extern const struct load_kind load_kind_##word;
RLX_OUTPUT_KINDS(LOAD_DECLARE)
#undef LOAD_DECLARE

/* 0..below - 1 */
uint32_t load_draw(struct loads *loads, uint32_t below);
void load_tell(const struct load *load, const char *what);
/* The time in so many microseconds. */
uint64_t load_in_us(const struct load *load, uint64_t us);
int32_t load_nearer(int32_t from, int32_t to, int32_t step);

/* sensors.c */
struct sensor *load_sensor(struct loads *loads, const char *name); /* NULL: none */
void load_set_sensor(struct sensor *sensor, bool on);
void load_show_sensor(const struct sensor *sensor, bool on);
/* "stick", "cut", "mend". False: another. */
bool load_break_sensor(struct sensor *sensor, const char *how);

/* contacts.c: a coil, and the contact that follows it. */
void load_set_coil(struct load *load, unsigned which, bool on);

/* shafts.c */
void load_drive_shaft(struct load *load, unsigned side, int32_t drive, bool brakes);
void load_wake_shaft(struct load *load, unsigned side);
/* What the contacts of a reverser do to it. */
void load_contacts_changed(struct load *load);

#endif
