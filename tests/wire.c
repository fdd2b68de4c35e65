/* P9: a serial cable with faults: a receiver that samples, with another baud rate, noise, lost and
 * doubled bytes. */
#include <string.h>

#include "world/run/draw.h"
#include "harness.h"
#include "world/media/sampler.h"

struct end {
    GByteArray *got;
    unsigned faults;
};

static void on_got(void *user, uint8_t byte, bool fault)
{
    struct end *end = user;
    end->faults += fault;
    if (!fault) g_byte_array_append(end->got, &byte, 1);
}

/* Sends all bytes back to back, `gap` bits apart; what the receiver makes of them. */
static struct end send_as(const uint8_t *bytes, unsigned count, const struct manner_of_uart *from,
                          const struct manner_of_uart *to, struct faults faults, unsigned gap,
                          uint32_t seed)
{
    struct end end = {g_byte_array_new(), 0};
    struct world *world = world_new();
    struct sampler *sampler = sampler_new(world, on_got, &end);
    struct draw draw = draw_from(seed);
    uint64_t at = 1000;
    for (unsigned i = 0; i < count; i++) {
        while (world_step(world, at)) {}
        sampler_send(sampler, bytes[i], from, to, &faults, &draw);
        at += (lex_format_bits(&from->format) + gap) * UINT64_C(1000000) / from->baud;
    }
    while (world_step(world, at + 1000000)) {}
    sampler_free(sampler);
    world_free(world);
    return end;
}

static struct end send_all(const uint8_t *bytes, unsigned count, unsigned baud, unsigned receiver,
                           struct faults faults, unsigned gap, uint32_t seed)
{
    const struct manner_of_uart from = {baud, {8, 1, LEX_PARITY_NONE, false}},
                                to = {receiver, {8, 1, LEX_PARITY_NONE, false}};
    return send_as(bytes, count, &from, &to, faults, gap, seed);
}

static void fill(uint8_t *bytes, unsigned count)
{
    for (unsigned i = 0; i < count; i++) bytes[i] = (uint8_t)(i * 7 + i / 256);
}

static bool all_right(unsigned baud, unsigned receiver, unsigned gap)
{
    uint8_t bytes[1024];
    fill(bytes, sizeof bytes);
    struct end end = send_all(bytes, sizeof bytes, baud, receiver, (struct faults){0}, gap, 1);
    bool right =
        !end.faults && end.got->len == sizeof bytes && !memcmp(end.got->data, bytes, sizeof bytes);
    g_byte_array_free(end.got, TRUE);
    return right;
}

/* The sample in the middle of the stop bit is 9.5 bits behind the edge: half a bit of that is 5 %.
 */
static void baud_rates(void)
{
    static const unsigned bauds[] = {300, 1200, 9600, 57600, 115200};
    for (unsigned i = 0; i < G_N_ELEMENTS(bauds); i++) {
        unsigned baud = bauds[i];
        test_context("%u baud", baud);
        CHECK(all_right(baud, baud, 0));
        CHECK(all_right(baud, baud, 7));
        CHECK(all_right(baud, baud * 97 / 100, 1)); /* a slower receiver needs the line to rest */
        CHECK(all_right(baud, baud * 103 / 100, 0));
        CHECK(!all_right(baud, baud * 90 / 100, 0));
        CHECK(!all_right(baud, baud * 110 / 100, 0));
        CHECK(!all_right(baud, baud * 2, 0));
        CHECK(!all_right(baud, baud / 2, 0));
    }
}

/* As worked out by hand. */
static void half_the_rate(void)
{
    uint8_t byte =
        0x00; /* 9 low bits of the sender are 4.5 of the receiver's: start, 0, 0, 0, then 1s */
    struct end end = send_all(&byte, 1, 19200, 9600, (struct faults){0}, 40, 1);
    CHECK_INT(end.got->len, 1);
    CHECK_INT(end.got->data[0], 0xF8);
    g_byte_array_free(end.got, TRUE);
    end = send_all(&byte, 1, 4800, 9600, (struct faults){0}, 40, 1);
    CHECK_INT(end.faults, 1); /* low for 18 bits: no stop bit */
    CHECK_INT(end.got->len, 0);
    g_byte_array_free(end.got, TRUE);
}

/* Each byte of 7 bits in each format, to a receiver of each: the same format gives the same bytes;
 * what another one gives is worked out bit by bit. */
