/* Steppers: the carriage follows each pulse, up to its stops, and pushes its home switch.
 * Without current, jammed or at a stop it loses the steps.
 * It counts from its switch, whatever the device believes. */
#include "world/loads/load_parts.h"

/* Steps that it has beyond each end of its range, or beyond home. */
static int32_t beyond(const struct lex_element *range)
{
    return ABS(range->to_high - range->to_low) / 32 + 8;
}

static int32_t lowest(const struct lex_element *range)
{
    return MIN(MIN(range->to_low, range->to_high), 0);
}

static int32_t highest(const struct lex_element *range)
{
    return MAX(MAX(range->to_low, range->to_high), 0);
}

static void push_home(struct load *load)
{
    struct sensor *home = load_sensor(load->all, load->out->home.until);
    bool downwards = highest(load->out->range) > 0;
    bool on = downwards ? load->steps <= 0 : load->steps >= 0;
    if (on == load->shaft[0].closed || !home) return;
    load->shaft[0].closed = on; /* a hand may push it, too */
    if (on) load_tell(load, "at home");
    load_set_sensor(home, on);
}

/* Why it does not follow; NULL: it does. */
static const char *why_not(const struct load *load, int32_t to)
{
    const struct lex_element *range = load->out->range;
    if (load->free) return "driven without current";
    if (load->shaft[0].jammed) return "jammed, and driven";
    bool stops = to < lowest(range) - beyond(range) || to > highest(range) + beyond(range);
    return stops ? "driven against its end" : NULL;
}

/* What was sent since it was asked last. */
static void follow(struct load *load)
{
    unsigned sent = sim_steps_sent(&load->run, load->all->world->now_us);
    for (; load->taken < sent; load->taken++) {
        int32_t to = load->steps + (load->back ? -1 : 1);
        const char *why = why_not(load, to);
        if (why && !load->ends) {
            load->all->stalls++;
            load_tell(load, why);
        }
        load->ends = why != NULL;
        if (!why) load->steps = to;
    }
    push_home(load);
}

static void on_pulses(void *data, uint32_t argument)
{
    struct load *load = data;
    (void)argument;
    load->shaft[0].ticking = false;
    follow(load);
    if (load->taken == load->run.count) return;
    load->shaft[0].ticking = true;
    world_at(load->all->world, load_in_us(load, 1000), on_pulses, load, 0);
}

static void stepper_out(struct load *load, struct sim_event event)
{
    const struct lex_output *out = load->out;
    bool pin = event.kind == SIM_PIN, high = event.value != 0;
    if (pin && (event.index == out->left.direction || event.index == out->enable)) follow(load);
    if (pin && event.index == out->left.direction) load->back = high != out->left.reversed;
    if (pin && event.index == out->enable) load->free = high == out->active_low;
    if (event.kind != SIM_STEPS || event.index != out->pin) return;
    follow(load);
    sim_steps_begin(&load->run, load->all->world->now_us, event.low, (uint16_t)event.value);
    load->taken = 0;
    if (!load->shaft[0].ticking) on_pulses(load, 0);
}

/* In the middle; without a home switch at 0 steps, as the device believes. */
static void begin_stepper(struct load *load)
{
    const struct lex_element *range = load->out->range;
    load->steps = load->out->home.until ? (lowest(range) + highest(range)) / 2 : 0;
}

static int stepper_place(const struct load *load)
{
    return load->steps;
}

const struct load_kind load_kind_stepper = {
    .begin = begin_stepper, .out = stepper_out, .breaks = LOAD_JAM, .place = stepper_place};
