/* P2: every preemption while lines are taken from the ring, many bytes at once: the interrupt is
 * let in between any two of them. Each line that is obeyed is one that was sent, whole and in
 * order; a line that lacks a byte is refused as lost.
 *
 * Compiled a second time on a copy of frame.c that frees the room before it has read the bytes
 * (MUTANT): the enumeration must then find a fault. */
#include <stdint.h>
#include <string.h>

#include "harness.h"

static void preempt(void);
#define RLX_PREEMPT() preempt()
#include RING_SOURCE
#include FRAME_SOURCE

#define PLACES_MAX 64

static const char sent[] = "ab\ncd\nef";
static const char *const lines[] = {"ab", "cd"};

static const uint8_t image[RLX_IMG_HEADER], row[RLX_LNK_ROW] = {[RLX_LNK_FRAME] = RLX_FRAME_LINE};
static const struct rlx_device device = {.image = image};
static struct rlx_link link;
static uint8_t buffer[RLX_LINK_BUFFER(8, 8, 8)];
static unsigned plan[PLACES_MAX]; /* bytes the interrupt brings at each place */
static unsigned places, n_sent, wrong, cut_lines, whole_lines;

static void preempt(void)
{
    unsigned place = places++;
    for (unsigned i = 0; place < PLACES_MAX && i < plan[place] && sent[n_sent]; i++)
        rlx_link_feed(&link, (uint8_t)sent[n_sent++]);
}

/* As rlx_init() leaves a link. */
static void start(uint8_t receive)
{
    link = (struct rlx_link){.buffer = buffer,
                             .rx_mask = (uint8_t)(receive - 1),
                             .rx_limit = receive,
                             .tx_mask = 7,
                             .frame = buffer + receive + 8,
                             .frame_size = 8};
    places = n_sent = 0;
}

static void main_side(uint8_t ring, unsigned polls)
{
    unsigned next = 0, obeyed = 0;
    start(ring);
    for (unsigned i = 0; i < polls; i++) {
        uint8_t budget = 64;
        rlx_frame_step(&device, &link, row, &budget);
        if (!(link.frame_state & RLX_FRAME_READY)) continue;
        if (link.frame_state == RLX_FRAME_READY) {
            while (next < 2 && strcmp((char *)link.frame, lines[next]) != 0) next++;
            if (next++ == 2) wrong++;
            obeyed++;
        } else if (link.frame_state != (RLX_FRAME_READY | RLX_ERR_LOST)) {
            wrong++;
        }
        rlx_frame_over(&link);
    }
    unsigned lost = rlx_link_lost(&link);
    if (!lost && (obeyed != 2 || link.frame_state || link.frame_len != 2)) wrong++;
    if (lost && obeyed == 2 && link.frame_state != RLX_ERR_LOST) wrong++;
    if (rlx_ring_waits(&link)) wrong++;
    whole_lines += obeyed;
    cut_lines += 2 - obeyed;
}

/* All ways to spread the bytes over the places. */
static unsigned spread(uint8_t ring, unsigned place, unsigned last_place, unsigned left)
{
    unsigned runs = 0;
    if (place == last_place) {
        plan[place] = left;
        main_side(ring, last_place + 20);
        return 1;
    }
    for (unsigned n = 0; n <= left; n++) {
        plan[place] = n;
        runs += spread(ring, place + 1, last_place, left - n);
    }
    return runs;
}

static void every_preemption(void)
{
    unsigned runs = 0;
    for (uint8_t ring = 2; ring <= 8; ring = (uint8_t)(ring * 2))
        for (unsigned last = 0; last <= 10; last++) {
            memset(plan, 0, sizeof plan);
            runs += spread(ring, 0, last, (unsigned)strlen(sent));
        }
    test_context("%u runs, %u lines whole, %u cut", runs, whole_lines, cut_lines);
    CHECK(runs > 100000 && whole_lines > runs / 2 && cut_lines > runs / 10);
#ifdef MUTANT
    CHECK(wrong > 0); /* the order matters, and the enumeration sees it */
#else
    CHECK_INT(wrong, 0);
#endif
}

static const struct test_case cases[] = {
    {"P2: every preemption while a line is taken", every_preemption},
};
TEST_MAIN(cases)
