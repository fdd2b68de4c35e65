#include "serial.h"

#define BITS_A_BYTE 10

/* When a byte that begins now, or when the wire is free, has arrived. */
static uint64_t arrival(struct wire *wire, uint64_t now_us, unsigned baud)
{
    if (now_us > wire->free_us) {
        wire->free_us = now_us;
        wire->left = 0;
    }
    uint64_t total = BITS_A_BYTE * UINT64_C(1000000) + wire->left;
    wire->free_us += total / baud;
    wire->left = total % baud;
    return wire->free_us;
}

/* Through a bridge: when the clump that the byte is in is sent, and so much later. */
static uint64_t through_air(const struct serial *serial)
{
    uint64_t now = serial->world->now_us, clump = serial->faults.clump_us;
    if (clump) now = (now / clump + 1) * clump;
    return now + serial->faults.late_us;
}

static bool is_bridged(const struct serial *serial)
{
    return serial->draw && (serial->faults.late_us || serial->faults.clump_us);
}

static void bridge_gives(void *data, uint32_t byte)
{
    struct serial *serial = data;
    if (serial->device && !serial->faults.gone)
        device_in(serial->device, SIM_RECEIVED, serial->uart, byte);
}

static void bridge_shows(void *data, uint32_t byte)
{
    struct serial *serial = data;
    if (!serial->faults.gone) serial->on_byte(serial->user, serial, (uint8_t)byte);
}

static void device_gets(void *user, uint8_t byte, bool fault)
{
    struct serial *serial = user;
    if (!serial->device) return;
    if (is_bridged(serial) && !fault) {
        world_at(serial->world, through_air(serial), bridge_gives, serial, byte);
        return;
    }
    device_in(serial->device, fault ? SIM_FAULT : SIM_RECEIVED, serial->uart, byte);
}

/* A terminal shows what it has read, also where it was no byte. */
static void terminal_gets(void *user, uint8_t byte, bool fault)
{
    struct serial *serial = user;
    (void)fault;
    if (is_bridged(serial))
        world_at(serial->world, through_air(serial), bridge_shows, serial, byte);
    else
        serial->on_byte(serial->user, serial, byte);
}

static unsigned sender_baud(const struct serial *serial)
{
    return serial->draw && serial->faults.baud ? serial->faults.baud : serial->baud;
}

void serial_faults(struct serial *serial, const struct faults *faults, struct draw *draw)
{
    serial->faults = *faults;
    serial->draw = draw;
}

struct serial *serial_new(struct world *world, unsigned baud, uint8_t uart)
{
    struct serial *serial = g_new0(struct serial, 1);
    serial->world = world;
    serial->baud = baud;
    serial->uart = uart;
    serial->typed = g_byte_array_new();
    serial->at_device = sampler_new(world, device_gets, serial);
    serial->at_terminal = sampler_new(world, terminal_gets, serial);
    return serial;
}

void serial_free(struct serial *serial)
{
    g_byte_array_free(serial->typed, TRUE);
    sampler_free(serial->at_device);
    sampler_free(serial->at_terminal);
    g_free(serial);
}

static void type_next(struct serial *serial);

static void on_next_key(void *data, uint32_t unused)
{
    (void)unused;
    type_next(data);
}

static void at_device(void *data, uint32_t byte)
{
    struct serial *serial = data;
    if (serial->draw && serial->faults.typing_us)
        world_at(serial->world, serial->world->now_us + serial->faults.typing_us, on_next_key,
                 serial, 0);
    else
        type_next(serial); /* the wire is free before the device has looked at the byte */
    if (serial->device && !serial->draw)
        device_in(serial->device, SIM_RECEIVED, serial->uart, byte);
}

static void type_next(struct serial *serial)
{
    serial->typing = serial->typed_begun < serial->typed->len;
    if (!serial->typing) {
        g_byte_array_set_size(serial->typed, serial->typed_begun = 0);
        return;
    }
    uint8_t byte = serial->typed->data[serial->typed_begun++];
    const struct faults *faults = &serial->faults;
    if (serial->draw && !faults->open && !faults->crossed && !faults->gone)
        sampler_send(serial->at_device, byte, sender_baud(serial), serial->baud, faults,
                     serial->draw);
    world_at(serial->world, arrival(&serial->to_device, serial->world->now_us, sender_baud(serial)),
             at_device, serial, byte);
}

void serial_type(struct serial *serial, const uint8_t *bytes, size_t count)
{
    g_byte_array_append(serial->typed, bytes, (guint)count);
    if (!serial->typing) type_next(serial);
}

static void at_terminal(void *data, uint32_t byte)
{
    struct serial *serial = data;
    if (!serial->draw) serial->on_byte(serial->user, serial, (uint8_t)byte);
    if (serial->device) device_in(serial->device, SIM_SENT, serial->uart, 0);
}

void serial_send(struct serial *serial, uint8_t byte)
{
    const struct faults *faults = &serial->faults;
    if (serial->draw && !faults->open && !faults->crossed && !faults->no_answers && !faults->gone)
        sampler_send(serial->at_terminal, byte, serial->baud, sender_baud(serial), faults,
                     serial->draw);
    world_at(serial->world, arrival(&serial->to_terminal, serial->world->now_us, serial->baud),
             at_terminal, serial, byte);
}
