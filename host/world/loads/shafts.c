/* What turns: motors with inertia, and shafts between two ends that switches see.
 * Motors, pairs and reversers drive them.
 * A stepper is in a file of its own. */
#include "world/loads/load_parts.h"

#define INERTIA 200  /* ms from stop to full */
#define TRAVEL  6000 /* ms from end to end, without a time in the lexicon */
#define BEYOND  250  /* ms at full speed from a switch to the stop */

static void on_tick(void *data, uint32_t side);

void load_wake_shaft(struct load *load, unsigned side)
{
    struct shaft *s = &load->shaft[side];
    if (s->ticking || (!s->drive && !s->speed)) return;
    s->ticking = true;
    world_at(load->all->world, load_in_us(load, 1000), on_tick, load, side);
}

/* Its ends stop it, and push their switches. */
static void meet_ends(struct load *load, struct shaft *s)
{
    const struct lex_output *out = load->out;
    bool open = s->place >= s->most, closed = s->place <= 0;
    if (!s->most) return;
    s->place = CLAMP(s->place, -s->beyond, s->most + s->beyond);
    if (open != s->open && open) load_tell(load, "at its open end");
    if (closed != s->closed && closed) load_tell(load, "at its closed end");
    s->open = open;
    s->closed = closed;
    struct sensor *upper = load_sensor(load->all, out->open.until);
    struct sensor *lower = load_sensor(load->all, out->close.until);
    if (upper) load_set_sensor(upper, open);
    if (lower) load_set_sensor(lower, closed);
}

/* A millisecond of its way. */
static void on_tick(void *data, uint32_t side)
{
    struct load *load = data;
    struct shaft *s = &load->shaft[side];
    s->ticking = false;
    bool against = s->most && ((s->drive > 0 && s->place >= s->most + s->beyond) ||
                               (s->drive < 0 && s->place <= -s->beyond));
    bool stalls = s->drive && (s->jammed || against);
    if (stalls && !s->stalls) {
        load->all->stalls++;
        load_tell(load, s->jammed ? "jammed, and driven" : "driven against its end");
    }
    s->stalls = stalls;
    if (s->jammed || against)
        s->speed = 0;
    else
        s->speed = load_nearer(s->speed, s->drive,
                               s->brakes ? LOAD_FULL * 4 / INERTIA : LOAD_FULL / INERTIA);
    s->place += s->speed;
    meet_ends(load, s);
    if (stalls && !s->speed) return; /* until something changes */
    load_wake_shaft(load, side);
}

void load_drive_shaft(struct load *load, unsigned side, int32_t drive, bool brakes)
{
    struct shaft *s = &load->shaft[side];
    s->drive = drive;
    s->brakes = brakes;
    if (!drive) s->stalls = false;
    load_wake_shaft(load, side);
}

/* ---- motors and pairs ---- */

static void motor_wires(struct load *load, unsigned side)
{
    const struct lex_drive *d = side ? &load->out->right : &load->out->left;
    int32_t ahead = (int32_t)(load->wires[side].duty / 2),
            back = (int32_t)(load->wires[side].other / 2);
    int32_t drive = ahead - back;
    if (d->direction != LEX_NO_PIN && load->wires[side].direction) drive = -drive;
    if (d->reversed) drive = -drive;
    bool brakes = d->brake != LEX_NO_PIN ? load->wires[side].brake
                                         : d->other != LEX_NO_PIN && !ahead && !back;
    load_drive_shaft(load, side, brakes ? 0 : drive, brakes);
}

static void motor_pin(struct load *load, struct sim_event event)
{
    bool pwm = event.kind == SIM_DUTY;
    if (!pwm && event.kind != SIM_PIN) return;
    for (unsigned side = 0; side < (load->out->kind == LEX_PAIR ? 2 : 1); side++) {
        const struct lex_drive *d = side ? &load->out->right : &load->out->left;
        if (pwm && d->channel == event.index)
            load->wires[side].duty = event.value;
        else if (pwm && d->other == event.index)
            load->wires[side].other = event.value;
        else if (!pwm && d->direction == event.index)
            load->wires[side].direction = event.value;
        else if (!pwm && d->brake == event.index)
            load->wires[side].brake = event.value;
        else
            continue;
        motor_wires(load, side);
    }
}

const struct load_kind load_kind_motor = {.out = motor_pin, .breaks = LOAD_JAM};
const struct load_kind load_kind_pair = {.out = motor_pin, .breaks = LOAD_JAM};

/* ---- reversers ---- */

void load_contacts_changed(struct load *load)
{
    bool open = load->contact[0].closed, close = load->contact[1].closed;
    if (load->out->kind != LEX_REVERSER) return;
    if (open && close) {
        load->all->shorts++;
        load_tell(load, "SHORT: both relays are closed");
    }
    load_drive_shaft(load, 0, open == close ? 0 : open ? LOAD_FULL : -LOAD_FULL, false);
}

/* It stands in the middle. It arrives before its time is over; what nobody sees takes just that
 * time. */
static void begin_reverser(struct load *load)
{
    const struct lex_output *out = load->out;
    bool seen = out->open.until || out->close.until;
    uint32_t travel = out->travel ? out->travel * (seen ? 3 : 4) / 4 : TRAVEL;
    load->shaft[0].most = (int64_t)travel * LOAD_FULL;
    load->shaft[0].place = load->shaft[0].most / 2;
    load->shaft[0].beyond = seen ? BEYOND * LOAD_FULL : 0;
}

static void reverser_pin(struct load *load, struct sim_event event)
{
    bool on = (event.value != 0) != load->out->active_low;
    if (event.kind != SIM_PIN) return;
    if (event.index == load->out->open.pin) load_set_coil(load, 0, on);
    if (event.index == load->out->close.pin) load_set_coil(load, 1, on);
}

/* 0 closed .. 1000 open */
static int reverser_place(const struct load *load)
{
    return (int)(load->shaft[0].place * 1000 / load->shaft[0].most);
}

const struct load_kind load_kind_reverser = {.begin = begin_reverser,
                                             .out = reverser_pin,
                                             .breaks = LOAD_WELD | LOAD_JAM,
                                             .place = reverser_place};
