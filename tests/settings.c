/* P5, P7: settings and their non-volatile memory: power cuts at every byte that is written, a
 * memory that is slow, refuses or holds rubbish, another lexicon's settings; against what was said.
 */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"
#include "rlx/port.h"

enum { N = 7 };
static const char *const names[N] = {"dimming", "phones", "night", "warm", "span", "days", "base"};
static const char *const values[N][4] = {
    {"eye", "linear", "eye", "linear"},
    {"\"+15550142\"", "\"\"", "\"+15550142 +15550143\"", "\"x\""},
    {"5", "0", "100", "37"},
    {"18.5", "5.0", "32.5", "20.0"},
    {"90s", "250ms", "5min", "1500ms"},
    {"mon+fri", "none", "wed", "mon+wed+fri"},
    {"0x10", "0x0", "0xFFFF", "0xABC"}};

static struct rig *rig_fresh(void)
{
    struct rig *rig = rig_new(LEXICONS "/settings.lexicon");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    return rig;
}

static void restart(struct rig *rig, unsigned left)
{
    rig->board.nv_kept = true;
    rig->board.nv_left = left;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    rig_run(rig);
}

static void say(struct rig *rig, unsigned setting, unsigned value)
{
    char *text = g_strdup_printf("%s %s", names[setting], values[setting][value]);
    const char *told = rig_talk(rig, 0, text);
    test_context("%s: %s", text, told);
    CHECK(g_str_has_prefix(told, "ok "));
    g_free(text);
}

/* Which value it has; -1: it is still to be written. */
static int asked(struct rig *rig, unsigned setting)
{
    char *ask = g_strdup_printf("%s?", names[setting]);
    char *told = g_strchomp(g_strdup(rig_talk(rig, 0, ask)));
    int found = g_str_has_suffix(told, " unsaved") ? -1 : -2;
    for (int i = 3; i >= 0 && found == -2; i--) {
        char *wanted = g_strdup_printf("ok %s %s", names[setting], values[setting][i]);
        if (!strcmp(told, wanted)) found = i;
        g_free(wanted);
    }
    test_context("%s %s", ask, told);
    CHECK(found != -2);
    g_free(told);
    g_free(ask);
    return found;
}

static bool same(unsigned setting, int a, int b)
{
    return !strcmp(values[setting][a], values[setting][b]);
}

/* The n'th change of all: which setting, and to what. */
static void change(unsigned n, unsigned *setting, unsigned *value)
{
    *setting = n * 5 % N;
    *value = (n / N + n % N) % 4;
}

/* The settings after `n` changes. */
static void after(unsigned n, int state[N])
{
    memset(state, 0, N * sizeof *state);
    for (unsigned i = 0; i < n; i++) {
        unsigned setting, value;
        change(i, &setting, &value);
        state[setting] = (int)value;
    }
}

static bool is_after(const int state[N], unsigned n)
{
    int wanted[N];
    after(n, wanted);
    for (unsigned i = 0; i < N; i++)
        if (!same(i, state[i], wanted[i])) return false;
    return true;
}

/* Says up to `most` changes, each until it is written or the power is cut; returns how many were
 * written, *begun how many said. */
static unsigned say_changes(struct rig *rig, unsigned most, unsigned *begun)
{
    for (unsigned n = 0; n < most; n++) {
        unsigned setting, value;
        change(n, &setting, &value);
        say(rig, setting, value);
        *begun = n + 1;
        rig_wait(rig, 50);
        if (rig->board.nv_dead) return n;
        CHECK(asked(rig, setting) >= 0);
    }
    return most;
}

/* At each byte of the memory that is written or erased: what holds afterwards is what held after
 * some change, never before the last one that was told as written, and never a mixture. */
static void power_cuts(void)
{
    enum { CHANGES = 120 };
    unsigned cuts = 0, late = 0;
    for (unsigned left = 1;; left++) {
        struct rig *rig = rig_fresh();
        unsigned begun = 0;
        restart(rig, left);
        unsigned written = say_changes(rig, CHANGES, &begun);
        bool cut = rig->board.nv_dead;
        restart(rig, 0);
        int state[N];
        for (unsigned i = 0; i < N; i++) state[i] = asked(rig, i);
        test_context("cut at byte %u, %u of %u written", left, written, begun);
        CHECK(is_after(state, written) || is_after(state, begun));
        late += !is_after(state, written);
        /* and it goes on from there */
        say(rig, 2, 3);
        say(rig, 4, 3);
        rig_wait(rig, 50);
        restart(rig, 0);
        CHECK(same(2, asked(rig, 2), 3) && same(4, asked(rig, 4), 3));
        rig_free(rig);
        if (!cut) break;
        cuts++;
        if (test_failures() > 5) break;
    }
    test_context("%u cuts, %u with the change in hand", cuts, late);
    CHECK(cuts > 1000 && late > 10);
}

