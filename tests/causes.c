/* The causes of a real board's failures, named from what came; and what a greeting says. */
#include <string.h>

#include "drill/report/cause.h"
#include "harness.h"
#include "lexicon/answers.h"
#include "lexicon/model.h"

/* The causes of these failures, one a line with how many point at it. Owned by the caller. */
static char *named(const char *json, bool board)
{
    json_t *failures = json_loads(json, 0, NULL), *causes = causes_named(failures, board);
    GString *text = g_string_new(NULL);
    for (size_t i = 0; i < json_array_size(causes); i++) {
        const json_t *one = json_array_get(causes, i);
        g_string_append_printf(text, "%lld %s\n",
                               (long long)json_integer_value(json_object_get(one, "failures")),
                               json_string_value(json_object_get(one, "cause")));
    }
    json_decref(causes);
    json_decref(failures);
    return g_string_free(text, FALSE);
}

static void names_of(bool board, const char *failures, const char *wanted)
{
    char *got = named(failures, board);
    test_context("%s", failures);
    CHECK_TEXT(got, wanted);
    g_free(got);
}

static void names(const char *failures, const char *wanted)
{
    names_of(true, failures, wanted);
}

/* Of a firmware in the simulation: each is `expected`, `came`, and more. */
static void shows(const char *failures, const char *wanted)
{
    names_of(false, failures, wanted);
}

#define F "\"text\": \"pump on\\r\\n\", \"came\": \"\", "

static void one_by_one(void)
{
    names("[]", "");
    names("[{" F "\"expected\": \"ok\"}]", "");
    names("[{" F "\"anew\": true}]",
          "1 the board starts anew by itself: a watchdog, a fault, or its supply\n");
    names("[{" F "\"late_ms\": 402.0, \"handler\": \"dose\", \"its\": true}]",
          "1 dose() keeps the board from answering: it waits, or takes long\n");
    names("[{" F "\"late_ms\": 402.0, \"handler\": \"dose\", \"its\": false}]",
          "1 the board answers late: its main loop is held up\n");
    names("[{" F "\"late_ms\": -402.0}]", "");
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"ok pump\"}]",
          "1 answers end behind 7 bytes: the way out loses the rest\n");
    names(
        "[{" F "\"should\": \"ok pump on already\", \"is\": \"ok pump on\", \"handler\": \"dose\", "
        "\"behind\": \"dose 5\", \"its\": false}]",
        "1 an output is not as it was commanded: behind \"dose 5\" it says \"ok pump on\"; look at "
        "what dose() switches\n");
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"ok pump on already\"}]",
          "1 an output is not as it was commanded: asked it says \"ok pump on already\"\n");
    names(
        "[{\"text\": \"pump?\", \"came\": \"\", \"should\": \"ok pump off\", \"is\": "
        "\"ok pump on\", \"handler\": \"dose\", \"behind\": \"dose 5\", \"its\": false}]",
        "1 an output is not as it was commanded: behind \"dose 5\" it says \"ok pump on\"; look at "
        "what dose() switches\n");
    names("[{\"text\": \"pump?\", \"came\": \"\", \"should\": \"ok pump off\", \"is\": "
          "\"err busy\"}]",
          "");
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"err unknown pmp at 0\"}]",
          "1 bytes are lost on the way to the board: it hears less than was said\n");
    names("[{\"text\": \"pump on\", \"came\": \"err unknown pmp at 0\"}]",
          "1 bytes are lost on the way to the board: it hears less than was said\n");
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"err unknown pumpp at 0\"}]",
          "1 bytes come twice on the way to the board: it hears more than was said\n");
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"ok pmp on\"}]",
          "1 bytes are lost on the way from the board: its answers have gaps\n");
    names("[{" F "\"repeats\": 5, \"repeats_passed\": 4}]",
          "1 not always: said again, the same is answered as it must be; bytes are lost or damaged "
          "now "
          "and then\n");
    names("[{" F "\"repeats\": 5, \"repeats_passed\": 0}]", "");
}

#define E(expected, came) "\"expected\": \"" expected "\", \"came\": \"" came "\""
#define W(number, pin, should, is)                                             \
    "\"output\": \"lamp\", \"wire\": {\"number\": " #number ", \"pin\": " #pin \
    ", \"should\": " #should ", \"is\": " #is ", \"due_ms\": 10.0, \"did_ms\": 10.0}"

