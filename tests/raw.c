/* Links without the library: every preemption of their reader by the interrupt. What is read are
 * the bytes that were sent, whole and in order, with 0xFF wherever some are missing. Compiled a
 * second time on a copy that reads the loss after the head (MUTANT): then a fault is found. */
#include <string.h>

#include "harness.h"

static void preempt(void);
#define RLX_PREEMPT() preempt()
#define RAW_RING      4u
#define RAW_LINKS     2
#include RAW_SOURCE

#define SENT_MAX   7
#define PLACES_MAX 64

static unsigned plan[PLACES_MAX]; /* bytes that the interrupt brings at each place */
static unsigned places, n_sent, wrong;

static void preempt(void)
{
    unsigned place = places++;
    for (unsigned i = 0; place < PLACES_MAX && i < plan[place] && n_sent < SENT_MAX; i++)
        rlx_link_feed(raw_links, (uint8_t)++n_sent);
}

static void start(void)
{
    memset(raws, 0, sizeof raws);
    places = n_sent = 0;
}

/* Reads until nothing comes any more, at most `room` bytes at a time. */
static void read_all(uint8_t room, unsigned polls)
{
    uint8_t bytes[8], last = 0, n;
    bool cut = false;
    unsigned got = 0;
    start();
    for (unsigned i = 0; i < polls + 20; i++) {
        preempt();
        n = raw_read(0, bytes, room);
        for (uint8_t k = 0; k < n; k++) {
            if (bytes[k] == 0xFF) {
                cut = true;
                continue;
            }
            if (bytes[k] <= last || (bytes[k] != last + 1 && !cut)) wrong++; /* spliced */
            cut = false;
            last = bytes[k];
            got++;
        }
    }
    if (got + raw_lost(0) != n_sent) wrong++;
    if (last != n_sent && !cut) wrong++; /* lost at the end, and nothing says so */
    if (!raw_idle()) wrong++;
}

static unsigned spread(uint8_t room, unsigned place, unsigned last_place, unsigned left)
{
    unsigned runs = 0;
    if (place == last_place) {
        plan[place] = left;
        read_all(room, last_place);
        return 1;
    }
    for (unsigned n = 0; n <= left; n++) {
        plan[place] = n;
        runs += spread(room, place + 1, last_place, left - n);
    }
    return runs;
}

static void every_preemption(void)
{
    unsigned runs = 0;
    for (uint8_t room = 1; room <= 8; room++)
        for (unsigned last = 0; last <= 10; last++) {
            memset(plan, 0, sizeof plan);
            runs += spread(room, 0, last, SENT_MAX);
        }
    test_context("%u runs", runs);
    CHECK(runs > 100000);
#ifdef MUTANT
    CHECK(wrong > 0);
#else
    CHECK_INT(wrong, 0);
#endif
}

/* Packets stay whole, one a call; one without room is dropped and counted, on either side. */
static void packets(void)
{
    uint8_t bytes[8];
    memset(plan, 0, sizeof plan);
    start();
    CHECK(rlx_link_feed_packet(&raw_links[1], (const uint8_t *)"ab", 2));
    CHECK(
        !rlx_link_feed_packet(&raw_links[1], (const uint8_t *)"cd", 2)); /* five bytes, four fit */
    CHECK(!rlx_link_feed_packet(&raw_links[1], (const uint8_t *)"", 0));
    CHECK(!raw_idle());
    CHECK_INT(raw_read(1, bytes, 8), 2);
    CHECK(!memcmp(bytes, "ab", 2));
    CHECK_INT(raw_read(1, bytes, 8), 0);
    CHECK(raw_idle());
    CHECK_INT(raw_lost(1), 2);
    CHECK(rlx_link_feed_report(&raw_links[1], (const uint8_t *)"xyz", 3));
    CHECK_INT(raw_read(1, bytes, 2), 0); /* too long for the reader: dropped as a whole */
    CHECK(raw_idle());
    for (unsigned i = 0; i < 600; i++) { /* the indices wrap */
        uint8_t byte = (uint8_t)i;
        CHECK(rlx_link_feed_packet(&raw_links[1], &byte, 1));
        CHECK_INT(raw_read(1, bytes, 8), 1);
        CHECK_INT(bytes[0], byte);
    }
}

/* What is written is taken in order; all of it is queued, or nothing. */
static void writing(void)
{
    uint8_t byte, next = 0;
    memset(plan, 0, sizeof plan);
    start();
    CHECK(!rlx_link_take(raw_links, &byte));
    for (uint8_t i = 0; i < 200; i = (uint8_t)(i + 3)) {
        const uint8_t three[] = {i, (uint8_t)(i + 1), (uint8_t)(i + 2)};
        CHECK(raw_write(0, three, 3));
        CHECK(!raw_write(0, three, 2)); /* one place is left */
        for (; rlx_link_take(raw_links, &byte); next++) CHECK_INT(byte, next);
    }
    CHECK_INT(next, 201);
}

/* A fault of the UART: what comes next is behind a mark. */
static void faults(void)
{
    uint8_t bytes[8];
    memset(plan, 0, sizeof plan);
    start();
    rlx_link_feed(raw_links, 'a');
    rlx_link_fault(raw_links);
    rlx_link_feed(raw_links, 'b'); /* of the damaged frame: dropped */
    CHECK_INT(raw_read(0, bytes, 8), 2);
    CHECK(bytes[0] == 'a' && bytes[1] == 0xFF);
    rlx_link_feed(raw_links, 'c');
    CHECK_INT(raw_read(0, bytes, 8), 1);
    CHECK_INT(bytes[0], 'c');
    CHECK_INT(raw_lost(0), 2);
    for (unsigned i = 0; i < 70000; i++) rlx_link_fault(raw_links);
    CHECK_INT(raw_lost(0), 65535);
    CHECK_INT(raw_read(0, bytes, 8), 1); /* the mark */
    rlx_link_feed(raw_links, 'd');
    rlx_link_fault(raw_links); /* it is counted no more, and marked all the same */
    CHECK_INT(raw_read(0, bytes, 8), 2);
    CHECK(bytes[0] == 'd' && bytes[1] == 0xFF);
}

static const struct test_case cases[] = {{"every preemption of the reader", every_preemption},
                                         {"packets stay whole", packets},
                                         {"writing is all or nothing", writing},
                                         {"faults cut the stream", faults}};
TEST_MAIN(cases)
