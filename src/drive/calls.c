/* The calls of rlx/drive.h for firmware: each looks whether there is such an output or input. */
#include "outputs.h"

static bool has_output(const struct rlx_device *d, uint8_t output)
{
    return d->rows && output < RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
}

int rlx_output_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb)
{
    if (!has_output(d, output) || (unsigned)verb > RLX_TOGGLE) return -RLX_ERR_RANGE;
    return rlx_out_switch(d, output, verb);
}

int rlx_output_level(struct rlx_device *d, uint8_t output, uint8_t percent)
{
    if (!has_output(d, output) || percent > 100) return -RLX_ERR_RANGE;
    return rlx_out_level(d, output, percent);
}

#if RLX_HAS_ACTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS
/* What each kind can be told, as bits of enum rlx_verb, and the bounds of what stands behind it. */
#define CAN(verb) (UINT32_C(1) << (verb))
#define SWITCHES  (CAN(RLX_OFF) | CAN(RLX_ON) | CAN(RLX_TOGGLE))
#define BLINKS                                                                         \
    (CAN(RLX_BLINK) | CAN(RLX_FLASH) | CAN(RLX_FADE) | CAN(RLX_BEEP) | CAN(RLX_TONE) | \
     CAN(RLX_PATTERN))
#define TURNS                                                                             \
    (CAN(RLX_STOP) | CAN(RLX_BRAKE) | CAN(RLX_COAST) | CAN(RLX_FORWARD) | CAN(RLX_BACK) | \
     CAN(RLX_REVERSE) | CAN(RLX_SPEED))
#define STEERS (CAN(RLX_LEFT) | CAN(RLX_RIGHT) | CAN(RLX_SPIN_LEFT) | CAN(RLX_SPIN_RIGHT))

static uint32_t verbs_of(const struct rlx_device *d, uint8_t output)
{
    if (rlx_out_group(d, output)) return SWITCHES | CAN(RLX_MASK);
    if (rlx_out_moves(d, output))
        return CAN(RLX_OPEN) | CAN(RLX_CLOSE) | CAN(RLX_STOP) | CAN(RLX_REVERSE);
#if RLX_HAS_MOTORS
    if (rlx_out_motor(d, output)) return rlx_sides(d, output) == 2 ? TURNS | STEERS : TURNS;
#endif
    if (rlx_out_servo(d, output)) return CAN(RLX_PARK);
    return SWITCHES | (RLX_HAS_ACTS ? BLINKS : 0);
}

static uint8_t n_patterns(const struct rlx_device *d)
{
    uint16_t at = RLX_ROM16_EVEN(d->image + RLX_IMG_PATTERNS);
    return at ? RLX_ROM8(d->image + at) : 0;
}

static bool argument_fits(const struct rlx_device *d, enum rlx_verb verb, uint32_t argument)
{
    switch (verb) {
    case RLX_BLINK: return argument >= 2 && argument <= RLX_LASTS_MAX;
    case RLX_FLASH:
    case RLX_BEEP: return argument >= 1 && argument <= UINT8_MAX;
    case RLX_TONE: return argument >= 1 && argument <= UINT16_MAX;
    case RLX_FADE: return argument <= 100;
    case RLX_SPEED: return argument + 100 <= 200; /* -100..100, the way does not count */
    case RLX_PATTERN: return argument < n_patterns(d);
    default: return true;
    }
}

int rlx_output_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb, uint32_t argument)
{
    if (!has_output(d, output) || (unsigned)verb > 31 || !(verbs_of(d, output) >> verb & 1) ||
        !argument_fits(d, verb, argument))
        return -RLX_ERR_RANGE;
    return rlx_out_act(d, output, verb, argument);
}
#endif

#if RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS
uint32_t rlx_output_waits(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) ? rlx_out_waits(d, output) : 0;
}
#endif

#if RLX_HAS_PRESENCE
void rlx_output_safe(struct rlx_device *d, uint8_t output)
{
    if (has_output(d, output)) rlx_out_safe(d, output);
}
#endif

#if RLX_HAS_EXPIRY
void rlx_output_lasts(struct rlx_device *d, uint8_t output, uint32_t lasts)
{
    if (has_output(d, output) && (lasts & ~RLX_LASTS_OFF) <= RLX_LASTS_MAX)
        rlx_out_lasts(d, output, lasts);
}
#endif

#if RLX_HAS_COUNTED
uint32_t rlx_output_switched(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) ? rlx_out_switched(d, output) : 0;
}

bool rlx_output_is_counted(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_counted(d, output);
}
#endif

bool rlx_output_is_pwm(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_pwm(d, output);
}

uint8_t rlx_output_percent(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) ? rlx_out_percent(d, output) : 0;
}

bool rlx_output_is_on(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_is_on(d, output);
}

bool rlx_output_is_group(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_group(d, output);
}

bool rlx_output_is_servo(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_servo(d, output);
}

bool rlx_output_is_motor(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_motor(d, output);
}

bool rlx_output_moves(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) && rlx_out_moves(d, output);
}

#if RLX_HAS_SERVOS
int rlx_output_pulse(struct rlx_device *d, uint8_t output, uint16_t us)
{
    return rlx_output_is_servo(d, output) ? rlx_servo_tell(d, output, us) : -RLX_ERR_RANGE;
}
#endif

#if RLX_HAS_MOTORS
uint8_t rlx_motor_sides(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_is_motor(d, output) ? rlx_sides(d, output) : 0;
}

int8_t rlx_motor_percent(const struct rlx_device *d, uint8_t output, uint8_t side)
{
    return side < rlx_motor_sides(d, output) ? rlx_side_percent(d, output, side) : 0;
}
#endif

#if RLX_HAS_MOVES
const char *rlx_mover_state(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_moves(d, output) ? rlx_way_state(d, output) : "";
}

#if RLX_HAS_PLACES
uint8_t rlx_mover_percent(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_moves(d, output) ? rlx_way_percent(d, output) : 255;
}
#endif
#endif

#if RLX_HAS_GROUPS
uint8_t rlx_group_size(const struct rlx_device *d, uint8_t group)
{
    return rlx_output_is_group(d, group) ? rlx_members(d, group) : 0;
}

uint8_t rlx_group_member(const struct rlx_device *d, uint8_t group, uint8_t n)
{
    return n < rlx_group_size(d, group) ? rlx_member(d, group, n) : 255;
}
#endif

#if RLX_HAS_INPUTS
bool rlx_input_is_on(const struct rlx_device *d, uint8_t input)
{
    uint16_t at = d->rows ? RLX_ROM16_EVEN(d->image + RLX_IMG_INPUTS) : 0;
    return at && input < RLX_ROM8(d->image + at) && rlx_in_is_on(d, input);
}
#endif
