/* What is seldom said and seldom happens: P2, P5, P7 at the edges of envelope, silence and packets.
 */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "rig.h"

enum { PARTY, QUIET, GAP, RADIO };

static struct rig *start(void)
{
    struct rig *rig = rig_new(LEXICONS "/edges.lexicon");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (unsigned i = 0; i < 4; i++) g_string_truncate(rig->sent[i], 0);
    g_string_truncate(rig->pins, 0);
    return rig;
}

struct exchange {
    const char *said, *reply, *pins;
};

static void exchange(unsigned link, const struct exchange *all, size_t count)
{
    struct rig *rig = start();
    for (size_t i = 0; i < count; i++) {
        g_string_truncate(rig->pins, 0);
        test_context("link %u: '%s'", link, all[i].said);
        CHECK_TEXT(rig_say(rig, link, all[i].said), all[i].reply);
        CHECK_TEXT(rig->pins->str, all[i].pins);
    }
    rig_free(rig);
}

/* An address without sources: one device on a wire of many. */
static void addresses_on_a_wire(void)
{
    static const struct exchange all[] = {
        {"@7 pump on\r", "@0/7 ok pump on\r\n", "pin 4 high\n"},
        {"@7 #4 pump off\r", "@0/7 #4 ok pump off\r\n", "pin 4 low\n"},
        {"@7 #4 pump off\r", "@0/7 #4 ok pump off\r\n", ""},
        {"@7   #5   pump on\r", "@0/7 #5 ok pump on\r\n", "pin 4 high\n"},
        {"@* pump off\r", "", "pin 4 low\n"},
        {"@*/9 pump on\r", "", ""},
        {"@*x pump on\r", "", ""},
        {"@8 pump on\r", "", ""},
        {"@07 pump on\r", "", ""},
        {"@7/1 pump on\r", "", ""},
        {"@ pump on\r", "", ""},
        {"@300 pump on\r", "", ""},
        {"@7\r", "", ""},
        {"@7 #1\r", "", ""},
        {"@7 bogus\r", "@0/7 err unknown bogus at 3\r\n", ""},
        {"@7 #x pump on\r", "@0/7 err tag\r\n", ""},
        {"@7 #09 pump on\r", "@0/7 err tag\r\n", ""},
        {"@7 #9\r", "", ""},
        {"@7 ok pump on\r", "", ""},
        {"@7 #3 err old\r", "", ""},
        {"pump\x07\r", "", ""}, /* damaged, on a wire of many: only counted */
        {"pump on\r", "", ""}};
    exchange(PARTY, all, G_N_ELEMENTS(all));
    struct rig *rig = start();
    rig_say(rig, PARTY, "@8 pump on\rpump\x07\r@300 x\r");
    CHECK_INT(rig->link[PARTY].others, 3);
    rig_free(rig);
}

/* P5: a silent link obeys, says nothing, and still obeys a tag once. */
static void silent_links(void)
{
    static const struct exchange all[] = {{"pump on\r", "", "pin 4 high\n"},
                                          {"#1 pump toggle\r", "", "pin 4 low\n"},
                                          {"#1 pump toggle\r", "", ""},
                                          {"bogus\r", "", ""},
                                          {"pump?\r", "", ""}};
    exchange(QUIET, all, G_N_ELEMENTS(all));
}

static void short_replies_in_packets(void)
{
    static const struct exchange all[] = {{"pump on", "ok", "pin 4 high\n"},
                                          {"pump on", "ok", ""},
                                          {"pump", "e4", ""},
                                          {"jot \xC3\xA9", "e9", ""},
                                          {"jot \"\xC3\xA9\"", "e9", ""},
                                          {"pump on; glow 300", "e7", ""},
                                          {"pump off; glow 30", "ok", "pin 4 low\npwm 1 19660\n"},
                                          {"\r\n", "", ""},
                                          {"e4", "", ""}};
    exchange(RADIO, all, G_N_ELEMENTS(all));
}

/* ---- handlers that refuse one of several ---- */

static void which_of_several_was_refused(void)
{
    struct rig *rig = start();
    rig->returns = -RLX_ERR_BUSY;
    CHECK_TEXT(rig_say(rig, PARTY, "@7 pump on; go 5; pump off\r"), "@0/7 err busy 2\r\n");
    CHECK_TEXT(rig->pins->str, "pin 4 high\n"); /* what came before stays done */
    CHECK_INT(rig->calls, 1);
    rig->returns = -RLX_ERR_FAILED;
    CHECK_TEXT(rig_say(rig, PARTY, "@7 go 5;go 6\r"), "@0/7 err failed 1\r\n");
    CHECK_TEXT(rig_say(rig, PARTY, "@7 go 5\r"), "@0/7 err failed\r\n");
    rig->returns = -99; /* none of the errors a handler may return */
    CHECK_TEXT(rig_say(rig, PARTY, "@7 go 5\r"), "@0/7 err failed\r\n");
    rig_free(rig);
}

