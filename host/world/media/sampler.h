/* A receiver as a UART is one: it waits for a falling edge and samples the line in the middle of
 * each of its own bits, so that it reads what another baud rate or another format makes of a burst.
 * One direction of a cable. */
#ifndef SAMPLER_H
#define SAMPLER_H

#include "world/run/draw.h"
#include "lexicon/model.h"
#include "world/run/world.h"

/* How an end of a cable is set. */
struct manner_of_uart {
    unsigned baud;
    struct lex_format format;
};

/* What a cable does, each direction alike; chances in parts of a billion. */
struct faults {
    uint32_t noise;           /* that a sample is read wrong */
    uint32_t lost, twice;     /* that a byte does not come, or comes two times */
    unsigned baud;            /* of the sender's end; 0: the device's */
    struct lex_format format; /* of the sender's end; no data bits: the device's */
    bool open, crossed;       /* no wire; each end's output at the other's */
    bool no_answers;          /* only the wire to the device is there */
    bool out_of_range;        /* of a bridge: the other side */
    uint32_t late_us;         /* of a bridge: how long each byte takes through the air... */
    uint32_t clump_us;        /* ...where they wait for each other so long */
    uint32_t typing_us;       /* between two bytes of the sender, as somebody types */
    bool echo;                /* one wire for both ways: each end receives what it sends itself */
    uint32_t service_us; /* the device's receiver is looked at so often; 0: with each byte... */
    unsigned fifo;       /* ...and keeps so many bytes until then */
};

struct sampler;
/* A byte has come; `fault`: the stop bit was none, or the parity wrong. */
typedef void (*sampler_got)(void *user, uint8_t byte, bool fault);

struct sampler *sampler_new(struct world *world, sampler_got got, void *user);
void sampler_free(struct sampler *sampler);
/* The line carries this byte from now on, as the sender is set; the one before is over. */
void sampler_send(struct sampler *sampler, uint8_t byte, const struct manner_of_uart *sender,
                  const struct manner_of_uart *receiver, const struct faults *faults,
                  struct draw *draw);

#endif
