/* The drill's judge, judged: it holds a device against one lexicon, while the device's tables are
 * made from another one, in which one thing is different. What is different has to be found, where
 * it can be seen; and nothing where nothing is. */
#include <stdio.h>
#include <string.h>

#include "drill/suites/drill.h"
#include "harness.h"
#include "drill/report/report.h"

static const char tank[] =
    "lexicon tank 1\n"
    "letters any-case shorten 3\n"
    "built-in halt about stats state batch\n"
    "setting dimming {linear|eye} = eye\n"
    "setting turns {n 0..999} = 7\n"
    "setting owner {text 1..9} = \"Ann\"\n"
    "input call pin 12 pull up active low debounce 20ms\n"
    "input upper pin 22 pull up active low\n"
    "input lower pin 23 pull up active low\n"
    "output pump relay pin 4 active low safe on\n"
    "output chiller relay pin 3 safe off min on 1s off 2s\n"
    "output beacon led pin 19 safe off\n"
    "output glow led pwm 1 at 1kHz safe 20%\n"
    "output lamp led pwm 2 at 1kHz safe 0% expires 3s\n"
    "output weir servo pwm 3 0..400mm as 950..2050us safe 0mm\n"
    "output gate reverser open pin 7 until upper close pin 8 until lower dead 200ms travel 5s safe "
    "stop\n"
    "output feeder motor pwm 6 at 20kHz direction 24 safe 0%\n"
    "output spare relay pin 5 safe off\n"
    "command pump {on|off|toggle} => pump\n"
    "command chiller {on|off} => chiller\n"
    "command beacon {on|off|toggle} => beacon\n"
    "command glow {level 0..100%} => glow\n"
    "command lamp {level 0..100} => lamp\n"
    "command {height 0..400}mm => weir\n"
    "command gate {open|close|stop} => gate\n"
    "command feed {speed -100..100%} => feeder expires 2s\n"
    "command night => glow 5%\n"
    "routine dusk = \"pump on; glow 40; wait 2s; beacon on\"\n"
    "event call {pressed|released} <= call to bench\n"
    "event dusk {done|stopped|failed} <= dusk to bench\n"
    "link bench serial 115200 frame line\n"
    "link band bridge 9600 frame gap 20ms\n"
    "link desk serial 9600 frame line for people\n"
    "link pad serial 9600 frame keys p = \"pump toggle\" g = \"glow 50\"\n"
    "link skiff radio payload 48 address 3 senders 2 check required tags required\n"
    "link shore sms allow +15550142 stale after 10min\n";

/* Who may write messages is kept; others have a code. */
static const char shore[] =
    "lexicon shore 1\n"
    "built-in state stats\n"
    "setting phones {text 0..40} = \"+15550142\"\n"
    "setting pin {text 4..8} = \"4711\"\n"
    "input call pin 12 pull up active low debounce 20ms\n"
    "output pump relay pin 4 safe off\n"
    "output beacon led pin 19 safe off\n"
    "output left led pwm 3 at 1kHz\n"
    "output pair pair left pwm 4 direction 14 right pwm 5 direction 15 ramp 200ms safe 0%\n"
    "command pump {on|off|toggle} => pump\n"
    "command beacon {on|off} => beacon\n"
    "command drums {left -100..100%} {right -100..100%} => pair expires 3s\n"
    "event call {pressed|released} <= call to bench\n"
    "link bench serial 115200 frame line\n"
    "link phone sms allow setting phones stale after 10min\n"
    "link far sms code setting pin\n";

/* Nobody answers over `mute`; on `panel` codes have digits, on `keys` a line may follow a lead. */
static const char mute[] =
    "lexicon mute 1\n"
    "built-in halt\n"
    "output pump relay pin 4 safe off\n"
    "output glow led pwm 1 at 1kHz safe 0%\n"
    "command pump {on|off} => pump\n"
    "command glow {level 0..100%} => glow\n"
    "command dim {step 0..9 as 0..9} => glow\n"
    "link mute serial 9600 frame line replies silent\n"
    "link panel serial 9600 frame codes within 300ms PP = \"pump on\" \"G##\" = \"glow ##\" "
    "\"D#\" = \"dim #\"\n"
    "link keys serial 9600 frame keys lead \":\" p = \"pump on\"\n";

