/* Servos: the horn goes to its pulse as fast as it can.
 * It wakes at its first pulse.
 * It has no ends of its own. */
#include "world/loads/load_parts.h"

#define SERVO_US 7 /* a servo's way in a millisecond, in microseconds of its pulse */

static void on_slew(void *data, uint32_t argument)
{
    struct load *load = data;
    if (argument != load->pulse || !load->pulse) return;
    load->horn = (unsigned)load_nearer((int32_t)load->horn, (int32_t)load->pulse, SERVO_US);
    if (load->horn != load->pulse)
        world_at(load->all->world, load_in_us(load, 1000), on_slew, load, argument);
    else if (load->far)
        load_tell(load, "has arrived");
}

static void set_pulse(struct load *load, unsigned us)
{
    bool went = load->pulse && load->horn != load->pulse && us == load->pulse;
    load->pulse = us;
    if (!load->horn) load->horn = us; /* it wakes at its first pulse */
    load->far = MAX(us, load->horn) - MIN(us, load->horn) > 100;
    if (us && us != load->horn && !went)
        world_at(load->all->world, load_in_us(load, 1000), on_slew, load, us);
}

static void servo_pulse(struct load *load, struct sim_event event)
{
    if (event.kind == SIM_PULSE && event.index == load->out->pin) set_pulse(load, event.value);
}

/* In microseconds of its pulse. */
static int servo_place(const struct load *load)
{
    return (int)load->horn;
}

const struct load_kind load_kind_servo = {.out = servo_pulse, .place = servo_place};
