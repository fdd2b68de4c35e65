/* P1, P2, P8, P9: a device and its controller on the air. With loss, duplication and reordering
 * nothing tagged is obeyed twice, what was answered ok was obeyed once, and what is never confirmed
 * is as much as chance says; without a check damaged frames are obeyed as often as worked out, with
 * it none of 1, 2 or 3 flipped bits. */
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "world/media/aerial.h"
#include "world/run/draw.h"
#include "harness.h"
#include "lines.h"
#include "rig.h"

static const char lexicon_text[] = "lexicon air 1\nbuilt-in halt state\n"
                                   "output pump relay pin 4 safe off\n"
                                   "output glow led pwm 1 at 1kHz\n"
                                   "command pump {on|off|toggle} => pump\n"
                                   "command glow {level 0..100%%} => glow\n"
                                   "command mark {n 0..200000} => mark()\n"
                                   "event jam\n"
                                   "link skiff radio payload 48  address 3  senders 2  "
                                   "check %s  tags required window %ums\n";

struct air_bench {
    struct lexicon *lx;
    struct image *image;
    struct world *world;
    struct radio *radio;
    struct device *device;
    struct aerial *aerial;
    struct controller *controller;
    unsigned n, said, answered, unknown, told;
    uint8_t *runs; /* how often each was obeyed */
    bool *ok, *lost;
    GString *trace;
};

static void on_out(void *user, struct sim_event event)
{
    struct air_bench *b = user;
    aerial_out(b->aerial, event);
}

static void on_call(void *user, unsigned handler, const rlx_value *values)
{
    struct air_bench *b = user;
    (void)handler;
    if ((unsigned)values[0] < b->n) b->runs[values[0]]++;
}

static void say_next(struct air_bench *b)
{
    char text[32];
    if (b->said == b->n) return;
    snprintf(text, sizeof text, "mark %u", b->said++);
    CHECK(controller_say(b->controller, text) >= 0);
}

/* When what is late has come, too: it would meet the next one in the air. */
static void on_next(void *data, uint32_t unused)
{
    (void)unused;
    say_next(data);
}

/* One is under way at a time: the one that was said last. */
static void on_told(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                    unsigned count)
{
    struct air_bench *b = user;
    unsigned n = b->said - 1;
    if (b->trace)
        g_string_append_printf(b->trace, "%" G_GUINT64_FORMAT " %u %u %.*s\n", b->world->now_us,
                               what, tag, (int)count, text);
    if (what == RLX_CLIENT_EVENT) {
        b->told++;
        return;
    }
    CHECK_INT(tag & (RLX_TAG_OPENS - 1), n & (RLX_TAG_OPENS - 1));
    if (what == RLX_CLIENT_ANSWERED) {
        char wanted[32];
        snprintf(wanted, sizeof wanted, "ok mark %u", n);
        b->ok[n] = strlen(wanted) == count && !strncmp(text, wanted, count);
        CHECK(b->ok[n]);
        b->answered++;
    } else {
        b->lost[n] = true;
        b->unknown++;
    }
    world_at(b->world, b->world->now_us + 150000, on_next, b, 0);
}

static struct air_bench *bench_with(unsigned n, struct air air, uint32_t seed, struct manner manner,
                                    controller_told told, void *user)
{
    struct air_bench *b = g_new0(struct air_bench, 1);
    char *text = g_strdup_printf(lexicon_text, manner.check ? "required" : "off", manner.window_ms);
    b->lx = lexicon_read_text("air.lexicon", text, strlen(text));
    b->image = image_build(b->lx);
    b->n = n;
    b->runs = g_new0(uint8_t, n + 1);
    b->ok = g_new0(bool, n + 1);
    b->lost = g_new0(bool, n + 1);
    b->world = world_new();
    b->radio = radio_new(b->world, seed, air);
    b->device = device_of_image(b->world, b->lx, b->image, 0, NULL);
    b->aerial = aerial_new(b->radio, b->device, 0);
    device_on_call(b->device, on_call, b);
    device_start(b->device, on_out, b);
    b->controller = controller_new(b->world, b->radio, manner, told, user ? user : b);
    return b;
}

