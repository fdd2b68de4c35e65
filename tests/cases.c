/* What is tried of a lexicon, and what the lexicon says of it: by hand for each kind of slot, and
 * for all of them against the device itself. */
#include "drill/cases/cases.h"

#include <stdio.h>
#include <string.h>

#include "world/boards/bench.h"
#include "harness.h"

static struct lexicon *read_text(const char *text)
{
    struct lexicon *lx = lexicon_read_text("x", g_strdup(text), strlen(text));
    CHECK_INT(lx->faults->len, 0);
    return lx;
}

static const struct drill_case *find(const GPtrArray *cases, const char *text)
{
    for (unsigned i = 0; i < cases->len; i++) {
        const struct drill_case *test = cases->pdata[i];
        if (!strcmp(test->text, text)) return test;
    }
    return NULL;
}

struct wanted {
    const char *text;
    enum case_why why;
    bool valid;
};

/* Each of them is there, and is what it is for. */
static void check_tries(const char *lines, const struct wanted *wanted, size_t n)
{
    char *text = g_strconcat("lexicon x 1\n", lines, "link bench serial 9600 frame line\n", NULL);
    struct lexicon *lx = read_text(text);
    GPtrArray *rows = g_ptr_array_new_with_free_func(g_free), *cases = drill_cases(lx, rows);
    for (size_t i = 0; i < n; i++) {
        const struct drill_case *test = find(cases, wanted[i].text);
        test_context("\"%s\" of %s", wanted[i].text, lines);
        if (!CHECK(test != NULL)) continue;
        CHECK_TEXT(try_whys[test->why], try_whys[wanted[i].why]);
        CHECK_INT(test->valid, wanted[i].valid);
    }
    test_context("%s", "");
    for (unsigned i = 0; i < cases->len; i++) /* none twice */
        CHECK(find(cases, ((struct drill_case *)cases->pdata[i])->text) == cases->pdata[i]);
    g_ptr_array_free(cases, TRUE);
    g_ptr_array_free(rows, TRUE);
    lexicon_free(lx);
    g_free(text);
}
#define TRIES(lines, ...)                                           \
    do {                                                            \
        static const struct wanted wanted[] = {__VA_ARGS__};        \
        check_tries(lines, wanted, sizeof wanted / sizeof *wanted); \
    } while (0)

static void numbers(void)
{
    TRIES("output glow led pwm 1 at 1kHz\ncommand glow {level 0..100%} => glow\n",
          {"glow 0", CASE_PLAIN, true}, {"glow 100", CASE_HIGHEST, true},
          {"glow 50", CASE_MIDDLE, true}, {"glow 100%", CASE_UNIT, true},
          {"glow -1", CASE_BELOW, false}, {"glow 101", CASE_ABOVE, false},
          {"glow 0100", CASE_MORE_ZEROS, false}, {"glow x1", CASE_NO_NUMBER, false},
          {"glow 1:", CASE_NO_NUMBER, false}, {"glow 1/", CASE_NO_NUMBER, false},
          {"glow 1", CASE_BETWEEN, true}, {"glow 3", CASE_BETWEEN, true},
          {"glow 33", CASE_BETWEEN, true}, {"glow 99", CASE_BETWEEN, true},
          {"glow", CASE_CUT, false}, {"glow 0 zzz", CASE_EXTRA, false},
          {"zzglow 0", CASE_OTHER_WORD, false}, {"glo", CASE_CUT_WORD, false},
          {"  glow 0  ", CASE_BLANKS, true}, {"GLOW 0", CASE_CAPITALS, false});
    TRIES("command go {-5..300} => go()\n", {"go -5", CASE_PLAIN, true},
          {"go 300", CASE_HIGHEST, true}, {"go 147", CASE_MIDDLE, true},
          {"go -6", CASE_BELOW, false}, {"go 301", CASE_ABOVE, false});
    TRIES("command warm {5.0..32.5} => warm()\n", {"warm 5.0", CASE_PLAIN, true},
          {"warm 32.5", CASE_HIGHEST, true}, {"warm 4.9", CASE_BELOW, false},
          {"warm 32.6", CASE_ABOVE, false});
    TRIES("command mask {0x00..0xFF} => mask()\n", {"mask 0x0", CASE_PLAIN, true},
          {"mask 0xFF", CASE_HIGHEST, true}, {"mask 0x100", CASE_ABOVE, false});
    TRIES("command rest {1s..5min} => rest()\n", {"rest 1s", CASE_PLAIN, true},
          {"rest 5min", CASE_HIGHEST, true}, {"rest 999ms", CASE_BELOW, false},
          {"rest 300001ms", CASE_ABOVE, false});
    TRIES("command few {1..3} => few()\n", {"few 2", CASE_MIDDLE, true},
          {"few 4", CASE_ABOVE, false});
    TRIES("command all {-2147483647..2147483647} => all()\n", {"all -2147483647", CASE_PLAIN, true},
          {"all -2147483646", CASE_BETWEEN, true}, {"all 715827882", CASE_BETWEEN, true},
          {"all 2147483646", CASE_BETWEEN, true});
    TRIES("command {height 0..400}mm => weir()\n", {"0mm", CASE_PLAIN, true},
          {"400mm", CASE_HIGHEST, true}, {"401mm", CASE_ABOVE, false},
          {"0MM", CASE_CAPITALS, false});
    TRIES("command v{1..12} {open|shut} => valve()\n", {"v1 open", CASE_PLAIN, true},
          {"v12 open", CASE_HIGHEST, true}, {"v13 open", CASE_ABOVE, false},
          {"v1 shut", CASE_CHOICE, true}, {"v1 zzz", CASE_NO_CHOICE, false},
          {"v1", CASE_CUT, false});
    TRIES("command at {2147483646..2147483647} => at()\n", {"at 2147483646", CASE_PLAIN, true},
          {"at 2147483645", CASE_BELOW, false}, {"at 2147483647", CASE_HIGHEST, true});
}

