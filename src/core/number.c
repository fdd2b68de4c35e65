/* Reads and writes numbers: whole, fractions, hex, times, with units and scales.
 * Integers only; every range is checked before it can overflow.
 * It knows no slot's name. */
#include "core.h"

RLX_INTERNAL rlx_value rlx_number_read(rlx_rom at, uint8_t size)
{
    if (RLX_HAS_WIDE && size == 4)
        return (rlx_value)(RLX_ROM16(at) | (uint32_t)RLX_ROM16(at + 2) << 16);
    return (int16_t)RLX_ROM16(at);
}

static uint8_t value_size(rlx_rom op)
{
    return RLX_HAS_WIDE && RLX_ROM8(op) == RLX_OP_NUM32 ? 4 : 2;
}

RLX_INTERNAL rlx_value rlx_number_low(rlx_rom op)
{
    return rlx_number_read(op + 3, value_size(op));
}

RLX_INTERNAL rlx_value rlx_number_high(rlx_rom op)
{
    return rlx_number_read(op + 3 + value_size(op), value_size(op));
}

/* RLX_FORM_...; 0: a plain whole number. */
static uint8_t form_of(rlx_rom op)
{
    if (!RLX_HAS_FORM || !(RLX_ROM8(op + 2) & RLX_NUM_FORM)) return 0;
    return RLX_ROM8(op + 3 + 2 * value_size(op));
}

/* Behind the bounds, the form and the scale. */
static rlx_rom behind_form(rlx_rom op)
{
    rlx_rom at = op + 3 + 2 * value_size(op);
    if (RLX_HAS_FORM && RLX_ROM8(op + 2) & RLX_NUM_FORM)
        at += 1 + (RLX_ROM8(at) & RLX_FORM_SCALE ? 2 * value_size(op) : 0);
    return at;
}

RLX_INTERNAL rlx_rom rlx_number_unit(rlx_rom op)
{
    rlx_rom at = behind_form(op);
    if (RLX_HAS_BOUNDED && RLX_ROM8(op + 2) & RLX_NUM_BOUND) at += 2;
    return at;
}

#if RLX_HAS_BOUNDED
RLX_INTERNAL rlx_value rlx_number_least(const struct rlx_device *d, rlx_rom op)
{
    rlx_value low = rlx_number_low(op);
    uint8_t setting = RLX_NUM_FIXED;
    if (RLX_ROM8(op + 2) & RLX_NUM_BOUND) setting = RLX_ROM8(behind_form(op));
    if (setting != RLX_NUM_FIXED && *rlx_setting_at(d, setting) > low)
        low = *rlx_setting_at(d, setting);
    return low;
}

RLX_INTERNAL rlx_value rlx_number_most(const struct rlx_device *d, rlx_rom op)
{
    rlx_value high = rlx_number_high(op);
    uint8_t setting = RLX_NUM_FIXED;
    if (RLX_ROM8(op + 2) & RLX_NUM_BOUND) setting = RLX_ROM8(behind_form(op) + 1);
    if (setting != RLX_NUM_FIXED && *rlx_setting_at(d, setting) < high)
        high = *rlx_setting_at(d, setting);
    return high;
}
#endif

#if RLX_HAS_ERRORS
RLX_INTERNAL rlx_rom rlx_number_name(rlx_rom op)
{
    rlx_rom text = rlx_number_unit(op);
    return RLX_HAS_UNIT && RLX_ROM8(op + 2) & RLX_NUM_UNIT ? rlx_behind(text) : text;
}
#endif

/* ---- numbers in other forms ---- */

static const char time_units[] RLX_ROM = "ms\0s\0min\0h\0";

/* What one unit of time is of the one before it. */
#define TIME_STEP(unit) ((unit) == 1 ? 1000u : 60u)
#define LAST_UNIT       3

static void put_hex(struct rlx_device *d, rlx_magnitude value)
{
    uint8_t digit[8], n = 0;
    rlx_reply_put(d, '0');
    rlx_reply_put(d, 'x');
    do {
        uint8_t nibble = (uint8_t)value & 15;
        digit[n++] = (uint8_t)(nibble + (nibble < 10 ? '0' : 'A' - 10));
        value >>= 4;
    } while (value);
    while (n) rlx_reply_put(d, digit[--n]);
}

/* In the largest unit that leaves nothing over. */
static void put_time(struct rlx_device *d, rlx_value value)
{
    uint8_t unit = 0;
    rlx_rom name = (rlx_rom)time_units;
    while (value && unit < LAST_UNIT && value % (rlx_value)TIME_STEP(unit + 1) == 0)
        value = (rlx_value)(value / (rlx_value)TIME_STEP(++unit));
    rlx_reply_number(d, value, 0);
    while (unit--)
        while (RLX_ROM8_NEXT(name)) {}
    while (RLX_ROM8(name)) rlx_reply_put(d, RLX_ROM8_NEXT(name));
}

