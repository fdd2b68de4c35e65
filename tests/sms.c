/* P1, P2, P7, P8: text messages, through the simulated modem and its network. A power cut or a
 * modem that is reset at every step of an exchange, a notice between any two bytes, and modems that
 * answer nothing or rubbish: nothing is done twice, and who sent it can know. */
#include <stdio.h>
#include <string.h>

#include "world/boards/bench_parts.h"
#include "harness.h"

#define HEAD                                      \
    "lexicon tank 1\nbuilt-in halt stats batch\n" \
    "output pump relay pin 4 safe off\n"          \
    "output lamp relay pin 5 safe off\n"          \
    "command pump {on|off|toggle} => pump\n"      \
    "command dose {ml 0..250} => dose()\n"        \
    "command lamp {on|off} => lamp\n"             \
    "query level {mm 0..4000} => read_level()\n"
#define ME "+15550142"

struct town {
    struct lexicon *lx;
    struct image *image;
    struct bench_options options;
    struct bench *bench;
    struct board *board;
    struct end *shore;
    unsigned doses, pumps; /* handler calls; how often the pump went on */
    unsigned each[4];      /* calls with 0..3 ml */
    unsigned answers;
    uint64_t done_us; /* the last dose */
    GString *said;    /* the answers, a line each */
};

static void on_sight(void *user, const struct sight *sight)
{
    struct town *t = user;
    if (sight->kind == SIGHT_OUT && sight->event.kind == SIM_PIN && sight->event.index == 4)
        t->pumps += sight->event.value;
    if (sight->kind != SIGHT_ANSWERED || !sight->number) return;
    t->answers++;
    g_string_append_printf(t->said, "%s: %s\n", sight->number, sight->text);
}

static void on_dose(void *user, unsigned handler, const rlx_value *values)
{
    struct town *t = user;
    (void)handler;
    if (values[0] < 4) t->each[values[0]]++;
    t->doses++;
    t->done_us = t->bench->world->now_us;
}

static struct town *town_new(const char *more)
{
    struct town *t = g_new0(struct town, 1);
    char *text = g_strconcat(HEAD, more, NULL);
    GError *error = NULL;
    t->lx = lexicon_read_text("it.lexicon", text, strlen(text));
    t->image = image_build(t->lx);
    t->said = g_string_new(NULL);
    t->options.seed = 1;
    t->bench = bench_new(t->lx, t->image, &t->options, &error);
    t->board = t->bench->boards->pdata[0];
    t->shore = t->bench->ends->pdata[0];
    bench_watch(t->bench, on_sight, t);
    device_on_call(t->board->device, on_dose, t);
    return t;
}

/* The modem is started, and nothing has been said. */
static struct town *town_started(const char *more)
{
    struct town *t = town_new(more);
    bench_start(t->bench);
    bench_pass(t->bench, 3000000);
    return t;
}

static void town_free(struct town *t)
{
    bench_free(t->bench);
    image_free(t->image);
    lexicon_free(t->lx);
    g_string_free(t->said, TRUE);
    g_free(t);
}

static const struct rlx_sms *driver(const struct town *t)
{
    return device_core(t->board->device)->links[0].sms;
}

static void write_from(struct town *t, const char *number, const char *text)
{
    bench_write_as(t->shore, number);
    CHECK(bench_write(t->shore, text));
}

/* Somebody writes; what comes back, all of it. */
static const char *ask_as(struct town *t, const char *number, const char *text)
{
    g_string_truncate(t->said, 0);
    write_from(t, number, text);
    bench_until_messages(t->shore);
    return t->said->str;
}

#define SAYS(t, number, text, wanted)                                                  \
    do {                                                                               \
        test_context("%s: %s", number, text);                                          \
        CHECK_TEXT(ask_as(t, number, text), *(wanted) ? number ": " wanted "\n" : ""); \
    } while (0)

/* ---- who may, and what comes back ---- */