static struct air_bench *bench_new(unsigned n, struct air air, uint32_t seed, struct manner manner)
{
    return bench_with(n, air, seed, manner, on_told, NULL);
}

static void bench_free(struct air_bench *b)
{
    controller_free(b->controller);
    g_free(b->aerial);
    device_free(b->device);
    radio_free(b->radio);
    world_free(b->world);
    image_free(b->image);
    lexicon_free(b->lx);
    if (b->trace) g_string_free(b->trace, TRUE);
    g_free(b->runs);
    g_free(b->ok);
    g_free(b->lost);
    g_free(b);
}

static void run_all(struct air_bench *b)
{
    say_next(b);
    while (world_step(b->world, UINT64_MAX / 2)) {}
}

static void client_nobody(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                          uint8_t count)
{
    (void)user, (void)what, (void)tag, (void)text, (void)count;
}

static const struct manner plain = {
    .to = 3, .from = 1, .check = true, .tries = 4, .pause_ms = 200, .window_ms = 10000};
static const struct air clear = {.payload = 48, .bits_a_second = 50000, .before_us = 1000};

static struct air bad_air(void)
{
    struct air air = clear;
    air.loss = BILLION / 5;
    air.twice = BILLION / 10;
    air.late = BILLION / 5;
    air.late_us = 60000; /* behind the frames of the next try */
    return air;
}

/* 99.9 % of all runs are within this of what is expected. */
static void check_share(unsigned got, double n, double chance)
{
    double around = 3.2905 * sqrt(n * chance * (1 - chance));
    test_context("%u of %.0f, expected %.1f +- %.1f", got, n, n * chance, around);
    CHECK(fabs(got - n * chance) <= around);
}

static void a_hundred_thousand(void)
{
    enum { N = 100000 };
    struct air_bench *b = bench_new(N, bad_air(), 41, plain);
    run_all(b);
    unsigned twice = 0, ok_not_once = 0, silent = 0;
    for (unsigned i = 0; i < N; i++) {
        twice += b->runs[i] > 1;
        ok_not_once += b->ok[i] && b->runs[i] != 1;
        silent += !b->ok[i] && !b->lost[i];
    }
    CHECK_INT(twice, 0);
    CHECK_INT(ok_not_once, 0);
    CHECK_INT(silent, 0); /* of each it is told what is known */
    CHECK_INT(b->answered + b->unknown, N);
    /* a try fails where the command is lost, or each answer to each of its copies */
    double loss = 0.2, twice_share = 0.1;
    double answer = loss; /* a copy's answer does not come */
    double fails = loss + (1 - loss) * ((1 - twice_share) * answer + twice_share * answer * answer);
    check_share(b->unknown, N, pow(fails, 4));
    const struct radio_counts *counts = radio_counts(b->radio);
    CHECK(counts->late > 10000 && counts->twice > 10000 && !counts->collided);
    printf("%u commands: %u answered, %u unknown; %u packets, %u lost, %u twice, %u late\n", N,
           b->answered, b->unknown, counts->sent, counts->lost, counts->twice, counts->late);
    bench_free(b);
}

static void same_seed_same_trace(void)
{
    char *traces[3];
    for (unsigned i = 0; i < 3; i++) {
        struct air_bench *b = bench_new(300, bad_air(), i == 2 ? 8 : 7, plain);
        b->trace = g_string_new(NULL);
        run_all(b);
        traces[i] = g_strdup(b->trace->str);
        bench_free(b);
    }
    CHECK_TEXT(traces[0], traces[1]);
    CHECK(strcmp(traces[0], traces[2]) != 0);
    for (unsigned i = 0; i < 3; i++) g_free(traces[i]);
}

/* ---- every setting, every loss, restarts ---- */

/* A handset that says the same text twice before it goes on to the next one, and is started anew at
 * any moment; and what is known of each text. */
