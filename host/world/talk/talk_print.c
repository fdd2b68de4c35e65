/* Prints what a bench shows: what was sent and answered, and what each output does.
 * Steps of a ramp that follow each other closely are folded into one line.
 * It does not decide what happens. */
#include "lexicon/layout/layout.h"
#include "world/talk/talk_parts.h"

#include <string.h>

/* Steps that follow each other within this time are a ramp. */
#define RAMP_US 25000

static void talk_stamp_at(const struct talk *t, uint64_t at_us, char mark, const char *what)
{
    fprintf(t->out, "%4" G_GUINT64_FORMAT ".%06u  %c  %-7s ", at_us / 1000000,
            (unsigned)(at_us % 1000000), mark, what);
}

void talk_stamp(struct talk *t, char mark, const char *what)
{
    talk_tell_ramp(t);
    talk_stamp_at(t, t->bench->world->now_us, mark, what);
}

/* The same, about something of a board: "two.pump". */
static void stamp_of(const struct talk *t, const struct board *board, uint64_t at_us, char mark,
                     const char *name)
{
    char *whole = *board->name ? g_strdup_printf("%s.%s", board->name, name) : NULL;
    talk_stamp_at(t, at_us, mark, whole ? whole : name);
    g_free(whole);
}

/* Text, with what cannot be seen as \xNN. */
void talk_text(const struct talk *t, const char *text, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        unsigned char c = (unsigned char)text[i];
        if (c >= ' ' && c <= '~')
            fputc(c, t->out);
        else
            fprintf(t->out, "\\x%02X", c);
    }
    fputc('\n', t->out);
}

/* The output with this wire, and the wire; NULL: none has it. */
static const struct lex_output *output_at(const struct board *board, enum lex_wire_is is,
                                          unsigned number, struct lex_wire *wire)
{
    int output = lex_output_at(board->lx, is, number, wire);
    return output < 0 ? NULL : board->lx->outputs->pdata[output];
}

/* The link that the pin hangs up; NULL: none. */
static const struct lex_link *hung_up_by(const struct board *board, unsigned pin)
{
    for (unsigned i = 0; i < board->lx->links->len; i++) {
        const struct lex_link *link = board->lx->links->pdata[i];
        if (link->hang_pin == pin) return link;
    }
    return NULL;
}

static void print_pin(struct talk *t, const struct board *board, unsigned pin, bool high)
{
    struct lex_wire wire;
    const struct lex_output *out = output_at(board, LEX_WIRE_PIN, pin, &wire);
    const struct lex_link *link = out ? NULL : hung_up_by(board, pin);
    const char *level = high ? "high" : "low";
    stamp_of(t, board, t->bench->world->now_us, '=', out ? out->name : link ? link->name : "?");
    if (link)
        fprintf(t->out, "hang up %-3s (pin %u %s)\n", high != link->hang_low ? "on" : "off", pin,
                level);
    else if (!out)
        fprintf(t->out, "%-6s (pin %u %s)\n", "", pin, level);
    else if (wire.drive)
        fprintf(t->out, "%s (pin %u %s)\n", wire.part, pin, level);
    else if (*wire.does)
        fprintf(t->out, "%s %-3s (pin %u %s)\n", wire.does, high != wire.active_low ? "on" : "off",
                pin, level);
    else
        fprintf(t->out, "%-6s (pin %u %s)\n", high != wire.active_low ? "on" : "off", pin, level);
}

static void print_duty(const struct talk *t, const struct board *board, uint64_t at_us,
                       unsigned channel, unsigned duty)
{
    struct lex_wire wire;
    const struct lex_output *out = output_at(board, LEX_WIRE_DUTY, channel, &wire);
    unsigned level = out && wire.active_low ? 65535 - duty : duty;
    unsigned percent = (level * 100 + 32767) / 65535;
    stamp_of(t, board, at_us, '=', out ? out->name : "?");
    if (out && wire.drive) {
        bool side = *wire.side && wire.number == wire.drive->channel;
        fprintf(t->out, "%s %3u %% (pwm %u duty %u of 65535)\n", side ? wire.side : wire.part,
                percent, channel, duty);
        return;
    }
    fprintf(t->out, "%3u %%  (pwm %u duty %u of 65535", percent, channel, duty);
    if (board->loads && out && lex_kind_of(out)->levels == LEX_LEVELS_PWM)
        fprintf(t->out, ", looks like %u %%", loads_lightness(level));
    fprintf(t->out, ")\n");
}

