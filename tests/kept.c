/* P5: kept events: a power cut at each byte of the memory loses none that was told as written, and
 * brings none back that was acknowledged; links that are down; other events' records. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "rig.h"

enum { BENCH, SKIFF, LINKS };
enum { FLOOD, DOOR, ALGAE, GATE };

static const char *const texts[] = {"flood high", "flood low", "algae",
                                    "gate open",  "gate shut", "door opened"};
enum { TEXTS = sizeof texts / sizeof *texts };

static void restart(struct rig *rig, unsigned left)
{
    rig->board.nv_kept = true;
    rig->board.nv_left = left;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    rig_do(rig, "! up skiff");
    rig_run(rig);
}

static struct rig *rig_fresh(void)
{
    struct rig *rig = rig_new(LEXICONS "/kept.lexicon");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_do(rig, "! up skiff");
    return rig;
}

static unsigned heard_in(const char *lines)
{
    unsigned heard = 0;
    for (unsigned i = 0; i < TEXTS; i++) {
        const char *at = strstr(lines, texts[i]);
        if (at && g_ascii_isspace(at[strlen(texts[i])])) heard |= 1u << i;
    }
    return heard;
}

/* Says got as long as there is something to get; what was heard, a bit for each text. */
static unsigned get_all(struct rig *rig, unsigned link)
{
    rig_run(rig);
    unsigned heard = heard_in(rig->sent[link]->str);
    for (unsigned i = 0; i < TEXTS; i++) heard |= heard_in(rig_talk(rig, link, "got"));
    g_string_truncate(rig->sent[link], 0);
    return heard;
}

/* ---- a power cut at each byte ---- */

/* Step n: an event happens, or a link gets all, or a setting changes. */
static void step(struct rig *rig, unsigned n)
{
    static const struct {
        uint8_t event, word;
    } events[] = {{FLOOD, 0}, {ALGAE, 0}, {GATE, 1}, {FLOOD, 1}, {DOOR, 0}, {GATE, 0}};
    if (n % 4 < 2)
        rlx_event(&rig->device, events[n % 6].event, events[n % 6].word);
    else if (n % 4 == 2)
        get_all(rig, n / 4 % 2);
    else
        rig_talk(rig, BENCH, n % 8 == 3 ? "night 7" : "night 9");
    rig_wait(rig, 60);
}

/* What is pending on a link after so many steps; door is not kept. */
static unsigned pending(unsigned link, unsigned steps)
{
    static const unsigned bits[] = {1, 4, 1u << 4, 2, 0, 1u << 3};
    unsigned all = 0;
    for (unsigned n = 0; n < steps; n++) {
        bool gate = bits[n % 6] & 3u << 3;
        if (n % 4 < 2 && !(gate && link == SKIFF)) all |= bits[n % 6];
        if (n % 4 == 2 && n / 4 % 2 == link) all = 0;
    }
    return all;
}

static void power_cuts(void)
{
    enum { STEPS = 64 };
    unsigned cuts = 0, late = 0;
    for (unsigned left = 1;; left++) {
        struct rig *rig = rig_fresh();
        unsigned n = 0;
        restart(rig, left);
        for (; n < STEPS && !rig->board.nv_dead; n++) step(rig, n);
        bool cut = rig->board.nv_dead;
        restart(rig, 0);
        for (unsigned link = 0; link < LINKS; link++) {
            unsigned now = get_all(rig, link), was = pending(link, cut ? n - 1 : n),
                     then = pending(link, n);
            test_context("cut at byte %u, in step %u, link %u: %x of %x, %x", left, n, link, now,
                         was, then);
            CHECK((was & then & ~now) == 0);
            CHECK((now & ~(was | then)) == 0);
            late += now != then;
        }
        rig_wait(rig, 60);
        restart(rig, 0);
        CHECK_INT(get_all(rig, BENCH), 0);
        CHECK_INT(get_all(rig, SKIFF), 0);
        rig_free(rig);
        if (!cut || test_failures() > 3) break;
        cuts++;
    }
    test_context("%u cuts, %u with the step in hand", cuts, late);
    CHECK(cuts > 500 && late > 10);
}

