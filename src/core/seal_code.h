/* HMAC (RFC 2104) with SHA-256 (FIPS 180-4), byte by byte, cut to eight bytes and written in the
 * characters of RFC 4648, base64url.
 * Small before fast: one block in memory, no division. Where RLX_PORT_HMAC is 1, the port has it.
 * It knows no frame. Static, as both ends of a link include it. */
#ifndef RLX_CORE_SEAL_CODE_H
#define RLX_CORE_SEAL_CODE_H

#include "rlx/hmac.h"
#include "rlx/rom.h"

#if !RLX_PORT_HMAC

/* ---- SHA-256 ---- */

#define SHA_WORD(n)                                                                       \
    (uint8_t)((n) >> 24 & 255u), (uint8_t)((n) >> 16 & 255u), (uint8_t)((n) >> 8 & 255u), \
        (uint8_t)((n)&255u)
#define SHA_WORDS(a, b, c, d) SHA_WORD(a), SHA_WORD(b), SHA_WORD(c), SHA_WORD(d)

/* FIPS 180-4, 5.3.3 and 4.2.2. */
static const uint8_t sha_start[] RLX_ROM = {
    SHA_WORDS(0x6a09e667u, 0xbb67ae85u, 0x3c6ef372u, 0xa54ff53au),
    SHA_WORDS(0x510e527fu, 0x9b05688cu, 0x1f83d9abu, 0x5be0cd19u)};
static const uint8_t sha_rounds[] RLX_ROM = {
    SHA_WORDS(0x428a2f98u, 0x71374491u, 0xb5c0fbcfu, 0xe9b5dba5u),
    SHA_WORDS(0x3956c25bu, 0x59f111f1u, 0x923f82a4u, 0xab1c5ed5u),
    SHA_WORDS(0xd807aa98u, 0x12835b01u, 0x243185beu, 0x550c7dc3u),
    SHA_WORDS(0x72be5d74u, 0x80deb1feu, 0x9bdc06a7u, 0xc19bf174u),
    SHA_WORDS(0xe49b69c1u, 0xefbe4786u, 0x0fc19dc6u, 0x240ca1ccu),
    SHA_WORDS(0x2de92c6fu, 0x4a7484aau, 0x5cb0a9dcu, 0x76f988dau),
    SHA_WORDS(0x983e5152u, 0xa831c66du, 0xb00327c8u, 0xbf597fc7u),
    SHA_WORDS(0xc6e00bf3u, 0xd5a79147u, 0x06ca6351u, 0x14292967u),
    SHA_WORDS(0x27b70a85u, 0x2e1b2138u, 0x4d2c6dfcu, 0x53380d13u),
    SHA_WORDS(0x650a7354u, 0x766a0abbu, 0x81c2c92eu, 0x92722c85u),
    SHA_WORDS(0xa2bfe8a1u, 0xa81a664bu, 0xc24b8b70u, 0xc76c51a3u),
    SHA_WORDS(0xd192e819u, 0xd6990624u, 0xf40e3585u, 0x106aa070u),
    SHA_WORDS(0x19a4c116u, 0x1e376c08u, 0x2748774cu, 0x34b0bcb5u),
    SHA_WORDS(0x391c0cb3u, 0x4ed8aa4au, 0x5b9cca4fu, 0x682e6ff3u),
    SHA_WORDS(0x748f82eeu, 0x78a5636fu, 0x84c87814u, 0x8cc70208u),
    SHA_WORDS(0x90befffau, 0xa4506cebu, 0xbef9a3f7u, 0xc67178f2u)};
#undef SHA_WORDS
#undef SHA_WORD

static uint32_t sha_constant(rlx_rom table, uint8_t n)
{
    uint32_t word = 0;
    for (uint8_t i = 0; i < 4; i++) word = word << 8 | RLX_ROM8(table + 4u * n + i);
    return word;
}

static uint32_t sha_turned(uint32_t word, uint8_t bits)
{
#ifdef __AVR__ /* it shifts by one bit at a time, but whole bytes at once */
    int8_t left = (int8_t)bits;
    for (; left > 4; left = (int8_t)(left - 8)) word = word >> 8 | word << 24;
    for (; left < 0; left++) word = word << 1 | word >> 31;
    for (; left > 0; left--) word = word >> 1 | word << 31;
    return word;
#else
    return word >> bits | word << (32 - bits);
#endif
}