/* What an input does by itself, and a command that answers in its own words. */
static const char wall[] =
    "lexicon wall 1\n"
    "output lamp led pin 1 safe off\n"
    "output glow led pwm 1 at 1kHz safe 20%\n"
    "input wall pin 5 pull up active low debounce 20ms held 1s pressed => lamp on held => glow 40% "
    "released => lamp off\n"
    "command lamp {to on|off} => lamp says \"the lamp is {to}\" already \"it was {to}\"\n"
    "command glow {level 0..100%} => glow\n"
    "link bench serial 9600 frame line\n";

/* What inputs permit. */
static const char oven[] =
    "lexicon oven 1\n"
    "output heater relay pin 1 safe off only while door closed and hatch on\n"
    "output drum motor pwm 1 at 20kHz direction 2 safe 0% forward only while door closed\n"
    "output vent reverser open pin 3 close pin 4 dead 200ms safe stop close only while hatch off\n"
    "input door pin 5 pull up active low debounce 20ms\n"
    "input hatch pin 6 pull up active low\n"
    "command heater {on|off} => heater\n"
    "command drum {level -100..100%} => drum\n"
    "command vent {open|close|stop} => vent\n"
    "event door {closed|opened} <= door\n"
    "event heater {hot|cold} <= heater\n"
    "built-in halt\n"
    "link bench serial 9600 frame line\n";

static const char *told = tank;

static struct lexicon *read_text(const char *text)
{
    return lexicon_read_text("told", g_strdup(text), strlen(text));
}

/* The report of a drill by what is told of a device whose tables are of `is`. */
static json_t *drill_other(const char *is, const char *suite, const char *link)
{
    struct lexicon *lx = read_text(told), *other = read_text(is);
    CHECK(!lexicon_has(lx, false));
    CHECK(!lexicon_has(other, false));
    struct image *image = image_build(other);
    if (!CHECK(image != NULL)) return json_object();
    GError *error = NULL;
    struct drill_options options = {
        .suite = suite, .link = link, .seed = 1, .jobs = 1, .mixed = 4, .bare = true};
    struct image *own = image_build(lx); /* works out how long its links' buffers are */
    json_t *report = drill(lx, image, &options, &error);
    if (!report) printf("%s\n", error->message);
    g_clear_error(&error);
    image_free(image);
    image_free(own);
    lexicon_free(other);
    lexicon_free(lx);
    return report;
}

/* The text with the first `from` of it as `to`; owned by the caller. */
static char *changed(const char *from, const char *to)
{
    char **parts = g_strsplit(told, from, 2);
    CHECK_INT(g_strv_length(parts), 2);
    char *text = g_strconcat(parts[0], to, parts[1], NULL);
    g_strfreev(parts);
    return text;
}

/* Whether some failure is about `row` (a part of it), and expected what begins so. */
static bool has_failure(const json_t *report, const char *row, const char *expected)
{
    const json_t *failures = json_object_get(report, "failures");
    for (size_t i = 0; i < json_array_size(failures); i++) {
        const json_t *f = json_array_get(failures, i);
        if (strstr(report_string(f, "case"), row) && strstr(report_string(f, "expected"), expected))
            return true;
    }
    return false;
}

struct lie {
    const char *from, *to;
    const char *suite, *link;
    const char *row, *expected;
};

static void try_lie(const struct lie *lie)
{
    char *is = changed(lie->from, lie->to);
    test_context("'%s' is '%s'", lie->from, lie->to);
    json_t *report = drill_other(is, lie->suite, lie->link);
    bool found = has_failure(report, lie->row, lie->expected);
    CHECK(found);
    CHECK(report_count(report, "failed") > 0);
    if (!found) {
        const json_t *failures = json_object_get(report, "failures");
        for (size_t i = 0; i < json_array_size(failures) && i < 5; i++) {
            const json_t *f = json_array_get(failures, i);
            printf("  %s: \"%s\": %s / %s\n", report_string(f, "case"), report_string(f, "text"),
                   report_string(f, "expected"), report_string(f, "came"));
        }
    }
    json_decref(report);
    g_free(is);
}

static void try_lies(const struct lie *lies, size_t n)
{
    for (size_t i = 0; i < n; i += test_stride()) try_lie(&lies[i]);
    test_context("%s", "");
}

