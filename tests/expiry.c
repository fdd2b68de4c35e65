/* P5, P6, P11: outputs that expire, against a model with a due time for each; to the millisecond,
 * across the wrap of the clock. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { PUMP, LAMP, GLOW, OUTPUTS };

struct model {
    int level[OUTPUTS]; /* percent */
    bool armed[OUTPUTS], to_off[OUTPUTS];
    uint64_t due[OUTPUTS], now; /* ms, never wrapping */
};

static const int safe[OUTPUTS] = {100, 0, 20};

static void tell(struct model *m, int output, int level, uint32_t lasts, bool to_off)
{
    m->level[output] = level;
    if (!lasts && m->armed[output] && !m->to_off[output]) return; /* an expiry is never dropped */
    m->armed[output] = lasts != 0;
    m->to_off[output] = to_off;
    m->due[output] = m->now + lasts;
}

static void expire(struct model *m)
{
    for (int i = 0; i < OUTPUTS; i++) {
        if (!m->armed[i] || m->due[i] > m->now) continue;
        m->level[i] = m->to_off[i] ? 0 : safe[i];
        m->armed[i] = false;
    }
}

/* Milliseconds until the next one goes; UINT32_MAX: none will. */
static uint32_t next_due(const struct model *m)
{
    uint32_t wait = UINT32_MAX;
    for (int i = 0; i < OUTPUTS; i++)
        if (m->armed[i]) wait = MIN(wait, (uint32_t)(m->due[i] - m->now));
    return wait;
}

/* One random line, and what the model makes of it. */
static const char *random_line(struct model *m)
{
    switch (lines_chance(9)) {
    case 0: tell(m, PUMP, 0, 500, false); return "pump off\r";
    case 1: tell(m, PUMP, 100, 500, false); return "pump on\r";
    case 2: tell(m, LAMP, 100, 200, true); return "lamp short\r";
    case 3: tell(m, LAMP, 100, 0, false); return "lamp on\r";
    case 4: tell(m, GLOW, 70, 1000, false); return "glow 70\r";
    case 5: tell(m, GLOW, 30, 0, false); return "glow steady 30\r";
    case 6: tell(m, LAMP, 100, 300, false); return "set lamp on\r";
    case 7: return "pump of\r"; /* refused: renews nothing */
    default: return "glow 170; pump off\r";
    }
}

static bool same(struct rig *rig, const struct model *m)
{
    return CHECK_INT(rlx_output_is_on(&rig->device, PUMP), m->level[PUMP] != 0) &&
           CHECK_INT(rlx_output_is_on(&rig->device, LAMP), m->level[LAMP] != 0) &&
           CHECK_INT(rlx_output_percent(&rig->device, GLOW), m->level[GLOW]);
}

static void poll_at(struct rig *rig, const struct model *m, uint32_t start)
{
    uint32_t now = start + (uint32_t)m->now, wait = rlx_poll(&rig->device, now);
    CHECK_INT(wait, next_due(m));
    rig->now_ms = now;
}

static void random_commands(void)
{
    static const uint32_t starts[] = {0, UINT32_MAX - 20000, 0x7FFFFFFF - 20000};
    for (unsigned k = 0; k < G_N_ELEMENTS(starts); k++) {
        struct rig *rig = rig_new(LEXICONS "/expiry.lexicon");
        struct model m = {.level = {100, 0, 20}};
        lines_seed = k + 1;
        CHECK_INT(rig_start(rig, starts[k]), 0);
        for (unsigned i = 0; i < 20000 && test_failures() < 5; i++) {
            uint32_t wait = lines_chance(2) ? lines_chance(300) : next_due(&m);
            m.now += wait == UINT32_MAX ? 5000 : wait;
            expire(&m);
            poll_at(rig, &m, starts[k]);
            const char *line = random_line(&m);
            test_context("start %u, at %u ms: '%s'", starts[k], (unsigned)m.now, line);
            rig_feed(rig, 0, line, strlen(line));
            poll_at(rig, &m, starts[k]);
            if (!same(rig, &m)) break;
            while (rig->board.sending[0]) /* the answer leaves */
                sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
            g_string_truncate(rig->sent[0], 0);
            g_string_truncate(rig->pins, 0);
        }
        rig_free(rig);
    }
}

static const struct test_case cases[] = {
    {"P5, P6, P11: random commands and times", random_commands},
};
TEST_MAIN(cases)
