/* The simulated board as a world holds it: pins, PWM channels, UARTs, non-volatile memory, on a
 * clock that somebody else moves. A firmware program includes board.h instead. */
#ifndef SIM_H
#define SIM_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "rlx/def/knobs.h"
#include "rlx/error.h"

/* The firmware's interrupt handlers: a byte came in on a UART; a UART can send the next byte
 * (false: there is none). UART numbers are link numbers. */
struct sim_interrupts {
    void *user;
    void (*receive)(void *user, uint8_t uart, uint8_t byte);
    bool (*transmit)(void *user, uint8_t uart, uint8_t *byte);
    /* a packet, report or message came in on a link; may be NULL */
    void (*packet)(void *user, uint8_t link, const uint8_t *bytes, uint8_t count);
    void (*fault)(void *user, uint8_t uart); /* may be NULL */
};

#define SIM_UARTS 16

/* What goes in and out of a board. */
enum sim_kind {
    SIM_RECEIVED,  /* in: byte `value` came on UART `index` */
    SIM_SENT,      /* in: UART `index` has sent its byte */
    SIM_PIN_IN,    /* in, also before SIM_POWER: pin `index` is at level `value` */
    SIM_PACKET_IN, /* in: the next byte of a packet on link `index`; 256: it is complete */
    SIM_RUN,       /* in: it is `value` s and index * 65536 + low microseconds: run */
    SIM_POWER,     /* in: start; value: milliseconds the clock begins with; index: reset cause */
    SIM_SEND,      /* out: UART `index` sends byte `value` */
    SIM_PIN,       /* out: pin `index` is driven to level `value` */
    SIM_DUTY,      /* out: channel `index` has duty `value` */
    SIM_PULSE,     /* out: channel `index` has a pulse of `value` us */
    SIM_TONE,      /* out: channel `index` sounds at `value` Hz */
    SIM_PACKET,    /* out: the next byte of a packet on link `index`; 256: it is complete */
    SIM_SLEEP,     /* out: nothing to do for `value` ms */
    SIM_FAULT,     /* in: the receiver of UART `index` saw a parity, framing or overrun error */
    SIM_PACED,     /* in, before SIM_POWER: a packet of link `index` has to be taken... */
    SIM_TAKEN,     /* in: ...like this, before the next one is */
    SIM_IS,        /* out, first of all: the next byte of its lexicon's name, version, fingerprint;
                    * 0: that is all */
    SIM_BUSY,      /* out: `value` us pass while its code runs, waiting for the clock */
    SIM_STEPS      /* out: channel `index` begins `low` step pulses, `value` a second; 0, 0: none */
};
struct sim_event {
    uint8_t kind;
    uint8_t index;
    uint16_t low; /* of SIM_RUN and SIM_STEPS */
    uint32_t value;
};

/* Step pulses of a channel, by the clock. */
struct sim_steps {
    uint64_t from_us; /* the last pulse of the run before, or its own beginning */
    uint16_t count, hz;
};
/* How many have gone out, and how many are left. */
uint16_t sim_steps_sent(const struct sim_steps *steps, uint64_t now_us);
uint16_t sim_steps_left(const struct sim_steps *steps, uint64_t now_us);
/* Another run instead, as rlx_port_steps() has it. */
void sim_steps_begin(struct sim_steps *steps, uint64_t now_us, uint16_t count, uint16_t hz);

/* Told what the board does, as it does it. */
typedef void (*sim_sink)(void *user, struct sim_event event);

struct sim_board {
    struct sim_interrupts interrupts;
    sim_sink sink;
    void *sink_user;
    uint64_t now_us;
    uint32_t start_ms;
    enum rlx_reset cause;
    bool sending[SIM_UARTS];
    bool driven[256];
    bool level[256];
    bool outside[256]; /* somebody else drives it: also before the board is switched on */
    uint16_t duty[256];
    struct sim_steps steps[256];
    bool stepped[256];                 /* its steps were reported once */
    uint8_t packet[255], packet_count; /* that comes in */
    bool radio_busy;                   /* packets to send are refused */
    bool paced[SIM_UARTS], full[SIM_UARTS];
    uint32_t random;
    uint8_t nv[2 * RLX_MOST_NV_AREA_BYTES];
    unsigned nv_page;    /* bytes that are erased together; 0: 256 */
    bool nv_kept;        /* as it was before the board was switched on */
    bool nv_fails;       /* every call from now on */
    bool nv_absent;      /* there is none */
    unsigned nv_refuses; /* so many calls but one are refused */
    bool nv_worn;        /* what is erased stays as it is */
    unsigned nv_busy;    /* so often it is asked in vain whether it has finished */
    unsigned nv_slow;    /* what that begins with */
    unsigned nv_left;    /* bytes written or erased up to a power cut; 0: none comes */
    bool nv_dead;        /* it came: nothing is written any more */
    unsigned nv_erased;  /* pages, since the memory was new */
};

void sim_board_init(struct sim_board *board, sim_sink sink, void *sink_user, uint32_t start_ms,
                    enum rlx_reset cause);
/* Something of the kinds marked `in`, at board->now_us. */
void sim_board_in(struct sim_board *board, struct sim_event event);

/* ports/sim/process.c: file descriptor of the world, from this variable of the environment. */
#define SIM_WORLD_FD "RLX_WORLD_FD"
/* The same of a file that keeps the non-volatile memory from one start to the next. */
#define SIM_NV_FD "RLX_NV_FD"

#endif
