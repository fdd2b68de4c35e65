/* Relays: on or off, with minimum times, an interlock, and a count.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/steady.c and relay.c. */
#include "kinds/shared.h"

#include <string.h>

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

/* A level needs an led. */
static bool read_first(struct statement *st, struct lex_output *out)
{
    (void)out;
    for (unsigned i = st->next; statement_at(st, i)->kind == TOKEN_WORD; i++) {
        if (strcmp(statement_at(st, i)->text, "pwm") != 0) continue;
        lex_fault(st->lx, statement_at(st, i)->place,
                  "a relay is on or off; a level by PWM needs an led");
        return false;
    }
    return true;
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    return kind_wire(out, all, LEX_WIRE_PIN);
}

static const struct attribute attributes[] = {
    {"pin", kind_read_pin, 0},        {"active", kind_read_active, 0},
    {"safe", kind_read_safe, 0},      {"min", read_min, 0},
    {"interlock", read_interlock, 0}, {"counted", read_counted, 0},
    {"dead", kind_read_dead, 0},      {"expires", kind_read_expires, 0},
    {"lost", kind_read_lost, 0},      {NULL, NULL, 0}};

const struct lex_kind lex_kind_relay = {.values = 1,
                                        .slot = "{on|off|toggle}",
                                        .verb = "on",
                                        .switches = true,
                                        .wants = "pin N",
                                        .safe = "off",
                                        .attributes = attributes,
                                        .read_first = read_first,
                                        .read_safe = kind_safe_level,
                                        .check = kind_check_placed,
                                        .slots = kind_slots_switch,
                                        .wires = wires,
                                        .put = kind_put_steady,
                                        .wiring = kind_wiring,
                                        .safe_text = kind_level_text,
                                        .state = kind_level_state,
                                        .is_at = kind_level_is_at,
                                        .classes = kind_level_classes,
                                        .is_safe = kind_level_is_safe,
                                        .from_safe = kind_level_from_safe,
                                        .state_at = kind_level_state_at};
