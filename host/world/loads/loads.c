/* What hangs on the outputs: contacts that bounce, shafts that turn, lamps, servos, end switches.
 * Times are drawn from the world's seed; everything is integer.
 * It drives no pin of the device but those of inputs. */
#include "world/loads/loads.h"

#include <string.h>

#define CLOSE_US  8000 /* from the coil to the contact */
#define OPEN_US   4000
#define BOUNCE_US 400 /* most between two of its bounces */
#define BOUNCES   3
#define FLICKS    5 /* bounces of a switch or button, a little slower */
#define FLICK_US  800
#define INERTIA   200  /* ms from stop to full */
#define TRAVEL    6000 /* ms from end to end, where the lexicon tells no time */
#define BEYOND    250  /* ms at full speed from a switch to the stop */
#define SERVO_US  7    /* a servo's way in a millisecond, in microseconds of its pulse */
#define FULL      32767

/* A relay's contact. */
struct contact {
    bool coil, closed, welded;
    unsigned wear, version; /* version: of what is on its way to it */
};

/* What turns. */
struct shaft {
    int32_t drive, speed; /* -FULL..FULL */
    bool brakes, jammed, stalls, ticking, open, closed;
    int64_t place, most, beyond; /* most: its other end, 0: it has none; beyond: up to its stop */
};

struct load {
    const struct lex_output *out;
    unsigned number;
    struct loads *all;
    struct contact contact[2]; /* of a reverser: open, close */
    struct shaft shaft[2];     /* of a pair: left, right */
    struct {
        unsigned duty, other;
        bool direction, brake;
    } wires[2];
    unsigned duty;        /* of a lamp */
    bool dead;            /* a lamp */
    unsigned pulse, horn; /* of a servo: told, and where it is */
    bool far;             /* it was told to go some way, not a step of its slew */
};

struct sensor {
    const struct lex_input *in;
    struct loads *all;
    bool on, stuck, cut; /* on: what moves it has it so */
    unsigned version;
};

struct loads {
    struct world *world;
    const struct lexicon *lx;
    struct loads_ends ends;
    uint32_t seed;
    struct load *loads;
    struct sensor *sensors;
    unsigned shorts, stalls;
};

/* Marsaglia's xorshift. */
static uint32_t draw(struct loads *l, uint32_t below)
{
    l->seed ^= l->seed << 13;
    l->seed ^= l->seed >> 17;
    l->seed ^= l->seed << 5;
    return l->seed % below;
}

static void told(const struct loads *l, const char *name, const char *what)
{
    if (l->ends.told) l->ends.told(l->ends.user, name, what);
}

static uint64_t in_us(const struct loads *l, uint64_t us)
{
    return l->world->now_us + us;
}

/* ---- switches and buttons ---- */

static void show_sensor(const struct sensor *s, bool on)
{
    bool high = on != s->in->active_low;
    if (s->cut) high = s->in->pull == LEX_PULL_UP;
    s->all->ends.pin(s->all->ends.user, (uint8_t)s->in->pin, high);
}

/* argument: flicks that are left, and the version. */
static void on_flick(void *data, uint32_t argument)
{
    struct sensor *s = data;
    unsigned left = argument & 0xFF;
    if (argument >> 8 != (s->version & 0xFFFFFF) || s->stuck || s->cut) return;
    show_sensor(s, s->on != (left & 1));
    if (left)
        world_at(s->all->world, in_us(s->all, 1 + draw(s->all, FLICK_US)), on_flick, s,
                 argument - 1);
}

static void set_sensor(struct sensor *s, bool on)
{
    if (s->on == on) return;
    s->on = on;
    s->version++;
    world_at(s->all->world, s->all->world->now_us, on_flick, s,
             (s->version & 0xFFFFFF) << 8 | (FLICKS & ~1u));
}

static struct sensor *sensor_of(struct loads *l, const char *name)
{
    for (unsigned i = 0; name && i < l->lx->inputs->len; i++)
        if (!strcmp(l->sensors[i].in->name, name)) return &l->sensors[i];
    return NULL;
}

