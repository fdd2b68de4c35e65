/* A device of a lexicon's image on the simulated board, without a world: bytes go straight into
 * the links, and what comes back is collected. */
#ifndef RIG_H
#define RIG_H

#include "lexicon/write/table_image.h"
#include "rlx/port.h"
#include "rlx/rlx.h"
#include "rlx/image.h"
#include "sim/sim.h"

#define RIG_LINKS 6

/* With RLX_FIXED its memory is laid out as that of the emitted struct, and no larger. */
#if RLX_FIXED
#define RIG_MOST(fixed, most) fixed
#else
#define RIG_MOST(fixed, most) most
#endif
#if !RLX_FIXED || RLX_FIXED_OUTPUTS
#define RIG_OUTPUTS
#endif
#if RLX_HAS_SETTINGS && (!RLX_FIXED || RLX_FIXED_SETTING_TEXTS)
#define RIG_TEXTS
#endif

struct rig {
    struct rlx_device device;
    struct rlx_link link[RIG_MOST(RLX_FIXED_LINKS, RIG_LINKS)];
#ifdef RIG_OUTPUTS
    RLX_OUTPUTS(RIG_MOST(RLX_FIXED_OUTPUTS, 256));
#endif
#if RLX_HAS_INPUTS
    struct rlx_input input[RIG_MOST(RLX_FIXED_INPUTS, 16)];
#endif
#if RLX_HAS_ROUTINES
    struct rlx_routine routine[RIG_MOST(RLX_FIXED_ROUTINES, 8)];
#endif
#if RLX_HAS_SETTINGS
    rlx_value setting[RIG_MOST(RLX_FIXED_SETTINGS, RLX_SETTINGS_MOST)];
#endif
#ifdef RIG_TEXTS
    uint8_t setting_texts[RIG_MOST(RLX_FIXED_SETTING_TEXTS, 1024)];
#endif
    uint8_t buffer[RIG_LINKS][512];
    struct lexicon *lx;
    struct image *image;
    struct sim_board board;
#if RLX_HAS_SETTINGS
    uint16_t nv_area; /* bytes of an area of its memory; 0: 256 */
#endif
    struct rlx_sender senders[RIG_LINKS][32];
#if RLX_HAS_SEAL
    struct rlx_session sessions[RIG_LINKS][4];
#endif
#if RLX_HAS_EVENTS
    struct rlx_pending told[RIG_LINKS][8];
#endif
#if RLX_HAS_SMS
    struct rlx_sms sms[RIG_LINKS];
#endif
    rlx_fn handlers[4200], invokers[64];
    int returns;                           /* what handlers return */
    unsigned calls;                        /* how often they were called... */
    uint8_t asker;                         /* ...and over which link, the last time */
    rlx_value value[RLX_SLOTS];            /* what they got */
    void (*called)(const struct rig *rig); /* at each call; NULL: nothing */
    bool asked;                            /* what is called next is a query... */
    rlx_value tells[RLX_SLOTS];            /* ...and tells this */
    const uint8_t *frame;
    GString *sent[RIG_LINKS]; /* bytes the device sent */
    GString *pins;            /* "pin 4 high" lines */
    char *heard;              /* what rig_talk() returned */
    uint32_t now_ms, polled_ms;
    bool packet_ends;   /* each packet that is sent is followed by CR LF here */
    unsigned send_most; /* the transmitter of a link stops after so many bytes */
    bool hold_sent;     /* the transmitters stand still */
};

#if RLX_FIXED
/* Takes the place of the handlers and of what calls them. */
int rig_invoke(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame);
#endif

/* Ends the program where the lexicon has faults. */
struct rig *rig_new(const char *file);
/* The same of a lexicon that was read, which is freed with the rig. */
struct rig *rig_of(struct lexicon *lx);
void rig_free(struct rig *rig);

/* The same of a text, switched on with the clock at 0; what it said and did so far is forgotten. */
struct rig *rig_of_text(const char *text);
/* The same of a file, switched on at this time; what it said and did so far is forgotten. */
struct rig *rig_started(const char *file, uint32_t now_ms);
/* Forgets what was sent and what the pins did. */
void rig_forget(struct rig *rig);

/* Switches it on anew, with the clock at now_ms; returns what rlx_init() said. */
int rig_start(struct rig *rig, uint32_t now_ms);

/* Feeds bytes from the interrupt side and nothing else. */
void rig_feed(struct rig *rig, unsigned link, const char *bytes, size_t count);
/* Polls until there is nothing to do, a millisecond each time; returns the last wait. */
uint32_t rig_run(struct rig *rig);
/* So many ms go by, with a poll whenever the device asked for one. */
void rig_wait(struct rig *rig, uint32_t ms);
/* Once, at now_ms; the board's own clock goes with it. What rlx_poll() returned. */
uint32_t rig_poll(struct rig *rig);
/* Feeds and runs; returns all that came back on the link since the last call. */
const char *rig_say(struct rig *rig, unsigned link, const char *text);

/* The same as a sender does it: with what ends a frame of the link. What came back stands a line
 * each, ended by \n alone; it lives up to the next call. */
char *rig_talk(struct rig *rig, unsigned link, const char *text);
/* That this comes back, without the last line end. */
#define CHECK_TALK(rig, link, said, wanted)                                \
    do {                                                                   \
        test_context("%s", (said));                                        \
        CHECK_TEXT(g_strchomp(rig_talk((rig), (link), (said))), (wanted)); \
    } while (0)
/* Does what stands behind the mark:
 *     ! call pressed     the firmware tells this event
 *     ! note TEXT        ...or this
 *     ! upper on         this input's pin goes to its active level, or off
 *     ! down LINK        the other side of a link has gone; ! up LINK: it is there again
 *     ! key NAME TEXT    the firmware gives a key
 *     ! reset            it starts anew, with the memory as it is
 *     ? 12 1             what the next query is told
 *     ~ 30               so many ms go by
 * False: it is none of these. */
bool rig_do(struct rig *rig, const char *line);

#endif