struct restless {
    struct air_bench *b;
    struct manner manner;
    unsigned said, answered, others, restarts;
    uint8_t *ok, *tries; /* of each text: answered ok, said */
    uint64_t *last_us;   /* when it was said last */
    bool waits;
};

static void restless_say(struct restless *r)
{
    char text[32];
    unsigned n = r->said / 2;
    if (r->said == 2 * r->b->n) return;
    snprintf(text, sizeof text, "mark %u", n);
    r->said++;
    r->tries[n]++;
    r->last_us[n] = r->b->world->now_us;
    r->waits = true;
    CHECK_INT(controller_say(r->b->controller, text), 0);
}

static void on_restless_next(void *data, uint32_t unused)
{
    struct restless *r = data;
    (void)unused;
    if (!r->waits) restless_say(r);
}

static void on_restless(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                        unsigned count)
{
    struct restless *r = user;
    char wanted[32];
    unsigned n = (r->said - 1) / 2;
    (void)tag;
    r->waits = false;
    if (what == RLX_CLIENT_ANSWERED) {
        snprintf(wanted, sizeof wanted, "ok mark %u", n);
        bool its = strlen(wanted) == count && !strncmp(text, wanted, count);
        r->answered += its;
        r->others += !its;
        r->ok[n] += its;
    }
    world_at(r->b->world, r->b->world->now_us + 1000 + 1000 * (uint64_t)lines_chance(400),
             on_restless_next, r, 0);
}

/* What was under way is nobody's any more. */
static void on_restart(void *data, uint32_t unused)
{
    struct restless *r = data;
    struct air_bench *b = r->b;
    (void)unused;
    if (r->said == 2 * b->n) return;
    r->restarts++;
    r->manner.start = (uint16_t)lines_chance(65536);
    controller_restart(b->controller, r->manner);
    r->waits = false;
    restless_say(r);
    world_at(b->world, b->world->now_us + 1000000 + 1000 * (uint64_t)lines_chance(30000),
             on_restart, r, 0);
}

/* A setting that the retry client accepts. */
static struct manner any_manner(void)
{
    struct manner m = {.to = 3, .from = 1, .check = true};
    struct rlx_client_command queued;
    do {
        m.tries = (uint8_t)(1 + lines_chance(20));
        m.pause_ms = (uint16_t)(1 + lines_chance(lines_chance(2) ? 10000 : 300));
        m.window_ms = lines_chance(2) ? 10000 : 500 + lines_chance(60000);
    } while (rlx_client_init(&(struct rlx_client){.to = m.to,
                                                  .from = m.from,
                                                  .tries = m.tries,
                                                  .pause_ms = m.pause_ms,
                                                  .window_ms = m.window_ms,
                                                  .queue = &queued,
                                                  .queue_size = 1,
                                                  .report = client_nobody},
                             0) != 0);
    m.start = (uint16_t)lines_chance(65536);
    return m;
}

