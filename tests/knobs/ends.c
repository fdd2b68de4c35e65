/* The library with a knob at one end of its range keeps what docs/config.md says of that knob. The
 * values stand in the emitted configuration or on the command line of the compiler. */
#include "ends.h"

#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "rlx/tables.h"
#include "sim/sim.h"

static struct ends device;
static struct sim_board board;
static char sent[2][1024];
static size_t n_sent[2];
static unsigned more; /* polls that left bytes */
static uint8_t last_level;

int ends_colours(struct ends *ends, uint16_t colours)
{
    (void)ends, (void)colours;
    return 0;
}

int ends_level(struct ends *ends, uint8_t n)
{
    (void)ends;
    last_level = n;
    return 0;
}

static void sink(void *user, struct sim_event event)
{
    (void)user;
    if (event.kind == SIM_SEND && n_sent[event.index] < sizeof sent[0] - 1)
        sent[event.index][n_sent[event.index]++] = (char)event.value;
}

static bool on_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user;
    return rlx_link_take(&device.link[uart], byte);
}

/* Polls until nothing is left; what came back is in `sent`. */
static void settle(uint32_t now)
{
    memset(sent, 0, sizeof sent);
    memset(n_sent, 0, sizeof n_sent);
    more = 0;
    do {
        while (rlx_poll(&device.device, now) == 0) more++;
        for (uint8_t i = 0; i < 2; i++)
            while (board.sending[i]) sim_board_in(&board, (struct sim_event){SIM_SENT, i, 0, 0});
    } while (!rlx_idle(&device.device));
}

static void say_to(uint8_t link, const char *line)
{
    rlx_link_feed_block(&device.link[link], (const uint8_t *)line, (unsigned)strlen(line));
    rlx_link_feed(&device.link[link], '\n');
    settle(1000);
}

#define ASK(line, wanted) \
    (test_context("%s", line), say_to(0, line), CHECK_TEXT(sent[0], wanted "\r\n"))

static void start(bool kept)
{
    memset(&device, 0, sizeof device);
    if (!kept) memset(&board, 0, sizeof board);
    board.interrupts.transmit = on_transmit;
    board.nv_kept = kept;
#if RLX_NV_AREA_BYTES
    board.nv_page = RLX_NV_AREA_BYTES < 256 ? RLX_NV_AREA_BYTES : 256;
#else
    device.device.nv_area = board.nv_page = 128;
#endif
    sim_board_init(&board, sink, NULL, 0, RLX_RESET_PIN);
    CHECK_INT(ends_init(&device, &board, RLX_RESET_PIN), 0);
    settle(0);
}

static void a_poll_takes_so_many_bytes(void)
{
    start(false);
    say_to(0, "lamp on");
    CHECK_TEXT(sent[0], "ok lamp on\r\n");
    CHECK_INT(more, (strlen("lamp on\n") - 1) / RLX_POLL_BYTES);
}

static void heard_shows_so_many_bytes(void)
{
    char wanted[100] = "ok heard bench";
    start(false);
    say_to(0, "zzzzzzzzzzzzzzzzzzzz");
    for (unsigned i = 0; i < RLX_HEARD_BYTES; i++) strcat(wanted, " 7A");
    say_to(0, "heard");
    CHECK_TEXT(sent[0], strcat(wanted, "\r\n"));
}

static void the_log_remembers_so_many(void)
{
    char line[40], wanted[100];
    start(false);
    for (unsigned i = 0; i < RLX_LOG_ENTRIES + 3; i++) say_to(0, "lamps red+green+blue");
    snprintf(wanted, sizeof wanted, "ok log %d 0s ago bench \"%.*s\" ok\r\n", RLX_LOG_ENTRIES,
             RLX_LOG_CHARACTERS, "lamps red+green+blue");
    snprintf(line, sizeof line, "log %d", RLX_LOG_ENTRIES);
    say_to(0, line);
    CHECK_TEXT(sent[0], wanted);
    snprintf(line, sizeof line, "log %d", RLX_LOG_ENTRIES + 1);
    say_to(0, line);
    CHECK(strncmp(sent[0], "err ", 4) == 0);
    CHECK(strchr(sent[0], '\n') == sent[0] + strlen(sent[0]) - 1);
}

