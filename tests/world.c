/* The virtual clock, the serial cable and the simulated board. */
#include <string.h>

#include "world/run/running.h"
#include "harness.h"
#include "rlx/port.h"
#include "world/media/serial.h"
#include "world/run/world.h"

static GString *log_text;

static void note(void *data, uint32_t argument)
{
    struct world *world = data;
    g_string_append_printf(log_text, "%u@%u ", argument, (unsigned)world->now_us);
    if (argument == 7) world_at(world, 0, note, world, 8); /* past: now, behind what is set */
}

static void events_in_order(void)
{
    struct world *world = world_new();
    log_text = g_string_new(NULL);
    world_at(world, 30, note, world, 3);
    world_at(world, 10, note, world, 7);
    world_at(world, 30, note, world, 4);
    world_at(world, 10, note, world, 2);
    CHECK(world_step(world, 100));
    while (world_step(world, 20)) {}
    CHECK_INT(world->now_us, 20);
    while (world_step(world, 100)) {}
    CHECK_INT(world->now_us, 100);
    CHECK_TEXT(log_text->str, "7@10 2@10 8@10 3@30 4@30 ");
    CHECK(!world_step(world, 50)); /* never back */
    CHECK_INT(world->now_us, 100);
    g_string_free(log_text, TRUE);
    world_free(world);
}

struct ends {
    struct world *world;
    struct serial *serial;
    uint64_t first_us, last_us;
    unsigned n;
};

static void on_byte(void *user, struct serial *serial, uint8_t byte)
{
    struct ends *ends = user;
    (void)serial;
    CHECK_INT(byte, (uint8_t)ends->n);
    if (!ends->n++) ends->first_us = ends->world->now_us;
    ends->last_us = ends->world->now_us;
}

/* Ten bits a byte, back to back: n bytes take n * 10 / baud seconds to the microsecond. */
static void bytes_take_their_time(void)
{
    static const unsigned bauds[] = {300, 9600, 57600, 115200, 921600, 1000000};
    for (unsigned i = 0; i < G_N_ELEMENTS(bauds); i++) {
        struct world *world = world_new();
        struct serial *serial = serial_new(world, bauds[i], 0);
        struct ends ends = {.world = world, .serial = serial};
        serial->on_byte = on_byte;
        serial->user = &ends;
        test_context("%u baud", bauds[i]);
        for (unsigned n = 0; n < 200; n++) serial_send(serial, (uint8_t)n);
        while (world_step(world, UINT64_C(100000000))) {}
        CHECK_INT(ends.n, 200);
        CHECK_INT(ends.first_us, UINT64_C(10000000) / bauds[i]);
        CHECK_INT(ends.last_us, UINT64_C(10000000) * 200 / bauds[i]);
        serial_free(serial);
        world_free(world);
    }
}

/* ---- the board ---- */

struct sink {
    GString *text;
};

static void on_event(void *user, struct sim_event event)
{
    struct sink *sink = user;
    g_string_append_printf(sink->text, "%u:%u=%u ", event.kind, event.index, event.value);
}

static bool nothing_to_send(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user;
    (void)uart;
    (void)byte;
    return false;
}

static struct sim_board *board_new(struct sink *sink)
{
    struct sim_board *board = g_new0(struct sim_board, 1);
    sink->text = g_string_new(NULL);
    board->interrupts.transmit = nothing_to_send;
    sim_board_init(board, on_event, sink, 5, RLX_RESET_BROWNOUT);
    return board;
}

