/* Pairs: two motors, left and right, that steer.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/motor.c. */
#include "kinds/shared.h"

/* pwm N [at F] [direction P] [brake P] [reversed] */
static bool read_side(struct statement *st, struct lex_output *out, struct lex_drive *side)
{
    side->place = statement_peek(st)->place;
    if (kind_is_taken(st, out, &side->placed)) return false;
    if (!statement_take_word(st, "pwm")) {
        lex_fault(st->lx, side->place, "expected 'pwm' and the channel of this side");
        return false;
    }
    if (!kind_read_channel(st, &side->channel, &side->hz, out->hz ? out->hz : 20000)) return false;
    out->hz = side->hz;
    for (;;) {
        if (statement_take_word(st, "direction")) {
            if (!statement_pin(st, &side->direction)) return false;
        } else if (statement_take_word(st, "brake")) {
            if (!statement_pin(st, &side->brake)) return false;
        } else if (statement_take_word(st, "reversed")) {
            side->reversed = true;
        } else {
            return true;
        }
    }
}

static bool read_left(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return read_side(st, out, &out->left);
}

static bool read_right(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return read_side(st, out, &out->right);
}

static bool read_style(struct statement *st, void *target)
{
    static const char *const words[] = {"brake", "coast", "oppose", NULL};
    struct lex_output *out = target;
    unsigned index;
    if (!statement_one_of(st, "what the inner side does in a turn", words, &index)) return false;
    g_free(out->style);
    out->style = g_strdup(words[index]);
    return true;
}

static void check(struct lexicon *lx, const struct lex_output *out)
{
    if (!out->left.placed || !out->right.placed)
        lex_fault(lx, out->place, "'%s' needs both sides; write 'left pwm N' and 'right pwm N'",
                  out->name);
}

static char *slots(const struct lex_output *out)
{
    (void)out;
    return g_strdup("{left -100..100%} {right -100..100%}");
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    unsigned n = kind_wires_of(&out->left, "left", all);
    return n + kind_wires_of(&out->right, "right", all + n);
}

static bool put(struct build *b, const struct lex_output *out)
{
    kind_put_sides(b, out, 2);
    return true;
}

static char *wiring(const struct lex_output *out)
{
    GString *text = g_string_new(NULL);
    kind_drive_text(text, &out->left, "left ");
    kind_drive_text(text, &out->right, "right ");
    return g_string_free(text, FALSE);
}

static const struct attribute attributes[] = {{"safe", kind_read_safe, 0},
                                              {"ramp", kind_read_ramp, 0},
                                              {"dead", kind_read_dead, 0},
                                              {"left", read_left, 0},
                                              {"right", read_right, 0},
                                              {"turns", read_style, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {"only", kind_read_only, 0},
                                              {"by", kind_read_by, 0},
                                              {NULL, NULL, 0}};

const struct lex_kind lex_kind_pair = {.call = KIND_CALL_VERB,
                                       .levels = LEX_LEVELS_SIGNED,
                                       .values = 2,
                                       .need = RLX_BIT_MOTORS,
                                       .waits = true,
                                       .slot = "{left -100..100%} {right -100..100%}",
                                       .verb = "stop",
                                       .turns = true,
                                       .safe = "0%",
                                       .unsaid = "stand",
                                       .unreached = "standing",
                                       .gentle = "ramp 300ms",
                                       .passes = true,
                                       .attributes = attributes,
                                       .read_safe = kind_safe_stop,
                                       .check = check,
                                       .slots = slots,
                                       .wires = wires,
                                       .put = put,
                                       .wiring = wiring,
                                       .safe_text = kind_stop_text,
                                       KIND_SEEN(kind_turning_)};