static void formats(void)
{
    static const struct lex_format all[] = {
        {8, 1, LEX_PARITY_NONE, false}, {8, 2, LEX_PARITY_NONE, false},
        {7, 1, LEX_PARITY_EVEN, false}, {7, 1, LEX_PARITY_ODD, false},
        {8, 1, LEX_PARITY_EVEN, false}, {7, 2, LEX_PARITY_ODD, false},
        {8, 2, LEX_PARITY_EVEN, true}};
    static uint8_t bytes[128];
    for (unsigned i = 0; i < sizeof bytes; i++) bytes[i] = (uint8_t)i;
    for (unsigned f = 0; f < G_N_ELEMENTS(all); f++) {
        const struct manner_of_uart is = {9600, all[f]};
        char text[LEX_FORMAT_TEXT];
        lex_format_text(&all[f], text);
        test_context("%s", text);
        struct end end = send_as(bytes, sizeof bytes, &is, &is, (struct faults){0}, 0, 1);
        CHECK_INT(end.faults, 0);
        CHECK(end.got->len == sizeof bytes && !memcmp(end.got->data, bytes, sizeof bytes));
        g_byte_array_free(end.got, TRUE);
    }
    const struct manner_of_uart n81 = {9600, all[0]}, e71 = {9600, all[2]}, o71 = {9600, all[3]};
    struct end end = send_as(bytes, sizeof bytes, &e71, &n81, (struct faults){0}, 0, 1);
    for (unsigned i = 0; i < end.got->len; i++) { /* the parity bit is the eighth data bit */
        unsigned odd = (i ^ i >> 1 ^ i >> 2 ^ i >> 3 ^ i >> 4 ^ i >> 5 ^ i >> 6) & 1;
        CHECK_INT(end.got->data[i], i | odd << 7);
    }
    CHECK_INT(end.got->len, sizeof bytes);
    g_byte_array_free(end.got, TRUE);
    end = send_as(bytes, sizeof bytes, &e71, &o71, (struct faults){0}, 0, 1);
    CHECK_INT(end.faults, sizeof bytes); /* each has the other parity */
    g_byte_array_free(end.got, TRUE);
    end = send_as(bytes, sizeof bytes, &e71, &e71, (struct faults){.noise = BILLION / 50}, 20, 3);
    CHECK(end.faults > 8 && end.faults < 40); /* 1 - 0.98^9 = 16.6 % of 128: 21 */
    g_byte_array_free(end.got, TRUE);
    /* one side inverts: of eight bits of 1 the receiver sees the first as a start, and no stop */
    const struct manner_of_uart inverted = {9600, {8, 1, LEX_PARITY_NONE, true}};
    memset(bytes, 0xFF, 8);
    end = send_as(bytes, 8, &n81, &inverted, (struct faults){0}, 20, 1);
    CHECK_INT(end.faults, 8);
    g_byte_array_free(end.got, TRUE);
}

static void noise_and_losses(void)
{
    enum { N = 20000 };
    static uint8_t bytes[N];
    fill(bytes, N);
    for (unsigned i = 0; i < N; i++) bytes[i] = 0x00; /* no edge but the start's */
    struct end end = send_all(bytes, N, 9600, 9600, (struct faults){.noise = BILLION / 100}, 20, 4);
    unsigned right = 0;
    for (unsigned i = 0; i < end.got->len; i++) right += end.got->data[i] == 0;
    test_context("%u right, %u faults", right, end.faults);
    /* start, 8 data and stop all right: 0.99^10 = 0.9044 */
    CHECK(right > 0.895 * N && right < 0.914 * N);
    CHECK(end.faults > 0.007 * N && end.faults < 0.013 * N);
    g_byte_array_free(end.got, TRUE);
    fill(bytes, N);
    end = send_all(bytes, N, 9600, 9600,
                   (struct faults){.lost = BILLION / 10, .twice = BILLION / 20}, 0, 5);
    CHECK(end.got->len > (0.9 * 1.05 - 0.02) * N && end.got->len < (0.9 * 1.05 + 0.02) * N);
    struct end again = send_all(bytes, N, 9600, 9600,
                                (struct faults){.lost = BILLION / 10, .twice = BILLION / 20}, 0, 5);
    CHECK(again.got->len == end.got->len && !memcmp(again.got->data, end.got->data, end.got->len));
    g_byte_array_free(end.got, TRUE);
    g_byte_array_free(again.got, TRUE);
    end = send_all(bytes, 500, 9600, 19200,
                   (struct faults){.noise = BILLION, .lost = BILLION / 2, .twice = BILLION}, 0, 6);
    g_byte_array_free(end.got, TRUE); /* all of it at once ends, too */
}

static const struct test_case cases[] = {
    {"baud rates", baud_rates},
    {"formats", formats},
    {"half and double the rate", half_the_rate},
    {"noise and losses", noise_and_losses},
};
TEST_MAIN(cases)