static void pins_and_channels(void)
{
    struct sink sink;
    struct sim_board *board = board_new(&sink);
    rlx_port_pin_write(board, 4, false); /* the first write tells, whatever the level */
    rlx_port_pin_write(board, 4, false);
    rlx_port_pin_write(board, 4, true);
    rlx_port_duty(board, 1, 1234, 1000);
    rlx_port_pulse(board, 2, 1500);
    rlx_port_tone(board, 3, 440);
    const uint8_t packet[] = {9, 8};
    CHECK(rlx_port_packet_send(board, 6, packet, sizeof packet));
    char *wanted = g_strdup_printf(
        "%u:4=0 %u:4=1 %u:1=1234 %u:2=1500 %u:3=440 %u:6=9 %u:6=8 %u:6=256 ", SIM_PIN, SIM_PIN,
        SIM_DUTY, SIM_PULSE, SIM_TONE, SIM_PACKET, SIM_PACKET, SIM_PACKET);
    CHECK_TEXT(sink.text->str, wanted);
    g_free(wanted);
    CHECK_INT(rlx_port_steps(board, 5, -9, 0), 0); /* the first call tells, whatever it is */
    CHECK_INT(rlx_port_steps(board, 5, -9, 0), 0);
    CHECK_INT(rlx_port_steps(board, 5, 10, 100), 10);
    board->now_us += 35000;
    CHECK_INT(rlx_port_steps_left(board, 5), 7);
    CHECK_INT(rlx_port_steps(board, 5, 5, 200), 5); /* the last pulse was 5 ms ago */
    CHECK_INT(rlx_port_steps_left(board, 5), 11);
    board->now_us += 4000;
    CHECK_INT(rlx_port_steps_left(board, 5), 11);
    CHECK_INT(rlx_port_steps(board, 5, 70000, 1000), 65535 - 11); /* now one is due, not four */
    CHECK_INT(rlx_port_steps_left(board, 5), 65534);
    CHECK_INT(rlx_port_steps(board, 5, -65536, 0), -65534);
    board->now_us += 60000;
    CHECK_INT(rlx_port_steps_left(board, 5), 0);
    wanted = g_strdup_printf("%u:5=0 %u:5=100 %u:5=200 %u:5=1000 %u:5=0 ", SIM_STEPS, SIM_STEPS,
                             SIM_STEPS, SIM_STEPS, SIM_STEPS);
    CHECK(g_str_has_suffix(sink.text->str, wanted));
    g_free(wanted);
    rlx_port_pin_watch(board, 12, RLX_PULL_UP);
    CHECK(rlx_port_pin_read(board, 12));
    sim_board_in(board, (struct sim_event){SIM_PIN_IN, 12, 0, 0});
    CHECK(!rlx_port_pin_read(board, 12));
    rlx_port_pin_watch(board, 12, RLX_PULL_DOWN);
    CHECK(!rlx_port_pin_read(board, 12));
    rlx_port_kick(board, 0); /* nothing to send: nothing is told */
    CHECK(!board->sending[0]);
    CHECK_INT(board->cause, RLX_RESET_BROWNOUT);
    g_string_free(sink.text, TRUE);
    g_free(board);
}

static void non_volatile_memory(void)
{
    struct sink sink;
    struct sim_board *board = board_new(&sink);
    uint8_t bytes[4] = {0x0F, 0xF0, 0x55, 0x00};
    const uint16_t end = sizeof((struct sim_board *)0)->nv;
    CHECK(rlx_port_nv_read(board, end - 4, bytes, 4));
    for (unsigned i = 0; i < 4; i++) CHECK_INT(bytes[i], 0xFF); /* erased */
    memcpy(bytes, "\x0F\xF0\x55", 4);
    CHECK(rlx_port_nv_write(board, 254, bytes, 4));                   /* over the edge of a page */
    CHECK(rlx_port_nv_write(board, 254, (const uint8_t *)"\xF3", 1)); /* clears bits only */
    CHECK(rlx_port_nv_read(board, 254, bytes, 4));
    CHECK(!memcmp(bytes, "\x03\xF0\x55", 4));
    CHECK(rlx_port_nv_erase(board, 10)); /* the first page */
    CHECK(rlx_port_nv_read(board, 254, bytes, 4));
    CHECK(!memcmp(bytes, "\xFF\xFF\x55", 4));
    CHECK(!rlx_port_nv_read(board, end - 2, bytes, 4));
    CHECK(!rlx_port_nv_write(board, end, bytes, 1));
    CHECK(!rlx_port_nv_erase(board, end));
    CHECK_INT(rlx_port_nv_state(board), RLX_NV_READY);
    g_string_free(sink.text, TRUE);
    g_free(board);
}

static void random_numbers(void)
{
    struct sink sink;
    struct sim_board *board = board_new(&sink);
    uint32_t first = rlx_port_random(board), second = rlx_port_random(board);
    CHECK(first != second);
    sim_board_init(board, on_event, &sink, 0, RLX_RESET_POWER);
    CHECK_INT(rlx_port_random(board), first); /* the same run again */
    g_string_free(sink.text, TRUE);
    g_free(board);
}

static const struct test_case cases[] = {
    {"P9: events in order", events_in_order}, {"bytes take their time", bytes_take_their_time},
    {"pins and channels", pins_and_channels}, {"non-volatile memory", non_volatile_memory},
    {"random numbers", random_numbers},
};
TEST_MAIN(cases)