static void served_and_not(void)
{
    struct town *t =
        town_started("setting phones {text 0..40} = \"+15550144, 0145\"\n"
                     "link shore sms allow +15550142 +15550143 allow setting phones\n");
    SAYS(t, "+15550142", "pump on", "ok pump on");
    SAYS(t, "+15550143", "pump on", "ok pump on already");
    SAYS(t, "+15550144", "pump toggle", "ok pump off");
    SAYS(t, "0145", "dose 20", "ok dose 20");
    SAYS(t, "0145", "level?", "ok level 0");
    SAYS(t, ME, "dose 300", "err range ml 0..250 at 5");
    SAYS(t, ME, "pump on; dose 251", "err range ml 0..250 at 14");
    SAYS(t, ME, "", "");
    SAYS(t, ME, "ok pump on", ""); /* somebody's reply */
    SAYS(t, "+15550141", "pump on", "");
    SAYS(t, "15550142", "pump on", ""); /* not the international one */
    SAYS(t, "+155501420", "pump on", "");
    SAYS(t, "Bank", "pump on", "");
    CHECK_INT(driver(t)->strangers, 4);
    CHECK_INT(t->pumps, 1);
    CHECK_INT(modem_stored(t->shore->modem), 0);
    town_free(t);
}

static void codes(void)
{
    struct town *t = town_started("setting pin {text 0..8} = \"4711\"\n"
                                  "link shore sms code setting pin\n"
                                  "link bench serial 9600 frame line\n");
    SAYS(t, ME, "4711 pump on", "ok pump on");
    SAYS(t, "+1", "4711  dose", "err missing ml 0..250 at 4"); /* places count behind the code */
    SAYS(t, ME, "pump off", "");
    SAYS(t, ME, "4712 pump off", "");
    SAYS(t, ME, "47111 pump off", "");
    SAYS(t, ME, "4711pump off", "");
    SAYS(t, ME, "4711", ""); /* nothing was said */
    CHECK_INT(driver(t)->strangers, 4);
    bench_say(t->bench->ends->pdata[1], "pin \"\"", 6); /* no code: nobody */
    bench_pass(t->bench, 1000000);
    SAYS(t, ME, "4711 pump off", "");
    SAYS(t, ME, " pump off", "");
    town_free(t);
}

static void too_old(void)
{
    struct town *t = town_started("link shore sms allow +15550142 stale after 10min\n");
    network_faults(t->bench->network)->quarters = -20;
    SAYS(t, ME, "pump on", "ok pump on");
    network_faults(t->bench->network)->delay_us = 590000000;
    SAYS(t, ME, "pump off", "ok pump off");
    network_faults(t->bench->network)->delay_us = 605000000;
    SAYS(t, ME, "pump on", "err late");
    CHECK_INT(t->pumps, 1);
    network_faults(t->bench->network)->delay_us = 1000000;
    modem_manner(t->shore->modem)->clock_unset = true;
    bench_pass(t->bench, 120000000);
    SAYS(t, ME, "pump on", "err late"); /* nobody can know */
    town_free(t);
}

static void what_cannot_be_a_command(void)
{
    struct town *t = town_started("link shore sms allow +15550142\n");
    GString *long_text = g_string_new("pump on");
    while (long_text->len < 300) g_string_append_c(long_text, ' ');
    g_string_append(long_text, "now");
    SAYS(t, ME, "\xE6\xB0\xB4 pump on", "err alphabet");
    SAYS(t, ME, "pump on \xC3\xA4", "err alphabet");
    CHECK_TEXT(ask_as(t, ME, long_text->str), ME ": err long at 0\n"); /* once, for all parts */
    CHECK_INT(driver(t)->repeats, 1);
    g_string_assign(long_text, "pump on");
    while (long_text->len < 160) g_string_append_c(long_text, ' ');
    CHECK_TEXT(ask_as(t, ME, long_text->str), ME ": ok pump on\n");
    SAYS(t, ME, "frob ^{}[]~|\\", "err unknown frob at 0");
    SAYS(t, ME, "OK", "err unknown OK at 0");
    SAYS(t, ME, "+CMS ERROR: 500", "err unknown +CMS at 0");
    g_string_free(long_text, TRUE);
    town_free(t);
}

