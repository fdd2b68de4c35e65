/* Reversers: two relays that turn a motor one way or the other, never both on, and what ends the
 * way. */
#include "outputs.h"

#if RLX_HAS_MOVES

static rlx_rom way_row(const struct rlx_device *d, uint8_t output)
{
    return d->image + RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
}

/* The relay of a direction, 1 or -1. */
static void write_relay(struct rlx_device *d, uint8_t output, int8_t way, bool on)
{
    rlx_rom row = rlx_out_row(d, output);
    uint8_t pin = RLX_ROM8(way > 0 ? row + RLX_OUT_PIN : way_row(d, output) + RLX_REV_CLOSE_PIN);
    rlx_port_pin_write(d->port, pin, on != (RLX_ROM8(row + RLX_OUT_FLAGS) & RLX_OUT_ACTIVE_LOW));
}

#if RLX_HAS_PLACES
/* Milliseconds from end to end, where nothing but time tells that it has arrived; 0: inputs do, or
 * nothing. */
static uint32_t way_ms(const struct rlx_device *d, uint8_t output)
{
    rlx_rom row = way_row(d, output);
    return RLX_ROM8(row + RLX_REV_SEEN) ? 0 : rlx_out_time(row, RLX_REV_TRAVEL);
}

/* Where it is now, if that is known. */
static uint32_t place_now(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = &d->outputs[output];
    uint32_t way = way_ms(d, output), gone = out->moves ? d->now - out->began : 0;
    if (out->moves < 0) return gone < out->place ? out->place - gone : 0;
    return gone < way - out->place ? out->place + gone : way;
}

/* How long it is driven: what is left of its way; all of it where nobody knows, and a sixteenth
 * more from somewhere between its ends, so that it is surely there. */
static uint32_t drive_ms(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = &d->outputs[output];
    uint32_t way = way_ms(d, output), left = out->way > 0 ? way - out->place : out->place;
    if (!way || !out->known) return rlx_out_time(way_row(d, output), RLX_REV_TRAVEL);
    if (left != way) left += way >> 4;
    return left < way ? left : way;
}
#endif

/* Whether the end of this way is reached: the very first sample counts, settled or not. */
static bool at_end(const struct rlx_device *d, uint8_t output, int8_t way)
{
#if RLX_HAS_PLACES
    const struct rlx_output *out = &d->outputs[output];
    uint32_t ms = way_ms(d, output);
    if (ms) return out->known && !out->moves && out->place == (way > 0 ? ms : 0);
#endif
#if RLX_HAS_INPUTS
    uint8_t field = way > 0 ? RLX_REV_OPEN_UNTIL : RLX_REV_CLOSE_UNTIL;
    uint8_t input = RLX_ROM8(way_row(d, output) + field);
    return input != RLX_REV_UNSEEN && rlx_input_is_raw(d, input);
#else
    (void)d, (void)output, (void)way;
    return false;
#endif
}

static void relays_off(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = &d->outputs[output];
    write_relay(d, output, 1, false);
    write_relay(d, output, -1, false);
    if (out->moves) {
#if RLX_HAS_PLACES
        if (out->known) out->place = place_now(d, output);
#endif
        out->last = out->moves;
        out->rests = true;
        out->stopped = d->now;
    }
    out->moves = 0;
}

RLX_INTERNAL void rlx_mover_stop(struct rlx_device *d, uint8_t output)
{
    relays_off(d, output);
    d->outputs[output].way = 0;
    d->outputs[output].late = false;
}

/* Milliseconds until the other direction may begin; a timer that is over is cleared. */
static uint32_t dead_left(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = &d->outputs[output];
    uint32_t dead = rlx_out_time(way_row(d, output), RLX_REV_DEAD), since = d->now - out->stopped;
    return out->rests && since < dead ? dead - since : 0;
}

RLX_INTERNAL uint32_t rlx_mover_waits(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = &d->outputs[output];
    return out->way && !out->moves && out->last == -out->way ? dead_left(d, output) : 0;
}

/* It stands still now, and tells why. */
static void arrive(struct rlx_device *d, uint8_t output, bool late)
{
    struct rlx_output *out = &d->outputs[output];
    int8_t way = out->way;
    rlx_mover_stop(d, output);
    out->late = late;
#if RLX_HAS_PLACES
    out->known = !late;
    out->place = way > 0 ? way_ms(d, output) : 0;
#endif
    rlx_source_tell(d, output, RLX_EVT_IS_OUTPUTS,
                    late      ? RLX_EVT_HELD
                    : way > 0 ? RLX_EVT_ON
                              : RLX_EVT_OFF);
}

RLX_INTERNAL uint32_t rlx_mover_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = &d->outputs[output];
    uint32_t left = dead_left(d, output), travel;
    if (!left) out->rests = false;
    if (!out->way) return left ? left : RLX_FOREVER;
    if (at_end(d, output, out->way)) {
        arrive(d, output, false);
        return 1;
    }
    if (!out->moves) {
        left = rlx_mover_waits(d, output);
        if (left) return left;
        write_relay(d, output, out->way, true);
        out->moves = out->way;
        out->began = d->now;
    }
#if RLX_HAS_PLACES
    travel = drive_ms(d, output);
#else
    travel = rlx_out_time(way_row(d, output), RLX_REV_TRAVEL);
#endif
    if (!travel) return RLX_FOREVER;
    if (d->now - out->began < travel) return travel - (d->now - out->began);
    /* where nothing sees an end, the time is the way */
    arrive(d, output, RLX_ROM8(way_row(d, output) + RLX_REV_SEEN));
    return 1;
}

RLX_INTERNAL int rlx_mover_tell(struct rlx_device *d, uint8_t output, enum rlx_verb verb)
{
    struct rlx_output *out = &d->outputs[output];
    int8_t now = out->way ? out->way : out->last;
    int8_t way = (int8_t)(verb == RLX_OPEN      ? 1
                          : verb == RLX_CLOSE   ? -1
                          : verb == RLX_REVERSE ? (now < 0 ? 1 : -now)
                                                : 0);
    if (verb == RLX_REVERSE && !now) way = 1;
    if (way == out->way) return way || !out->moves ? RLX_ALREADY : 0;
    if (way && at_end(d, output, way)) {
        bool stood = !out->moves;
        rlx_mover_stop(d, output);
        return stood ? RLX_ALREADY : 0;
    }
    rlx_mover_stop(d, output);
    out->way = way;
    rlx_mover_run(d, output);
    return rlx_mover_waits(d, output) ? RLX_WAITS : 0;
}

#if RLX_HAS_PLACES
RLX_INTERNAL uint8_t rlx_way_percent(const struct rlx_device *d, uint8_t output)
{
    uint32_t way = way_ms(d, output), place = place_now(d, output);
    if (!way || !d->outputs[output].known) return 255;
    return (uint8_t)(place * 100 / way); /* a travel is an hour at most */
}
#endif

RLX_INTERNAL const char *rlx_way_state(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = &d->outputs[output];
    if (out->moves) return out->moves > 0 ? "opening" : "closing";
    if (out->late) return "late";
    if (at_end(d, output, 1)) return at_end(d, output, -1) ? "both" : "open";
    return at_end(d, output, -1) ? "closed" : "stop";
}
#endif
