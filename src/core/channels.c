/* Frames of proportional channels, which a sender repeats for ever. Each row of the layout is a
 * command that channels give values to, or that is sent when one enters a zone.
 * It keeps the frame before, and obeys what changed; nothing moves before it was at rest.
 * The fields themselves are read in layout.c. */
#include "core.h"

#if RLX_TAKES_CHANNELS

/* Of a row. */
enum {
    INSIDE = 1, /* the channel is in its zone */
    GOES = 2,   /* it was at rest, or entered its zone, since the link is used */
    TOLD = 4    /* it is in the log that it has to be at rest */
};

/* What stands in the link's buffer. */
struct kept {
    uint8_t *now, *before, *known, *flags;
};

static struct kept kept_of(const struct rlx_link *link, uint8_t bytes)
{
    uint8_t *now = rlx_frame_text(link);
    return (struct kept){now, now + bytes, now + 2u * bytes, now + 2u * bytes + 1};
}

static uint16_t place_of(const struct rlx_reading *r, const uint8_t *frame, uint8_t number)
{
    uint8_t bits = (uint8_t)((r->size & RLX_SIZE_BITS) + 1);
    uint16_t at = (uint16_t)(r->channels + (uint16_t)(number * bits)), value = 0, weight = 1;
    for (uint8_t i = 0; i < bits; i++, at++) {
        uint8_t bit = at & 7, byte = frame[at >> 3];
        if (r->size & RLX_SIZE_LITTLE) {
            if (byte & 1u << bit) value |= weight;
            weight = (uint16_t)(weight << 1);
        } else {
            value = (uint16_t)(value << 1);
            if (byte & 0x80u >> bit) value |= 1u;
        }
    }
    return value;
}

static uint16_t place_in(const struct rlx_reading *r, const uint8_t *frame, rlx_rom operand)
{
    return place_of(r, frame, RLX_ROM8(operand) & RLX_CHANNEL_NUMBER);
}

static bool is_at_rest(rlx_rom operand, uint16_t value)
{
    return value >= RLX_ROM16(operand + RLX_CHN_REST_FROM) &&
           value <= RLX_ROM16(operand + RLX_CHN_REST_TO);
}

/* The slot's value: in a straight line from where it is at rest to either end. */
static int32_t slot_of(rlx_rom operand, uint16_t value)
{
    int32_t rest = (int32_t)rlx_rom32(operand + RLX_CHN_REST);
    if (is_at_rest(operand, value)) return rest;
    bool below = value < RLX_ROM16(operand + RLX_CHN_REST_FROM);
    uint8_t near = below ? RLX_CHN_REST_FROM : RLX_CHN_REST_TO,
            far = below ? RLX_CHN_FROM : RLX_CHN_TO, end = below ? RLX_CHN_LOW : RLX_CHN_HIGH;
    uint16_t from = RLX_ROM16(operand + near), to = RLX_ROM16(operand + far);
    int32_t last = (int32_t)rlx_rom32(operand + end);
    if (below ? value <= to : value >= to) return last;
    return rlx_stretched(value, from, (int32_t)to - from, rest, last - rest);
}

/* Obeys the command of a row; whether it was refused. */
static bool is_refused(struct rlx_device *d, rlx_rom row, uint8_t *room, rlx_rom text, bool renews)
{
    uint16_t start = d->tx_next;
    if (!rlx_layout_text(d, room, text)) return true;
    d->text = room;
    d->renews = renews;
    uint8_t error = rlx_obey(d, row);
    d->renews = false;
    d->tx_next = start;
    return error && error < RLX_OWN_ALREADY;
}

/* What became of a row with this frame. */
enum { NOTHING, OBEY, RENEW, REFUSE };

static uint8_t enters(const struct rlx_reading *r, const struct kept *k, bool known, uint8_t *flags,
                      rlx_rom zone)
{
    uint16_t value = place_in(r, k->now, zone);
    if (*flags & INSIDE) {
        if (value < RLX_ROM16(zone + RLX_ZON_KEEP_FROM) ||
            value > RLX_ROM16(zone + RLX_ZON_KEEP_TO))
            *flags = 0;
        return *flags & GOES && RLX_ROM8(zone) & RLX_CHANNEL_RENEWS ? RENEW : NOTHING;
    }
    if (value < RLX_ROM16(zone + RLX_ZON_FROM) || value > RLX_ROM16(zone + RLX_ZON_TO))
        return NOTHING;
    *flags =
        known ? INSIDE | GOES : INSIDE; /* a switch that stood there when it began does nothing */
    return known ? OBEY : NOTHING;
}