void loads_push(struct loads *l, const struct lex_input *in, bool on)
{
    set_sensor(sensor_of(l, in->name), on);
}

/* ---- shafts ---- */

static void on_tick(void *data, uint32_t side);

static void wake_shaft(struct load *load, unsigned side)
{
    struct shaft *s = &load->shaft[side];
    if (s->ticking || (!s->drive && !s->speed)) return;
    s->ticking = true;
    world_at(load->all->world, in_us(load->all, 1000), on_tick, load, side);
}

static int32_t nearer(int32_t from, int32_t to, int32_t step)
{
    return from < to ? MIN(from + step, to) : MAX(from - step, to);
}

/* Its ends stop it, and push their switches. */
static void meet_ends(struct load *load, struct shaft *s)
{
    const struct lex_output *out = load->out;
    bool open = s->place >= s->most, closed = s->place <= 0;
    if (!s->most) return;
    s->place = CLAMP(s->place, -s->beyond, s->most + s->beyond);
    if (open != s->open && open) told(load->all, out->name, "at its open end");
    if (closed != s->closed && closed) told(load->all, out->name, "at its closed end");
    s->open = open;
    s->closed = closed;
    struct sensor *upper = sensor_of(load->all, out->open.until);
    struct sensor *lower = sensor_of(load->all, out->close.until);
    if (upper) set_sensor(upper, open);
    if (lower) set_sensor(lower, closed);
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
        told(load->all, load->out->name,
             s->jammed ? "jammed, and driven" : "driven against its end");
    }
    s->stalls = stalls;
    if (s->jammed || against)
        s->speed = 0;
    else
        s->speed = nearer(s->speed, s->drive, s->brakes ? FULL * 4 / INERTIA : FULL / INERTIA);
    s->place += s->speed;
    meet_ends(load, s);
    if (stalls && !s->speed) return; /* until something changes */
    wake_shaft(load, side);
}

static void drive_shaft(struct load *load, unsigned side, int32_t drive, bool brakes)
{
    struct shaft *s = &load->shaft[side];
    s->drive = drive;
    s->brakes = brakes;
    if (!drive) s->stalls = false;
    wake_shaft(load, side);
}

/* ---- relays ---- */

static void contacts_changed(struct load *load)
{
    bool open = load->contact[0].closed, close = load->contact[1].closed;
    if (load->out->kind != LEX_REVERSER) return;
    if (open && close) {
        load->all->shorts++;
        told(load->all, load->out->name, "SHORT: both relays are closed");
    }
    drive_shaft(load, 0, open == close ? 0 : open ? FULL : -FULL, false);
}

/* argument: which contact, bounces that are left, and the version. */
static void on_contact(void *data, uint32_t argument)
{
    struct load *load = data;
    struct contact *c = &load->contact[argument & 1];
    unsigned left = argument >> 1 & 0x7F;
    if (argument >> 8 != (c->version & 0xFFFFFF)) return;
    bool was = c->closed;
    c->closed = c->welded || c->coil != (left & 1);
    c->wear += !was && c->closed;
    contacts_changed(load);
    if (left)
        world_at(load->all->world, in_us(load->all, 1 + draw(load->all, BOUNCE_US)), on_contact,
                 load, argument - 2);
    else if (load->out->kind == LEX_RELAY)
        told(load->all, load->out->name, c->closed ? "contact closed" : "contact open");
}

static void set_coil(struct load *load, unsigned which, bool on)
{
    struct contact *c = &load->contact[which];
    if (c->coil == on) return;
    c->coil = on;
    c->version++;
    world_at(load->all->world, in_us(load->all, on ? CLOSE_US : OPEN_US), on_contact, load,
             (c->version & 0xFFFFFF) << 8 | (on ? (BOUNCES & ~1u) << 1 : 0) | which);
}

/* ---- servos ---- */

