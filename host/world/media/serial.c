/* A cable: bytes in both directions with their times, noise, loss and echo.
 * Each byte takes the time of its bits.
 * It gives the bytes no meaning. */
#include "world/media/serial.h"

#include <string.h>

/* When a byte that begins now, or when the wire is free, has arrived. */
static uint64_t arrival(struct wire *wire, uint64_t now_us, const struct manner_of_uart *sender)
{
    if (now_us > wire->free_us) {
        wire->free_us = now_us;
        wire->left = 0;
    }
    uint64_t total = lex_format_bits(&sender->format) * UINT64_C(1000000) + wire->left;
    wire->free_us += total / sender->baud;
    wire->left = total % sender->baud;
    return wire->free_us;
}

/* How the sender's end is set. */
static struct manner_of_uart sender_of(const struct serial *s)
{
    struct manner_of_uart sender = s->is;
    if (s->draw && s->faults.baud) sender.baud = s->faults.baud;
    if (s->draw && s->faults.format.data) sender.format = s->faults.format;
    return sender;
}

/* ---- what comes out at an end ---- */

/* The device's receiver is looked at: all that it kept is taken. */
static void on_service(void *data, uint32_t unused)
{
    struct serial *s = data;
    struct fifo fifo = s->fifo;
    (void)unused;
    s->fifo = (struct fifo){.n = 0};
    for (unsigned i = 0; i < fifo.n; i++)
        device_in(s->device, SIM_RECEIVED, s->uart, fifo.bytes[i]);
    if (fifo.overrun) device_in(s->device, SIM_FAULT, s->uart, 0);
}

static void to_device(struct serial *s, uint8_t byte, bool fault)
{
    uint64_t every = s->draw ? s->faults.service_us : 0;
    if (!s->device) return;
    if (!every || fault) {
        device_in(s->device, fault ? SIM_FAULT : SIM_RECEIVED, s->uart, byte);
        return;
    }
    if (s->fifo.n < MIN(s->faults.fifo, sizeof s->fifo.bytes))
        s->fifo.bytes[s->fifo.n++] = byte;
    else
        s->fifo.overrun = true;
    if (!s->fifo.armed)
        world_at(s->world, (s->world->now_us / every + 1) * every, on_service, s, 0);
    s->fifo.armed = true;
}

static void to_sender(struct serial *s, uint8_t byte, bool fault)
{
    if (s->peer) to_device(s->peer, byte, fault);
    s->on_byte(s->user, s, byte); /* a terminal shows what it has read, also where it was no byte */
}

static void hop_gives(void *user, enum hop_way way, uint8_t byte)
{
    struct serial *s = user;
    if (s->apart || (s->draw && s->faults.out_of_range)) return;
    if (way == HOP_TO_DEVICE)
        to_device(s, byte, false);
    else
        to_sender(s, byte, false);
}

static void hop_lost(void *user, enum hop_way way, unsigned bytes, bool packet)
{
    struct serial *s = user;
    (void)way;
    if (s->on_lost) s->on_lost(s->user, s, bytes, packet);
}

static void device_gets(void *user, uint8_t byte, bool fault)
{
    struct serial *s = user;
    if (!hop_is_none(s->hop) && !fault)
        hop_put(s->hop, HOP_TO_DEVICE, byte);
    else
        to_device(s, byte, fault);
}

static void sender_gets(void *user, uint8_t byte, bool fault)
{
    struct serial *s = user;
    if (!hop_is_none(s->hop))
        hop_put(s->hop, HOP_TO_SENDER, byte);
    else
        to_sender(s, byte, fault);
}

/* ---- begin and end ---- */

void serial_faults(struct serial *s, const struct faults *faults, struct draw *draw)
{
    s->faults = *faults;
    s->draw = draw;
    hop_bridge(s->hop, faults->late_us, faults->clump_us);
}

struct serial *serial_new(struct world *world, unsigned baud, uint8_t uart)
{
    struct serial *s = g_new0(struct serial, 1);
    s->world = world;
    s->is = (struct manner_of_uart){baud, {8, 1, LEX_PARITY_NONE, false}};
    s->uart = uart;
    s->typed = g_byte_array_new();
    s->loading = g_byte_array_new();
    s->hop = hop_new(world, baud, (struct hop_ends){s, hop_gives, hop_lost});
    s->at_device = sampler_new(world, device_gets, s);
    s->at_terminal = sampler_new(world, sender_gets, s);
    return s;
}

