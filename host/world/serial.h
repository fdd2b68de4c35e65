/* A serial cable: start bit, 8 data bits, stop bit; one direction does not know of the other. */
#ifndef SERIAL_H
#define SERIAL_H

#include "device.h"
#include "sampler.h"

/* One direction. Keeps what is left over of a microsecond, so that a long burst takes exactly its
 * time. */
struct wire {
    uint64_t free_us;
    uint64_t left; /* in microseconds / baud */
};

struct serial {
    struct world *world;
    struct device *device; /* NULL: nobody is at this end */
    uint8_t uart;
    unsigned baud;
    struct wire to_device, to_terminal;
    GByteArray *typed; /* on its way to the device */
    guint typed_begun; /* so many of them */
    bool typing;
    struct faults faults; /* read by sampling where there are any */
    struct draw *draw;    /* for them; NULL: the cable is as it should be */
    struct sampler *at_device, *at_terminal;
    void (*on_byte)(void *user, struct serial *serial, uint8_t byte); /* at the terminal */
    void *user;
};

struct serial *serial_new(struct world *world, unsigned baud, uint8_t uart);
void serial_free(struct serial *serial);

/* What is wrong with the cable from now on. */
void serial_faults(struct serial *serial, const struct faults *faults, struct draw *draw);

/* The terminal sends these bytes, back to back, behind what it has not sent yet. */
void serial_type(struct serial *serial, const uint8_t *bytes, size_t count);

/* The device sends a byte: call at SIM_SEND. */
void serial_send(struct serial *serial, uint8_t byte);

#endif
