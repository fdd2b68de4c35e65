/* What the rooms of the library share. Not for firmware. */
#ifndef RLX_INSIDE_H
#define RLX_INSIDE_H

#include "rlx/device.h"

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

#endif