/* Thousands of changes and restarts: the areas take turns more often than their ages can count. */
static void many_turns(void)
{
    struct rig *rig = rig_fresh();
    int state[N] = {0};
    lines_seed = 17;
    for (unsigned n = 0; n < 9000 && test_failures() < 5; n++) {
        unsigned setting = lines_chance(N), value = lines_chance(4);
        say(rig, setting, value);
        state[setting] = (int)value;
        if (lines_chance(3)) continue; /* several before they are written */
        rig_wait(rig, 100);
        if (lines_chance(4)) continue;
        restart(rig, 0);
        for (unsigned i = 0; i < N; i++) CHECK(same(i, asked(rig, i), state[i]));
    }
    rig_free(rig);
}

/* Areas of other sizes, of several pages each: what was said last is kept, and nothing is written
 * behind the two. */
static void areas(void)
{
    static const uint16_t sizes[] = {256, 512, 1024, 2048};
    for (unsigned k = 0; k < sizeof sizes / sizeof *sizes; k++) {
        struct rig *rig = rig_fresh();
        int state[N] = {0};
        memset(rig->board.nv, 0xFF, sizeof rig->board.nv);
        rig->nv_area = sizes[k];
        restart(rig, 0);
        lines_seed = 29 + k;
        for (unsigned n = 0; n < 1500 && test_failures() < 5; n++) {
            unsigned setting = lines_chance(N), value = lines_chance(4);
            say(rig, setting, value);
            state[setting] = (int)value;
            rig_wait(rig, 100);
            if (n % 7) continue;
            restart(rig, 0);
            for (unsigned i = 0; i < N; i++) CHECK(same(i, asked(rig, i), state[i]));
        }
        test_context("areas of %u bytes", sizes[k]);
        CHECK(rig->board.nv[sizes[k]] != 0xFF); /* both were used */
        for (unsigned at = 2u * sizes[k]; at < sizeof rig->board.nv; at++)
            CHECK_INT(rig->board.nv[at], 0xFF);
        rig_free(rig);
    }
}

/* A page that stays as it is: what is there holds, and the new is told as unsaved. */
static void worn_out(void)
{
    struct rig *rig = rig_fresh();
    rig->nv_area = 512;
    restart(rig, 0);
    for (unsigned n = 0; n < 200; n++) { /* until both areas are full of records */
        say(rig, 1, n % 2 ? 2 : 3);
        rig_wait(rig, 100);
    }
    rig->board.nv_worn = true;
    for (unsigned n = 0; n < 60; n++) {
        say(rig, 1, n % 2 ? 2 : 3);
        rig_wait(rig, 100);
    }
    CHECK_INT(asked(rig, 1), -1);
    CHECK(rlx_poll(&rig->device, rig->now_ms) > 100); /* it is tried again, not often */
    restart(rig, 0);
    CHECK(asked(rig, 1) >= 2);
    rig_free(rig);
}

/* A memory that refuses once, for a while, or at the start: what was said is told as unsaved as
 * long as it is, and kept in the end. One that fails is written anew when it can be. */
static void refusals(void)
{
    static const unsigned refuses[] = {2, 3, 5, 40, 2000};
    for (unsigned k = 0; k < G_N_ELEMENTS(refuses); k++)
        for (unsigned when = 0; when < 40; when++) {
            struct rig *rig = rig_fresh();
            for (unsigned n = 0; n < when; n++) say(rig, n % N, n / N % 4), rig_wait(rig, 40);
            int state[N];
            for (unsigned i = 0; i < N; i++) state[i] = asked(rig, i);
            rig->board.nv_refuses = refuses[k];
            say(rig, 2, when % 2 ? 2 : 3);
            if (refuses[k] > 100) {
                rig_wait(rig, 60000);
                test_context("%u refusals after %u changes", refuses[k], when);
                if (state[2] != (when % 2 ? 2 : 3)) CHECK_INT(asked(rig, 2), -1);
            }
            rig_wait(rig, 3600000); /* at most one try a second */
            CHECK(same(2, asked(rig, 2), when % 2 ? 2 : 3));
            rig->board.nv_refuses = 0;
            restart(rig, 0);
            CHECK(same(2, asked(rig, 2), when % 2 ? 2 : 3));
            for (unsigned i = 0; i < N; i++)
                if (i != 2) CHECK(same(i, asked(rig, i), state[i]));
            rig_free(rig);
        }
}