/* What many show together, and what is not enough to name a cause. */
static void in_simulation(void)
{
    shows("[{" E("that the device runs", "it died: Illegal instruction") ", \"kind\": \"died\"}]",
          "1 the program does not go on: it died: Illegal instruction\n");
    shows("[{" E("an answer", "none") ", \"link\": \"pad\"}]", "");
    shows(
        "[{" E("an answer", "none") ", \"link\": \"pad\"}, {" E(
            "an answer",
            "none") ", \"link\": "
                    "\"bench\"}, {" E(
                        "ok at least once",
                        "sent 9 times over pad, never answered ok") ", "
                                                                    "\"link\": \"pad\"}]",
        "2 nothing is answered over pad: its bytes do not reach the library, or its answers do not "
        "leave\n");
    shows("[{" E("lamp at 1 at 0.000 s", "lamp at 0 at 0.000 s") ", " W(3, true, 1, 0) "}]",
          "1 lamp is on where it should be off, and the other way round: its pin is inverted or "
          "another one, or other code drives it\n");
    shows("[{" E("lamp at 1 at 4.500 s", "lamp at 0 at 4.500 s") ", " W(3, true, 1, 0) "}]", "");
    shows("[{" E("lamp at 1 at 4.500 s",
                 "nothing") ", " W(3, true, 1, 0) "}, {" E("lamp on within 1 s", "off") "}]",
          "2 lamp does not follow its commands: nothing drives its pin or channel\n");
    shows("[{" E("lamp on within 1 s", "off") "}]", "");
    shows("[{" E("lamp on within 1 s", "off") "}, {" E("lamp off within 1 s", "on") "}]",
          "2 lamp is on where it should be off, and the other way round: its pin is inverted or "
          "another one, or other code drives it\n");
    shows("[{" E("a on within 1 s", "off") "}, {" E("a off within 1 s", "on") "}, {" E(
              "b on within 1 s", "off") "}, {" E("b off within 1 s",
                                                 "on") "}, {" E("c on within 1 s",
                                                                "off") "}, {" E("c off within 1 s",
                                                                                "on") "}]",
          "6 outputs are on where they should be off: all pins are inverted\n");
    shows("[{" E("x", "y") ", " W(1, false, 1000, 500) "}, {" E("x", "y") ", " W(
              1, false, 400, 200) "}, {" E("x", "y") ", " W(1, false, 60, 30) "}]",
          "3 lamp has 0.5 times its level on its channel\n");
    shows("[{" E("x", "y") ", " W(1, false, 1000, 500) "}, {" E("x", "y") ", " W(
              1, false, 400, 90) "}, {" E("x", "y") ", " W(1, false, 60, 55) "}]",
          "");
    shows("[{" E("x", "y") ", \"output\": \"a\", \"clocks\": [0.1, 2]}, {" E(
              "x", "y") ", "
                        "\"output\": \"b\", \"clocks\": [2]}, {" E("u", "v") "}]",
          "3 the clock runs at 2 times its rate\n");
    shows("[{" E("x", "y") ", \"output\": \"a\", \"clocks\": [2]}, {" E(
              "x", "y") ", "
                        "\"output\": \"a\", \"clocks\": [2]}]",
          "");
    shows("[{" E("x", "y") ", \"output\": \"a\", \"clocks\": [2]}, {" E(
              "x", "y") ", "
                        "\"output\": \"b\", \"clocks\": []}, {" E(
                            "x", "y") ", \"output\": \"c\", \"clocks\": []}]",
          "");
    shows("[{" E("a", "b") ", \"should\": \"ready it 1 0a brownout\", \"is\": \"ready it 1 0a "
                           "power\"}]",
          "1 the cause of a reset is not told: it says \"ready it 1 0a power\"\n");
    shows("[{" E("a", "b") ", \"text\": \"stats\", \"should\": \"ok stats lost 0 erases 1\", "
                           "\"is\": \"ok stats lost 0\"}]",
          "");
}

#define C(title) "\"case\": \"contract of warm()\", \"title\": \"" title "\", "

