/* A port of reports, as the host of the open bus has it (USB 2.0, interrupt transfers; HID 1.11):
 * it asks for a report every so often and gives one at the same times; a device's next one is not
 * taken before. */
#ifndef REPORTS_H
#define REPORTS_H

#include "world/run/running.h"
#include "world/run/world.h"

struct port_manner {
    uint32_t poll_us; /* 0: each report goes at once */
    bool unplugged;
    bool stale; /* behind the end of a line are bytes of former reports */
};

struct reports;
/* A report of the device has come to the host: it is passed on. */
typedef void (*reports_got)(void *user, const uint8_t *report);
/* One that could not be given: nobody is plugged in. */
typedef void (*reports_lost)(void *user, const uint8_t *report);
struct reports *reports_new(struct world *world, struct device *device, uint8_t link,
                            reports_got got, reports_lost lost, void *user);
void reports_free(struct reports *reports);
/* From now on. Unplugged, what waits to go out is lost; plugged in again, the device's endpoint
 * still holds what it held: a stale report. */
void reports_manner(struct reports *reports, const struct port_manner *manner);
/* The host sends a line, in as many reports as it takes. */
void reports_say(struct reports *reports, const uint8_t *bytes, unsigned count);
/* The next byte of a report of the device, 256: it is over. */
void reports_out(struct reports *reports, uint32_t value);
/* Reports wait to be given or asked for. */
bool reports_wait(const struct reports *reports);

#endif