/* At the start nobody can read it: the defaults hold, what is said meanwhile is not lost. */
static void refused_at_the_start(void)
{
    struct rig *rig = rig_fresh();
    say(rig, 2, 3), say(rig, 4, 2);
    rig_wait(rig, 100);
    rig->board.nv_refuses = 6;
    rig->board.nv_kept = true;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    rig_run(rig);
    CHECK_INT(rlx_setting(&rig->device, 2), 5);
    say(rig, 4, 1);
    rig_wait(rig, 2000);
    CHECK(same(2, asked(rig, 2), 3) && same(4, asked(rig, 4), 1));
    restart(rig, 0);
    CHECK(same(2, asked(rig, 2), 3) && same(4, asked(rig, 4), 1));
    rig->board.nv_fails = true;
    say(rig, 2, 1);
    rig_wait(rig, 5000);
    CHECK_INT(asked(rig, 2), -1);
    rig->board.nv_fails = false;
    rig_wait(rig, 140000);
    CHECK(same(2, asked(rig, 2), 1));
    restart(rig, 0);
    CHECK(same(2, asked(rig, 2), 1) && same(4, asked(rig, 4), 1));
    rig_free(rig);
}

static void slow_and_failing(void)
{
    struct rig *rig = rig_fresh();
    rig->board.nv_slow = 20;
    say(rig, 2, 2);
    CHECK_INT(asked(rig, 2), -1); /* ok, and told as unsaved as long as it is */
    rig_wait(rig, 1000);
    CHECK_INT(asked(rig, 2), 2);
    rig->board.nv_fails = true;
    say(rig, 3, 2);
    rig_wait(rig, 1000);
    CHECK_TALK(rig, 0, "warm?", "ok warm 32.5 unsaved"); /* it holds until the next start */
    restart(rig, 0);
    CHECK_INT(asked(rig, 2), 2);
    CHECK_INT(asked(rig, 3), 0);
    rig_free(rig);
}

static void rubbish(void)
{
    struct rig *rig = rig_fresh();
    lines_seed = 23;
    for (unsigned n = 0; n < N; n++) say(rig, n, 2);
    rig_wait(rig, 100);
    uint8_t good[512];
    memcpy(good, rig->board.nv, sizeof good);
    for (unsigned n = 0; n < 20000 && test_failures() < 5; n++) {
        memcpy(rig->board.nv, good, sizeof good);
        for (unsigned k = 1 + lines_chance(6); k; k--)
            rig->board.nv[lines_chance(512)] = (uint8_t)lines_chance(256);
        if (!lines_chance(4))
            for (unsigned k = 0; k < 512; k++) rig->board.nv[k] = (uint8_t)lines_chance(256);
        restart(rig, 0);
        for (unsigned i = 0; i < N; i++) CHECK(asked(rig, i) >= 0); /* a value that it may have */
    }
    rig_free(rig);
}

/* A record with a right check, as rubbish never has one. */
static void put_record(struct rig *rig, unsigned at, uint8_t setting, const char *bytes,
                       uint8_t count)
{
    uint8_t record[64] = {setting, count};
    uint16_t crc = 0xFFFF;
    memcpy(record + 2, bytes, MIN(count, 32));
    for (unsigned i = 0; i < count + 2u; i++)
        for (int bit = 7; bit >= 0; bit--)
            crc = (uint16_t)(((crc >> 15 ^ record[i] >> bit) & 1) ? (unsigned)crc << 1 ^ 0x1021u
                                                                  : (unsigned)crc << 1);
    record[count + 2] = (uint8_t)crc;
    record[count + 3] = (uint8_t)(crc >> 8);
    memcpy(rig->board.nv + at, record, count + 4u);
}

