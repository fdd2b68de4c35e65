/* Motors and pairs: signed levels, -32767..32767, that ramp and rest between two directions.
 * Each side has its level, its way and its timer; zero is always passed at rest.
 * It does not know what it turns. */
#include "kinds.h"

#if RLX_HAS_MOTORS

#define STEP_MS 10u /* between two levels of a ramp */

static rlx_rom motor_row(const struct rlx_device *d, uint8_t output)
{
    return rlx_image(d) + RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
}

static uint8_t n_sides(const struct rlx_device *d, uint8_t output)
{
    return RLX_ROM8(motor_row(d, output) + RLX_MOT_SIDES);
}

static rlx_rom side_row(const struct rlx_device *d, uint8_t output, uint8_t side)
{
    return motor_row(d, output) + RLX_MOT_FIRST + side * RLX_SIDE_SIZE;
}

static int16_t level_of(rlx_value percent)
{
    uint8_t size = (uint8_t)(percent < 0 ? -percent : percent);
    int16_t level = (int16_t)(rlx_duty_of_percent(size > 100 ? 100 : size) >> 1);
    return percent < 0 ? (int16_t)-level : level;
}

/* The wires of one motor. The brake is released before it drives, and put on after it has stopped;
 * the direction changes only while there is no duty. */
static void show_side(struct rlx_device *d, uint8_t output, uint8_t side, int16_t level)
{
    rlx_rom row = side_row(d, output, side);
    struct rlx_side *s = &rlx_output_at(d, output)->motor.side[side];
    uint8_t flags = RLX_ROM8(row + RLX_SIDE_FLAGS);
    uint32_t hz = rlx_out_time(row, RLX_SIDE_HZ);
    bool back = (level < 0) != ((flags & RLX_SIDE_REVERSED) != 0);
    uint16_t duty =
        (uint16_t)((uint16_t)(level < 0 ? -level : level) * 2u); /* an int may have 16 bits */
    uint8_t channel = RLX_ROM8(row + RLX_SIDE_CHANNEL), other = RLX_ROM8(row + RLX_SIDE_OTHER);
    bool brakes = level == 0 && s->brakes;
    if (duty == 65534) duty = UINT16_MAX;
    s->now = level;
    if (level && flags & RLX_SIDE_HAS_BRAKE)
        rlx_port_pin_write(d->port, RLX_ROM8(row + RLX_SIDE_BRAKE), false);
    if ((level || !s->last) && flags & RLX_SIDE_HAS_DIRECTION)
        rlx_port_pin_write(d->port, RLX_ROM8(row + RLX_SIDE_DIRECTION), back);
    if (flags & RLX_SIDE_HAS_OTHER) {
        /* both ends low: it brakes, as half-bridges do; the one that drives comes last */
        rlx_port_duty(d->port, back ? channel : other, 0, hz);
        rlx_port_duty(d->port, back ? other : channel, duty, hz);
    } else {
        rlx_port_duty(d->port, channel, duty, hz);
    }
    if (!level && flags & RLX_SIDE_HAS_BRAKE)
        rlx_port_pin_write(d->port, RLX_ROM8(row + RLX_SIDE_BRAKE), brakes);
}

/* It stands still from now on. */
static void side_stops(struct rlx_device *d, uint8_t output, uint8_t side)
{
    struct rlx_side *s = &rlx_output_at(d, output)->motor.side[side];
    if (s->now) {
        s->last = s->now > 0 ? 1 : -1;
        s->rests = true;
        s->stopped = d->now;
    }
    show_side(d, output, side, 0);
}

static void stop_motor(struct rlx_device *d, uint8_t output, bool brake)
{
    for (uint8_t i = 0; i < n_sides(d, output); i++) {
        rlx_output_at(d, output)->motor.side[i].want = 0;
        rlx_output_at(d, output)->motor.side[i].way = 0;
        rlx_output_at(d, output)->motor.side[i].brakes = brake;
        side_stops(d, output, i);
    }
    rlx_output_at(d, output)->motor.travels = false;
}

RLX_INTERNAL void rlx_motor_force(struct rlx_device *d, uint8_t output, uint16_t level)
{
    (void)level;
    stop_motor(d, output, true);
}

