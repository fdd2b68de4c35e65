/* A device in the world: the image of a lexicon on the simulated board, or a firmware program in
 * lock-step. From outside the two are the same. */
#ifndef DEVICE_H
#define DEVICE_H

#include "lexicon/write/table_image.h"
#include "rlx/device.h"
#include "sim/sim.h"
#include "world/run/world.h"

struct device;

/* What a device does; `kind` is one of SIM_SEND .. SIM_PACKET. */
typedef void (*device_out)(void *user, struct sim_event event);

/* The lexicon's own tables; its handlers are stand-ins that answer as done, and keep their
 * contracts unless they are idle. Lexicon and image must outlive it. */
struct device *device_of_image(struct world *world, const struct lexicon *lx,
                               const struct image *image, uint32_t start_ms, GError **error);

void device_stand_idle(struct device *device);

/* A program that was linked with the simulated port, and is of this lexicon: one of another one
 * fails when it starts. */
struct device *device_of_program(struct world *world, const struct lexicon *lx,
                                 const struct image *image, const char *program, uint32_t start_ms,
                                 GError **error);

/* Switches it on. Before this, everything that listens must be in place; what comes in earlier is
 * lost. */
void device_start(struct device *device, device_out out, void *user);
/* The same, but it stays off. */
void device_listen(struct device *device, device_out out, void *user);

/* How many parts of a million its clock is faster than the world's, of the reference model; before
 * device_start(). */
void device_clock(struct device *device, int32_t ppm);

/* Its packets on this link have to be taken one by one, by SIM_TAKEN; before device_start(). */
void device_pace(struct device *device, uint8_t link);

/* The chip stops: nothing but its non-volatile memory stays as it was, and what comes in is lost...
 */
void device_off(struct device *device);
/* ...until it starts anew, for this reason. */
void device_on(struct device *device, enum rlx_reset cause);
/* Both at once. */
void device_reset(struct device *device, enum rlx_reset cause);

/* Something comes in, now: SIM_RECEIVED, SIM_SENT, SIM_FAULT, SIM_PIN_IN, SIM_TAKEN. */
void device_in(struct device *device, enum sim_kind kind, uint8_t index, uint32_t value);

/* The level at an input pin, as it was last told; false: it never was. */
bool device_pin(const struct device *device, uint8_t pin, bool *high);

/* What a firmware would send, now: an event by its place and its word's, a note; as rlx_event() and
 * rlx_note(). False: it does not, or the device is a program, which sends by itself. */
bool device_tell(struct device *device, unsigned event, unsigned word);
bool device_note(struct device *device, const char *text);

/* Told each call of a handler of the lexicon's tables: its number, as in the image, and up to
 * RLX_SLOTS values. */
typedef void (*device_called)(void *user, unsigned handler, const rlx_value *values);
void device_on_call(struct device *device, device_called called, void *user);

/* Told what reaches the device while it is on: each byte (SIM_RECEIVED), each one that was damaged
 * (SIM_FAULT, no bytes), each packet, report or message (SIM_PACKET_IN). Before device_start(). */
typedef void (*device_heard)(void *user, enum sim_kind kind, uint8_t link, const uint8_t *bytes,
                             unsigned count);
void device_on_heard(struct device *device, device_heard heard, void *user);

/* A packet, report or message comes in on a link, now. */
void device_packet(struct device *device, uint8_t index, const uint8_t *bytes, unsigned count);

/* The board of the lexicon's tables, and the device on it, for what hangs there; NULL: it is a
 * program's. */
struct sim_board *device_board(struct device *device);
struct rlx_device *device_core(struct device *device);

/* Whether a program's code runs while its clock does: it has not slept yet. */
bool device_is_busy(const struct device *device);
/* NULL, or why it no longer runs. */
const char *device_failure(const struct device *device);

void device_free(struct device *device);

#endif