/* P2: a damaged frame behind one to all is answered, and keeps no reply for its tag. */
static void nothing_is_left_of_the_last_envelope(void)
{
    struct rig *rig = start();
    CHECK_TEXT(rig_say(rig, PARTY, "@* #4 pump on\r"), "");
    rig_feed(rig, GAP, "pu\x07mp", 5);
    rig_wait(rig, 30);
    CHECK_TEXT(rig->sent[GAP]->str, "err byte 7 at 2");
    CHECK_TEXT(rig_say(rig, RADIO, "jot \xC3\xA9"), "e9");
    rig_free(rig);
}

/* Answers that nobody takes, until there is no room for one more. */
static void fill_answers(struct rig *rig, unsigned number, const char *said)
{
    const struct lex_link *row = rig->lx->links->pdata[number];
    struct rlx_link *link = &rig->link[number];
    rig->hold_sent = true;
    while (link->tx_mask + 1u - (uint8_t)(link->tx_head - link->tx_tail) >= row->reply) {
        rig_feed(rig, number, said, strlen(said));
        rlx_link_gap(link);
        rlx_poll(&rig->device, rig->now_ms++);
    }
    g_string_truncate(rig->pins, 0);
    rig_feed(rig, number, "halt\r", 5);
    rlx_link_gap(link);
    rlx_poll(&rig->device, rig->now_ms++);
}

/* P6: without room for its answer `halt` is obeyed at once; but not where it is not addressed. */
static void halt_needs_no_room(void)
{
    struct rig *rig = start();
    rig_say(rig, PARTY, "@7 pump on\r");
    fill_answers(rig, PARTY, "@7 stats\r");
    CHECK_TEXT(rig->pins->str, "");
    fill_answers(rig, GAP, "stats");
    CHECK(strstr(rig->pins->str, "pin 4 low\n") != NULL);
    rig_free(rig);
}

static void about_and_stats(void)
{
    struct rig *rig = start();
    char *about = g_strdup_printf("@0/7 ok about edges 3 %s\r\n", rig->image->fingerprint);
    CHECK_TEXT(rig_say(rig, PARTY, "@7 about\r"), about);
    rig_say(rig, PARTY, "@7 bogus\r@7 ok\r");
    rlx_link_fault(&rig->link[PARTY]);
    rig_run(rig);
    rig_say(rig, PARTY, "the rest of a line that was cut\r");
    CHECK_TEXT(rig_say(rig, PARTY, "@7 stats\r"),
               "@0/7 ok stats lost 1 refused 1 ignored 1 others 1\r\n");
    rig->link[PARTY].refused = 40000;
    CHECK_TEXT(rig_say(rig, PARTY, "@7 stats\r"),
               "@0/7 ok stats lost 1 refused 32767 ignored 1 others 1\r\n");
    g_free(about);
    rig_free(rig);
}

/* ---- silences ---- */

/* Marked by the interrupt, they need no time; and where two are marked before a poll, what lies
 * between is refused, not joined. */
static void silences_that_are_marked(void)
{
    struct rig *rig = start();
    struct rlx_link *link = &rig->link[GAP];
    rig_feed(rig, GAP, "pump on", 7);
    rlx_link_gap(link);
    rig_feed(rig, GAP, "glow 50", 7);
    rig_run(rig);
    CHECK_TEXT(rig->sent[GAP]->str, "ok pump on");
    rlx_link_gap(link);
    CHECK(!rlx_idle(&rig->device));
    rig_run(rig);
    CHECK_TEXT(rig->sent[GAP]->str, "ok pump onok glow 50");
    rlx_link_gap(link);
    rlx_link_gap(link); /* nothing came between: one silence */
    rig_run(rig);
    g_string_truncate(rig->sent[GAP], 0);
    g_string_truncate(rig->pins, 0);
    rig_feed(rig, GAP, "pump", 4);
    rlx_link_gap(link);
    rig_feed(rig, GAP, " off", 4);
    rlx_link_gap(link);
    rig_feed(rig, GAP, "x", 1); /* after the cut: dropped, and counted */
    rig_run(rig);
    CHECK_TEXT(rig->pins->str, "");
    CHECK_INT(rlx_link_lost(link), 2);
    CHECK(strstr(rig->sent[GAP]->str, "err missing") == rig->sent[GAP]->str);
    rig_wait(rig, 30);
    CHECK(strstr(rig->sent[GAP]->str, "err lost"));
    g_string_truncate(rig->sent[GAP], 0);
    rig_feed(rig, GAP, "pump off", 8);
    rig_wait(rig, 30);
    CHECK_TEXT(rig->sent[GAP]->str, "ok pump off");
    rig_free(rig);
}

