/* What outputs do over time, judged at the simulated pins: random commands at random times, with
 * the device polled only when it asked to be. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

enum { CHILL = 3, UP = 7, DOWN = 8, BEACON = 19 };

/* What the pins have been at, and since when. */
struct judge {
    bool high[256];
    uint32_t since[256];
    unsigned changes, ons;
    uint16_t slow;
};

/* P6: a halt may cut every time short; nothing else may. */
static void judge_pin(struct judge *j, unsigned pin, bool high, uint32_t now, bool halted)
{
    uint32_t lasted = now - j->since[pin];
    if (pin == CHILL && !halted) CHECK(lasted >= (high ? 3000u : 1000u));
    if ((pin == UP || pin == DOWN) && high) {
        unsigned other = pin == UP ? DOWN : UP;
        CHECK(!j->high[other]);
        CHECK(now - j->since[other] >= 200 || !j->changes);
    }
    CHECK(j->high[pin] != high);
    j->high[pin] = high;
    j->since[pin] = now;
    j->changes++;
    j->ons += pin == CHILL && high;
}

static void judge_pins(struct rig *rig, struct judge *j, uint32_t now, bool halted)
{
    unsigned pin, value;
    char level[8];
    char **lines = g_strsplit(rig->pins->str, "\n", -1);
    for (char **line = lines; *line; line++) {
        if (sscanf(*line, "pin %u %7s", &pin, level) == 2)
            judge_pin(j, pin, !strcmp(level, "high"), now, halted);
        if (sscanf(*line, "pwm 2 %u", &value) == 1) {
            unsigned step = (unsigned)abs((int)value - j->slow);
            CHECK(halted || step <= 65535u * 20 / 1000); /* a poll is never late by a step */
            j->slow = (uint16_t)value;
        }
    }
    g_strfreev(lines);
    g_string_truncate(rig->pins, 0);
}

static void random_commands(void)
{
    static const char *const says[] = {
        "chill on",       "chill off", "chill toggle", "up on",
        "up off",         "down on",   "down off",     "slow 0",
        "slow 100",       "slow 37",   "halt",         "beacon on",
        "beacon off",     "wink",      "alarm",        "beacon blink 100ms",
        "beacon flash 3", "once 80",   "chill?"};
    unsigned halts = 0, waits = 0, changes = 0;
    lines_seed = 3;
    for (unsigned late = 0; late < 2; late++) {
        uint32_t now = late ? UINT32_MAX - 200000 : 5000, due;
        struct rig *rig = rig_started(LEXICONS "/lamps.lexicon", now);
        struct judge j = {{0}, {0}, 0, 0, 0};
        j.high[BEACON] = true;
        for (unsigned pin = 0; pin < 256; pin++) j.since[pin] = now;
        now = due = rig->now_ms;
        for (unsigned i = 0; i < 60000 * test_rounds() && test_failures() < 5; i++) {
            const char *say = says[lines_chance(G_N_ELEMENTS(says) * 2 - 1) / 2];
            uint32_t at = now + lines_chance(lines_chance(4) ? 60 : 4000);
            while (due != at && (int32_t)(due - at) < 0) { /* what it does meanwhile */
                now = due;
                uint32_t wait = rlx_poll(&rig->device, now);
                judge_pins(rig, &j, now, false);
                CHECK(wait > 0);
                due = wait > 100000 ? at : now + wait;
            }
            now = at;
            bool halt = !strcmp(say, "halt");
            test_context("%u: '%s' at %u", i, say, now);
            rig_feed(rig, 0, say, strlen(say));
            rig_feed(rig, 0, "\r", 1);
            uint32_t wait = rlx_poll(&rig->device, now);
            due = now + wait;
            judge_pins(rig, &j, now, halt);
            while (rig->board.sending[0])
                sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
            CHECK(g_str_has_prefix(rig->sent[0]->str, "ok "));
            if (!strcmp(say, "chill?")) {
                bool told = strstr(rig->sent[0]->str, "chill on") != NULL;
                CHECK_INT(told, j.high[CHILL]);
                const char *count = strstr(rig->sent[0]->str, " switched ");
                CHECK_INT(count ? atoi(count + strlen(" switched ")) : -1, (int)j.ons);
            }
            waits += strstr(rig->sent[0]->str, " waiting ") != NULL;
            halts += halt;
            g_string_truncate(rig->sent[0], 0);
        }
        changes += j.changes;
        rig_free(rig);
    }
    test_context("%u changes, %u waits, %u halts", changes, waits, halts);
    CHECK(changes > 20000 && waits > 5000 && halts > 1000);
}

