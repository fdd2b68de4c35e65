/* The sender of a link with channels: sticks and switches that stand where they were put.
 * Sends a frame for each command, for ever where the lexicon says how often, and one before it
 * where the device would otherwise not obey: sticks at rest behind a silence, a switch outside its
 * zone. Where they must stand is found in lexicon/layout/sticks.c. */
#include <string.h>

#include "world/boards/bench_parts.h"

/* From the last byte of a frame to the first of the next, beside the silence that ends it. */
#define BETWEEN_US 2000
/* So long before the device takes the link as lost, the sender does not rely on it any more. */
#define EARLY_US 20000

static void send_frame(struct end *end, const char *text, const GByteArray *frame)
{
    bench_tell_bytes(end, SIGHT_SAID, text, frame->data, frame->len);
    bench_type(end, (const char *)frame->data, frame->len);
    end->sticks_us = end->board->bench->world->now_us;
}

struct waiting {
    GByteArray *frame;
    char *text;
};

void bench_free_frame(void *p)
{
    struct waiting *waiting = p;
    g_byte_array_free(waiting->frame, TRUE);
    g_free(waiting->text);
    g_free(waiting);
}

static void on_next_frame(void *data, uint32_t argument)
{
    struct end *end = data;
    const struct waiting *first = end->frames->pdata[0];
    (void)argument;
    send_frame(end, first->text, first->frame);
    g_ptr_array_remove_index(end->frames, 0);
}

/* The line is in use from then on by so many bytes, and by the silence behind them. */
static void occupy(struct end *end, uint64_t at_us, unsigned bytes)
{
    uint64_t bits = lex_format_bits(&end->of->format) * UINT64_C(1000000) * bytes;
    end->free_us = at_us + bits / end->of->baud + end->of->gap * UINT64_C(1000) + BETWEEN_US;
}

/* Now, or behind the frames before it and their silence. Takes the frame over. */
static void add_frame(struct end *end, const char *text, GByteArray *frame)
{
    struct world *world = end->board->bench->world;
    uint64_t at_us = MAX(world->now_us, end->free_us);
    struct waiting *waiting = g_new0(struct waiting, 1);
    *waiting = (struct waiting){frame, g_strdup(text)};
    occupy(end, at_us, frame->len);
    g_ptr_array_add(end->frames, waiting);
    if (at_us == world->now_us)
        on_next_frame(end, 0);
    else
        world_at(world, at_us, on_next_frame, end, 0);
}

/* ---- a sender that never stops ---- */

bool bench_repeats(const struct end *end)
{
    return end->repeats == REPEATS_ON;
}

/* The frame of the sticks as they stand, which nobody reports: unless one of a command is due. */
static void on_repeat(void *data, uint32_t argument)
{
    struct end *end = data;
    struct world *world = end->board->bench->world;
    (void)argument;
    if (end->repeats == REPEATS_OFF) {
        end->repeats = REPEATS_NONE;
        return;
    }
    if (!end->frames->len && world->now_us >= end->free_us) {
        GByteArray *frame = sticks_frame(end->of, &end->sticks);
        bench_type(end, (const char *)frame->data, frame->len);
        occupy(end, world->now_us, frame->len);
        g_byte_array_free(frame, TRUE);
        end->sticks_us = world->now_us;
    }
    world_at(world, world->now_us + end->of->layout->every * UINT64_C(1000), on_repeat, end, 0);
}

static void begin_repeats(struct end *end)
{
    struct bench *bench = end->board->bench;
    if (!end->of->layout->every || bench->options->single) return;
    enum repeats before = end->repeats;
    end->repeats = REPEATS_ON;
    if (before != REPEATS_NONE) return; /* its next one is on its way */
    world_at(bench->world, bench->world->now_us + end->of->layout->every * UINT64_C(1000),
             on_repeat, end, 0);
}

void bench_renew_sticks(struct board *board)
{
    for (unsigned i = 0; i < board->ends->len; i++)
        ((struct end *)board->ends->pdata[i])->sticks_new = true;
}

bool bench_move_sticks(struct end *end, const char *text)
{
    const struct lex_link *of = end->of;
    struct world *world = end->board->bench->world;
    struct sticks before = end->sticks;
    bool gone = !end->sticks_us || end->sticks_new ||
                world->now_us - end->sticks_us + EARLY_US >= of->lost * UINT64_C(1000);
    if (!end->sticks_us) sticks_rest(of, &before);
    before.failsafe = false;
    if (gone) sticks_release(of, &before);
    struct sticks after = before;
    bool set = sticks_set(of, &after, text);
    if (!set && !strcmp(text, "off") && end->repeats == REPEATS_ON) {
        end->repeats = REPEATS_OFF;
        bench_tell_text(end, SIGHT_SAID, "(off)", strlen("(off)"));
        return true;
    }
    if (!set) {
        char *why = g_strdup_printf("\"%s\": no channel has it", text);
        bench_tell_text(end, SIGHT_LOST, why, strlen(why));
        g_free(why);
        return false;
    }
    bool first = sticks_leave(of, &before, text) || gone;
    if (first) add_frame(end, "(at rest)", sticks_frame(of, &before));
    add_frame(end, text, sticks_frame(of, &after));
    end->sticks = after;
    end->sticks_new = after.failsafe;
    begin_repeats(end);
    return true;
}
