/* A device's or controller's radio: what it sends into the air and gets out of it.
 * Packets wait in a small queue while the radio is busy.
 * Loss and damage are made in radio.c. */
#include "world/media/aerial.h"

#include <string.h>

#include "rlx/port.h"

#define ERRANDS 32

static void on_air(void *user, const uint8_t *bytes, unsigned count)
{
    struct aerial *a = user;
    device_packet(a->device, a->link, bytes, count);
}

struct aerial *aerial_new(struct radio *radio, struct device *device, uint8_t link)
{
    struct aerial *a = g_new0(struct aerial, 1);
    *a = (struct aerial){.radio = radio, .device = device, .link = link};
    a->node = radio_join(radio, on_air, a);
    return a;
}

void aerial_out(struct aerial *a, struct sim_event event)
{
    if (event.kind != SIM_PACKET || event.index != a->link) return;
    if (event.value < 256) {
        if (a->count < sizeof a->packet) a->packet[a->count++] = (uint8_t)event.value;
        return;
    }
    radio_send(a->radio, a->node, a->packet, a->count);
    a->count = 0;
}

/* ---- a controller: the chip's own retry client, on a board that is only a radio ---- */

struct controller {
    struct world *world;
    struct radio *radio;
    unsigned node;
    struct sim_board board;
    struct rlx_client client;
    struct rlx_client_command queue[ERRANDS];
    uint8_t packet[255];
    unsigned count;
    char pad;
    uint32_t wake;
    char *key, *context, *key_to_all;
    controller_told told;
    void *user;
};

static void run(struct controller *c);

static void on_wake(void *data, uint32_t number)
{
    struct controller *c = data;
    if (number == c->wake) run(c);
}

static void run(struct controller *c)
{
    uint32_t wait = rlx_client_poll(&c->client, (uint32_t)(c->world->now_us / 1000));
    c->wake++;
    if (wait != UINT32_MAX)
        world_at(c->world, (c->world->now_us / 1000 + wait) * 1000, on_wake, c, c->wake);
}

/* The retry client fills packets with blanks; the link may have another character for that. */
static void fill(uint8_t *bytes, unsigned count, char from, char to)
{
    while (count && bytes[count - 1] == (uint8_t)from) bytes[--count] = (uint8_t)to;
}

static void on_board(void *user, struct sim_event event)
{
    struct controller *c = user;
    if (event.kind != SIM_PACKET) return;
    if (event.value < 256) {
        c->packet[c->count++] = (uint8_t)event.value;
        return;
    }
    if (c->client.fixed) fill(c->packet, c->count, ' ', c->pad);
    radio_send(c->radio, c->node, c->packet, c->count);
    c->count = 0;
}

static void on_packet(void *user, const uint8_t *bytes, unsigned count)
{
    struct controller *c = user;
    if (c->client.one_way) return; /* it has no receiver */
    uint8_t packet[255];
    memcpy(packet, bytes, MIN(count, sizeof packet));
    if (c->client.fixed) fill(packet, MIN(count, sizeof packet), c->pad, ' ');
    rlx_client_receive(&c->client, packet, (uint8_t)MIN(count, sizeof packet));
    run(c);
}

static void on_told(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                    uint8_t count)
{
    struct controller *c = user;
    c->told(c->user, what, tag, text, count);
}

void controller_restart(struct controller *c, struct manner manner)
{
    c->wake++;
    c->pad = manner.pad;
    c->client = (struct rlx_client){
        .port = &c->board,
        .to = manner.to,
        .from = manner.from,
        .no_address = manner.no_address,
        .no_source = !manner.from,
        .check = manner.check,
        .one_way = manner.one_way,
        .all = manner.all,
        .fixed = manner.fixed,
        .tries = manner.tries,
        .pause_ms = manner.pause_ms,
        .window_ms = manner.window_ms,
        .key = manner.key,
        .key_count = (uint8_t)(manner.key ? strlen(manner.key) : 0),
        .key_number = manner.key_number,
        .context = manner.context,
        .key_to_all = manner.key_to_all,
        .key_to_all_count = (uint8_t)(manner.key_to_all ? strlen(manner.key_to_all) : 0),
        .key_to_all_number = manner.key_to_all_number,
        .halt_sealed = manner.halt_sealed,
        .random = rlx_port_random(&c->board),
        .queue = c->queue,
        .queue_size = ERRANDS,
        .user = c,
        .report = on_told};
    if (rlx_client_init(&c->client, manner.start) != 0)
        g_error("a controller that cannot speak so");
}

struct controller *controller_new(struct world *world, struct radio *radio, struct manner manner,
                                  controller_told told, void *user)
{
    struct controller *c = g_new0(struct controller, 1);
    c->world = world;
    c->radio = radio;
    c->told = told;
    c->user = user;
    c->key = manner.key;
    c->context = manner.context;
    c->key_to_all = manner.key_to_all;
    c->node = radio_join(radio, on_packet, c);
    sim_board_init(&c->board, on_board, c, 0, RLX_RESET_POWER);
    controller_restart(c, manner);
    if (manner.key) world_at(world, world->now_us + 10000, on_wake, c, c->wake); /* it opens */
    return c;
}

void controller_free(struct controller *c)
{
    g_free(c->key);
    g_free(c->context);
    g_free(c->key_to_all);
    g_free(c);
}

int controller_say(struct controller *c, const char *text)
{
    int said = rlx_client_send(&c->client, text);
    run(c);
    return said;
}

unsigned controller_node(const struct controller *c)
{
    return c->node;
}
