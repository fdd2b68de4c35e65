/* The public API: start, room for replies, loss, several links, several devices. */
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "rig.h"

#define TANK EXAMPLES "/tide_tank/tidetank.lexicon"

static struct rig *tank(void)
{
    struct rig *rig = rig_new(TANK);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    return rig;
}

static void greets_with_fingerprint_and_cause(void)
{
    struct rig *rig = tank();
    char *wanted = g_strdup_printf("ready tidetank 1 %s watchdog\r\n", rig->image->fingerprint);
    CHECK_TEXT(rig->sent[0]->str, wanted);
    CHECK(*rig->sent[1]->str == '<'); /* a link of keys */
    CHECK_TEXT(rig->sent[1]->str + 1, wanted);
    g_free(wanted);
    rig_free(rig);
}

/* P6: safe states stand before anything else. */
static void outputs_start_safe(void)
{
    struct rig *rig = rig_new(TANK);
    rig->hold_sent = true;
    CHECK_INT(rig_start(rig, 0), 0);
    CHECK_TEXT(rig->pins->str, "pin 4 low\npin 3 low\npin 19 high\npwm 1 0\n");
    rig_free(rig);
}

static void refuses_what_it_cannot_run(void)
{
    struct rig *rig = rig_new(TANK);
    GByteArray *good = rig->image->bytes;
    static const struct {
        unsigned at;
        uint8_t value;
        int error;
    } cases[] = {{RLX_IMG_MAGIC, 'x', -RLX_ERR_VERSION},
                 {RLX_IMG_VERSION, 99, -RLX_ERR_VERSION},
                 {RLX_IMG_BUILT_IN + 1, 0x80, -RLX_ERR_BUILD},
                 {RLX_IMG_SLOTS, RLX_SLOTS + 1, -RLX_ERR_BUILD},
                 {RLX_IMG_LINKS, 3, -RLX_ERR_BUFFER}};
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        uint8_t keep = good->data[cases[i].at];
        test_context("byte %u", cases[i].at);
        good->data[cases[i].at] = cases[i].value;
        CHECK_INT(rig_start(rig, 0), cases[i].error);
        CHECK_TEXT(rig->pins->str, "");
        CHECK_INT(rlx_poll(&rig->device, 1), RLX_FOREVER);
        good->data[cases[i].at] = keep;
    }
    CHECK_INT(rig_start(rig, 0), 0);
    CHECK_INT(RLX_CONFIGURED(rlx_init)(&rig->device, RLX_RESET_PIN, RLX_INIT_SIZES + 4096),
              -RLX_ERR_VERSION);
    CHECK_INT(RLX_CONFIGURED(rlx_init)(&rig->device, RLX_RESET_PIN, RLX_INIT_SIZES - 1),
              -RLX_ERR_VERSION);
    struct rlx_device empty = {0};
    CHECK_INT(rlx_init(&empty, RLX_RESET_PIN), -RLX_ERR_IMAGE);
    CHECK_INT(rlx_poll(&empty, 1), RLX_FOREVER);
    CHECK(rlx_idle(&empty));
    rig_free(rig);
}

/* No room for the reply: no act yet, and the frame is not lost. */
static void waits_for_room(void)
{
    struct rig *rig = tank();
    rig->hold_sent = true;
    g_string_truncate(rig->pins, 0);
    g_string_truncate(rig->sent[0], 0);
    rig_feed(rig, 0, "pump off\rpump on\rpump off\r", 26);
    rig_run(rig);
    CHECK_TEXT(rig->pins->str, "pin 4 high\npin 4 low\n"); /* 64 bytes hold two replies */
    CHECK_INT(rlx_poll(&rig->device, 1), RLX_FOREVER);
    CHECK(rlx_idle(&rig->device)); /* only sent bytes can make work */
    rig->hold_sent = false;
    rlx_port_kick(&rig->board, 0);
    while (rig->board.sending[0]) sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
    CHECK(!rlx_idle(&rig->device));
    rig_run(rig);
    CHECK_TEXT(rig->pins->str, "pin 4 high\npin 4 low\npin 4 high\n");
    CHECK_TEXT(rig->sent[0]->str, "ok pump off\r\nok pump on\r\nok pump off\r\n");
    rig_free(rig);
}

/* More than the ring holds, without a poll: what was whole is done, the cut line is refused once,
 * nothing is spliced, and the count is exact. */