/* A servo's pulse, or a buzzer's pitch. */
static void print_number(const struct talk *t, const struct board *board, uint64_t at_us,
                         enum lex_wire_is is, struct sim_event event, const char *unit)
{
    const struct lex_output *out = output_at(board, is, event.index, NULL);
    stamp_of(t, board, at_us, '=', out ? out->name : "?");
    fprintf(t->out, "%u %s (pwm %u)\n", event.value, unit, event.index);
}

/* A stepper's run of pulses. */
static void print_steps(const struct talk *t, const struct board *board, uint64_t at_us,
                        struct sim_event event)
{
    const struct lex_output *out = output_at(board, LEX_WIRE_STEPS, event.index, NULL);
    stamp_of(t, board, at_us, '=', out ? out->name : "?");
    if (event.value)
        fprintf(t->out, "%u pulse%s, %u a second (pwm %u)\n", event.low, event.low == 1 ? "" : "s",
                event.value, event.index);
    else
        fprintf(t->out, "no pulses (pwm %u)\n", event.index);
}

static void print_step(const struct talk *t, const struct board *board, uint64_t at_us,
                       struct sim_event event)
{
    if (event.kind == SIM_STEPS)
        print_steps(t, board, at_us, event);
    else if (event.kind == SIM_DUTY)
        print_duty(t, board, at_us, event.index, event.value);
    else
        print_number(t, board, at_us, LEX_WIRE_PULSE, event, "us");
}

/* What was held back of a ramp: its last step, and how many there were before that. */
void talk_tell_ramp(struct talk *t)
{
    struct ramp ramp = t->ramp;
    t->ramp = (struct ramp){.step = {.kind = SIM_SLEEP}};
    if (ramp.held > 1)
        fprintf(t->out, "             .  ... %u %s%s\n", ramp.held - 1,
                ramp.step.kind == SIM_STEPS ? "speed" : "step", ramp.held > 2 ? "s" : "");
    if (ramp.held) print_step(t, ramp.board, ramp.at_us, ramp.step);
}

void talk_tell_old_ramp(struct talk *t)
{
    if (t->ramp.held && t->bench->world->now_us - t->ramp.at_us > RAMP_US) talk_tell_ramp(t);
}

/* A step of a fade, ramp or slew: those that follow each other closely are printed as a ramp. */
static void print_or_hold(struct talk *t, const struct board *board, struct sim_event event)
{
    struct ramp *ramp = &t->ramp;
    uint64_t now = t->bench->world->now_us;
    bool goes_on = ramp->step.kind == event.kind && ramp->step.index == event.index &&
                   ramp->board == board && now - ramp->at_us <= RAMP_US;
    if (!goes_on) {
        talk_tell_ramp(t);
        print_step(t, board, now, event);
    }
    *ramp = (struct ramp){board, event, now, goes_on ? ramp->held + 1 : 0};
}

static void print_out(struct talk *t, const struct sight *sight)
{
    struct sim_event event = sight->event;
    bool steps = event.kind == SIM_STEPS && event.value;
    if (event.kind != SIM_DUTY && event.kind != SIM_PULSE && !steps) talk_tell_ramp(t);
    switch (event.kind) {
    case SIM_PIN: print_pin(t, sight->board, event.index, event.value != 0); break;
    case SIM_DUTY:
    case SIM_PULSE: print_or_hold(t, sight->board, event); break;
    case SIM_STEPS:
        if (steps)
            print_or_hold(t, sight->board, event);
        else
            print_step(t, sight->board, t->bench->world->now_us, event);
        break;
    case SIM_TONE:
        print_number(t, sight->board, t->bench->world->now_us, LEX_WIRE_TONE, event, "Hz");
        break;
    default: break;
    }
}

static void print_air(struct talk *t, const struct sight *sight)
{
    if (sight->own) return; /* it is printed as it is sent */
    talk_stamp(t, sight->air == RADIO_SENT ? '>' : 'x', sight->name);
    if (sight->air != RADIO_SENT) fprintf(t->out, "%s: ", radio_words[sight->air]);
    talk_text(t, sight->text, sight->count);
}

