/* What the drill's judge says of a bad moment: answers and acts that are held up, against all that
 * was said before. By hand, without a world. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "drill/judge/judge.h"
#include "rlx/drive.h"

static const char text[] = "lexicon tank 1\n"
                           "built-in halt stats state batch\n"
                           "setting dimming {linear|eye} = linear\n"
                           "setting other {linear|eye} = linear\n"
                           "output pump relay pin 4 safe off\n"
                           "output beacon led pin 19 safe off\n"
                           "output glow led pwm 1 at 1kHz curve dimming\n"
                           "output lamp led pwm 2 at 1kHz curve other\n"
                           "output spare relay pin 6 safe off\n"
                           "command pump {on|off|toggle} => pump\n"
                           "command beacon {on|off} => beacon\n"
                           "command glow {level 0..100%} => glow\n"
                           "command lamp {level 0..100%} => lamp\n"
                           "command dose {algae 5..250} {way skim|drain} => dose()\n"
                           "command rinse => rinse()\n"
                           "query level {mm 0..4000} => read_level()\n"
                           "routine dusk = \"beacon on; wait 2s; lamp 40\"\n"
                           "routine dull = \"other linear\"\n"
                           "link bench serial 115200 frame line\n";

enum { PUMP, BEACON, GLOW, LAMP, SPARE, OUTPUTS };

static struct lexicon *lx;
static struct image *image;
static GPtrArray *rows, *tries;
static struct board *board;
static struct setup setup;
static struct move move;
static struct outcome outcome;

static void begin(void)
{
    lx = lexicon_read_text("held", g_strdup(text), strlen(text));
    CHECK_INT(lx->faults->len, 0);
    image = image_build(lx);
    rows = g_ptr_array_new_with_free_func(g_free);
    tries = drill_cases(lx, rows);
    board = g_new0(struct board, 1);
    setup = (struct setup){.lx = lx, .image = image};
    move = (struct move){.what = MOVE_SAY, .owed = OWED_PERHAPS, .busy = true, .torn = true};
    outcome = (struct outcome){.setup = &setup,
                               .board = board,
                               .link = lx->links->pdata[0],
                               .move = &move,
                               .answers = g_ptr_array_new(),
                               .moved = g_new0(unsigned, OUTPUTS + 1),
                               .before = g_new0(char *, OUTPUTS + 1),
                               .calls = g_array_new(FALSE, FALSE, sizeof(struct drill_call)),
                               .said = g_ptr_array_new(),
                               .tables = true};
}

static void end(void)
{
    g_ptr_array_free(outcome.answers, TRUE);
    g_ptr_array_free(outcome.said, TRUE);
    g_array_free(outcome.calls, TRUE);
    g_free(outcome.moved);
    g_free(outcome.before);
    g_free(board);
    g_ptr_array_free(tries, TRUE);
    g_ptr_array_free(rows, TRUE);
    image_free(image);
    lexicon_free(lx);
    test_context("%s", "");
}

static void said(const char *what)
{
    for (unsigned i = 0; i < tries->len; i++) {
        struct drill_case *test = tries->pdata[i];
        if (strcmp(test->text, what) != 0) continue;
        g_ptr_array_add(outcome.said, test);
        return;
    }
    CHECK_TEXT("no try of that text", what);
}

/* What comes of it, and nothing is left of it for the next. */
static void check(const char *expected, const char *came)
{
    char *is = NULL;
    bool wrong = false;
    char *verdict = judge(&outcome, &is, &wrong);
    CHECK_TEXT(verdict ? verdict : "", expected ? expected : "");
    CHECK_TEXT(is ? is : "", came ? came : "");
    CHECK_INT(wrong, expected != NULL);
    g_free(verdict);
    g_free(is);
    g_ptr_array_set_size(outcome.answers, 0);
    g_array_set_size(outcome.calls, 0);
    memset(outcome.moved, 0, OUTPUTS * sizeof *outcome.moved);
}

static void changed(unsigned output, const char *by)
{
    test_context("output %u %s", output, by);
    outcome.moved[output] = 1;
}

static const char nothing[] = "nothing but the command";

