/* What the files of the conversation share: talk.c reads and sends, talk_tool.c has the lines for
 * the tool, talk_status.c tells how all is, talk_print.c prints. */
#ifndef TALK_PARTS_H
#define TALK_PARTS_H

#include "world/boards/bench.h"
#include "world/talk/talk.h"

/* Steps of one channel that follow each other closely: the first and the last are printed. */
struct ramp {
    const struct board *board;
    struct sim_event step; /* the last one, not printed yet if `held` */
    uint64_t at_us;
    unsigned held;
};

struct talk {
    const struct talk_options *options;
    FILE *out;
    struct bench *bench;
    struct end *end;         /* that is talked over... */
    struct speaker *speaker; /* ...or who sends it; NULL: it is sent as it is */
    struct ramp ramp;
    struct world_file *world; /* with what "! now" has changed; NULL: nothing */
};

/* talk.c: a line for the tool that is none. */
void talk_mistyped(struct talk *t, const char *line, const char *wanted);
/* Until the device has answered, where the clock does not go by itself. */
void talk_wait_for(struct talk *t, struct end *end);

/* talk_tool.c: what stands behind "! "; false: it is nothing of this. */
bool talk_act(struct talk *t, const char *line);
/* What its first word was probably meant to be: "; did you mean 'upper'?", or "". Owned by the
 * caller. */
char *talk_meant(const struct talk *t, const char *line);

/* talk_status.c: prints how all is by now. */
void talk_status(const struct talk *t);

/* talk_print.c */
/* The time, a mark, and whom it is about. */
void talk_stamp(struct talk *t, char mark, const char *what);
/* Text, with what cannot be seen as \xNN, and a line end. */
void talk_text(const struct talk *t, const char *text, size_t count);
/* Prints the end of a ramp now. */
void talk_tell_ramp(struct talk *t);
/* The same of one whose next step did not come. */
void talk_tell_old_ramp(struct talk *t);
/* Watchers of the bench; their user is the conversation. */
void talk_print(void *talk, const struct sight *sight);
void talk_print_plain(void *talk, const struct sight *sight);

#endif
