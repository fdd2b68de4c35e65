/* Asks an output's kind what the output is at, by what the board drives.
 * A pin or channel leads to its output by the list of wires.
 * No kind is named here. */
#include "drill/judge/seen.h"

char *output_state(const struct board *b, const struct lex_output *out)
{
    return lex_kind_of(out)->state(&b->driven, out);
}

const char *const *output_classes(const struct lex_output *out)
{
    return lex_kind_of(out)->classes(out);
}

const char *output_class(const struct board *b, const struct lex_output *out)
{
    return lex_kind_of(out)->is_at(&b->driven, out);
}

/* The sort of wire of the event; false: none. */
static bool wire_of(struct sim_event event, enum lex_wire_is *is)
{
    switch (event.kind) {
    case SIM_PIN: *is = LEX_WIRE_PIN; return true;
    case SIM_DUTY: *is = LEX_WIRE_DUTY; return true;
    case SIM_PULSE: *is = LEX_WIRE_PULSE; return true;
    case SIM_TONE: *is = LEX_WIRE_TONE; return true;
    case SIM_STEPS: *is = LEX_WIRE_STEPS; return true;
    default: return false;
    }
}

int output_of_event(const struct lexicon *lx, struct sim_event event)
{
    enum lex_wire_is is;
    if (!wire_of(event, &is)) return -1;
    return lex_output_at(lx, is, event.index, NULL);
}

unsigned output_from_safe(const struct lex_output *out, struct sim_event event)
{
    enum lex_wire_is is;
    return wire_of(event, &is) ? lex_kind_of(out)->from_safe(out, is, event.value) : 0;
}

bool output_is_safe(const struct board *b, const struct lex_output *out)
{
    return lex_kind_of(out)->is_safe(&b->driven, out);
}
