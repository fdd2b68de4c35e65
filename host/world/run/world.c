/* The virtual clock: what is due runs in the order of time, then of entry.
 * A heap of events; nothing depends on the machine's clock.
 * It knows nothing about devices. */
#include "world/run/world.h"

struct happening {
    uint64_t at_us, number;
    world_fn fn;
    void *data;
    uint32_t argument;
};

static int by_time(const void *a, const void *b, void *user)
{
    const struct happening *x = a, *y = b;
    (void)user;
    if (x->at_us != y->at_us) return x->at_us < y->at_us ? -1 : 1;
    return x->number < y->number ? -1 : x->number > y->number;
}

struct world *world_new(void)
{
    struct world *world = g_new0(struct world, 1);
    world->queue = g_sequence_new(g_free);
    return world;
}

void world_free(struct world *world)
{
    if (!world) return;
    g_sequence_free(world->queue);
    g_free(world);
}

void world_at(struct world *world, uint64_t at_us, world_fn fn, void *data, uint32_t argument)
{
    struct happening *h = g_new(struct happening, 1);
    *h = (struct happening){MAX(at_us, world->now_us), world->count++, fn, data, argument};
    g_sequence_insert_sorted(world->queue, h, by_time, NULL);
}

bool world_step(struct world *world, uint64_t until_us)
{
    GSequenceIter *first = g_sequence_get_begin_iter(world->queue);
    struct happening *next = g_sequence_iter_is_end(first) ? NULL : g_sequence_get(first);
    uint64_t at_us = next ? MIN(next->at_us, until_us) : until_us;
    if (world->pace && at_us > world->now_us && world->pace(world->pace_user, at_us) < at_us)
        return true; /* something came in before: it may be due first */
    if (!next || next->at_us > until_us) {
        world->now_us = MAX(world->now_us, until_us);
        return false;
    }
    struct happening h = *next;
    g_sequence_remove(first);
    world->now_us = h.at_us;
    h.fn(h.data, h.argument);
    return true;
}

uint64_t world_next_us(const struct world *world)
{
    GSequenceIter *first = g_sequence_get_begin_iter(world->queue);
    const struct happening *next = g_sequence_iter_is_end(first) ? NULL : g_sequence_get(first);
    return next ? next->at_us : UINT64_MAX;
}
