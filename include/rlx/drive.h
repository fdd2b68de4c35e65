/* Outputs: how they switch. Called by the core for commands bound in the lexicon; firmware may
 * call them too, from the main loop. */
#ifndef RLX_DRIVE_H
#define RLX_DRIVE_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/device.h"

/* What an output can be told. */
enum rlx_verb {
    RLX_OFF,
    RLX_ON,
    RLX_TOGGLE,
    RLX_PULSE, /* on for so many milliseconds */
    RLX_BLINK, /* on and off, so many milliseconds for both */
    RLX_FLASH, /* so many times, 150 ms on and 150 ms off; then as before */
    RLX_FADE,  /* to so many percent, in the time that the lexicon says */
    RLX_BEEP,  /* as RLX_FLASH */
    RLX_TONE,  /* on, at so many hertz */
    RLX_OPEN,
    RLX_CLOSE,
    RLX_STOP,
    RLX_BRAKE,
    RLX_COAST,
    RLX_FORWARD,
    RLX_BACK,
    RLX_REVERSE, /* the other way */
    RLX_LEFT,
    RLX_RIGHT,
    RLX_SPIN_LEFT,
    RLX_SPIN_RIGHT,
    RLX_SPEED, /* so many percent, whichever way it goes, and when it goes again */
    RLX_PARK,
    RLX_PATTERN, /* on and off as the pattern with this number says */
    RLX_MASK,    /* those outputs of a group are on whose bits are set, the others off */
    RLX_RUN,     /* a routine begins... */
    RLX_CANCEL,  /* ...or ends */
    RLX_STORE    /* a setting has this value */
};

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
 * time or an interlock postpones it, or -RLX_ERR_FAILED where it is a reverser, motor or servo. */
int rlx_output_switch(struct rlx_device *device, uint8_t output, enum rlx_verb verb);

/* Sets a PWM output to 0..100 %. 0, or RLX_ALREADY when nothing changed. */
int rlx_output_level(struct rlx_device *device, uint8_t output, uint8_t percent);

#if RLX_HAS_ACTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS
/* Blinks, flashes, beeps, fades or sounds a tone; what it is told next ends it. A reverser opens,
 * closes, stops or turns round. Of a group, those with a bit in a mask are on. 0, RLX_ALREADY when
 * it does just that or is there, or RLX_WAITS where its dead time is not over. */
int rlx_output_act(struct rlx_device *device, uint8_t output, enum rlx_verb verb,
                   uint32_t argument);
#endif

#if RLX_HAS_MOVES
/* What a reverser is at: open, closed, both (its ends are both active), opening, closing, late (it
 * was on its way for too long) or stop. */
const char *rlx_mover_state(const struct rlx_device *device, uint8_t output);
#if RLX_HAS_PLACES
/* How far it is open, in percent of its way, reckoned from the times that it was driven; 255: an
 * input sees its ends, or it has not been at an end since the start. */
uint8_t rlx_mover_percent(const struct rlx_device *device, uint8_t output);
#endif
#endif

#if RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS
/* Milliseconds until a relay, or the last one of a group, goes to what it was told last; 0: it is
 * there. */
uint32_t rlx_output_waits(const struct rlx_device *device, uint8_t output);
#endif

#if RLX_HAS_PRESENCE
/* Makes it safe as `halt` does, but that one which is safe on does not go on beside another one of
 * its interlock, or before its least time off. */
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

/* Whether the output has levels, and its level now in percent, 0..100. */
bool rlx_output_is_pwm(const struct rlx_device *device, uint8_t output);
uint8_t rlx_output_percent(const struct rlx_device *device, uint8_t output);

#if RLX_HAS_MOTORS
/* What a motor, or a side of a pair, was told: -100..100 %. */
int8_t rlx_motor_percent(const struct rlx_device *device, uint8_t output, uint8_t side);
/* Whether it is a motor: 1, a pair: 2. */
uint8_t rlx_motor_sides(const struct rlx_device *device, uint8_t output);
#endif
bool rlx_output_is_servo(const struct rlx_device *device, uint8_t output);
#if RLX_HAS_SERVOS
/* A servo's pulse, within its limits, in microseconds; 0: no pulses. 0, or RLX_ALREADY. */
int rlx_output_pulse(struct rlx_device *device, uint8_t output, uint16_t us);
#endif
bool rlx_output_is_motor(const struct rlx_device *device, uint8_t output);

/* Whether it is a reverser. */
bool rlx_output_moves(const struct rlx_device *device, uint8_t output);

/* Whether the output is at any level but 0; of a group whether one of it is. */
bool rlx_output_is_on(const struct rlx_device *device, uint8_t output);

/* Whether it is a group. */
bool rlx_output_is_group(const struct rlx_device *device, uint8_t output);
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

#endif
