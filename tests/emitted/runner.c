/* What a lexicon's emitted C and the library with its configuration do, as a shared object that
 * tests/emitted.c loads: compiled for each lexicon, with SHAPE the lexicon's header and STUBS a
 * file with its handlers. */
#include "emitted/runner.h"

#include <stdio.h>
#include <string.h>

#include "sim/sim.h"
#include SHAPE

static struct emitted_state *state;
static struct shape it;
static struct sim_board board;

static void put(char *text, const char *format, unsigned a, unsigned b)
{
    size_t n = strlen(text);
    if (n + 40 < EMITTED_TEXT) sprintf(text + n, format, a, b);
}

static void sink(void *user, struct sim_event event)
{
    (void)user;
    if (event.kind == SIM_SEND || (event.kind == SIM_PACKET && event.value < 256)) {
        unsigned *n = &state->sent_count[event.index];
        if (*n < EMITTED_TEXT) state->sent[event.index][(*n)++] = (char)event.value;
    }
    if (event.kind == SIM_PIN)
        put(state->pins, event.value ? "pin %u high\n" : "pin %u low\n", event.index, 0);
    if (event.kind == SIM_DUTY) put(state->pins, "pwm %u %u\n", event.index, event.value);
    if (event.kind == SIM_STEPS) {
        put(state->pins, "steps %u %u", event.index, event.low);
        put(state->pins, " at %u\n", event.value, 0);
    }
    if (event.kind == SIM_PULSE) put(state->pins, "pulse %u %u\n", event.index, event.value);
    if (event.kind == SIM_TONE) put(state->pins, "tone %u %u\n", event.index, event.value);
}

static void receive(void *user, uint8_t uart, uint8_t byte)
{
    (void)user;
    rlx_link_feed(&it.link[uart], byte);
}

static bool transmit(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user;
    return rlx_link_take(&it.link[uart], byte);
}

#include STUBS

static int power(struct emitted_state *to, uint32_t now_ms)
{
    state = to;
    memset(&it, 0, sizeof it);
    memset(&board, 0, sizeof board);
    board.interrupts = (struct sim_interrupts){NULL, receive, transmit, NULL, NULL};
    sim_board_init(&board, sink, NULL, now_ms, RLX_RESET_WATCHDOG);
    return shape_init(&it, &board, RLX_RESET_WATCHDOG);
}

static void feed(unsigned link, int how, const char *bytes, unsigned count)
{
    const uint8_t *b = (const uint8_t *)bytes;
    (void)b;
#if RLX_HAS_PACKET
    if (how == EMITTED_PACKET) rlx_link_feed_packet(&it.link[link], b, (uint8_t)count);
#endif
#if RLX_HAS_REPORT
    if (how == EMITTED_REPORT) rlx_link_feed_report(&it.link[link], b, (uint8_t)count);
#endif
#if RLX_HAS_MESSAGE
    if (how == EMITTED_MESSAGE)
        rlx_link_message(&it.device, (uint8_t)link, bytes, (uint8_t)count, 1);
#endif
    for (unsigned i = 0; how == EMITTED_BYTES && i < count; i++)
        rlx_link_feed(&it.link[link], b[i]);
}

static uint32_t poll(uint32_t now_ms)
{
    static uint32_t polled_ms;
    board.now_us += (uint64_t)(now_ms - polled_ms) * 1000;
    polled_ms = now_ms;
    uint32_t wait = rlx_poll(&it.device, now_ms);
    for (unsigned i = 0; i < SHAPE_LINKS; i++)
        while (board.sending[i])
            sim_board_in(&board, (struct sim_event){SIM_SENT, (uint8_t)i, 0, 0});
    return wait;
}

static bool idle(void)
{
    return rlx_idle(&it.device);
}

static void happen(int what, unsigned which, unsigned value)
{
    if (what == EMITTED_PIN)
        sim_board_in(&board, (struct sim_event){SIM_PIN_IN, (uint8_t)which, 0, value});
    if (what == EMITTED_FAULT) rlx_link_fault(&it.link[which]);
#if RLX_HAS_EVENTS
    if (what == EMITTED_EVENT) rlx_event(&it.device, (uint8_t)which, (uint8_t)value);
#endif
#if RLX_HAS_NOTES
    if (what == EMITTED_NOTE) rlx_note(&it.device, "look here");
#endif
}

const struct emitted emitted_calls = {power, feed, poll, idle, happen};
