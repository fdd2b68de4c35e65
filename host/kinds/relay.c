/* Relays: on or off, with minimum times, an interlock, and a count.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/steady.c and relay.c. */
#include "kinds/shared.h"

#define MOST_TIME (24u * 3600000u)

/* min on 1s off 2s */
static bool read_min(struct statement *st, void *target)
{
    struct lex_output *out = target;
    struct token *token = statement_peek(st);
    bool any = false;
    for (;; any = true) {
        if (statement_take_word(st, "on")) {
            if (!statement_time(st, "the minimum time on", 1, MOST_TIME, &out->min_on))
                return false;
        } else if (statement_take_word(st, "off")) {
            if (!statement_time(st, "the minimum time off", 1, MOST_TIME, &out->min_off))
                return false;
        } else {
            break;
        }
    }
    if (!any) lex_fault(st->lx, token->place, "expected 'on' or 'off' and a time, like: off 3min");
    return any;
}

static bool read_counted(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_output *)target)->counted = true;
    return true;
}

KIND_READ_NAME(interlock, "the name that relays share which are never on together")

static bool read_level(struct statement *st, void *target)
{
    (void)target;
    lex_fault(st->lx, statement_peek(st)[-1].place,
              "a relay is on or off; a level by PWM needs an led");
    return false;
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    return kind_wire(out, all, LEX_WIRE_PIN);
}

static const struct attribute attributes[] = {{"pin", kind_read_pin, 0},
                                              {"active", kind_read_active, 0},
                                              {"safe", kind_read_safe, 0},
                                              {"min", read_min, 0},
                                              {"interlock", read_interlock, 0},
                                              {"counted", read_counted, 0},
                                              {"dead", kind_read_dead, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {"only", kind_read_only, 0},
                                              {"by", kind_read_by, 0},
                                              {"pwm", read_level, ATTRIBUTE_UNLISTED},
                                              {NULL, NULL, 0}};

const struct lex_kind lex_kind_relay = {.values = 1,
                                        .slot = "{on|off|toggle}",
                                        .verb = "on",
                                        .switches = true,
                                        .tells = kind_tells_on,
                                        .words = {"on", "off"},
                                        .wants = "pin N",
                                        .safe = "off",
                                        .attributes = attributes,
                                        .read_safe = kind_safe_level,
                                        .check = kind_check_placed,
                                        .slots = kind_slots_switch,
                                        .wires = wires,
                                        .put = kind_put_steady,
                                        .wiring = kind_wiring,
                                        .safe_text = kind_level_text,
                                        KIND_SEEN(kind_level_)};
