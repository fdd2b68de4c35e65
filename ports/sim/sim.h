/* The simulated board: pins, PWM channels, UARTs, non-volatile memory, on a clock that somebody
 * else moves. A firmware program uses the calls of the first part; a simulation that holds boards
 * uses those of the second. */
#ifndef SIM_H
#define SIM_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "rlx/error.h"

struct sim_board;

/* The firmware's interrupt handlers: a byte came in on a UART; a UART can send the next byte
 * (false: there is none). UART numbers are link numbers. */
struct sim_interrupts {
    void *user;
    void (*receive)(void *user, uint8_t uart, uint8_t byte);
    bool (*transmit)(void *user, uint8_t uart, uint8_t *byte);
};

/* ---- for a firmware program ---- */

/* Switches the board on. Started by `rlx talk --firmware` it runs in lock-step with that; on its
 * own, UART 0 is standard input and output, the clock is real, pins are told on standard error,
 * and the program ends when the input does. */
struct sim_board *sim_open(const struct sim_interrupts *interrupts);

enum rlx_reset sim_reset_cause(const struct sim_board *board);
/* Milliseconds since power-up; wraps. */
uint32_t sim_millis(const struct sim_board *board);

/* Interrupts off and on. What arrived in between is handled at sim_unmask(). */
void sim_mask(struct sim_board *board);
void sim_unmask(struct sim_board *board);
/* Waits, with interrupts masked, until one is pending or `ms` have passed. */
void sim_sleep(struct sim_board *board, uint32_t ms);

/* ---- for a simulation ---- */

#define SIM_UARTS 16

/* What goes in and out of a board. */
enum sim_kind {
    SIM_RECEIVED, /* in: byte `value` came on UART `index` */
    SIM_SENT,     /* in: UART `index` has sent its byte */
    SIM_PIN_IN,   /* in: pin `index` is at level `value` */
    SIM_RUN,      /* in: it is `value` s and index * 65536 + low microseconds: run */
    SIM_POWER,    /* in: start; value: milliseconds the clock begins with; index: reset cause */
    SIM_SEND,     /* out: UART `index` sends byte `value` */
    SIM_PIN,      /* out: pin `index` is driven to level `value` */
    SIM_DUTY,     /* out: channel `index` has duty `value` */
    SIM_PULSE,    /* out: channel `index` has a pulse of `value` us */
    SIM_TONE,     /* out: channel `index` sounds at `value` Hz */
    SIM_PACKET,   /* out: the next byte of a packet on link `index`; 256: it is complete */
    SIM_SLEEP     /* out: nothing to do for `value` ms */
};
struct sim_event {
    uint8_t kind;
    uint8_t index;
    uint16_t low; /* of SIM_RUN */
    uint32_t value;
};

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
    uint16_t duty[256];
    uint32_t random;
    uint8_t nv[4096];
};

void sim_board_init(struct sim_board *board, sim_sink sink, void *sink_user, uint32_t start_ms,
                    enum rlx_reset cause);
/* Something of the kinds marked `in`, at board->now_us. */
void sim_board_in(struct sim_board *board, struct sim_event event);

/* ports/sim/process.c: file descriptor of the world, from this variable of the environment. */
#define SIM_WORLD_FD "RLX_WORLD_FD"

#endif
