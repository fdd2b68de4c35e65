#include "talk_parts.h"

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
    talk_stamp_at(t, t->world->now_us, mark, what);
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

void talk_said(struct talk *t, unsigned link, char mark, const char *text, size_t count)
{
    struct lex_link *l = t->lx->links->pdata[link];
    trace_text(t->options->trace, t->world->now_us, mark == '>' ? "said" : "answered", l->name,
               text, count);
    if (t->options->plain) return;
    talk_stamp(t, mark, l->name);
    talk_text(t, text, count);
    if (mark == '<') talk_lamps(t, link, text, count);
}

static const struct lex_output *output_at(const struct talk *t, bool pwm, unsigned pin)
{
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        if (out->pwm == pwm && out->pin == pin) return out;
    }
    return NULL;
}

/* The reverser that has a relay on this pin. */
static const struct lex_output *reverser_at(const struct talk *t, unsigned pin)
{
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        if (out->kind == LEX_REVERSER && (out->open.pin == pin || out->close.pin == pin))
            return out;
    }
    return NULL;
}

/* What a motor's wire is: its name, and what the wire does; NULL: it is none. */
static const struct lex_output *motor_at(const struct talk *t, bool pwm, unsigned pin,
                                         const char **wire)
{
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        bool pair = out->kind == LEX_PAIR;
        if (out->kind != LEX_MOTOR && !pair) continue;
        for (unsigned side = 0; side < 1u + pair; side++) {
            const struct lex_drive *drive = side ? &out->right : &out->left;
            *wire = pwm && drive->channel == pin      ? (side   ? "right"
                                                         : pair ? "left"
                                                                : "drive")
                    : pwm && drive->other == pin      ? "back"
                    : !pwm && drive->direction == pin ? "direction"
                    : !pwm && drive->brake == pin     ? "brake"
                                                      : NULL;
            if (*wire) return out;
        }
    }
    return NULL;
}

void talk_pin(struct talk *t, unsigned pin, bool high)
{
    const char *wire;
    const struct lex_output *motor = motor_at(t, false, pin, &wire);
    if (motor) {
        talk_stamp(t, '=', motor->name);
        fprintf(t->out, "%s (pin %u %s)\n", wire, pin, high ? "high" : "low");
        return;
    }
    const struct lex_output *reverser = reverser_at(t, pin);
    if (reverser) {
        talk_stamp(t, '=', reverser->name);
        fprintf(t->out, "%s %-3s (pin %u %s)\n", pin == reverser->open.pin ? "opening" : "closing",
                high != reverser->active_low ? "on" : "off", pin, high ? "high" : "low");
        return;
    }
    const struct lex_output *out = output_at(t, false, pin);
    talk_stamp(t, '=', out ? out->name : "?");
    fprintf(t->out, "%-6s (pin %u %s)\n",
            !out                      ? ""
            : high != out->active_low ? "on"
                                      : "off",
            pin, high ? "high" : "low");
}

static void print_duty(const struct talk *t, uint64_t at_us, unsigned channel, unsigned duty)
{
    const char *wire;
    const struct lex_output *motor = motor_at(t, true, channel, &wire);
    if (motor) {
        talk_stamp_at(t, at_us, '=', motor->name);
        fprintf(t->out, "%s %3u %% (pwm %u duty %u of 65535)\n", wire, (duty * 100 + 32767) / 65535,
                channel, duty);
        return;
    }
    const struct lex_output *out = output_at(t, true, channel);
    unsigned level = out && out->active_low ? 65535 - duty : duty;
    talk_stamp_at(t, at_us, '=', out ? out->name : "?");
    fprintf(t->out, "%3u %%  (pwm %u duty %u of 65535", (level * 100 + 32767) / 65535, channel,
            duty);
    if (t->loads && out && out->kind == LEX_LED)
        fprintf(t->out, ", looks like %u %%", loads_lightness(level));
    fprintf(t->out, ")\n");
}

/* A servo's pulse, or a buzzer's pitch. */
static void print_number(const struct talk *t, uint64_t at_us, enum lex_output_kind kind,
                         struct sim_event event, const char *unit)
{
    const char *name = "?";
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        if (out->kind == kind && out->pwm && out->pin == event.index) name = out->name;
    }
    talk_stamp_at(t, at_us, '=', name);
    fprintf(t->out, "%u %s (pwm %u)\n", event.value, unit, event.index);
}

static void print_step(const struct talk *t, uint64_t at_us, struct sim_event event)
{
    if (event.kind == SIM_DUTY)
        print_duty(t, at_us, event.index, event.value);
    else
        print_number(t, at_us, LEX_SERVO, event, "us");
}

/* What was held back of a ramp: its last step, and how many there were before that. */
void talk_tell_ramp(struct talk *t)
{
    struct ramp ramp = t->ramp;
    t->ramp = (struct ramp){.step = {.kind = SIM_SLEEP}};
    if (ramp.held > 1)
        fprintf(t->out, "             .  ... %u step%s\n", ramp.held - 1, ramp.held > 2 ? "s" : "");
    if (ramp.held) print_step(t, ramp.at_us, ramp.step);
}

/* A step of a fade, ramp or slew. */
void talk_step(struct talk *t, struct sim_event event)
{
    struct ramp *ramp = &t->ramp;
    bool goes_on = ramp->step.kind == event.kind && ramp->step.index == event.index &&
                   t->world->now_us - ramp->at_us <= RAMP_US;
    if (!goes_on) {
        talk_tell_ramp(t);
        print_step(t, t->world->now_us, event);
    }
    ramp->held = goes_on ? ramp->held + 1 : 0;
    ramp->step = event;
    ramp->at_us = t->world->now_us;
}

void talk_tone(struct talk *t, struct sim_event event)
{
    talk_tell_ramp(t);
    print_number(t, t->world->now_us, LEX_BUZZER, event, "Hz");
}
