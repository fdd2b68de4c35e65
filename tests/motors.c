/* P6: motors, judged at the simulated wires in the order in which they are written: random commands
 * at random times. The direction never changes under duty, the brake is never on under duty,
 * nothing is reversed without its dead time, a ramp is never steeper than told; and the steering
 * words. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/check/check.h"
#include "harness.h"
#include "lines.h"
#include "rig.h"

/* One motor's wires. */
struct motor {
    unsigned channel, other, direction, brake; /* 0: none */
    unsigned dead, step, travel;               /* of the duty, in 10 ms; 0: any */
    bool reversed;
    unsigned duty, duty_other;
    bool back, braked;
    int way; /* that it went last */
    uint32_t stopped, began;
};

struct judge {
    struct motor motors[4];
    unsigned reversals, writes;
};

static const struct judge fresh = {{{6, 0, 24, 25, 100, 2186, 0, false, 0, 0, false, true, 0, 0, 0},
                                    {7, 8, 0, 0, 250, 0, 10000, false, 0, 0, false, false, 0, 0, 0},
                                    {4, 0, 14, 0, 0, 3278, 0, false, 0, 0, false, false, 0, 0, 0},
                                    {5, 0, 15, 0, 0, 3278, 0, true, 0, 0, true, false, 0, 0, 0}},
                                   0,
                                   0};

/* -1 back, 0 still, 1 forward. */
static int way_of(const struct motor *m)
{
    bool back = m->other ? m->duty_other != 0 : m->back != m->reversed;
    return !m->duty && !m->duty_other ? 0 : back ? -1 : 1;
}

static void judge_write(struct judge *j, struct motor *m, unsigned was, uint32_t now, bool jumps)
{
    int way = way_of(m);
    unsigned duty = m->duty + m->duty_other;
    CHECK(!m->duty || !m->duty_other);
    CHECK(!m->braked || !duty);
    if (m->step && !jumps) CHECK((unsigned)abs((int)duty - (int)was) <= m->step + 2);
    if (way && !was) {
        m->began = now;
        if (m->way && way != m->way) {
            CHECK(now - m->stopped >= m->dead);
            j->reversals++;
        }
        m->way = way;
    }
    CHECK(!way || way == m->way); /* never from one to the other at once */
    if (!way && was) m->stopped = now;
    j->writes++;
}

static void judge_lines(struct rig *rig, struct judge *j, uint32_t now, bool jumps)
{
    char **lines = g_strsplit(rig->pins->str, "\n", -1);
    for (char **line = lines; *line && **line; line++) {
        unsigned n, value;
        char level[8];
        for (unsigned i = 0; i < 4; i++) {
            struct motor *m = &j->motors[i];
            unsigned was = m->duty + m->duty_other;
            if (sscanf(*line, "pwm %u %u", &n, &value) == 2) {
                if (n != m->channel && n != m->other) continue;
                if (n == m->channel) m->duty = value;
                if (n == m->other) m->duty_other = value;
                judge_write(j, m, was, now, jumps);
            } else if (sscanf(*line, "pin %u %7s", &n, level) == 2) {
                bool high = !strcmp(level, "high");
                if (n == m->direction) {
                    CHECK(!was || m->back == high);
                    m->back = high;
                }
                if (n == m->brake) {
                    CHECK(!was || !high);
                    m->braked = high;
                }
            }
        }
    }
    for (unsigned i = 0; i < 4; i++) {
        const struct motor *m = &j->motors[i];
        CHECK(!way_of(m) || !m->travel || now - m->began <= m->travel);
    }
    g_strfreev(lines);
    g_string_truncate(rig->pins, 0);
}

