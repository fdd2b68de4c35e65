/* A bench: boards with a device on each, and what is at the other ends of their links, on one
 * virtual clock. Nothing in it reads or prints: it reports what happens to whoever watches it. */
#ifndef BENCH_H
#define BENCH_H

#include "world/media/aerial.h"
#include "world/run/outside.h"
#include "world/run/running.h"
#include "world/run/draw.h"
#include "lexicon/kind.h"
#include "lexicon/layout/sticks.h"
#include "world/loads/loads.h"
#include "world/modem/modem.h"
#include "world/media/reports.h"
#include "world/media/serial.h"
#include "world/boards/world_file.h"

struct bench_options {
    const char *firmware; /* program of the first board; NULL: the lexicon's own tables */
    const struct outside_line
        *outside;                   /* the first board is a real one; NULL: it is simulated... */
    unsigned outside_link;          /* ...and all that leads to it is this link */
    const struct world_file *world; /* what the links go through; NULL: they are perfect */
    bool loads;                     /* what hangs on the pins moves */
    bool idle;                      /* stubs of handlers answer, and keep no contract */
    bool single;                    /* senders of channels send each frame once, as in the drill */
    uint32_t seed;                  /* of its bounces */
    uint32_t start_ms;              /* what the devices' clocks begin with */
    int32_t clock_ppm;              /* how much faster the clock of the first one is */
};

struct bench;

/* A device, and what hangs on its pins. */
struct board {
    struct bench *bench;
    const char *name; /* ""; of the world file's boards their name */
    struct lexicon *lx;
    struct device *device;
    struct loads *loads; /* NULL: the pins are all there is */
    GPtrArray *ends;     /* struct end *, by link */
    bool started;
    struct lex_driven driven; /* by now */
};

/* Whether a sender of channels sends for ever: not yet, yes, no more from its next frame on. */
enum repeats { REPEATS_NONE, REPEATS_ON, REPEATS_OFF };

/* The other end of a link. */
struct end {
    struct board *board;
    unsigned link; /* its number... */
    const struct lex_link *of;
    char *name; /* "skiff", of the world file's boards "two.skiff" */
    struct serial *serial;
    GString *heard;  /* the line that is coming in */
    GString *report; /* that is coming back, as it is */
    char *typed;     /* on a link for people: the echo that comes back first, and is not reported */
    uint64_t last_us;      /* last byte from the device */
    struct end *wired;     /* another board's, on the same cable */
    struct medium *medium; /* the air; NULL: it is perfect, or none */
    struct aerial *aerial;
    unsigned tags;            /* of frames that a handset without a controller sent */
    struct sticks sticks;     /* of a sender of channels: where they stand... */
    bool sticks_new;          /* ...they must be at rest before the board obeys them... */
    uint64_t sticks_us;       /* ...when its last frame went; 0: none did... */
    enum repeats repeats;     /* ...by itself, too... */
    GPtrArray *frames;        /* ...those that wait, each for a silence behind the one before... */
    uint64_t free_us;         /* ...and when the next one may go */
    unsigned sender;          /* node that sends what no controller sends */
    struct reports *reports;  /* NULL: each report comes at once */
    bool changed, unplugged;  /* the world file has its port: as it is now */
    struct bridge *bridge;    /* that has to be connected; NULL: it is, or there is none */
    struct bridge *connected; /* what the sender is connected with, perhaps another one */
    struct sms_modem *modem;  /* of text messages; NULL: none is driven here... */
    struct sms_modem *unused; /* ...or a real one is there instead of this */
    char *number, *from;      /* its own, and that of who writes */
};

/* Somebody on the air who sends a command until it is answered. */
struct speaker {
    struct bench *bench;
    const char *name;
    struct end *end; /* it speaks to */
    struct controller *controller; /* NULL: it is an attacker... */
    unsigned waits; /* commands of which it does not know yet what became */
    struct radio *radio; /* ...which sends what it likes... */
    unsigned node;
    GPtrArray *recorded; /* ...and hears all packets: GBytes * */
};

enum sight_kind {
    SIGHT_SAID,     /* text went over a link: without what ends it */
    SIGHT_ANSWERED, /* a line, packet or message came back */
    SIGHT_BYTE,     /* a byte came back: event.value */
    SIGHT_REPORT,   /* a report of 64 bytes came back, as it is: a line, or a part of one */
    SIGHT_AIR,      /* what became of a packet: air */
    SIGHT_KNOWN,    /* a controller (name) knows: an answer, or an event */
    SIGHT_UNKNOWN,  /* nothing came back, and it tries no more */
    SIGHT_AWAY,     /* it has sent it as often as set, and waits for no answer */
    SIGHT_OUT,      /* what the device does at its pins: event */
    SIGHT_IN,       /* the level at an input pin: event */
    SIGHT_LOAD,     /* what hangs on an output or input (name) did */
    SIGHT_LAMP,     /* a lamp of a handset (name) */
    SIGHT_HANDSET,  /* a button or slider of it */
    SIGHT_BRIDGE,   /* a wireless bridge was connected, refused, left */
    SIGHT_LOST,     /* what a modem or a port of reports could not take */
    SIGHT_WIRE,     /* a line between device and modem; own: the device's */
    SIGHT_RESET,
    SIGHT_HEARD, /* bytes reached the device: event.kind is SIM_RECEIVED, SIM_FAULT or
                    SIM_PACKET_IN; only behind bench_hears() */
    SIGHT_BUSY,  /* its code ran for so long without a sleep: event.value, us */
    SIGHT_FIRST_OF_DEVICE = SIGHT_OUT
};

