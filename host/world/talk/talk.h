/* A conversation with a device: lines in, what comes back and what the outputs do out. */
#ifndef TALK_H
#define TALK_H

#include <stdio.h>

#include "world/boards/bench.h"
#include "world/boards/trace.h"

struct talk_options {
    struct bench_options bench;
    const char *link;        /* NULL: the first */
    bool plain;              /* only the bytes the device sent on the link */
    bool raw;                /* input byte for byte, at the link's speed */
    bool prompt;             /* somebody sits there */
    bool wire;               /* what goes between a device and its modem is printed too */
    const char *from;        /* whose text messages the input is; NULL: of the first who may */
    struct trace *trace;     /* NULL: nobody wants one */
    bool bytes;              /* the trace has the bytes that reach the board */
    bool live;               /* its clock goes by itself: nothing is waited for */
    const char *where;       /* of a board outside: how one gets there */
    const char *fingerprint; /* of a board outside: what it should say that it is */
    bool *mistyped; /* becomes true where a line for the tool was none; NULL: nobody asks */
};

/* Reads `in` to its end. False: it could not begin, or the device failed (error is set). */
bool talk(struct lexicon *lx, const struct image *image, const struct talk_options *options,
          FILE *in, FILE *out, GError **error);

/* The same a line at a time. NULL: it could not begin (error is set). Options have to outlive it;
 * the board is not switched on yet. */
struct talk;
struct talk *talk_new(struct lexicon *lx, const struct image *image,
                      const struct talk_options *options, FILE *out, GError **error);
struct bench *talk_bench(struct talk *talk);
/* Over which link the next line goes, and by whom: its name, or that of a controller. */
struct end *talk_end(struct talk *talk);
const char *talk_over_name(const struct talk *talk);
/* Switches the board on. */
void talk_start(struct talk *talk);
/* How the outputs are and the clock, in at most so many characters. Owned by the caller. */
char *talk_glance(const struct talk *talk, unsigned width);
/* What may stand behind "! " here: "lean on|off", "slide glow N"; words in capitals stand for
 * something, those in brackets may be left out. Owned by the caller. */
GPtrArray *talk_tool_lines(const struct talk *talk);
/* A line of the input, without what ends it: for the device, or with a mark for the tool. */
void talk_line(struct talk *talk, const char *line, size_t count);
/* What rests is printed: the end of a ramp that is over, a line that nothing ended. */
void talk_settle(struct talk *talk);
void talk_free(struct talk *talk);

#endif
