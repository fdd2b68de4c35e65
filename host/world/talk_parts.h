/* What the files of the conversation share: talk.c reads and says, talk_print.c prints, talk_air.c
 * has what goes through the air. */
#ifndef TALK_PARTS_H
#define TALK_PARTS_H

#include "aerial.h"
#include "device.h"
#include "draw.h"
#include "loads.h"
#include "serial.h"
#include "talk.h"

/* Steps of one channel that follow each other closely: the first and the last are told. */
struct ramp {
    struct sim_event step; /* the last one, not told yet where `held` */
    uint64_t at_us;
    unsigned held;
};

struct talk {
    struct lexicon *lx;
    const struct talk_options *options;
    FILE *out;
    struct world *world;
    struct device *device;
    struct loads *loads; /* NULL: the pins are all there is */
    struct draw draw;    /* of what the world does to the links */
    GPtrArray *ways;     /* struct way *: of the links on the air */
    GPtrArray *changes;  /* struct change *: what will be so */
    GPtrArray *presses;  /* struct press *: the buttons of all handsets */
    GPtrArray *serials;  /* struct serial *, by link */
    GPtrArray *heard;    /* GString *, by link: the line that is coming in */
    struct ramp ramp;
    char *typed; /* on a link for people: what comes back first, and is not told */
    unsigned link;
    uint64_t last_us; /* last byte on the link */
    bool started;     /* the device is switched on */
};

/* talk.c: the level at an input pin, from now on. */
void talk_set_pin(struct talk *t, unsigned pin, bool high);

/* talk_print.c */
/* The time, a mark, and whom it is about. */
void talk_stamp(struct talk *t, char mark, const char *what);
/* Text, with what cannot be seen as \xNN, and a line end. */
void talk_text(const struct talk *t, const char *text, size_t count);
/* Something was said (>) or came back (<). */
void talk_said(struct talk *t, unsigned link, char mark, const char *text, size_t count);
void talk_pin(struct talk *t, unsigned pin, bool high);
/* A step of a fade, ramp or slew; those that follow each other closely are told as a ramp... */
void talk_step(struct talk *t, struct sim_event event);
/* ...whose end is told now. */
void talk_tell_ramp(struct talk *t);
void talk_tone(struct talk *t, struct sim_event event);

/* talk_air.c */
/* A link on the air, and who speaks there. */
struct way {
    struct talk *talk;
    unsigned link;
    struct radio *radio;
    struct aerial *aerial;
    struct controller *controller; /* NULL: what is said is sent as it is... */
    unsigned sender;               /* ...from this node */
    const char *name;              /* of the controller */
    bool waits;                    /* it is not told yet what became of its command */
};
/* NULL: the link is perfect. */
struct way *talk_way(const struct talk *t, unsigned link);
/* What is so from the start, and what will be. */
void talk_begin_world(struct talk *t);
void talk_end_world(struct talk *t);
/* The state pins of bridges are as the world file says; after the device was switched on. */
void talk_bridges(struct talk *t);

/* talk_handset.c */
void talk_begin_handsets(struct talk *t);
/* A button goes down or up, a slider to a value. False: there is none of that name. */
bool talk_press(struct talk *t, const char *name, bool down);
bool talk_slide(struct talk *t, const char *name, const char *value);
/* What came over a link may light a lamp. */
void talk_lamps(struct talk *t, unsigned link, const char *text, size_t count);

#endif