static void on_slew(void *data, uint32_t argument)
{
    struct load *load = data;
    if (argument != load->pulse || !load->pulse) return;
    load->horn = (unsigned)nearer((int32_t)load->horn, (int32_t)load->pulse, SERVO_US);
    if (load->horn != load->pulse)
        world_at(load->all->world, in_us(load->all, 1000), on_slew, load, argument);
    else if (load->far)
        told(load->all, load->out->name, "has arrived");
}

static void set_pulse(struct load *load, unsigned us)
{
    bool went = load->pulse && load->horn != load->pulse && us == load->pulse;
    load->pulse = us;
    if (!load->horn) load->horn = us; /* it wakes where it was told first */
    load->far = MAX(us, load->horn) - MIN(us, load->horn) > 100;
    if (us && us != load->horn && !went)
        world_at(load->all->world, in_us(load->all, 1000), on_slew, load, us);
}

/* ---- what the device does ---- */

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
    drive_shaft(load, side, brakes ? 0 : drive, brakes);
}

static void motor_pin(struct load *load, struct sim_event event)
{
    bool pwm = event.kind == SIM_DUTY;
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

static void load_out(struct load *load, struct sim_event event)
{
    const struct lex_output *out = load->out;
    bool on = (event.value != 0) != out->active_low;
    switch (out->kind) {
    case LEX_RELAY:
        if (event.kind == SIM_PIN && event.index == out->pin) set_coil(load, 0, on);
        break;
    case LEX_REVERSER:
        if (event.kind != SIM_PIN) break;
        if (event.index == out->open.pin) set_coil(load, 0, on);
        if (event.index == out->close.pin) set_coil(load, 1, on);
        break;
    case LEX_LED:
        if (event.index != out->pin || (event.kind == SIM_DUTY) != out->pwm) break;
        load->duty = out->pwm ? (out->active_low ? 65535 - event.value : event.value) : on * 65535u;
        break;
    case LEX_MOTOR:
    case LEX_PAIR: motor_pin(load, event); break;
    case LEX_SERVO:
        if (event.kind == SIM_PULSE && event.index == out->pin) set_pulse(load, event.value);
        break;
    case LEX_BUZZER:
    case LEX_GROUP:
    case LEX_OUTPUT_KINDS: break;
    }
}

void loads_out(struct loads *l, struct sim_event event)
{
    if (event.kind != SIM_PIN && event.kind != SIM_DUTY && event.kind != SIM_PULSE) return;
    for (unsigned i = 0; i < l->lx->outputs->len; i++) load_out(&l->loads[i], event);
}

/* ---- begin, break, ask ---- */

struct loads *loads_new(struct world *world, const struct lexicon *lx, uint32_t seed,
                        struct loads_ends ends)
{
    struct loads *l = g_new0(struct loads, 1);
    *l = (struct loads){.world = world, .lx = lx, .ends = ends, .seed = seed ? seed : 1};
    l->loads = g_new0(struct load, lx->outputs->len + 1);
    l->sensors = g_new0(struct sensor, lx->inputs->len + 1);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        struct load *load = &l->loads[i];
        *load = (struct load){.out = lx->outputs->pdata[i], .number = i, .all = l};
        if (load->out->kind != LEX_REVERSER) continue;
        bool seen = load->out->open.until || load->out->close.until;
        /* it arrives before its time is over; what nobody sees takes just that time */
        uint32_t travel = load->out->travel ? load->out->travel * (seen ? 3 : 4) / 4 : TRAVEL;
        load->shaft[0].most = (int64_t)travel * FULL;
        load->shaft[0].place = load->shaft[0].most / 2;
        load->shaft[0].beyond = seen ? BEYOND * FULL : 0;
    }
    for (unsigned i = 0; i < lx->inputs->len; i++)
        l->sensors[i] = (struct sensor){.in = lx->inputs->pdata[i], .all = l};
    return l;
}

void loads_free(struct loads *l)
{
    if (!l) return;
    g_free(l->loads);
    g_free(l->sensors);
    g_free(l);
}

void loads_begin(struct loads *l)
{
    for (unsigned i = 0; i < l->lx->inputs->len; i++) show_sensor(&l->sensors[i], false);
}