struct sight {
    enum sight_kind kind;
    const struct board *board;
    const struct end *end; /* NULL: about no link */
    const char *name;      /* whom it is about: of the link where there is one */
    const char *text;
    size_t count;         /* bytes of text */
    const uint8_t *bytes; /* that it went as, by a layout; NULL: it went as it is */
    size_t n_bytes;
    struct sim_event event;
    enum radio_event air;
    bool own; /* SIGHT_AIR: the device's own packet begins to be sent, reported as answered already
               */
    const char *number; /* of a text message: who wrote it, or who got it */
};
typedef void (*bench_watcher)(void *user, const struct sight *sight);

#define BENCH_WATCHERS 5

struct bench {
    struct world *world;
    const struct bench_options *options;
    struct draw draw;        /* of what the world does to cables */
    GPtrArray *boards;       /* struct board *, the first is the one of the command line */
    GPtrArray *ends;         /* struct end *, of all boards */
    GPtrArray *mediums;      /* struct medium * */
    GPtrArray *speakers;     /* struct speaker * */
    GPtrArray *bridges;      /* struct bridge * */
    struct network *network; /* of text messages; NULL: there are none */
    GPtrArray *changes;      /* struct change *: what will be so */
    GPtrArray *presses;      /* struct press *: the buttons of all handsets */
    struct {
        bench_watcher watcher;
        void *user;
    } watchers[BENCH_WATCHERS];
    unsigned n_watchers;
    bool byte_by_byte; /* lines for people are not waited for */
    uint64_t rest_at;  /* bench_tell_rests() has something to do then; UINT64_MAX: never */
};

/* Lexicon, image and options must outlive it. NULL: a board could not begin (error is set). */
struct bench *bench_new(struct lexicon *lx, const struct image *image,
                        const struct bench_options *options, GError **error);
void bench_free(struct bench *bench);
/* From before bench_start() on. */
void bench_watch(struct bench *bench, bench_watcher watcher, void *user);
/* From now on the watchers are told each byte that reaches a board: before bench_start(). */
void bench_hears(struct bench *bench);
/* Switches the boards on. */
void bench_start(struct bench *bench);
/* NULL, or why a board no longer runs. */
const char *bench_failure(const struct bench *bench);

/* "skiff", or "two.skiff"; NULL: there is none. */
struct end *bench_end(const struct bench *bench, const char *name);
struct speaker *bench_speaker(const struct bench *bench, const char *name);
/* The first controller that speaks to this link, or NULL. */
struct speaker *bench_speaker_to(const struct bench *bench, const struct end *end);

/* By the level at its pin. */
bool board_input_is_on(const struct board *board, const struct lex_input *in);
/* What its other end is: "up", "down", "connected", "unplugged"; NULL: nothing tells. */
const char *end_is(const struct end *end);

/* ---- sending ---- */

/* A line behind the lead of a link of keys, with its end. */
void bench_say_line(struct end *end, const char *text, size_t count);
/* One packet or report of these bytes, as they are. */
bool bench_say_bytes(struct end *end, const char *bytes, size_t count);
/* A frame with what ends it, sent without waiting. False: it is longer than its sender takes, or
 * too much waits already. */
bool bench_say(struct end *end, const char *text, size_t count);
bool speaker_say(struct speaker *speaker, const char *text);
/* An attacker sends the last packet once more that it heard and that fits, or, of a pattern without
 * '*', has it in it. False: none does. */
bool speaker_replay(struct speaker *speaker, const char *pattern);
/* The same as a sender of the link would send it: with address, tag and check around it, where no
 * controller does that. */
bool bench_say_around(struct end *end, const char *text);
/* Whether a text message can come from it: digits, or a name. */
bool bench_is_number(const char *number);
/* Who writes text messages over this link from now on. */
void bench_write_as(struct end *end, const char *number);
/* A statement of world_file_more() counts from now on. */
void bench_now(struct bench *bench, const struct world_file *more);
/* Somebody has typed this line or key, or sent this packet: it is told, and not sent. */
void bench_was_typed(struct end *end, const char *text, size_t count);
/* What became of the link's other end is told. */
void bench_is_met(struct end *end, const char *text);
/* Bytes as they are. */
void bench_type(struct end *end, const char *bytes, size_t count);
/* The level at an input pin, from now on. */
void bench_set_pin(struct board *board, unsigned pin, bool high);
/* An input goes on or off; with loads, what hangs on it. */
void bench_push(struct board *board, const struct lex_input *in, bool on);
/* A button goes down or up, a slider to a value. False: there is none of that name. */
bool bench_press(struct bench *bench, const char *name, bool down);
bool bench_slide(struct bench *bench, const char *name, const char *value);
/* A real modem is at this link from now on, instead of the one that stands in for it. */
void bench_no_modem(struct end *end);
/* The sender of this link connects with the wireless bridge of that name, or leaves it. */
void bench_connect(struct end *end, const char *name, const char *code);
void bench_leave(struct end *end);
/* The same with the bridge of the link itself, by its name and code; false: it has none. */
bool bench_connect_own(struct end *end);

/* ---- time ---- */

/* Lets time pass; ends early where a board fails. */
void bench_pass(struct bench *bench, uint64_t us);
/* ...until nothing goes over the link any more. */
void bench_until_quiet(struct end *end);
void bench_until_all_quiet(struct bench *bench);
/* ...until what is on the wires has come. */
void bench_until_said(struct bench *bench);
/* ...until the controller knows what became of all its commands. */
void bench_until_known(struct speaker *speaker);
/* Whether a device sends this by itself over the link: ev, note, ready, or what it sends there
 * instead, where it answers nothing with the same text. NULL: over any. */
bool bench_is_unasked(const struct lex_link *link, const char *text);
/* What came and no line end ended is reported as it is, if the line was silent since. */
void bench_tell_rests(struct bench *bench);
/* A line that is not ended, reported as it is. */
void bench_tell_rest(struct end *end);

#endif