/* Each change of a pin with its time: "0 low, 250 high, ...". */
static char *times_of(struct rig *rig, const char *say, uint32_t most)
{
    GString *all = g_string_new(NULL);
    g_string_truncate(rig->pins, 0);
    rig_feed(rig, 0, say, strlen(say));
    uint32_t begin = rig->now_ms, now = begin, wait = rlx_poll(&rig->device, now);
    for (;;) {
        char **lines = g_strsplit(rig->pins->str, "\n", -1);
        for (char **line = lines; *line && **line; line++)
            g_string_append_printf(all, "%s%u %s", all->len ? ", " : "", now - begin,
                                   strrchr(*line, ' ') + 1);
        g_strfreev(lines);
        g_string_truncate(rig->pins, 0);
        if (wait > most || now + wait - begin > most) break;
        now += wait;
        wait = rlx_poll(&rig->device, now);
    }
    rig->now_ms = now + 1;
    rig_run(rig);
    rig->now_ms = begin + most + 1;
    rig_run(rig);
    return g_string_free(all, FALSE);
}

static void check_times(struct rig *rig, const char *say, uint32_t most, const char *wanted)
{
    char *times = times_of(rig, say, most);
    test_context("%s", say);
    CHECK_TEXT(times, wanted);
    g_free(times);
}

/* P11: to the millisecond, across the clock's wrap. The beacon is on when its pin is low. */
static void exact_times(void)
{
    for (unsigned late = 0; late < 2; late++) {
        struct rig *rig = rig_started(LEXICONS "/lamps.lexicon", late ? UINT32_MAX - 3000 : 0);
        check_times(rig, "beacon blink 500ms\r", 1100,
                    "0 low, 250 high, 500 low, 750 high, 1000 low");
        check_times(rig, "beacon off\r", 1000, "0 high");
        check_times(rig, "beacon flash 3\r", 2000,
                    "0 low, 150 high, 300 low, 450 high, 600 low, 750 high");
        check_times(rig, "alarm\r", 1500,
                    "0 low, 100 high, 200 low, 300 high, 400 low, 700 high, 1200 low, 1300 high, "
                    "1400 low, 1500 high");
        check_times(rig, "alarm\r", 150, "98 low"); /* goes on in its beat */
        check_times(rig, "asleep\r", 2200, "50 high, 2050 low, 2100 high");
        check_times(rig, "beacon on\r", 100, "0 low");
        check_times(rig, "wink\r", 1000, "150 high, 300 low"); /* and on, as before */
        check_times(rig, "once 300\r", 1000, "300 high");
        check_times(rig, "once 300\r", 1000, "0 low, 300 high");
        check_times(rig, "glow blink\r", 1700, "0 65535, 500 0, 1000 65535, 1500 0");
        check_times(rig, "glow 50\r", 100, "0 12069");
        check_times(rig, "bell beep 2\r", 1000, "0 2000, 150 0, 300 2000, 450 0");
        check_times(rig, "bell tone 440\r", 100, "0 440");
        check_times(rig, "bell tone 440\r", 100, "");
        check_times(rig, "bell off\r", 100, "0 0");
        check_times(rig, "bell on\r", 100, "0 440");
        check_times(rig, "horn beep\r", 1000, "0 high, 150 low");
        rig_free(rig);
    }
}