/* An answer that is longer than a message takes its short form. */
static void short_answers(void)
{
    struct town *t = town_started("setting name {text 0..130} = \"\"\nbuilt-in halt state\n"
                                  "link shore sms allow +15550142\n");
    char said[160] = "name \"";
    for (unsigned i = 0; i < 130; i++) strcat(said, "x");
    strcat(said, "\"");
    CHECK_TEXT(ask_as(t, ME, said), ME ": ok\n");
    SAYS(t, ME, "name?", "ok");
    said[100] = 0;
    strcat(said, "\"");
    CHECK(strlen(ask_as(t, ME, said)) > 100);
    town_free(t);
}

static void twice_and_late(void)
{
    struct town *t = town_started("link shore sms allow +15550142\n");
    network_faults(t->bench->network)->twice = BILLION;
    SAYS(t, ME, "dose 1", "ok dose 1\n" ME ": ok dose 1"); /* the answer comes twice, too */
    CHECK_INT(t->doses, 1);
    CHECK_INT(driver(t)->repeats, 1);
    network_faults(t->bench->network)->twice = 0;
    network_faults(t->bench->network)->spread_us = 60000000;
    for (unsigned i = 0; i < 8; i++) write_from(t, ME, "dose 1");
    bench_until_messages(t->shore);
    CHECK_INT(t->doses, 2); /* sent in the same second, they are one */
    for (unsigned i = 0; i < 8; i++) {
        bench_pass(t->bench, 1000000);
        write_from(t, ME, "dose 1");
    }
    bench_until_messages(t->shore);
    CHECK_INT(t->doses, 10);
    town_free(t);
}

static void rejected(void)
{
    struct town *t = town_started("link shore sms allow +15550142\n");
    network_faults(t->bench->network)->rejects = BILLION;
    CHECK_TEXT(ask_as(t, ME, "dose 1"), "");
    CHECK_INT(t->doses, 1);
    CHECK_INT(driver(t)->unsent, 1);
    CHECK_INT(modem_stored(t->shore->modem), 0);
    network_faults(t->bench->network)->rejects = BILLION / 2;
    SAYS(t, ME, "dose 1", "ok dose 1");
    network_faults(t->bench->network)->rejects = 0;
    SAYS(t, ME, "dose 2", "ok dose 2");
    SAYS(t, ME, "stats", "ok stats lost 0 refused 0 ignored 0 unsent 1");
    CHECK_INT(t->doses, 3);
    town_free(t);
}

/* ---- at every step ---- */

#define ONE "link shore sms allow +15550142\n"

enum trouble { DEVICE, MODEM, BOTH, MODEM_OFF };

static void make_trouble(struct town *t, enum trouble what)
{
    if (what == DEVICE || what == BOTH) device_off(t->board->device);
    if (what == MODEM || what == BOTH) modem_reset(t->shore->modem);
    if (what == MODEM_OFF) modem_power(t->shore->modem, false);
    bench_pass(t->bench, 700000);
    if (what == MODEM_OFF) modem_power(t->shore->modem, true);
    if (what == DEVICE || what == BOTH) bench_power(t->board, RLX_RESET_BROWNOUT);
}

/* What somebody can know: no answer, ok, an error, or that nobody knows. */
static void judge(const struct town *t, const char *command, unsigned step)
{
    bool ok = strstr(t->said->str, ": ok") != NULL;
    bool unsure = strstr(t->said->str, ": err unsure") != NULL;
    bool other = strstr(t->said->str, ": err ") && !unsure;
    test_context("%s, trouble at step %u: %u times, \"%s\"", command, step, t->doses, t->said->str);
    CHECK(t->doses <= 1);
    CHECK(t->answers >= 1);
    CHECK(!other);
    CHECK(!ok || t->doses == 1);
    CHECK(!(ok && unsure));
}

static unsigned steps_of(const char *command, const char *link)
{
    struct town *t = town_started(link);
    unsigned steps = 0;
    write_from(t, ME, command);
    while (!t->answers || modem_stored(t->shore->modem))
        world_step(t->bench->world, UINT64_MAX), steps++;
    town_free(t);
    return steps;
}

