/* What a firmware's own handlers get, through the emitted tables and invokers. */
#include "typed.h"

#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "sim/sim.h"

static struct typed device;
static struct sim_board board;
static char sent[512];
static size_t n_sent;

/* The last call: which, and its arguments. */
static const char *called;
static long first, second;
static int answer;

static int note(struct typed *typed, const char *what, long a, long b)
{
    CHECK(typed == &device);
    called = what;
    first = a;
    second = b;
    return answer;
}

int typed_bytes(struct typed *typed, uint8_t b, uint16_t w)
{
    return note(typed, "bytes", b, w);
}

int typed_same(struct typed *typed, uint8_t b, uint16_t w)
{
    return note(typed, "same", b, w);
}

int typed_signs(struct typed *typed, int16_t a, int32_t b)
{
    return note(typed, "signs", a, b);
}

int typed_valve(struct typed *typed, enum typed_side side, enum typed_open_close_hold choice)
{
    return note(typed, "valve", side, choice);
}

int typed_how(struct typed *typed, enum rlx_verb how)
{
    return note(typed, "how", how, 0);
}

int typed_plain(struct typed *typed)
{
    return note(typed, "plain", 0, 0);
}

int typed_later(struct typed *typed, uint16_t n, enum typed_side side)
{
    return note(typed, "later", n, side);
}

int typed_height(struct typed *typed, int16_t height)
{
    return note(typed, "height", height, 0);
}

int typed_warm(struct typed *typed, uint16_t to)
{
    return note(typed, "warm", to, 0);
}

int typed_wait(struct typed *typed, int32_t time)
{
    return note(typed, "wait", time, 0);
}

int typed_dim(struct typed *typed, int16_t level)
{
    return note(typed, "dim", level, 0);
}

int typed_lamps(struct typed *typed, uint16_t choices)
{
    return note(typed, "lamps", choices, 0);
}

/* Their sum, and how many. */
int typed_doses(struct typed *typed, uint8_t n, const rlx_value *amounts, uint8_t amounts_count)
{
    long sum = 0;
    for (uint8_t i = 0; i < amounts_count; i++) sum += amounts[i];
    return note(typed, "doses", n * 1000 + amounts_count, sum);
}

/* The same, where a slot stands behind the list and an answer comes back. */
int typed_taken(struct typed *typed, const rlx_value *amounts, uint8_t amounts_count, uint8_t n,
                int16_t *sum)
{
    *sum = 0;
    for (uint8_t i = 0; i < amounts_count; i++) *sum = (int16_t)(*sum + amounts[i]);
    return note(typed, "taken", n * 1000 + amounts_count, *sum);
}

static char text_got[64];

int typed_name(struct typed *typed, const char *who, uint8_t who_length, enum rlx_verb loud)
{
    memset(text_got, 0, sizeof text_got);
    memcpy(text_got, who, who_length);
    return note(typed, "name", who_length, loud);
}

int typed_jot(struct typed *typed, const char *text, uint8_t text_length)
{
    memset(text_got, 0, sizeof text_got);
    memcpy(text_got, text, text_length);
    return note(typed, "jot", text_length, 0);
}

int typed_g(struct typed *typed, uint8_t value)
{
    return note(typed, "g", value, 0);
}

/* What the queries tell. */
static int32_t depth;
static uint16_t colours;

int typed_depth(struct typed *typed, int32_t *mm)
{
    *mm = depth;
    return note(typed, "depth", 0, 0);
}

int typed_mode(struct typed *typed, enum typed_side *side, enum rlx_verb *how, uint16_t *choices)
{
    *side = TYPED_SIDE_RIGHT;
    *how = RLX_ON;
    *choices = colours;
    return note(typed, "mode", 0, 0);
}

static void sink(void *user, struct sim_event event)
{
    (void)user;
    if (event.kind == SIM_SEND && n_sent < sizeof sent - 1) sent[n_sent++] = (char)event.value;
}

static bool on_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user;
    return rlx_link_take(&device.link[uart], byte);
}

/* Says a line; what came back is in `sent`, without its line end. */
static void say(const char *line)
{
    called = "";
    first = second = -1;
    n_sent = 0;
    memset(sent, 0, sizeof sent);
    rlx_link_feed_block(&device.link[0], (const uint8_t *)line, (unsigned)strlen(line));
    rlx_link_feed(&device.link[0], '\n');
    do {
        while (rlx_poll(&device.device, 0) == 0) {}
        while (board.sending[0]) sim_board_in(&board, (struct sim_event){SIM_SENT, 0, 0, 0});
    } while (!rlx_idle(&device.device));
    sent[strcspn(sent, "\r")] = 0;
}

static void start(void)
{
    memset(&device, 0, sizeof device);
    board.interrupts.transmit = on_transmit;
    sim_board_init(&board, sink, NULL, 0, RLX_RESET_PIN);
    CHECK_INT(typed_init(&device, &board, RLX_RESET_PIN), 0);
    say("");
    answer = 0;
}

static void check_call(const char *line, const char *what, long a, long b)
{
    test_context("%s", line);
    say(line);
    CHECK_TEXT(called, what);
    CHECK_INT(first, a);
    CHECK_INT(second, b);
}