/* What functions do against their contracts. */
static void contracts(void)
{
    shows("[{" C("warm 5 makes heater on") E("heater on within 0.02 s", "off") "}]",
          "1 warm() does not make heater on: it is off\n");
    shows("[{" C("dim 40 makes lamp {level}")
              E("lamp 40% within 0.02 s", "60%") "}, {" C("dim 10 makes lamp {level}")
                  E("lamp 10% within 0.02 s", "90%") "}]",
          "2 warm() makes lamp upside down: 60% where 40% was said\n");
    shows("[{" C("dim 40 makes lamp {level}")
              E("lamp 40% within 0.02 s", "4%") "}, {" C("dim 10 makes lamp {level}")
                  E("lamp 10% within 0.02 s", "1%") "}]",
          "2 warm() makes lamp 0.1 times what was said\n");
    shows(
        "[{" C("warm 5 behind cool makes heater on for {time}")
            E("heater off within 0.3 s", "on") "}]",
        "1 warm() does not end when the time is over: heater is still on, but only behind another "
        "command\n");
    shows("[{" C("warm 5 leaves pump")
              E("that none of these outputs changes for 1 s", "pump changed") "}]",
          "1 warm() changes what it should leave: pump changed\n");
    shows("[{" C("t? follows aim") E("\\\"*ok*\\\" from bench", "err busy") "}]",
          "1 \"aim\" refuses valid values: err busy, before warm() is asked\n");
    shows("[{" C("t? follows aim") E("\\\"*ok t 4.0\\\" from bench", "ok t 5.0") "}]",
          "1 warm() does not tell what was set last: 5.0 where 4.0 was set\n");
}

/* What one has shown explains the others, and the most come first. */
static void together(void)
{
    names("[{" F "\"repeats\": 5, \"repeats_passed\": 5}, {" F "\"late_ms\": 90.0}, "
          "{" F "\"should\": \"ok pump on\", \"is\": \"err unknown pmp at 0\"}]",
          "2 bytes are lost on the way to the board: it hears less than was said\n"
          "1 the board answers late: its main loop is held up\n");
    names("[{\"text\": \"x\", \"came\": \"ok pump\"}, {\"text\": \"x\", \"came\": \"ok lamp\"}, "
          "{\"text\": \"x\", \"came\": \"ok\"}, "
          "{" F "\"should\": \"ok pump on\", \"is\": \"ok pump\"}]",
          "3 answers end behind 7 bytes: the way out loses the rest\n");
    json_t *failures = json_loads("[{" F "\"anew\": true}]", 0, NULL);
    json_decref(causes_named(failures, true));
    CHECK(json_object_get(json_array_get(failures, 0), "cause") != NULL);
    json_decref(failures);
}

static void identities(void)
{
    static const struct {
        const char *line;
        int is; /* 0: it says nothing of it; 1: this lexicon's; 2: another one's */
    } all[] = {{"ready tank 2 0123abcd power", 1},
               {"<ready tank 2 0123abcd pin", 1},
               {"#3 ok about tank 2 0123abcd", 1},
               {"ready tank 2 0123abcd*4F1C", 1},
               {"ready tank 3 0123abcd power", 2},
               {"ready pond 2 0123abcd power", 2},
               {"ok about tank 2 0123abce", 2},
               {"ready", 0},
               {"ready tank 2", 0},
               {"ready tank 2 012", 0},
               {"already tank 2 0123abcd", 0},
               {"err unknown about at 0", 0},
               {"", 0}};
    struct lexicon lx = {.name = (char *)"tank", .version = 2};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++) {
        char *is = answer_identity(&lx, "0123abcd", all[i].line);
        test_context("%s", all[i].line);
        CHECK_INT(!is ? 0 : *is ? 2 : 1, all[i].is);
        if (is && *is) CHECK(strstr(is, "this lexicon is tank 2, fingerprint 0123abcd") != NULL);
        g_free(is);
    }
}

static const struct test_case cases[] = {{"one by one", one_by_one},
                                         {"in the simulation", in_simulation},
                                         {"contracts", contracts},
                                         {"together", together},
                                         {"who a board is", identities}};

TEST_MAIN(cases)
