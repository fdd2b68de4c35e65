/* Outputs: how they switch. Called by the core for commands bound in the lexicon; firmware may
 * call them too, from the main loop. */
#ifndef RLX_DRIVE_H
#define RLX_DRIVE_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/def/verbs.h"
#include "rlx/device.h"

#ifdef __cplusplus
extern "C" {
#endif

/* The duty of a percentage: 0..100 % to 0..65535, rounded to the nearest. */
uint16_t rlx_duty_of_percent(uint8_t percent);

/* Puts every output at the safe state its row declares, in the order of the lexicon. rlx_init()
 * calls it. */
void rlx_drive_init(struct rlx_device *device);
#if RLX_HAS_HALT
/* The same in the reverse order, at once. `halt` calls it. */
void rlx_drive_halt(struct rlx_device *device);
#endif

/* Switches output number `output` (its place in the lexicon). A PWM output goes to 0 or 100 %;
 * toggle: off from any level but 0. 0, RLX_ALREADY when nothing changed, RLX_WAITS where a least
 * time or an interlock postpones it, or -RLX_ERR_FAILED where it is a reverser, motor, servo or
 * stepper. */
int rlx_output_switch(struct rlx_device *device, uint8_t output, enum rlx_verb verb);

/* Sets a PWM output to 0..100 %. 0, or RLX_ALREADY when nothing changed. */
int rlx_output_level(struct rlx_device *device, uint8_t output, uint8_t percent);

#if RLX_HAS_VERBS
/* Blinks, flashes, beeps, fades or sounds a tone; what it is told next ends it. A reverser opens,
 * closes, stops or turns round. Of a group, those with a bit in a mask are on. 0, RLX_ALREADY when
 * it does just that or is there, or RLX_WAITS where its dead time is not over. */
int rlx_output_act(struct rlx_device *device, uint8_t output, enum rlx_verb verb,
                   uint32_t argument);
#endif

#if RLX_HAS_REVERSERS
/* What a reverser is at: open, closed, both (its ends are both active), opening, closing, late (it
 * was on its way for too long) or stop. */
const char *rlx_reverser_state(const struct rlx_device *device, uint8_t output);
#if RLX_HAS_PLACES
/* How far it is open, in percent of its way, estimated from its travel time; 255: an
 * input sees its ends, or it has not been at an end since the start. */
uint8_t rlx_reverser_percent(const struct rlx_device *device, uint8_t output);
#endif
#endif

#if RLX_HAS_WAITS
/* Milliseconds until a relay, or the last one of a group, goes to what it was told last; 0: it is
 * there. */
uint32_t rlx_output_waits(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_PRESENCE
/* Makes it safe as `halt` does, but that one which is safe on does not go on beside another one of
 * its interlock, or before its minimum time off. */
void rlx_output_safe(struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_COUNTED
/* How often a relay went on since the start. */
uint32_t rlx_output_switched(const struct rlx_device *device, uint8_t output);
/* Whether the lexicon has it counted. */
bool rlx_output_is_counted(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_EXPIRY
/* What the output is told next lasts so many milliseconds from this poll on, up to RLX_LASTS_MAX;
 * then it goes to its safe state, or off where RLX_LASTS_OFF is added. 0: until it is told
 * otherwise. */
void rlx_output_lasts(struct rlx_device *device, uint8_t output, uint32_t lasts);
#endif
/* Makes safe what has expired. Returns the milliseconds until the next one does, or RLX_FOREVER.
 * rlx_poll() calls it. */
uint32_t rlx_drive_run(struct rlx_device *device);

/* How the library moves the output; RLX_DRIVE_STEADY too where there is none of this number. */
enum rlx_drive rlx_output_drive(const struct rlx_device *device, uint8_t output);

/* Whether the output has levels, and its level now in percent, 0..100. */
bool rlx_output_is_pwm(const struct rlx_device *device, uint8_t output);
uint8_t rlx_output_percent(const struct rlx_device *device, uint8_t output);

#if RLX_HAS_MOTORS
/* What a motor, or a side of a pair, was told: -100..100 %. */
int8_t rlx_motor_percent(const struct rlx_device *device, uint8_t output, uint8_t side);
/* Whether it is a motor: 1, a pair: 2. */
uint8_t rlx_motor_sides(const struct rlx_device *device, uint8_t output);
#endif
#if RLX_HAS_SERVOS
/* A servo's pulse, within its limits, in microseconds; 0: no pulses. 0, or RLX_ALREADY. */
int rlx_output_pulse(struct rlx_device *device, uint8_t output, uint16_t us);
#endif
#if RLX_HAS_STEPPERS
/* To so many steps from its home, within its range: 0, RLX_ALREADY, or -RLX_ERR_RANGE. Where it is
 * not known where it is, it looks for its home switch first. */
int rlx_stepper_go(struct rlx_device *device, uint8_t output, int32_t steps);
/* Where it is now, in steps; it means nothing while the state is homing, blocked or unknown. */
int32_t rlx_stepper_steps(const struct rlx_device *device, uint8_t output);
/* moving, homing, blocked (its home switch did not come, or came too soon), released, unknown (it
 * has not been at home), or "": it stands and holds. */
const char *rlx_stepper_state(const struct rlx_device *device, uint8_t output);
#endif
/* Whether the output is at any level but 0; of a group whether one of it is. */
bool rlx_output_is_on(const struct rlx_device *device, uint8_t output);

#if RLX_HAS_GROUPS
/* How many outputs it has, and the number of the nth, from 0. */
uint8_t rlx_group_size(const struct rlx_device *device, uint8_t group);
uint8_t rlx_group_member(const struct rlx_device *device, uint8_t group, uint8_t n);
#endif

#if RLX_HAS_INPUTS
/* Whether the input is on: its level has settled at the one that the lexicon calls active. */
bool rlx_input_is_on(const struct rlx_device *device, uint8_t input);

/* Makes the inputs' pins inputs and takes their levels as settled; what their events tell at start
 * is pending. rlx_init() calls it. */
void rlx_inputs_init(struct rlx_device *device);

/* Reads the inputs and tells what has changed. Returns the milliseconds until it must be called
 * again, or RLX_FOREVER where only a pin that changes makes work. rlx_poll() calls it. */
uint32_t rlx_inputs_run(struct rlx_device *device);
#endif

#ifdef __cplusplus
}
#endif

#endif