#if RLX_MAKES_SAFE
RLX_INTERNAL void rlx_motor_safe(struct rlx_device *d, uint8_t output, uint16_t level)
{
    rlx_motor_force(d, output, level);
}
#endif

/* Milliseconds until it may go the other way; a timer that is over is cleared. */
static uint32_t side_waits(const struct rlx_device *d, uint8_t output, const struct rlx_side *s)
{
    uint32_t dead = rlx_out_time(motor_row(d, output), RLX_MOT_DEAD), since = d->now - s->stopped;
    bool turns = (s->want > 0 && s->last < 0) || (s->want < 0 && s->last > 0);
    return !s->now && turns && s->rests && since < dead ? dead - since : 0;
}

RLX_INTERNAL uint32_t rlx_motor_waits(const struct rlx_device *d, uint8_t output)
{
    uint32_t wait = 0;
    for (uint8_t i = 0; i < n_sides(d, output); i++) {
        uint32_t due = side_waits(d, output, &rlx_output_at(d, output)->motor.side[i]);
        if (due > wait) wait = due;
    }
    return wait;
}

/* Most change of its level in one step; 0: at once. */
static uint16_t ramp_step(const struct rlx_device *d, rlx_rom row)
{
    uint16_t step = RLX_ROM16(row + RLX_MOT_STEP);
#if RLX_HAS_OWN_RAMPS
    if (step & RLX_BY_SETTING) step = rlx_step_of(d, (uint8_t)step, INT16_MAX, STEP_MS);
#endif
    (void)d;
    return step;
}

/* One step towards its commanded level: never through 0, where it stops and rests. */
static void side_step(struct rlx_device *d, uint8_t output, uint8_t side, uint16_t step)
{
    struct rlx_side *s = &rlx_output_at(d, output)->motor.side[side];
    int16_t to = s->want;
    if ((s->now > 0 && to < 0) || (s->now < 0 && to > 0)) to = 0;
    if (step) {
        int32_t up = (int32_t)s->now + step, down = (int32_t)s->now - step;
        if (to > up) to = (int16_t)up;
        if (to < down) to = (int16_t)down;
    }
    if (to)
        show_side(d, output, side, to);
    else
        side_stops(d, output, side);
}

static uint32_t run_side(struct rlx_device *d, uint8_t output, uint8_t side)
{
    struct rlx_side *s = &rlx_output_at(d, output)->motor.side[side];
    rlx_rom row = motor_row(d, output);
    uint16_t step = ramp_step(d, row);
    uint32_t dead = rlx_out_time(row, RLX_MOT_DEAD), since = d->now - s->stopped;
    if (s->rests && since >= dead) s->rests = false;
    while (s->now != s->want) {
        uint32_t wait = side_waits(d, output, s);
        if (wait) return wait;
        if (step && (int32_t)(d->now - s->step_due) < 0) return s->step_due - d->now;
        side_step(d, output, side, step);
        s->step_due = d->now + STEP_MS;
    }
    return s->rests ? dead - since : RLX_FOREVER;
}

RLX_INTERNAL uint32_t rlx_motor_run(struct rlx_device *d, uint8_t output)
{
    struct rlx_output *out = rlx_output_at(d, output);
    uint32_t wait = RLX_FOREVER, due;
    if (out->motor.travels && (int32_t)(d->now - out->motor.travel_due) >= 0) {
        stop_motor(d, output, true);
        rlx_source_event(d, output, RLX_EVT_IS_OUTPUTS, RLX_EVT_HELD);
    }
    if (out->motor.travels) wait = out->motor.travel_due - d->now;
    for (uint8_t i = 0; i < n_sides(d, output); i++)
        if ((due = run_side(d, output, i)) < wait) wait = due;
    return wait;
}

/* Which way each side goes, and how fast: a speed of 0 is a speed, and keeps the way. */
struct course {
    int8_t way[2];
    int16_t level[2];
};

static int8_t way_of(int16_t level)
{
    return (int8_t)((level > 0) - (level < 0));
}

