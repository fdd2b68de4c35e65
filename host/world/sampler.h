/* A receiver as a UART is one: it waits for a falling edge and samples the line in the middle of
 * each of its own bits, so that it reads what another baud rate makes of a burst. One direction of
 * a cable: 8 data bits, no parity, one stop bit. */
#ifndef SAMPLER_H
#define SAMPLER_H

#include "draw.h"
#include "world.h"

/* What a cable does, each direction alike; chances in parts of a billion. */
struct faults {
    uint32_t noise;       /* that a sample is read wrong */
    uint32_t lost, twice; /* that a byte does not come, or comes two times */
    unsigned baud;        /* of the sender's end; 0: the device's */
    bool open, crossed;   /* no wire; each end's output at the other's */
    bool no_answers;      /* only the wire to the device is there */
    bool gone;            /* of a bridge: the other side is out of reach */
    uint32_t late_us;     /* of a bridge: how long each byte takes through the air... */
    uint32_t clump_us;    /* ...where they wait for each other so long */
    uint32_t typing_us;   /* between two bytes of the sender, as somebody types */
};

struct sampler;
/* A byte has come; `fault`: the stop bit was none. */
typedef void (*sampler_got)(void *user, uint8_t byte, bool fault);

struct sampler *sampler_new(struct world *world, sampler_got got, void *user);
void sampler_free(struct sampler *sampler);
/* The line carries this byte from now on, at that rate; the receiver has another. The one before is
 * over. */
void sampler_send(struct sampler *sampler, uint8_t byte, unsigned baud, unsigned receiver_baud,
                  const struct faults *faults, struct draw *draw);

#endif
