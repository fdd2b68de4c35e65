/* What an led does by itself: blink, flash, fade, patterns; and how a level looks.
 * Each step has its time; a late poll does not shift the beat.
 * Levels that hold are in steady.c. */
#include "steps.h"

#if RLX_HAS_ACTS

#define FLASH_MS 150u /* on, and off again as long */
#define STEP_MS  10u  /* between two levels of a fade */

static void act_next(struct rlx_device *d, uint8_t output, uint32_t ms)
{
    rlx_output_at(d, output)->steady.act_due = d->now + ms;
}

static void act_begin(struct rlx_device *d, uint8_t output, enum rlx_verb verb, uint32_t argument)
{
    struct rlx_output *out = rlx_output_at(d, output);
    out->steady.act = (uint8_t)verb;
    out->steady.act_ms = verb == RLX_BLINK ? argument / 2 : FLASH_MS;
    out->steady.act_count = (uint8_t)(verb == RLX_FLASH ? argument : 0);
    rlx_out_show(d, output, UINT16_MAX);
    act_next(d, output, out->steady.act_ms);
}

#if RLX_HAS_PATTERNS
static uint32_t pattern_ms(const struct rlx_device *d, const struct rlx_output *out)
{
    return RLX_ROM16(rlx_image(d) + out->steady.act_from + 1 + 2u * out->steady.act_count);
}

/* On, off, on, off, and from the beginning. */
static void pattern_step(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    uint32_t late = d->now - out->steady.act_due; /* as with a blink */
    if (++out->steady.act_count == RLX_ROM8(rlx_image(d) + out->steady.act_from))
        out->steady.act_count = 0;
    uint32_t ms = pattern_ms(d, out);
    rlx_out_show(d, output, out->steady.act_count & 1 ? 0 : UINT16_MAX);
    act_next(d, output, late < ms ? ms - late : 1);
}

static int pattern_begin(struct rlx_device *d, uint8_t output, uint8_t number)
{
    struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom at = rlx_part(d, RLX_IMG_PATTERNS) + 1;
    for (; number; number--) {
        at += 1 + 2u * RLX_ROM8(at);
        while (RLX_ROM8_NEXT(at) < RLX_TEXT_END) {}
    }
    uint16_t from = (uint16_t)(at - rlx_image(d));
    if (out->steady.act == RLX_PATTERN && out->steady.act_from == from) return RLX_ALREADY;
    out->steady.act = RLX_PATTERN;
    out->steady.act_from = from;
    out->steady.act_count = 0;
    rlx_out_show(d, output, UINT16_MAX);
    act_next(d, output, pattern_ms(d, out));
    return 0;
}
#endif

RLX_INTERNAL int rlx_act_begin(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                               uint32_t argument)
{
    const struct rlx_output *out = rlx_output_at(d, output);
#if RLX_HAS_PATTERNS
    if (verb == RLX_PATTERN) return pattern_begin(d, output, (uint8_t)argument);
#endif
    if (verb == RLX_BLINK && out->steady.act == RLX_BLINK && out->steady.act_ms == argument / 2)
        return RLX_ALREADY; /* and goes on in its beat */
    act_begin(d, output, verb == RLX_BEEP ? RLX_FLASH : verb, argument);
    return 0;
}

/* Milliseconds from one level to another; 0: none. */
static uint32_t fade_ms(const struct rlx_device *d, rlx_rom more)
{
    uint32_t time = rlx_out_time(more, RLX_OUT_FADE);
#if RLX_HAS_OWN_RAMPS
    if (time & RLX_LASTS_SET) time = (uint32_t)*rlx_setting_at(d, (uint8_t)time);
#endif
    (void)d;
    return time;
}

/* A fade has the time that it began with, in the upper half of act_ms where a setting has it. */
#if RLX_HAS_OWN_RAMPS
#define FADE_BEGINS(time)       ((time) << 16)
#define FADE_SO_FAR(out)        ((out)->steady.act_ms & 0xFFFFu)
#define FADE_TIME(d, out, more) ((out)->steady.act_ms >> 16)
#else
#define FADE_BEGINS(time)       0
#define FADE_SO_FAR(out)        ((out)->steady.act_ms)
#define FADE_TIME(d, out, more) fade_ms(d, more)
#endif

RLX_INTERNAL bool rlx_act_fade(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom more = rlx_out_more(d, output);
    uint32_t time = more ? fade_ms(d, more) : 0;
    if (!time) return false;
    out->steady.act = RLX_FADE;
    out->steady.act_from = out->shown;
    out->steady.act_ms = FADE_BEGINS(time);
    act_next(d, output, STEP_MS);
    return true;
}

/* The share of the way that is behind it is a product: the lexicon has 2^32 / the fade's time, but
 * of a setting's. */
static void fade_step(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom more = rlx_out_more(d, output);
    uint32_t late = d->now - out->steady.act_due, time = FADE_TIME(d, out, more);
    if (late > time) late = time;
    uint32_t so_far = FADE_SO_FAR(out) + STEP_MS + late;
    if (so_far >= time) {
        out->steady.act = RLX_OFF;
        rlx_out_show(d, output, out->level);
        return;
    }
    out->steady.act_ms = FADE_BEGINS(time) + so_far;
    uint32_t whole = rlx_out_time(more, RLX_OUT_FADE_SHARE);
#if RLX_HAS_OWN_RAMPS
    if (!whole) whole = UINT32_MAX / time;
#endif
    uint16_t share = (uint16_t)(so_far * whole >> 16);
    bool down = out->level < out->steady.act_from;
    uint32_t way = down ? (uint32_t)(out->steady.act_from - out->level)
                        : (uint32_t)(out->level - out->steady.act_from);
    uint16_t done = (uint16_t)(way * share >> 16);
    rlx_out_show(d, output,
                 (uint16_t)(down ? out->steady.act_from - done : out->steady.act_from + done));
    act_next(d, output, STEP_MS);
}

/* On to off, off to on; a flash that is over leaves the level that was commanded before. */
static void blink_step(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    bool on = out->shown != 0;
    uint32_t late = d->now - out->steady.act_due; /* a late poll does not shift the beat */
    if (on && out->steady.act == RLX_FLASH && !--out->steady.act_count) {
        out->steady.act = RLX_OFF;
        rlx_out_show(d, output, out->level);
        return;
    }
    rlx_out_show(d, output, on ? 0 : UINT16_MAX);
    act_next(d, output, late < out->steady.act_ms ? out->steady.act_ms - late : 1);
}

RLX_INTERNAL uint32_t rlx_act_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    if (out->steady.act != RLX_OFF && (int32_t)(d->now - out->steady.act_due) >= 0) {
        if (out->steady.act == RLX_FADE) fade_step(d, output);
#if RLX_HAS_PATTERNS
        else if (out->steady.act == RLX_PATTERN)
            pattern_step(d, output);
#endif
        else
            blink_step(d, output);
    }
    return out->steady.act == RLX_OFF ? RLX_FOREVER : out->steady.act_due - d->now;
}
#endif

#if RLX_HAS_CURVE && RLX_HAS_LEVEL
/* Lightness L* of CIE 1976 (ISO/CIE 11664-4) to luminance, 0..65535 each: below 8 % L* / 903.3,
 * above the cube of (L* + 16) / 116. */
RLX_INTERNAL uint16_t rlx_eye(uint16_t level)
{
    if (level == UINT16_MAX || level <= 5243) return level == UINT16_MAX ? level : level / 9;
    uint32_t share = ((uint32_t)level + 10486) * 56497 >> 16;
    return (uint16_t)((share * share >> 16) * share >> 16);
}
#endif
