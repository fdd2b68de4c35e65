/* What the library remembers of outputs, inputs, links and routines. Firmware gives it the memory
 * and uses none of the members. A kind of output that changes by itself has a struct of its own. */
#ifndef RLX_DEF_STATES_H
#define RLX_DEF_STATES_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "rlx/config.h"

#if RLX_HAS_ACTS || RLX_HAS_TONE
struct rlx_steady_now {
#if RLX_HAS_ACTS
    uint8_t act;       /* what it does by itself: enum rlx_verb; 0: nothing */
    uint8_t act_count; /* flashes that are left; place in a pattern */
    uint16_t act_from; /* level at which a fade began; where a pattern stands in the image */
    uint32_t act_ms;   /* half a blink; a fade's time so far */
    uint32_t act_due;  /* its next step */
#endif
#if RLX_HAS_TONE
    uint16_t tone_hz; /* 0: its own */
#endif
};
#endif

/* One motor: levels of 32767, negative for back. */
struct rlx_side {
    int16_t want, now;  /* commanded, and driven */
    int8_t way;         /* commanded: it goes on that way when its speed is no longer 0 */
    int8_t last;        /* way that it went last */
    bool rests, brakes; /* it stopped not long ago; it brakes where it stands */
    uint32_t stopped, step_due;
};
struct rlx_motor_now {
    int16_t slower; /* than full speed, by so much: the speed that is remembered */
    bool travels;
    uint32_t travel_due;
    struct rlx_side side[2]; /* a pair has both */
};

struct rlx_servo_now {
    uint16_t pulse; /* microseconds now; 0: none, it is parked */
    uint32_t frame_due;
};

struct rlx_reverser_now {
    int8_t way;              /* commanded: 1 open, -1 close, 0 none */
    int8_t moves;            /* whose relay is on */
    int8_t last;             /* that it moved last */
    bool rests, late;        /* it stopped not long ago; it was on its way for too long */
    uint32_t stopped, began; /* at these times */
#if RLX_HAS_PLACES
    bool known;     /* where it is, where no input sees its ends: */
    uint32_t place; /* milliseconds from closed */
#endif
};

struct rlx_stepper_now {
    int32_t place;       /* steps, when the run of pulses that goes on is over... */
    int32_t end, target; /* ...of this leg, and of all */
    uint32_t due;        /* its next speed */
    uint16_t rung;       /* of its ramp; 0: it stands */
    int8_t way;          /* of the run: 1, -1 */
    uint8_t goes;        /* what it does: src/drive/stepper.c */
    uint8_t event;       /* to send when it is there: RLX_EVT_..., 0: none */
    bool known, powered, blocked;
    bool homes, then, frees; /* what follows: home; its target after that; no current */
};

/* ---- outputs, inputs, routines, settings ---- */