static void outputs(void)
{
    begin();
    check(NULL, NULL);
    changed(PUMP, "by nothing");
    check(nothing, "pump changed");
    said("beacon on");
    changed(PUMP, "by another's command");
    check(nothing, "pump changed");
    said("pump");
    said("pump zzz");
    changed(PUMP, "by what nobody takes");
    check(nothing, "pump changed");
    said("pump on");
    changed(PUMP, "as it was not told");
    check(nothing, "pump changed");
    board->driven.pin[4] = 1;
    changed(PUMP, "as it was told");
    check(NULL, NULL);
    said("pump off");
    board->driven.pin[4] = 0;
    changed(PUMP, "by the one that came behind");
    check(NULL, NULL);
    changed(SPARE, "by nobody's command");
    check(nothing, "spare changed");
    said("halt");
    changed(SPARE, "by halt");
    check(NULL, NULL);
    end();
}

static void levels(void)
{
    begin();
    said("glow 0");
    said("glow 100");
    board->driven.duty[1] = UINT16_MAX;
    changed(GLOW, "at the second level");
    check(NULL, NULL);
    said("other eye");
    changed(SPARE, "by a setting that is no curve");
    check(nothing, "spare changed");
    end();
    begin();
    said("other linear");
    changed(GLOW, "by another curve");
    check(nothing, "glow changed");
    said("dimming eye");
    changed(GLOW, "by its curve");
    check(NULL, NULL);
    end();
}

static void routines(void)
{
    begin();
    changed(BEACON, "by itself, as a routine may");
    check(NULL, NULL);
    said("dusk");
    changed(PUMP, "by a routine that does not tell it");
    check(nothing, "pump changed");
    changed(SPARE, "by a routine that stores a curve");
    said("dull");
    check(nothing, "spare changed");
    CHECK_INT(judge_told_by(lx, lx->routines->pdata[1], LAMP), TOLD_PERHAPS);
    CHECK_INT(judge_told_by(lx, lx->routines->pdata[1], GLOW), TOLD_NOTHING);
    CHECK_INT(judge_told_by(lx, lx->routines->pdata[0], BEACON), TOLD);
    CHECK_INT(judge_told_by(lx, lx->routines->pdata[0], LAMP), TOLD);
    CHECK_INT(judge_told_by(lx, lx->routines->pdata[0], PUMP), TOLD_NOTHING);
    end();
}

static void answered(const char *answer, bool fits)
{
    test_context("%s", answer);
    g_ptr_array_add(outcome.answers, (char *)answer);
    check(fits ? NULL : "an answer to the command", fits ? NULL : answer);
}

static void answers(void)
{
    begin();
    answered("err lost at 0", true);
    answered("ok pump on", false);
    answered("ok 2", true); /* several in one frame */
    said("pump on");
    said("glow 0 zzz");
    answered("ok pump on", true);
    answered("ok pump on already", true);
    answered("ok pump on waiting 3s", true);
    answered("ok pump off", false);
    answered("ok pump onward", false);
    answered("ok glow 40", false);
    answered("ok stats lost 0 refused 1 ignored 0", false);
    said("stats");
    answered("ok stats lost 0 refused 1 ignored 0", true);
    g_ptr_array_add(outcome.answers, (char *)"ok pump on");
    answered("ok beacon on", false); /* the second one counts, too */
    end();
}

static void called(const char *what, int32_t first, int32_t second, bool fits)
{
    struct drill_call call = {.values = {first, second}};
    for (unsigned i = 0; i < image->handlers->len; i++) {
        const struct lex_command *command = image->handlers->pdata[i];
        const struct lex_element *word = command->elements->pdata[0];
        if (!strcmp(word->text, what)) call.handler = i;
    }
    test_context("%s %d %d", what, (int)first, (int)second);
    g_array_append_val(outcome.calls, call);
    check(fits ? NULL : nothing, fits ? NULL : "another call of a handler");
}

static void calls(void)
{
    begin();
    called("rinse", 0, 0, false);
    said("dose 5 skim");
    called("rinse", 0, 0, false);
    called("dose", 5, 0, true);
    called("dose", 6, 0, false);
    called("dose", 5, 1, false);
    said("dose 250 skim");
    said("dose 5 drain");
    called("dose", 250, 0, true);
    called("dose", 5, 1, true);
    called("dose", 250, 1, false);
    said("rinse zzz");
    called("rinse", 0, 0, false);
    said("rinse");
    called("rinse", 0, 0, true);
    called("level?", 0, 0, false);
    said("  level?  ");
    called("level?", 0, 0, true);
    outcome.tables = false; /* a firmware's calls are not seen */
    called("level?", 0, 0, true);
    end();
}

static const struct test_case cases[] = {
    {"outputs", outputs}, {"levels", levels}, {"routines", routines},
    {"answers", answers}, {"calls", calls},
};
TEST_MAIN(cases)
