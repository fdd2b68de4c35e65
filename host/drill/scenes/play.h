/* Plays scenes: each in a world of its own, from power-up on. */
#ifndef PLAY_H
#define PLAY_H

#include "world/boards/bench.h"
#include "drill/scenes/scene.h"

#define PLAY_START_US UINT64_C(3000000) /* a scene begins so long after power-up */

struct play_options {
    const char *firmware;             /* instead of the file's; NULL: that of the file */
    const struct outside_line *board; /* a real one; NULL: it is simulated... */
    unsigned board_link;              /* ...all that leads to it is this link... */
    const char *fingerprint;          /* ...and what it should say that it is */
    uint32_t seed;                    /* 0: that of the file */
    struct trace *trace;              /* NULL: nobody wants one... */
    bool states;                      /* ...and whether it has all that a page draws */
    bench_watcher watcher;            /* NULL: nobody watches, but... */
    void *watcher_user;
    void (*stepped)(void *user, unsigned number, uint64_t us); /* NULL; a step begins */
    int32_t clock_ppm; /* the device's clock is so much faster */
    bool idle;         /* stubs of handlers keep no contract */
    /* What is expected may come so much later than in the scene... */
    uint64_t late_us;
    unsigned late_part; /* ...and this part (1/N) of the time since power-up; 0: none */
};

struct play_result {
    bool passed;
    bool died;              /* the device no longer runs */
    struct lex_place place; /* of the step that failed */
    char *expected, *came;  /* there; NULL where all passed */
    char *left_out;         /* of a real board: why nobody can play it; NULL: it was played */
    unsigned unseen;        /* of a real board: steps that want its outputs seen */
    GPtrArray *around;      /* char *: the conversation before it, a line each */
    double took_s;          /* of virtual time */
    unsigned steps;         /* that were done */
    uint32_t seed;
};

/* Owned by the caller. */
struct play_result *play_scene(const struct scene_file *file, const struct scene *scene,
                               const struct play_options *options);
void play_result_free(struct play_result *result);

#endif
