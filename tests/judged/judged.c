/* P6, P9, P11: every drive of judged.lexicon under random commands, switches and times, through the
 * emitted C. The port is in this file: each call is judged as it is made, and goes into a sum. The
 * same program runs on Linux and on an emulated chip, and must print the same line: nothing broken,
 * and the same calls at the same times. */
#include "judged.h"
#include "rlx/port.h"
#include "tell.h"

enum {
    PINS = 32,
    CHANNELS = 16,
    UPPER = 22,
    LOWER = 23,
    CALL = 20,
    FRONT = 21,
    BACK = 26,
    ENABLE = 27
};

static struct judged judged;
static uint32_t now, seed = 20261, sum = 2166136261u;
static uint32_t broken, first_broken, calls, moves, commands, arrived;
static bool starting = true, halted, stopping;

static bool level[PINS], known[PINS];
static uint32_t since[PINS]; /* it is at this level */
static uint16_t duty[CHANNELS];

/* FNV-1a. */
static void add(uint32_t value)
{
    for (unsigned i = 0; i < 4; i++, value >>= 8) sum = (sum ^ (value & 0xFF)) * 16777619u;
}

static void rule(bool kept, uint32_t number)
{
    if (kept) return;
    if (!broken++) first_broken = number;
}

static uint32_t chance(uint32_t below)
{
    seed ^= seed << 13;
    seed ^= seed >> 17;
    seed ^= seed << 5;
    return seed % below;
}

/* A slide between two stops, with a switch at 0: it follows each pulse. */
static struct {
    uint32_t at;   /* its clock */
    int32_t parts; /* thousandths of the next pulse, less than 0 where one came early */
    uint16_t left, hz;
    int32_t place;
} run = {.place = 3000};

static void step(void)
{
    run.left--;
    run.place += level[BACK] ? -1 : 1;
}

static void follow(void)
{
    for (; run.at != now; run.at++)
        for (run.parts += run.hz; run.left && run.parts >= 1000; run.parts -= 1000) step();
    level[FRONT] = run.place > 0;
}

/* ---- the port, which judges ---- */

/* Two relays that are never on together, and rest between each other. */
static const struct {
    uint8_t pin, other;
    bool active_low;
    uint16_t dead;
} pairs[] = {{7, 8, false, 200}, {8, 7, false, 200},   {9, 10, true, 300},
             {10, 9, true, 300}, {11, 12, false, 200}, {12, 11, false, 200}};

static void judge_relay(uint8_t pin, bool high)
{
    for (unsigned i = 0; i < sizeof pairs / sizeof *pairs; i++) {
        bool low = pairs[i].active_low;
        if (pairs[i].pin != pin || high == low) continue;
        rule(level[pairs[i].other] == low, 1);
        rule(now - since[pairs[i].other] >= pairs[i].dead, 2);
        moves++;
    }
    if (pin == 7 && high) rule(!level[UPPER], 3);
    if (pin == 8 && high) rule(level[LOWER], 4);
    if (pin == 3 && !halted) rule(now - since[3] >= (high ? 3000u : 1000u), 5);
    if (pin == 24) rule(!duty[6], 6);
    if (pin == 25) rule(!high || !duty[6], 7);
    if (pin == 14) rule(!duty[4], 8);
    if (pin == 15) rule(!duty[5], 9);
    if (pin == BACK) rule(!run.left, 23), rule(!stopping, 29);
}

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    /* what is on, or high, while nothing was said yet: the pump is safe on, and low then */
    bool safe = pin == 9 || pin == 10 || pin == 19 || pin == 25 || pin == ENABLE;
    (void)port;
    calls++;
    rule(pin < PINS, 10);
    if (pin >= PINS || (known[pin] && level[pin] == high)) return;
    add(pin), add(high), add(now);
    if (starting && pin != 24 && pin != 14) rule(high == (safe || pin == 15), 11);
    if (!starting) judge_relay(pin, high);
    level[pin] = high;
    known[pin] = true;
    since[pin] = now;
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port;
    follow();
    return level[pin];
}

void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port;
    level[pin] = pull == RLX_PULL_UP;
}

void rlx_port_duty(void *port, uint8_t channel, uint16_t value, uint32_t hz)
{
    (void)port;
    calls++;
    add(channel), add(value), add(now), add(hz);
    rule(channel < CHANNELS, 12);
    if (channel >= CHANNELS) return;
    rule(!starting || !value, 13);
    duty[channel] = value;
    if (channel == 6) rule(!value || !level[25], 14);
    rule(!duty[7] || !duty[8], 15);
}

void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    (void)port;
    calls++;
    add(channel), add(us), add(now);
    rule(channel == 3 && (!us || (us >= 950 && us <= 2050)), 16);
    rule(!starting || us == 950, 17);
}

int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    (void)port;
    calls++;
    add(channel), add((uint32_t)more), add(hz), add(now);
    follow();
    int32_t left = run.left, count = left + more;
    if (count < 0) count = 0;
    if (count > 65535) count = 65535;
    rule(channel == 9 && hz <= 2000 && (!count || hz), 24);
    rule(!count || !level[ENABLE], 25);
    rule(hz <= run.hz + 40, 26); /* 2000 in 500 ms */
    run.parts = left && hz ? run.parts * hz / run.hz : 0;
    if (run.parts > 1000) run.parts = 1000;
    run.left = (uint16_t)count;
    run.hz = count ? hz : 0;
    return count - left;
}

uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    (void)port, (void)channel;
    follow();
    uint16_t left = run.left;
    if (left && run.parts >= 0 && chance(2)) { /* one goes out right behind the look */
        run.parts -= 1000;
        step();
    }
    return left;
}

void rlx_port_tone(void *port, uint8_t channel, uint16_t hz)
{
    (void)port;
    calls++;
    add(channel), add(hz), add(now);
    rule(!hz || hz == 2000, 18);
}

void rlx_port_kick(void *port, uint8_t link)
{
    (void)port;
    (void)link;
}

/* ---- what is said and done ---- */

static const char slide_stop[] = "slide stop";

static const char *const says[] = {"gate open",
                                   "gate close",
                                   "gate stop",
                                   "gate reverse",
                                   "lid open",
                                   "lid close",
                                   "lid stop",
                                   "raise",
                                   "chill on",
                                   "chill off",
                                   "chill toggle",
                                   "set up on",
                                   "set up off",
                                   "set down on",
                                   "set down off",
                                   "set pump off",
                                   "set lights on",
                                   "beacon flash 3",
                                   "beacon blink 300ms",
                                   "alarm",
                                   "glow 0",
                                   "glow 100",
                                   "glow 37",
                                   "bell beep 2",
                                   "lights toggle",
                                   "show glow",
                                   "show beacon+pump",
                                   "feed 60",
                                   "feed -60",
                                   "feed stop",
                                   "feed coast",
                                   "feed reverse",
                                   "feed 100",
                                   "winch forward",
                                   "winch back",
                                   "winch stop",
                                   "drums 100 -100",
                                   "drums -30 40",
                                   "steer left",
                                   "steer spin_right",
                                   "steer stop",
                                   "0mm",
                                   "400mm",
                                   "123mm",
                                   "weir park",
                                   "dusk",
                                   "dusk stop",
                                   "stir",
                                   "stir",
                                   "halt",
                                   "gate?",
                                   "lid?",
                                   "chill?",
                                   "feeder?",
                                   "dusk?",
                                   "stir?",
                                   "lights?",
                                   "glow 101",
                                   "slide 0",
                                   "slide 400",
                                   "slide 123",
                                   "slide 124",
                                   "slide home",
                                   slide_stop,
                                   "slide release",
                                   "jog 20",
                                   "jog -80",
                                   "slide?",
                                   "frob",
                                   "pump on; glow 7",
                                   "lid open; lid close",
                                   "bye"};

/* It stays between its stops, and where it says that it is: its switch lets go a little beyond 0.
 */
static void judge_slide(void)
{
    const char *state = rlx_stepper_state(&judged.device, JUDGED_OUTPUT_SLIDE);
    int32_t place = run.place; /* before a look makes it go on */
    int32_t off = place - rlx_stepper_steps(&judged.device, JUDGED_OUTPUT_SLIDE);
    bool known = !*state || *state == 'm';
    rule(run.place >= -20 && run.place <= 8110, 27);
    rule(!known || (off >= 0 && off <= 10), 28);
    arrived += !*state;
}

static uint32_t poll(void)
{
    uint8_t byte;
    uint32_t wait = rlx_poll(&judged.device, now);
    while (rlx_link_take(&judged.link[0], &byte)) add(byte);
    rule(!(level[7] && level[UPPER]) && !(level[8] && !level[LOWER]), 19);
    rule(level[9] || now - since[9] <= 5000, 20);
    rule(level[10] || now - since[10] <= 5000, 21);
    rule(wait > 0 || !rlx_idle(&judged.device), 22);
    judge_slide();
    return wait;
}

/* Up to a time, with a poll whenever the device asked for one. */
static void pass(uint32_t ms)
{
    uint32_t end = now + ms;
    for (;;) {
        uint32_t wait = poll();
        if (wait >= end - now) break;
        now += wait;
    }
    now = end;
}

static void say(const char *text)
{
    halted = text[0] == 'h';
    if (text == slide_stop)
        stopping = true;
    else if ((text[0] == 's' && text[1] == 'l') || text[0] == 'j' || halted)
        stopping = false;
    for (; *text; text++) rlx_link_feed(&judged.link[0], (uint8_t)*text);
    rlx_link_feed(&judged.link[0], '\r');
    commands++;
    poll();
    halted = false;
}

static void flip(void)
{
    static const uint8_t switches[] = {UPPER, LOWER, CALL, UPPER, LOWER};
    uint8_t pin = switches[chance(sizeof switches)];
    level[pin] = !level[pin];
    add(pin), add(level[pin]), add(now);
    poll();
}

int main(void)
{
    now = UINT32_MAX - 2000000; /* the clock comes round on the way */
    for (unsigned i = 0; i < PINS; i++) since[i] = now - 60000;
    run.at = now;
    rule(judged_init(&judged, 0, RLX_RESET_POWER) == 0, 30);
    rule(!level[4], 31); /* the pump is on: low */
    starting = false;
    for (uint32_t i = 0; i < ROUNDS; i++) {
        if (!chance(3))
            flip();
        else
            say(says[chance(sizeof says / sizeof *says)]);
        pass(chance(4) ? chance(60) : chance(40) ? chance(3000) : chance(40000));
    }
    tell_text("commands "), tell_number(commands);
    tell_text(", calls "), tell_number(calls);
    tell_text(", relays on "), tell_number(moves);
    tell_text(", polls in place "), tell_number(arrived);
    tell_text(", sum "), tell_number(sum);
    tell_text(", broken "), tell_number(broken);
    if (broken) tell_text(", first rule "), tell_number(first_broken);
    tell_end();
    return broken != 0;
}
