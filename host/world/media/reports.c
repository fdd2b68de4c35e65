/* A port of 64-byte reports that the other side polls.
 * Reports wait until they are fetched, or are lost when unplugged.
 * It gives the bytes no meaning. */
#include "world/media/reports.h"

#include <string.h>

#include "rlx/image.h"

struct reports {
    struct world *world;
    struct device *device;
    uint8_t link;
    struct port_manner is;
    reports_got got;
    reports_lost lost;
    void *user;
    GQueue *to_device;            /* reports */
    uint8_t endpoint[RLX_REPORT]; /* of the device, and bytes of it so far */
    unsigned n;
    bool full; /* it waits to be asked for */
    uint8_t last_given[RLX_REPORT];
    bool polling;
    uint32_t version; /* of the polls */
};

struct reports *reports_new(struct world *world, struct device *device, uint8_t link,
                            reports_got got, reports_lost lost, void *user)
{
    struct reports *r = g_new0(struct reports, 1);
    *r = (struct reports){.world = world,
                          .device = device,
                          .link = link,
                          .got = got,
                          .lost = lost,
                          .user = user,
                          .to_device = g_queue_new()};
    return r;
}

void reports_free(struct reports *r)
{
    if (!r) return;
    g_queue_free_full(r->to_device, g_free);
    g_free(r);
}

bool reports_wait(const struct reports *r)
{
    return !r->is.unplugged && (r->full || r->to_device->length);
}

/* ---- the polls ---- */

static void poll_later(struct reports *r);

/* What stands behind the line is of former reports. */
static void spoil(struct reports *r, uint8_t *report)
{
    unsigned end = 0;
    while (end < RLX_REPORT && report[end]) end++;
    if (r->is.stale && end < RLX_REPORT)
        memcpy(report + end, r->last_given + end, RLX_REPORT - end);
    memcpy(r->last_given, report, RLX_REPORT);
}

static void give_one(struct reports *r)
{
    uint8_t *report = g_queue_pop_head(r->to_device);
    if (!report) return;
    spoil(r, report);
    device_packet(r->device, r->link, report, RLX_REPORT);
    g_free(report);
}

/* The host has taken it: the device may send the next. */
static void take_one(struct reports *r)
{
    uint8_t report[RLX_REPORT];
    if (!r->full) return;
    memcpy(report, r->endpoint, sizeof report);
    r->full = false;
    r->n = 0;
    r->got(r->user, report);
    device_in(r->device, SIM_TAKEN, r->link, 0);
}

static void on_poll(void *data, uint32_t version)
{
    struct reports *r = data;
    if (version != r->version) return;
    r->polling = false;
    if (r->is.unplugged) return;
    take_one(r);
    give_one(r);
    poll_later(r);
}

/* At the next multiple of the interval, as long as there is something to do. */
static void poll_later(struct reports *r)
{
    if (r->polling || !reports_wait(r)) return;
    uint64_t now = r->world->now_us, every = r->is.poll_us;
    r->polling = true;
    world_at(r->world, every ? (now / every + 1) * every : now, on_poll, r, r->version);
}

/* ---- its ends ---- */

void reports_manner(struct reports *r, const struct port_manner *manner)
{
    r->is = *manner;
    r->version++;
    r->polling = false;
    if (r->is.unplugged)
        for (uint8_t *report; (report = g_queue_pop_head(r->to_device));) {
            r->lost(r->user, report);
            g_free(report);
        }
    poll_later(r);
}

void reports_say(struct reports *r, const uint8_t *bytes, unsigned count)
{
    for (unsigned at = 0; at <= count; at += RLX_REPORT) {
        unsigned n = MIN(count - at, RLX_REPORT);
        uint8_t *report = g_malloc0(RLX_REPORT);
        memcpy(report, bytes + at, n);
        if (n < RLX_REPORT) report[n] = '\r';
        if (r->is.unplugged) {
            r->lost(r->user, report);
            g_free(report);
        } else {
            g_queue_push_tail(r->to_device, report);
        }
    }
    poll_later(r);
}

void reports_out(struct reports *r, uint32_t value)
{
    if (value < 256) {
        if (r->n < RLX_REPORT) r->endpoint[r->n++] = (uint8_t)value;
        return;
    }
    r->full = true;
    poll_later(r);
}
