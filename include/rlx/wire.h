/* What stands around a command on the wire, for both ends: tags and the check. docs/lexicon.md has
 * the whole. */
#ifndef RLX_WIRE_H
#define RLX_WIRE_H

#include <stdint.h>

/* Tags 0..16383 count up and begin at 0 again. A tag with 16384 added opens a new count: the device
 * obeys it only if it remembers no tag of this sender, and counts on from the tag without it. */
#define RLX_TAG_MOST  32767
#define RLX_TAG_OPENS 16384

/* The sum before the first byte. */
#define RLX_CRC_START 0xFFFFu

/* CRC-16 with the polynomial of ITU-T V.41, 0x1021, not reflected: the sum with one more byte. */
static inline uint16_t rlx_crc_step(uint16_t crc, uint8_t byte)
{
    crc ^= (uint16_t)(byte << 8);
    for (uint8_t bit = 0; bit < 8; bit++)
        crc = (uint16_t)(crc & 0x8000u ? (unsigned)crc << 1 ^ 0x1021u : (unsigned)crc << 1);
    return crc;
}

/* One of the check's four characters, 0..3: a nibble as one of @A..O, so that one bit of the check
 * is one bit of a character. */
static inline uint8_t rlx_crc_character(uint16_t crc, uint8_t n)
{
    return (uint8_t)('@' + (crc >> (12 - 4 * n) & 15));
}

#endif