/* The block is whole. */
static void sha_block(struct rlx_hmac *h)
{
    uint32_t s[8];
    for (uint8_t i = 0; i < 8; i++) s[i] = h->state[i];
    for (uint8_t i = 0; i < 64; i++) {
        uint32_t *w = &h->block[i & 15];
        if (i > 15) {
            uint32_t a = h->block[(i + 1) & 15], b = h->block[(i + 14) & 15];
            *w += h->block[(i + 9) & 15] + (sha_turned(a, 7) ^ sha_turned(a, 18) ^ a >> 3) +
                  (sha_turned(b, 17) ^ sha_turned(b, 19) ^ b >> 10);
        }
        uint32_t e = s[4], a = s[0];
        uint32_t one = s[7] + (sha_turned(e, 6) ^ sha_turned(e, 11) ^ sha_turned(e, 25)) +
                       ((e & s[5]) ^ (~e & s[6])) + sha_constant(sha_rounds, i) + *w;
        uint32_t two = (sha_turned(a, 2) ^ sha_turned(a, 13) ^ sha_turned(a, 22)) +
                       ((a & s[1]) ^ (a & s[2]) ^ (s[1] & s[2]));
        for (uint8_t k = 7; k; k--) s[k] = s[k - 1];
        s[4] += one;
        s[0] = one + two;
    }
    for (uint8_t i = 0; i < 8; i++) h->state[i] += s[i];
}

static void sha_begin(struct rlx_hmac *h)
{
    for (uint8_t i = 0; i < 8; i++) h->state[i] = sha_constant(sha_start, i);
    h->count = 0;
}

static void rlx_hmac_add(struct rlx_hmac *h, uint8_t byte)
{
    uint8_t at = (uint8_t)(h->count & 63);
    h->block[at / 4] = h->block[at / 4] << 8 | byte; /* four of them push out what was there */
    h->count++;
    if (at == 63) sha_block(h);
}

static void sha_end(struct rlx_hmac *h)
{
    uint32_t bits = (uint32_t)h->count * 8;
    rlx_hmac_add(h, 0x80);
    while ((h->count & 63) != 56) rlx_hmac_add(h, 0);
    for (uint8_t i = 0; i < 8; i++) rlx_hmac_add(h, (uint8_t)(i < 4 ? 0 : bits >> 8 * (7 - i)));
}

/* ---- HMAC ---- */

static void add_key(struct rlx_hmac *h, uint8_t pad)
{
    sha_begin(h);
    for (uint8_t i = 0; i < 64; i++)
        rlx_hmac_add(h, (uint8_t)((i < h->key_count ? h->key[i] : 0) ^ pad));
}

static void rlx_hmac_begin(struct rlx_hmac *h, const uint8_t *key, uint8_t count)
{
    h->key = key;
    h->key_count = count;
    add_key(h, 0x36);
}

static void rlx_hmac_end(struct rlx_hmac *h, uint8_t mac[RLX_HMAC_BYTES])
{
    uint32_t inner[8];
    sha_end(h);
    for (uint8_t i = 0; i < 8; i++) inner[i] = h->state[i];
    add_key(h, 0x5c);
    for (uint8_t i = 0; i < 32; i++) rlx_hmac_add(h, (uint8_t)(inner[i / 4] >> 8 * (3 - i % 4)));
    sha_end(h);
    for (uint8_t i = 0; i < RLX_HMAC_BYTES; i++)
        mac[i] = (uint8_t)(h->state[i / 4] >> 8 * (3 - i % 4));
}

#endif

/* ---- as text ---- */

/* The nth character of the code in RFC 4648, base64url: A..Z a..z 0..9 - _ */
static uint8_t rlx_hmac_character(const uint8_t mac[RLX_HMAC_BYTES], uint8_t n)
{
    uint8_t bit = (uint8_t)(n * 6), at = bit / 8;
    uint16_t two = (uint16_t)(mac[at] << 8 | (at + 1u < RLX_HMAC_BYTES ? mac[at + 1] : 0));
    uint8_t six = (uint8_t)(two >> (10 - bit % 8) & 63);
    if (six < 26) return (uint8_t)('A' + six);
    if (six < 52) return (uint8_t)('a' + six - 26);
    if (six < 62) return (uint8_t)('0' + six - 52);
    return six == 62 ? '-' : '_';
}

#endif
