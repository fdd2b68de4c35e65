/* What the files of the bench share: bench.c has boards and ends, bench_say.c sending and how
 * long it takes, bench_world.c the world file, bench_bridge.c wireless bridges,
 * bench_messages.c modems for text messages, bench_handset.c buttons and lamps. */
#ifndef BENCH_PARTS_H
#define BENCH_PARTS_H

#include "world/run/keys.h"
#include "world/boards/bench.h"

/* An air that several share. */
struct medium {
    struct bench *bench;
    struct radio *radio;
    struct end *first; /* whose name it has */
};

/* A wireless bridge in range: of a link, or a stranger's. */
struct bridge {
    const struct world_bridge *is;
    struct end *end;     /* NULL: a stranger's */
    struct end *partner; /* whose sender is connected with it; NULL: nobody */
    uint32_t version;    /* of the time after which it notices that nobody is there */
};

/* bench.c */
void bench_tell(struct bench *bench, const struct sight *sight);
void bench_tell_text(struct end *end, enum sight_kind kind, const char *text, size_t count);
/* The same of a text that went as these bytes. */
void bench_tell_bytes(struct end *end, enum sight_kind kind, const char *text, const uint8_t *bytes,
                      size_t n_bytes);
/* Told with a name of its own. */
void bench_tell_about(struct board *board, struct end *end, enum sight_kind kind, const char *name,
                      const char *text);

/* bench_world.c */
void bench_begin_world(struct bench *bench);
void bench_end_world(struct bench *bench);
/* Switches a board on, with what its loader does before. */
void bench_power(struct board *board, enum rlx_reset cause);
/* The state pin of a link, after its board was switched on. */
void bench_show_state(struct end *end);

/* bench_sticks.c */
/* A sender of channels does what the text says: false, and it is reported, where it cannot. */
bool bench_move_sticks(struct end *end, const char *text);
/* Whether its sender sends for ever: the link is never quiet. */
bool bench_repeats(const struct end *end);
/* A frame that waits. */
void bench_free_frame(void *frame);
/* The board forgets where they stood: it starts, or was told to halt. */
void bench_renew_sticks(struct board *board);

/* bench_bridge.c */
void bench_begin_bridges(struct bench *bench);
/* This pin of the board has another level: it may hang up bridges. */
void bench_hang_up(struct board *board, unsigned pin);
/* The other side came into reach or went out of it. */
void bench_reach(struct end *end);

/* bench_messages.c */
void bench_begin_modem(struct end *end);
/* How its modem and the network behave from now on. */
void bench_sms(struct end *end, const struct world_sms *sms);
bool bench_write(struct end *end, const char *text);
/* Until no message is under way or in hand. */
void bench_until_messages(struct end *end);

/* bench_handset.c */
void bench_begin_handsets(struct bench *bench);
/* What came over a link may light a lamp. */
void bench_lamps(struct end *end, const char *text, size_t count);

#endif