/* Its fields' values are then d->value. */
static uint8_t moves(struct rlx_device *d, const struct rlx_reading *r, const struct kept *k,
                     bool known, uint8_t *flags, rlx_rom at)
{
    struct rlx_field f;
    bool rests = true, changed = false, renews = false, anywhere = false;
    while (rlx_field_next(&at, &f)) {
        uint8_t is = RLX_ROM8(f.operand);
        uint16_t value = place_in(r, k->now, f.operand);
        int32_t slot = slot_of(f.operand, value);
        rests = rests && is_at_rest(f.operand, value);
        changed = changed || slot != slot_of(f.operand, place_in(r, k->before, f.operand));
        renews = renews || is & RLX_CHANNEL_RENEWS;
        anywhere = anywhere || is & RLX_CHANNEL_ANYWHERE;
        d->value[RLX_ROM8(f.operand + RLX_CHN_SLOT)] = (rlx_value)slot;
    }
    if (*flags & GOES) return changed ? OBEY : renews && !rests ? RENEW : NOTHING;
    changed = changed && anywhere && known;
    if (rests || changed) *flags = GOES;
    if (rests || anywhere || *flags & TOLD) return changed ? OBEY : NOTHING;
    *flags = TOLD;
    return REFUSE;
}

static void read_row(struct rlx_device *d, rlx_rom row, const struct rlx_reading *r,
                     const struct kept *k, bool known, uint8_t *flags, rlx_rom at, uint8_t *room)
{
    struct rlx_field f;
    rlx_rom first = at;
    bool zone = rlx_field_next(&first, &f) && f.what == RLX_FLD_ZONE;
    uint8_t does = zone ? enters(r, k, known, flags, f.operand) : moves(d, r, k, known, flags, at);
    if (does == NOTHING) return;
    if (does == REFUSE) {
        rlx_count(&rlx_current(d)->refused);
#if RLX_HAS_LOG
        if (rlx_layout_text(d, room, rlx_fields_end(at))) rlx_log_add(d, room, RLX_ERR_REST, false);
#endif
    } else if (is_refused(d, row, room, rlx_fields_end(at), does == RENEW)) {
        rlx_count(&rlx_current(d)->refused);
        *flags &= INSIDE; /* or it would go on as soon as it is permitted, with nobody there */
    }
}

RLX_INTERNAL uint8_t rlx_channels_read(struct rlx_device *d, rlx_rom row)
{
    struct rlx_link *link = rlx_current(d);
    struct kept k = kept_of(link, rlx_channel_bytes(d, row));
    struct rlx_reading r = {.bytes = k.now, .length = link->frame_len};
    uint32_t number;
    rlx_rom end = 0, at = rlx_layout_fields(d, row, RLX_OF_FRAME, &end);
    uint8_t *room = k.now + RLX_ROM8(at - 1), *flags = k.flags;
    if (!rlx_layout_take(&r, at, 0, &number)) return RLX_MATCH_OTHERS;
    if (r.failsafe) {
        rlx_channels_forget(d, rlx_current_number(d));
#if RLX_HAS_UP
        rlx_link_set(d, rlx_current_number(d), false);
#endif
        return RLX_MATCH_EMPTY;
    }
    bool known = *k.known;
    *k.known = true;
    for (at = rlx_layout_fields(d, row, RLX_OF_ROWS, &end); at != end;) {
        uint8_t what = RLX_ROM8_NEXT(at);
        if (what == RLX_ROW_COMMAND) read_row(d, row, &r, &k, known, flags++, at, room);
        at = rlx_row_end(rlx_fields_end(at), what);
    }
    for (uint8_t i = 0; i < r.length; i++) k.before[i] = k.now[i];
    return 0;
}

RLX_INTERNAL void rlx_channels_forget(struct rlx_device *d, uint8_t link_no)
{
    rlx_rom row = rlx_link_row(d, link_no), end = 0;
    uint8_t bytes = rlx_channel_bytes(d, row);
    if (!bytes) return;
    struct kept k = kept_of(rlx_link_at(d, link_no), bytes);
    const uint8_t *room = k.now + RLX_ROM8(rlx_layout_fields(d, row, RLX_OF_FRAME, &end) - 1);
    for (uint8_t *at = k.known; at != room; at++) *at = 0;
}

RLX_INTERNAL void rlx_channels_halt(struct rlx_device *d)
{
    for (uint8_t i = 0; i < rlx_n_links(d); i++) rlx_channels_forget(d, i);
}
#endif
