/* Reversers: two relays, never both on, and what ends their way.
 * An input, or the travel time, ends it; the position is estimated from travel time.
 * It knows no speed. */
#include "kinds.h"

#if RLX_HAS_REVERSERS

static rlx_rom way_row(const struct rlx_device *d, uint8_t output)
{
    return rlx_image(d) + RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
}

/* The relay of a direction, 1 or -1. */
static void write_relay(struct rlx_device *d, uint8_t output, int8_t way, bool on)
{
    rlx_rom row = rlx_out_row(d, output);
    uint8_t pin = RLX_ROM8(way > 0 ? row + RLX_OUT_PIN : way_row(d, output) + RLX_REV_CLOSE_PIN);
    rlx_port_pin_write(d->port, pin, on != (RLX_ROM8(row + RLX_OUT_FLAGS) & RLX_OUT_ACTIVE_LOW));
}

#if RLX_HAS_PLACES
/* Milliseconds from end to end, if only time shows that it has arrived; 0: inputs do, or
 * nothing. */
static uint32_t way_ms(const struct rlx_device *d, uint8_t output)
{
    rlx_rom row = way_row(d, output);
    return RLX_ROM8(row + RLX_REV_SEEN) ? 0 : rlx_out_time(row, RLX_REV_TRAVEL);
}

/* Where it is now, if that is known. */
static uint32_t place_now(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    uint32_t way = way_ms(d, output), gone = out->reverser.moves ? d->now - out->reverser.began : 0;
    if (out->reverser.moves < 0) return gone < out->reverser.place ? out->reverser.place - gone : 0;
    return gone < way - out->reverser.place ? out->reverser.place + gone : way;
}

/* How long it is driven: what is left of its way; all of it where nobody knows, and a sixteenth
 * more from somewhere between its ends, so that it is surely there. */
static uint32_t drive_ms(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    uint32_t way = way_ms(d, output),
             left = out->reverser.way > 0 ? way - out->reverser.place : out->reverser.place;
    if (!way || !out->reverser.known) return rlx_out_time(way_row(d, output), RLX_REV_TRAVEL);
    if (left != way) left += way >> 4;
    return left < way ? left : way;
}
#endif

/* Whether the end of this way is reached: the very first sample counts, debounced or not. */
static bool at_end(const struct rlx_device *d, uint8_t output, int8_t way)
{
#if RLX_HAS_PLACES
    const struct rlx_output *out = rlx_output_at(d, output);
    uint32_t ms = way_ms(d, output);
    if (ms)
        return out->reverser.known && !out->reverser.moves &&
               out->reverser.place == (way > 0 ? ms : 0);
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
    struct rlx_output *out = rlx_output_at(d, output);
    write_relay(d, output, 1, false);
    write_relay(d, output, -1, false);
    if (out->reverser.moves) {
#if RLX_HAS_PLACES
        if (out->reverser.known) out->reverser.place = place_now(d, output);
#endif
        out->reverser.last = out->reverser.moves;
        out->reverser.rests = true;
        out->reverser.stopped = d->now;
    }
    out->reverser.moves = 0;
}

static void stop_reverser(struct rlx_device *d, uint8_t output)
{
    relays_off(d, output);
    rlx_output_at(d, output)->reverser.way = 0;
    rlx_output_at(d, output)->reverser.late = false;
}

RLX_INTERNAL void rlx_reverser_force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    (void)level;
    stop_reverser(d, output);
}

#if RLX_MAKES_SAFE
RLX_INTERNAL void rlx_reverser_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    (void)level;
    if (rlx_output_at(d, output)->reverser.way) stop_reverser(d, output);
}
#endif

/* Milliseconds until the other direction may begin; a timer that is over is cleared. */
static uint32_t dead_left(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    uint32_t dead = rlx_out_time(way_row(d, output), RLX_REV_DEAD),
             since = d->now - out->reverser.stopped;
    return out->reverser.rests && since < dead ? dead - since : 0;
}

RLX_INTERNAL uint32_t rlx_reverser_waits(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    return out->reverser.way && !out->reverser.moves && out->reverser.last == -out->reverser.way
               ? dead_left(d, output)
               : 0;
}

/* It stands still now, and sends the event. */
static void arrive(struct rlx_device *d, uint8_t output, bool late)
{
    struct rlx_output *out = rlx_output_at(d, output);
    int8_t way = out->reverser.way;
    stop_reverser(d, output);
    out->reverser.late = late;
#if RLX_HAS_PLACES
    out->reverser.known = !late;
    out->reverser.place = way > 0 ? way_ms(d, output) : 0;
#endif
    rlx_source_event(d, output, RLX_EVT_IS_OUTPUTS,
                     late      ? RLX_EVT_HELD
                     : way > 0 ? RLX_EVT_ON
                               : RLX_EVT_OFF);
}

