/* What a firmware does beside the reference model: which differences count, and which do not. Each
 * side is a text: "US WHO WHAT", where WHO is a link or an output's pin, WHAT what is said or its
 * level;
 * "#N" before it: the number of the move; "~": the answers over that link are the firmware's own.
 */
#include "drill/judge/record.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "harness.h"

static const char text[] = "lexicon x 1\n"
                           "output pump relay pin 4 safe off\n"
                           "output glow led pwm 1 at 1kHz\n"
                           "output gate reverser open pin 7 close pin 8 dead 200ms safe stop\n"
                           "input call pin 12 pull up\n"
                           "event call {pressed|released} <= call\n"
                           "event low\n"
                           "built-in notes\n"
                           "query level {mm 0..4000} => read_level()\n"
                           "command pump {on|off} => pump\n"
                           "command glow {level 0..100%} => glow\n"
                           "command gate {open|close|stop} => gate\n"
                           "link bench serial 9600 frame line\n"
                           "link shore sms open\n";

static struct lexicon *lx;
static uint64_t slack_us; /* of the firmware */
static struct world clock_of_world;
static struct bench bench = {.world = &clock_of_world};
static struct board board = {.bench = &bench, .name = ""};

static void happens(struct record *r, const char *who, const char *what)
{
    struct end end = {.board = &board};
    struct sight sight = {.board = &board};
    for (unsigned i = 0; i < lx->links->len; i++)
        if (!strcmp(((struct lex_link *)lx->links->pdata[i])->name, who)) {
            end.link = i;
            end.of = lx->links->pdata[i];
            sight.kind = SIGHT_ANSWERED;
            sight.end = &end;
            sight.text = what;
            sight.count = strlen(what);
        }
    if (!sight.end) {
        sight.kind = SIGHT_OUT;
        sight.event = (struct sim_event){!strcmp(who, "pwm") ? SIM_DUTY : SIM_PIN,
                                         (uint8_t)(!strcmp(who, "pwm") ? 1 : atoi(who)), 0,
                                         (uint32_t)atoi(what)};
    }
    record_sight(r, &sight);
}

static struct record *record_of(const char *lines)
{
    struct record *r = record_new(lx, slack_us);
    char **all = g_strsplit(lines, "\n", -1);
    for (unsigned i = 0; all[i]; i++) {
        char who[16];
        unsigned long us, move;
        int at = 0;
        if (sscanf(all[i], "#%lu", &move) == 1) {
            record_move(r, (unsigned)move, clock_of_world.now_us);
        } else if (!strcmp(all[i], "~")) {
            record_loose(r, 0, true);
        } else if (!strcmp(all[i], "?")) {
            record_chance(r);
        } else if (sscanf(all[i], "%lu %15s %n", &us, who, &at) == 2) {
            clock_of_world.now_us = us;
            happens(r, who, all[i] + at);
        }
    }
    g_strfreev(all);
    return r;
}

/* NULL: they are alike. */
static void compare(const char *a, const char *b, const char *expected, const char *came)
{
    struct record *tables = record_of(a), *firmware = record_of(b);
    struct difference d = record_difference(tables, firmware, false);
    test_context("%s | %s", a, b);
    CHECK_TEXT(d.expected ? d.expected : "alike", expected ? expected : "alike");
    if (expected) CHECK_TEXT(d.came ? d.came : "", came);
    difference_clear(&d);
    record_free(tables);
    record_free(firmware);
    test_context("%s", "");
}

static void alike(void)
{
    compare("", "", NULL, NULL);
    compare("1000 bench ok pump on\n2000 4 1", "1000 bench ok pump on\n2000 4 1", NULL, NULL);
    /* lanes are apart: which of two comes first does not count */
    compare("1000 bench ok\n1001 4 1", "1000 4 1\n1001 bench ok", NULL, NULL);
    /* a little late */
    compare("1000 bench ok", "20900 bench ok", NULL, NULL);
    compare("10000000 bench ok", "10180000 bench ok", NULL, NULL);
    compare("10000000 shore ok", "10219000 shore ok", NULL, NULL);
    /* a drift is counted from one to the next */
    compare("1000 4 1\n1000000 4 0\n2000000 4 1", "20000 4 1\n1030000 4 0\n2050000 4 1", NULL,
            NULL);
}

static void different(void)
{
    compare("1000 bench ok pump on", "1000 bench ok pump off", "bench: \"ok pump on\" at 0.001 s",
            "bench: \"ok pump off\" at 0.001 s");
    compare("1000 bench ok", "", "bench: \"ok\" at 0.001 s", "nothing");
    compare("", "1000 bench ok", "nothing", "bench: \"ok\" at 0.001 s");
    compare("1000 4 1", "1000 4 0", "pump (pin or channel 4) at 1 at 0.001 s",
            "pump (pin or channel 4) at 0 at 0.001 s");
    compare("1000 pwm 1", "1000 pwm 2", "glow (pin or channel 1) at 1 at 0.001 s",
            "glow (pin or channel 1) at 2 at 0.001 s");
    compare("1000 7 1", "1000 8 1", "gate (pin or channel 7) at 1 at 0.001 s", "nothing");
    compare("1000 bench ok", "30000 bench ok", "bench: \"ok\" at 0.001 s",
            "bench: \"ok\" at 0.030 s");
    compare("1000 shore ok", "600000 shore ok", "shore: \"ok\" at 0.001 s",
            "shore: \"ok\" at 0.600 s");
    /* the first one is told */
    compare("1000 bench a\n2000 4 1", "1000 bench b\n2000 4 0", "bench: \"a\" at 0.001 s",
            "bench: \"b\" at 0.001 s");
    compare("2000 bench a\n1000 4 1", "2000 bench b\n1000 4 0",
            "pump (pin or channel 4) at 1 at 0.001 s", "pump (pin or channel 4) at 0 at 0.001 s");
}

