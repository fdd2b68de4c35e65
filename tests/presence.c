/* P6: links that are lost, by silence, by a pin, by a goodbye, and the outputs that follow; judged
 * at the pins, to the millisecond, across the wrap of the clock. */
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { BENCH, SKIFF, BAND };
enum { PUMP = 4, VENT = 5, SEEN = 19, TIED = 20, STATE = 30 };

static bool high(const struct rig *rig, unsigned pin)
{
    return rig->board.level[pin];
}

static void silence(void)
{
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig = rig_started(LEXICONS "/presence.lexicon", late ? UINT32_MAX - 6000 : 0);
        CHECK(!high(rig, SEEN)); /* nobody was heard yet, and nothing is lost */
        CHECK_TALK(rig, BENCH, "pump on", "ok pump on");
        rig_wait(rig, 6000);
        CHECK(high(rig, PUMP));
        CHECK_TALK(rig, SKIFF, "feed 50", "ok feed 50");
        CHECK(high(rig, SEEN));
        rig_wait(rig, 4000);
        CHECK_TALK(rig, SKIFF, "feed?", "ok feed 50"); /* a question is a sign of life... */
        uint32_t heard = rig->now_ms - 1;
        CHECK_TALK(rig, SKIFF, "fed 7", "err unknown fed at 0"); /* ...what is refused is none */
        rig_forget(rig);
        rig_wait(rig, heard + 4999 - rig->now_ms);
        CHECK(high(rig, SEEN) && high(rig, PUMP));
        rig_wait(rig, 1);
        CHECK(!high(rig, SEEN) && !high(rig, PUMP));
        CHECK_TALK(rig, BENCH, "feed?", "ok feed 0");
        CHECK_TALK(rig, BENCH, "pump on", "ok pump on"); /* it is lost once */
        rig_wait(rig, 10000);
        CHECK(high(rig, PUMP));
        rig_free(rig);
    }
}

static void goodbye(void)
{
    struct rig *rig = rig_started(LEXICONS "/presence.lexicon", 0);
    CHECK_TALK(rig, SKIFF, "wash", "ok wash");
    rig_wait(rig, 10);
    CHECK(high(rig, PUMP));
    CHECK_TALK(rig, SKIFF, "bye", "ok bye");
    CHECK(!high(rig, PUMP) && !high(rig, SEEN));
    CHECK_TALK(rig, BENCH, "wash?", "ok wash off"); /* it would have moved them again */
    CHECK_TALK(rig, SKIFF, "pump?", "ok pump off");
    CHECK(high(rig, SEEN)); /* here again */
    CHECK_TALK(rig, SKIFF, "seen off", "ok seen off");
    CHECK_TALK(rig, BENCH, "halt", "ok halt");
    CHECK(high(rig, SEEN)); /* what shows a link goes on doing so */
    rlx_link_is_up(&rig->device, SKIFF, false);
    CHECK(!high(rig, SEEN));
    rlx_link_is_up(&rig->device, SKIFF, true);
    CHECK(high(rig, SEEN));
    rig_free(rig);
}

static void a_pin(void)
{
    struct rig *rig = rig_started(LEXICONS "/presence.lexicon", 0);
    CHECK(!high(rig, TIED)); /* active low: the pin is low, somebody is there */
    CHECK_TALK(rig, BAND, "vent off", "ok vent off");
    rig_do(rig, "! down band");
    rig_run(rig);
    CHECK(high(rig, VENT) && high(rig, TIED));
    CHECK_TALK(rig, BAND, "vent off", "ok vent off"); /* obeyed, but the pin is believed */
    CHECK(high(rig, TIED));
    rlx_event(&rig->device, 0, 0);
    rig_forget(rig);
    rig_run(rig);
    CHECK_TEXT(rig->sent[BAND]->str, ""); /* events are told where somebody is */
    CHECK_TEXT(rig->sent[BENCH]->str, "ev jam\r\n");
    rig_do(rig, "! up band");
    rig_run(rig);
    CHECK(!high(rig, VENT) && !high(rig, TIED));
    CHECK_TALK(rig, BAND, "bye", "ok bye");
    CHECK(high(rig, VENT) && high(rig, TIED));
    CHECK_TALK(rig, BAND, "vent?", "ok vent on"); /* said over the band: it is there again */
    CHECK(!high(rig, TIED));
    rig_free(rig);
}

/* What must be so after each line: a plain model. */
struct model {
    bool pump, vent, skiff, band, pin;
    uint32_t heard;
};

static void lose(struct model *m, bool skiff)
{
    if (skiff && m->skiff) m->skiff = m->pump = false;
    if (!skiff && m->band) m->band = false, m->vent = true;
}

/* Also where the link was lost already: what was said since then is ended. */
static void leave(struct model *m, bool skiff)
{
    if (skiff)
        m->skiff = m->pump = false;
    else
        m->band = false, m->vent = true;
}

static bool silent(struct model *m, uint32_t now)
{
    bool lost = m->skiff && (int32_t)(now - m->heard - 5000) >= 0;
    if (lost) lose(m, true);
    return lost;
}

static void say(struct model *m, unsigned link, unsigned what, uint32_t now)
{
    if (what < 2) m->pump = what == 0;
    if (what == 2 || what == 3) m->vent = what == 2;
    if (link == SKIFF && what != 5) {
        m->skiff = true;
        m->heard = now;
        if (what == 4) leave(m, true);
    }
    if (link == BAND && what == 4) leave(m, false);
    if (link == BAND && what < 4 && m->pin) m->band = true;
}

static void random_days(void)
{
    static const char *const says[] = {"pump on", "pump off", "vent on", "vent off", "bye", "pmp"};
    unsigned lost = 0;
    lines_seed = 9;
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig =
            rig_started(LEXICONS "/presence.lexicon", late ? UINT32_MAX - 2000000 : 0);
        struct model m = {.vent = true, .band = true, .pin = true};
        for (unsigned n = 0; n < 20000 * test_rounds(); n++) {
            unsigned link = lines_chance(3), what = lines_chance(6);
            rig_wait(rig, lines_chance(4) ? lines_chance(300) : lines_chance(9000));
            lost += silent(&m, rig->now_ms - 1);
            if (lines_chance(4)) {
                lost += silent(&m, rig->now_ms); /* the next poll looks, and then hears */
                say(&m, link, what, rig->now_ms);
                rig_talk(rig, link, says[what]);
            } else {
                m.pin = lines_chance(2);
                if (m.pin != (high(rig, STATE) == 0)) {
                    rig_do(rig, m.pin ? "! up band" : "! down band");
                    rig_run(rig);
                    if (m.pin)
                        m.band = true;
                    else
                        lose(&m, false);
                }
            }
            test_context("%u: %s over %u", n, says[what], link);
            lost += silent(&m, rig->now_ms - 1); /* the last poll */
            CHECK_INT(high(rig, PUMP), m.pump);
            CHECK_INT(high(rig, VENT), m.vent);
            CHECK_INT(high(rig, SEEN), m.skiff);
            CHECK_INT(high(rig, TIED), !m.band);
        }
        rig_free(rig);
    }
    CHECK(lost > 500);
}

static const struct test_case cases[] = {
    {"P6, P11: silence", silence},
    {"P6: a goodbye", goodbye},
    {"P6: a state pin", a_pin},
    {"P6: random lines and pins", random_days},
};
TEST_MAIN(cases)
