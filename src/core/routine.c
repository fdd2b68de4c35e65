/* Routines: commands that the lexicon gives, one after the other, with times between them.
 * A step is done when it is due; a command to one of its outputs ends it.
 * It parses no text. */
#include "core.h"

#if RLX_HAS_ROUTINES

static uint8_t n_routines(const struct rlx_device *d)
{
    return rlx_rows_of(d, RLX_IMG_ROUTINES);
}

/* Where its outputs stand: their number, then they. */
static rlx_rom routine_row(const struct rlx_device *d, uint8_t routine)
{
    return rlx_image(d) + RLX_ROM16(rlx_part(d, RLX_IMG_ROUTINES) + 1 + 2u * routine);
}

static bool drives(const struct rlx_device *d, uint8_t routine, uint8_t output)
{
    rlx_rom row = routine_row(d, routine);
    for (uint8_t n = RLX_ROM8(row); n; n--)
        if (RLX_ROM8(row + n) == output) return true;
    return false;
}

static void routine_over(struct rlx_device *d, uint8_t routine, uint8_t how)
{
    rlx_routine_at(d, routine)->at = 0;
    rlx_source_event(d, routine, RLX_EVT_IS_ROUTINES, how);
}

#if RLX_HAS_HALT
RLX_INTERNAL void rlx_routines_stop(struct rlx_device *d)
{
    uint8_t n = n_routines(d);
    for (uint8_t i = 0; i < n; i++)
        if (rlx_routine_at(d, i)->at) routine_over(d, i, RLX_EVT_OFF);
}
#endif

RLX_INTERNAL void rlx_routines_yield(struct rlx_device *d, uint8_t output)
{
    uint8_t n = n_routines(d);
#if RLX_HAS_GROUPS
    for (uint8_t i = 0; rlx_out_group(d, output) && i < rlx_members(d, output); i++)
        for (uint8_t k = 0; k < n; k++)
            if (rlx_routine_at(d, k)->at && drives(d, k, rlx_member(d, output, i)))
                routine_over(d, k, RLX_EVT_OFF);
#endif
    for (uint8_t i = 0; i < n; i++)
        if (rlx_routine_at(d, i)->at && drives(d, i, output)) routine_over(d, i, RLX_EVT_OFF);
}

/* Where its first element stands. */
static uint16_t beginning(const struct rlx_device *d, rlx_rom row)
{
    return (uint16_t)(row - rlx_image(d) + RLX_ROM8(row) + 2);
}

RLX_INTERNAL int rlx_routine_act(struct rlx_device *d, uint8_t routine, enum rlx_verb verb)
{
    struct rlx_routine *r = rlx_routine_at(d, routine);
    rlx_rom row = routine_row(d, routine);
    uint8_t n = RLX_ROM8(row);
    if ((verb == RLX_RUN) == (r->at != 0)) return RLX_ALREADY;
    r->failed = false;
    if (verb != RLX_RUN) {
        routine_over(d, routine, RLX_EVT_OFF);
        return 0;
    }
    for (uint8_t i = 1; i <= n; i++) rlx_routines_yield(d, RLX_ROM8(row + i));
    r->at = beginning(d, row);
    r->step = 0;
    r->due = d->now;
#if RLX_HAS_LOOPS
    r->round = 0;
#endif
    return 0;
}

/* One element: a wait, an act with what is pushed before it, or the end. */
static void routine_step(struct rlx_device *d, uint8_t routine)
{
    struct rlx_routine *r = rlx_routine_at(d, routine);
    rlx_rom op = rlx_image(d) + r->at;
    if (RLX_ROM8(op) == RLX_OP_OVER) {
        routine_over(d, routine, RLX_EVT_ON);
        return;
    }
#if RLX_HAS_LOOPS
    if (RLX_ROM8(op) == RLX_OP_AGAIN) {
        uint16_t rounds = RLX_ROM16(op + 1);
        if (r->round < RLX_ROUTINE_ROUNDS) r->round++;
        r->step = 0;
        r->at = !rounds || r->round < rounds ? beginning(d, routine_row(d, routine))
                                             : (uint16_t)(r->at + 3);
        return;
    }
#endif
    r->step++;
    if (RLX_ROM8(op) == RLX_OP_WAIT) {
        r->due = d->now + rlx_rom32(op + 1);
        r->at = (uint16_t)(r->at + 5);
        return;
    }
    r->failed = rlx_step(d, op, false) < 0;
    r->at = (uint16_t)(d->at - rlx_image(d));
    if (r->failed) routine_over(d, routine, RLX_EVT_HELD);
}

