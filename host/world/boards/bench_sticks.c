/* The sender of a link with channels: sticks and switches that stand where they were put.
 * Sends a frame for each command, and one before it where the device would otherwise not obey: with
 * the sticks at rest behind a silence, or with the switch outside the zone.
 * Where they must stand is found in lexicon/layout/sticks.c. */
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

static void on_next_frame(void *data, uint32_t argument)
{
    struct end *end = data;
    GByteArray *frame = g_steal_pointer(&end->next_frame);
    (void)argument;
    send_frame(end, end->next_text, frame);
    g_byte_array_free(frame, TRUE);
    g_clear_pointer(&end->next_text, g_free);
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
    if (!sticks_set(of, &after, text)) {
        char *why = g_strdup_printf("\"%s\": no channel has it", text);
        bench_tell_text(end, SIGHT_LOST, why, strlen(why));
        g_free(why);
        return false;
    }
    bool first = sticks_leave(of, &before, text) || gone;
    GByteArray *frame = sticks_frame(of, &after), *rest = first ? sticks_frame(of, &before) : NULL;
    end->sticks = after;
    end->sticks_new = after.failsafe;
    if (!rest) {
        send_frame(end, text, frame);
        g_byte_array_free(frame, TRUE);
        return true;
    }
    unsigned bits = lex_format_bits(&of->format) * rest->len;
    uint64_t pause = bits * UINT64_C(1000000) / of->baud + of->gap * UINT64_C(1000) + BETWEEN_US;
    if (end->next_frame) g_byte_array_free(end->next_frame, TRUE);
    end->next_frame = frame;
    g_free(end->next_text);
    end->next_text = g_strdup(text);
    send_frame(end, "(at rest)", rest);
    g_byte_array_free(rest, TRUE);
    world_at(world, world->now_us + pause, on_next_frame, end, 0);
    return true;
}