static void nothing_where_nothing_is(void)
{
    static const char *const suite[] = {"words", "ends", "life", "mixed", "faults"};
    for (unsigned i = 0; i < 2 * G_N_ELEMENTS(suite); i++) {
        told = i % 2 ? shore : tank;
        test_context("%s %s", told, suite[i / 2]);
        json_t *report = drill_other(told, suite[i / 2], NULL);
        CHECK_INT(report_count(report, "failed"), 0);
        CHECK(report_count(report, "cases") > 20);
        CHECK(report_count(report, "conversations") > 3);
        json_decref(report);
    }
    told = tank;
    test_context("%s", "");
}

static void other_words(void)
{
    static const struct lie lies[] = {
        {"glow {level 0..100%}", "glow {level 0..99%}", "words", "bench", "glow", "ok"},
        {"turns {n 0..999}", "turns {n 0..998}", "words", "bench", "turns", "ok"},
        {"turns {n 0..999}", "turns {n 0..1000}", "words", "bench", "turns", "err: no command"},
        {"turns {n 0..999} = 7", "turns {n 1..999} = 7", "words", "bench", "turns", "ok"},
        {"{text 1..9}", "{text 1..8}", "words", "bench", "owner", "ok"},
        {"{text 1..9}", "{text 1..10}", "words", "bench", "owner", "err: no command"},
        {"speed -100..100%", "speed -99..100%", "words", "bench", "feed", "ok"},
        {"{height 0..400}mm", "h{height 0..400}", "words", "bench", "height", "ok"},
        {"command chiller {on|off}", "command chill {on|off}", "words", "bench", "chiller", "ok"},
        {"command night", "command nigth", "words", "bench", "night", "ok"},
        {"any-case shorten 3", "exact shorten 3", "words", "bench", "pump", "ok"},
        {"any-case shorten 3", "any-case", "words", "bench", "pump", "ok"},
        {"any-case shorten 3", "any-case shorten 4", "words", "bench", "chiller", "ok"},
        {"any-case shorten 3", "any-case shorten 2", "words", "bench", "pump", "err: no command"},
        {"halt about", "about", "words", "bench", "halt", "ok"},
        {"stats state", "stats", "words", "bench", "pump?", "ok"},
        {"about stats", "stats", "words", "bench", "about", "ok"},
        {"p = \"pump toggle\"", "q = \"pump toggle\"", "words", "pad", "pump", "ok"},
    };
    try_lies(lies, G_N_ELEMENTS(lies));
}

static void other_outputs(void)
{
    static const struct lie lies[] = {
        {"pin 4 active low", "pin 4 active high", "words", "bench", "pump", "pump at"},
        {"led pin 19", "led pin 18", "words", "bench", "beacon", "beacon at"},
        {"led pwm 1", "led pwm 9", "words", "bench", "glow", "glow at"},
        {"as 950..2050us", "as 960..2050us", "words", "bench", "height", "weir at"},
        {"as 950..2050us", "as 2050..950us", "words", "bench", "height", "weir at"},
        {"=> glow 5%", "=> glow 6%", "words", "bench", "night", "glow at 5 %"},
        {"0..100%} => glow", "0..100% as 100..0} => glow", "words", "bench", "glow", "glow at"},
        {"toggle} => beacon", "toggle} => pump", "words", "bench", "beacon", "beacon at 100"},
        {"toggle} => pump", "toggle} => beacon", "words", "skiff", "pump", "pump at 0"},
        {"safe 20%", "safe 20% curve eye", "words", "bench", "glow", "glow at"},
        {"pin 4 active low safe on", "pin 4 active low safe off", "life", "bench", "power-up",
         "pump on"},
        {"safe 20%", "safe 30%", "life", "bench", "power-up", "glow 20%"},
        {"led pin 19 safe off", "led pin 19 safe on", "life", "bench", "power-up", "beacon off"},
        {"safe 0mm", "safe 10mm", "life", "bench", "power-up", "weir 950us"},
    };
    try_lies(lies, G_N_ELEMENTS(lies));
}