static void at_each_step(const char *command, const char *link, enum trouble what)
{
    unsigned steps = steps_of(command, link), unsure = 0, twice = 0;
    for (unsigned step = 0; step <= steps; step++) {
        struct town *t = town_started(link);
        write_from(t, ME, command);
        for (unsigned i = 0; i < step; i++) world_step(t->bench->world, UINT64_MAX);
        make_trouble(t, what);
        bench_pass(t->bench, 20000000);
        bench_until_messages(t->shore);
        judge(t, command, step);
        unsure += strstr(t->said->str, "unsure") != NULL;
        twice += t->answers > 1;
        CHECK_INT(modem_stored(t->shore->modem), 0);
        town_free(t);
    }
    printf("# %s: %u steps, %u unsure, %u answered twice\n", command, steps, unsure, twice);
    CHECK(steps > 100);
}

static void power_cuts(void)
{
    at_each_step("dose 5", ONE, DEVICE);
}

static void modem_resets(void)
{
    at_each_step("dose 5", ONE, MODEM);
    at_each_step("dose 5", ONE, MODEM_OFF);
}

static void all_lose_power(void)
{
    at_each_step("dose 5", ONE, BOTH);
}

/* What is somebody's reply is never answered, also not after a power cut: two devices would go on.
 */
static void replies_stay_unanswered(void)
{
    for (unsigned step = 0; step < 500; step += 2) {
        struct town *t = town_started(ONE);
        write_from(t, ME, "ok pump on");
        for (unsigned i = 0; i < step; i++) world_step(t->bench->world, UINT64_MAX);
        make_trouble(t, DEVICE);
        bench_pass(t->bench, 20000000);
        bench_until_messages(t->shore);
        test_context("step %u: %s", step, t->said->str);
        CHECK_INT(t->answers, 0);
        CHECK_INT(t->pumps, 0);
        CHECK_INT(modem_stored(t->shore->modem), 0);
        town_free(t);
    }
}

/* A third message comes while the power is off, into a place before that of the one in hand. */
static void among_others(void)
{
    unsigned steps = 0, unsure = 0;
    for (bool over = false; !over; steps += 3) {
        struct town *t = town_started(ONE);
        write_from(t, ME, "dose 1");
        bench_pass(t->bench, 500000);
        write_from(t, ME, "dose 2");
        for (unsigned i = 0; i < steps; i++) world_step(t->bench->world, UINT64_MAX);
        over = t->answers >= 2 && !modem_stored(t->shore->modem);
        device_off(t->board->device);
        write_from(t, ME, "dose 3");
        bench_pass(t->bench, 10000000);
        bench_power(t->board, RLX_RESET_BROWNOUT);
        bench_pass(t->bench, 20000000);
        bench_until_messages(t->shore);
        test_context("step %u: %u %u %u times, %s", steps, t->each[1], t->each[2], t->each[3],
                     t->said->str);
        CHECK(t->each[1] <= 1 && t->each[2] <= 1 && t->each[3] == 1);
        CHECK(t->answers >= 3);
        CHECK(t->doses == 3 || strstr(t->said->str, "unsure"));
        CHECK_INT(modem_stored(t->shore->modem), 0);
        unsure += strstr(t->said->str, "unsure") != NULL;
        town_free(t);
    }
    printf("# three messages: %u steps, %u unsure\n", steps, unsure);
    CHECK(steps > 600);
}

/* What leads to the same when it is done twice is done again, and never unsure. */
static void repeatable(void)
{
    unsigned steps = steps_of("lamp on; pump on", ONE);
    for (unsigned step = 0; step <= steps; step++) {
        struct town *t = town_started(ONE);
        write_from(t, ME, "lamp on; pump on");
        for (unsigned i = 0; i < step; i++) world_step(t->bench->world, UINT64_MAX);
        make_trouble(t, DEVICE);
        bench_pass(t->bench, 20000000);
        bench_until_messages(t->shore);
        test_context("step %u: %s", step, t->said->str);
        CHECK(t->answers >= 1 && !strstr(t->said->str, "err"));
        CHECK(t->pumps >= 1);
        town_free(t);
    }
}