/* ---- other than that ---- */

static void waits_for_its_link(void)
{
    struct rig *rig = rig_fresh();
    rig_do(rig, "! down skiff");
    rlx_event(&rig->device, FLOOD, 1);
    rlx_event(&rig->device, DOOR, 0);
    rig_wait(rig, 60);
    CHECK_INT(get_all(rig, SKIFF), 0);
    rig_do(rig, "! up skiff");
    CHECK_INT(get_all(rig, SKIFF), 2);
    rlx_event(&rig->device, FLOOD, 0);
    rlx_event(&rig->device, DOOR, 0);
    rig_run(rig);
    g_string_truncate(rig->sent[SKIFF], 0);
    rig_do(rig, "! down skiff");
    rig_do(rig, "! up skiff"); /* it comes again, the other one does not */
    CHECK_INT(get_all(rig, SKIFF), 1);
    rig_free(rig);
}

/* Nothing is written where nothing is pending, and nothing again for what is pending already. */
static void writes_only_changes(void)
{
    struct rig *rig = rig_fresh();
    rig_wait(rig, 60);
    for (unsigned i = 0; i < sizeof rig->board.nv; i++) CHECK_INT(rig->board.nv[i], 0xFF);
    rlx_event(&rig->device, FLOOD, 0);
    rig_wait(rig, 60);
    uint8_t *kept = g_memdup2(rig->board.nv, sizeof rig->board.nv);
    for (unsigned i = 0; i < 20; i++) {
        rlx_event(&rig->device, FLOOD, 0);
        rlx_event(&rig->device, DOOR, i & 1);
        rig_wait(rig, 60);
    }
    CHECK(!memcmp(kept, rig->board.nv, sizeof rig->board.nv));
    g_free(kept);
    rig_free(rig);
}

/* A memory that can be read only later: what it holds is told then, with what happened meanwhile.
 */
static void read_later(void)
{
    struct rig *rig = rig_fresh();
    rlx_event(&rig->device, FLOOD, 0);
    rlx_event(&rig->device, GATE, 1);
    rig_wait(rig, 60);
    g_string_truncate(rig->sent[BENCH], 0);
    rig->board.nv_refuses = 1000000;
    restart(rig, 0);
    rlx_event(&rig->device, ALGAE, 0);
    rig_wait(rig, 60);
    CHECK_INT(get_all(rig, BENCH), 4);
    rig->board.nv_refuses = 0;
    rig_wait(rig, 3000);
    CHECK_INT(get_all(rig, BENCH), 1 | 1 << 4);
    rig_free(rig);
}

/* The record of other kept events is nobody's, the settings beside it are. */
static void other_events(void)
{
    struct rig *rig = rig_fresh();
    char *text;
    rlx_event(&rig->device, FLOOD, 0);
    rig_talk(rig, BENCH, "night 42");
    rig_wait(rig, 60);
    CHECK(g_file_get_contents(LEXICONS "/kept.lexicon", &text, NULL, NULL));
    GString *other = g_string_new(text);
    g_string_replace(other, "flood {high|low}", "flood {low|high}", 0);
    struct rig *next = rig_of_text(other->str);
    memcpy(next->board.nv, rig->board.nv, sizeof next->board.nv);
    restart(next, 0);
    CHECK_INT(get_all(next, BENCH), 0);
    CHECK_TEXT(rig_talk(next, BENCH, "night?"), "ok night 42\n");
    rlx_event(&next->device, FLOOD, 0); /* which is low there */
    rig_wait(next, 60);
    restart(next, 0);
    CHECK_INT(get_all(next, BENCH), 2);
    g_string_free(other, TRUE);
    g_free(text);
    rig_free(rig);
    rig_free(next);
}

static const struct test_case cases[] = {
    {"P5: kept events and a power cut at each byte", power_cuts},
    {"a kept event waits for its link", waits_for_its_link},
    {"only changes of what is pending are written", writes_only_changes},
    {"a memory that is read later", read_later},
    {"the record of other events", other_events},
};

int main(int argc, char **argv)
{
    return test_main(argc, argv, cases, G_N_ELEMENTS(cases));
}