static void other_slots(void)
{
    TRIES("command doses {3 of 1..9} => doses()\n", {"doses 1", CASE_PLAIN, true},
          {"doses 9,9,9", CASE_MOST, true}, {"doses 9,9,9,9", CASE_MORE, false});
    TRIES("command lamps {set red|green|blue} => lamps()\n", {"lamps red", CASE_PLAIN, true},
          {"lamps blue", CASE_CHOICE, true}, {"lamps red+green+blue", CASE_ALL_OF_SET, true});
    TRIES("command name {text 2..5} => name()\n", {"name \"xx\"", CASE_PLAIN, true},
          {"name \"xxxxx\"", CASE_LONGEST, true}, {"name \"xxxxxx\"", CASE_LONGER, false},
          {"name \"x", CASE_UNQUOTED, false});
    TRIES("command memo {text 0..40} => note()\n", {"memo \"x\"", CASE_PLAIN, true},
          {"memo \"\"", CASE_SHORTEST, true}, {"memo \"xxxxxxxxxx\"", CASE_MIDDLE, true});
    TRIES("command jot {rest 1..4} => jot()\n", {"jot x", CASE_PLAIN, true},
          {"jot xxxx", CASE_LONGEST, true}, {"jot xxxxx", CASE_LONGER, false});
    TRIES("command wash (the) tank {time 1..90 = 10} => wash()\n",
          {"wash the tank 1", CASE_PLAIN, true}, {"wash tank 1", CASE_LEFT_OUT, true},
          {"wash the tank", CASE_LEFT_OUT, true});
}

static void spellings(void)
{
    TRIES("letters any-case shorten 3\ncommand drain {slow|fast} => drain()\n",
          {"dra slow", CASE_SHORT_FORM, true}, {"dr slow", CASE_CUT_WORD, false},
          {"drain slo", CASE_SHORT_FORM, true}, {"DRAIN SLOW", CASE_CAPITALS, true},
          {"DrAiN SlOw", CASE_MIXED, true}, {"d", CASE_CUT_WORD, false});
    /* what another word begins with as well is nobody's: it is not tried */
    char text[] = "lexicon x 1\nletters any-case shorten 3\ncommand drain => drain()\n"
                  "command draw => draw()\nlink bench serial 9600 frame line\n";
    struct lexicon *lx = read_text(text);
    GPtrArray *rows = g_ptr_array_new_with_free_func(g_free), *cases = drill_cases(lx, rows);
    CHECK(!find(cases, "dra"));
    CHECK(find(cases, "drain") && find(cases, "draw"));
    CHECK_INT(rows->len, 2);
    g_ptr_array_free(cases, TRUE);
    g_ptr_array_free(rows, TRUE);
    lexicon_free(lx);
}

static void others(void)
{
    TRIES("built-in halt state help\noutput pump relay pin 4 safe off\ncommand pump {on|off} => "
          "pump\n"
          "query level {mm 0..9} => level()\n",
          {"pump?", CASE_PLAIN, true}, {"level?", CASE_PLAIN, true}, {"halt", CASE_PLAIN, true},
          {"halt zzz", CASE_EXTRA, false}, {"  help  ", CASE_BLANKS, true},
          {"HALT", CASE_CAPITALS, false});
}

