/* What the files of the drives share: drive.c tells and shows levels, lamp.c what changes by
 * itself, relay.c what has to rest. */
#ifndef RLX_OUTPUTS_H
#define RLX_OUTPUTS_H

#include "rlx/drive.h"
#include "rlx/image.h"
#include "rlx/port.h"
#include "rlx/inside.h"

static inline rlx_rom rlx_out_row(const struct rlx_device *d, uint8_t output)
{
    return d->image + RLX_ROM16(d->image + RLX_IMG_OUTPUTS) + output * RLX_OUT_ROW;
}

/* Whether it is a reverser, a motor, a servo or a group, which have no level of 0..65535. */
static inline bool rlx_out_drives(const struct rlx_device *d, uint8_t output)
{
    return (RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS) &&
           RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS) &
               (RLX_OUT_MOVES | RLX_OUT_MOTOR | RLX_OUT_SERVO | RLX_OUT_TOGETHER);
}

/* What only some outputs have; NULL: this one has nothing of it. */
static inline rlx_rom rlx_out_more(const struct rlx_device *d, uint8_t output)
{
    uint16_t at = RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
    return at && !rlx_out_drives(d, output) ? d->image + at : 0;
}

static inline bool rlx_out_moves(const struct rlx_device *d, uint8_t output)
{
    return RLX_HAS_MOVES && RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS) & RLX_OUT_MOVES;
}

static inline bool rlx_out_motor(const struct rlx_device *d, uint8_t output)
{
    return RLX_HAS_MOTORS && RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS) & RLX_OUT_MOTOR;
}

static inline bool rlx_out_servo(const struct rlx_device *d, uint8_t output)
{
    return RLX_HAS_SERVOS && RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS) & RLX_OUT_SERVO;
}

static inline bool rlx_out_group(const struct rlx_device *d, uint8_t output)
{
    return RLX_HAS_GROUPS && RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS) & RLX_OUT_TOGETHER;
}

#if RLX_HAS_GROUPS
/* group.c */
RLX_INTERNAL int rlx_group_tell(struct rlx_device *d, uint8_t group, enum rlx_verb verb,
                                uint32_t mask);
RLX_INTERNAL bool rlx_group_is_on(const struct rlx_device *d, uint8_t group);
#if RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS
RLX_INTERNAL uint32_t rlx_group_waits(const struct rlx_device *d, uint8_t group);
#endif
#endif

#if RLX_HAS_SERVOS
/* servo.c: to its safe width at once. */
RLX_INTERNAL void rlx_servo_safe(struct rlx_device *d, uint8_t output);
/* To a width within its limits; 0: no pulses. */
RLX_INTERNAL int rlx_servo_tell(struct rlx_device *d, uint8_t output, uint16_t us);
RLX_INTERNAL uint32_t rlx_servo_run(struct rlx_device *d, uint8_t output);
#endif

#if RLX_HAS_MOTORS
/* motor.c: at once. */
RLX_INTERNAL void rlx_motor_stop(struct rlx_device *d, uint8_t output, bool brake);
RLX_INTERNAL int rlx_motor_tell(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                                rlx_value argument);
RLX_INTERNAL uint32_t rlx_motor_run(struct rlx_device *d, uint8_t output);
RLX_INTERNAL uint32_t rlx_motor_waits(const struct rlx_device *d, uint8_t output);
#endif

#if RLX_HAS_INPUTS && RLX_HAS_MOVES
/* input.c: the level as it is now, settled or not. */
RLX_INTERNAL bool rlx_input_is_raw(const struct rlx_device *d, uint8_t input);
#endif

#if RLX_HAS_MOVES
/* mover.c: stops at once. */
RLX_INTERNAL void rlx_mover_stop(struct rlx_device *d, uint8_t output);
RLX_INTERNAL int rlx_mover_tell(struct rlx_device *d, uint8_t output, enum rlx_verb verb);
/* Goes on, and stops at its end; milliseconds until it must look again. */
RLX_INTERNAL uint32_t rlx_mover_run(struct rlx_device *d, uint8_t output);
/* Milliseconds until it begins to do what it was told. */
RLX_INTERNAL uint32_t rlx_mover_waits(const struct rlx_device *d, uint8_t output);
#endif

static inline uint32_t rlx_out_time(rlx_rom more, uint8_t field)
{
    return rlx_rom32(more + field);
}

/* Brings a level to the pin or the channel. */
RLX_INTERNAL void rlx_out_show(struct rlx_device *d, uint8_t output, uint16_t level);

#if RLX_HAS_ACTS
/* lamp.c: begins a blink, flash or fade; `argument` is its milliseconds, count or level. */
RLX_INTERNAL void rlx_act_begin(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                                uint32_t argument);
/* From the level that is shown to the one that was told, in the time that the lexicon says; false:
 * at once. */
RLX_INTERNAL bool rlx_act_fade(struct rlx_device *d, uint8_t output);
#if RLX_HAS_PATTERNS
/* Begins a pattern; RLX_ALREADY where it goes on in its beat. */
RLX_INTERNAL int rlx_pattern_begin(struct rlx_device *d, uint8_t output, uint8_t number);
#endif
/* Goes on with it; milliseconds until the next step. */
RLX_INTERNAL uint32_t rlx_act_run(struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_CURVE
/* The duty that looks like this level. */
RLX_INTERNAL uint16_t rlx_eye(uint16_t level);
#endif

#if RLX_HAS_RESTS
/* relay.c: milliseconds until it may go to what it was told; 0: now. */
RLX_INTERNAL uint32_t rlx_rest_of(const struct rlx_device *d, uint8_t output);
/* It has been switched now. */
RLX_INTERNAL void rlx_rest_begin(struct rlx_device *d, uint8_t output);
/* Those that may not be on with it are told to be off. */
RLX_INTERNAL void rlx_rest_others(struct rlx_device *d, uint8_t output);
/* Switches what may be switched now; milliseconds until there is more to do. */
RLX_INTERNAL uint32_t rlx_rest_run(struct rlx_device *d, uint8_t output);
#endif

#endif