static void a_note_has_so_many_bytes(void)
{
    static const char long_note[] = "0123456789012345678901234567890123456789012345678901234567";
    char wanted[100];
    start(false);
    CHECK(rlx_note(&device.device, long_note));
    settle(1000);
    snprintf(wanted, sizeof wanted, "note %.*s\r\n", RLX_NOTE_BYTES, long_note);
    CHECK_TEXT(sent[0], wanted);
}

static void a_halt_goes_before_its_turn(void)
{
    static const char line[] = "lamp on\n", halt[] = "halt\n";
    start(false);
    /* nothing is sent: until there is no room for one more answer, and one line waits for it */
    for (int room = rlx_tx_mask(&device.link[0]) + 1; room > -20; room -= 20) {
        rlx_link_feed_block(&device.link[0], (const uint8_t *)line, sizeof line - 1);
        while (!rlx_poll(&device.device, 1000)) {}
    }
    CHECK(board.level[1]);
    rlx_link_feed_block(&device.link[0], (const uint8_t *)halt, sizeof halt - 1);
    while (!rlx_poll(&device.device, 1000)) {}
    CHECK(!board.level[1]);
    settle(1000);
    CHECK(strstr(sent[0], "ok halt\r\n") != NULL);
    CHECK(!board.level[1]);
}

static void a_tag_said_again_is_answered_from_memory(void)
{
    start(false);
    say_to(1, "@3/1 #5 level 7");
    char first[200];
    strcpy(first, sent[1]);
    CHECK(strncmp(first, "ok", 2) == 0 || strncmp(first, "#5", 2) == 0 || first[0] == '@');
    last_level = 0;
    say_to(1, "@3/1 #5 level 7");
    CHECK_INT(last_level, 0);
    CHECK_TEXT(sent[1], first);
}

static void settings_are_kept(void)
{
    start(false);
    ASK("size 4711", "ok size 4711");
    for (uint32_t now = 1000; now < 3000; now += 10) rlx_poll(&device.device, now);
    start(true);
    ASK("size?", "ok size 4711");
}

static void an_output_that_is_none_is_refused(void)
{
    start(false);
    CHECK_INT(rlx_output_switch(&device.device, 1, RLX_ON), -RLX_ERR_RANGE);
}

static bool sends_nothing(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user, (void)uart, (void)byte;
    return false;
}

/* Several devices of one lexicon need no knob: each has its own memory. */
static void two_devices(void)
{
    static struct ends other;
    static struct sim_board its;
    start(false);
    its.interrupts.transmit = sends_nothing;
    sim_board_init(&its, sink, NULL, 0, RLX_RESET_PIN);
#if !RLX_NV_AREA_BYTES
    other.device.nv_area = its.nv_page = 128;
#endif
    CHECK_INT(ends_init(&other, &its, RLX_RESET_PIN), 0);
    rlx_link_feed_block(&other.link[0], (const uint8_t *)"lamp on\nsize 7\n", 15);
    while (rlx_poll(&other.device, 0) == 0) {}
    CHECK(its.level[1] && !board.level[1]);
    ASK("lamp on", "ok lamp on");
    rlx_link_feed_block(&other.link[0], (const uint8_t *)"lamp off\n", 9);
    while (rlx_poll(&other.device, 0) == 0) {}
    CHECK(!its.level[1] && board.level[1]);
    CHECK_INT(ends_setting_size(&other), 7);
    CHECK_INT(ends_setting_size(&device), 300);
}

static const struct test_case cases[] = {
    {"a poll takes so many bytes", a_poll_takes_so_many_bytes},
    {"heard shows so many bytes", heard_shows_so_many_bytes},
    {"the log remembers so many", the_log_remembers_so_many},
    {"a note has so many bytes", a_note_has_so_many_bytes},
    {"a halt goes before its turn", a_halt_goes_before_its_turn},
    {"a tag said again is answered from memory", a_tag_said_again_is_answered_from_memory},
    {"settings are kept", settings_are_kept},
    {"an output that is none is refused", an_output_that_is_none_is_refused},
    {"two devices of one lexicon", two_devices},
};

TEST_MAIN(cases)
