/* The published checks of binary frames.
 * Bit by bit, by the parameters of the catalogues.
 * Which bytes they cover is in encode.c. */
#include "lexicon/layout/layout_parts.h"

const struct lex_sum lex_sums[] = {
    {"smbus", "CRC-8/SMBUS", 8, 0x07, 0x00, 0x00, 0xF4, false},
    {"maxim", "CRC-8/MAXIM-DOW", 8, 0x31, 0x00, 0x00, 0xA1, true},
    {"rohc", "CRC-8/ROHC", 8, 0x07, 0xFF, 0x00, 0xD0, true},
    {"j1850", "CRC-8/SAE-J1850", 8, 0x1D, 0xFF, 0xFF, 0x4B, false},
    {"autosar", "CRC-8/AUTOSAR", 8, 0x2F, 0xFF, 0xFF, 0xDF, false},
    {"dvb-s2", "CRC-8/DVB-S2", 8, 0xD5, 0x00, 0x00, 0xBC, false},
    {"arc", "CRC-16/ARC", 16, 0x8005, 0x0000, 0x0000, 0xBB3D, true},
    {"modbus", "CRC-16/MODBUS", 16, 0x8005, 0xFFFF, 0x0000, 0x4B37, true},
    {"usb", "CRC-16/USB", 16, 0x8005, 0xFFFF, 0xFFFF, 0xB4C8, true},
    {"ibm-3740", "CRC-16/IBM-3740", 16, 0x1021, 0xFFFF, 0x0000, 0x29B1, false},
    {"xmodem", "CRC-16/XMODEM", 16, 0x1021, 0x0000, 0x0000, 0x31C3, false},
    {"kermit", "CRC-16/KERMIT", 16, 0x1021, 0x0000, 0x0000, 0x2189, true},
    {"ibm-sdlc", "CRC-16/IBM-SDLC", 16, 0x1021, 0xFFFF, 0xFFFF, 0x906E, true},
    {"dnp", "CRC-16/DNP", 16, 0x3D65, 0x0000, 0xFFFF, 0xEA82, true},
};
const unsigned lex_n_sums = G_N_ELEMENTS(lex_sums);

static unsigned reversed(unsigned value, unsigned bits)
{
    unsigned out = 0;
    for (unsigned i = 0; i < bits; i++) out |= (value >> i & 1) << (bits - 1 - i);
    return out;
}

/* By the definition: bit by bit, the register as wide as the check. */
static unsigned crc_of(const struct lex_sum *crc, const guint8 *bytes, size_t count)
{
    unsigned top = 1u << (crc->bits - 1), all = top | (top - 1), sum = crc->start;
    for (size_t i = 0; i < count; i++) {
        unsigned byte = crc->reflected ? reversed(bytes[i], 8) : bytes[i];
        for (unsigned bit = 0x80; bit; bit >>= 1) {
            bool out = ((sum & top) != 0) != ((byte & bit) != 0);
            sum = (sum << 1 & all) ^ (out ? crc->polynomial : 0);
        }
    }
    return (crc->reflected ? reversed(sum, crc->bits) : sum) ^ crc->last;
}

uint32_t layout_sum(const struct lex_field *field, const guint8 *bytes, size_t count)
{
    uint32_t sum = 0, all = (uint32_t)((UINT64_C(1) << field->bits) - 1);
    if (field->what == RLX_FLD_CRC) return crc_of(field->crc, bytes, count);
    for (size_t i = 0; i < count; i++)
        sum = field->what == RLX_FLD_XOR ? sum ^ bytes[i] : sum + bytes[i];
    if (field->sum == RLX_SUM_INVERTED) sum = ~sum;
    if (field->sum == RLX_SUM_NEGATED) sum = 0u - sum;
    return sum & all;
}