static void keys(void)
{
    char text[] =
        "lexicon x 1\noutput glow led pwm 1 at 1kHz\ncommand glow {level 0..100%} => glow\n"
        "command go {0..99} => go()\nlink pad serial 9600 frame keys + = \"glow 100\" a = \"go "
        "5\"\n"
        "link panel serial 9600 frame codes \"G##\" = \"go ##\"\n"
        "link only serial 9600 frame line only glow\n";
    struct lexicon *lx = read_text(text);
    GPtrArray *pad = drill_keys(lx, lexicon_link(lx, "pad"));
    GPtrArray *panel = drill_keys(lx, lexicon_link(lx, "panel"));
    CHECK_INT(pad->len, 2);
    CHECK_INT(panel->len, 2);
    CHECK_TEXT(((struct drill_case *)pad->pdata[0])->text, "+");
    CHECK_TEXT(((struct drill_case *)panel->pdata[0])->text, "G00");
    CHECK_TEXT(((struct drill_case *)panel->pdata[1])->text, "G99");
    CHECK_TEXT(drill_text(panel->pdata[1]), "go 99");
    CHECK_INT(((struct drill_case *)panel->pdata[0])->row, 1);
    CHECK(drill_may_say(lexicon_link(lx, "only"), pad->pdata[0]));
    CHECK(!drill_may_say(lexicon_link(lx, "only"), pad->pdata[1]));
    CHECK(drill_may_say(lexicon_link(lx, "pad"), pad->pdata[1]));
    g_ptr_array_free(pad, TRUE);
    g_ptr_array_free(panel, TRUE);
    lexicon_free(lx);
}

/* ---- against the device ---- */

static GString *heard;

static void on_sight(void *user, const struct sight *sight)
{
    (void)user;
    if (sight->kind == SIGHT_ANSWERED)
        g_string_append_len(heard, sight->text, (gssize)sight->count);
}

/* The device takes what is said to be valid, and nothing else. */
static void as_the_device(void)
{
    static const char text[] =
        "lexicon x 1\nletters any-case shorten 3\noutput pump relay pin 4 safe off\n"
        "output glow led pwm 1 at 1kHz\ncommand pump {on|off|toggle} => pump\n"
        "command glow {level 0..100%} => glow\ncommand dim {level 0..100% as 100..0} => glow\n"
        "command doses {3 of 0.5..9.5}ml => doses()\ncommand wash (the) tank|basin {n 1..90 = 10} "
        "=> wash()\n"
        "command {height 0..400}mm => weir()\ncommand mask {0x00..0xFF} => mask()\n"
        "command rest {250ms..5min} => rest()\ncommand name {text 1..9} => name()\n"
        "command jot {rest 1..20} => jot()\ncommand v{1..12} {open|shut} => valve()\n"
        "command lamps {set red|green|blue} => lamps()\nlink bench serial 115200 frame line\n";
    struct lexicon *lx = read_text(text);
    struct image *image = image_build(lx);
    struct bench_options options = {.seed = 1};
    struct bench *bench = bench_new(lx, image, &options, NULL);
    GPtrArray *rows = g_ptr_array_new_with_free_func(g_free), *cases = drill_cases(lx, rows);
    unsigned valid = 0;
    heard = g_string_new(NULL);
    bench_watch(bench, on_sight, NULL);
    bench_start(bench);
    bench_pass(bench, 1000000);
    for (unsigned i = 0; i < cases->len; i++) {
        const struct drill_case *test = cases->pdata[i];
        struct end *end = bench_end(bench, "bench");
        g_string_truncate(heard, 0);
        bench_say(end, test->text, strlen(test->text));
        bench_until_quiet(end);
        test_context("\"%s\" (%s): %s", test->text, try_whys[test->why], heard->str);
        CHECK(g_str_has_prefix(heard->str, test->valid ? "ok" : "err"));
        valid += test->valid;
    }
    test_context("%s", "");
    CHECK(valid > 60);
    CHECK(cases->len - valid > 60);
    g_string_free(heard, TRUE);
    g_ptr_array_free(cases, TRUE);
    g_ptr_array_free(rows, TRUE);
    bench_free(bench);
    image_free(image);
    lexicon_free(lx);
}

static const struct test_case cases[] = {
    {"numbers", numbers},     {"other slots", other_slots},
    {"spellings", spellings}, {"others", others},
    {"keys", keys},           {"as the device", as_the_device},
};
TEST_MAIN(cases)