static void tells_lost_bytes(void)
{
    struct rig *rig = tank();
    const char *burst = "pump off\rpump on\rpump off\rpump on\rpump off\rpump on\rpump off\r"
                        "chiller on\rchiller off\r";
    g_string_truncate(rig->pins, 0);
    g_string_truncate(rig->sent[0], 0);
    rig_feed(rig, 0, burst, strlen(burst));
    CHECK_INT(rlx_link_lost(&rig->link[0]), strlen(burst) - 64);
    rig_run(rig);
    rig_feed(rig, 0, "ump on\r", 7); /* the end of a line whose beginning was lost */
    rig_run(rig);
    CHECK(strstr(rig->sent[0]->str, "ok pump off\r\nerr lost at 4\r\n"));
    CHECK(!strstr(rig->pins->str, "pin 3"));
    CHECK_TEXT(rig_say(rig, 0, "chiller on\r"), "ok chiller on\r\n");
    rig_free(rig);
}

static void a_fault_refuses_its_line_only(void)
{
    struct rig *rig = tank();
    rig_feed(rig, 0, "pump ", 5);
    rlx_link_fault(&rig->link[0]);
    CHECK(!rlx_idle(&rig->device));
    rig_run(rig);
    CHECK_TEXT(rig_say(rig, 0, "off\r"), "err lost at 5\r\n");
    CHECK_TEXT(rig_say(rig, 0, "pump off\r"), "ok pump off\r\n");
    rlx_link_fault(&rig->link[1]); /* a key is a frame: answered at once */
    g_string_truncate(rig->sent[1], 0);
    rig_run(rig);
    CHECK_TEXT(rig->sent[1]->str, "<err lost at 0\r\n");
    CHECK_TEXT(rig_say(rig, 1, "p"), "<ok pump on\r\n");
    rig_free(rig);
}

static void links_do_not_mix(void)
{
    struct rig *rig = tank();
    rig_feed(rig, 0, "pump o", 6);
    CHECK_TEXT(rig_say(rig, 1, "b"), "<ok beacon on\r\n");
    CHECK_TEXT(rig_say(rig, 0, "ff\r"), "ok pump off\r\n");
    rig_free(rig);
}

static void devices_do_not_mix(void)
{
    struct rig *a = tank(), *b = tank();
    rig_feed(a, 0, "pump o", 6);
    rig_feed(b, 0, "pump off\r", 9);
    rig_run(b);
    g_string_truncate(a->pins, 0);
    CHECK_TEXT(rig_say(a, 0, "ff\r"), "ok pump off\r\n");
    CHECK_TEXT(a->pins->str, "pin 4 high\n");
    CHECK_TEXT(rig_say(b, 0, "pump off\r"), "ok pump off already\r\n");
    rig_free(a);
    rig_free(b);
}

static void handlers_answer(void)
{
    struct rig *rig = tank();
    CHECK_TEXT(rig_say(rig, 0, "dose 200\r"), "ok dose 200\r\n");
    CHECK_INT(rig->value[0], 200);
    CHECK_TEXT(rig_say(rig, 0, "valve shut\r"), "ok valve shut\r\n");
    CHECK_INT(rig->value[0], 2);
    CHECK_INT(rig->calls, 2);
    rig->returns = RLX_ALREADY;
    CHECK_TEXT(rig_say(rig, 0, "dose 5\r"), "ok dose 5 already\r\n");
    rig->returns = -RLX_ERR_BUSY;
    CHECK_TEXT(rig_say(rig, 0, "dose 5\r"), "err busy\r\n");
    rig->returns = -RLX_ERR_FAILED;
    CHECK_TEXT(rig_say(rig, 0, "dose 5\r"), "err failed\r\n");
    rig->returns = -1000;
    CHECK_TEXT(rig_say(rig, 0, "dose 5\r"), "err failed\r\n");
    rig_free(rig);
}

/* Reasons of the lexicon's own; what is none of them is failed. */
static void handlers_refuse(void)
{
    struct rig *rig = rig_of_text(
        "lexicon x 1\nbuilt-in batch log state\noutput lamp led pin 1\n"
        "command lamp {on|off} => lamp\ncommand move {mm 0..9} => move() refuses jammed|cold\n"
        "query level {mm 0..9} => level() refuses dry\nlink a serial 9600 frame line\n"
        "link b serial 9600 frame line replies short\nlink c serial 9600 frame line\n"
        "texts c err jammed = \"it is jammed\"\n");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    rig->returns = -RLX_ERR_REASON;
    CHECK_TEXT(rig_say(rig, 0, "move 1\r"), "err jammed\r\n");
    CHECK_TEXT(rig_say(rig, 1, "move 1\r"), "e40\r\n");
    CHECK_TEXT(rig_say(rig, 2, "move 1\r"), "it is jammed\r\n");
    CHECK_TEXT(rig_say(rig, 0, "lamp on; move 1\r"), "err jammed 2\r\n");
    CHECK_TEXT(rig_say(rig, 0, "log\r"), "ok log 1 0s ago a \"move 1\" err jammed\r\n");
    rig->returns = -RLX_ERR_REASON - 1;
    CHECK_TEXT(rig_say(rig, 2, "move 1\r"), "err cold\r\n");
    rig->returns = -RLX_ERR_REASON - 2;
    CHECK_TEXT(rig_say(rig, 0, "level?\r"), "err dry\r\n");
    for (int i = 1; i < 600; i++) {
        rig->returns = -i;
        bool reason = i >= RLX_ERR_REASON && i < RLX_ERR_REASON + 3;
        const char *said = rig_say(rig, 0, "level?\r");
        test_context("returns %d: %s", -i, said);
        CHECK(reason == (!strcmp(said, "err jammed\r\n") || !strcmp(said, "err cold\r\n") ||
                         !strcmp(said, "err dry\r\n")));
        CHECK(reason || !strcmp(said, i == RLX_ERR_BUSY ? "err busy\r\n" : "err failed\r\n"));
    }
    rig_free(rig);
}

