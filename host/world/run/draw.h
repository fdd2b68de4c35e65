/* Random numbers of the world: integers, from a seed, the same on every machine (Marsaglia's
 * xorshift, 64 bits). */
#ifndef DRAW_H
#define DRAW_H

#include <stdbool.h>
#include <stdint.h>

#define BILLION 1000000000u

struct draw {
    uint64_t state; /* not 0 */
};

static inline struct draw draw_from(uint32_t seed)
{
    return (struct draw){(seed + UINT64_C(1)) * UINT64_C(0x9E3779B97F4A7C15)};
}

/* 0..below-1 */
static inline uint32_t draw_below(struct draw *d, uint32_t below)
{
    d->state ^= d->state << 13;
    d->state ^= d->state >> 7;
    d->state ^= d->state << 17;
    return (uint32_t)((d->state >> 32) * below >> 32);
}

/* Whether it happens, with this chance in parts of a billion. */
static inline bool draw_happens(struct draw *d, uint32_t chance)
{
    return chance && draw_below(d, BILLION) < chance;
}

#endif