/* Tells each side its course; 0, RLX_ALREADY or RLX_WAITS. */
static int go(struct rlx_device *d, uint8_t output, const struct course *to, bool brakes)
{
    struct rlx_output *out = rlx_output_at(d, output);
    uint32_t travel = rlx_out_time(motor_row(d, output), RLX_MOT_TRAVEL);
    bool same = true, moves = false, goes = false, turned = false;
    for (uint8_t i = 0; i < n_sides(d, output); i++) {
        struct rlx_side *s = &out->motor.side[i];
        int16_t level = to->level[i];
        same = same && s->want == level && s->way == to->way[i] && (level || s->brakes == brakes);
        moves = moves || level;
        goes = goes || to->way[i];
        turned = turned || s->way != to->way[i];
        if (s->now == s->want && s->want != level) s->step_due = d->now;
        s->want = level;
        s->way = to->way[i];
        s->brakes = brakes;
    }
    /* the way goes on where it goes the same way */
    if (!out->motor.travels || turned) out->motor.travel_due = d->now + travel;
    out->motor.travels = moves && travel;
    if (same) return RLX_ALREADY;
    if (!goes && !brakes) stop_motor(d, output, false); /* it may be still already */
    rlx_motor_run(d, output);
    return rlx_motor_waits(d, output) ? RLX_WAITS : 0;
}

static int16_t speed_of(const struct rlx_output *out)
{
    return (int16_t)(INT16_MAX - out->motor.slower);
}

RLX_INTERNAL int rlx_motor_values(struct rlx_device *d, uint8_t output, const rlx_value *percent)
{
    struct course to;
    for (uint8_t i = 0; i < 2; i++) {
        int16_t level = i < n_sides(d, output) ? level_of(percent[i]) : 0;
        to.level[i] = level;
        to.way[i] = way_of(level);
        if (level)
            rlx_output_at(d, output)->motor.slower =
                (int16_t)(INT16_MAX - (level < 0 ? -level : level));
    }
    return go(d, output, &to, true);
}

/* Which way each side goes, with the speed that is remembered. */
static int turn(struct rlx_device *d, uint8_t output, int8_t left, int8_t right, bool brakes)
{
    int16_t speed = speed_of(rlx_output_at(d, output));
    const struct course to = {{left, right}, {(int16_t)(left * speed), (int16_t)(right * speed)}};
    return go(d, output, &to, brakes);
}

/* A new speed for the ways that it goes. */
static int change_speed(struct rlx_device *d, uint8_t output, rlx_value percent)
{
    struct rlx_output *out = rlx_output_at(d, output);
    int16_t speed = level_of(percent), slower = (int16_t)(INT16_MAX - (speed < 0 ? -speed : speed));
    bool same = out->motor.slower == slower;
    out->motor.slower = slower;
    const struct rlx_side *left = out->motor.side, *right = left + n_sides(d, output) - 1;
    int done = turn(d, output, left->way, right->way, left->brakes);
    return same ? done : done == RLX_ALREADY ? 0 : done;
}

/* The other way, as fast as it goes. */
static int reverse(struct rlx_device *d, uint8_t output)
{
    struct course to;
    uint8_t second = (uint8_t)(n_sides(d, output) - 1);
    for (uint8_t i = 0; i < 2; i++) {
        const struct rlx_side *side = &rlx_output_at(d, output)->motor.side[i & second];
        to.level[i] = (int16_t)-side->want;
        to.way[i] = (int8_t)-side->way;
    }
    return go(d, output, &to, true);
}

/* In a curve the inner side brakes, coasts, or goes the other way. */
static int steer(struct rlx_device *d, uint8_t output, bool left)
{
    uint8_t style = RLX_ROM8(motor_row(d, output) + RLX_MOT_TURNS);
    int8_t inner = style == RLX_TURNS_OPPOSE ? -1 : 0;
    return turn(d, output, left ? inner : 1, left ? 1 : inner, style != RLX_TURNS_COAST);
}

/* Whether all of it stands still, with its brakes as commanded. */
static bool stands(const struct rlx_device *d, uint8_t output, bool brake)
{
    const struct rlx_output *out = rlx_output_at(d, output);
    for (uint8_t i = 0; i < n_sides(d, output); i++)
        if (out->motor.side[i].want || out->motor.side[i].way || out->motor.side[i].now)
            return false;
    return out->motor.side[0].brakes == brake;
}

