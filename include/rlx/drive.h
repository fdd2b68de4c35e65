/* Outputs and inputs, for your firmware's own use. The library makes these calls itself for the
 * commands that the lexicon binds to an output. An output has the number of its place in the
 * lexicon: the emitted NAME_OUTPUT_... Call none from an interrupt. */
#ifndef RLX_DRIVE_H
#define RLX_DRIVE_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/def/verbs.h"
#include "rlx/device.h"

#ifdef __cplusplus
extern "C" {
#endif

/* The calls that act on an output return enum rlx_result, -RLX_ERR_RANGE for an output, verb or
 * number that does not exist, -RLX_ERR_FAILED for an output of another kind, or -RLX_ERR_BLOCKED
 * where an input does not permit it. */

/* The duty of a percentage: 0..100 % to 0..65535, rounded to the nearest. */
uint16_t rlx_duty_of_percent(uint8_t percent);

/* Switches an output: RLX_OFF, RLX_ON or RLX_TOGGLE. A PWM output goes to 0 or 100 %; toggle
 * switches it off from any level but 0. RLX_WAITS if a minimum time or an interlock delays it. */
int rlx_output_switch(struct rlx_device *device, uint8_t output, enum rlx_verb verb);

/* Sets a PWM output to 0..100 %. */
int rlx_output_level(struct rlx_device *device, uint8_t output, uint8_t percent);

#if RLX_HAS_VERBS
/* Any verb of rlx/def/verbs.h that the output knows, and the number behind it: milliseconds, a
 * count, hertz, percent, or steps. The next command ends what it does. RLX_ALREADY if it does just
 * that or is there; RLX_WAITS until its dead time is over. */
int rlx_output_act(struct rlx_device *device, uint8_t output, enum rlx_verb verb,
                   uint32_t argument);
#endif

#if RLX_HAS_SAFE_CALL
/* Puts an output into its safe state as `halt` does. One that is safe on does not go on beside
 * another output of its interlock, or before its minimum off time. */
void rlx_output_safe(struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_EXPIRY
/* The next command to this output expires after so many milliseconds from this poll on, up to
 * RLX_LASTS_MAX: then the output goes to its safe state, or off if you add RLX_LASTS_OFF. 0: it
 * does not expire. */
void rlx_output_lasts(struct rlx_device *device, uint8_t output, uint32_t lasts);
#endif

/* ---- what an output is at ---- */

/* How the library drives it; RLX_DRIVE_STEADY also if there is no such output. */
enum rlx_drive rlx_output_drive(const struct rlx_device *device, uint8_t output);

/* Whether it is at any level but 0, or moves; of a group, whether any member is. */
bool rlx_output_is_on(const struct rlx_device *device, uint8_t output);

/* Whether it has levels, and its level in percent, 0..100. */
bool rlx_output_is_pwm(const struct rlx_device *device, uint8_t output);
uint8_t rlx_output_percent(const struct rlx_device *device, uint8_t output);

#if RLX_HAS_WAITS
/* Milliseconds until it does what it was commanded last; 0: it does. Of a group, the longest. */
uint32_t rlx_output_waits(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_COUNTED
/* How often a relay went on since the start; whether the lexicon reports that. */
uint32_t rlx_output_switched(const struct rlx_device *device, uint8_t output);
bool rlx_output_is_counted(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_REVERSERS
/* The state of a reverser: open, closed, both (both end inputs are on), opening, closing, late (it
 * moved for too long), or stop; "" if it is none. */
const char *rlx_reverser_state(const struct rlx_device *device, uint8_t output);
#if RLX_HAS_PLACES
/* The position of a reverser, 0 closed .. 100 open, estimated from its travel time. 255: an input
 * sees its ends, or it has not been at an end since the start. */
uint8_t rlx_reverser_percent(const struct rlx_device *device, uint8_t output);
#endif
#endif

#if RLX_HAS_MOTORS
/* The commanded level of a motor, or of a side of a pair: -100..100 %. */
int8_t rlx_motor_percent(const struct rlx_device *device, uint8_t output, uint8_t side);
/* 1: a motor, 2: a pair, 0: neither. */
uint8_t rlx_motor_sides(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_SERVOS
/* Sets the pulse of a servo in microseconds, limited to its range; 0: no pulses. */
int rlx_output_pulse(struct rlx_device *device, uint8_t output, uint16_t us);
#endif

#if RLX_HAS_STEPPERS
/* Moves a stepper to so many steps from its home, within its range. If its position is unknown it
 * looks for its home switch first. */
int rlx_stepper_go(struct rlx_device *device, uint8_t output, int32_t steps);
/* Its position now, in steps; not valid while the state is homing, blocked or unknown. */
int32_t rlx_stepper_steps(const struct rlx_device *device, uint8_t output);
/* Its state: moving, homing, blocked (its home switch did not come, or came too soon), released,
 * unknown (it has not been at home), or "": it stands and holds. */
const char *rlx_stepper_state(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_GROUPS
/* How many members a group has, and the number of the nth, from 0; 255 if there is none. */
uint8_t rlx_group_size(const struct rlx_device *device, uint8_t group);
uint8_t rlx_group_member(const struct rlx_device *device, uint8_t group, uint8_t n);
#endif

#if RLX_HAS_INPUTS
/* Whether an input is on, after debouncing. */
bool rlx_input_is_on(const struct rlx_device *device, uint8_t input);
#endif

#ifdef __cplusplus
}
#endif

#endif
