/* Stepper motors: a position counted in steps, with a ramp, from a home switch.
 * The port sends runs of pulses and knows how many are left; this file computes speeds and ways.
 * Nothing sees whether the motor follows, but for the home switch. */
#include "kinds.h"

#if RLX_HAS_STEPPERS

#define SPEED_MS 10u /* between two speeds of a ramp */
#define RUN_MOST INT32_C(65535)

/* What it does: it goes its way, or towards its home switch until that is on, or away from it until
 * that is off. */
enum { STANDS, MOVES, SEEKS, LEAVES };

static rlx_rom stepper_row(const struct rlx_device *d, uint8_t output)
{
    return rlx_image(d) + RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
}

static int32_t steps_at(const struct rlx_device *d, uint8_t output, uint8_t field)
{
    return (int32_t)rlx_rom32(stepper_row(d, output) + field);
}

static bool has(const struct rlx_device *d, uint8_t output, uint8_t flag)
{
    return RLX_ROM8(stepper_row(d, output) + RLX_STP_FLAGS) & flag;
}

static uint8_t channel_of(const struct rlx_device *d, uint8_t output)
{
    return RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_PIN);
}

/* ---- its range, in steps ---- */

static int32_t least(const struct rlx_device *d, uint8_t output)
{
    int32_t from = steps_at(d, output, RLX_STP_FROM), to = steps_at(d, output, RLX_STP_TO);
    return from < to ? from : to;
}

static int32_t most(const struct rlx_device *d, uint8_t output)
{
    int32_t from = steps_at(d, output, RLX_STP_FROM), to = steps_at(d, output, RLX_STP_TO);
    return from < to ? to : from;
}

static int32_t within(const struct rlx_device *d, uint8_t output, int32_t steps)
{
    int32_t low = least(d, output), high = most(d, output);
    return steps < low ? low : steps > high ? high : steps;
}

/* ---- runs of pulses ---- */

RLX_INTERNAL int32_t rlx_stepper_place_now(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    return s->place - s->way * (int32_t)rlx_port_steps_left(d->port, channel_of(d, output));
}

/* The run goes on to this place. */
static void run_to(struct rlx_device *d, uint8_t output, int32_t end, uint16_t hz)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    int32_t more = s->way * (end - s->place);
    s->place += s->way * rlx_port_steps(d->port, channel_of(d, output), more, hz);
}

/* It ends where it is. */
static void end_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    s->place += s->way * rlx_port_steps(d->port, channel_of(d, output), -RUN_MOST, 0);
    s->rung = 0;
}

/* Its current. */
static void power(struct rlx_device *d, uint8_t output, bool on)
{
    uint8_t flags = RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_FLAGS);
    rlx_output_at(d, output)->stepper.powered = on;
    if (has(d, output, RLX_STP_HAS_ENABLE))
        rlx_port_pin_write(d->port, RLX_ROM8(stepper_row(d, output) + RLX_STP_ENABLE),
                           on != (flags & RLX_OUT_ACTIVE_LOW));
}

/* ---- speeds ---- */

static uint16_t rungs(const struct rlx_device *d, uint8_t output)
{
    return RLX_ROM16(stepper_row(d, output) + RLX_STP_RUNGS);
}

/* Pulses a second at a rung of its ramp. It looks for its home with a quarter of its speed, and
 * leaves it with a sixteenth. */
static uint16_t hz_at(const struct rlx_device *d, uint8_t output, uint16_t rung)
{
    uint8_t goes = rlx_output_at(d, output)->stepper.goes;
    uint32_t hz = (uint32_t)RLX_ROM16(stepper_row(d, output) + RLX_STP_SPEED) * rung;
    hz = (hz >> (goes == SEEKS ? 2 : goes == LEAVES ? 4 : 0)) / rungs(d, output);
    return (uint16_t)(hz ? hz : 1);
}

/* Steps that it goes while it slows down from there, 10 ms at each rung: the sum of an arithmetic
 * series. */
static int32_t stop_way(const struct rlx_device *d, uint8_t output, uint16_t rung)
{
    return (int32_t)((uint32_t)hz_at(d, output, rung) * (rung + 1u) / (2000u / SPEED_MS));
}