RLX_INTERNAL uint32_t rlx_motor_verbs(const struct rlx_device *d, uint8_t output)
{
    return n_sides(d, output) == 2 ? rlx_verbs_with(RLX_K(PAIR)) : rlx_verbs_with(RLX_K(MOTOR));
}

RLX_INTERNAL int rlx_motor_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                               uint32_t argument)
{
    switch ((int)verb) { /* of those that it knows */
    case RLX_FORWARD: return turn(d, output, 1, 1, true);
    case RLX_BACK: return turn(d, output, -1, -1, true);
    case RLX_LEFT: return steer(d, output, true);
    case RLX_RIGHT: return steer(d, output, false);
    case RLX_SPIN_LEFT: return turn(d, output, -1, 1, true);
    case RLX_SPIN_RIGHT: return turn(d, output, 1, -1, true);
    case RLX_REVERSE: return reverse(d, output);
    case RLX_SPEED: return change_speed(d, output, (rlx_value)argument);
    case RLX_STOP: return turn(d, output, 0, 0, true);
    default: break;
    }
    bool stood = stands(d, output, verb == RLX_BRAKE);
    stop_motor(d, output, verb == RLX_BRAKE); /* at once, without a ramp */
    return stood ? RLX_ALREADY : 0;
}

#if RLX_HAS_PERMITTED
RLX_INTERNAL uint8_t rlx_motor_going(const struct rlx_device *d, uint8_t output)
{
    uint8_t ways = 0;
    for (uint8_t i = 0; i < n_sides(d, output); i++) {
        const struct rlx_side *s = &rlx_output_at(d, output)->motor.side[i];
        ways = (uint8_t)(ways | rlx_goes(s->now) | rlx_goes(s->want) | rlx_goes(s->way));
    }
    return ways;
}

/* A pair goes any way. */
RLX_INTERNAL uint8_t rlx_motor_goes(const struct rlx_device *d, uint8_t output, uint8_t verb,
                                    const rlx_value *values)
{
    uint8_t going = rlx_motor_going(d, output), ways = 0;
    if (verb == RLX_VALUES)
        for (uint8_t i = 0; i < n_sides(d, output); i++)
            ways = (uint8_t)(ways | rlx_goes(values[i]));
    else if (verb == RLX_FORWARD)
        ways = RLX_GOES_FORWARD;
    else if (verb == RLX_BACK)
        ways = RLX_GOES_BACK;
    else if (verb == RLX_SPEED)
        ways = going;
    else if (verb == RLX_REVERSE)
        ways = (uint8_t)((going & RLX_GOES_FORWARD) << 1 | going >> 1);
    else if (verb != RLX_STOP && verb != RLX_BRAKE && verb != RLX_COAST)
        ways = RLX_GOES_ANY;
    return ways;
}
#endif

RLX_INTERNAL bool rlx_motor_is_on(const struct rlx_device *d, uint8_t output)
{
    const struct rlx_side *side = rlx_output_at(d, output)->motor.side;
    return side[0].want || side[n_sides(d, output) - 1].want;
}

RLX_INTERNAL int8_t rlx_side_percent(const struct rlx_device *d, uint8_t output, uint8_t side)
{
    int16_t want = rlx_output_at(d, output)->motor.side[side].want;
    int8_t percent = (int8_t)(((want < 0 ? -want : want) * INT32_C(100) + 16384) >> 15);
    return want < 0 ? (int8_t)-percent : percent;
}

RLX_INTERNAL uint8_t rlx_sides(const struct rlx_device *d, uint8_t output)
{
    return n_sides(d, output);
}

#if RLX_HAS_STATE
RLX_INTERNAL void rlx_motor_describe(const struct rlx_device *d, uint8_t output,
                                     struct rlx_state *state)
{
    state->numbers = n_sides(d, output);
    for (uint8_t i = 0; i < state->numbers; i++)
        state->number[i] = rlx_side_percent(d, output, i); /* NOLINT: -100..100 */
}
#endif
#endif
