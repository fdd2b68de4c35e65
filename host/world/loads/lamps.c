/* Lamps, as the eye sees them; and what shows nothing.
 * The lightness is CIE 1976, computed here independently of src/drive/lamp.c on purpose: each
 * checks the other.
 * A buzzer is heard, and a group has nothing of its own. */
#include "world/loads/load_parts.h"

static void led_out(struct load *load, struct sim_event event)
{
    const struct lex_output *out = load->out;
    bool on = (event.value != 0) != out->active_low;
    if (event.index != out->pin || event.kind != (out->pwm ? SIM_DUTY : SIM_PIN)) return;
    load->duty = out->pwm ? (out->active_low ? 65535 - event.value : event.value) : on * 65535u;
}

/* The duty of a lightness: CIE 1976, as integers of 65535. */
static uint64_t duty_of_lightness(unsigned percent)
{
    uint64_t a = percent + 16;
    if (percent <= 8) return (uint64_t)percent * 655350 / 9033;
    return a * a * a * 65535 / (116u * 116u * 116u);
}

unsigned loads_lightness(unsigned duty)
{
    unsigned percent = 0;
    while (percent < 100 && duty_of_lightness(percent) < duty) percent++;
    /* the nearer one of two */
    if (percent && duty_of_lightness(percent) - duty > duty - duty_of_lightness(percent - 1))
        percent--;
    return percent;
}

const struct load_kind load_kind_led = {.out = led_out, .breaks = LOAD_DEAD};
const struct load_kind load_kind_buzzer = {0};
const struct load_kind load_kind_group = {0};
