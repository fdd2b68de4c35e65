/* Motors: a speed in one or two directions, with a ramp, a brake, a dead time and a travel.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/motor.c. */
#include "kinds/shared.h"

static bool read_direction(struct statement *st, void *target)
{
    return statement_pin(st, &((struct lex_output *)target)->left.direction);
}

static bool read_brake(struct statement *st, void *target)
{
    return statement_pin(st, &((struct lex_output *)target)->left.brake);
}

/* and N: the channel of the other half-bridge */
static bool read_and(struct statement *st, void *target)
{
    return statement_number(st, "a PWM channel", 0, 255,
                            &((struct lex_output *)target)->left.other);
}

static bool read_reversed(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_output *)target)->left.reversed = true;
    return true;
}

static bool read_forward(struct statement *st, void *target)
{
    return kind_read_way_only(st, target, RLX_GOES_FORWARD);
}

static bool read_back(struct statement *st, void *target)
{
    return kind_read_way_only(st, target, RLX_GOES_BACK);
}

static char *slots(const struct lex_output *out)
{
    (void)out;
    return g_strdup("{level -100..100%}");
}

/* That its travel time is over. */
static bool tells(const struct lex_output *out)
{
    return out->travel != 0;
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    return kind_wires_of(&out->left, "", all);
}

static bool put(struct build *b, const struct lex_output *out)
{
    kind_put_sides(b, out, 1);
    return true;
}

static char *wiring(const struct lex_output *out)
{
    GString *text = g_string_new(NULL);
    kind_drive_text(text, &out->left, "");
    return g_string_free(text, FALSE);
}

static const struct attribute attributes[] = {{"pwm", kind_read_pwm, 0},
                                              {"safe", kind_read_safe, 0},
                                              {"direction", read_direction, 0},
                                              {"brake", read_brake, 0},
                                              {"and", read_and, 0},
                                              {"reversed", read_reversed, 0},
                                              {"ramp", kind_read_ramp, 0},
                                              {"dead", kind_read_dead, 0},
                                              {"travel", kind_read_travel, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {"only", kind_read_only, 0},
                                              {"by", kind_read_by, 0},
                                              {"forward", read_forward, 0},
                                              {"back", read_back, 0},
                                              {NULL, NULL, 0}};

const struct lex_kind lex_kind_motor = {.ways = {"forward", "back"},
                                        .call = KIND_CALL_VERB,
                                        .levels = LEX_LEVELS_SIGNED,
                                        .values = 1,
                                        .need = RLX_BIT_MOTORS,
                                        .waits = true,
                                        .slot = "{level -100..100%}",
                                        .verb = "stop",
                                        .turns = true,
                                        .wants = "pwm N at 20kHz",
                                        .safe = "0%",
                                        .unsaid = "stand",
                                        .unreached = "standing",
                                        .gentle = "ramp 300ms",
                                        .passes = true,
                                        .attributes = attributes,
                                        .read_safe = kind_safe_stop,
                                        .check = kind_check_placed,
                                        .slots = slots,
                                        .tells = tells,
                                        .wires = wires,
                                        .put = put,
                                        .wiring = wiring,
                                        .safe_text = kind_stop_text,
                                        KIND_SEEN(kind_turning_)};
