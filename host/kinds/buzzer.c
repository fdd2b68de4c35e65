/* Buzzers: on or off at a pin, or with a pitch at a PWM channel.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/steady.c. */
#include "kinds/shared.h"

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    return kind_wire(out, all, LEX_WIRE_TONE);
}

static bool put(struct build *b, const struct lex_output *out)
{
    if (out->pwm) build_need(b, RLX_BIT_TONE);
    return kind_put_steady(b, out);
}

static char *state(const struct lex_driven *driven, const struct lex_output *out)
{
    return out->pwm ? g_strdup_printf("%uHz", driven->number[out->pin])
                    : kind_level_state(driven, out);
}

static bool sounds(const struct lex_driven *driven, const struct lex_output *out)
{
    return out->pwm ? driven->number[out->pin] : kind_level(driven, out);
}

static const char *is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    return sounds(driven, out) ? "on" : "off";
}

static const char *const *classes(const struct lex_output *out)
{
    static const char *const switched[] = {"off", "on", NULL};
    (void)out;
    return switched;
}

static bool is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    return out->pwm ? !sounds(driven, out) : kind_level_is_safe(driven, out);
}

static unsigned from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    return out->pwm ? value : kind_level_from_safe(out, is, value);
}

static char *state_at(const struct lex_output *out, unsigned percent)
{
    (void)out;
    return percent ? NULL : g_strdup("off");
}

static const struct attribute attributes[] = {
    {"pin", kind_read_pin, 0},         {"pwm", kind_read_pwm, 0},
    {"active", kind_read_active, 0},   {"safe", kind_read_safe, 0},
    {"expires", kind_read_expires, 0}, {"lost", kind_read_lost, 0},
    {"only", kind_read_only, 0},       {"shows", kind_read_shows, 0},
    {"by", kind_read_by, 0},           {NULL, NULL, 0}};

const struct lex_kind lex_kind_buzzer = {.values = 1,
                                         .slot = "{on|off}",
                                         .verb = "on",
                                         .switches = true,
                                         .tells = kind_tells_on,
                                         .words = {"on", "off"},
                                         .wants = "pin N' or 'pwm N at 1kHz",
                                         .attributes = attributes,
                                         .read_safe = kind_safe_level,
                                         .check = kind_check_placed,
                                         .slots = kind_slots_switch,
                                         .wires = wires,
                                         .put = put,
                                         .wiring = kind_wiring,
                                         .safe_text = kind_level_text,
                                         KIND_SEEN()};
