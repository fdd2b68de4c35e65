/* P7: a memory that is spared: settings that rest after they were written, and a budget of erases;
 * against the erases that the simulated board counts, and what is there after a power cut. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"
#include "rlx/port.h"

enum { LEVEL, LABEL, DOSES, N };
enum { A_DAY = 86400000, ERASES = 6, BETWEEN = A_DAY / ERASES };
static const char *const names[N] = {"level", "label", "doses"};

static void restart(struct rig *rig, uint32_t now)
{
    rig->board.nv_kept = true;
    CHECK_INT(rig_start(rig, now), 0);
    rig_run(rig);
}

static struct rig *with_memory(struct rig *rig, uint32_t now)
{
    rig->nv_area = (uint16_t)lex_nv_area(rig->lx);
    rig->board.nv_page = rig->nv_area;
    CHECK_INT(rig_start(rig, now), 0);
    rig_run(rig);
    return rig;
}

static struct rig *fresh(uint32_t now)
{
    return with_memory(rig_new(LEXICONS "/wear.lexicon"), now);
}

static void say(struct rig *rig, unsigned setting, unsigned value)
{
    char *text = setting == LABEL ? g_strdup_printf("label \"tank %u\"", value)
                                  : g_strdup_printf("%s %u", names[setting], value);
    CHECK(g_str_has_prefix(rig_talk(rig, 0, text), "ok "));
    g_free(text);
}

/* The number in what it is told; of the label's default 0. */
static unsigned asked(struct rig *rig, unsigned setting)
{
    char *text = g_strdup_printf("%s?", names[setting]), *told = rig_talk(rig, 0, text);
    char *digit = strpbrk(told, "0123456789");
    g_free(text);
    return digit ? (unsigned)strtoul(digit, NULL, 10) : 0;
}

/* At any clock, also one that wraps: the first change is written at once, the second one when the
 * first is 10 s old, and of all between the last. */
static void rest(void)
{
    static const uint32_t starts[] = {0, 5000, 0x7FFFFFF0u - 3000u, 0x80000010u, 0u - 4000u};
    for (unsigned i = 0; i < G_N_ELEMENTS(starts); i++) {
        struct rig *rig = fresh(starts[i]);
        say(rig, LEVEL, 40);
        uint32_t from = rig->now_ms;
        rig_wait(rig, 20);
        CHECK(!rlx_setting_unsaved(&rig->device, LEVEL));
        for (unsigned k = 0; k < 9; k++) {
            say(rig, LEVEL, 50 + k);
            rig_wait(rig, 1000);
            CHECK(rlx_setting_unsaved(&rig->device, LEVEL));
        }
        say(rig, DOSES, 7); /* which does not rest */
        rig_wait(rig, 20);
        CHECK(!rlx_setting_unsaved(&rig->device, DOSES));
        rig_wait(rig, 9980 - (rig->now_ms - from));
        CHECK(rlx_setting_unsaved(&rig->device, LEVEL));
        if (i % 2)
            rig->now_ms += 5000; /* nobody polled it meanwhile */
        else
            rig_wait(rig, 60);
        rig_wait(rig, 10);
        CHECK(!rlx_setting_unsaved(&rig->device, LEVEL));
        restart(rig, rig->now_ms);
        CHECK_INT(asked(rig, LEVEL), 58);
        CHECK_INT(asked(rig, DOSES), 7);
        rig_free(rig);
    }
}

/* It asks to be polled when the rest is over, not each millisecond; and a rest that is over long
 * since is none, however long nothing changed. */
static void sleeps(void)
{
    struct rig *rig = fresh(0);
    say(rig, LABEL, 1);
    rig_wait(rig, 50);
    say(rig, LABEL, 2);
    uint32_t wait = rig_run(rig);
    test_context("%u ms", wait);
    CHECK(wait > 59000 && wait <= 60000);
    for (unsigned days = 0; days < 60; days++) {
        rig_wait(rig, A_DAY);
        CHECK(!rlx_setting_unsaved(&rig->device, LABEL));
    }
    say(rig, LABEL, 3);
    rig_wait(rig, 50);
    CHECK(!rlx_setting_unsaved(&rig->device, LABEL));
    rig_free(rig);
}

/* Changes without end: as many erases at once as there are in a day, then one each 4 hours; what is
 * there after a power cut is what was said before the last one. */
