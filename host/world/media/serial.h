/* A serial line between a device and whoever is at its other end: a cable, a wireless bridge or a
 * transparent modem. One direction does not know of the other. */
#ifndef SERIAL_H
#define SERIAL_H

#include "world/run/running.h"
#include "world/media/hop.h"
#include "world/media/sampler.h"

/* One direction. Keeps what is left over of a microsecond, so that a long burst takes exactly its
 * time. */
struct wire {
    uint64_t free_us;
    uint64_t left; /* in microseconds / baud */
};

/* The device's receiver, where it is served late. */
struct fifo {
    uint8_t bytes[256];
    unsigned n;
    bool overrun, armed;
};

struct serial {
    struct world *world;
    struct device *device; /* NULL: nobody is at this end */
    struct serial *peer;   /* another device at the other end; NULL: a terminal */
    uint8_t uart;
    struct manner_of_uart is; /* of the device */
    struct wire to_device, to_terminal;
    GByteArray *typed; /* on its way to the device */
    guint typed_begun; /* so many of them */
    bool typing;
    GByteArray *loading; /* of the device's loader, at its own rate */
    guint loading_begun;
    unsigned loading_baud;
    struct faults faults; /* read by sampling where there are any */
    struct draw *draw;    /* for them; NULL: the cable is as it should be */
    bool apart;           /* a bridge that is not connected, or out of reach */
    struct hop *hop;
    struct fifo fifo;
    struct sampler *at_device, *at_terminal;
    void (*on_byte)(void *user, struct serial *serial, uint8_t byte); /* at the terminal */
    void (*on_lost)(void *user, struct serial *serial, unsigned bytes,
                    bool packet); /* by a modem; may be NULL */
    void *user;
};

struct serial *serial_new(struct world *world, unsigned baud, uint8_t uart);
void serial_free(struct serial *serial);

/* What is wrong with the cable from now on. */
void serial_faults(struct serial *serial, const struct faults *faults, struct draw *draw);
/* The sender's end is another device's, from now on. */
void serial_join(struct serial *a, struct serial *b, struct draw *draw);

/* The terminal sends these bytes, back to back, behind what it has not sent yet. */
void serial_type(struct serial *serial, const uint8_t *bytes, size_t count);

/* How many bytes the terminal has not begun to send. */
size_t serial_waits(const struct serial *serial);

/* The device sends a byte: call at SIM_SEND. */
void serial_send(struct serial *serial, uint8_t byte);
/* Its loader sends all this, at its own rate. */
void serial_load(struct serial *serial, const char *bytes, size_t count, unsigned baud);

/* Something is still on its way. */
bool serial_is_busy(const struct serial *serial);

#endif