RLX_INTERNAL uint32_t rlx_reverser_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    uint32_t left = dead_left(d, output), travel;
    if (!left) out->reverser.rests = false;
    if (!out->reverser.way) return left ? left : RLX_FOREVER;
    if (at_end(d, output, out->reverser.way)) {
        arrive(d, output, false);
        return 1;
    }
    if (!out->reverser.moves) {
        left = rlx_reverser_waits(d, output);
        if (left) return left;
        write_relay(d, output, out->reverser.way, true);
        out->reverser.moves = out->reverser.way;
        out->reverser.began = d->now;
    }
#if RLX_HAS_PLACES
    travel = drive_ms(d, output);
#else
    travel = rlx_out_time(way_row(d, output), RLX_REV_TRAVEL);
#endif
    if (!travel) return RLX_FOREVER;
    if (d->now - out->reverser.began < travel) return travel - (d->now - out->reverser.began);
    /* where nothing sees an end, the time is the way */
    arrive(d, output, RLX_ROM8(way_row(d, output) + RLX_REV_SEEN));
    return 1;
}

RLX_INTERNAL uint32_t rlx_reverser_verbs(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    return rlx_verbs_with(RLX_K(REVERSER));
}

RLX_INTERNAL int rlx_reverser_values(struct rlx_device *d, uint8_t output, const rlx_value *values)
{
    (void)d, (void)output, (void)values;
    return -RLX_ERR_FAILED; /* it has no level */
}

/* Which way it goes then: 1 opens, -1 closes, 0 stops. */
static int8_t way_by(const struct rlx_device *d, uint8_t output, uint8_t verb)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    int8_t now = out->reverser.way ? out->reverser.way : out->reverser.last;
    if (verb == RLX_REVERSE) return now > 0 ? -1 : 1;
    return (int8_t)((verb == RLX_OPEN) - (verb == RLX_CLOSE));
}

#if RLX_HAS_PERMITTED
RLX_INTERNAL uint8_t rlx_reverser_goes(const struct rlx_device *d, uint8_t output, uint8_t verb,
                                       const rlx_value *values)
{
    (void)values;
    return rlx_goes(way_by(d, output, verb));
}

RLX_INTERNAL uint8_t rlx_reverser_going(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    return (uint8_t)(rlx_goes(out->reverser.way) | rlx_goes(out->reverser.moves));
}
#endif

RLX_INTERNAL int rlx_reverser_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                                  uint32_t argument)
{
    (void)argument;
    struct rlx_output *out = rlx_output_at(d, output);
    int8_t way = way_by(d, output, (uint8_t)verb);
    if (way == out->reverser.way) return way || !out->reverser.moves ? RLX_ALREADY : 0;
    if (way && at_end(d, output, way)) {
        bool stood = !out->reverser.moves;
        stop_reverser(d, output);
        return stood ? RLX_ALREADY : 0;
    }
    stop_reverser(d, output);
    out->reverser.way = way;
    rlx_reverser_run(d, output);
    return rlx_reverser_waits(d, output) ? RLX_WAITS : 0;
}

#if RLX_HAS_PLACES
RLX_INTERNAL uint8_t rlx_reverser_place(const struct rlx_device *d, uint8_t output)
{
    uint32_t way = way_ms(d, output), place = place_now(d, output);
    if (!way || !rlx_output_at(d, output)->reverser.known) return 255;
    return (uint8_t)(place * 100 / way); /* a travel is an hour at most */
}
#endif

RLX_INTERNAL const char *rlx_reverser_word(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    if (out->reverser.moves) return out->reverser.moves > 0 ? "opening" : "closing";
    if (out->reverser.late) return "late";
    if (at_end(d, output, 1)) return at_end(d, output, -1) ? "both" : "open";
    return at_end(d, output, -1) ? "closed" : "stop";
}

RLX_INTERNAL bool rlx_reverser_is_on(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_at(d, output)->reverser.moves != 0;
}

#if RLX_HAS_STATE
RLX_INTERNAL void rlx_reverser_describe(const struct rlx_device *d, uint8_t output,
                                        struct rlx_state *state)
{
    state->word = rlx_reverser_word(d, output);
#if RLX_HAS_PLACES
    uint8_t percent = rlx_reverser_place(d, output);
    if (percent == 0 || percent >= 100) return;
    state->numbers = 1;
    state->number[0] = percent;
    state->unit = "%";
#endif
}
#endif
#endif
