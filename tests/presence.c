/* P6: links that are lost, by silence, by a pin, by a goodbye, and the outputs that follow; judged
 * at the pins, to the millisecond, across the wrap of the clock. */
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { BENCH, SKIFF, BAND };
enum { PUMP = 4, VENT = 5, SEEN = 19, TIED = 20, HORN = 21, WINK = 22, STATE = 30 };

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

/* How often it changes in so long. */
static unsigned changes(struct rig *rig, unsigned pin, unsigned ms)
{
    unsigned n = 0;
    bool was = high(rig, pin);
    for (uint32_t end = rig->now_ms + ms; (int32_t)(rig->now_ms - end) < 0; was = high(rig, pin)) {
        rig_wait(rig, 1);
        n += high(rig, pin) != was;
    }
    return n;
}

static void by_a_state_of_its_own(void)
{
    struct rig *rig = rig_started(LEXICONS "/presence.lexicon", UINT32_MAX - 4000);
    CHECK_INT(changes(rig, HORN, 2000), 3); /* nobody was heard: two beeps, the first one began */
    CHECK_INT(rig->board.duty[2], 0);       /* what is left out is off, whatever is safe */
    CHECK(high(rig, WINK));
    CHECK_TALK(rig, SKIFF, "pump on", "ok pump on");
    CHECK(high(rig, HORN) && rig->board.duty[2] == 13107);
    CHECK_TALK(rig, BENCH, "wink off", "ok wink off"); /* up to the next change */
    CHECK(!high(rig, WINK));
    rig_do(rig, "! down band");
    rig_run(rig);
    CHECK_INT(changes(rig, WINK, 2000), 8);
    rlx_link_is_up(&rig->device, SKIFF, false);
    CHECK(!rlx_idle(&rig->device)); /* it is to be polled before it sleeps */
    rig_run(rig);
    CHECK(rlx_idle(&rig->device) && rig->board.duty[2] == 0);
    CHECK_TALK(rig, SKIFF, "pump on", "ok pump on");
    CHECK_TALK(rig, BENCH, "halt", "ok halt");
    CHECK(rig->board.duty[2] == 13107); /* what shows a link goes on doing so */
    CHECK_INT(changes(rig, WINK, 2000), 8);
    rig_do(rig, "! up band");
    rig_run(rig);
    CHECK(high(rig, WINK));
    CHECK_INT(changes(rig, WINK, 2000), 0);
    rig_wait(rig, 3000); /* the skiff is silent */
    CHECK_INT(rig->board.duty[2], 0);
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

/* ---- greetings, and what ends a line ---- */

static void comes_up(struct rig *rig, const char *link)
{
    char *down = g_strdup_printf("! down %s", link), *up = g_strdup_printf("! up %s", link);
    rig_do(rig, down);
    rig_run(rig);
    rig_forget(rig);
    rig_do(rig, up);
    rig_run(rig);
    g_free(down), g_free(up);
}

static void ends_and_greetings(void)
{
    static const struct {
        const char *name, *says, *comes, *greets, *event;
    } links[] = {
        {"pad", "pump on\r", "+", "!", "P"},
        {"panel", "a", "<ok pump on already\r", "", ""},
        {"board", "pump off\n", "ok pump off\n", "start\n", "ev call pressed\n"},
        {"band", "pump off\r\n", "ok pump off already\r\n", "connect\r\n", "ev call pressed\r\n"}};
    struct rig *rig = rig_new(LEXICONS "/ends.lexicon");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (unsigned i = 0; i < 3; i++)
        CHECK_TEXT(rig->sent[i]->str, links[i].greets);          /* at power-up */
    CHECK(g_str_has_suffix(rig->sent[3]->str, " watchdog\r\n")); /* as the rig starts */
    rig_do(rig, "! up band");
    rig_do(rig, "! call off");
    rig_wait(rig, 100);
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        test_context("%s", links[i].name);
        rig_forget(rig);
        for (const char *p = links[i].says; *p; p++) rlx_link_feed(&rig->link[i], (uint8_t)*p);
        rig_run(rig);
        CHECK_TEXT(rig->sent[i]->str, links[i].comes);
        comes_up(rig, links[i].name);
        CHECK(g_str_has_suffix(rig->sent[i]->str, links[i].greets));
        CHECK_INT(!*rig->sent[i]->str, !*links[i].greets);
        for (unsigned k = 0; k < G_N_ELEMENTS(links); k++)
            if (k != i) CHECK_TEXT(rig->sent[k]->str, ""); /* nobody else is greeted */
        rig_forget(rig);
        rig_do(rig, "! call on");
        rig_wait(rig, 100);
        CHECK_TEXT(rig->sent[i]->str, links[i].event);
        rig_do(rig, "! call off");
        rig_wait(rig, 100);
    }
    rig_free(rig);
}

/* It waits for room, before what else is to be sent, and is sent once. */
static void a_greeting_waits(void)
{
    struct rig *rig = rig_started(LEXICONS "/ends.lexicon", UINT32_MAX - 3);
    rig_do(rig, "! up band");
    rig_run(rig);
    rig_do(rig, "! down band");
    rig_run(rig);
    rig_forget(rig);
    for (const char *p = "stats\rstats\rstats\r"; *p; p++)
        rlx_link_feed(&rig->link[3], (uint8_t)*p);
    for (unsigned i = 0; i < 3; i++) rig_poll(rig); /* nothing goes out meanwhile */
    rig_do(rig, "! up band");
    rig_run(rig);
    const char *greeting = strstr(rig->sent[3]->str, "ready ends 1 ");
    CHECK(greeting && strstr(greeting, " connect\r\n"));
    CHECK(greeting && !strstr(greeting + 1, "ready "));
    rig_free(rig);
}

/* An input and a link of the same number, which both do something. */
static void inputs_and_links(void)
{
    struct rig *rig = rig_of_text("lexicon it 1\n"
                                  "output lamp relay pin 4 safe off\n"
                                  "output seen led pin 19 shows skiff connected on lost blink 500ms\n"
                                  "input wall pin 3 debounce 20ms held 1s  pressed => lamp toggle  "
                                  "held => lamp on  released => lamp off\n"
                                  "link skiff serial 9600 frame line lost after 5s\n"
                                  "link bench serial 9600 frame line\n"
                                  "command lamp {on|off} => lamp\n");
    for (unsigned i = 0; i < 3; i++) {
        CHECK_TALK(rig, 0, "lamp off", "ok lamp off already"); /* it comes up */
        rig_wait(rig, 1);
        CHECK(!high(rig, 4) && high(rig, SEEN));
        rig_wait(rig, 6000); /* it is lost */
        CHECK(!high(rig, 4));
    }
    rig_do(rig, "! wall on");
    rig_wait(rig, 30);
    CHECK(high(rig, 4));
    CHECK_TALK(rig, 1, "lamp off", "ok lamp off");
    rig_forget(rig);
    rig_wait(rig, 1500);
    CHECK(high(rig, 4)); /* it is held: the light for the link goes on blinking */
    CHECK(strstr(rig->pins->str, "pin 19"));
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P1: an input and a link of one number", inputs_and_links},
    {"ends of lines, and greetings", ends_and_greetings},
    {"a greeting waits for room", a_greeting_waits},
    {"P6, P11: silence", silence},
    {"P6: a goodbye", goodbye},
    {"P6: a state pin", a_pin},
    {"a link's states, each shown by one of the output's own", by_a_state_of_its_own},
    {"P6: random lines and pins", random_days},
};
TEST_MAIN(cases)