/* A fade goes one way, in steps of 10 ms, and ends where and when it was told. */
static void fades(void)
{
    struct rig *rig = rig_started(LEXICONS "/lamps.lexicon", 0);
    static const struct {
        const char *say;
        unsigned from, to;
    } cases[] = {{"slow 100\r", 0, 65535}, {"slow 37\r", 65535, 24248}, {"slow 0\r", 24248, 0}};
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *times = times_of(rig, cases[i].say, 1500), **steps = g_strsplit(times, ", ", -1);
        unsigned last = cases[i].from, n = g_strv_length(steps), ms = 0, level = 0;
        test_context("%s: %s", cases[i].say, times);
        CHECK_INT(n, 100);
        for (unsigned k = 0; k < n; k++) {
            CHECK_INT(sscanf(steps[k], "%u %u", &ms, &level), 2);
            CHECK_INT(ms, 10 * (k + 1));
            CHECK(cases[i].to > cases[i].from ? level > last : level < last);
            last = level;
        }
        CHECK_INT(level, cases[i].to);
        g_strfreev(steps);
        g_free(times);
    }
    /* told something else half way: from there on */
    rig_feed(rig, 0, "slow 100\r", 9);
    rig_wait(rig, 500);
    g_string_truncate(rig->pins, 0);
    char *times = times_of(rig, "slow 0\r", 1500);
    unsigned first = (unsigned)atoi(strchr(times, ' ') + 1);
    CHECK(first > 29000 && first < 35000);
    CHECK(g_str_has_suffix(times, "1000 0"));
    g_free(times);
    rig_free(rig);
}

/* CIE 1976 lightness, at values from its formula. */
static void the_eye(void)
{
    struct rig *rig = rig_started(LEXICONS "/lamps.lexicon", 0);
    static const struct {
        unsigned percent, duty;
    } cases[] = {{0, 0},     {1, 73},     {8, 580},    {10, 738},
                 {25, 2895}, {50, 12070}, {75, 31639}, {100, 65535}};
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char say[16];
        unsigned duty = 0;
        g_snprintf(say, sizeof say, "glow %u\r", cases[i].percent);
        rig_say(rig, 0, "glow 99\r");
        char *times = times_of(rig, say, 10);
        sscanf(times, "0 %u", &duty);
        test_context("%u %%: %u of 65535", cases[i].percent, duty);
        CHECK(abs((int)duty - (int)cases[i].duty) <= 8);
        g_free(times);
    }
    rig_free(rig);
}