static bool break_sensor(struct sensor *s, const char *how)
{
    if (!strcmp(how, "mend"))
        s->stuck = s->cut = false;
    else if (!strcmp(how, "stick"))
        s->stuck = true;
    else if (!strcmp(how, "cut"))
        s->cut = true;
    else
        return false;
    s->version++;
    if (!s->stuck) show_sensor(s, s->on);
    return true;
}

/* What can happen to each kind of output; all of it can be mended. */
static const struct {
    const char *what;
    unsigned kinds;
} breaks[] = {
    {"weld", 1u << LEX_RELAY | 1u << LEX_REVERSER},
    {"jam", 1u << LEX_REVERSER | 1u << LEX_MOTOR | 1u << LEX_PAIR},
    {"dead", 1u << LEX_LED},
    {"mend", UINT_MAX},
};

static bool break_load(struct load *load, const char *how)
{
    unsigned n = 0;
    while (n < G_N_ELEMENTS(breaks) && strcmp(breaks[n].what, how) != 0) n++;
    if (n == G_N_ELEMENTS(breaks) || !(breaks[n].kinds >> load->out->kind & 1)) return false;
    bool mend = !strcmp(how, "mend");
    for (unsigned i = 0; i < 2; i++) {
        struct contact *c = &load->contact[i];
        if (*how == 'w') c->welded = c->closed;
        if (mend) c->welded = false, c->closed = c->coil;
        if (mend || *how == 'j') load->shaft[i].jammed = !mend;
        wake_shaft(load, i);
    }
    if (mend || *how == 'd') load->dead = !mend;
    if (mend) contacts_changed(load);
    return true;
}

bool loads_break(struct loads *l, const char *what)
{
    char **words = g_strsplit(what, " ", 2);
    bool done = false;
    struct sensor *s = words[0] && words[1] ? sensor_of(l, words[1]) : NULL;
    if (s) done = break_sensor(s, words[0]);
    for (unsigned i = 0; !s && words[0] && words[1] && i < l->lx->outputs->len; i++)
        if (!strcmp(l->loads[i].out->name, words[1])) done |= break_load(&l->loads[i], words[0]);
    g_strfreev(words);
    return done;
}

bool loads_is_on(const struct loads *l, unsigned output)
{
    const struct load *load = &l->loads[output];
    return load->out->kind == LEX_LED ? load->duty && !load->dead : load->contact[0].closed;
}

unsigned loads_wear(const struct loads *l, unsigned output)
{
    return l->loads[output].contact[0].wear + l->loads[output].contact[1].wear;
}

/* The duty of a lightness: CIE 1976, as integers of 65535. */
static uint64_t duty_of_lightness(unsigned percent)
{
    uint64_t a = percent + 16;
    if (percent <= 8) return (uint64_t)percent * 655350 / 9033;
    return a * a * a * 65535 / (116u * 116u * 116u);
}

unsigned loads_lightness(unsigned duty)
{
    unsigned percent = 0;
    while (percent < 100 && duty_of_lightness(percent) < duty) percent++;
    /* the nearer one of two */
    if (percent && duty_of_lightness(percent) - duty > duty - duty_of_lightness(percent - 1))
        percent--;
    return percent;
}

unsigned loads_looks(const struct loads *l, unsigned output)
{
    return l->loads[output].dead ? 0 : loads_lightness(l->loads[output].duty);
}

int loads_speed(const struct loads *l, unsigned output, unsigned side)
{
    return l->loads[output].shaft[side].speed * 1000 / FULL;
}

int loads_place(const struct loads *l, unsigned output)
{
    const struct load *load = &l->loads[output];
    if (load->out->kind == LEX_SERVO) return (int)load->horn;
    return load->shaft[0].most ? (int)(load->shaft[0].place * 1000 / load->shaft[0].most) : 0;
}

unsigned loads_shorts(const struct loads *l)
{
    return l->shorts;
}

unsigned loads_stalls(const struct loads *l)
{
    return l->stalls;
}