static void other_times(void)
{
    static const struct lie lies[] = {
        {"expires 3s", "expires 4s", "life", "bench", "expiry", "lamp 0%"},
        {"expires 3s", "expires 2s", "life", "bench", "expiry", "lamp 100%"},
        {" expires 3s", "", "life", "bench", "expiry", "lamp 0%"},
        {"feeder expires 2s", "feeder expires 1s", "life", "bench", "expiry", "feeder 100%"},
        {"feeder expires 2s", "feeder", "life", "bench", "expiry", "feeder 0%"},
        {"min on 1s off 2s", "min on 1s off 1s", "life", "bench", "minimum", "chiller off"},
        {"min on 1s off 2s", "min on 1s off 3s", "life", "bench", "minimum", "chiller on"},
        {"min on 1s off 2s", "min on 500ms off 2s", "life", "bench", "minimum", "chiller on"},
        {"min on 1s off 2s", "min on 2s off 2s", "life", "bench", "minimum", "chiller off"},
        {"dead 200ms", "dead 1s", "life", "bench", "dead", "gate closing"},
        {"travel 5s", "travel 9s", "life", "bench", "dead", "gate stopped"},
        {"until upper", "until lower", "life", "bench", "dead", "gate"},
        {"wait 2s; beacon", "wait 4s; beacon", "life", "bench", "routines", "\"*ev dusk done*\""},
        {"glow 40; wait", "wait", "life", "bench", "routines", "\"*ok dusk off*\""},
        {"24 safe 0%", "24 safe 0% ramp 1s", "life", "bench", "direction changes", "feeder -100%"},
        {"<= dusk to bench", "<= dusk to band", "life", "bench", "routines", "\"*ev dusk done*\""},
        {"<= call to bench", "<= upper to bench", "life", "bench", "events",
         "\"*ev call pressed*\""},
        {"pin 12 pull up active low", "pin 12 pull up active high", "life", "bench", "events",
         "ev call"},
    };
    try_lies(lies, G_N_ELEMENTS(lies));
}

static void other_links(void)
{
    static const struct lie lies[] = {
        {"lexicon tank 1", "lexicon tank 2", "life", NULL, "reset", "ready tank 1"},
        {" batch", "", "life", NULL, "batches", "\"*ok 2\""},
        {"address 3", "address 4", "words", "skiff", "dimming", "an answer"},
        {"check required", "check off", "words", "skiff", "dimming", "an answer"},
        {"tags required", "tags off", "words", "skiff", "dimming", "an answer"},
        {"9600 frame gap 20ms", "9600 frame line", "words", "band", "dimming", "an answer"},
        {"115200 frame line", "115200 frame line replies silent", "words", "bench", "dimming",
         "an answer"},
        {"115200 frame line", "115200 frame line only pump", "words", "bench", "dimming", "ok"},
        {"10min\n", "10min\ntexts bench ok = \"yes\"\n", "words", "bench", "dimming", "ok"},
        {"10min\n", "10min\nignore \"pump on\" on bench\n", "words", "bench", "pump", "an answer"},
        {"allow +15550142", "allow +15550143", "words", "shore", "dimming", "an answer"},
        {"allow +15550142", "open", "life", NULL, "who may write", "silence from shore"},
        {"stale after 10min", "stale after 40min", "life", NULL, "late", "\"err late*\""},
        {"115200 frame line", "115200 frame keys lead \":\"", "ends", "bench", "replies",
         "no answer"},
        {"line for people", "line", "ends", "desk", "line editing", "ok"},
        {"g = \"glow 50\"", "g = \"glow 50\" z = \"pump on\"", "ends", "pad", "unassigned keys",
         "err"},
        {"allow +15550142", "open", "life", NULL, "who may write", "no answer"},
    };
    try_lies(lies, G_N_ELEMENTS(lies));
}

/* Also where answers and acts are held up, and come behind other commands. */
static void held_up(void)
{
    static const struct lie lies[] = {
        {"toggle} => pump", "toggle} => spare", "faults", "skiff", "", "nothing but the command"},
        {"toggle} => pump", "toggle} => spare", "faults", "shore", "", "nothing but the command"},
        {"toggle} => pump", "toggle} => spare", "ends", "bench", "receive buffer overflow",
         "nothing but"},
        {"toggle} => pump", "toggle} => spare", "life", NULL, "envelopes", "nothing but"},
    };
    try_lies(lies, G_N_ELEMENTS(lies));
}