/* P6: a call of the firmware's own moves what its output knows, and nothing otherwise. */
static void calls_look_at_what_they_get(void)
{
    static const uint32_t arguments[] = {0,
                                         1,
                                         2,
                                         10,
                                         100,
                                         101,
                                         255,
                                         256,
                                         20000,
                                         65536,
                                         UINT32_MAX,
                                         (uint32_t)-100,
                                         (uint32_t)-101,
                                         86400001};
    struct rig *rig = rig_of_text(
        "lexicon it 1\noutput pump relay pin 2 safe off\n"
        "output led led pwm 1 at 1kHz\noutput bell buzzer pwm 2 at 2kHz\n"
        "output fan motor pwm 3 at 20kHz direction 5 safe 0%\n"
        "output gate reverser open pin 7 close pin 8 travel 5s safe stop\n"
        "output cart pair left pwm 4 direction 9 right pwm 5 direction 10 "
        "safe 0%\noutput weir servo pwm 6 0..9mm as 950..2050us safe 0mm\n"
        "output all group of pump led\noutput slide stepper step pwm 8 direction 11 "
        "0..9mm as 0..900 steps speed 500 ramp 10ms safe hold\npattern wink 100ms 100ms\n"
        "command led {on|off} => led\ncommand wink => led pattern wink\n"
        "link bench serial 9600 frame line\n");
    struct rlx_device *d = &rig->device;
    unsigned n = rig->lx->outputs->len, moved = 0, refused = 0;
    CHECK_INT(rig_start(rig, 0), 0);
    for (uint8_t output = 0; output <= n; output++)
        for (unsigned verb = 0; verb < 40; verb++)
            for (unsigned i = 0; i < G_N_ELEMENTS(arguments); i++) {
                const struct lex_output *out = output < n ? rig->lx->outputs->pdata[output] : NULL;
                int32_t value = (int32_t)arguments[i];
                bool knows = out && verb < LEX_VERBS && verb != RLX_PULSE &&
                             lex_verbs[verb].kinds >> out->kind & 1;
                const struct lex_behind *behind =
                    knows ? &lex_behinds[lex_verbs[verb].behind] : NULL;
                /* the chip does not know one steady kind from another */
                bool steady =
                    out && verb <= RLX_PATTERN && verb != RLX_PULSE && (out->kind <= LEX_BUZZER) &&
                    lex_verbs[verb].kinds & (1u << LEX_RELAY | 1u << LEX_LED | 1u << LEX_BUZZER);
                if (steady) knows = true, behind = &lex_behinds[lex_verbs[verb].behind];
                bool fits = knows && value >= behind->least && value <= behind->most &&
                            (verb != RLX_PATTERN || value < (int)rig->lx->patterns->len);
                test_context("output %u, verb %u, %d", output, verb, value);
                g_string_truncate(rig->pins, 0);
                int done = rlx_output_act(d, output, (enum rlx_verb)verb, arguments[i]);
                if (!fits) CHECK_TEXT(rig->pins->str, "");
                CHECK_INT(done == -RLX_ERR_RANGE, !fits);
                moved += done >= 0 && rig->pins->len;
                refused += !fits;
            }
    CHECK(moved > 30 && refused > 1000);
    for (unsigned output = 0; output <= n; output++) {
        enum rlx_drive drive = rlx_output_drive(d, (uint8_t)output);
        test_context("output %u", output);
        CHECK_INT(rlx_output_pulse(d, (uint8_t)output, 1000) >= 0, drive == RLX_DRIVE_SERVO);
        CHECK_INT(rlx_motor_sides(d, (uint8_t)output), output == 3 ? 1 : output == 5 ? 2 : 0);
        CHECK_INT(rlx_group_size(d, (uint8_t)output), output == 7 ? 2 : 0);
        CHECK_INT(rlx_group_member(d, (uint8_t)output, 1), output == 7 ? 1 : 255);
        CHECK_INT(*rlx_reverser_state(d, (uint8_t)output) != 0, output == 4);
        CHECK_INT(rlx_reverser_percent(d, (uint8_t)output), 255);
        CHECK_INT(*rlx_stepper_state(d, (uint8_t)output) != 0, output == 8);
        CHECK_INT(rlx_stepper_go(d, (uint8_t)output, 0) >= 0, output == 8);
        CHECK_INT(rlx_stepper_go(d, (uint8_t)output, 901), -RLX_ERR_RANGE);
        CHECK_INT(rlx_stepper_steps(d, (uint8_t)output), 0);
        CHECK_INT(rlx_output_level(d, (uint8_t)output, 101), -RLX_ERR_RANGE);
        CHECK_INT(rlx_output_level(d, (uint8_t)output, 50) >= 0, output < 3);
        CHECK_INT(rlx_output_is_pwm(d, (uint8_t)output), output == 1 || output == 3 || output == 6);
        rlx_output_lasts(d, (uint8_t)output, 5000);
        rlx_output_safe(d, (uint8_t)output);
        CHECK_INT(rlx_output_waits(d, (uint8_t)output), 0);
        CHECK(!rlx_output_is_counted(d, (uint8_t)output));
    }
    CHECK(!rlx_input_is_on(d, 0));
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P6: calls look at what they get", calls_look_at_what_they_get},
    {"P6: random commands, judged at the pins", random_commands},
    {"P11: exact times", exact_times},
    {"fades", fades},
    {"levels as the eye sees them", the_eye},
};
TEST_MAIN(cases)
