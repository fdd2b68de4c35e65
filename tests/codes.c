/* Who guesses the code of a command: at random over two links, with waits and restarts, against the
 * pauses that docs/lexicon.md has. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { LINKS = 2, GUESSES = 5, MOST = 11, MINUTE = 60000 };

static struct rig *fresh(void)
{
    return rig_of_text("lexicon codes 1\nbuilt-in state\nsetting pin {text 0..8} = \"471108\"\n"
                       "output service led pin 13 safe off\ncommand lock => service off\n"
                       "command unlock {code text 0..8} => service on  code pin\n"
                       "event guessing <= pin to bench\n"
                       "link bench serial 115200 frame line\nlink desk serial 115200 frame line\n");
}

/* Says it, and counts the events since the last time. */
static bool opens(struct rig *rig, unsigned link, const char *code, unsigned *events)
{
    char *text = g_strdup_printf("unlock \"%s\"", code), *told = rig_talk(rig, link, text);
    bool ok = strstr(told, "ok unlock") != NULL;
    CHECK(ok != (strstr(told, "err denied unlock") != NULL));
    g_free(text);
    rig_wait(rig, 50);
    for (const char *p = rig->sent[0]->str; (p = strstr(p, "ev guessing")); p++) ++*events;
    g_string_truncate(rig->sent[0], 0);
    CHECK_INT(rig->board.level[13], ok);
    rig_talk(rig, link, "lock");
    return ok;
}

/* What a link should do. */
struct model {
    unsigned wrong;
    bool pauses;
    uint32_t until;
};

static void begin_pause(struct model *m, uint32_t now)
{
    m->pauses = m->wrong >= GUESSES;
    if (m->pauses) m->until = now + ((uint32_t)MINUTE << (m->wrong - GUESSES));
}

static void at_random(void)
{
    struct rig *rig = fresh();
    struct model models[LINKS] = {{0, false, 0}};
    unsigned opened = 0, refused = 0, events = 0, wanted = 0, restarts = 0, most = 0;
    lines_seed = 97;
    for (unsigned n = 0; n < 30000 && test_failures() < 5; n++) {
        unsigned link = lines_chance(LINKS);
        struct model *m = &models[link];
        bool right = !lines_chance(8);
        for (unsigned i = 0; i < LINKS; i++)
            if (models[i].pauses && (int32_t)(rig->now_ms - models[i].until) >= 0)
                models[i].pauses = false;
        if (m->pauses && m->until - rig->now_ms < 200) { /* not to the millisecond */
            rig_wait(rig, 400);
            continue;
        }
        test_context("link %u, %u wrong, %s, code %s", link, m->wrong,
                     m->pauses ? "a pause" : "none", right ? "right" : "wrong");
        uint32_t now = rig->now_ms;
        bool ok = opens(rig, link, right ? "471108" : lines_chance(2) ? "471109" : "", &events);
        CHECK_INT(ok, right && !m->pauses);
        opened += ok;
        refused += right && !ok;
        if (!m->pauses && !right) {
            m->wrong = MIN(m->wrong + 1, MOST);
            begin_pause(m, now);
            wanted += m->pauses;
        } else if (!m->pauses) {
            m->wrong = m->wrong < GUESSES ? 0 : m->wrong - 1;
        }
        most = MAX(most, m->wrong);
        CHECK_INT(events, wanted);
        if (!lines_chance(3)) rig_wait(rig, lines_chance(4) ? 30 * MINUTE : 70 * MINUTE);
        if (lines_chance(50)) continue;
        rig->board.nv_kept = true;
        CHECK_INT(rig_start(rig, rig->now_ms), 0);
        rig_run(rig);
        rig_forget(rig);
        for (unsigned i = 0; i < LINKS; i++) begin_pause(&models[i], rig->now_ms);
        restarts++;
    }
    test_context("%u opened, %u refused though right, %u pauses, %u restarts, %u wrong at most",
                 opened, refused, wanted, restarts, most);
    CHECK(opened > 500 && refused > 500 && wanted > 500 && restarts > 200 && most == MOST);
    rig_free(rig);
}

/* An empty code opens nothing; and before the memory has told how many were wrong, none does. */
static void nothing_opens(void)
{
    struct rig *rig = fresh();
    unsigned events = 0;
    CHECK_TALK(rig, 0, "pin \"\"", "ok pin \"\"");
    CHECK(!opens(rig, 0, "", &events));
    CHECK_TALK(rig, 0, "pin \"123456\"", "ok pin \"123456\"");
    for (unsigned i = 0; i < GUESSES; i++) CHECK(!opens(rig, 0, "000000", &events));
    rig_wait(rig, 500);
    rig->board.nv_kept = true;
    rig->board.nv_refuses = 1000000;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    rig_run(rig);
    CHECK(!opens(rig, 1, "123456", &events));
    rig->board.nv_refuses = 0;
    rig_wait(rig, 3000);
    CHECK(opens(rig, 1, "123456", &events));
    CHECK(!opens(rig, 0, "123456", &events)); /* which is known again, too */
    rig_wait(rig, MINUTE + 1000);
    CHECK(opens(rig, 0, "123456", &events));
    CHECK_INT(events, 1);
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"guesses at random", at_random},
    {"no code opens", nothing_opens},
};
TEST_MAIN(cases)