/* A poll that comes late finds bytes from before and behind a silence: nobody knows which. */
static void a_late_poll_joins_nothing(void)
{
    struct rig *rig = start();
    rig_feed(rig, GAP, "pump ", 5);
    uint32_t wait = rig_run(rig);
    CHECK(wait > 0 && wait <= 20);
    rig->now_ms += 100; /* nobody polled */
    rig_feed(rig, GAP, "on", 2);
    rig_run(rig);
    rig_wait(rig, 30);
    CHECK(g_str_has_prefix(rig->sent[GAP]->str, "err lost"));
    CHECK_TEXT(rig->pins->str, "");
    rig_free(rig);
}

/* The poll is wanted exactly when the silence is over, and nothing is late or early. */
static void silences_are_timed_exactly(void)
{
    for (uint32_t late = 0; late < 2; late++) {
        struct rig *rig = rig_new(LEXICONS "/edges.lexicon");
        CHECK_INT(rig_start(rig, late ? UINT32_MAX - 10 : 0), 0);
        rig_run(rig);
        g_string_truncate(rig->sent[GAP], 0);
        rig_feed(rig, GAP, "pump on", 7);
        uint32_t at = rig->now_ms, wait = rlx_poll(&rig->device, at);
        CHECK_INT(wait, 20);
        CHECK_INT(rlx_poll(&rig->device, at + 19), 1);
        CHECK_TEXT(rig->sent[GAP]->str, "");
        CHECK_INT(rlx_poll(&rig->device, at + 20), RLX_FOREVER);
        rig_run(rig);
        CHECK_TEXT(rig->sent[GAP]->str, "ok pump on");
        rig_free(rig);
    }
}

/* ---- packets ---- */

/* P7: a packet without room is dropped whole, and counted; an empty or oversized one too. */
static void packets_without_room(void)
{
    struct rig *rig = start();
    struct rlx_link *link = &rig->link[RADIO];
    const uint8_t *bytes = (const uint8_t *)"pump on; pump off; pump on; go 1";
    unsigned taken = 0;
    for (unsigned i = 0; i < 10; i++) taken += rlx_link_feed_packet(link, bytes, 30);
    CHECK(taken >= 2 && taken < 10);
    CHECK_INT(rlx_link_lost(link), 10 - taken);
    CHECK(!rlx_link_feed_packet(link, bytes, 0));
    CHECK(!rlx_link_feed_packet(link, bytes, 200));
    CHECK_INT(rlx_link_lost(link), 12 - taken);
    rig_run(rig);
    CHECK(rig->sent[RADIO]->len >= 2 * taken);
    link->rx_lost = UINT16_MAX;
    CHECK(!rlx_link_feed_packet(link, bytes, 0));
    CHECK_INT(rlx_link_lost(link), UINT16_MAX);
    rig_free(rig);
}

/* A block is the same as its bytes. */
static void blocks(void)
{
    struct rig *rig = start();
    rlx_link_feed_block(&rig->link[PARTY], (const uint8_t *)"@7 pump on\r@7 pu", 16);
    rlx_link_feed_block(&rig->link[PARTY], (const uint8_t *)"mp off\r", 7);
    rig_run(rig);
    CHECK_TEXT(rig->sent[PARTY]->str, "@0/7 ok pump on\r\n@0/7 ok pump off\r\n");
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P2: addresses on a wire of many", addresses_on_a_wire},
    {"P5: silent links", silent_links},
    {"short replies in packets", short_replies_in_packets},
    {"P1: which of several was refused", which_of_several_was_refused},
    {"P2: nothing is left of the last envelope", nothing_is_left_of_the_last_envelope},
    {"P6: halt needs no room", halt_needs_no_room},
    {"about and stats", about_and_stats},
    {"P1: silences that are marked", silences_that_are_marked},
    {"P1: a late poll joins nothing", a_late_poll_joins_nothing},
    {"P11: silences are timed exactly", silences_are_timed_exactly},
    {"P7: packets without room", packets_without_room},
    {"blocks", blocks},
};
TEST_MAIN(cases)
