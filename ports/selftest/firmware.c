/* The self-test of a port: each of its functions is called as the library calls it, and what comes
 * of it is looked at with the others.
 * It answers over the first link. A port's selftest_PORT.h says which pins and channels are free, its
 * selftest.lexicon what it has.
 * It knows nothing of any chip. */
#include "board.h"
#include "rlx/port.h"
#include "selftest.h"
#include SELFTEST_PINS /* such as "riscv/selftest_riscv.h" */

/* The level that a pin drives: where it cannot be read back at the pin, SELFTEST_PINS has another
 * way. */
#ifndef SELFTEST_LEVEL
#define SELFTEST_LEVEL(pin) rlx_port_pin_read(port, (pin))
#endif

static struct selftest board;
static void *port;
static uint32_t marked;

int selftest_mark(struct selftest *selftest)
{
    (void)selftest;
    marked = board_millis();
    return 0;
}

int selftest_since(struct selftest *selftest, uint16_t *ms)
{
    (void)selftest;
    *ms = (uint16_t)(board_millis() - marked);
    return 0;
}

/* ---- pins ---- */

static uint8_t pair_is(bool a, bool b)
{
    return SELFTEST_LEVEL(SELFTEST_PIN_A) != a || SELFTEST_LEVEL(SELFTEST_PIN_B) != b;
}

static uint8_t pulled_is(bool a)
{
    return rlx_port_pin_read(port, SELFTEST_PIN_A) != a || SELFTEST_LEVEL(SELFTEST_PIN_B) != 1;
}

int selftest_test_pins(struct selftest *selftest, uint8_t *faults)
{
    (void)selftest;
    *faults = 0;
    for (uint8_t i = 0; i < 4; i++) {
        rlx_port_pin_write(port, SELFTEST_PIN_A, i & 1);
        rlx_port_pin_write(port, SELFTEST_PIN_B, i >> 1);
        *faults = (uint8_t)(*faults + pair_is(i & 1, i >> 1));
    }
    rlx_port_pin_watch(port, SELFTEST_PIN_A, RLX_PULL_UP);
    *faults = (uint8_t)(*faults + pulled_is(true));
#if SELFTEST_PULL_DOWN
    rlx_port_pin_watch(port, SELFTEST_PIN_A, RLX_PULL_DOWN);
    *faults = (uint8_t)(*faults + pulled_is(false));
#endif
    rlx_port_pin_write(port, SELFTEST_PIN_A, true);
    rlx_port_pin_write(port, SELFTEST_PIN_A, false);
    *faults = (uint8_t)(*faults + pair_is(false, true));
    return 0;
}

/* ---- the clock and sleep ---- */

/* The parts of a number that an interrupt counts must not be read in between. */
int selftest_test_time(struct selftest *selftest, uint8_t *faults)
{
    uint32_t from = board_millis(), last = from, now;
    (void)selftest;
    *faults = 0;
    while ((now = board_millis()) - from < 3000 && *faults < 100) {
        if (now - last > 50) *faults = (uint8_t)(*faults + 1);
        last = now;
    }
    return 0;
}

/* An interrupt that came before the sleep ends it at once. */
int selftest_test_wake(struct selftest *selftest, uint16_t *ms)
{
    (void)selftest;
    uint32_t from = board_millis();
    board_mask();
    rlx_port_kick(port, 0);
    board_sleep(5000);
    board_unmask();
    *ms = (uint16_t)(board_millis() - from);
    return 0;
}

/* ---- duties and pulses ---- */

#ifdef SELFTEST_DUTY
/* A level is the same whenever it is looked at. */
static uint8_t holds(uint8_t pin, bool high)
{
    for (uint16_t i = 0; i < 5000; i++)
        if (SELFTEST_LEVEL(pin) != high) return 1;
    return 0;
}

int selftest_test_still(struct selftest *selftest, uint8_t *faults)
{
    (void)selftest;
    rlx_port_duty(port, SELFTEST_DUTY, 30000, 1000);
    rlx_port_duty(port, SELFTEST_DUTY, UINT16_MAX, 1000);
    *faults = holds(SELFTEST_DUTY_SEEN, true);
    rlx_port_duty(port, SELFTEST_DUTY, 30000, 1000);
    rlx_port_duty(port, SELFTEST_DUTY, 0, 1000);
    *faults = (uint8_t)(*faults + holds(SELFTEST_DUTY_SEEN, false));
    return 0;
}
#endif

#if defined SELFTEST_SHARE || defined SELFTEST_PULSE
static uint16_t high_share(uint8_t pin, uint32_t ms)
{
    uint32_t from = board_millis(), looks = 0, high = 0;
    while (board_millis() - from < ms) {
        looks++;
        high += SELFTEST_LEVEL(pin);
    }
    return (uint16_t)(looks ? high * 1000 / looks : 0);
}
#endif

#ifdef SELFTEST_SHARE
int selftest_duty(struct selftest *selftest, uint16_t permille)
{
    (void)selftest;
    rlx_port_duty(port, SELFTEST_DUTY, (uint16_t)(permille * 65535ul / 1000), 1000);
    return 0;
}

int selftest_share(struct selftest *selftest, uint16_t *permille)
{
    (void)selftest;
    *permille = high_share(SELFTEST_DUTY_SEEN, 200);
    return 0;
}
#endif

#ifdef SELFTEST_PULSE
int selftest_pulse(struct selftest *selftest, uint16_t us)
{
    (void)selftest;
    rlx_port_pulse(port, SELFTEST_PULSE, us);
    return 0;
}

int selftest_width(struct selftest *selftest, uint16_t *permille)
{
    (void)selftest;
    *permille = high_share(SELFTEST_PULSE_SEEN, 400);
    return 0;
}
#endif

