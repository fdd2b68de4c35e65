/* P4, P5, P7: links whose bytes the firmware reads. What comes is what was fed, in order; where
 * bytes were lost, the next ones say so; nothing is obeyed, and what has no room is not sent. */
#include <string.h>

#include "harness.h"
#include "rig.h"

static struct rig *it(void)
{
    return rig_of_text("lexicon it 1\nbuilt-in halt notes\noutput pump relay pin 4 safe off\n"
                       "command pump {on|off} => pump\nevent call {on|off}\n"
                       "link bench serial 9600 frame line\n"
                       "link raw serial 9600 frame raw receive 32 transmit 16\n");
}

static void all_bytes(void)
{
    struct rig *rig = it();
    for (unsigned byte = 0; byte < 256; byte++) {
        uint8_t got[4] = {0};
        bool lost = true;
        rlx_link_feed(&rig->link[1], (uint8_t)byte);
        rlx_poll(&rig->device, rig->now_ms); /* takes nothing */
        CHECK(!rlx_idle(&rig->device));
        CHECK_INT(rlx_raw_read(&rig->device, 1, got, 4, &lost), 1);
        CHECK_INT(got[0], byte);
        CHECK(!lost);
        CHECK(rlx_idle(&rig->device));
        CHECK_INT(rlx_raw_read(&rig->device, 1, got, 4, &lost), 0);
    }
    rig_free(rig);
}

/* Random feeding, faults, overruns and reading of any size, against a queue. */
static void against_a_queue(void)
{
    struct rig *rig = it();
    GRand *random = g_rand_new_with_seed(3);
    GArray *queue = g_array_new(FALSE, FALSE, sizeof(int)); /* a byte, or 256: some were lost */
    unsigned in_ring = 0, losses = 0, read = 0;
    bool cut = false;
    for (unsigned n = 0; n < 200000 && test_failures() < 5; n++) {
        int what = g_rand_int_range(random, 0, 100), gone = 256;
        if (what < 60) {
            int byte = g_rand_int_range(random, 0, 256);
            rlx_link_feed(&rig->link[1], (uint8_t)byte);
            bool dropped = cut || in_ring == 32;
            if (dropped && !cut) g_array_append_val(queue, gone);
            if (!dropped) g_array_append_val(queue, byte);
            cut |= dropped;
            in_ring += !dropped;
        } else if (what < 62) {
            rlx_link_fault(&rig->link[1]);
            if (!cut) g_array_append_val(queue, gone);
            cut = true;
        } else {
            uint8_t got[40];
            bool lost, was_lost = false;
            uint8_t most = (uint8_t)g_rand_int_range(random, 0, 40);
            uint8_t count = rlx_raw_read(&rig->device, 1, got, most, &lost);
            while (most && queue->len && g_array_index(queue, int, 0) == 256) {
                g_array_remove_index(queue, 0);
                was_lost = true;
                cut = false; /* it goes on from here */
            }
            CHECK_INT(lost, was_lost);
            CHECK(count <= most && (count || !most || !queue->len));
            for (unsigned i = 0; i < count; i++) CHECK_INT(got[i], g_array_index(queue, int, i));
            if (count) g_array_remove_range(queue, 0, count);
            in_ring -= count;
            read += count;
            losses += lost;
        }
        test_context("step %u", n);
    }
    CHECK(losses > 500 && read > 20000);
    g_array_free(queue, TRUE);
    g_rand_free(random);
    rig_free(rig);
}

/* A text, an event, a note and a halt: nothing of them concerns the link. */
static void nothing_else(void)
{
    struct rig *rig = it();
    uint8_t got[32];
    bool lost;
    CHECK_INT(rig->sent[1]->len, 0); /* no greeting */
    rig_feed(rig, 1, "pump on\rhalt\r", 13);
    for (unsigned i = 0; i < 100; i++) rlx_poll(&rig->device, rig->now_ms++);
    CHECK_INT(rlx_raw_read(&rig->device, 1, got, 32, &lost), 13);
    CHECK(!memcmp(got, "pump on\rhalt\r", 13));
    rlx_event(&rig->device, 0, 0);
    rlx_note(&rig->device, "tide");
    rig_wait(rig, 1000);
    CHECK_TEXT(rig->pins->str, "");
    CHECK_INT(rig->sent[1]->len, 0);
    CHECK(!rlx_note_to(&rig->device, 7, "no such link"));
    CHECK_TALK(rig, 0, "pump on", "ok pump on");
    rig_free(rig);
}

static void all_or_nothing(void)
{
    struct rig *rig = it();
    static const uint8_t bytes[17] = "0123456789abcdef";
    uint8_t got[4];
    bool lost;
    rig->hold_sent = true;
    CHECK(!rlx_raw_write(&rig->device, 1, bytes, 17));
    CHECK(rlx_raw_write(&rig->device, 1, bytes, 10));
    CHECK(!rlx_raw_write(&rig->device, 1, bytes, 7));
    CHECK(rlx_raw_write(&rig->device, 1, bytes, 6));
    CHECK(rlx_raw_write(&rig->device, 1, bytes, 0));
    CHECK(!rlx_raw_write(&rig->device, 1, bytes, 1));
    rig->hold_sent = false;
    rlx_port_kick(&rig->board, 1);
    rig_run(rig);
    CHECK_TEXT(rig->sent[1]->str, "0123456789012345");
    /* a link of lines, and one that there is not */
    for (unsigned link = 0; link < 4; link += link ? 2 : 3) {
        CHECK(!rlx_raw_write(&rig->device, (uint8_t)link, bytes, 1));
        lost = true;
        CHECK_INT(rlx_raw_read(&rig->device, (uint8_t)link, got, 4, &lost), 0);
        CHECK(!lost);
    }
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"each byte comes", all_bytes},
    {"P4, P7: any bytes, losses and reads", against_a_queue},
    {"P5: nothing is obeyed or told", nothing_else},
    {"what has no room is not sent", all_or_nothing},
};
TEST_MAIN(cases)