/* State of one output. */
struct rlx_output {
    uint16_t level; /* 0 off .. 65535 fully on, before polarity and curve: as commanded */
#if RLX_HAS_ACTS || RLX_HAS_RESTS
    uint16_t shown; /* what it is at */
#endif
#if RLX_HAS_COUNTED
    uint32_t switched; /* so often it went on */
#endif
#if RLX_HAS_RESTS
    uint32_t changed; /* at this time... */
#endif
#if RLX_HAS_EXPIRY
    uint32_t due; /* at this time... */
#endif
#if RLX_HAS_COUNTED
    bool was_on;
#endif
#if RLX_HAS_TOLD
    bool told_on; /* it was on when it was looked at last */
#endif
#if RLX_HAS_RESTS
    bool recent; /* ...it was switched, not long ago */
#endif
#if RLX_HAS_EXPIRY
    bool armed;  /* ...it goes safe... */
    bool to_off; /* ...or off */
#endif
#if RLX_HAS_ACTS || RLX_HAS_TONE || RLX_HAS_MOVING
    union { /* an output is of one kind: src/drive */
        uint8_t none[1];
#if RLX_HAS_ACTS || RLX_HAS_TONE
        struct rlx_steady_now steady;
#endif
#define RLX_STATE(id, has, name, moves, switched) \
    RLX_WHEN(has, RLX_WHEN(moves, struct rlx_##name##_now name;))
        RLX_DRIVES(RLX_STATE)
#undef RLX_STATE
    };
#endif
};

#if RLX_FIXED && defined(RLX_FIXED_STATES)
/* How many bytes of it each kind uses: src/drive reads and writes no others. */
#define RLX_BYTES_TO(member) \
    (offsetof(struct rlx_output, member) + sizeof(((struct rlx_output *)0)->member))
#if RLX_HAS_ACTS
#define RLX_BYTES_RELAY RLX_BYTES_TO(steady.act)
#else
#define RLX_BYTES_RELAY offsetof(struct rlx_output, none)
#endif
#if RLX_HAS_ACTS || RLX_HAS_TONE
#define RLX_BYTES_LED RLX_BYTES_TO(steady)
#else
#define RLX_BYTES_LED RLX_BYTES_RELAY
#endif
#define RLX_BYTES_BUZZER   RLX_BYTES_LED
#define RLX_BYTES_MOTOR    RLX_BYTES_TO(motor.side[0])
#define RLX_BYTES_REVERSER RLX_BYTES_TO(reverser)
#define RLX_BYTES_PAIR     RLX_BYTES_TO(motor)
#define RLX_BYTES_SERVO    RLX_BYTES_TO(servo)
#define RLX_BYTES_GROUP    RLX_BYTES_RELAY
#define RLX_BYTES_STEPPER  RLX_BYTES_TO(stepper)

/* The outputs of the lexicon, each as large as its kind needs. */
struct rlx_outputs {
#define RLX_STATE_MEMBER(number, kind)                           \
    __attribute__((__aligned__(__alignof__(struct rlx_output)))) \
    uint8_t of_##number[RLX_BYTES_##kind];
    RLX_FIXED_STATES(RLX_STATE_MEMBER)
#undef RLX_STATE_MEMBER
};
#define RLX_OUTPUTS(count) struct rlx_outputs output
#else
#define RLX_OUTPUTS(count) struct rlx_output output[count]
#endif

#if RLX_HAS_INPUTS
/* State of one input. */
struct rlx_input {
    bool on;                         /* debounced */
    bool raw;                        /* as it was read last */
    bool bounces, holds;             /* what comes next is due... */
    uint32_t debounce_due, held_due; /* ...at these times */
};
#endif

#if RLX_HAS_ROUTINES
/* State of one routine. */
struct rlx_routine {
    uint16_t at; /* its next element in the image; 0: it does not run */
    uint8_t step;
    bool failed;  /* at that step */
    uint32_t due; /* when it goes on */
#if RLX_HAS_LOOPS
    uint16_t round; /* how often it was at its end */
#endif
};
#endif

#if RLX_HAS_SETTINGS
/* What is known of the settings' non-volatile memory. */
#if RLX_HAS_WEAR
struct rlx_wear {
    uint32_t resting;          /* settings that were written a short while ago, one bit each... */
    uint32_t until[RLX_RESTS]; /* ...and until when they rest, in the order of the table */
    uint32_t paid;             /* the budget is used up to then, in ms */
    uint32_t erases;           /* of one area or the other, since the memory was new */
};
#endif
struct rlx_keep {
    uint32_t unsaved; /* those that are still to be written, one bit each */
    uint32_t moving;  /* those that are to be written into the other area */
    uint16_t used;    /* bytes of the area in use; while the other one is erased, of that */
    uint16_t pause;   /* ms to the next try; 0: the last one was no failure */
    uint32_t due;     /* when that is */
    uint8_t area, age, step;
    bool none;    /* nothing can be kept now: the memory fails, or refuses for long */
    bool refused; /* a read */
};
#endif

#if RLX_HAS_LOG
/* Something that was done. */
struct rlx_log_entry {
    uint32_t when;
    bool old; /* so long ago that `when` is no longer valid */
    uint8_t link, source;
    uint8_t verdict; /* 0, RLX_OWN_ALREADY, or RLX_ERR_... */
    char what[RLX_LOG_CHARACTERS];
};
#endif

/* ---- links ---- */

/* Which tags were used, of one sender or of those to all that name none. */
struct rlx_tags {
    uint32_t until; /* when the window closes */
    uint16_t seen;  /* bit n: the tag n + 1 before the last one was used */
    uint16_t sum;   /* of the frame with the last one */
    uint16_t first; /* of that one with which the window was opened */
    uint16_t last;  /* the last one */
    bool known;     /* there is one, and the window is open */
};

/* What is remembered of a sender whose frames have tags. */
struct rlx_sender {
    struct rlx_tags tags;
    uint8_t length; /* of the reply to the last one */
    uint8_t kept[RLX_KEPT_REPLY_BYTES];
};

#if RLX_KEEPS_TAGS
/* A frame in hand whose record is written before it is obeyed: as it was read. */
struct rlx_intent {
    uint16_t tag, sum;
    uint8_t source, at, end; /* where its command begins; where several end, 0: there is one */
    bool broadcast;
    bool waits;  /* there is one */
    bool loaded; /* the record of before the start was read */
};
#endif

#if RLX_HAS_SEAL
/* What is remembered of a key: the session of its sender. */
struct rlx_session {
    uint32_t live, offered; /* numbers of the one in use and of the one that follows; 0: none... */
    uint32_t due, offered_due; /* ...after these times */
    uint32_t last;             /* counter of its last frame */
    uint8_t length;            /* of the answer to that */
    uint8_t kept[RLX_KEPT_REPLY_BYTES];
};
#endif

#if RLX_HAS_EVENTS
/* What a link has still to send of an event. */
struct rlx_pending {
    uint8_t pending; /* bit n: its word number n */
    uint8_t last;    /* the last word, from 1; 0: none yet */
#if RLX_HAS_PACED
    uint8_t fresh;    /* words that came again since they were sent */
    uint8_t number;   /* of the one that waits for its acknowledgement; 0: none */
    uint8_t word;     /* that was sent */
    uint8_t tries;    /* so far */
    bool armed;       /* it is not sent... */
    bool counting;    /* they are counted... */
    uint16_t today;   /* ...so many so far... */
    uint32_t due;     /* ...before this time */
    uint32_t day_due; /* ...up to this time */
#endif
#if RLX_HAS_SMS
    uint16_t held; /* that came again before it was sent */
#endif
};
#endif

#endif
