/* A conversation that fails is cut down to the shortest one that still does, and written down as a
 * scene. */
#ifndef SHRINK_H
#define SHRINK_H

#include "drill/judge/session.h"

/* How a conversation failed. */
struct failing {
    unsigned move;
    char *expected, *came, *states;
    char *link, *heard; /* what the reference model sent there; NULL: it is not about that */
    const struct lex_output *out; /* of a difference, where it is about one */
    char *should, *is;            /* as in struct difference... */
    int64_t late_us;              /* ...and this... */
    struct at_wire wire;          /* ...and this */
    bool clocked;                 /* other clocks were tried... */
    unsigned clocks;              /* ...of shrink_clocked() */
    bool safer;                   /* which the firmware only makes safe by itself */
    bool differs; /* from the reference model; otherwise a guarantee is broken, or it died */
    bool died;
};
void failing_clear(struct failing *failing);

/* The shortest of conversations that are tried, of at most `most` moves together; `failing` becomes
 * how that fails. Owned by the caller. */
GArray *shrink(const struct setup *setup, const GArray *moves, struct failing *failing,
               unsigned most);
/* What a firmware showed in a conversation. */
struct shown {
    struct record *record;
    GString *states;
};
struct shown shown_new(const struct setup *setup);
void shown_free(struct shown *shown);
/* The first difference between what the lexicon's tables do with these moves and what the firmware
 * did; false: none. */
bool shrink_differs(const struct setup *setup, const GArray *moves, const struct shown *firmware,
                    struct failing *failing);

/* How much faster wrong clocks are, and with which of them, a bit each, the reference model does
 * the same as the firmware. */
#define SHRINK_CLOCKS 10
extern const double shrink_clocks[SHRINK_CLOCKS];
unsigned shrink_clocked(const struct setup *setup, const GArray *moves,
                        const struct shown *firmware);

/* The scene of a failure, with "LEXICON" and "WORLD" for the names of the files. Owned by
 * the caller. */
char *shrink_scene(const struct setup *setup, const GArray *moves, const struct failing *failing,
                   const char *title);
/* The conversation alone, in which whatever must be answered is answered. */
char *shrink_conversation(const struct setup *setup, const GArray *moves, const char *title);
/* The text in quotes. */
void shrink_put_text(GString *out, const char *text);
/* The conversation as people read it, its last `most` lines; char *. */
GPtrArray *shrink_around(const struct setup *setup, const GArray *moves, unsigned most);

#endif
