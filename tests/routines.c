/* Routines: steps at their times, to the millisecond, across the wrap of the clock and with late
 * polls; what cancels one and what does not, against a plain model. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"
#include "rlx/drive.h"

static void asked_at_each_millisecond(void)
{
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig = rig_started(LEXICONS "/dusk.lexicon", late ? UINT32_MAX - 2500 : 5000);
        CHECK_TALK(rig, 0, "dusk", "ok dusk");
        uint32_t began = rig->now_ms - 1; /* the poll that took the line's end */
        while (rig->now_ms - began < 4900) {
            char wanted[64];
            uint32_t asked = rig->now_ms - began;
            snprintf(wanted, sizeof wanted, "ok dusk step 4 of 5 left %ums", 5000 - asked);
            CHECK_TALK(rig, 0, "dusk?", wanted);
            rig_wait(rig, 37);
        }
        rig_forget(rig);
        rig_wait(rig, began + 4999 - rig->now_ms);
        CHECK_INT(rig->board.level[8], 0);
        rig_wait(rig, 1);
        CHECK_INT(rig->board.level[8], 1);
        CHECK_TEXT(rig->sent[0]->str, "ev dusk done\r\n");
        rig_free(rig);
    }
}

/* A wait begins when its step is reached, however late: nothing is caught up with in a burst. */
static void late_polls(void)
{
    struct rig *rig = rig_started(LEXICONS "/dusk.lexicon", 100);
    CHECK_TALK(rig, 0, "dawn", "ok dawn");
    rig->now_ms += 3600000;
    CHECK_INT(rig->calls, 0);
    rlx_poll(&rig->device, rig->now_ms);
    CHECK_INT(rig->calls, 1);
    CHECK_INT(rig->value[0], 250);
    CHECK_INT(rig->value[1], 0);
    CHECK_INT(rlx_poll(&rig->device, rig->now_ms), 1000);
    rig_wait(rig, 999);
    CHECK_INT(rig->calls, 1);
    rig_wait(rig, 1);
    CHECK_INT(rig->calls, 2);
    CHECK_INT(rig->value[0], 7);
    CHECK_INT(rig->value[1], 1);
    CHECK_TALK(rig, 0, "lights?", "ok lights beacon+bell");
    rig_free(rig);
}

/* Three rounds of 200 and 300 ms, with polls on time; then one poll an hour: a round takes two. */
static void rounds(void)
{
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig = rig_started(LEXICONS "/repeats.lexicon", late ? UINT32_MAX - 700 : 5000);
        CHECK_TALK(rig, 0, "beat", "ok beat");
        uint32_t began = rig->now_ms - 1;
        while (rig->now_ms - began < 1450) {
            char wanted[64];
            uint32_t asked = rig->now_ms - began, round = asked / 500;
            snprintf(wanted, sizeof wanted, "ok beat step %u of 4 round %u of 3 left %ums",
                     asked % 500 < 200 ? 2u : 4u, round + 1, 1500 - asked);
            CHECK_TALK(rig, 0, "beat?", wanted);
            CHECK_INT(rig->board.level[6], asked % 500 < 200);
            rig_wait(rig, 29);
        }
        rig_forget(rig);
        rig_wait(rig, 100);
        CHECK_TEXT(rig->sent[0]->str, "ev beat done\r\n");
        CHECK_TALK(rig, 0, "beat", "ok beat");
        for (unsigned polls = 1; polls <= 6; polls++) {
            rig->now_ms += 3600000;
            rlx_poll(&rig->device, rig->now_ms);
            CHECK_INT(rig->board.level[6], polls < 6 && polls % 2 == 0);
        }
        rig_wait(rig, 1);
        rig_forget(rig);
        CHECK_TALK(rig, 0, "beat?", "ok beat off");
        CHECK_TALK(rig, 0, "watch", "ok watch");
        for (unsigned n = 0; n < 70000; n++) {
            rig->now_ms += 10000;
            rlx_poll(&rig->device, rig->now_ms);
        }
        CHECK_TALK(rig, 0, "watch?", "ok watch step 2 of 2 round 60001");
        rig_free(rig);
    }
}

static void a_step_that_fails(void)
{
    struct rig *rig = rig_started(LEXICONS "/dusk.lexicon", 0);
    rig->returns = -RLX_ERR_BUSY;
    CHECK_TALK(rig, 0, "dawn", "ok dawn");
    rig_forget(rig);
    rig_wait(rig, 2100);
    CHECK_TEXT(rig->sent[0]->str, "ev dawn failed\r\n");
    CHECK_INT(rig->calls, 1);
    CHECK_TALK(rig, 0, "dawn?", "ok dawn failed 3");
    CHECK_TALK(rig, 0, "dawn stop", "ok dawn stop already");
    rig->returns = 0;
    CHECK_TALK(rig, 0, "dawn", "ok dawn");
    rig_wait(rig, 100);
    CHECK_TALK(rig, 1, "d",
               "<ok dusk\n<ev dawn stopped"); /* it has an output of dawn: that one ends */
    CHECK_TALK(rig, 0, "dawn?", "ok dawn off");
    CHECK_INT(rig->calls, 1);
    rig_free(rig);
}

