/* Inputs: levels that are debounced, and their events.
 * A level counts when it has lasted for its debounce time.
 * It moves no output. */
#include "steps.h"

#if RLX_HAS_INPUTS

static uint8_t n_inputs(const struct rlx_device *d)
{
    return rlx_rows_of(d, RLX_IMG_INPUTS);
}

static rlx_rom input_row(const struct rlx_device *d, uint8_t input)
{
    return rlx_part(d, RLX_IMG_INPUTS) + 1 + (unsigned)input * RLX_INP_ROW;
}

static void send_change(struct rlx_device *d, uint8_t input, uint8_t field)
{
    rlx_source_event(d, input, 0, field);
#if RLX_INPUTS_ACT
    rlx_acts(d, input, field);
#endif
}

static bool pin_is_on(const struct rlx_device *d, rlx_rom row)
{
    bool high = rlx_port_pin_read(d->port, RLX_ROM8(row + RLX_INP_PIN));
    return high != (RLX_ROM8(row + RLX_INP_FLAGS) & RLX_INP_ACTIVE_LOW);
}

static uint16_t debounce_ms(const struct rlx_device *d, rlx_rom row)
{
    uint16_t ms = RLX_ROM16(row + RLX_INP_DEBOUNCE);
#if RLX_HAS_OWN_PAUSE
    if (ms & RLX_BY_SETTING) ms = (uint16_t)*rlx_setting_at(d, (uint8_t)ms);
#endif
    (void)d;
    return ms;
}

/* The level is debounced. */
static void input_changed(struct rlx_device *d, uint8_t input, rlx_rom row)
{
    struct rlx_input *in = rlx_input_at(d, input);
    uint16_t held = RLX_ROM16(row + RLX_INP_HELD);
    in->on = in->raw;
    in->holds = in->on && held;
    in->held_due = d->now + held;
#if RLX_HAS_PERMITS
    rlx_drive_permits(d, input);
#endif
    send_change(d, input, in->on ? RLX_EVT_ON : RLX_EVT_OFF);
}

/* Milliseconds until the input needs the next look; RLX_FOREVER: when its pin changes. */
static uint32_t run_input(struct rlx_device *d, uint8_t input)
{
    struct rlx_input *in = rlx_input_at(d, input);
    rlx_rom row = input_row(d, input);
    bool raw = pin_is_on(d, row);
    uint32_t wait = RLX_FOREVER;
    if (raw != in->raw) { /* each change begins anew */
        in->raw = raw;
        in->bounces = true;
        in->debounce_due = d->now + debounce_ms(d, row);
    }
    if (in->bounces && (int32_t)(d->now - in->debounce_due) >= 0) {
        in->bounces = false;
        if (in->on != in->raw) input_changed(d, input, row);
    }
    if (in->holds && (int32_t)(d->now - in->held_due) >= 0) {
        uint16_t repeat = RLX_ROM16(row + RLX_INP_REPEAT);
        in->holds = repeat != 0;
        in->held_due = d->now + repeat;
        send_change(d, input, RLX_EVT_HELD);
    }
    if (in->bounces) wait = in->debounce_due - d->now;
    if (in->holds && in->held_due - d->now < wait) wait = in->held_due - d->now;
    return wait;
}

void rlx_inputs_init(struct rlx_device *d)
{
    uint8_t n = n_inputs(d);
    for (uint8_t i = 0; i < n; i++) {
        struct rlx_input *in = rlx_input_at(d, i);
        rlx_rom row = input_row(d, i);
        rlx_port_pin_watch(d->port, RLX_ROM8(row + RLX_INP_PIN),
                           (enum rlx_pull)(RLX_ROM8(row + RLX_INP_FLAGS) >> RLX_INP_PULL));
        in->on = in->raw = pin_is_on(d, row);
        in->bounces = in->holds = false;
        rlx_source_event(d, i, 0, in->on ? RLX_EVT_ON : RLX_EVT_OFF); /* it does nothing yet */
    }
}

uint32_t rlx_inputs_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
    uint8_t n = n_inputs(d);
    for (uint8_t i = 0; i < n; i++) {
        uint32_t due = run_input(d, i);
        if (due < wait) wait = due;
    }
    return wait;
}

#if RLX_HAS_REVERSERS || RLX_HAS_STEPPERS
RLX_INTERNAL bool rlx_input_is_raw(const struct rlx_device *d, uint8_t input)
{
    return pin_is_on(d, input_row(d, input));
}
#endif

RLX_INTERNAL bool rlx_in_is_on(const struct rlx_device *d, uint8_t input)
{
    return rlx_input_at(d, input)->on;
}
#endif