static void arguments_arrive_in_their_types(void)
{
    start();
    check_call("byte 255 65535", "bytes", 255, 65535);
    check_call("same 7 8", "same", 7, 8);
    check_call("signed -300 -40000", "signs", -300, -40000);
    check_call("signed 300 70000", "signs", 300, 70000);
    check_call("VALVE right hold", "valve", TYPED_SIDE_RIGHT, TYPED_OPEN_CLOSE_HOLD_HOLD);
    check_call("val lef op", "valve", TYPED_SIDE_LEFT, TYPED_OPEN_CLOSE_HOLD_OPEN);
    check_call("lamp set off", "how", RLX_OFF, 0);
    check_call("lamp set toggle", "how", RLX_TOGGLE, 0);
    check_call("plain", "plain", 0, 0);
    check_call("later", "later", 300, TYPED_SIDE_RIGHT);
    check_call("later 2", "later", 2, TYPED_SIDE_RIGHT);
    check_call("later 2 left", "later", 2, TYPED_SIDE_LEFT);
    check_call("-50mm", "height", -50, 0);
}

static void other_slots_arrive_as_told(void)
{
    start();
    check_call("warm 20.5C", "warm", 205, 0);
    check_call("warm 5", "warm", 50, 0);
    check_call("wait 2s", "wait", 2000, 0);
    check_call("wait 300", "wait", 300, 0);
    check_call("wait 5min", "wait", 300000, 0);
    check_call("dim 0", "dim", 100, 0);
    check_call("dim 50%", "dim", 0, 0);
    check_call("dim 100", "dim", -100, 0);
    check_call("lamps blue+red", "lamps", 5, 0);
    check_call("lamps none", "lamps", 0, 0);
    check_call("doses 2 1,2,-3,250", "doses", 2004, 250);
    check_call("doses 1 7", "doses", 1001, 7);
    for (unsigned i = 0; i < 2; i++) {
        check_call("taken 1,2,-3,250 2", "taken", 2004, 250);
        check_call("taken 7 3", "taken", 3001, 7); /* the list is not full */
        CHECK_TEXT(sent, "ok taken 7 3 7");
    }
    check_call("G255", "g", 255, 0);
    check_call("name \"J. Doe\" on", "name", 6, RLX_ON);
    CHECK_TEXT(text_got, "J. Doe");
    check_call("name \"\"", "name", 0, RLX_OFF);
    check_call("name \"\xC3\xA9\xC3\xA8\"", "name", 4, RLX_OFF);
    CHECK_TEXT(text_got, "\xC3\xA9\xC3\xA8");
    check_call("jot   two  words  ", "jot", 10, 0);
    CHECK_TEXT(text_got, "two  words");
}

static void refused_lines_call_nothing(void)
{
    static const char *const lines[] = {"byte 256 0",
                                        "byte 1",
                                        "signed -301 0",
                                        "valve up open",
                                        "valve left op x",
                                        "later 501",
                                        "401mm",
                                        "plain now",
                                        "warm 33",
                                        "lamps pink",
                                        "doses 1 1,2,3,4,5",
                                        "doses 1 251",
                                        "g256",
                                        "name \"thirteen bytes\""};
    start();
    for (size_t i = 0; i < sizeof lines / sizeof *lines; i++) {
        test_context("%s", lines[i]);
        say(lines[i]);
        CHECK_TEXT(called, "");
        CHECK(!strncmp(sent, "err ", 4));
    }
}

static void answers_reach_the_reply(void)
{
    start();
    answer = RLX_ALREADY;
    say("byte 1 2");
    CHECK_TEXT(sent, "ok byte 1 2 already");
    answer = -RLX_ERR_BUSY;
    say("plain");
    CHECK_TEXT(sent, "err busy");
    answer = -RLX_ERR_FAILED;
    say("later");
    CHECK_TEXT(sent, "err failed");
}

static void queries_tell_what_handlers_fill_in(void)
{
    start();
    depth = -39999;
    say("depth?");
    CHECK_TEXT(sent, "ok depth -39999");
    depth = 70001;
    say("depth?");
    CHECK_TEXT(sent, "err failed");
    colours = 6;
    say("mode?");
    CHECK_TEXT(sent, "ok mode right on green+blue");
    colours = 9; /* a bit that is no word */
    say("mode?");
    CHECK_TEXT(sent, "err failed");
    answer = -RLX_ERR_BUSY;
    say("mode?");
    CHECK_TEXT(sent, "err busy");
}

static void events_are_told(void)
{
    start();
    CHECK_INT(typed_send_call(&device, TYPED_EVENT_CALL_RELEASED), 0);
    CHECK(!rlx_idle(&device.device));
    say("");
    CHECK_TEXT(sent, "ev call released");
    CHECK_INT(typed_send_jam(&device), 0);
    say("");
    CHECK_TEXT(sent, "ev jam");
    CHECK_INT(rlx_event(&device.device, TYPED_EVENT_CALL, 2), -RLX_ERR_RANGE);
    CHECK_INT(rlx_event(&device.device, TYPED_EVENTS, 0), -RLX_ERR_RANGE);
    CHECK(rlx_note(&device.device, "algae low"));
    CHECK(!rlx_note(&device.device, "and then")); /* the first one was not told yet */
    say("");
    CHECK_TEXT(sent, "note algae low");
    CHECK(rlx_note(&device.device,
                   "a note of more bytes than the knob allows, which is cut at its end"));
    say("");
    CHECK_TEXT(sent, "note a note of more bytes than the knob allows, which");
}

static const struct test_case cases[] = {
    {"queries tell what handlers fill in", queries_tell_what_handlers_fill_in},
    {"events and notes are told", events_are_told},
    {"arguments arrive in their types", arguments_arrive_in_their_types},
    {"other slots arrive as told", other_slots_arrive_as_told},
    {"P1: refused lines call nothing", refused_lines_call_nothing},
    {"answers reach the reply", answers_reach_the_reply},
};
TEST_MAIN(cases)