/* What was refused as late stays refused, and what was begun is not done again when it is late. */
static void late_over_a_cut(void)
{
    static const char link[] = "link shore sms allow +15550142 stale after 1min\n";
    for (unsigned late = 0; late < 2; late++) {
        unsigned switched = 0, refused = 0;
        for (unsigned ms = 0; ms < 400; ms++) {
            struct town *t = town_started(link);
            uint64_t delay_ms = late ? 70000 : 3000;
            network_faults(t->bench->network)->delay_us = delay_ms * 1000;
            write_from(t, ME, "pump on");
            bench_pass(t->bench, (delay_ms + ms) * 1000);
            bool was_on = t->pumps;
            make_trouble(t, BOTH);
            modem_power(t->shore->modem, false);
            bench_pass(t->bench, 100000000);
            modem_power(t->shore->modem, true);
            bench_pass(t->bench, 20000000);
            bench_until_messages(t->shore);
            test_context("%s, cut after %u ms: %u times, %s", late ? "late" : "in time", ms,
                         t->pumps, t->said->str);
            CHECK(t->answers >= 1);
            CHECK(!late || !t->pumps);
            CHECK_INT(t->pumps, was_on); /* never after the cut, which made it late */
            switched += was_on;
            refused += strstr(t->said->str, "late") != NULL;
            town_free(t);
        }
        CHECK(late ? !switched && refused == 400 : switched > 50 && refused > 50);
    }
}

/* The non-volatile memory loses its power within each byte that is written. */
static void torn_records(void)
{
    unsigned torn = 0, unsure = 0;
    for (unsigned left = 1; left <= 400; left++) {
        struct town *t = town_started(ONE);
        struct sim_board *board = device_board(t->board->device);
        board->nv_left = left;
        write_from(t, ME, "dose 5");
        while (!board->nv_dead && (!t->answers || modem_stored(t->shore->modem)))
            world_step(t->bench->world, UINT64_MAX);
        bool dead = board->nv_dead;
        torn += dead;
        device_off(t->board->device);
        board->nv_dead = false;
        board->nv_left = 0;
        bench_power(t->board, RLX_RESET_POWER);
        bench_pass(t->bench, 20000000);
        bench_until_messages(t->shore);
        judge(t, "dose 5", left);
        unsure += strstr(t->said->str, "unsure") != NULL;
        town_free(t);
        if (!dead) break;
    }
    printf("# %u bytes torn, %u unsure\n", torn, unsure);
    CHECK(torn > 60);
}

/* Nothing can be kept: the message is deleted first. */
static void without_memory(void)
{
    unsigned steps, silent = 0;
    struct town *t = town_new(ONE);
    device_board(t->board->device)->nv_absent = true;
    bench_start(t->bench);
    bench_pass(t->bench, 3000000);
    SAYS(t, ME, "dose 5", "ok dose 5");
    SAYS(t, ME, "dose 6", "ok dose 6");
    CHECK_INT(t->doses, 2);
    town_free(t);
    steps = steps_of("dose 5", ONE);
    for (unsigned step = 0; step <= steps; step++) {
        t = town_new(ONE);
        device_board(t->board->device)->nv_absent = true;
        bench_start(t->bench);
        bench_pass(t->bench, 3000000);
        write_from(t, ME, "dose 5");
        for (unsigned i = 0; i < step; i++) world_step(t->bench->world, UINT64_MAX);
        make_trouble(t, DEVICE);
        bench_pass(t->bench, 20000000);
        bench_until_messages(t->shore);
        test_context("step %u: %u times, \"%s\"", step, t->doses, t->said->str);
        CHECK(t->doses <= 1);
        CHECK(!t->answers || t->doses == 1); /* no answer: nobody knows */
        silent += !t->answers;
        town_free(t);
    }
    printf("# without memory: %u steps, %u without an answer\n", steps, silent);
    CHECK(silent && silent < steps);
}

/* ---- modems that do not behave ---- */

