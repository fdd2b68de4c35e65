/* Wireless serial bridges: found by their exact name, connected with a code, left or lost.
 * Until they are connected their lamp blinks and nothing comes through.
 * The bytes go by the cable behind them. */
#include "world/boards/bench_parts.h"

#include <string.h>

static struct bridge *bridge_called(const struct bench *bench, const char *name)
{
    for (unsigned i = 0; i < bench->bridges->len; i++) {
        struct bridge *bridge = bench->bridges->pdata[i];
        if (!strcmp(bridge->is->name, name)) return bridge;
    }
    return NULL;
}

static bool in_reach(const struct bridge *bridge)
{
    return !bridge->end || !bridge->end->serial->faults.out_of_range;
}

static void tell(struct end *end, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void tell(struct end *end, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    bench_tell_about(end->board, end, SIGHT_BRIDGE, end->name, text);
    g_free(text);
}

/* Who is connected with it now, or nobody: what comes through, its lamp and its state pin. */
static void set_partner(struct bridge *bridge, struct end *partner)
{
    bool was = bridge->partner != NULL;
    bridge->partner = partner;
    bridge->version++;
    if (!bridge->end || was == (partner != NULL)) return;
    bridge->end->serial->apart = partner != bridge->end;
    if (!partner) hop_cut(bridge->end->serial->hop);
    tell(bridge->end, partner ? "the bridge's lamp is on" : "the bridge's lamp blinks");
    bench_show_state(bridge->end);
}

void bench_begin_bridges(struct bench *bench)
{
    const struct world_file *file = bench->options->world;
    for (unsigned i = 0; i < file->bridges->len; i++) {
        struct bridge *bridge = g_new0(struct bridge, 1);
        bridge->is = &g_array_index(file->bridges, struct world_bridge, i);
        g_ptr_array_add(bench->bridges, bridge);
        if (bridge->is->stranger) continue;
        struct board *board = bench->boards->pdata[bridge->is->place.device];
        bridge->end = board->ends->pdata[bridge->is->place.link];
        bridge->end->bridge = bridge;
        bridge->end->serial->apart = true;
    }
}

static void tell_who_is_there(struct end *end, const char *name)
{
    GString *all = g_string_new(NULL);
    const struct bench *bench = end->board->bench;
    for (unsigned i = 0; i < bench->bridges->len; i++) {
        const struct bridge *bridge = bench->bridges->pdata[i];
        if (in_reach(bridge))
            g_string_append_printf(all, "%s%s", all->len ? ", " : "", bridge->is->name);
    }
    tell(end, "no bridge %s in reach, only %s", name, all->len ? all->str : "silence");
    g_string_free(all, TRUE);
}

void bench_connect(struct end *end, const char *name, const char *code)
{
    struct bridge *bridge = bridge_called(end->board->bench, name);
    if (end->connected) {
        tell(end, "connected with %s already", end->connected->is->name);
    } else if (!bridge || !in_reach(bridge)) {
        tell_who_is_there(end, name);
    } else if (bridge->partner) {
        tell(end, "%s is taken", name);
    } else if (bridge->is->code && g_strcmp0(bridge->is->code, code) != 0) {
        tell(end, "%s refused: %s", name, code ? "a wrong code" : "it wants a code");
    } else {
        tell(end, "connected with %s%s", name, bridge->end == end ? "" : ", another one");
        end->connected = bridge;
        set_partner(bridge, end);
    }
}

bool bench_connect_own(struct end *end)
{
    const struct bridge *own = end->bridge;
    if (own) bench_connect(end, own->is->name, own->is->code);
    return own != NULL;
}

void bench_leave(struct end *end)
{
    struct bridge *bridge = end->connected;
    if (!bridge) return;
    end->connected = NULL;
    tell(end, "left %s", bridge->is->name);
    set_partner(bridge, NULL);
}

void bench_hang_up(struct board *board, unsigned pin)
{
    for (unsigned i = 0; i < board->ends->len; i++) {
        struct end *end = board->ends->pdata[i];
        const struct lex_link *of = end->of;
        if (of->hang_pin != pin || board->driven.pin[pin] == of->hang_low) continue;
        tell(end, "hung up by the device");
        struct end *partner = end->bridge ? end->bridge->partner : NULL;
        if (partner)
            bench_leave(partner);
        else if (!end->bridge && of->state_pin != LEX_NO_PIN)
            bench_set_pin(board, of->state_pin, of->state_low);
    }
}

static void on_notice(void *data, uint32_t version)
{
    struct bridge *bridge = data;
    if (version != bridge->version || in_reach(bridge)) return;
    if (bridge->partner) bridge->partner->connected = NULL;
    set_partner(bridge, NULL);
}

void bench_reach(struct end *end)
{
    struct bridge *bridge = end->bridge;
    struct world *world = end->board->bench->world;
    if (in_reach(bridge)) return;
    hop_cut(end->serial->hop);
    world_at(world, world->now_us + bridge->is->notices_us, on_notice, bridge, bridge->version);
}
