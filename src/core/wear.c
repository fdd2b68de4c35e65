/* Wear of the non-volatile memory: a setting rests after it was written, and a budget of erases fills
 * up again over a day. It counts erases.
 *
 * The budget begins full when the device starts. What the library keeps for itself may overdraw it,
 * up to one day's: what must not happen twice is written before it happens.
 *
 * It does not know how settings are written: settings.c asks it. */
#include "core.h"

#if RLX_HAS_WEAR

static rlx_rom table(const struct rlx_device *d)
{
    return rlx_part(d, RLX_IMG_SETTINGS) + 5 +
           (unsigned)rlx_rows_of(d, RLX_IMG_SETTINGS) * RLX_SET_ROW;
}

static uint8_t n_rests(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return RLX_FIXED_RESTS;
#else
    return rlx_needs(d, RLX_BIT_WEAR) ? RLX_ROM8(table(d) + RLX_WEAR_RESTS) : 0;
#endif
}

/* Ms between two erases; 0: there is no budget. */
static uint32_t between(const struct rlx_device *d)
{
#if RLX_FIXED
    (void)d;
    return RLX_FIXED_BETWEEN;
#else
    return rlx_needs(d, RLX_BIT_WEAR) ? rlx_rom32(table(d) + RLX_WEAR_BETWEEN) : 0;
#endif
}

RLX_INTERNAL uint32_t rlx_wear_run(struct rlx_device *d)
{
    struct rlx_wear *w = &d->wear;
    uint32_t least = RLX_FOREVER;
    rlx_rom row = table(d) + RLX_WEAR_FIRST;
    if (between(d) && w->paid - d->now > RLX_WEAR_DAY) w->paid = d->now;
    for (uint8_t i = 0; i < n_rests(d); i++, row += RLX_WEAR_ROW) {
        uint32_t left = w->until[i] - d->now - 1; /* of what is over more than a day */
        if (left >= RLX_WEAR_DAY)
            w->resting &= ~(UINT32_C(1) << RLX_ROM8(row));
        else if (left < least)
            least = left + 1;
    }
    return least;
}

RLX_INTERNAL void rlx_wear_saved(struct rlx_device *d, uint32_t settings)
{
    struct rlx_wear *w = &d->wear;
    rlx_rom row = table(d) + RLX_WEAR_FIRST;
    for (uint8_t i = 0; i < n_rests(d); i++, row += RLX_WEAR_ROW) {
        uint32_t bit = UINT32_C(1) << RLX_ROM8(row);
        if (!(settings & bit)) continue;
        w->resting |= bit;
        w->until[i] = d->now + rlx_rom32(row + 1);
    }
}

RLX_INTERNAL uint32_t rlx_wear_holds(const struct rlx_device *d)
{
    uint32_t most = RLX_WEAR_DAY - between(d), paid = d->wear.paid - d->now;
    if (!between(d) || paid <= most) return 0;
    if (d->keep.unsaved & rlx_rom32(table(d) + RLX_WEAR_RECORDS)) return 0;
    return paid - most;
}

RLX_INTERNAL void rlx_wear_erased(struct rlx_device *d)
{
    struct rlx_wear *w = &d->wear;
    w->erases++;
    if (!between(d)) return;
    uint32_t paid = w->paid - d->now + between(d);
    w->paid = d->now + (paid > RLX_WEAR_DAY ? RLX_WEAR_DAY : paid);
}

/* Three bytes, inverted, and their parity: a memory that nobody counted has 0. */
static uint8_t parity_of(const uint8_t *bytes)
{
    return (uint8_t)(bytes[0] ^ bytes[1] ^ bytes[2]);
}

RLX_INTERNAL void rlx_wear_put(const struct rlx_device *d, uint8_t *to)
{
    for (uint8_t i = 0; i < 3; i++) to[i] = (uint8_t)(~d->wear.erases >> 8 * i);
    to[3] = parity_of(to);
}

RLX_INTERNAL void rlx_wear_load(struct rlx_device *d, const uint8_t *from)
{
    uint32_t count = from[0] | (uint32_t)from[1] << 8 | (uint32_t)from[2] << 16;
    count ^= 0xFFFFFF;
    if (from[3] == parity_of(from) && count > d->wear.erases) d->wear.erases = count;
}
#elif RLX_HAS_SETTINGS
RLX_INTERNAL uint32_t rlx_wear_run(struct rlx_device *d)
{
    (void)d;
    return RLX_FOREVER;
}
RLX_INTERNAL void rlx_wear_saved(struct rlx_device *d, uint32_t settings)
{
    (void)d, (void)settings;
}
RLX_INTERNAL uint32_t rlx_wear_holds(const struct rlx_device *d)
{
    (void)d;
    return 0;
}
RLX_INTERNAL void rlx_wear_erased(struct rlx_device *d)
{
    (void)d;
}
RLX_INTERNAL void rlx_wear_put(const struct rlx_device *d, uint8_t *to)
{
    (void)d, (void)to;
}
RLX_INTERNAL void rlx_wear_load(struct rlx_device *d, const uint8_t *from)
{
    (void)d, (void)from;
}
#endif
