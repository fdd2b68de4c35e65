/* What each kind of output remembers. Private to src/drive; a kind that changes by itself has one.
 */
#ifndef RLX_DEF_STATES_H
#define RLX_DEF_STATES_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"

#if RLX_HAS_ACTS || RLX_HAS_TONE
struct rlx_steady_state {
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
    int16_t want, now;  /* told, and driven */
    int8_t way;         /* that it was told: it goes on that way when its speed is no longer 0 */
    int8_t last;        /* way that it went last */
    bool rests, brakes; /* it stopped not long ago; it brakes where it stands */
    uint32_t stopped, step_due;
};
struct rlx_motor_state {
    struct rlx_side side[2];
    int16_t slower; /* than full speed, by so much: the speed that is remembered */
    bool travels;
    uint32_t travel_due;
};

struct rlx_servo_state {
    uint16_t pulse; /* microseconds now; 0: none, it is parked */
    uint32_t frame_due;
};

struct rlx_reverser_state {
    int8_t way;              /* that it was told: 1 open, -1 close, 0 none */
    int8_t moves;            /* whose relay is on */
    int8_t last;             /* that it moved last */
    bool rests, late;        /* it stopped not long ago; it was on its way for too long */
    uint32_t stopped, began; /* at these times */
#if RLX_HAS_PLACES
    bool known;     /* where it is, where no input sees its ends: */
    uint32_t place; /* milliseconds from closed */
#endif
};

struct rlx_stepper_state {
    int32_t place;       /* steps, when the run of pulses that goes on is over... */
    int32_t end, target; /* ...of this leg, and of all */
    uint32_t due;        /* its next speed */
    uint16_t rung;       /* of its ramp; 0: it stands */
    int8_t way;          /* of the run: 1, -1 */
    uint8_t goes;        /* what it does: src/drive/stepper.c */
    uint8_t tells;       /* the event when it is there: RLX_EVT_..., 0: none */
    bool known, powered, blocked;
    bool homes, then, frees; /* what follows: home; its target after that; no current */
};

#endif
