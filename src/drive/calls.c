/* The calls of rlx/drive.h for firmware.
 * Each checks its output, verb and number, and goes on to drive.c.
 * Commands of a lexicon do not come this way. */
#include "kinds.h"

static bool has_output(const struct rlx_device *d, uint8_t output)
{
    return rlx_started(d) && output < rlx_n_outputs(d);
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

#if RLX_HAS_VERBS
static uint8_t n_patterns(const struct rlx_device *d)
{
    return rlx_rows_of(d, RLX_IMG_PATTERNS);
}

/* Whether what stands behind the verb is within the bounds of rlx/def/verbs.h. */
static bool argument_fits(const struct rlx_device *d, enum rlx_verb verb, uint32_t argument)
{
    static const uint8_t behind[] RLX_ROM = {
#define VERB(id, word, behind_, kinds, steps, stops, again, does) RLX_BEHIND_##behind_,
        RLX_VERBS(VERB)
#undef VERB
    };
    int32_t value = (int32_t)argument;
    if (verb == RLX_PATTERN) return argument < n_patterns(d);
    switch ((enum rlx_behind)RLX_ROM8((rlx_rom)behind + verb)) {
#define BEHIND(id, least, most, normal) \
    case RLX_BEHIND_##id: return value >= (least) && value <= (most);
        RLX_BEHINDS(BEHIND)
#undef BEHIND
    }
    return false;
}

int rlx_output_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb, uint32_t argument)
{
    if (!has_output(d, output) || (unsigned)verb > 31 || !(rlx_out_verbs(d, output) >> verb & 1) ||
        !argument_fits(d, verb, argument))
        return -RLX_ERR_RANGE;
    return rlx_out_act(d, output, verb, argument);
}
#endif

#if RLX_HAS_WAITS
uint32_t rlx_output_waits(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) ? rlx_out_waits(d, output) : 0;
}
#endif

#if RLX_HAS_SAFE_CALL
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

enum rlx_drive rlx_output_drive(const struct rlx_device *d, uint8_t output)
{
    return has_output(d, output) ? (enum rlx_drive)rlx_out_drive(d, output) : RLX_DRIVE_STEADY;
}

#if RLX_HAS_SERVOS
int rlx_output_pulse(struct rlx_device *d, uint8_t output, uint16_t us)
{
    const rlx_value value = (rlx_value)us;
    if (rlx_output_drive(d, output) != RLX_DRIVE_SERVO) return -RLX_ERR_RANGE;
    return rlx_out_values(d, output, &value);
}
#endif

#if RLX_HAS_MOTORS
uint8_t rlx_motor_sides(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_drive(d, output) == RLX_DRIVE_MOTOR ? rlx_sides(d, output) : 0;
}

int8_t rlx_motor_percent(const struct rlx_device *d, uint8_t output, uint8_t side)
{
    return side < rlx_motor_sides(d, output) ? rlx_side_percent(d, output, side) : 0;
}
#endif

#if RLX_HAS_REVERSERS
const char *rlx_reverser_state(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_drive(d, output) == RLX_DRIVE_REVERSER ? rlx_reverser_word(d, output) : "";
}

#if RLX_HAS_PLACES
uint8_t rlx_reverser_percent(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_drive(d, output) == RLX_DRIVE_REVERSER ? rlx_reverser_place(d, output) : 255;
}
#endif
#endif

#if RLX_HAS_STEPPERS
const char *rlx_stepper_state(const struct rlx_device *d, uint8_t output)
{
    const char *word =
        rlx_output_drive(d, output) == RLX_DRIVE_STEPPER ? rlx_stepper_word(d, output) : 0;
    return word ? word : "";
}

int32_t rlx_stepper_steps(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_drive(d, output) == RLX_DRIVE_STEPPER ? rlx_stepper_place_now(d, output) : 0;
}

int rlx_stepper_go(struct rlx_device *d, uint8_t output, int32_t steps)
{
    const rlx_value value = (rlx_value)steps;
    if (rlx_output_drive(d, output) != RLX_DRIVE_STEPPER) return -RLX_ERR_RANGE;
    return rlx_out_values(d, output, &value);
}
#endif

#if RLX_HAS_GROUPS
uint8_t rlx_group_size(const struct rlx_device *d, uint8_t group)
{
    return rlx_output_drive(d, group) == RLX_DRIVE_GROUP ? rlx_members(d, group) : 0;
}

uint8_t rlx_group_member(const struct rlx_device *d, uint8_t group, uint8_t n)
{
    return n < rlx_group_size(d, group) ? rlx_member(d, group, n) : 255;
}
#endif

#if RLX_HAS_INPUTS
bool rlx_input_is_on(const struct rlx_device *d, uint8_t input)
{
    return rlx_started(d) && input < rlx_rows_of(d, RLX_IMG_INPUTS) && rlx_in_is_on(d, input);
}
#endif