/* A poll takes a bounded number of bytes and says when it left some. */
static void a_poll_is_bounded(void)
{
    struct rig *rig = rig_new(LEXICONS "/families.lexicon");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    rig_feed(rig, 0, "\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r", 32);
    CHECK_INT(rlx_poll(&rig->device, 1), RLX_FOREVER);
    for (int i = 0; i < 64; i++) rig_feed(rig, 0, "\r", 1);
    rlx_link_fault(&rig->link[0]);
    CHECK_INT(rlx_poll(&rig->device, 2), 0); /* 64 bytes, and the cut is left */
    CHECK_INT(rlx_poll(&rig->device, 3), RLX_FOREVER);
    rig_free(rig);
}

static void percent_to_duty(void)
{
    for (uint8_t p = 0; p <= 100; p++) {
        long twice = 2 * 65535L * p, duty = rlx_duty_of_percent(p);
        test_context("%u %%", p);
        CHECK(labs(200 * duty - twice) <= 100); /* within half a step */
    }
    CHECK_INT(rlx_duty_of_percent(0), 0);
    CHECK_INT(rlx_duty_of_percent(100), 65535);
}

/* P5: rubbish changes nothing. A byte storm from a fixed seed over a device whose outputs were set:
 * only whole commands may move them, and after it the device obeys. */
static void rubbish_changes_nothing(void)
{
    struct rig *rig = tank();
    uint32_t seed = 12345;
    g_string_truncate(rig->pins, 0);
    for (int i = 0; i < 200000; i++) {
        seed = seed * 1664525u + 1013904223u;
        char byte = (char)(seed >> 24);
        rig_feed(rig, 0, &byte, 1);
        if (seed & 0x10000) rig_run(rig);
    }
    rig_run(rig);
    CHECK_TEXT(rig->pins->str, "");
    rig_say(rig, 0, "\r\r");
    CHECK_TEXT(rig_say(rig, 0, "pump off\r"), "ok pump off\r\n");
    CHECK(rig->link[0].refused > 100);
    rig_free(rig);
}

/* Every frame of this storm is said to an independent list of what is acceptable. */
static void accepts_exactly_the_spellings(void)
{
    static const char *const first[] = {"pump",  "pum",  "pu",  "PUMP",
                                        "pumps", "glow", "glo", "beacon"};
    static const char *const second[] = {"on", "off", "of",  "toggle", "tog", "to", "ON",
                                         "5",  "005", "100", "101",    "-5",  "1e", ""};
    struct rig *rig = tank();
    for (unsigned i = 0; i < G_N_ELEMENTS(first); i++)
        for (unsigned k = 0; k < G_N_ELEMENTS(second); k++) {
            bool switched = i == 0 || i == 1 || i == 3 || i == 7, level = i == 5 || i == 6;
            bool verb = k == 0 || k == 1 || k == 3 || k == 4 || k == 6;
            bool number = k == 7 || k == 8 || k == 9;
            char *line = g_strdup_printf("%s %s\r", first[i], second[k]);
            test_context("%s", line);
            bool ok = g_str_has_prefix(rig_say(rig, 0, line), "ok ");
            CHECK_INT(ok, (switched && verb) || (level && number));
            g_free(line);
        }
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"handlers refuse with reasons of their own", handlers_refuse},
    {"greets with fingerprint and cause", greets_with_fingerprint_and_cause},
    {"P6: outputs start safe", outputs_start_safe},
    {"refuses what it cannot run", refuses_what_it_cannot_run},
    {"waits for room", waits_for_room},
    {"P7: tells lost bytes", tells_lost_bytes},
    {"P7: a fault refuses its line only", a_fault_refuses_its_line_only},
    {"links do not mix", links_do_not_mix},
    {"devices do not mix", devices_do_not_mix},
    {"handlers answer", handlers_answer},
    {"P3: a poll is bounded", a_poll_is_bounded},
    {"percent to duty", percent_to_duty},
    {"P5: rubbish changes nothing", rubbish_changes_nothing},
    {"P1: accepts exactly the spellings", accepts_exactly_the_spellings},
};
TEST_MAIN(cases)