static void random_drives(void)
{
    static const char *const says[] = {
        "feed 60",     "feed -60",        "feed 100",    "feed stop",     "feed brake",
        "feed coast",  "feed forward",    "feed back",   "feed reverse",  "pace 30",
        "pace 90",     "winch forward",   "winch back",  "winch stop",    "wind 10",
        "lift",        "drums 100 -100",  "drums 40 40", "drums -7 -100", "steer left",
        "steer right", "steer spin_left", "steer back",  "steer stop",    "tempo 55",
        "halt"};
    unsigned reversals = 0, writes = 0;
    lines_seed = 5;
    for (unsigned late = 0; late < 2; late++) {
        uint32_t now = late ? UINT32_MAX - 300000 : 5000, due;
        struct rig *rig = rig_started(LEXICONS "/motors.lexicon", now);
        struct judge j = fresh;
        now = due = rig->now_ms;
        for (unsigned i = 0; i < 50000 * test_rounds() && test_failures() < 5; i++) {
            uint32_t at = now + lines_chance(lines_chance(4) ? 200 : 3000);
            while (due != at && (int32_t)(due - at) < 0) {
                now = due;
                uint32_t wait = rlx_poll(&rig->device, now);
                judge_lines(rig, &j, now, true); /* what expires stops at once */
                CHECK(wait > 0);
                due = wait > 100000 ? at : now + wait;
            }
            now = at;
            const char *say = says[lines_chance(G_N_ELEMENTS(says))];
            bool jumps = strstr("halt feed brake feed coast", say) != NULL;
            test_context("%u: '%s' at %u", i, say, now);
            rlx_poll(&rig->device, now); /* what is due by itself, apart */
            judge_lines(rig, &j, now, true);
            rig_feed(rig, 0, say, strlen(say));
            rig_feed(rig, 0, "\r", 1);
            uint32_t wait = rlx_poll(&rig->device, now);
            due = now + wait;
            judge_lines(rig, &j, now, jumps);
            while (rig->board.sending[0])
                sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
            CHECK(g_str_has_prefix(rig->sent[0]->str, "ok "));
            g_string_truncate(rig->sent[0], 0);
        }
        reversals += j.reversals;
        writes += j.writes;
        rig_free(rig);
    }
    test_context("%u reversals, %u writes", reversals, writes);
    CHECK(reversals > 3000 && writes > 100000);
}

/* Each command, a second to get there, and what the wires are then. */
static void steering(void)
{
    static const struct {
        const char *say, *state;
        unsigned left, right;
        bool left_back, right_high; /* right is reversed: high is forward */
    } cases[] = {{"tempo 40", "drums 0 0", 0, 0, false, true},
                 {"steer forward", "drums 40 40", 26214, 26214, false, true},
                 {"steer left", "drums 0 40", 0, 26214, false, true},
                 {"steer right", "drums 40 0", 26214, 0, false, true},
                 {"steer spin_left", "drums -40 40", 26214, 26214, true, true},
                 {"steer spin_right", "drums 40 -40", 26214, 26214, false, false},
                 {"tempo 100", "drums 100 -100", 65535, 65535, false, false},
                 {"steer back", "drums -100 -100", 65535, 65535, true, false},
                 {"drums 25 -75", "drums 25 -75", 16384, 49150, false, false},
                 {"steer stop", "drums 0 0", 0, 0, false, false},
                 {"steer forward", "drums 75 75", 49150, 49150, false, true}};
    struct rig *rig = rig_started(LEXICONS "/motors.lexicon", 0);
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char wanted[40];
        rig_talk(rig, 0, cases[i].say);
        rig_wait(rig, 1000);
        g_snprintf(wanted, sizeof wanted, "ok %s", cases[i].state);
        test_context("%u: %s", i, cases[i].say);
        CHECK_TEXT(g_strchomp(rig_talk(rig, 0, "drums?")), wanted);
        CHECK(abs((int)rig->board.duty[4] - (int)cases[i].left) <= 2);
        CHECK(abs((int)rig->board.duty[5] - (int)cases[i].right) <= 2);
        if (cases[i].left) CHECK_INT(rig->board.level[14], cases[i].left_back);
        if (cases[i].right) CHECK_INT(rig->board.level[15], cases[i].right_high);
    }
    CHECK_TEXT(g_strchomp(rig_talk(rig, 0, "steer forward")), "ok steer forward already");
    rig_free(rig);
}

