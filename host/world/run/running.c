/* A device that runs in a world, whatever it is made of: switched on and off, woken, told.
 * Events go in and come out at the world's time; several devices live side by side.
 * What runs is in tables.c, lockstep.c and outside.c; links' other ends are the bench's. */
#include "world/run/running_parts.h"

#include "rlx/rlx.h"

void device_fail(struct device *device, const char *format, ...)
{
    va_list args;
    if (device->failure) return;
    va_start(args, format);
    device->failure = g_strdup_vprintf(format, args);
    va_end(args);
}

static void run(struct device *device)
{
    if (!device->failure) device->kind->run(device);
}

static void on_wake(void *data, uint32_t number)
{
    struct device *device = data;
    if (number == device->wake) run(device);
}

uint64_t device_counted_ms(const struct device *device)
{
    int64_t us = (int64_t)device->world->now_us;
    return (uint64_t)(us + us / 1000 * device->ppm / 1000) / 1000;
}

void device_wake_at(struct device *device, uint64_t at_us)
{
    world_at(device->world, at_us, on_wake, device, ++device->wake);
}

void device_sleep(struct device *device, uint32_t ms)
{
    if (ms == RLX_FOREVER) {
        device->wake++;
        return;
    }
    uint64_t at_us = (device_counted_ms(device) + ms) * 1000;
    if (device->ppm)
        at_us = (uint64_t)((double)at_us * 1e6 / (1e6 + device->ppm)) + 1000; /* at the latest */
    device_wake_at(device, at_us);
}

void device_hand_wiring(struct device *device)
{
    for (unsigned i = 0; i < 256; i++) {
        if (device->paced[i % SIM_UARTS] && i < SIM_UARTS)
            device->kind->hand(device, (struct sim_event){SIM_PACED, (uint8_t)i, 0, 1});
        if (device->pin_told[i])
            device->kind->hand(device,
                               (struct sim_event){SIM_PIN_IN, (uint8_t)i, 0, device->pin[i]});
    }
}

static void start(struct device *device, enum rlx_reset cause)
{
    device->start_ms = device->first_ms - (uint32_t)device_counted_ms(device);
    device->on = true;
    device->first_ms = 0;
    device->kind->start(device, cause);
}

void device_listen(struct device *device, device_out out, void *user)
{
    device->out = out;
    device->user = user;
}

void device_start(struct device *device, device_out out, void *user)
{
    device_listen(device, out, user);
    start(device, RLX_RESET_POWER);
}

void device_clock(struct device *device, int32_t ppm)
{
    device->ppm = ppm;
}

void device_pace(struct device *device, uint8_t link)
{
    if (link < SIM_UARTS) device->paced[link] = true;
}

void device_off(struct device *device)
{
    if (!device->on) return;
    device->on = false;
    if (device->kind->end) device->kind->end(device);
    device->wake++; /* what it slept for is forgotten */
    device->busy_us = 0;
}

void device_on(struct device *device, enum rlx_reset cause)
{
    if (device->failure || device->on) return;
    if (!device->kind->begin || device->kind->begin(device)) start(device, cause);
}

void device_reset(struct device *device, enum rlx_reset cause)
{
    if (device->failure) return;
    device_off(device);
    device_on(device, cause);
}

/* Something came: it wakes what sleeps, and does not hurry code that runs. */
static void interrupt(struct device *device)
{
    if (!device->busy_us) run(device);
}

static void tell_heard(struct device *device, enum sim_kind kind, uint8_t link,
                       const uint8_t *bytes, unsigned count)
{
    if (device->heard && device->on && !device->failure)
        device->heard(device->heard_user, kind, link, bytes, count);
}

void device_on_heard(struct device *device, device_heard heard, void *user)
{
    device->heard = heard;
    device->heard_user = user;
}

void device_in(struct device *device, enum sim_kind kind, uint8_t index, uint32_t value)
{
    struct sim_event event = {(uint8_t)kind, index, 0, value};
    const uint8_t byte = (uint8_t)value;
    if (kind == SIM_RECEIVED || kind == SIM_FAULT)
        tell_heard(device, kind, index, &byte, kind == SIM_RECEIVED);
    if (kind == SIM_PIN_IN) device->pin_told[index] = true, device->pin[index] = value != 0;
    if (!device->failure && device->on && device->kind->hand(device, event)) interrupt(device);
}

bool device_pin(const struct device *device, uint8_t pin, bool *high)
{
    *high = device->pin[pin];
    return device->pin_told[pin];
}

void device_stand_idle(struct device *device)
{
    device->idle = true;
}

void device_on_call(struct device *device, device_called called, void *user)
{
    device->called = called;
    device->called_user = user;
}

void device_packet(struct device *device, uint8_t index, const uint8_t *bytes, unsigned count)
{
    tell_heard(device, SIM_PACKET_IN, index, bytes, count);
    for (unsigned i = 0; i <= count && device->on && !device->failure; i++) {
        struct sim_event event = {SIM_PACKET_IN, index, 0, i < count ? bytes[i] : 256u};
        if (!device->kind->hand(device, event)) return;
    }
    if (device->on) interrupt(device);
}

bool device_is_busy(const struct device *device)
{
    return device->busy_us > 0;
}

const char *device_failure(const struct device *device)
{
    return device->failure;
}

void device_free(struct device *device)
{
    if (!device) return;
    device->kind->free(device);
    g_free(device->failure);
    g_free(device);
}