void serial_free(struct serial *s)
{
    g_byte_array_free(s->typed, TRUE);
    g_byte_array_free(s->loading, TRUE);
    hop_free(s->hop);
    sampler_free(s->at_device);
    sampler_free(s->at_terminal);
    g_free(s);
}

/* Each is what the other calls the sender. */
static void join_to(struct serial *s, struct serial *peer, struct draw *draw)
{
    s->peer = peer;
    if (!s->draw) s->draw = draw;
    if (!s->faults.baud) s->faults.baud = peer->is.baud;
    if (!s->faults.format.data) s->faults.format = peer->is.format;
}

void serial_join(struct serial *a, struct serial *b, struct draw *draw)
{
    join_to(a, b, draw);
    join_to(b, a, draw);
}

bool serial_is_busy(const struct serial *s)
{
    bool waits =
        s->to_terminal.free_us > s->world->now_us || s->to_device.free_us > s->world->now_us;
    return s->typing || waits || (s->hop && !hop_is_empty(s->hop)) || s->fifo.armed;
}

/* ---- what goes in ---- */

static bool is_cut(const struct serial *s)
{
    const struct faults *faults = &s->faults;
    return s->apart || (s->draw && (faults->open || faults->crossed || faults->out_of_range));
}

static void type_next(struct serial *s);

static void on_next_key(void *data, uint32_t unused)
{
    (void)unused;
    type_next(data);
}

static void at_device(void *data, uint32_t byte)
{
    struct serial *s = data;
    if (s->draw && s->faults.typing_us)
        world_at(s->world, s->world->now_us + s->faults.typing_us, on_next_key, s, 0);
    else
        type_next(s); /* the wire is free before the device has looked at the byte */
    uint8_t bits = (uint8_t)(byte & ((1u << s->is.format.data) - 1));
    if (!s->draw && !is_cut(s)) device_gets(s, bits, false);
    if (s->draw && s->faults.echo && !is_cut(s)) to_sender(s, (uint8_t)byte, false);
}

static void type_next(struct serial *s)
{
    s->typing = s->typed_begun < s->typed->len;
    if (!s->typing) {
        g_byte_array_set_size(s->typed, s->typed_begun = 0);
        return;
    }
    uint8_t byte = s->typed->data[s->typed_begun++];
    const struct manner_of_uart sender = sender_of(s);
    if (s->draw && !is_cut(s))
        sampler_send(s->at_device, byte, &sender, &s->is, &s->faults, s->draw);
    world_at(s->world, arrival(&s->to_device, s->world->now_us, &sender), at_device, s, byte);
}

void serial_type(struct serial *s, const uint8_t *bytes, size_t count)
{
    g_byte_array_append(s->typed, bytes, (guint)count);
    if (!s->typing) type_next(s);
}

size_t serial_waits(const struct serial *s)
{
    return s->typed->len - s->typed_begun;
}

#define OF_LOADER 256u

static void load_next(struct serial *s);

static void at_terminal(void *data, uint32_t byte)
{
    struct serial *s = data;
    bool firmware = !(byte & OF_LOADER);
    uint8_t bits = (uint8_t)(byte & ((1u << s->is.format.data) - 1));
    if (!s->draw && !is_cut(s)) sender_gets(s, bits, false);
    if (s->draw && s->faults.echo && !is_cut(s)) to_device(s, (uint8_t)byte, false);
    if (!firmware)
        load_next(s);
    else if (s->device)
        device_in(s->device, SIM_SENT, s->uart, 0);
}

static void send_as(struct serial *s, uint32_t byte, const struct manner_of_uart *device)
{
    const struct manner_of_uart sender = sender_of(s);
    if (s->draw && !is_cut(s) && !s->faults.no_answers)
        sampler_send(s->at_terminal, (uint8_t)byte, device, &sender, &s->faults, s->draw);
    world_at(s->world, arrival(&s->to_terminal, s->world->now_us, device), at_terminal, s, byte);
}

void serial_send(struct serial *s, uint8_t byte)
{
    send_as(s, byte, &s->is);
}

static void load_next(struct serial *s)
{
    struct manner_of_uart loader = s->is;
    loader.baud = s->loading_baud;
    if (s->loading_begun < s->loading->len)
        send_as(s, s->loading->data[s->loading_begun++] | OF_LOADER, &loader);
}

void serial_load(struct serial *s, const char *bytes, size_t count, unsigned baud)
{
    g_byte_array_set_size(s->loading, s->loading_begun = 0);
    g_byte_array_append(s->loading, (const uint8_t *)bytes, (guint)count);
    s->loading_baud = baud;
    load_next(s);
}
