/* A board that is not simulated: bytes go to it and come from it over one link.
 * The world's clock waits for the real one, and is stopped early by what comes.
 * Who opens the line is above; what the board is at, besides, nobody knows. */
#include "world/run/outside.h"

#include "world/run/running_parts.h"

struct outside {
    const struct outside_line *line;
    uint8_t link;
    gint64 real_us;    /* the real clock... */
    uint64_t begun_us; /* ...and the world's, when both began to go together */
    bool begun;
};

/* False: it is gone. */
static bool is_there(struct device *device)
{
    const struct outside_line *line = device->outside->line;
    const char *why = line->failure(line->user);
    if (why) device_fail(device, "the board is gone: %s", why);
    return !why;
}

static void came(struct device *device, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        device->out(device->user, (struct sim_event){SIM_SEND, device->outside->link, 0, bytes[i]});
}

void outside_come(struct device *device)
{
    const struct outside_line *line = device->outside->line;
    uint8_t bytes[512];
    size_t n;
    while ((n = line->take(line->user, bytes, sizeof bytes, 0))) came(device, bytes, n);
    is_there(device);
}

/* The world's time by the real clock. */
static uint64_t by_now(const struct outside *o)
{
    return o->begun_us + (uint64_t)(g_get_monotonic_time() - o->real_us);
}

/* Until then, or until something came: returns when that is. */
static uint64_t pace(void *user, uint64_t at_us)
{
    struct device *device = user;
    struct outside *o = device->outside;
    uint8_t bytes[512];
    while (!device->failure) {
        uint64_t now = by_now(o);
        size_t n = o->line->take(o->line->user, bytes, sizeof bytes, at_us > now ? at_us - now : 0);
        if (n) {
            now = MIN(MAX(by_now(o), device->world->now_us), at_us);
            device->world->now_us = now;
            came(device, bytes, n);
            return now;
        }
        if (!is_there(device) || by_now(o) >= at_us) break;
    }
    return at_us;
}

void outside_paces(struct device *device)
{
    device->outside->real_us = g_get_monotonic_time();
    device->outside->begun_us = device->world->now_us;
    device->world->pace = pace;
    device->world->pace_user = device;
}

/* ---- the device ---- */

static bool hand_outside(struct device *device, struct sim_event event)
{
    struct outside *o = device->outside;
    uint8_t byte = (uint8_t)event.value;
    if (event.kind != SIM_RECEIVED || event.index != o->link) return true;
    return o->line->give(o->line->user, &byte, 1) || is_there(device);
}

static void run_outside(struct device *device)
{
    is_there(device);
}

static void start_outside(struct device *device, enum rlx_reset cause)
{
    const struct outside_line *line = device->outside->line;
    (void)cause;
    if (device->outside->begun && line->reset && !line->reset(line->user))
        device_fail(device, "the board cannot be reset");
    device->outside->begun = true;
    is_there(device);
}

static void free_outside(struct device *device)
{
    if (device->world->pace_user == device) device->world->pace = NULL;
    g_free(device->outside);
}

const struct device_kind device_outside = {
    .hand = hand_outside, .run = run_outside, .start = start_outside, .free = free_outside};

struct device *device_of_outside(struct world *world, const struct lexicon *lx,
                                 const struct outside_line *line, uint8_t link)
{
    struct device *device = g_new0(struct device, 1);
    device->kind = &device_outside;
    device->world = world;
    device->lx = lx;
    device->outside = g_new0(struct outside, 1);
    device->outside->line = line;
    device->outside->link = link;
    return device;
}

bool device_is_outside(const struct device *device)
{
    return device->outside != NULL;
}
