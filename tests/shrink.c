/* A conversation that fails, cut down: the device's tables have an interlock of which the judge
 * does not know, so that the pump puts the beacon off, where that was on. */
#include "drill/judge/shrink.h"

#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "drill/scenes/play.h"

#define COMMON                                                                      \
    "command pump {on|off} => pump\ncommand beacon {on|off} => beacon\n"            \
    "command glow {level 0..100%} => glow\ninput call pin 12 pull up\n"             \
    "link bench serial 115200 frame line transmit 128\n"                            \
    "link skiff radio payload 48 address 3 senders 2 check required tags required " \
    "transmit 128\n"

static const char told[] =
    "lexicon x 1\noutput pump relay pin 4 safe off\n"
    "output beacon relay pin 5 safe off\noutput glow led pwm 1 at 1kHz\n" COMMON;
static const char is[] = "lexicon x 1\noutput pump relay pin 4 safe off interlock one dead 1ms\n"
                         "output beacon relay pin 5 safe off interlock one dead 1ms\n"
                         "output glow led pwm 1 at 1kHz\n" COMMON;

static struct lexicon *lx, *other;
static struct image *image, *own;
static struct setup setup;
static GPtrArray *rows, *drilled;

static const struct drill_case *try_of(const char *text)
{
    for (unsigned i = 0; i < drilled->len; i++) {
        const struct drill_case *test = drilled->pdata[i];
        if (!strcmp(test->text, text)) return test;
    }
    CHECK_TEXT("no try of that text", text);
    return NULL;
}

static void say(GArray *moves, unsigned link, const char *text)
{
    struct move *move = moves_add(moves, MOVE_SAY, link, text);
    move->owed = OWED_OK;
    move->test = try_of(text);
    move->busy = true;
}

struct found {
    struct failing first;
    unsigned failed, said;
};

static void on_result(void *user, const struct move *move, const struct result *result)
{
    struct found *found = user;
    (void)move;
    found->said++;
    if (!result->expected || found->failed++) return;
    found->first = (struct failing){.move = result->move,
                                    .expected = g_strdup(result->expected),
                                    .came = g_strdup(result->came),
                                    .states = g_strdup(result->states)};
}

static struct found play(const GArray *moves)
{
    struct found found = {.failed = 0};
    struct session_options options = {.told = on_result, .user = &found};
    uint64_t us;
    char *died = session_run(&setup, moves, &options, &us);
    CHECK(!died);
    g_free(died);
    return found;
}

/* Much that has nothing to do with it, and the two that have. */
static GArray *long_talk(unsigned seed)
{
    static const char *const some[] = {"glow 0", "glow 100", "glow 50", "pump off", "beacon off"};
    GArray *moves = moves_new();
    for (unsigned i = 0; i < 30 + seed; i++) {
        if (i % 7 == 3) moves_wait(moves, 1000 * (1 + lines_chance(500)));
        if (i % 9 == 4) moves_add(moves, MOVE_PUSH, 0, "call")->us = lines_chance(2);
        say(moves, lines_chance(4) == 0, some[lines_chance(3)]);
        if (i == 17) say(moves, 0, "beacon on");
    }
    say(moves, seed % 2, "pump on");
    return moves;
}

static void two_are_left(void)
{
    for (unsigned seed = 0; seed < 6; seed++) {
        GArray *moves = long_talk(seed);
        struct found found = play(moves);
        test_context("seed %u", seed);
        CHECK(found.failed > 0);
        CHECK_INT(found.first.move, moves->len - 1);
        GArray *shortest = shrink(&setup, moves, &found.first, 20000);
        CHECK_INT(shortest->len, 2);
        CHECK_TEXT(g_array_index(shortest, struct move, 0).text, "beacon on");
        CHECK_TEXT(g_array_index(shortest, struct move, 1).text, "pump on");
        CHECK_INT(found.first.move, 1);
        struct found again = play(shortest);
        CHECK_INT(again.failed, 1);
        failing_clear(&again.first);
        failing_clear(&found.first);
        g_array_free(shortest, TRUE);
        g_array_free(moves, TRUE);
    }
    test_context("%s", "");
}

