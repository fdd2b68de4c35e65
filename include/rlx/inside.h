/* What the rooms of the library share. Not for firmware. */
#ifndef RLX_INSIDE_H
#define RLX_INSIDE_H

#include "rlx/device.h"
#include "rlx/drive.h"
#include "rlx/image.h"

/* 32 bits of the image, at any offset. */
static inline uint32_t rlx_rom32(rlx_rom at)
{
    return RLX_ROM16(at) | (uint32_t)RLX_ROM16(at + 2) << 16;
}

/* CRC-16 with the polynomial of ITU-T V.41, 0x1021, from FFFF on, not reflected. */
static inline uint16_t rlx_crc_step(uint16_t crc, uint8_t byte)
{
    crc ^= (uint16_t)(byte << 8);
    for (uint8_t bit = 0; bit < 8; bit++)
        crc = (uint16_t)(crc & 0x8000u ? (unsigned)crc << 1 ^ 0x1021u : (unsigned)crc << 1);
    return crc;
}

#if RLX_HAS_INPUTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_ROUTINES
/* drive.c: tells the events of an input (kind 0), output or routine (RLX_EVT_IS_...) the word that
 * their rows have at `field`. */
RLX_INTERNAL void rlx_source_tell(struct rlx_device *device, uint8_t source, uint8_t kind,
                                  uint8_t field);
#endif

#if RLX_HAS_SETTINGS && RLX_HAS_CURVE
/* drive.c: the outputs whose curve this setting says are shown anew. */
RLX_INTERNAL void rlx_outputs_curved(struct rlx_device *device, uint8_t setting);
#endif

/* ---- outputs: the number is one of the image's ---- */

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

static inline uint32_t rlx_out_time(rlx_rom more, uint8_t field)
{
    return rlx_rom32(more + field);
}

/* drive.c: as the calls of rlx/drive.h. */
RLX_INTERNAL int rlx_out_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb);
RLX_INTERNAL int rlx_out_level(struct rlx_device *d, uint8_t output, uint8_t percent);
RLX_INTERNAL bool rlx_out_pwm(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL uint8_t rlx_out_percent(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL bool rlx_out_is_on(const struct rlx_device *d, uint8_t output);
#if RLX_HAS_ACTS || RLX_HAS_MOVES || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS
RLX_INTERNAL int rlx_out_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                             uint32_t argument);
#endif
#if RLX_HAS_RESTS || RLX_HAS_MOVES || RLX_HAS_MOTORS
RLX_INTERNAL uint32_t rlx_out_waits(const struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_PRESENCE
RLX_INTERNAL void rlx_out_safe(struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_EXPIRY
RLX_INTERNAL void rlx_out_lasts(struct rlx_device *d, uint8_t output, uint32_t lasts);
#endif
#if RLX_HAS_COUNTED
RLX_INTERNAL uint32_t rlx_out_switched(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL bool rlx_out_counted(const struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_GROUPS
/* group.c */
RLX_INTERNAL uint8_t rlx_members(const struct rlx_device *d, uint8_t group);
RLX_INTERNAL uint8_t rlx_member(const struct rlx_device *d, uint8_t group, uint8_t n);
#endif
#if RLX_HAS_SERVOS
/* servo.c: to a width within its limits; 0: no pulses. */
RLX_INTERNAL int rlx_servo_tell(struct rlx_device *d, uint8_t output, uint16_t us);
#endif
#if RLX_HAS_MOTORS
/* motor.c */
RLX_INTERNAL int8_t rlx_side_percent(const struct rlx_device *d, uint8_t output, uint8_t side);
RLX_INTERNAL uint8_t rlx_sides(const struct rlx_device *d, uint8_t output);
/* A level in percent for each side. */
RLX_INTERNAL int rlx_motor_levels(struct rlx_device *d, uint8_t output, const rlx_value *percent);
#endif
#if RLX_HAS_MOVES
/* mover.c */
RLX_INTERNAL const char *rlx_way_state(const struct rlx_device *d, uint8_t output);
#if RLX_HAS_PLACES
RLX_INTERNAL uint8_t rlx_way_percent(const struct rlx_device *d, uint8_t output);
#endif
#endif
#if RLX_HAS_INPUTS
/* input.c */
RLX_INTERNAL bool rlx_in_is_on(const struct rlx_device *d, uint8_t input);
#endif

#endif