/* Text messages: who may write, and with which code. */
static void other_writers(void)
{
    static const struct lie lies[] = {
        {"allow setting phones", "allow +15550142", "life", NULL, "pump", "an answer"},
        {"allow setting phones", "open", "life", NULL, "who may write", "silence from phone"},
        {"allow setting phones", "allow setting phones allow +15550146", "life", NULL,
         "who may write", "no answer"},
        {"sms code setting pin", "sms open", "life", NULL, "who may write", "silence from far"},
        {"stale after 10min", "stale after 3h", "life", NULL, "late", "\"err late*\""},
        {"{text 0..40}", "{text 1..40}", "life", NULL, "who may write", "ok"},
        {"ramp 200ms", "ramp 900ms", "life", "bench", "direction changes", "pair"},
        {"direction 14", "direction 16", "life", "bench", "direction changes", "pair -"},
        {"=> pair expires 3s", "=> pair expires 9s", "life", "bench", "direction changes",
         "pair 0%"},
        {"<= call to bench", "<= call to far", "life", "bench", "events", "\"*ev call pressed*\""},
    };
    told = shore;
    try_lies(lies, G_N_ELEMENTS(lies));
    told = tank;
}

static void by_inputs_and_in_own_words(void)
{
    static const struct lie lies[] = {
        {"pressed => lamp on", "pressed => lamp off", "life", "bench", "inputs that act",
         "lamp on"},
        {"held => glow 40%", "held => glow 41%", "life", "bench", "inputs that act", "glow 40%"},
        {"released => lamp off", "", "life", "bench", "inputs that act", "lamp off"},
        {"\"the lamp is {to}\"", "\"the lamp was {to}\"", "words", "bench", "lamp", "ok"},
        {"says \"the lamp is {to}\" already \"it was {to}\"", "", "words", "bench", "lamp",
         "the command's own answer"},
    };
    told = wall;
    try_lies(lies, G_N_ELEMENTS(lies));
    told = tank;
}

static void by_permits(void)
{
    static const struct lie lies[] = {
        {"safe off only while door closed and hatch on", "safe off only while door closed", "life",
         "bench", "permits", "*blocked hatch*"},
        {"safe off only while door closed and hatch on", "safe off", "life", "bench", "permits",
         "*blocked door*"},
        {"safe off only while door closed and hatch on",
         "safe off only while door closed and hatch off", "life", "bench", "permits", "*ok*"},
        {"door closed and hatch on", "door opened and hatch on", "words", "bench", "heater", "ok"},
        {"forward only while door closed", "back only while door closed", "life", "bench",
         "permits", "*blocked door*"},
        {"event heater {hot|cold}", "event heater {cold|hot}", "life", "bench", "events",
         "*ev heater hot*"},
        {" close only while hatch off", "", "life", "bench", "permits", "*blocked hatch*"},
    };
    told = oven;
    try_lies(lies, G_N_ELEMENTS(lies));
    told = tank;
}

static void without_answers(void)
{
    static const struct lie lies[] = {
        {"led pwm 1", "led pwm 9", "words", "mute", "glow", "glow at"},
        {"replies silent", "replies silent only halt", "words", "mute", "pump", "pump at 100 %"},
        {"replies silent", "replies silent only halt", "words", "mute", "all that switches",
         "at least once"},
        {"0..100%} => glow", "0..100% as 100..0} => glow", "words", "panel", "glow", "glow at 99"},
        {"as 0..9}", "as 9..0}", "words", "panel", "dim", "glow at 9 %"},
        {"level 0..100%}", "level 0..99%}", "words", "keys", "glow", "ok"},
    };
    told = mute;
    try_lies(lies, G_N_ELEMENTS(lies));
    json_t *report = drill_other(told, "words", NULL);
    CHECK_INT(report_count(report, "failed"), 0);
    json_decref(report);
    told = tank;
}

/* What is mixed from a seed finds them, too. */
static void mixed(void)
{
    static const struct lie lies[] = {
        {"glow {level 0..100%}", "glow {level 5..50%}", "mixed", NULL, "glow", "ok"},
        {"address 3", "address 4", "mixed", NULL, "", "an answer"},
    };
    try_lie(&lies[0]);
    try_lie(&lies[1]);
    test_context("%s", "");
}

static const struct test_case cases[] = {
    {"nothing where nothing is", nothing_where_nothing_is},
    {"other words", other_words},
    {"other outputs", other_outputs},
    {"other times", other_times},
    {"other links", other_links},
    {"other writers", other_writers},
    {"held up", held_up},
    {"by inputs, and in own words", by_inputs_and_in_own_words},
    {"by permits", by_permits},
    {"without answers", without_answers},
    {"mixed", mixed},
};
TEST_MAIN(cases)