/* A group waits as long as the last one of it. */
static void groups_that_wait(void)
{
    struct rig *rig = rig_of_text(
        "lexicon x 1\nbuilt-in state\noutput a relay pin 1 safe off min on 1s off 2s\n"
        "output b relay pin 2 safe off min on 500ms\noutput c led pin 3\n"
        "output all group of a, b, c\ncommand all {on|off|toggle} => all\n"
        "command few {set a|b|c} => all\ncommand b {on|off} => b\n"
        "command c {on|off|toggle} => c\n"
        "routine flip = \"c toggle; wait 1s; c toggle; wait 70000ms; b off\"\n"
        "link l serial 9600 frame line\n");
    rig_wait(rig, 2500);
    CHECK_TALK(rig, 0, "flip", "ok flip"); /* a toggle whose outcome nobody is told */
    rig_wait(rig, 10);
    CHECK_INT(rig->board.level[3], 1);
    rig_wait(rig, 1000);
    CHECK_INT(rig->board.level[3], 0);
    CHECK_TALK(rig, 0, "c toggle", "ok c on");
    CHECK_TALK(rig, 0, "flip?", "ok flip off");
    CHECK_TALK(rig, 0, "b on", "ok b on");
    CHECK_TALK(rig, 0, "all on", "ok all on");
    CHECK_TALK(rig, 0, "all on", "ok all on already");
    CHECK_TALK(rig, 0, "few c", "ok few c waiting 998ms");
    CHECK_TALK(rig, 0, "all?", "ok all c");
    CHECK_INT(rig->board.level[1] + rig->board.level[2], 2);
    rig_wait(rig, 1000);
    CHECK_INT(rig->board.level[1] + rig->board.level[2], 0);
    CHECK_TALK(rig, 0, "few a+b+c", "ok few a+b+c waiting 1996ms");
    CHECK_INT(rlx_output_switch(&rig->device, 3, RLX_OFF), RLX_WAITS); /* b rests */
    CHECK_INT(rlx_output_level(&rig->device, 3, 5), -RLX_ERR_FAILED);
    rig_free(rig);
}

/* What each line tells: outputs, as bits, and the routine that it starts (1..3) or ends. */
enum { PUMP = 1, GATE = 2, GLOW = 4, BEACON = 8, BELL = 16, LIGHTS = GLOW | BEACON | BELL };
static const struct {
    const char *text;
    unsigned outputs, starts, ends;
} says[] = {
    {"pump off", PUMP, 0, 0},
    {"pump on", PUMP, 0, 0},
    {"gate stop", GATE, 0, 0},
    {"glow 3", GLOW, 0, 0},
    {"glow 101", 0, 0, 0},
    {"beacon flash 2", BEACON, 0, 0},
    {"lights on", LIGHTS, 0, 0},
    {"dark", LIGHTS, 0, 0},
    {"show bell", LIGHTS, 0, 0},
    {"set pump on", PUMP, 0, 0},
    {"set lights off", LIGHTS, 0, 0},
    {"dose 7", 0, 0, 0},
    {"dose", 0, 0, 0},
    {"dusk?", 0, 0, 0},
    {"dusk", 0, 1, 0},
    {"evening", 0, 1, 0},
    {"dawn", 0, 2, 0},
    {"chime", 0, 3, 0},
    {"dusk stop", 0, 0, 1},
    {"dawn stop", 0, 0, 2},
    {"chime stop", 0, 0, 3},
    {"halt", PUMP | GATE | LIGHTS, 0, 0},
    {"pump on; glow 101", 0, 0, 0},
    {"dusk; gate stop", GATE, 1, 0},
};
static const unsigned drives[] = {PUMP | GATE | GLOW | BEACON, LIGHTS, LIGHTS};
static const uint32_t lasts[] = {5000, 3000, 150};
static const char *const asks[] = {"dusk?", "dawn?", "chime?"};

static void random_lines(void)
{
    unsigned cancelled = 0, ended = 0;
    lines_seed = 5;
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig = rig_started(LEXICONS "/dusk.lexicon", late ? UINT32_MAX - 1000000 : 0);
        uint32_t over[3] = {0};
        bool runs[3] = {false};
        for (unsigned n = 0; n < 4000 * test_rounds(); n++) {
            unsigned say = lines_chance(G_N_ELEMENTS(says));
            uint32_t heard = rig->now_ms; /* by the next poll, before its routines go on */
            rig_talk(rig, 0, says[say].text);
            unsigned outputs = says[say].outputs, starts = says[say].starts;
            for (unsigned i = 0; i < 3; i++)
                if (runs[i] && (int32_t)(heard - over[i]) > 0) runs[i] = false, ended++;
            if (starts && !runs[starts - 1]) {
                for (unsigned i = 0; i < 3; i++)
                    if (runs[i] && drives[i] & drives[starts - 1]) runs[i] = false, cancelled++;
                runs[starts - 1] = true;
                over[starts - 1] = heard + lasts[starts - 1];
            }
            if (says[say].ends) runs[says[say].ends - 1] = false;
            for (unsigned i = 0; i < 3; i++)
                if (runs[i] && drives[i] & outputs) runs[i] = false, cancelled++;
            for (unsigned i = 0; i < 3; i++) {
                test_context("%u: %s, then %s", n, says[say].text, asks[i]);
                uint32_t now = rig->now_ms;
                const char *told = rig_talk(rig, 0, asks[i]);
                bool still = runs[i] && (int32_t)(now - over[i]) <= 0;
                CHECK(strstr(told, still ? " step " : " off") != NULL);
            }
            rig_wait(rig, lines_chance(3) ? lines_chance(120) : lines_chance(4000));
        }
        rig_free(rig);
    }
    CHECK(cancelled > 1000 && ended > 200);
}

static const struct test_case cases[] = {
    {"P11: steps at their times", asked_at_each_millisecond},
    {"P11: late polls", late_polls},
    {"P11: rounds", rounds},
    {"a step that fails", a_step_that_fails},
    {"P5: what ends a routine, and what does not", random_lines},
    {"groups that wait", groups_that_wait},
};
TEST_MAIN(cases)