/* None is obeyed twice, none is answered ok and not obeyed, no answer is taken for another's. */
static void every_setting(void)
{
    enum { TEXTS = 250 };
    unsigned said = 0, answered = 0, restarts = 0, twice = 0, swallowed = 0, others = 0;
    lines_seed = 4711;
    for (unsigned round = 0; round < 200 * test_rounds() && test_failures() < 5; round++) {
        struct air air = clear;
        struct restless r = {.manner = any_manner()};
        air.loss = BILLION / 100u * lines_chance(95);
        air.twice = BILLION / 100u * lines_chance(50);
        air.late = BILLION / 100u * lines_chance(50);
        air.late_us = 1000 * (r.manner.window_ms / 2 - 200);
        struct air_bench *b = r.b = bench_with(TEXTS, air, round + 1, r.manner, on_restless, &r);
        r.ok = g_new0(uint8_t, TEXTS), r.tries = g_new0(uint8_t, TEXTS);
        r.last_us = g_new0(uint64_t, TEXTS);
        restless_say(&r);
        world_at(b->world, 500000, on_restart, &r, 0);
        while (world_step(b->world, UINT64_MAX / 2)) {}
        for (unsigned i = 0; i < TEXTS; i++) {
            twice += b->runs[i] > r.tries[i];
            swallowed += r.ok[i] > b->runs[i];
        }
        test_context(
            "round %u: tries %u pause %u ms window %u ms, loss %u %%: %u twice, %u swallowed, "
            "%u others' answers",
            round, r.manner.tries, r.manner.pause_ms, r.manner.window_ms,
            air.loss / (BILLION / 100), twice, swallowed, r.others);
        CHECK(!twice && !swallowed && !r.others);
        said += r.said, answered += r.answered, restarts += r.restarts, others += r.others;
        g_free(r.ok), g_free(r.tries), g_free(r.last_us);
        bench_free(b);
    }
    printf("%u commands, %u answered, %u restarts of the handset\n", said, answered, restarts);
    CHECK(answered > said / 4 && restarts > 1000);
}

/* ---- bit errors ---- */

/* A device that hears packets and nothing else. */
static struct rig *listener(bool check)
{
    char *text = g_strdup_printf(lexicon_text, check ? "required" : "off", 10000u);
    char *tags = strstr(text, "tags required window 10000ms");
    if (!check) memset(tags, ' ', strlen("tags required window 10000ms"));
    struct rig *rig = rig_of_text(text);
    rig_start(rig, 0);
    rig_run(rig);
    rig_forget(rig);
    g_free(text);
    return rig;
}

/* What the device answers to this packet; "" where it is silent. */
static const char *answer_to(struct rig *rig, const uint8_t *packet, unsigned count)
{
    rig_forget(rig);
    rlx_link_feed_packet(&rig->link[0], packet, (uint8_t)count);
    rig_run(rig);
    return rig->sent[0]->str;
}

/* Whether something else was obeyed than was said. */
static bool obeyed_wrongly(const char *answer, const char *said)
{
    const char *ok = strstr(answer, " ok ");
    size_t n = strlen(said);
    if (!ok) return false;
    return strncmp(ok + 4, said, n) != 0 || (ok[4 + n] && strncmp(ok + 4 + n, " already", 8) != 0);
}

static void flip(uint8_t *packet, unsigned bit)
{
    packet[bit / 8] ^= (uint8_t)(1u << bit % 8);
}

/* The chance that a frame is obeyed wrongly, from each of its flips of one bit and of two. */
static double chance_of_wrong(struct rig *rig, const char *frame, const char *said, double p)
{
    unsigned count = (unsigned)strlen(frame), n = count * 8, one = 0, two = 0;
    uint8_t packet[64];
    memcpy(packet, frame, count);
    for (unsigned a = 0; a < n; a++) {
        flip(packet, a);
        one += obeyed_wrongly(answer_to(rig, packet, count), said);
        for (unsigned b = a + 1; b < n; b++) {
            flip(packet, b);
            two += obeyed_wrongly(answer_to(rig, packet, count), said);
            flip(packet, b);
        }
        flip(packet, a);
    }
    return one * p * pow(1 - p, n - 1) + two * p * p * pow(1 - p, n - 2);
}

static const char *const untagged[] = {"glow 40", "glow 7", "pump on", "mark 123"};

struct listening {
    struct rig *rig;
    const char *said;
    unsigned wrong;
};

static void on_heard(void *user, const uint8_t *bytes, unsigned count)
{
    struct listening *l = user;
    l->wrong += obeyed_wrongly(answer_to(l->rig, bytes, count), l->said);
}

static void nobody(void *user, const uint8_t *bytes, unsigned count)
{
    (void)user, (void)bytes, (void)count;
}