RLX_INTERNAL void rlx_number_put(struct rlx_device *d, rlx_rom op, rlx_value value)
{
    uint8_t form = form_of(op);
    if (RLX_HAS_FORM && form & RLX_FORM_HEX)
        put_hex(d, (rlx_magnitude)value);
    else if (RLX_HAS_FORM && form & RLX_FORM_TIME)
        put_time(d, value);
    else
        rlx_reply_number(d, value, form & RLX_FORM_LOW);
}

#define MAGNITUDE_MAX ((rlx_magnitude)-1)

/* One more digit; what is too large becomes the largest and stays so. */
static rlx_magnitude shift_in(rlx_magnitude sum, bool hex, uint8_t digit)
{
    rlx_magnitude most = hex ? MAGNITUDE_MAX >> 4 : (MAGNITUDE_MAX - 9) / 10;
    if (sum > most) return MAGNITUDE_MAX;
    return (rlx_magnitude)((hex ? sum << 4 : sum * 10u) + digit);
}

static uint8_t hex_digit(uint8_t c)
{
    uint8_t digit = rlx_digit(c), letter = (uint8_t)((c | 0x20) - 'a');
    return digit > 9 && letter < 6 ? (uint8_t)(letter + 10) : digit;
}

/* The unit behind a time: its number, with *s behind it; that of a bare number where there is
 * none. */
static uint8_t time_unit(const struct rlx_device *d, const uint8_t **s, uint8_t bare)
{
    rlx_rom name = (rlx_rom)time_units;
    for (uint8_t unit = 0; unit <= LAST_UNIT; unit++) {
        const uint8_t *p = *s;
        while (RLX_ROM8(name) && RLX_ROM8(name) == rlx_folded(d, *p)) name++, p++;
        if (!RLX_ROM8(name) && (uint8_t)((*p | 0x20) - 'a') > 25) {
            *s = p;
            return unit;
        }
        while (RLX_ROM8_NEXT(name)) {}
    }
    return bare;
}

/* Up to `decimals` digits behind a point; missing ones are 0. */
static bool take_decimals(const uint8_t **s, uint8_t decimals, rlx_magnitude *sum)
{
    if (**s == '.') {
        const uint8_t *from = ++*s;
        for (; decimals && rlx_digit(**s) <= 9; decimals--)
            *sum = shift_in(*sum, false, rlx_digit(*(*s)++));
        if (*s == from) return false;
    }
    while (decimals--) *sum = shift_in(*sum, false, 0);
    return true;
}

/* The value within other bounds. The products fit 32 bits: the lexicon's checker sees to it. */
static rlx_value scaled(rlx_rom op, rlx_number value)
{
    uint8_t size = value_size(op);
    rlx_rom at = op + 4 + 2 * size;
    rlx_number low = rlx_number_low(op), to = rlx_number_read(at, size),
               end = rlx_number_read(at + size, size);
    uint32_t span = (uint32_t)((int32_t)rlx_number_high(op) - (int32_t)low);
    uint32_t reach = (uint32_t)(end < to ? (int32_t)to - (int32_t)end : (int32_t)end - (int32_t)to);
    uint32_t part = ((uint32_t)((int32_t)value - (int32_t)low) * reach + span / 2) / span;
    return (rlx_value)(end < to ? (int32_t)to - (int32_t)part : (int32_t)to + (int32_t)part);
}

/* Behind the unit at s, or s where it is another. */
static const uint8_t *behind_unit(const struct rlx_device *d, const uint8_t *s, rlx_rom unit)
{
    const uint8_t *p = s;
    uint8_t c, want;
    while ((want = RLX_ROM8_NEXT(unit)) == (c = rlx_folded(d, *p))) p++;
    return want == (c | RLX_TEXT_END) ? p + 1 : s;
}

/* What may stand behind a number. */
static bool ends(uint8_t c, uint8_t comma)
{
    return rlx_ends_word(c) || (RLX_HAS_LIST && c == comma);
}

/* Behind the number's unit. False: it has another unit, or none where the unit is required. */
static bool take_unit(const struct rlx_device *d, const uint8_t **s, rlx_rom op, uint8_t comma)
{
    uint8_t width = RLX_ROM8(op + 2);
    if (RLX_HAS_UNIT && width & RLX_NUM_GLUED && ends(**s, comma)) return false;
    if (RLX_HAS_UNIT && width & RLX_NUM_UNIT && !ends(**s, comma))
        *s = behind_unit(d, *s, rlx_number_unit(op));
    return ends(**s, comma);
}