static void budget(void)
{
    struct rig *rig = fresh(77);
    unsigned value = 0, before = 0;
    while (!rlx_setting_unsaved(&rig->device, DOSES) && value < 1000) {
        before = value;
        say(rig, DOSES, ++value);
        rig_wait(rig, 20);
    }
    uint32_t from = rig->now_ms;
    CHECK_INT(rig->board.nv_erased, ERASES);
    test_context("%u changes", value);
    CHECK(value > ERASES * lex_nv_changes(rig->lx, lexicon_setting(rig->lx, "doses")));
    for (unsigned i = 0; i < 500; i++) {
        say(rig, DOSES, ++value);
        rig_wait(rig, 1000);
    }
    CHECK(rlx_setting_unsaved(&rig->device, DOSES));
    rig_wait(rig, BETWEEN - 5000 - (rig->now_ms - from));
    CHECK_INT(rig->board.nv_erased, ERASES);
    rig_wait(rig, 6000);
    CHECK_INT(rig->board.nv_erased, ERASES + 1);
    CHECK(!rlx_setting_unsaved(&rig->device, DOSES));
    CHECK(g_str_has_suffix(g_strchomp(rig_talk(rig, 0, "stats")), " erases 7"));
    restart(rig, 0);
    CHECK_INT(asked(rig, DOSES), value);
    CHECK(before < value);
    CHECK(g_str_has_suffix(g_strchomp(rig_talk(rig, 0, "stats")), " erases 7"));
    rig_free(rig);
}

/* At random, hours and restarts between: never more erases than the budget has, all of them
 * counted; what was told as saved is there, and a day later all is. */
static void at_random(void)
{
    struct rig *rig = fresh(123);
    unsigned said[N] = {5, 0, 0}, kept[N] = {5, 0, 0}, restarts = 0, held = 0;
    GArray *erases = g_array_new(FALSE, FALSE, sizeof(uint32_t)); /* when, since it started */
    lines_seed = 41;
    for (unsigned n = 0; n < 20000 && test_failures() < 5; n++) {
        unsigned setting = lines_chance(N), was = rig->board.nv_erased;
        said[setting] = 1 + lines_chance(100);
        say(rig, setting, said[setting]);
        rig_wait(rig, lines_chance(40) ? 5 + lines_chance(3000) : lines_chance(3 * 3600000));
        for (; was < rig->board.nv_erased; was++) g_array_append_val(erases, rig->now_ms);
        for (unsigned i = 0; i < erases->len; i++) {
            double ms = rig->now_ms - g_array_index(erases, uint32_t, i);
            CHECK(erases->len - i <= ERASES + ms / BETWEEN + 1);
        }
        for (unsigned i = 0; i < N; i++)
            if (!rlx_setting_unsaved(&rig->device, (uint8_t)i)) kept[i] = said[i];
        held += kept[DOSES] != said[DOSES];
        if (lines_chance(60)) continue;
        restarts++;
        restart(rig, rig->now_ms);
        g_array_set_size(erases, 0);
        for (unsigned i = 0; i < N; i++) {
            test_context("%s after restart %u", names[i], restarts);
            CHECK_INT(asked(rig, i), kept[i]);
            said[i] = kept[i];
        }
    }
    rig_wait(rig, A_DAY);
    for (unsigned i = 0; i < N; i++) CHECK(!rlx_setting_unsaved(&rig->device, (uint8_t)i));
    char *counted = g_strdup_printf(" erases %u\n", rig->board.nv_erased);
    CHECK(g_str_has_suffix(rig_talk(rig, 0, "stats"), counted));
    test_context("%u restarts, %u held back, %s", restarts, held, counted);
    CHECK(restarts > 100 && held > 100 && rig->board.nv_erased > 100);
    g_free(counted);
    g_array_free(erases, TRUE);
    rig_free(rig);
}

/* The number outlasts a power cut at each byte, but for the erase in hand, and a lexicon with other
 * settings; a memory that nobody counted begins with none. */
