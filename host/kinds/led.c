/* Leds: on, off or a level by PWM, which fade, blink, and show a link's state.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/steady.c and lamp.c. */
#include "kinds/shared.h"

static bool read_fade(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return statement_time_by(st, "the time of a fade", 1, LEX_RAMP_MOST, &out->fade, &out->ramp_by);
}
KIND_READ_NAME(curve, "a curve: linear, eye, or a setting")

static char *slots(const struct lex_output *out)
{
    return g_strdup(out->pwm ? "{level 0..100%}" : "{on|off}");
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    return kind_wire(out, all, LEX_WIRE_DUTY);
}

static const struct attribute attributes[] = {
    {"pin", kind_read_pin, 0},       {"pwm", kind_read_pwm, 0},
    {"active", kind_read_active, 0}, {"safe", kind_read_safe, 0},
    {"curve", read_curve, 0},        {"fade", read_fade, 0},
    {"shows", kind_read_shows, 0},   {"expires", kind_read_expires, 0},
    {"lost", kind_read_lost, 0},     {"only", kind_read_only, 0},
    {"by", kind_read_by, 0},         {NULL, NULL, 0}};

const struct lex_kind lex_kind_led = {.levels = LEX_LEVELS_PWM,
                                      .values = 1,
                                      .slot = "{on|off|toggle}",
                                      .verb = "on",
                                      .switches = true,
                                      .tells = kind_tells_on,
                                      .words = {"on", "off"},
                                      .wants = "pin N' or 'pwm N at 1kHz",
                                      .attributes = attributes,
                                      .read_safe = kind_safe_level,
                                      .check = kind_check_placed,
                                      .slots = slots,
                                      .wires = wires,
                                      .put = kind_put_steady,
                                      .wiring = kind_wiring,
                                      .safe_text = kind_level_text,
                                      KIND_SEEN(kind_level_)};