static void keep(struct rlx_device *d, const uint8_t *s, rlx_rom op, rlx_value value)
{
    if (RLX_HAS_UNIT && RLX_ROM8(op + 2) & RLX_NUM_GLUED) rlx_reply_text(d, rlx_number_unit(op));
    d->text = s;
    rlx_keep_value(d, value);
    d->at = op + 2 + RLX_ROM8(op + 1);
}

/* Whether it is not in the slot's range as it is now; if so, the bounds are kept for the reply. */
static inline bool is_out(struct rlx_device *d, rlx_rom op, rlx_number value)
{
    if (value >= rlx_number_least(d, op) && value <= rlx_number_most(d, op)) return false;
#if RLX_TRIES_BOUNDS
    d->out_of = op;
    d->least = rlx_number_least(d, op);
    d->most = rlx_number_most(d, op);
#endif
    (void)d;
    return true;
}

/* A number with a form of its own: as rlx_take_number(). */
static uint8_t take_formed(struct rlx_device *d, rlx_rom op, uint8_t comma)
{
    const uint8_t *s = d->text, *digits;
    uint8_t form = form_of(op), unit = 0, digit;
    bool minus = *s == '-', hex = form & RLX_FORM_HEX;
    rlx_magnitude sum = 0;
    s += minus;
    if (hex) {
        if (*s != '0' || (s[1] | 0x20) != 'x') return RLX_ERR_NUMBER;
        s += 2;
    }
    for (digits = s; (digit = hex ? hex_digit(*s) : rlx_digit(*s)) <= (hex ? 15 : 9); s++)
        sum = shift_in(sum, hex, digit);
    if (s == digits) return RLX_ERR_NUMBER;
    bool wide = (uint8_t)(s - digits) > (RLX_ROM8(op + 2) & RLX_NUM_DIGITS);
    if (form & RLX_FORM_TIME)
        unit = time_unit(d, &s, form & RLX_FORM_LOW);
    else if (!hex && !take_decimals(&s, form & RLX_FORM_LOW, &sum))
        return RLX_ERR_NUMBER;
    for (; unit; unit--)
        sum = sum > MAGNITUDE_MAX / 1000 ? MAGNITUDE_MAX : (rlx_magnitude)(sum * TIME_STEP(unit));
    if (!take_unit(d, &s, op, comma) || (minus && !sum)) return RLX_ERR_NUMBER;
    if (sum > RLX_VALUE_MAX) return RLX_ERR_RANGE;
    rlx_number value = minus ? -(rlx_number)sum : (rlx_number)sum;
    if (is_out(d, op, value)) return RLX_ERR_RANGE;
    if (wide) return RLX_ERR_DIGITS;
    rlx_number_put(d, op, (rlx_value)value);
    keep(d, s, op, form & RLX_FORM_SCALE ? scaled(op, value) : (rlx_value)value);
    return 0;
}

/* A whole number: optional '-', digits, optional unit. No '+', no "-0"; leading zeros up to the
 * slot's width. Tells it to the reply without zeros and unit. */
RLX_INTERNAL uint8_t rlx_take_number(struct rlx_device *d, rlx_rom op, uint8_t comma)
{
    /* five digits fit 32 bits: the count of digits then shows what is too large */
    const bool may_overflow = RLX_HAS_WIDE || sizeof(rlx_magnitude) < 4;
    const uint8_t *s = d->text, *digits, *first, *end;
    uint8_t width = RLX_ROM8(op + 2), digit, minus = *s == '-';
    rlx_magnitude sum = 0;
    if (RLX_HAS_FORM && width & RLX_NUM_FORM) return take_formed(d, op, comma);
    digits = s += minus;
    while (*s == '0') s++;
    for (first = s; (digit = rlx_digit(*s)) <= 9; s++) {
        if (may_overflow && sum > (MAGNITUDE_MAX - 9) / 10)
            sum = MAGNITUDE_MAX; /* and stays there */
        else
            sum = sum * 10u + digit;
    }
    if (s == digits) return RLX_ERR_NUMBER;
    if (s == first) first--; /* zero has one */
    end = s;
    if (!take_unit(d, &s, op, comma) || (minus && *first == '0')) return RLX_ERR_NUMBER;
    width &= RLX_NUM_DIGITS;
    if (end - first > width || (may_overflow && sum > RLX_VALUE_MAX)) return RLX_ERR_RANGE;
    rlx_number value = minus ? -(rlx_number)sum : (rlx_number)sum;
    if (is_out(d, op, value)) return RLX_ERR_RANGE;
    if (end - digits > width) return RLX_ERR_DIGITS;
    if (minus) rlx_reply_put(d, '-');
    while (first != end) rlx_reply_put(d, *first++);
    keep(d, s, op, (rlx_value)value);
    return 0;
}