/* P1 is about what is lost: without a check a flipped digit is another command. */
static void without_a_check(void)
{
    enum { FRAMES = 15000 };
    double p = 1e-3, expected = 0, most = 0;
    struct listening l = {listener(false), NULL, 0};
    struct world *world = world_new();
    struct air air = clear;
    air.bit_errors = BILLION / 1000;
    struct radio *radio = radio_new(world, 5, air);
    radio_join(radio, on_heard, &l);
    unsigned sender = radio_join(radio, nobody, NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(untagged); i++) {
        char frame[64];
        snprintf(frame, sizeof frame, "@3/1 %s", untagged[i]);
        double chance = chance_of_wrong(l.rig, frame, untagged[i], p);
        expected += FRAMES * chance;
        most += FRAMES * chance * (1 - chance);
        l.said = untagged[i];
        for (unsigned k = 0; k < FRAMES; k++) {
            uint64_t over = world->now_us + 20000;
            radio_send(radio, sender, (const uint8_t *)frame, (unsigned)strlen(frame));
            while (world_step(world, over)) {}
        }
    }
    double around = 3.2905 * sqrt(most);
    printf("without a check: %u of %u frames obeyed wrongly, expected %.1f +- %.1f\n", l.wrong,
           FRAMES * (unsigned)G_N_ELEMENTS(untagged), expected, around);
    test_context("%u, expected %.1f +- %.1f", l.wrong, expected, around);
    CHECK(expected > 200 && fabs(l.wrong - expected) <= around);
    radio_free(radio);
    world_free(world);
    rig_free(l.rig);
}

/* CRC-16 of V.41 keeps a distance of 4 over frames as short as these. */
static void with_a_check(void)
{
    struct rig *rig = listener(true);
    const char *answer = answer_to(rig, (const uint8_t *)"@3/1 #7 glow 7*NOPE", 19);
    CHECK_TEXT(answer, ""); /* damaged on a shared medium: only counted */
    uint8_t packet[32] = "@3/1 #7 glow 7*";
    uint16_t crc = 0xFFFF;
    unsigned count = (unsigned)strlen((char *)packet) + 4;
    for (unsigned i = 0; i < count - 5; i++)
        for (int bit = 7; bit >= 0; bit--)
            crc = (uint16_t)(((crc >> 15 ^ packet[i] >> bit) & 1) ? (unsigned)crc << 1 ^ 0x1021u
                                                                  : (unsigned)crc << 1);
    for (unsigned i = 0; i < 4; i++)
        packet[count - 4 + i] = (uint8_t)('@' + (crc >> (12 - 4 * i) & 15));
    unsigned others = 0, tried = 0, n = count * 8;
    rig->link[0].others = 0;
    for (unsigned a = 0; a < n; a++) {
        flip(packet, a);
        for (unsigned b = a; b < n; b++) {
            if (b > a) flip(packet, b);
            for (unsigned c = b; c < n; c++) {
                if (b == a && c > b) break; /* those of two are there already */
                if (c > b) flip(packet, c);
                rlx_link_feed_packet(&rig->link[0], packet, (uint8_t)count);
                rlx_poll(&rig->device, 5);
                tried++;
                if (c > b) flip(packet, c);
            }
            if (b > a) flip(packet, b);
        }
        flip(packet, a);
        others += rig->link[0].others; /* before it is full */
        rig->link[0].others = 0;
    }
    rig_run(rig);
    test_context("%u damaged frames, %s", tried, rig->pins->str);
    CHECK_INT(rig->board.duty[1], 0);
    CHECK_INT(others + rig->link[0].others, tried);
    CHECK(tried > 500000);
    rlx_link_feed_packet(&rig->link[0], packet, (uint8_t)count);
    rig_run(rig);
    CHECK_INT(rig->board.duty[1], 4587); /* the frame itself is obeyed */
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P8: 100,000 tagged commands through bad air", a_hundred_thousand},
    {"P8: every setting, every loss, restarts", every_setting},
    {"P9: same seed, same trace", same_seed_same_trace},
    {"P1: bit errors without a check", without_a_check},
    {"P1: 1, 2 and 3 flipped bits with a check", with_a_check},
};
TEST_MAIN(cases)