/* ---- step pulses ---- */

#ifdef SELFTEST_STEPS
static void pass(uint32_t ms)
{
    uint32_t from = board_millis();
    while (board_millis() - from < ms) {}
}

/* Whether so many are left after so long, give or take what the clock does not show. */
static uint8_t left_is(int32_t wanted, uint32_t ms)
{
    int32_t off = rlx_port_steps_left(port, SELFTEST_STEPS) - wanted, most = (int32_t)(3 + ms / 8);
    return off < -most || off > most;
}

int selftest_test_steps(struct selftest *selftest, uint8_t *faults)
{
    uint32_t from = board_millis();
    int32_t in_all, gone;
    (void)selftest;
    *faults = rlx_port_steps_left(port, SELFTEST_STEPS) != 0;
    in_all = rlx_port_steps(port, SELFTEST_STEPS, 300, 1000);
    *faults = (uint8_t)(*faults + (in_all != 300) + left_is(300, 0));
    for (uint8_t i = 0; i < 5; i++) { /* 10 more and 4 less, while 20 go out */
        pass(20);
        in_all += rlx_port_steps(port, SELFTEST_STEPS, 10, 1000);
        in_all += rlx_port_steps(port, SELFTEST_STEPS, -4, 1000);
        gone = (int32_t)(board_millis() - from);
        *faults = (uint8_t)(*faults + left_is(in_all - gone, (uint32_t)gone));
    }
    *faults = (uint8_t)(*faults + (in_all != 330));
    pass(20);
    gone = in_all - rlx_port_steps_left(port, SELFTEST_STEPS);
    in_all += rlx_port_steps(port, SELFTEST_STEPS, -60000, 1000); /* all that are left */
    *faults = (uint8_t)(*faults + (in_all < gone || in_all > gone + 2));
    pass(5);
    *faults = (uint8_t)(*faults + (rlx_port_steps_left(port, SELFTEST_STEPS) != 0));
    return 0;
}
#endif

/* ---- non-volatile memory ---- */

#ifdef SELFTEST_NV
#ifndef SELFTEST_NV_PAGE
#define SELFTEST_NV_PAGE 64 /* bytes that are erased together */
#endif
/* A write clears bits only; a simulator may not know that. */
#ifndef SELFTEST_NV_BITS
#define SELFTEST_NV_BITS(cleared, written) (cleared)
#endif

static uint8_t nv_over(void)
{
    uint32_t from = board_millis();
    while (rlx_port_nv_state(port) == RLX_NV_BUSY)
        if (board_millis() - from > 2000) return 1;
    return rlx_port_nv_state(port) != RLX_NV_READY;
}

static uint8_t nv_is(uint16_t offset, uint8_t wanted)
{
    uint8_t byte = (uint8_t)~wanted;
    return !rlx_port_nv_read(port, offset, &byte, 1) || byte != wanted;
}

static uint8_t nv_write(uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    return !rlx_port_nv_write(port, offset, bytes, count) || nv_over();
}

static uint8_t nv_erase(uint16_t offset)
{
    return !rlx_port_nv_erase(port, offset) || nv_over();
}

int selftest_test_nv(struct selftest *selftest, uint8_t *faults)
{
    static const uint8_t once[] = {0x0F, 0xA5}, again[] = {0xF3}, beside[] = {0x55};
    uint8_t bytes[40], back[40], n;
    (void)selftest;
    n = (uint8_t)(nv_over() + nv_erase(SELFTEST_NV) + nv_erase(SELFTEST_NV + SELFTEST_NV_PAGE));
    n = (uint8_t)(n + nv_is(SELFTEST_NV, 0xFF) + nv_is(SELFTEST_NV + SELFTEST_NV_PAGE - 1, 0xFF));
    n = (uint8_t)(n + nv_write(SELFTEST_NV, once, 2) + nv_is(SELFTEST_NV, 0x0F) +
                  nv_is(SELFTEST_NV + 1, 0xA5));
    n = (uint8_t)(n + nv_write(SELFTEST_NV, again, 1) +
                  nv_is(SELFTEST_NV, SELFTEST_NV_BITS(0x03, 0xF3)));
    n = (uint8_t)(n + nv_write(SELFTEST_NV + SELFTEST_NV_PAGE, beside, 1) + nv_erase(SELFTEST_NV));
    n = (uint8_t)(n + nv_is(SELFTEST_NV, 0xFF) + nv_is(SELFTEST_NV + 1, 0xFF) +
                  nv_is(SELFTEST_NV + SELFTEST_NV_PAGE, 0x55));
    for (uint8_t i = 0; i < sizeof bytes; i++) bytes[i] = (uint8_t)(7 * i);
    bool begun = rlx_port_nv_write(port, SELFTEST_NV + 5, bytes, sizeof bytes);
    for (uint8_t i = 0; i < sizeof bytes; i++)
        bytes[i] = 0; /* what is to be written was taken with the call */
    n = (uint8_t)(n + !begun + nv_over() +
                  !rlx_port_nv_read(port, SELFTEST_NV + 5, back, sizeof back));
    for (uint8_t i = 0; i < sizeof back; i++)
        if (back[i] != (uint8_t)(7 * i)) n = (uint8_t)(n + 1);
    *faults = n;
    return 0;
}
#endif

int main(void)
{
    port = board_start(board.link, SELFTEST_LINKS, SELFTEST_BENCH_BAUD);
    if (!port || selftest_init(&board, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&board.device, board_millis());
        board_mask();
        if (rlx_idle(&board.device)) board_sleep(wait);
        board_unmask();
    }
}
