/* Constant tables: plain memory on most machines, program memory on AVR. */
#ifndef RLX_ROM_H
#define RLX_ROM_H

#include <stdint.h>

#ifdef __cplusplus
#define RLX_STATIC_ASSERT(condition, text) static_assert(condition, text)
#define RLX_ALIGNED(bytes)                 alignas(bytes)
#else
#define RLX_STATIC_ASSERT(condition, text) _Static_assert(condition, text)
#define RLX_ALIGNED(bytes)                 _Alignas(bytes)
#endif

/* A place in a constant table. Never dereferenced: read through RLX_ROM8() and RLX_ROM16(). */
typedef const uint8_t *rlx_rom;

typedef void (*rlx_fn)(void);

#if defined(__AVR__)
/* AVR Instruction Set Manual, "LPM - Load Program Memory". */
#define RLX_ROM __attribute__((__progmem__))
static inline uint8_t rlx_rom8(rlx_rom at)
{
    uint8_t byte;
    __asm__("lpm %0, Z" : "=r"(byte) : "z"(at));
    return byte;
}
#define RLX_ROM8(at) rlx_rom8(at)
#ifdef __AVR_HAVE_LPMX__
static inline uint8_t rlx_rom8_next(rlx_rom *at)
{
    uint8_t byte;
    __asm__("lpm %0, %a1+" : "=r"(byte), "+z"(*at));
    return byte;
}
#define RLX_ROM8_NEXT(at) rlx_rom8_next(&(at))
static inline uint16_t rlx_rom16(rlx_rom at)
{
    uint16_t both;
    __asm__("lpm %A0, %a1+\n\tlpm %B0, %a1" : "=&r"(both), "+z"(at));
    return both;
}
#define RLX_ROM16(at) rlx_rom16(at)
#endif
#define RLX_ROM_FN(at) ((rlx_fn)(uintptr_t)RLX_ROM16((rlx_rom)(at)))
#else
#define RLX_ROM
#define RLX_ROM8(at)   (*(at))
#define RLX_ROM_FN(at) (*(at))
#endif

/* The byte, and `at` is then behind it. */
#ifndef RLX_ROM8_NEXT
#define RLX_ROM8_NEXT(at) RLX_ROM8((at)++)
#endif

/* Two bytes, the low one first, at an even offset of an image (which is at an even address). */
#if defined(__BYTE_ORDER__) && __BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__ && !defined(__AVR__)
static inline uint16_t rlx_rom16(rlx_rom at)
{
    uint16_t both;
    __builtin_memcpy(&both, __builtin_assume_aligned(at, 2), 2);
    return both;
}
#define RLX_ROM16_EVEN(at) rlx_rom16(at)
#else
#define RLX_ROM16_EVEN(at) RLX_ROM16(at)
#endif

/* The same at any address. */
#ifndef RLX_ROM16
#define RLX_ROM16(at) ((uint16_t)(RLX_ROM8(at) | (uint16_t)((uint16_t)RLX_ROM8((at) + 1) << 8)))
#endif

#endif