/* With little work it is longer, and still fails. */
static void bounded(void)
{
    GArray *moves = long_talk(1);
    struct found found = play(moves);
    GArray *shortest = shrink(&setup, moves, &found.first, 40);
    CHECK(shortest->len >= 2 && shortest->len <= moves->len);
    struct found again = play(shortest);
    CHECK(again.failed > 0);
    failing_clear(&again.first);
    failing_clear(&found.first);
    g_array_free(shortest, TRUE);
    g_array_free(moves, TRUE);
}

/* As a scene it fails on that device, and passes on one that is as told. */
static void as_a_scene(void)
{
    GArray *moves = long_talk(2);
    struct found found = play(moves);
    GArray *shortest = shrink(&setup, moves, &found.first, 20000);
    char *scene = shrink_scene(&setup, shortest, &found.first, "Two \"are\" left");
    char *body = strstr(scene, "scene ");
    CHECK(strstr(scene,
                 "lexicon \"LEXICON\" world \"WORLD\" seed 1\n\nscene \"Two \\\"are\\\" left\"\n"
                 "say bench \"beacon on\"\nhear bench \"*\"\nwait 50ms\nsay bench \"pump on\"\n") ==
          scene);
    CHECK(strstr(scene, "\nsee beacon on\n") != NULL);
    struct play_options options = {.seed = 1};
    for (unsigned wrong = 0; wrong < 2; wrong++) {
        struct scene_file *file =
            scene_file_of(wrong ? other : lx, wrong ? image : own, setup.world, body);
        CHECK_INT(file->read->faults->len, 0);
        struct play_result *result = play_scene(file, file->scenes->pdata[0], &options);
        test_context("%s", scene);
        CHECK_INT(result->passed, !wrong);
        play_result_free(result);
        scene_file_free(file);
    }
    test_context("%s", "");
    g_free(scene);
    failing_clear(&found.first);
    g_array_free(shortest, TRUE);
    g_array_free(moves, TRUE);
}

static void around(void)
{
    GArray *moves = moves_new();
    say(moves, 0, "glow 50");
    GPtrArray *lines = shrink_around(&setup, moves, 3);
    CHECK_INT(lines->len, 3);
    CHECK(lines->len == 3 && strstr(lines->pdata[0], ">  bench   glow 50"));
    CHECK(lines->len == 3 && strstr(lines->pdata[1], "=  glow     50 %"));
    CHECK(lines->len == 3 && strstr(lines->pdata[2], "<  bench   ok glow 50"));
    g_ptr_array_free(lines, TRUE);
    g_array_free(moves, TRUE);
}

static void copies(void)
{
    GArray *moves = moves_new();
    for (unsigned i = 0; i < 5; i++) moves_wait(moves, i);
    GArray *some = moves_copy(moves, 4, 1, 2);
    CHECK_INT(some->len, 2);
    CHECK_INT(g_array_index(some, struct move, 0).us, 0);
    CHECK_INT(g_array_index(some, struct move, 1).us, 3);
    g_array_free(some, TRUE);
    g_array_free(moves, TRUE);
}

static const struct test_case cases[] = {
    {"two are left", two_are_left},
    {"bounded", bounded},
    {"as a scene", as_a_scene},
    {"around", around},
    {"copies", copies},
};

int main(int argc, char **argv)
{
    lx = lexicon_read_text("x", g_strdup(told), strlen(told));
    other = lexicon_read_text("x", g_strdup(is), strlen(is));
    own = image_build(lx);
    image = image_build(other);
    rows = g_ptr_array_new_with_free_func(g_free);
    drilled = drill_cases(lx, rows);
    setup = (struct setup){.lx = lx, .image = image, .world = session_world(lx), .seed = 1};
    int code = test_main(argc, argv, cases, sizeof cases / sizeof *cases);
    g_free(setup.world);
    g_ptr_array_free(drilled, TRUE);
    g_ptr_array_free(rows, TRUE);
    image_free(image);
    image_free(own);
    lexicon_free(other);
    lexicon_free(lx);
    return code;
}