/* A rung more where it can still stop in time, or as many less as it takes. */
static uint16_t next_rung(const struct rlx_device *d, uint8_t output, int32_t left)
{
    uint16_t rung = rlx_output_at(d, output)->stepper.rung;
    if (rung < rungs(d, output) && stop_way(d, output, (uint16_t)(rung + 1)) <= left)
        return (uint16_t)(rung + 1);
    while (rung > 1 && stop_way(d, output, rung) > left) rung--;
    return rung ? rung : 1;
}

/* The next 10 ms of its leg. */
static void next_speed(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    int32_t left = s->way * (s->end - rlx_stepper_place_now(d, output));
    uint16_t rung = next_rung(d, output, left);
    s->due = d->now + SPEED_MS;
    if (rung == s->rung && s->place == s->end) return;
    s->rung = rung;
    run_to(d, output, s->end, hz_at(d, output, rung));
}

/* From where it stands; the direction changes only here. */
static void begin_leg(struct rlx_device *d, uint8_t output, int32_t end)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    s->end = end;
    s->rung = 0;
    s->way = end < s->place ? -1 : 1;
    power(d, output, true);
    if (end == s->place) return; /* it is seen at the next poll */
    rlx_port_pin_write(d->port, RLX_ROM8(stepper_row(d, output) + RLX_STP_DIRECTION),
                       (s->way < 0) != has(d, output, RLX_STP_REVERSED));
    next_speed(d, output);
}

/* To a place: straight on, or by a stop where it goes the other way or cannot stop so soon. */
static void head_for(struct rlx_device *d, uint8_t output, int32_t target)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    s->target = target;
    s->blocked = s->frees = s->homes = false;
    if (s->goes != MOVES || !s->rung) { /* it stands */
        s->goes = MOVES;
        begin_leg(d, output, target);
        return;
    }
    int32_t here = rlx_stepper_place_now(d, output), brakes = stop_way(d, output, s->rung);
    bool ahead = s->way * (target - here) >= brakes;
    s->end = ahead ? target : within(d, output, here + s->way * brakes);
    run_to(d, output, s->end, hz_at(d, output, s->rung));
}

/* With its ramp, and never back: a pulse may go out between two looks at how many are left. It
 * sends no event. */
static void slow_down(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    int32_t here = rlx_stepper_place_now(d, output);
    s->end = within(d, output, here + s->way * stop_way(d, output, s->rung));
    run_to(d, output, s->end, hz_at(d, output, s->rung));
    if (s->way * (s->place - s->end) > 0) s->end = s->place;
    s->target = s->end;
    s->event = 0;
    s->blocked = s->frees = s->homes = false;
}

/* At once. If it has a home switch its position is unknown then: the motor may have gone on. */
static void halt_stepper(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    end_run(d, output);
    if (s->goes != STANDS && has(d, output, RLX_STP_HAS_HOME)) s->known = false;
    s->goes = STANDS;
    s->homes = s->then = s->frees = false;
}

/* ---- home ---- */

#if RLX_HAS_INPUTS
/* Its end that is further from home, and a sixteenth more: how far home can be. */
static int32_t far_end(const struct rlx_device *d, uint8_t output)
{
    return -least(d, output) > most(d, output) ? least(d, output) : most(d, output);
}

static int32_t slack(const struct rlx_device *d, uint8_t output)
{
    int32_t far = far_end(d, output);
    return (far < 0 ? -far : far) / 16 + 16;
}

static void seek_home(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    int32_t far = far_end(d, output), more = slack(d, output);
    end_run(d, output);
    s->known = s->blocked = s->homes = s->frees = false;
    s->place = far < 0 ? far - more : far + more;
    s->goes = SEEKS;
    begin_leg(d, output, 0);
}

/* From here it counts. */
static void is_home(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    end_run(d, output);
    s->place = 0;
    s->known = true;
    s->event = s->then ? RLX_EVT_ON : RLX_EVT_OFF;
    head_for(d, output, s->then ? s->target : within(d, output, 0));
    s->then = false;
}

/* Stops it, and sends the event; its position is unknown. */
static void block(struct rlx_device *d, uint8_t output)
{
    halt_stepper(d, output);
    rlx_output_at(d, output)->stepper.known = false;
    rlx_output_at(d, output)->stepper.blocked = true;
    rlx_source_event(d, output, RLX_EVT_IS_OUTPUTS, RLX_EVT_HELD);
}

