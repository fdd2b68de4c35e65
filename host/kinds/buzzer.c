/* Buzzers: on or off at a pin, or with a pitch at a PWM channel. */
#include "kinds.h"

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    return kind_wire(out, all, LEX_WIRE_TONE);
}

static bool put(struct build *b, const struct lex_output *out)
{
    if (out->pwm) build_need(b, RLX_BIT_TONE);
    return kind_put_steady(b, out);
}

static const struct attribute attributes[] = {{"pin", kind_read_pin, 0},
                                              {"pwm", kind_read_pwm, 0},
                                              {"active", kind_read_active, 0},
                                              {"safe", kind_read_safe, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {NULL, NULL, 0}};

const struct lex_kind lex_kind_buzzer = {.values = 1,
                                         .slot = "{on|off}",
                                         .verb = "on",
                                         .switches = true,
                                         .wants = "pin N' or 'pwm N at 1kHz",
                                         .attributes = attributes,
                                         .read_safe = kind_safe_level,
                                         .check = kind_check_placed,
                                         .slots = kind_slots_switch,
                                         .wires = wires,
                                         .put = put,
                                         .wiring = kind_wiring,
                                         .safe_text = kind_level_text};