/* Exactly: 300 ms from stop to full, and safe 2 s after the last command. */
static void ramps_and_expiry(void)
{
    struct rig *rig = rig_started(LEXICONS "/motors.lexicon", UINT32_MAX - 1000);
    rig_talk(rig, 0, "feed 100");
    rig_wait(rig, 280);
    CHECK(rig->board.duty[6] > 55000 && rig->board.duty[6] < 65535);
    rig_wait(rig, 30);
    CHECK_INT(rig->board.duty[6], 65535);
    CHECK(!rig->board.level[25] && !rig->board.level[24]);
    rig_wait(rig, 1600);
    CHECK_INT(rig->board.duty[6], 65535);
    rig_wait(rig, 200);
    CHECK_INT(rig->board.duty[6], 0);
    CHECK(rig->board.level[25]);
    CHECK_TEXT(g_strchomp(rig_talk(rig, 0, "feeder?")), "ok feeder 0");
    CHECK_TEXT(g_strchomp(rig_talk(rig, 0, "feed coast")), "ok feed coast");
    CHECK(!rig->board.level[25]);
    CHECK_TEXT(g_strchomp(rig_talk(rig, 0, "feed coast")), "ok feed coast already");
    rig_free(rig);
}

/* What the witnesses of D32 and D35 do: nothing stops it but halt; it is reversed at once. */
static void witnesses(void)
{
    struct rig *rig = rig_of_text(
        "lexicon it 1\nbuilt-in halt\noutput m motor pwm 1 at 20kHz  direction 9  safe 0%\n"
        "command m fast => m 100%\nlink l serial 9600 frame line\n");
    lexicon_check(rig->lx, rig->image);
    const struct lex_fault *fault = rig->lx->faults->pdata[0];
    CHECK_INT(rig->lx->faults->len, 1);
    CHECK_INT(fault->code, LEX_D32);
    CHECK_TALK(rig, 0, fault->witness, "ok m fast");
    rig_wait(rig, 3600000);
    CHECK_INT(rig->board.duty[1], 65535);
    CHECK_TALK(rig, 0, "halt", "ok halt");
    CHECK_INT(rig->board.duty[1], 0);
    rig_free(rig);
    rig = rig_of_text("lexicon it 1\noutput m motor pwm 1 at 20kHz  direction 9  safe 0%\n"
                      "command m {level -100..100%} => m\nlink l serial 9600 frame line\n");
    lexicon_check(rig->lx, rig->image);
    CHECK(rig->lx->faults->len == 1 &&
          ((struct lex_fault *)rig->lx->faults->pdata[0])->code == LEX_D35);
    CHECK_TALK(rig, 0, "m 100", "ok m 100");
    rig_forget(rig);
    rig_feed(rig, 0, "m -100\r", 7);
    rlx_poll(&rig->device, rig->now_ms);
    CHECK_TEXT(rig->pins->str, "pwm 1 0\npin 9 high\npwm 1 65535\n"); /* in one millisecond */
    rig_free(rig);
}

/* What goes on for too long is stopped, and told. */
static void travel_is_told(void)
{
    struct rig *rig =
        rig_of_text("lexicon x 1\noutput winch motor pwm 7 at 20kHz ramp 20ms travel 2s "
                    "safe 0%\ncommand winch {level -100..100%} => winch\n"
                    "event stuck <= winch\nlink l serial 9600 frame line\n");
    CHECK_TALK(rig, 0, "winch 50", "ok winch 50");
    rig_wait(rig, 1000);
    CHECK_TALK(rig, 0, "winch 0", "ok winch 0"); /* in time: nothing is told */
    rig_wait(rig, 5000);
    CHECK_TALK(rig, 0, "winch -50", "ok winch -50");
    rig_forget(rig);
    rig_wait(rig, 1990);
    CHECK_TEXT(rig->sent[0]->str, "");
    rig_wait(rig, 20);
    CHECK_TEXT(rig->sent[0]->str, "ev stuck\r\n");
    CHECK_INT(rig->board.duty[7], 0);
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P6: random drives, judged at the wires", random_drives},
    {"steering", steering},
    {"P5: ramps and expiry", ramps_and_expiry},
    {"the witnesses of D32 and D35", witnesses},
    {"travel is told", travel_is_told},
};
TEST_MAIN(cases)
