/* Groups: several outputs that one command sets.
 * Those that go off go first, so that the supply never carries both.
 * It drives no pin itself. */
#include "kinds.h"

#if RLX_HAS_GROUPS

static rlx_rom group_row(const struct rlx_device *d, uint8_t group)
{
    return rlx_image(d) + RLX_ROM16(rlx_out_row(d, group) + RLX_OUT_MORE);
}

RLX_INTERNAL uint8_t rlx_members(const struct rlx_device *d, uint8_t group)
{
    return RLX_ROM8(group_row(d, group));
}

RLX_INTERNAL uint8_t rlx_member(const struct rlx_device *d, uint8_t group, uint8_t n)
{
    return RLX_ROM8(group_row(d, group) + 1 + n);
}

/* Those that go off go first: the supply never carries both. */
RLX_INTERNAL int rlx_group_act(struct rlx_device *d, uint8_t group, enum rlx_verb verb,
                               uint32_t mask)
{
    uint8_t n = rlx_members(d, group);
    bool same = true, waits = false;
    if (verb != RLX_MASK) mask = verb == RLX_ON ? UINT32_MAX : 0;
    for (uint8_t pass = 0; pass < 2; pass++)
        for (uint8_t i = 0; i < n; i++) {
            if ((mask >> i & 1) != pass) continue;
            int done = rlx_steady_set(d, rlx_member(d, group, i), pass ? UINT16_MAX : 0);
            same = same && done == RLX_ALREADY;
            waits = waits || done == RLX_WAITS;
        }
    return waits ? RLX_WAITS : same ? RLX_ALREADY : 0;
}

RLX_INTERNAL bool rlx_group_is_on(const struct rlx_device *d, uint8_t group)
{
    for (uint8_t i = 0; i < rlx_members(d, group); i++)
        if (rlx_output_at(d, rlx_member(d, group, i))->level) return true;
    return false;
}

RLX_INTERNAL uint32_t rlx_group_verbs(const struct rlx_device *d, uint8_t group)
{
    (void)d, (void)group;
    return rlx_verbs_with(RLX_K(GROUP));
}

RLX_INTERNAL int rlx_group_values(struct rlx_device *d, uint8_t group, const rlx_value *values)
{
    (void)d, (void)group, (void)values;
    return -RLX_ERR_FAILED; /* it has no level */
}

/* Sets each member. */
RLX_INTERNAL void rlx_group_force(struct rlx_device *d, uint8_t group, uint16_t level)
{
    (void)d, (void)group, (void)level;
}

#if RLX_MAKES_SAFE
RLX_INTERNAL void rlx_group_safe(struct rlx_device *d, uint8_t group, uint16_t level)
{
    (void)d, (void)group, (void)level;
}
#endif

#if RLX_HAS_RUNS
RLX_INTERNAL uint32_t rlx_group_run(struct rlx_device *d, uint8_t group)
{
    (void)d, (void)group;
    return RLX_FOREVER;
}
#endif

#if RLX_HAS_WAITS
/* The last of its outputs. */
RLX_INTERNAL uint32_t rlx_group_waits(const struct rlx_device *d, uint8_t group)
{
    uint32_t most = 0;
#if RLX_HAS_RESTS
    for (uint8_t i = 0; i < rlx_members(d, group); i++) {
        uint32_t wait = rlx_rest_of(d, rlx_member(d, group, i));
        if (wait > most) most = wait;
    }
#else
    (void)d, (void)group;
#endif
    return most;
}
#endif

#if RLX_HAS_PERMITTED
/* Each member is asked instead. */
RLX_INTERNAL uint8_t rlx_group_goes(const struct rlx_device *d, uint8_t group, uint8_t verb,
                                    const rlx_value *values)
{
    (void)d, (void)group, (void)verb, (void)values;
    return 0;
}

RLX_INTERNAL uint8_t rlx_group_going(const struct rlx_device *d, uint8_t group)
{
    (void)d, (void)group;
    return 0;
}
#endif

#if RLX_HAS_STATE
RLX_INTERNAL void rlx_group_describe(const struct rlx_device *d, uint8_t group,
                                     struct rlx_state *state)
{
    (void)d, (void)group;
    state->members = true;
}
#endif
#endif