/* Whether the home switch is on though it should be far away. */
static bool is_lost(const struct rlx_device *d, uint8_t output, uint8_t home)
{
    const struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    int32_t here = rlx_stepper_place_now(d, output);
    return s->known && (here < 0 ? s->way > 0 : s->way < 0) &&
           (here < 0 ? -here : here) > slack(d, output) && rlx_in_is_on(d, home);
}

/* Reads the home switch. True: the switch has changed what it does. */
static bool look_at_home(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (!has(d, output, RLX_STP_HAS_HOME)) return false;
    uint8_t home = RLX_ROM8(stepper_row(d, output) + RLX_STP_HOME);
    bool on = rlx_in_is_on(d, home);
    if (s->goes == MOVES && is_lost(d, output, home)) {
        block(d, output);
    } else if (s->goes == SEEKS && on) {
        end_run(d, output);
        s->place = 0;
        s->goes = LEAVES;
        begin_leg(d, output, far_end(d, output));
    } else if (s->goes == SEEKS && rlx_input_is_raw(d, home)) {
        if (s->rung) end_run(d, output); /* at the first sample; it may bounce */
    } else if (s->goes == LEAVES && !on) {
        is_home(d, output);
    } else {
        return false;
    }
    return true;
}
#endif

/* ---- over time ---- */

/* At the end of its leg. */
static void leg_is_over(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    end_run(d, output);
    if (s->place !=
        s->end) { /* its end has come nearer than it is by now, or it was not looked after */
        begin_leg(d, output, s->end);
        return;
    }
#if RLX_HAS_INPUTS
    if (s->goes != MOVES) {
        block(d, output);
        return;
    }
    if (s->homes) {
        seek_home(d, output);
        return;
    }
#endif
    if (s->place != s->target) {
        begin_leg(d, output, s->target);
        return;
    }
    s->goes = STANDS;
    if (s->frees) power(d, output, false);
    if (s->event) rlx_source_event(d, output, RLX_EVT_IS_OUTPUTS, s->event);
}

RLX_INTERNAL uint32_t rlx_stepper_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (s->goes == STANDS) return RLX_FOREVER;
#if RLX_HAS_INPUTS
    if (look_at_home(d, output)) return s->goes == STANDS ? RLX_FOREVER : 1;
#endif
    if (!rlx_port_steps_left(d->port, channel_of(d, output))) {
        leg_is_over(d, output);
        return s->goes == STANDS ? RLX_FOREVER : 1;
    }
    if ((int32_t)(d->now - s->due) >= 0) next_speed(d, output);
    return s->due - d->now;
}

RLX_INTERNAL void rlx_stepper_force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    (void)level; /* it has none */
    halt_stepper(d, output);
    if (!has(d, output, RLX_STP_HAS_HOME)) s->known = true;
    power(d, output, !has(d, output, RLX_STP_FREE));
}

#if RLX_MAKES_SAFE
RLX_INTERNAL void rlx_stepper_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (s->goes != MOVES) {
        rlx_stepper_force(d, output, level);
        return;
    }
    slow_down(d, output);
    s->frees = has(d, output, RLX_STP_FREE);
}
#endif

RLX_INTERNAL uint32_t rlx_stepper_waits(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    return 0;
}

/* ---- commands ---- */

static int go_to_steps(struct rlx_device *d, uint8_t output, int32_t target)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (within(d, output, target) != target) return -RLX_ERR_RANGE;
#if RLX_HAS_INPUTS
    if (!s->known || s->homes) { /* home comes first */
        bool same = s->then && s->target == target;
        if (s->goes == STANDS) seek_home(d, output);
        s->then = true;
        s->target = target;
        return same ? RLX_ALREADY : 0;
    }
#endif
    bool goes = s->goes == MOVES;
    if (s->target == target && s->powered && (goes ? s->event != 0 : s->place == target))
        return RLX_ALREADY;
    s->event = RLX_EVT_ON;
    head_for(d, output, target);
    return 0;
}

static int go_by(struct rlx_device *d, uint8_t output, int32_t steps)
{
    const struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    int32_t base = s->goes == MOVES ? s->target : s->place;
    if (!s->known || s->homes || steps > most(d, output) - base || steps < least(d, output) - base)
        return -RLX_ERR_FAILED;
    return go_to_steps(d, output, base + steps);
}

