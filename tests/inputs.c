/* P11: inputs against a plain model, at random times: a level counts when it has lasted, held ones
 * are told when they are due, each change once and to the millisecond; across the clock's wrap. */
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { SETTLE = 20, HELD = 1000, REPEAT = 250 };

/* What the button `call` of inputs.lexicon tells, looked at each millisecond. */
struct model {
    bool raw, on;
    uint32_t since, on_since; /* milliseconds that the raw level lasts, and that it is on */
};

static const char *model_tick(struct model *m, bool raw)
{
    if (raw != m->raw) {
        m->raw = raw;
        m->since = 0;
    } else {
        m->since++;
    }
    m->on_since++;
    if (m->on != m->raw && m->since >= SETTLE) {
        m->on = m->raw;
        m->on_since = 0;
        return m->on ? "ev call pressed\r\n" : "ev call released\r\n";
    }
    if (m->on && m->on_since >= HELD && (m->on_since - HELD) % REPEAT == 0)
        return "ev call held\r\n";
    return "";
}

/* The device is polled when a pin changes and when it asked to be, never else. */
static void random_levels(void)
{
    struct rig *rig = rig_new(LEXICONS "/inputs.lexicon");
    unsigned told = 0, polls = 0;
    lines_seed = 7;
    for (unsigned late = 0; late < 2; late++) {
        struct model m = {0};
        uint32_t now = late ? UINT32_MAX - 100000 : 0, due;
        bool raw = false;
        CHECK_INT(rig_start(rig, now), 0);
        rig_run(rig);
        g_string_truncate(rig->sent[0], 0);
        now = rig->now_ms;
        due = now;
        for (unsigned tick = 0; tick < 300000 && test_failures() < 5; tick++, now++) {
            bool bounces = tick / 500 % 3 == 0, moved = !lines_chance(bounces ? 6 : 900);
            if (moved) {
                raw = !raw;
                sim_board_in(&rig->board, (struct sim_event){SIM_PIN_IN, 12, 0, !raw});
            }
            const char *wanted = model_tick(&m, raw);
            if (moved || now == due) {
                uint32_t wait = rlx_poll(&rig->device, now);
                polls++;
                due = now + wait;
                while (rig->board.sending[0])
                    sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
            }
            test_context("tick %u", tick);
            CHECK_TEXT(rig->sent[0]->str, wanted);
            told += *wanted != 0;
            g_string_truncate(rig->sent[0], 0);
            g_string_truncate(rig->sent[1], 0);
        }
    }
    test_context("%u told, %u polls", told, polls);
    CHECK(told > 500 && polls < 100000);
    rig_free(rig);
}

static const struct test_case cases[] = {{"P11: random levels", random_levels}};
TEST_MAIN(cases)