static void notices_between(void)
{
    struct town *count = town_started(ONE);
    unsigned bytes = 0;
    modem_interrupt(count->shore->modem, 0);
    CHECK_TEXT(ask_as(count, ME, "dose 5"), ME ": ok dose 5\n");
    bytes = modem_said(count->shore->modem);
    town_free(count);
    CHECK(bytes > 150);
    for (unsigned at = 1; at <= bytes; at++) {
        struct town *t = town_started(ONE);
        modem_interrupt(t->shore->modem, at);
        ask_as(t, ME, "dose 5");
        bench_pass(t->bench, 120000000);
        bench_until_messages(t->shore);
        test_context("a notice before byte %u of %u: %u times, \"%s\"", at, bytes, t->doses,
                     t->said->str);
        CHECK_INT(t->doses, 1);
        CHECK(t->answers >= 1 && !strstr(t->said->str, "err"));
        town_free(t);
    }
}

static void bad_modems(void)
{
    for (unsigned kind = 0; kind < 5; kind++) {
        struct town *t = town_started(ONE);
        struct sms_manner *manner = modem_manner(t->shore->modem);
        static const char *const kinds[] = {"silent", "rubbish", "chatty", "text mode", "slow"};
        test_context("%s", kinds[kind]);
        if (kind == 0) manner->silent = true;
        if (kind == 1) manner->rubbish = BILLION / 10;
        if (kind == 2) manner->chatty = BILLION / 20;
        if (kind == 3) manner->text_first = true, modem_reset(t->shore->modem);
        if (kind == 4) manner->answers_us = 9000000, manner->sends_us = 80000000;
        unsigned before = modem_heard(t->shore->modem);
        write_from(t, ME, "dose 5");
        bench_pass(t->bench, 3600000000u);
        unsigned bytes = modem_heard(t->shore->modem) - before;
        CHECK(bytes < 40000); /* an hour of it: the pauses grow */
        CHECK(t->doses <= 1);
        manner->silent = false;
        manner->rubbish = manner->chatty = 0;
        manner->answers_us = 20000;
        bench_pass(t->bench, 200000000);
        bench_until_messages(t->shore);
        CHECK_INT(t->doses, 1);
        CHECK(t->answers >= 1);
        CHECK_INT(modem_stored(t->shore->modem), 0);
        town_free(t);
    }
}

/* A line that damages a character here and there: no two reads are the same, and none is believed.
 */
static void a_bad_line(void)
{
    for (unsigned seed = 1; seed <= 30; seed++) {
        struct town *t = town_started(ONE);
        struct sms_manner *manner = modem_manner(t->shore->modem);
        for (unsigned i = 0; i < seed; i++) bench_pass(t->bench, 1234567);
        manner->rubbish = BILLION / 50;
        write_from(t, ME, "dose 5");
        bench_pass(t->bench, 900000000);
        CHECK(t->doses <= 1);
        manner->rubbish = 0;
        bench_pass(t->bench, 300000000);
        bench_until_messages(t->shore);
        test_context("seed %u: %u times, %s", seed, t->doses, t->said->str);
        CHECK_INT(t->doses, 1);
        CHECK(t->answers >= 1 && !strstr(t->said->str, "err"));
        town_free(t);
    }
}

/* An event on a link that anybody may use: there is nobody to tell it to. */
static void nobody_to_tell(void)
{
    struct town *t = town_started("event call {pressed|released}\nlink shore sms open\n");
    rlx_event(device_core(t->board->device), 0, 0);
    device_in(t->board->device, SIM_PIN_IN, 200, true);
    bench_pass(t->bench, 10000000);
    CHECK_INT(driver(t)->unsent, 1);
    SAYS(t, "+15550199", "pump on", "ok pump on");
    CHECK_INT(modem_sent(t->shore->modem), 1);
    town_free(t);
}

static void no_network(void)
{
    struct town *t = town_new("event call {pressed|released}\n"
                              "link shore sms allow +15550142 state told\n");
    struct sms_manner *manner = modem_manner(t->shore->modem);
    manner->unregistered = true;
    bench_start(t->bench);
    write_from(t, ME, "dose 5");
    bench_pass(t->bench, 300000000);
    CHECK_INT(t->doses, 0);
    rlx_event(device_core(t->board->device), 0, 0);
    manner->unregistered = false;
    bench_pass(t->bench, 60000000);
    bench_until_messages(t->shore);
    CHECK_INT(t->doses, 1);
    CHECK(strstr(t->said->str, ME ": ok dose 5\n"));
    CHECK(strstr(t->said->str, ME ": ev call pressed\n")); /* as it was when it registered */
    town_free(t);
}