static void print_text(struct talk *t, const struct sight *sight)
{
    static const struct {
        char mark;
        const char *before;
    } kinds[] = {[SIGHT_SAID] = {'>', ""},
                 [SIGHT_ANSWERED] = {'<', ""},
                 [SIGHT_KNOWN] = {'@', ""},
                 [SIGHT_UNKNOWN] = {'@', "nothing came back: nobody knows what became of "},
                 [SIGHT_AWAY] = {'@', "sent, without waiting for an answer: "},
                 [SIGHT_LOAD] = {':', ""},
                 [SIGHT_LAMP] = {':', ""},
                 [SIGHT_HANDSET] = {'!', ""},
                 [SIGHT_BRIDGE] = {':', ""},
                 [SIGHT_LOST] = {'x', "lost: "},
                 [SIGHT_RESET] = {'!', ""},
                 [SIGHT_BUSY] = {'?', ""}};
    talk_stamp(t, kinds[sight->kind].mark, sight->kind == SIGHT_RESET ? "reset" : sight->name);
    if (sight->kind == SIGHT_RESET && *sight->board->name)
        fprintf(t->out, "%s: ", sight->board->name);
    fputs(kinds[sight->kind].before, t->out);
    if (sight->bytes && !g_str_has_prefix(sight->text, "0x")) {
        char *hex = layout_hex(sight->bytes, sight->n_bytes);
        char *whole = g_strdup_printf("%-20s = %s", sight->text, hex);
        talk_text(t, whole, strlen(whole));
        g_free(whole);
        g_free(hex);
        return;
    }
    if (!sight->number) {
        talk_text(t, sight->text, sight->count);
        return;
    }
    char *whole = g_strdup_printf("%.*s (%s %s)", (int)sight->count, sight->text,
                                  sight->kind == SIGHT_SAID ? "from" : "to", sight->number);
    talk_text(t, whole, strlen(whole));
    g_free(whole);
}

/* A line between a device and its modem. */
static void print_wire(struct talk *t, const struct sight *sight)
{
    if (!t->options->wire) return;
    talk_stamp(t, sight->own ? '}' : '{', sight->name);
    talk_text(t, sight->text, sight->count);
}

void talk_print(void *user, const struct sight *sight)
{
    struct talk *t = user;
    switch (sight->kind) {
    case SIGHT_BYTE:
    case SIGHT_REPORT:
    case SIGHT_HEARD:
    case SIGHT_IN: break;
    case SIGHT_OUT: print_out(t, sight); break;
    case SIGHT_AIR: print_air(t, sight); break;
    case SIGHT_WIRE: print_wire(t, sight); break;
    case SIGHT_SAID:
    case SIGHT_ANSWERED:
    case SIGHT_KNOWN:
    case SIGHT_UNKNOWN:
    case SIGHT_AWAY:
    case SIGHT_LOAD:
    case SIGHT_LAMP:
    case SIGHT_HANDSET:
    case SIGHT_BRIDGE:
    case SIGHT_LOST:
    case SIGHT_RESET:
    case SIGHT_BUSY: print_text(t, sight); break;
    }
}

/* Only the bytes that the device sent on the link that is talked over, and what its controller
 * knows. What people type is echoed: such a line waits until it is known to be none. */
void talk_print_plain(void *user, const struct sight *sight)
{
    struct talk *t = user;
    const struct lex_link *of = sight->end ? sight->end->of : NULL;
    bool held = of && ((of->people && !t->options->raw) || (of->layout && !lex_comes_whole(of)));
    if (sight->end != t->end) return;
    if (sight->kind == SIGHT_BYTE && !held) fputc((int)sight->event.value, t->out);
    if (sight->kind == SIGHT_ANSWERED && held) fprintf(t->out, "%s\r\n", sight->text);
    if (sight->kind == SIGHT_ANSWERED && lex_comes_whole(of)) fprintf(t->out, "%s\n", sight->text);
    if (sight->kind == SIGHT_KNOWN || sight->kind == SIGHT_UNKNOWN || sight->kind == SIGHT_AWAY)
        fprintf(t->out, "%s%.*s\n", sight->kind == SIGHT_UNKNOWN ? "unknown " : "",
                (int)sight->count, sight->text);
}
