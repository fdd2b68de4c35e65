/* Relays that rest: minimum times on and off, and those that are never on together.
 * A change that may not be yet is done when its time is over.
 * It has no level of its own. */
#include "steps.h"

#if RLX_HAS_RESTS

/* Milliseconds of `time` that are left since it was last switched. */
static uint32_t left_of(const struct rlx_device *d, uint8_t output, uint32_t time)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    uint32_t since = d->now - out->changed;
    return out->recent && since < time ? time - since : 0;
}

/* In the same interlock; 0: it is in none. */
static uint8_t group_of(const struct rlx_device *d, uint8_t output)
{
    rlx_rom more = rlx_out_more(d, output);
    return more ? RLX_ROM8(more + RLX_OUT_GROUP) : 0;
}

/* Until another one of its interlock is off, and the dead time over. */
static uint32_t others_of(const struct rlx_device *d, uint8_t output)
{
    uint8_t group = group_of(d, output), n = rlx_n_outputs(d);
    uint32_t wait = 0;
    if (!group) return 0;
    for (uint8_t i = 0; i < n; i++) {
        if (i == output || group_of(d, i) != group) continue;
        rlx_rom more = rlx_out_more(d, i);
        uint32_t dead = rlx_out_time(more, RLX_OUT_DEAD), due = left_of(d, i, dead);
        if (rlx_output_at(d, i)->shown)
            due = left_of(d, i, rlx_out_time(more, RLX_OUT_MIN_ON)) + dead;
        if (due > wait) wait = due;
    }
    return wait;
}

RLX_INTERNAL uint32_t rlx_rest_of(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom more = rlx_out_more(d, output);
    if (!more || (out->level != 0) == (out->shown != 0)) return 0;
    if (out->shown) return left_of(d, output, rlx_out_time(more, RLX_OUT_MIN_ON));
    uint32_t rest = left_of(d, output, rlx_out_time(more, RLX_OUT_MIN_OFF));
    uint32_t others = others_of(d, output);
    return rest > others ? rest : others;
}

RLX_INTERNAL void rlx_rest_begin(struct rlx_device *d, uint8_t output)
{
    rlx_output_at(d, output)->recent = true;
    rlx_output_at(d, output)->changed = d->now;
}

RLX_INTERNAL bool rlx_rest_excludes(const struct rlx_device *d, uint8_t output, uint8_t other)
{
    uint8_t group = group_of(d, output);
    return group && other != output && group_of(d, other) == group;
}

/* The timer is cleared when the longest of its times is over. */
RLX_INTERNAL uint32_t rlx_rest_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    rlx_rom more = rlx_out_more(d, output);
    if (!more || !(rlx_out_time(more, RLX_OUT_REST) || RLX_ROM8(more + RLX_OUT_GROUP)))
        return RLX_FOREVER;
    uint32_t wait = rlx_rest_of(d, output), longest = rlx_out_time(more, RLX_OUT_REST);
    if (out->level != out->shown && !wait) rlx_out_show(d, output, out->level);
    if (wait) return wait;
    wait = left_of(d, output, longest);
    if (!wait) out->recent = false;
    return wait ? wait : RLX_FOREVER;
}
#endif
