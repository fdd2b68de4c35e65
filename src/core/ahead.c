/* Looks at what waits behind the frame in hand: a halt, or a newer command.
 * A copy of the link reads on in the same ring; nothing is taken.
 * It answers nothing. */
#include "core.h"

#if RLX_HAS_AHEAD

/* A copy of the link that reads on in the same ring, into a frame of its own. */
struct ahead {
    struct rlx_link link;
    uint8_t frame[RLX_AHEAD_BYTES + 1];
};

/* False: frames of a length that is fixed and too long to be looked at. A frame of another kind
 * that is too long counts as refused. */
static bool ahead_begin(struct ahead *a, const struct rlx_link *link, rlx_rom row)
{
#if RLX_HAS_TIMED
    uint8_t gap = *(const volatile uint8_t *)&link->rx_gap; /* before the place that it marks */
    RLX_FENCE();
#endif
    a->link = *link;
#if RLX_HAS_TIMED
    a->link.rx_gap = gap;
#endif
    a->link.frame = a->frame;
#if RLX_HAS_PEOPLE
    a->link.echoes = false;
#endif
    if (rlx_frame_most(link) <= RLX_AHEAD_BYTES) return true;
    a->link.frame_size = RLX_AHEAD_BYTES;
    return rlx_framing(row) != RLX_FRAME_FIXED && rlx_framing(row) != RLX_FRAME_CODES;
}

/* Goes on to the end of the next whole frame. */
static bool ahead_next(const struct rlx_device *d, struct ahead *a, rlx_rom row)
{
    a->link.frame_len = 0;
    a->link.frame_state = 0;
    uint8_t budget = UINT8_MAX; /* more than a ring has */
    while (!(a->link.frame_state & RLX_FRAME_READY))
        if (!budget || !rlx_frame_step(d, &a->link, row, &budget)) return false;
    return true;
}

/* Whether it is a frame for this device without a fault; d->text is then the command. */
static bool ahead_open(struct rlx_device *d, struct ahead *a, rlx_rom row)
{
    rlx_set_current(d, &a->link, rlx_current_number(d));
    d->text = a->frame;
    if (a->link.frame_state != RLX_FRAME_READY) return false;
#if RLX_TAKES_CHANNELS
    if (rlx_channel_bytes(d, row)) return false; /* the next frame is there at once */
#endif
#if RLX_HAS_BINARY
    uint32_t number;
    rlx_rom answers;
    if (rlx_is_binary(d, row) && rlx_layout_read(d, row, &number, &answers)) return false;
#endif
#if RLX_HAS_ENVELOPE
    if (rlx_envelope_read(d, row)) return false;
#endif
    (void)row;
    while (*d->text == ' ') d->text++;
    return true;
}

#if RLX_HAS_HALT
/* Steps over a byte that was looked at. */
static void ahead_skip(struct ahead *a)
{
#if RLX_HAS_CODES
    if (a->link.frame_next) {
        a->link.frame_next = 0;
        return;
    }
#endif
    a->link.rx_limit++;
}

/* Bytes up to the end of the last whole frame: those of the ring, and one that was kept back here
 * or there. */
static uint8_t ahead_bytes(const struct ahead *a, const struct rlx_link *link)
{
    unsigned bytes = (uint8_t)(a->link.rx_limit - link->rx_limit);
#if RLX_HAS_CODES
    bytes += (link->frame_next != 0);
    bytes -= (a->link.frame_next != 0);
#endif
    return (uint8_t)bytes;
}

static void ahead_look(struct rlx_device *d, struct ahead *a, struct rlx_link *link, rlx_rom row)
{
    if (!ahead_open(d, a, row) || !rlx_is_halt(d)) return;
    rlx_make_safe(d);
    link->halts++;
}

RLX_INTERNAL void rlx_halt_ahead(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    struct ahead a;
    if (!ahead_begin(&a, link, row)) return;
    if (!link->looked) { /* the frame in hand */
        uint8_t i = 0;
        while (i < RLX_AHEAD_BYTES && (a.frame[i] = rlx_frame_text(link)[i]) != 0) i++;
        a.frame[i] = 0;
        link->looked = true;
        if (!rlx_frame_text(link)[i]) ahead_look(d, &a, link, row);
    }
    for (uint8_t i = link->ahead; i; i--) ahead_skip(&a);
    while (ahead_next(d, &a, row)) {
        ahead_look(d, &a, link, row);
        link->ahead = ahead_bytes(&a, link);
    }
}
#endif

#if RLX_HAS_NEWEST
/* What distinguishes commands: their END, their first word, and the output that a value names. */
struct command {
    rlx_rom at, entry;
    rlx_value which;
};

static struct command command_of(const struct rlx_device *d)
{
    bool named = rlx_operand(RLX_ROM8(d->at)) == RLX_OPERAND_VALUE;
    return (struct command){d->at, d->entry, (rlx_value)(named ? d->value[0] : 0)};
}

static bool is_same(struct rlx_device *d, struct ahead *a, rlx_rom row,
                    const struct command *command)
{
    if (!ahead_open(d, a, row)) return false;
    if (RLX_HAS_TEXT && rlx_frame_stray(&a->link)) return false;
#if RLX_HAS_TAGS
    if (rlx_envelope_judge(d, row)) return false;
#endif
#if RLX_HAS_SEAL
    if (rlx_seal_judge(d)) return false;
#endif
#if RLX_HAS_BUILT_IN
    if (rlx_split(d)) return false;
    d->text_end = 0;
#endif
    if (RLX_HAS_NUMBERED) rlx_frame_number(d);
    if (rlx_match(d)) return false;
    struct command other = command_of(d);
    return other.at == command->at && other.entry == command->entry &&
           other.which == command->which;
}

RLX_INTERNAL bool rlx_is_superseded(struct rlx_device *d, rlx_rom row)
{
    struct rlx_link *link = rlx_current(d);
    const struct command command = command_of(d);
    struct ahead a;
    bool same = ahead_begin(&a, link, row) && ahead_next(d, &a, row);
#if RLX_HAS_ENVELOPE
    uint8_t source = d->source;
    uint16_t tag = d->tag, sum = d->sum;
    bool tagged = d->tagged, broadcast = d->broadcast;
#if RLX_HAS_SEAL
    uint8_t key = d->seal_key, kind = d->seal_kind;
    uint32_t session = d->seal_session, counter = d->seal_counter;
#endif
    d->tagged = d->broadcast = false;
    d->source = 0;
    same = same && is_same(d, &a, row, &command) && d->source == source;
    d->source = source;
    d->tag = tag;
    d->sum = sum;
    d->tagged = tagged;
    d->broadcast = broadcast;
#if RLX_HAS_SEAL
    same = same && d->seal_key == key;
    d->seal_key = key;
    d->seal_kind = kind;
    d->seal_session = session;
    d->seal_counter = counter;
#endif
#else
    same = same && is_same(d, &a, row, &command);
#endif
    rlx_set_current(d, link, rlx_current_number(d));
    return same;
}
#endif

#endif
