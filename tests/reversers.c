/* P6, P11: reversers, judged at the simulated pins: random commands, switches and times, with the
 * device polled only when a pin changed or it asked to be. Never both relays, never on into an
 * active end, never a reversal without its dead time, never longer than its travel; and exact
 * stories. */
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { UPPER = 22, LOWER = 23 };

struct relay {
    unsigned pin, other, dead, travel;
    bool active_low;
    int until; /* pin of the switch that ends it, -1: none */
    bool until_low;
    bool on;
    uint32_t since;
};

struct judge {
    struct relay relays[4];
    unsigned moves, stops;
};

static const struct judge fresh = {{{7, 1, 200, 30000, false, UPPER, false, false, 0},
                                    {8, 0, 200, 30000, false, LOWER, true, false, 0},
                                    {9, 3, 300, 5000, true, -1, false, false, 0},
                                    {10, 2, 300, 5000, true, -1, false, false, 0}},
                                   0,
                                   0};

static bool at_end(const struct rig *rig, const struct relay *r)
{
    return r->until >= 0 && rig->board.level[r->until] != r->until_low;
}

/* After each poll. */
static void judge_pins(struct rig *rig, struct judge *j, uint32_t now)
{
    for (unsigned i = 0; i < 4; i++) {
        struct relay *r = &j->relays[i], *other = &j->relays[r->other];
        bool on = rig->board.level[r->pin] != r->active_low;
        if (on && !r->on) {
            CHECK(now - other->since >= r->dead || !other->since);
            CHECK(!at_end(rig, r));
            j->moves++;
        }
        if (on != r->on) r->since = now ? now : 1;
        j->stops += r->on && !on;
        r->on = on;
        CHECK(!on || !at_end(rig, r));
        CHECK(!on || now - r->since < r->travel);
    }
    CHECK(!(j->relays[0].on && j->relays[1].on) && !(j->relays[2].on && j->relays[3].on));
}

static void random_moves(void)
{
    static const char *const says[] = {"gate open", "gate close", "gate stop", "turn",  "lid open",
                                       "lid close", "lid stop",   "raise",     "gate?", "halt"};
    unsigned moves = 0, stops = 0, told = 0;
    lines_seed = 11;
    for (unsigned late = 0; late < 2; late++) {
        uint32_t now = late ? UINT32_MAX - 500000 : 5000, due;
        struct rig *rig = rig_started(LEXICONS "/gate.lexicon", now);
        struct judge j = fresh;
        now = due = rig->now_ms;
        sim_board_in(&rig->board, (struct sim_event){SIM_PIN_IN, UPPER, 0, 0});
        for (unsigned i = 0; i < 100000 * test_rounds() && test_failures() < 5; i++) {
            uint32_t at = now + lines_chance(lines_chance(5) ? 300 : 9000);
            while (due != at && (int32_t)(due - at) < 0) {
                now = due;
                uint32_t wait = rlx_poll(&rig->device, now);
                judge_pins(rig, &j, now);
                CHECK(wait > 0);
                due = wait > 100000 ? at : now + wait;
            }
            now = at;
            test_context("%u at %u", i, now);
            if (lines_chance(3)) {
                const char *say = says[lines_chance(G_N_ELEMENTS(says) * 3 - 2) / 3];
                rig_feed(rig, 0, say, strlen(say));
                rig_feed(rig, 0, "\r", 1);
            } else { /* a switch goes on, off, or chatters */
                uint8_t pin = lines_chance(2) ? UPPER : LOWER;
                sim_board_in(&rig->board, (struct sim_event){SIM_PIN_IN, pin, 0, lines_chance(2)});
            }
            uint32_t wait = rlx_poll(&rig->device, now);
            due = now + wait;
            judge_pins(rig, &j, now);
            while (rig->board.sending[0])
                sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
            CHECK(!strstr(rig->sent[0]->str, "err"));
            told += strstr(rig->sent[0]->str, "ev ") != NULL;
            g_string_truncate(rig->sent[0], 0);
        }
        moves += j.moves;
        stops += j.stops;
        rig_free(rig);
    }
    test_context("%u moves, %u stops, %u told", moves, stops, told);
    CHECK(moves > 10000 && stops > 10000 && told > 2000);
}

/* An end that is active already, both of them, and a switch that never comes. */
static void odd_ends(void)
{
    struct rig *rig = rig_started(LEXICONS "/gate.lexicon", 0);
    CHECK_TALK(rig, 0, "gate?", "ok gate open"); /* a cut wire looks like the end */
    CHECK_TALK(rig, 0, "gate open", "ok gate open already");
    CHECK_TEXT(rig->pins->str, "");
    rig_do(rig, "! lower on");
    CHECK_TALK(rig, 0, "gate?", "ok gate both");
    CHECK_TALK(rig, 0, "gate close", "ok gate close already");
    CHECK_TALK(rig, 0, "turn", "ok turn already");
    CHECK_TEXT(rig->pins->str, "");
    rig_do(rig, "! upper off");
    CHECK_TALK(rig, 0, "gate open", "ok gate open");
    rig_wait(rig, 29000);
    CHECK_TALK(rig, 0, "gate?", "ok gate opening");
    g_string_truncate(rig->sent[0], 0);
    rig_wait(rig, 2000);
    CHECK_TEXT(rig->sent[0]->str, "ev gate late\r\n");
    CHECK_TALK(rig, 0, "gate?", "ok gate late");
    CHECK_TALK(rig, 0, "gate stop", "ok gate stop already");
    CHECK_TALK(rig, 0, "gate open", "ok gate open"); /* it may try again */
    rig_do(rig, "! upper on");
    CHECK_TALK(rig, 0, "gate?", "ok gate both");
    rig_free(rig);
}

/* Where nothing sees an end, the time that it was driven tells where it is. */
static void places(void)
{
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig = rig_started(LEXICONS "/gate.lexicon", late ? UINT32_MAX - 7000 : 0);
        CHECK_TALK(rig, 0, "lid?", "ok lid stop"); /* nobody knows where */
        CHECK_TALK(rig, 0, "lid open", "ok lid open");
        rig_wait(rig, 5400);
        CHECK_TALK(rig, 0, "lid?", "ok lid open");
        CHECK_TALK(rig, 0, "lid open", "ok lid open already");
        CHECK_TALK(rig, 0, "lid close", "ok lid close");
        rig_wait(rig, 2000);
        CHECK_TALK(rig, 0, "lid?", "ok lid closing 59%");
        CHECK_TALK(rig, 0, "lid stop", "ok lid stop");
        CHECK_TALK(rig, 0, "lid?", "ok lid stop 59%");
        CHECK_TALK(rig, 0, "lid open", "ok lid open waiting 298ms");
        rig_wait(rig, 400);
        CHECK_TALK(rig, 0, "lid?", "ok lid opening 62%");
        rig_forget(rig);
        rig_wait(rig, 2300); /* what was left, and a sixteenth of its way more */
        CHECK_TEXT(rig->sent[0]->str, "ev lid open\r\n");
        CHECK_TALK(rig, 0, "lid?", "ok lid open");
        rig_free(rig);
    }
}

static const struct test_case cases[] = {
    {"P6: random moves, judged at the pins", random_moves},
    {"P6: odd ends", odd_ends},
    {"P11: places by time", places},
};
TEST_MAIN(cases)