/* A thousand messages from strangers keep the store full; somebody who may command is among them.
 */
static void strangers(void)
{
    struct town *t = town_started(ONE);
    struct tpdu stranger = {.number = "+15550199", .text = "win a boat"};
    struct tpdu mine = {.number = ME, .text = "dose 5"};
    uint64_t came_us = 0, began_us = t->bench->world->now_us;
    unsigned given = 0;
    while (given < 1000 || modem_stored(t->shore->modem)) {
        tpdu_stamp(800000000 + given, 0, stranger.stamp);
        tpdu_stamp(800000000, 0, mine.stamp);
        GByteArray *bytes = tpdu_deliver(given == 500 && !came_us ? &mine : &stranger);
        if (given < 1000 && modem_deliver(t->shore->modem, bytes->data, bytes->len)) {
            if (given == 500) came_us = t->bench->world->now_us;
            given++;
        }
        g_byte_array_free(bytes, TRUE);
        if (!CHECK(world_step(t->bench->world, UINT64_MAX))) break;
    }
    bench_until_messages(t->shore);
    CHECK_INT(driver(t)->strangers, 999);
    CHECK_INT(t->doses, 1);
    CHECK_TEXT(t->said->str, ME ": ok dose 5\n");
    CHECK_INT(modem_sent(t->shore->modem), 1);
    unsigned each_ms = (unsigned)((t->bench->world->now_us - began_us) / 1000000);
    unsigned waited_ms = (unsigned)((t->done_us - came_us) / 1000);
    printf("# %u ms a stranger; done %u ms after it came, behind a full store of 10\n", each_ms,
           waited_ms);
    CHECK(waited_ms <= 10 * each_ms + 600); /* the places of the store, and its own */
    town_free(t);
}

static void told_to_shore(void)
{
    struct town *t = town_started("event call {pressed|released}  every 1min  at most 3 a day\n"
                                  "link shore sms allow +15550142 +15550143\n");
    struct rlx_device *core = device_core(t->board->device);
    for (unsigned minute = 0; minute < 30; minute++) {
        for (unsigned i = 0; i < 5; i++) {
            rlx_event(core, 0, 0);
            device_in(t->board->device, SIM_PIN_IN, 200, i & 1);
            bench_pass(t->bench, 12000000);
        }
    }
    bench_until_messages(t->shore);
    CHECK_TEXT(t->said->str, "+15550142: ev call pressed\n+15550142: ev call pressed (4 more)\n"
                             "+15550142: ev call pressed (4 more)\n");
    g_string_truncate(t->said, 0);
    bench_pass(t->bench, 86400000000u);
    CHECK_TEXT(t->said->str, "+15550142: ev call pressed (138 more)\n");
    town_free(t);
}

static const struct test_case cases[] = {
    {"P2: who is served, and who is not answered", served_and_not},
    {"P1: a code before the command", codes},
    {"P1: what is too old", too_old},
    {"P2: what cannot be a command", what_cannot_be_a_command},
    {"P2: answers longer than a message", short_answers},
    {"P8: what comes twice, and in another order", twice_and_late},
    {"P7: a network that does not take the answer", rejected},
    {"P8: a power cut at each step", power_cuts},
    {"P8: a modem that is reset at each step", modem_resets},
    {"P8: both lose their power at each step", all_lose_power},
    {"P2: a reply is never answered, whatever happens", replies_stay_unanswered},
    {"P8: a power cut among several messages", among_others},
    {"P8: what can be repeated is done again", repeatable},
    {"P8: what is late after a power cut", late_over_a_cut},
    {"P8: a record that is torn at each byte", torn_records},
    {"P8: without memory", without_memory},
    {"P1: a notice between any two bytes", notices_between},
    {"P3: modems that do not behave", bad_modems},
    {"P1: a line that damages what is read", a_bad_line},
    {"P7: no network", no_network},
    {"P7: an event with nobody to tell", nobody_to_tell},
    {"P7: a flood of strangers", strangers},
    {"P7: events, and what they cost", told_to_shore},
};
TEST_MAIN(cases)
