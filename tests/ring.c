/* Every preemption of the main side of the rings: short byte sequences, the interrupt let in at
 * each place between two accesses. What arrives must be runs of what was sent, whole and in order,
 * a cut wherever a byte is missing, and each missing byte counted.
 *
 * Compiled a second time on a copy of ring.c that reads the loss mark after the head (MUTANT):
 * the enumeration must then find a fault. */
#include <stdint.h>
#include <string.h>

#include "harness.h"

static void preempt(void);
#define RLX_PREEMPT() preempt()
#include RING_SOURCE

#define SENT_MAX   7
#define PLACES_MAX 64

static struct rlx_link link;
static uint8_t buffer[RLX_LINK_BUFFER(8, 8, 8)];
static unsigned plan[PLACES_MAX]; /* bytes the interrupt brings at each place */
static unsigned places, n_sent, wrong;
static unsigned gap_after; /* a silence is marked behind this byte; SENT_MAX + 1: behind none */

/* The interrupt: as many bytes as planned for this place; each is its own number, from 1. */
static void preempt(void)
{
    unsigned place = places++;
    for (unsigned i = 0; place < PLACES_MAX && i < plan[place] && n_sent < SENT_MAX; i++) {
        rlx_link_feed(&link, (uint8_t)++n_sent);
        if (n_sent == gap_after) rlx_link_gap(&link);
    }
}

/* As rlx_init() leaves a link. */
static void start(uint8_t receive, uint8_t transmit)
{
    link = (struct rlx_link){.buffer = buffer,
                             .rx_mask = (uint8_t)(receive - 1),
                             .rx_limit = receive,
                             .tx_mask = (uint8_t)(transmit - 1)};
}

/* One run of the main side: takes what is there, `polls` times. Checks what it gets. */
static void main_side(unsigned ring, unsigned polls)
{
    uint8_t last = 0, byte;
    bool cut = false;
    unsigned got = 0, gaps = 0;
    start((uint8_t)ring, 2);
    places = n_sent = 0;
    for (unsigned i = 0; i < polls + 20; i++) {
        enum rlx_got what = rlx_ring_get(&link, &byte);
        if (what == RLX_GOT_GAP) {
            gaps++;
            if (last > gap_after) wrong++; /* a byte from behind the silence came before it */
        }
        if (what == RLX_GOT_BYTE && byte > gap_after && !gaps) wrong++;
        if (what == RLX_GOT_CUT) cut = true;
        if (what != RLX_GOT_BYTE) continue;
        if (byte <= last || (byte != last + 1 && !cut)) wrong++; /* spliced, or out of order */
        cut = false;
        last = byte;
        got++;
    }
    if (got + rlx_link_lost(&link) != n_sent) wrong++;
    if (last != n_sent && !cut) wrong++; /* lost at the end without a mark */
    if (gaps != (gap_after <= SENT_MAX)) wrong++;
    if (rlx_ring_waits(&link)) wrong++;
}

/* All ways to spread the bytes over the places. */
static unsigned spread(unsigned ring, unsigned place, unsigned last_place, unsigned left)
{
    unsigned runs = 0;
    if (place == last_place) {
        plan[place] = left;
        main_side(ring, last_place);
        return 1;
    }
    for (unsigned n = 0; n <= left; n++) {
        plan[place] = n;
        runs += spread(ring, place + 1, last_place, left - n);
    }
    return runs;
}

static unsigned enumerate(void)
{
    unsigned runs = 0;
    wrong = 0;
    for (unsigned ring = 2; ring <= 4; ring *= 2)
        for (unsigned last = 0; last <= 12; last++) {
            memset(plan, 0, sizeof plan);
            runs += spread(ring, 0, last, SENT_MAX);
        }
    return runs;
}

static void every_preemption(void)
{
    gap_after = SENT_MAX + 1;
    unsigned runs = enumerate();
    test_context("%u runs", runs);
    CHECK(runs > 100000);
#ifdef MUTANT
    CHECK(wrong > 0); /* the order matters, and the enumeration sees it */
#else
    CHECK_INT(wrong, 0);
#endif
}

/* The same with a silence behind each byte in turn: it is seen once, and where it was. */
static void silences_stay_in_their_place(void)
{
#ifndef MUTANT
    unsigned runs = 0;
    for (gap_after = 1; gap_after <= SENT_MAX; gap_after++) {
        runs += enumerate();
        test_context("behind byte %u", gap_after);
        CHECK_INT(wrong, 0);
    }
    CHECK(runs > 600000);
#endif
}

/* The transmit side: the interrupt takes what was published, in order, never more. */
static void transmit_in_order(void)
{
    uint8_t byte, head = 0, value = 0, next = 1;
    start(2, 8);
    memset(plan, 0, sizeof plan);
    for (unsigned round = 0; round < 300; round++) {
        unsigned n = round % (rlx_ring_room(&link) + 1u);
        for (unsigned i = 0; i < n; i++) {
            buffer[2 + (head & 7)] = ++value;
            head++;
        }
        if (link.tx_tail == link.tx_head) CHECK(!rlx_link_take(&link, &byte)); /* unpublished */
        rlx_ring_publish(&link, head);
        for (unsigned i = 0; i <= round % 5 && rlx_link_take(&link, &byte); i++)
            CHECK_INT(byte, next++);
    }
    while (rlx_link_take(&link, &byte)) CHECK_INT(byte, next++);
    CHECK_INT(next, (uint8_t)(value + 1));
}

static void faults_cut_the_stream(void)
{
    uint8_t byte = 0;
    start(8, 8);
    memset(plan, 0, sizeof plan);
    rlx_link_feed(&link, 'a');
    rlx_link_fault(&link); /* a framing error between a and b */
    rlx_link_feed(&link, 'b');
    CHECK_INT(rlx_link_lost(&link), 2); /* b is dropped until the cut was seen */
    CHECK_INT(rlx_ring_get(&link, &byte), RLX_GOT_BYTE);
    CHECK_INT(rlx_ring_get(&link, &byte), RLX_GOT_CUT);
    rlx_link_feed(&link, 'c');
    CHECK_INT(rlx_ring_get(&link, &byte), RLX_GOT_BYTE);
    CHECK_INT(byte, 'c');
    CHECK_INT(rlx_ring_get(&link, &byte), RLX_GOT_NONE);
    for (unsigned i = 0; i < 70000; i++) rlx_link_fault(&link);
    CHECK_INT(rlx_link_lost(&link), 65535); /* stays there */
}

static const struct test_case cases[] = {
    {"every preemption of short sequences", every_preemption},
    {"silences stay in their place", silences_stay_in_their_place},
    {"the transmit ring keeps its order", transmit_in_order},
    {"faults cut the stream", faults_cut_the_stream},
};
TEST_MAIN(cases)