static int go_home(struct rlx_device *d, uint8_t output)
{
#if RLX_HAS_INPUTS
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (has(d, output, RLX_STP_HAS_HOME)) {
        bool same = (s->homes || s->goes > MOVES) && !s->then;
        if (s->goes == MOVES && !s->homes) {
            slow_down(d, output);
            s->homes = true;
        } else if (s->goes == STANDS) {
            seek_home(d, output);
        }
        s->then = false;
        return same ? RLX_ALREADY : 0;
    }
#endif
    return go_to_steps(d, output, within(d, output, 0));
}

static int stop_stepper(struct rlx_device *d, uint8_t output)
{
    struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (s->goes == STANDS || (s->goes == MOVES && !s->event && !s->homes)) return RLX_ALREADY;
    if (s->goes == MOVES)
        slow_down(d, output);
    else
        halt_stepper(d, output);
    return 0;
}

RLX_INTERNAL int rlx_stepper_values(struct rlx_device *d, uint8_t output, const rlx_value *values)
{
    return go_to_steps(d, output, (int32_t)*values);
}

RLX_INTERNAL uint32_t rlx_stepper_verbs(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    return rlx_verbs_with(RLX_K(STEPPER));
}

RLX_INTERNAL int rlx_stepper_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                                 uint32_t argument)
{
    const struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (verb == RLX_BY) return go_by(d, output, (int32_t)argument);
    if (verb == RLX_HOME) return go_home(d, output);
    if (verb == RLX_STOP) return stop_stepper(d, output);
    if (!has(d, output, RLX_STP_HAS_ENABLE)) return -RLX_ERR_FAILED; /* release */
    if (s->goes == STANDS && !s->powered) return RLX_ALREADY;
    halt_stepper(d, output);
    power(d, output, false);
    return 0;
}

/* ---- what it is at ---- */

#if RLX_HAS_PERMITTED
RLX_INTERNAL uint8_t rlx_stepper_goes(const struct rlx_device *d, uint8_t output, uint8_t verb,
                                      const rlx_value *values)
{
    (void)d, (void)output, (void)values;
    return verb == RLX_STOP || verb == RLX_RELEASE ? 0 : RLX_GOES_ANY;
}

RLX_INTERNAL uint8_t rlx_stepper_going(const struct rlx_device *d, uint8_t output)
{
    (void)d, (void)output;
    return RLX_GOES_ANY;
}
#endif

RLX_INTERNAL bool rlx_stepper_is_on(const struct rlx_device *d, uint8_t output)
{
    return rlx_output_at(d, output)->stepper.goes != STANDS;
}

RLX_INTERNAL const char *rlx_stepper_word(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    if (s->goes != STANDS) return s->goes == MOVES ? "moving" : "homing";
    if (s->blocked) return "blocked";
    if (!s->powered) return "released";
    return s->known ? 0 : "unknown";
}

#if RLX_HAS_STATE
/* Steps in the unit of the lexicon. The products fit 32 bits: the lexicon's reader sees to it. */
static rlx_value value_of(const struct rlx_device *d, uint8_t output, int32_t steps)
{
    int32_t from = steps_at(d, output, RLX_STP_FROM), to = steps_at(d, output, RLX_STP_TO),
            low = steps_at(d, output, RLX_STP_LOW);
    uint32_t span = (uint32_t)(steps_at(d, output, RLX_STP_HIGH) - low),
             reach = (uint32_t)(from < to ? to - from : from - to),
             gone = (uint32_t)(from < to ? steps - from : from - steps);
    return (rlx_value)(low + (int32_t)((gone * span + reach / 2) / reach));
}

RLX_INTERNAL void rlx_stepper_describe(const struct rlx_device *d, uint8_t output,
                                       struct rlx_state *state)
{
    const struct rlx_stepper_now *s = &rlx_output_at(d, output)->stepper;
    state->word = rlx_stepper_word(d, output);
    if (!s->known) return;
    state->numbers = 1;
    state->number[0] = value_of(d, output, within(d, output, rlx_stepper_place_now(d, output)));
    state->decimals = RLX_ROM8(stepper_row(d, output) + RLX_STP_DECIMALS);
    if (has(d, output, RLX_STP_HAS_UNIT)) state->text = stepper_row(d, output) + RLX_STP_UNIT;
}
#endif
#endif
