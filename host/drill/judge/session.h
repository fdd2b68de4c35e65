/* A conversation on a bench of its own: what is done one after the other, and how each piece is
 * checked against the guarantees. */
#ifndef SESSION_H
#define SESSION_H

#include "lexicon/write/table_image.h"
#include "drill/judge/record.h"
#include "drill/cases/cases.h"

enum move_what {
    MOVE_SAY,  /* text: a frame over the link */
    MOVE_TYPE, /* text: bytes as they are; `frames` frames end in them */
    MOVE_FROM, /* text: who writes messages over the link from now on */
    MOVE_PUSH, /* text: an input; us: 1 its active level, 0 the other */
    MOVE_NOW,  /* text: a statement of the world file */
    MOVE_WAIT  /* us */
};

/* What the guarantees require for a text. */
enum owed {
    OWED_ANY,    /* nothing that could be judged */
    OWED_OK,     /* one answer, ok */
    OWED_ERR,    /* one answer, err, and nothing moves */
    OWED_ONE,    /* one answer, whatever it is */
    OWED_NONE,   /* no answer, and nothing moves */
    OWED_SILENT, /* no answer, but it is obeyed */
    OWED_PERHAPS /* the link is bad: at most one answer, and nothing but the command */
};

struct move {
    enum move_what what;
    unsigned link;
    char *text;
    uint64_t us;
    enum owed owed;
    unsigned frames;
    const struct drill_case *test; /* NULL: nothing more is known of it */
    bool excused; /* the link cannot detect damage: another command may be obeyed */
    bool after;   /* the fault is over: it is no part of the fault's figures */
    bool raw;     /* it is sent as it is, without an envelope of the session's */
    bool torn;    /* the frame, or its answer, may come as several */
    bool busy;    /* outputs may be on their way from an earlier command */
    bool calm;    /* it leads to where a conversation begins: neither judged nor compared */
};

struct setup {
    struct lexicon *lx;
    const struct image *image;
    const char *firmware;             /* NULL: the lexicon's tables */
    const struct outside_line *board; /* a real one, over this link; NULL: it is simulated */
    unsigned board_link;
    bool real;   /* the conversation is one with a real board, also where the model holds it... */
    bool resets; /* ...and the board is reset before */
    uint64_t slack_us; /* it may do things this much later than the reference model */
    int32_t clock_ppm; /* the clock of the reference model is so much faster */
    char *world;       /* statements */
    uint32_t seed;
    uint64_t after_us;    /* time for a second answer; 0: 50 ms */
    uint64_t patience_us; /* for an answer; 0: 5 s, of a text message 2 min */
};

struct result {
    unsigned move;
    const char *expected; /* NULL: it is as it must be */
    const char *came;
    const char *states; /* statements of a scene: outputs as they should be; "" */
    const char *answer; /* NULL: none */
    bool said;          /* it fitted the link */
    bool wrong;         /* something was done that was not commanded */
    bool acted;         /* an output changed, or a handler was called */
    uint64_t took_us;   /* to the answer */
};
/* Whether somebody else's code is held against the reference model: a program, or a real board. */
static inline bool setup_is_own(const struct setup *setup)
{
    return setup->firmware || setup->board;
}
typedef void (*session_told)(void *user, const struct move *move, const struct result *result);

struct session_options {
    session_told told;
    void *user;
    struct record *record; /* NULL: nobody compares */
    unsigned *reached;     /* becomes the number of the last move that was begun; NULL */
    GString *states;       /* becomes how the outputs are at the end, as a scene sees them; NULL */
    bench_watcher watcher; /* NULL: nobody watches */
    void *watcher_user;
};

/* Plays `moves`, an array of struct move. NULL, or why the device no longer runs; owned by the
 * caller. *took_us: of virtual time. */
char *session_run(const struct setup *setup, const GArray *moves,
                  const struct session_options *options, uint64_t *took_us);

GArray *moves_new(void);
/* The text is copied. Returns the move, for its other members. */
struct move *moves_add(GArray *moves, enum move_what what, unsigned link, const char *text);
struct move *moves_wait(GArray *moves, uint64_t us);
/* Those from `first` on, but not the `without` from `at` on. */
GArray *moves_copy(const GArray *moves, unsigned n, unsigned at, unsigned without);

/* The statements of a world in which somebody speaks on each radio. Owned by the caller. */
char *session_world(const struct lexicon *lx);
/* Whether a controller speaks over it, in that world. */
bool session_has_client(const struct lex_link *link);
/* The text with the code that the link wants before it, in an envelope with this tag where it is
 * wrapped. Owned by the caller. */
char *session_frame(const struct lexicon *lx, const struct lex_link *link, const char *text,
                    bool wrapped, unsigned tag);
/* Whether that is a board that says who it is without being asked. */
bool session_greets(const struct setup *setup, const struct sight *sight);
/* Most bytes of a frame's text over the link. */
size_t session_most(const struct lexicon *lx, const struct lex_link *link);

#endif
