#include "outputs.h"

#include <string.h>

#include "rlx/drive.h"

static unsigned level_of(const struct board *b, const struct lex_output *out)
{
    unsigned level = out->pwm ? b->duty[out->pin] : b->pin[out->pin] ? 65535 : 0;
    return out->active_low ? 65535 - level : level;
}

static const char *reverser_state(const struct board *b, const struct lex_output *out)
{
    bool opens = b->pin[out->open.pin] != out->active_low;
    bool closes = b->pin[out->close.pin] != out->active_low;
    return opens && closes ? "both" : opens ? "opening" : closes ? "closing" : "stopped";
}

/* Of a motor, or a pair's left side: its duty, negative where it goes back. */
static int motor_duty(const struct board *b, const struct lex_output *out)
{
    int duty = b->duty[out->left.channel];
    bool back = out->left.direction != LEX_NO_PIN && b->pin[out->left.direction];
    if (!duty && out->left.other != LEX_NO_PIN) return -(int)b->duty[out->left.other];
    return back ? -duty : duty;
}

char *output_state(const struct board *b, const struct lex_output *out)
{
    unsigned level = level_of(b, out);
    switch (out->kind) {
    case LEX_REVERSER: return g_strdup(reverser_state(b, out));
    case LEX_SERVO: return g_strdup_printf("%uus", b->number[out->pin]);
    case LEX_BUZZER:
        if (out->pwm) return g_strdup_printf("%uHz", b->number[out->pin]);
        return g_strdup(level ? "on" : "off");
    case LEX_MOTOR:
    case LEX_PAIR: {
        int duty = motor_duty(b, out);
        unsigned part = (unsigned)(duty < 0 ? -duty : duty);
        return g_strdup_printf("%s%u%%", duty < 0 ? "-" : "", (part * 100 + 32767) / 65535);
    }
    default: break;
    }
    if (!out->pwm) return g_strdup(level ? "on" : "off");
    return g_strdup_printf("%u%%", (level * 100 + 32767) / 65535);
}

static const char *const switched[] = {"off", "on", NULL};
static const char *const levels[] = {"off", "level", "full", NULL};
static const char *const ways[] = {"stopped", "opening", "closing", NULL};
static const char *const turns[] = {"stopped", "forward", "back", NULL};
static const char *const forward[] = {"stopped", "forward", NULL};
static const char *const pulses[] = {"none", "pulse", NULL};
static const char *const none[] = {NULL};

const char *const *output_classes(const struct lex_output *out)
{
    switch (out->kind) {
    case LEX_REVERSER: return ways;
    case LEX_SERVO: return pulses;
    case LEX_MOTOR:
    case LEX_PAIR:
        return out->left.direction != LEX_NO_PIN || out->left.other != LEX_NO_PIN ? turns : forward;
    case LEX_GROUP: return none;
    case LEX_BUZZER: return switched;
    default: return out->pwm ? levels : switched;
    }
}

const char *output_class(const struct board *b, const struct lex_output *out)
{
    unsigned level = level_of(b, out);
    switch (out->kind) {
    case LEX_REVERSER: return reverser_state(b, out);
    case LEX_SERVO: return b->number[out->pin] ? "pulse" : "none";
    case LEX_MOTOR:
    case LEX_PAIR: {
        int duty = motor_duty(b, out);
        return duty < 0 ? "back" : duty ? "forward" : "stopped";
    }
    case LEX_BUZZER: return (out->pwm ? b->number[out->pin] : level) ? "on" : "off";
    default: break;
    }
    if (!out->pwm) return level ? "on" : "off";
    return !level ? "off" : level == 65535 ? "full" : "level";
}

static bool drives(const struct lex_drive *d, bool duty, unsigned at)
{
    return duty ? d->channel == at || d->other == at : d->direction == at || d->brake == at;
}

static bool owns(const struct lex_output *out, struct sim_event event)
{
    bool pin = event.kind == SIM_PIN, duty = event.kind == SIM_DUTY;
    switch (out->kind) {
    case LEX_GROUP: return false;
    case LEX_REVERSER:
        return pin && (out->open.pin == event.index || out->close.pin == event.index);
    case LEX_SERVO: return event.kind == SIM_PULSE && out->pin == event.index;
    case LEX_MOTOR: return (pin || duty) && drives(&out->left, duty, event.index);
    case LEX_PAIR:
        return (pin || duty) &&
               (drives(&out->left, duty, event.index) || drives(&out->right, duty, event.index));
    case LEX_BUZZER:
        return event.kind == (out->pwm ? SIM_TONE : SIM_PIN) && out->pin == event.index;
    default: return event.kind == (out->pwm ? SIM_DUTY : SIM_PIN) && out->pin == event.index;
    }
}

int output_of_event(const struct lexicon *lx, struct sim_event event)
{
    for (unsigned i = 0; i < lx->outputs->len; i++)
        if (owns(lx->outputs->pdata[i], event)) return (int)i;
    return -1;
}

static unsigned apart(unsigned a, unsigned b)
{
    return a > b ? a - b : b - a;
}

/* The duty of its safe state at its pin. */
static unsigned safe_duty(const struct lex_output *out)
{
    unsigned duty = rlx_duty_of_percent((uint8_t)out->safe);
    return out->active_low ? 65535 - duty : duty;
}

static unsigned safe_pulse(const struct lex_output *out)
{
    return out->range ? (unsigned)lex_value_scaled(out->range, out->safe_value) : 0;
}

unsigned output_from_safe(const struct lex_output *out, struct sim_event event)
{
    switch (out->kind) {
    case LEX_GROUP: return 0;
    case LEX_MOTOR:
    case LEX_PAIR: return event.kind == SIM_DUTY ? event.value : 0;
    case LEX_REVERSER: return (event.value != 0) != out->active_low;
    case LEX_SERVO: return apart(event.value, safe_pulse(out));
    case LEX_BUZZER:
        return out->pwm ? event.value : (event.value != 0) != (out->active_low != (out->safe > 0));
    default:
        if (out->pwm) return apart(event.value, safe_duty(out));
        return (event.value != 0) != (out->active_low != (out->safe > 0));
    }
}

bool output_is_safe(const struct board *b, const struct lex_output *out)
{
    switch (out->kind) {
    case LEX_GROUP: return true;
    case LEX_REVERSER: return !strcmp(reverser_state(b, out), "stopped");
    case LEX_MOTOR:
    case LEX_PAIR: return !motor_duty(b, out);
    case LEX_SERVO: return b->number[out->pin] == safe_pulse(out);
    default: break;
    }
    if (out->kind == LEX_BUZZER && out->pwm) return !b->number[out->pin];
    return level_of(b, out) == rlx_duty_of_percent((uint8_t)out->safe);
}
