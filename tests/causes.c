/* The causes of a real board's failures, named from what came; and what a greeting says. */
#include <string.h>

#include "drill/report/cause.h"
#include "harness.h"
#include "lexicon/answers.h"
#include "lexicon/model.h"

/* The causes of these failures, one a line with how many point at it. Owned by the caller. */
static char *named(const char *json)
{
    json_t *failures = json_loads(json, 0, NULL), *causes = causes_named(failures);
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

static void names(const char *failures, const char *wanted)
{
    char *got = named(failures);
    test_context("%s", failures);
    CHECK_TEXT(got, wanted);
    g_free(got);
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
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"err unknown pumpp at 0\"}]", "");
    names("[{" F "\"should\": \"ok pump on\", \"is\": \"ok pmp on\"}]",
          "1 bytes are lost on the way from the board: its answers have gaps\n");
    names("[{" F "\"repeats\": 5, \"repeats_passed\": 4}]",
          "1 not always: said again, the same is answered as it must be; bytes are lost or damaged "
          "now "
          "and then\n");
    names("[{" F "\"repeats\": 5, \"repeats_passed\": 0}]", "");
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
    json_decref(causes_named(failures));
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

static const struct test_case cases[] = {
    {"one by one", one_by_one}, {"together", together}, {"who a board is", identities}};

TEST_MAIN(cases)
