/* Paces the virtual clock by the real one, in the main loop of GLib.
 * The world decides what happens and when; here it is only let go on.
 * Nothing of a link is known here. */
#include "endpoint/live.h"

#include <glib-unix.h>
#include <signal.h>

#define PATIENCE_US 50000 /* of the real clock: then somebody else has his turn */
#define LOOKS       64u   /* happenings between two looks at the real clock */

struct live {
    struct bench *bench;
    double speed;
    gint64 real_us;              /* the real clock when it began... */
    uint64_t begun_us, until_us; /* ...and the virtual one, and where that ends */
    void (*after)(void *user);
    void *user;
    GMainLoop *loop;
    guint timer;
    bool (*stops)(void *user);
    bool signalled;
};

struct live *live_new(struct bench *bench, double speed, void (*after)(void *user), void *user)
{
    struct live *live = g_new0(struct live, 1);
    *live = (struct live){.bench = bench,
                          .speed = speed,
                          .real_us = g_get_monotonic_time(),
                          .begun_us = bench->world->now_us,
                          .until_us = UINT64_MAX,
                          .after = after,
                          .user = user,
                          .loop = g_main_loop_new(NULL, FALSE)};
    return live;
}

void live_free(struct live *live)
{
    if (!live) return;
    if (live->timer) g_source_remove(live->timer);
    g_main_loop_unref(live->loop);
    g_free(live);
}

void live_quit(struct live *live)
{
    g_main_loop_quit(live->loop);
}

static gboolean on_timer(gpointer user)
{
    struct live *live = user;
    live->timer = 0;
    live_now(live);
    return G_SOURCE_REMOVE;
}

/* Wakes up for what happens next. */
static void sleep_until(struct live *live, uint64_t next_us, bool late)
{
    if (live->timer) g_source_remove(live->timer);
    live->timer = 0;
    next_us = MIN(next_us, live->until_us);
    if ((next_us == UINT64_MAX && !late) || live->speed <= 0) return;
    double ms = late ? 0 : (double)(next_us - live->bench->world->now_us) / live->speed / 1000;
    live->timer = g_timeout_add(ms > 3600000 ? 3600000 : (guint)(ms + 0.999), on_timer, live);
}

void live_now(struct live *live)
{
    struct world *world = live->bench->world;
    gint64 real = g_get_monotonic_time();
    uint64_t until = live->begun_us + (uint64_t)((double)(real - live->real_us) * live->speed);
    bool late = false;
    until = MIN(until, live->until_us);
    for (unsigned n = 1; !late && until > world->now_us && world_step(world, until); n++) {
        if (bench_failure(live->bench)) break;
        late = n % LOOKS == 0 && g_get_monotonic_time() - real > PATIENCE_US;
    }
    if (live->after) live->after(live->user);
    if (bench_failure(live->bench) || world->now_us >= live->until_us)
        live_quit(live);
    else
        sleep_until(live, world_next_us(world), late);
}

void live_pace(struct live *live, double speed)
{
    live_now(live);
    live->real_us = g_get_monotonic_time();
    live->begun_us = live->bench->world->now_us;
    live->speed = speed;
    live_now(live);
}

double live_speed(const struct live *live)
{
    return live->speed;
}

bool live_step(struct live *live)
{
    struct world *world = live->bench->world;
    uint64_t next = world_next_us(world);
    if (next == UINT64_MAX || next > live->until_us || bench_failure(live->bench)) return false;
    while (world_step(world, next) && world_next_us(world) <= next) {}
    live_pace(live, live->speed);
    return true;
}

void live_on_break(struct live *live, bool (*stops)(void *user))
{
    live->stops = stops;
}

static gboolean on_break(gpointer user)
{
    struct live *live = user;
    if (live->stops && live->stops(live->user)) return G_SOURCE_CONTINUE;
    live->signalled = true;
    live_quit(live);
    return G_SOURCE_CONTINUE;
}

static gboolean on_signal(gpointer user)
{
    struct live *live = user;
    live->signalled = true;
    live_quit(live);
    return G_SOURCE_CONTINUE;
}

static gboolean begin(gpointer user)
{
    live_now(user);
    return G_SOURCE_REMOVE;
}

bool live_run(struct live *live, uint64_t until_us)
{
    static const struct {
        int number;
        GSourceFunc call;
    } ends[] = {{SIGINT, on_break}, {SIGTERM, on_signal}, {SIGHUP, on_signal}};
    guint sources[G_N_ELEMENTS(ends)];
    signal(SIGPIPE, SIG_IGN); /* whoever read is gone: a write tells */
    live->until_us = until_us;
    for (unsigned i = 0; i < G_N_ELEMENTS(ends); i++)
        sources[i] = g_unix_signal_add(ends[i].number, ends[i].call, live);
    g_idle_add(begin, live);
    g_main_loop_run(live->loop);
    for (unsigned i = 0; i < G_N_ELEMENTS(ends); i++) g_source_remove(sources[i]);
    return !live->signalled;
}