/* What it holds is taken only where the slot takes it. */
static void records_that_fit_no_slot(void)
{
    static const struct {
        uint8_t setting;
        const char *bytes;
        uint8_t count;
        const char *asked, *told;
    } cases[] = {
        {2, "\x65\0\0\0", 4, "night?", "ok night 5"},       /* 101 % */
        {2, "\xFF\xFF\xFF\xFF", 4, "night?", "ok night 5"}, /* -1 */
        {2, "\x64\0\0", 3, "night?", "ok night 5"},         /* three bytes */
        {2, "\x64\0\0\0", 4, "night?", "ok night 100"},     /* this one is right */
        {0, "\2\0\0\0", 4, "dimming?", "ok dimming eye"},   /* no such word */
        {0, "\0\0\0\0", 4, "dimming?", "ok dimming linear"},
        {5, "\x08\0\0\0", 4, "days?", "ok days mon+fri"}, /* no such bit */
        {5, "\6\0\0\0", 4, "days?", "ok days wed+fri"},
        {1, "123456789012345678901", 21, "phones?", "ok phones \"+15550142\""}, /* too long */
        {1, "a\nb", 3, "phones?", "ok phones \"+15550142\""},
        {1, "a\x7F", 2, "phones?", "ok phones \"+15550142\""},
        {1, "a\"b", 3, "phones?", "ok phones \"+15550142\""},
        {1, "abc", 3, "phones?", "ok phones \"abc\""},
        {7, "\1\0\0\0", 4, "night?", "ok night 5"}, /* no such setting */
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        struct rig *rig = rig_fresh();
        say(rig, 2, 2);
        rig_wait(rig, 100); /* the area is whole, and has the layout */
        unsigned base = rig->board.nv[8] != 0xFF ? 0 : 256;
        memset(rig->board.nv + base + 16, 0xFF, 240);
        put_record(rig, base + 16, cases[i].setting, cases[i].bytes, cases[i].count);
        restart(rig, 0);
        CHECK_TALK(rig, 0, cases[i].asked, cases[i].told);
        rig_free(rig);
    }
}

static void no_memory(void)
{
    struct rig *rig = rig_fresh();
    rig->board.nv_absent = true;
    restart(rig, 0);
    CHECK_TALK(rig, 0, "night 7", "ok night 7");
    rig_wait(rig, 100);
    CHECK_TALK(rig, 0, "night?", "ok night 7 unsaved");
    rig_free(rig);
}

/* What another version of the lexicon kept is not taken for this one's. */
static void another_layout(void)
{
    struct rig *rig = rig_fresh();
    say(rig, 2, 2);
    rig_wait(rig, 100);
    struct rig *other = rig_of_text("lexicon settings 2\nbuilt-in state\n"
                                    "setting level {n 0..300} = 7\nsetting night {n 0..300} = 8\n"
                                    "link l serial 9600 frame line\n");
    memcpy(other->board.nv, rig->board.nv, sizeof rig->board.nv);
    other->board.nv_kept = true;
    CHECK_INT(rig_start(other, 0), 0);
    rig_run(other);
    CHECK_TALK(other, 0, "level?", "ok level 7");
    CHECK_TALK(other, 0, "night 300", "ok night 300");
    rig_wait(other, 100);
    other->board.nv_kept = true;
    CHECK_INT(rig_start(other, 0), 0);
    rig_run(other);
    CHECK_TALK(other, 0, "night?", "ok night 300");
    rig_free(other);
    rig_free(rig);
}

/* The curve is that of the setting, at once and after a restart; a routine's step stores, too. */
static void used(void)
{
    struct rig *rig = rig_fresh();
    rig_talk(rig, 0, "glow 50");
    CHECK_INT(rig->board.duty[1], 12069);
    rig_talk(rig, 0, "dull");
    CHECK_INT(rig->board.duty[1], 32767);
    rig_wait(rig, 1100);
    CHECK_INT(rlx_setting(&rig->device, 2), 7);
    restart(rig, 0);
    rig_talk(rig, 0, "glow 50");
    CHECK_INT(rig->board.duty[1], 32767);
    CHECK_TALK(rig, 0, "dimming eye; glow 101", "err range level 0..100 at 18");
    CHECK_INT(rig->board.duty[1], 32767);
    uint8_t count = 0;
    CHECK_INT(strncmp(rlx_setting_text(&rig->device, 1, &count), "+15550142", 9), 0);
    CHECK_INT(count, 9);
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P7: a power cut at every byte", power_cuts},
    {"many turns", many_turns},
    {"areas of other sizes", areas},
    {"P7: a worn page", worn_out},
    {"P7: a memory that refuses", refusals},
    {"P7: a memory that refuses at the start, or fails for a while", refused_at_the_start},
    {"P7: a slow memory, and one that fails", slow_and_failing},
    {"P5: rubbish", rubbish},
    {"another layout", another_layout},
    {"P5: records that fit no slot", records_that_fit_no_slot},
    {"P7: no memory at all", no_memory},
    {"what they are for", used},
};
TEST_MAIN(cases)
