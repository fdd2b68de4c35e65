/* The events of a trace (JSON Lines, docs/world.md) in lanes: one for each link,
 * input and output, and for the messages of loads, lamps and modems. */
#ifndef TIMELINE_H
#define TIMELINE_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

enum lane_kind {
    LANE_LINK,   /* points have texts and marks */
    LANE_SWITCH, /* value 0 or 1 */
    LANE_LEVEL,  /* 0..1, or -1..1 */
    LANE_NUMBER, /* microseconds of a pulse, hertz: as text */
    LANE_NOTES   /* texts */
};

enum point_mark {
    POINT_SAID,     /* to the device... */
    POINT_ANSWERED, /* ...and from it */
    POINT_LOST,
    POINT_DAMAGED,
    POINT_TWICE,
    POINT_LATE,
    POINT_TOLD /* anything else */
};

struct point {
    uint64_t us;
    double value;
    char *text; /* NULL: none */
    enum point_mark mark;
};

struct lane {
    char *name;
    enum lane_kind kind;
    bool input;
    GArray *points;   /* struct point, by time */
    double low, high; /* of the values */
    /* which events it is made of; private */
    char *of;
    int number, direction, back;
    bool active_low, reversed;
    double duty, other, backwards;
};

/* A line of the trace, for the forms that have a line each. */
struct happening_line {
    uint64_t us;
    char *what, *name, *text;
    char *shown; /* the value in words; NULL: as it is */
};

struct timeline {
    char *lexicon;    /* NULL: the trace does not have it */
    GPtrArray *lanes; /* struct lane * */
    GArray *lines;    /* struct happening_line */
    uint64_t end_us;
    unsigned cut; /* the line that is cut off, the last one; 0: none is */
};

/* NULL (error is set): it cannot be read, or a line is none of a trace. */
struct timeline *timeline_read(const char *file, GError **error);
void timeline_free(struct timeline *timeline);

/* A picture 1280 points wide, as high as it takes, of the times from..to; PNG or SVG 1.1. */
bool timeline_picture(const struct timeline *timeline, const char *file, bool svg, uint64_t from_us,
                      uint64_t to_us, GError **error);
/* Lines for people; comma-separated values (RFC 4180); switches, levels and numbers as a value
 * change dump (IEEE 1364). Owned by the caller. */
char *timeline_text(const struct timeline *timeline, uint64_t from_us, uint64_t to_us);
char *timeline_csv(const struct timeline *timeline, uint64_t from_us, uint64_t to_us);
char *timeline_vcd(const struct timeline *timeline, uint64_t from_us, uint64_t to_us);

#endif