static void counted(void)
{
    for (unsigned left = 1; left < 2500; left += 7) {
        struct rig *rig = fresh(0);
        rig->board.nv_left = left;
        for (unsigned i = 1; i <= 60 && !rig->board.nv_dead; i++) {
            say(rig, DOSES, i);
            rig_wait(rig, 20);
        }
        rig->board.nv_left = 0;
        unsigned erased = rig->board.nv_erased;
        restart(rig, 0);
        unsigned told = rig->device.wear.erases;
        test_context("cut at byte %u: %u erased, %u told", left, erased, told);
        CHECK(told == erased || told + 1 == erased);
        rig_free(rig);
    }
    struct rig *rig = fresh(0), *other;
    for (unsigned i = 1; i <= 60; i++) {
        say(rig, DOSES, i);
        rig_wait(rig, 20);
    }
    unsigned erased = rig->board.nv_erased;
    CHECK(erased > 2);
    other = rig_of_text("lexicon other 1\nbuilt-in stats state\n"
                        "memory 2 pages of 128 bytes  endurance 10000\nsetting days {0..9} = 1\n"
                        "output pump relay pin 4 safe off\ncommand pump {on|off} => pump\n"
                        "link bench serial 115200 frame line\n");
    with_memory(other, 0);
    CHECK_INT(other->device.wear.erases, 0);
    memcpy(other->board.nv, rig->board.nv, sizeof rig->board.nv);
    other->board.nv_erased = erased;
    restart(other, 0);
    CHECK_INT(other->device.wear.erases, erased);
    CHECK_TALK(other, 0, "days?", "ok days 1");
    for (unsigned i = 0; i < 40; i++) {
        rig_talk(other, 0, i & 1 ? "days 2" : "days 3");
        rig_wait(other, 20);
    }
    CHECK(other->board.nv_erased > erased + 1);
    CHECK_INT(other->device.wear.erases, other->board.nv_erased);
    rig_free(other);
    memset(rig->board.nv + 4, 0x11, 3); /* of both areas: somebody else's bytes */
    memset(rig->board.nv + 128 + 4, 0x22, 3);
    restart(rig, 0);
    CHECK_INT(rig->device.wear.erases, 0);
    rig_free(rig);
}

/* A page that is worn out is tried again only as the budget has it. */
static void worn_out(void)
{
    struct rig *rig = fresh(0);
    for (unsigned i = 1; i <= 12; i++) {
        say(rig, DOSES, i);
        rig_wait(rig, 20);
    }
    rig->board.nv_worn = true;
    for (unsigned i = 1; i <= 40; i++) {
        say(rig, DOSES, 100 + i);
        rig_wait(rig, 200);
    }
    CHECK(rlx_setting_unsaved(&rig->device, DOSES));
    unsigned erased = rig->board.nv_erased;
    rig_wait(rig, 2 * A_DAY);
    test_context("%u erases, then %u", erased, rig->board.nv_erased);
    CHECK(erased <= ERASES && rig->board.nv_erased <= 3 * ERASES + 1);
    CHECK(rig->board.nv_erased > 2 * ERASES - 2);
    rig->board.nv_worn = false;
    rig_wait(rig, BETWEEN + 1000);
    CHECK(!rlx_setting_unsaved(&rig->device, DOSES));
    rig_free(rig);
}

/* Where the budget is used up, wrong codes are still counted over a restart: who changes settings
 * does not get more guesses. */
static void records(void)
{
    struct rig *rig = rig_of_text(
        "lexicon guess 1\nbuilt-in state halt\nmemory 2 pages of 256 bytes  erases 1 a day\n"
        "setting doses {0..30000} = 0\nsetting pin {text 6..8} = \"471108\"\n"
        "output service led pin 13 safe off\noutput pump relay pin 4 safe off\n"
        "command pump {on|off} => pump\ncommand unlock {code text 6..8} => service on  code pin\n"
        "link bench serial 115200 frame line\n");
    with_memory(rig, 0);
    for (unsigned i = 1; i < 200; i++) {
        char *text = g_strdup_printf("doses %u", i);
        rig_talk(rig, 0, text);
        rig_wait(rig, 20);
        g_free(text);
    }
    CHECK(rlx_setting_unsaved(&rig->device, 0));
    CHECK_INT(rig->board.nv_erased, 1);
    for (unsigned i = 0; i < 5; i++) {
        rig_talk(rig, 0, "unlock \"000000\"");
        rig_wait(rig, 50);
    }
    unsigned erased = rig->board.nv_erased;
    CHECK(erased > 1);
    for (unsigned i = 0; i < 200; i++) {
        rig_talk(rig, 0, i & 1 ? "doses 199" : "doses 198");
        rig_wait(rig, 20);
    }
    CHECK_INT(rig->board.nv_erased, erased); /* that gave them no new budget */
    restart(rig, rig->now_ms);
    CHECK_TALK(rig, 0, "unlock \"471108\"", "err denied unlock at 0");
    CHECK_TALK(rig, 0, "doses?", "ok doses 199"); /* which went along */
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P7: a setting rests after it was written", rest},
    {"P7: it sleeps as long as a setting rests", sleeps},
    {"P7: a budget of erases", budget},
    {"P7: a budget of erases, at random", at_random},
    {"P7: erases are counted over power cuts", counted},
    {"P7: a worn page and a budget", worn_out},
    {"P7: what must not happen twice is written at once", records},
};
TEST_MAIN(cases)