static void pump_is_own(bool own)
{
    ((struct lex_output *)lx->outputs->pdata[lexicon_output_index(lx, "pump")])->by =
        own ? LEX_BY_FIRMWARE : LEX_BY_COMMANDS;
}

/* What only the firmware knows. */
static void its_own(void)
{
    compare("", "1000 bench note water low", NULL, NULL);
    compare("", "1000 bench ev low", NULL, NULL);
    compare("", "1000 bench ev #3 low", NULL, NULL);
    compare("", "1000 bench ev call pressed", "nothing", "bench: \"ev call pressed\" at 0.001 s");
    compare("", "1000 9 1", NULL, NULL); /* a pin that is no output's */
    compare("~\n1000 bench ok dose", "~\n1000 bench err busy", NULL, NULL);
    compare("~\n1000 bench ok dose", "~", "bench: \"an answer\" at 0.001 s", "nothing");
    compare("1000 bench ok level 0", "1000 bench ok level 1870", NULL, NULL);
    compare("1000 bench ok levels 0", "1000 bench ok levels 1", "bench: \"ok levels 0\" at 0.001 s",
            "bench: \"ok levels 1\" at 0.001 s");
    pump_is_own(true);
    compare("1000 4 1", "1000 4 0", NULL, NULL);
    pump_is_own(false);
    pump_is_own(true);
    compare("1000 pwm 1", "1000 pwm 2", "glow (pin or channel 1) at 1 at 0.001 s",
            "glow (pin or channel 1) at 2 at 0.001 s");
    pump_is_own(false);
}

/* What is left of a time is near enough, in whatever unit. */
static void times_left(void)
{
    compare("1000 bench ok pump on waiting 800ms", "1000 bench ok pump on waiting 795ms", NULL,
            NULL);
    compare("1000 bench ok pump on waiting 1s", "1000 bench ok pump on waiting 999ms", NULL, NULL);
    compare("1000 bench ok pump on waiting 800ms", "1000 bench ok pump on waiting 80ms",
            "bench: \"ok pump on waiting \" at 0.001 s",
            "bench: \"ok pump on waiting \" at 0.001 s");
    compare("1000 bench ok pump on waiting 2s", "1000 bench ok pump on waiting 2min",
            "bench: \"ok pump on waiting \" at 0.001 s",
            "bench: \"ok pump on waiting \" at 0.001 s");
    compare("1000 bench ok dusk step 4 of 5 left 3200ms",
            "1000 bench ok dusk step 3 of 5 left 3200ms",
            "bench: \"ok dusk step 4 of 5 left \" at 0.001 s",
            "bench: \"ok dusk step 3 of 5 left \" at 0.001 s");
}

/* Where chance decides, a conversation goes another way after the firmware said something of its
 * own; not before. */
static void by_chance(void)
{
    compare("?\n1000 bench ok level 0\n2000 bench ok", "?\n1000 bench ok level 1\n2000 bench err",
            NULL, NULL);
    compare("1000 bench ok level 0\n2000 bench ok", "1000 bench ok level 1\n2000 bench err",
            "bench: \"ok\" at 0.002 s", "bench: \"err\" at 0.002 s");
    compare("?\n1000 bench ok\n2000 bench ok level 0", "?\n1000 bench err\n2000 bench ok level 1",
            "bench: \"ok\" at 0.001 s", "bench: \"err\" at 0.001 s");
    compare("?\n2000 bench ok", "?\n1000 bench note x\n2000 bench err", NULL, NULL);
}

static void which_move(void)
{
    struct record *a = record_of("#3\n1000 bench ok\n#5\n2000 4 1");
    struct record *b = record_of("#3\n1000 bench ok\n#4\n2000 4 0");
    struct difference d = record_difference(a, b, false);
    CHECK_INT(d.move, 4);
    CHECK(!d.link);
    difference_clear(&d);
    record_free(b);
    b = record_of("#3\n1000 bench err");
    d = record_difference(a, b, false);
    CHECK_INT(d.move, 3);
    CHECK_TEXT(d.link ? d.link : "", "bench");
    CHECK_TEXT(d.heard ? d.heard : "", "ok");
    difference_clear(&d);
    record_free(a);
    record_free(b);
}

static const struct test_case cases[] = {
    {"alike", alike},           {"different", different}, {"its own", its_own},
    {"times left", times_left}, {"by chance", by_chance}, {"which move", which_move},
};

int main(int argc, char **argv)
{
    lx = lexicon_read_text("x", g_strdup(text), strlen(text));
    int code = test_main(argc, argv, cases, sizeof cases / sizeof *cases);
    lexicon_free(lx);
    return code;
}