RLX_INTERNAL uint32_t rlx_routines_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
    uint8_t n = n_routines(d);
    for (uint8_t i = 0; i < n; i++) {
        struct rlx_routine *r = rlx_routine_at(d, i);
        while (r->at && (int32_t)(d->now - r->due) >= 0) routine_step(d, i);
        if (r->at && r->due - d->now < wait) wait = r->due - d->now;
    }
    return wait;
}

#if RLX_HAS_STATE
/* The end of a routine, or where it begins again; adds the waits on the way there. */
static rlx_rom end_of(const struct rlx_device *d, rlx_rom op, uint32_t *waits)
{
    for (uint8_t kind; (kind = RLX_ROM8(op)) != RLX_OP_OVER;) {
#if RLX_HAS_LOOPS
        if (kind == RLX_OP_AGAIN) break;
#endif
        if (kind == RLX_OP_WAIT) *waits += rlx_rom32(op + 1);
        if (kind & RLX_OP_END) {
            bool call = (kind & RLX_ACT_MASK) == RLX_ACT_CALL;
            bool is_inline = rlx_operand(kind) == RLX_OPERAND_INLINE;
            op += 1 + call + (is_inline ? rlx_is_many(d) ? 2 : 1 : 0);
        } else {
            op += kind == RLX_OP_PUSH     ? 2
                  : kind == RLX_OP_PUSH16 ? 3
                  : kind == RLX_OP_WITHIN ? 7
                                          : 5;
        }
    }
    return op;
}

#if RLX_HAS_LOOPS
/* In which round it is; adds the waits of the rounds behind it. True: it has no end. */
static bool write_round(struct rlx_device *d, const struct rlx_routine *r, rlx_rom row, rlx_rom end,
                        uint32_t *left)
{
    uint32_t whole = 0;
    if (RLX_ROM8(end) != RLX_OP_AGAIN) return false;
    uint16_t rounds = RLX_ROM16(end + 1);
    rlx_reply_words(d, RLX_TXT_ROUND);
    rlx_reply_number(d, (rlx_value)r->round + 1, 0);
    if (!rounds) return true;
    rlx_reply_words(d, RLX_TXT_OF);
    rlx_reply_number(d, (rlx_value)rounds, 0);
    end_of(d, rlx_image(d) + beginning(d, row), &whole);
    for (uint16_t i = (uint16_t)(r->round + 1); i < rounds; i++) *left += whole;
    return false;
}
#endif

RLX_INTERNAL void rlx_write_routine(struct rlx_device *d, uint8_t routine)
{
    const struct rlx_routine *r = rlx_routine_at(d, routine);
    rlx_rom row = routine_row(d, routine);
    uint32_t left = (int32_t)(r->due - d->now) > 0 ? r->due - d->now : 0;
    if (!r->at && !r->failed) {
        rlx_reply_words(d, RLX_TXT_OFF);
        return;
    }
    rlx_reply_words(d, r->failed ? RLX_TXT_FAILED : RLX_TXT_STEP);
    rlx_reply_number(d, r->step, 0);
    if (r->failed) return;
    rlx_reply_words(d, RLX_TXT_OF);
    rlx_reply_number(d, RLX_ROM8(row + RLX_ROM8(row) + 1), 0);
    rlx_rom end = end_of(d, rlx_image(d) + r->at, &left);
#if RLX_HAS_LOOPS
    if (write_round(d, r, row, end, &left)) return;
#endif
    (void)end;
    rlx_reply_words(d, RLX_TXT_LEFT);
    rlx_reply_number(d, (rlx_value)left, 0);
    rlx_reply_words(d, RLX_TXT_MS);
}
#endif
#endif
