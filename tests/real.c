/* A drill of a real board, whose board is a bench of the test's own that goes by the real clock: a
 * sound one passes; one that does each thing wrong is named; what may not move is not said. */
#include <string.h>
#include <sys/mman.h>

#include "drill/suites/drill.h"
#include "harness.h"
#include "rlx/drive.h"
#include "world/boards/bench.h"

static const char text[] = "lexicon it 1\nbuilt-in halt about\n"
                           "output pump relay pin 4 safe off\n"
                           "output heat relay pin 6 safe off only while door off\n"
                           "input door pin 7\nsetting rate {1..9} = 3\n"
                           "command pump {on|off} => pump\n"
                           "command heat {on|off} => heat\ncommand feed {grams 1..9} => feed()\n"
                           "command zap => zap()\n"
                           "link bench serial 115200 frame line\n";

static struct lexicon *lx;
static struct image *image;

/* What is wrong with the board. */
enum wrong { SOUND, SILENT, ECHOES, STRANGE, CUTS, SWITCHES, LATE, ANEW, LEAVES, WRONGS };

static struct {
    enum wrong is;
    struct bench *bench; /* the board */
    struct bench_options options;
    gint64 began_us;
    GByteArray *out; /* what it has sent, and when it may be taken */
    gint64 held_until_us;
    unsigned line; /* characters of the answer's line */
    GString *said;
    char *gone;
} board;

/* ---- the board ---- */

static void send(uint8_t byte)
{
    board.line = byte == '\n' ? 0 : board.line + 1;
    if (board.is == CUTS && board.line > 9 && byte != '\r' && byte != '\n') return;
    g_byte_array_append(board.out, &byte, 1);
}

static void on_sight(void *user, const struct sight *sight)
{
    (void)user;
    if (sight->kind == SIGHT_BYTE) send((uint8_t)sight->event.value);
}

static void switch_on(void)
{
    g_byte_array_set_size(board.out, 0);
    bench_free(board.bench);
    board.options = (struct bench_options){.seed = 1};
    board.bench = bench_new(lx, image, &board.options, NULL);
    bench_watch(board.bench, on_sight, NULL);
    board.began_us = g_get_monotonic_time();
    bench_start(board.bench);
}

static void catch_up(void)
{
    uint64_t now = (uint64_t)(g_get_monotonic_time() - board.began_us);
    if (now > board.bench->world->now_us) bench_pass(board.bench, now - board.bench->world->now_us);
}

/* What a line does to the board besides. */
static void misbehave(void)
{
    struct end *end = board.bench->ends->pdata[0];
    struct rlx_device *core = device_core(end->board->device);
    bool feeds = board.said->len == 7 && g_str_has_prefix(board.said->str, "feed ") &&
                 board.said->str[5] >= '1' && board.said->str[5] <= '9';
    if (feeds && board.is == SWITCHES) rlx_output_switch(core, 0, RLX_ON);
    if (feeds && board.is == LATE) board.held_until_us = g_get_monotonic_time() + 700000;
    if (feeds && board.is == ANEW && strstr(board.said->str, "feed 9")) switch_on();
    if (feeds && board.is == LEAVES) board.gone = (char *)"it: it was closed or unplugged";
    if (board.is == STRANGE) g_byte_array_append(board.out, (const guint8 *)"Hello.\r\n", 8);
}

static void hear(uint8_t byte)
{
    if (board.is == ECHOES) g_byte_array_append(board.out, &byte, 1);
    if (board.is == SILENT || board.is == ECHOES) return;
    g_string_append_c(board.said, (char)byte);
    if (board.is != STRANGE) {
        struct end *end = board.bench->ends->pdata[0];
        bench_type(end, (const char *)&byte, 1);
    }
    if (byte != '\r' && byte != '\n') return;
    misbehave();
    g_string_truncate(board.said, 0);
}

static GString *all; /* that was said in a drill */

static bool give(void *user, const uint8_t *bytes, size_t count)
{
    (void)user;
    g_string_append_len(all, (const char *)bytes, (gssize)count);
    catch_up();
    for (size_t i = 0; i < count; i++) hear(bytes[i]);
    return !board.gone;
}

static size_t take(void *user, uint8_t *bytes, size_t most, uint64_t us)
{
    gint64 until = g_get_monotonic_time() + (gint64)us;
    (void)user;
    for (;;) {
        catch_up();
        gint64 now = g_get_monotonic_time();
        size_t n = now < board.held_until_us ? 0 : MIN(most, board.out->len);
        for (size_t i = 0; i < n; i++) bytes[i] = board.out->data[i];
        if (n) g_byte_array_remove_range(board.out, 0, (guint)n);
        if (n || now >= until) return n;
        g_usleep((gulong)MIN(until - now, 500));
    }
}

static const char *failure(void *user)
{
    (void)user;
    return board.gone;
}

/* Shared with the processes of the drill. */
static unsigned *resets;

static bool reset(void *user)
{
    (void)user;
    ++*resets;
    switch_on();
    return true;
}

static struct outside_line line = {.give = give, .take = take, .failure = failure};

/* ---- drills ---- */

static char *moves_asked;

static bool may_move(const char *what)
{
    g_free(moves_asked);
    moves_asked = g_strdup(what);
    return strcmp(what, "feed()") != 0;
}

/* The report; NULL: *why. Owned by the caller. */
static json_t *drilled(enum wrong is, const char *only, char **why)
{
    const char *names[] = {only, NULL};
    struct drill_options options = {.board = &line,
                                    .where = "it",
                                    .only = only ? names : NULL,
                                    .may_move = may_move,
                                    .suite = "words",
                                    .bare = true,
                                    .seed = 1,
                                    .jobs = 1};
    GError *error = NULL;
    board.is = is;
    board.gone = NULL;
    board.held_until_us = 0;
    g_string_truncate(board.said, 0);
    g_string_truncate(all, 0);
    switch_on();
    json_t *report = drill(lx, image, &options, &error);
    *why = error ? g_strdup(error->message) : NULL;
    g_clear_error(&error);
    return report;
}

static unsigned failed_of(const json_t *report)
{
    return (unsigned)json_integer_value(json_object_get(report, "failed"));
}

static const char *first_cause(const json_t *report)
{
    const json_t *one = json_array_get(json_object_get(report, "causes"), 0);
    return one ? json_string_value(json_object_get(one, "cause")) : "";
}

static void sound(void)
{
    char *why;
    json_t *report = drilled(SOUND, NULL, &why);
    CHECK(why == NULL);
    CHECK_INT(failed_of(report), 0);
    const json_t *is = json_object_get(report, "board");
    CHECK(g_str_has_prefix(json_string_value(json_object_get(is, "is")), "it 1, fingerprint "));
    CHECK_INT(json_integer_value(json_object_get(is, "answered")), 15);
    CHECK_TEXT(moves_asked, "pump, feed(), zap()");
    /* a setting is what the board keeps, and whether the heater may go on depends on an input */
    CHECK_INT(json_array_size(json_object_get(is, "not_judged")), 5);
    json_decref(report);
}

static void only_what_may(void)
{
    char *why;
    json_t *report = drilled(SOUND, "pump", &why);
    CHECK_INT(failed_of(report), 0);
    CHECK_TEXT(moves_asked, "pump");
    json_decref(report);
    /* the word that it is measured with is nobody's, and what was begun before is not obeyed */
    CHECK(!strstr(all->str, "z") && g_str_has_prefix(all->str, "qq\x01\r\n"));
    CHECK(drilled(SOUND, "feed()", &why) == NULL);
    CHECK_TEXT(why, "nothing was said to the board");
    g_free(why);
}

/* A person is not asked before each conversation, as the board's own line is. */
static void resets_of(void)
{
    char *why;
    line.reset = reset;
    for (unsigned by_hand = 0; by_hand < 2; by_hand++) {
        line.by_hand = by_hand;
        *resets = 0;
        json_t *report = drilled(SOUND, "pump", &why);
        CHECK_INT(failed_of(report), 0);
        CHECK_INT(*resets, by_hand ? 0 : 2); /* it has said who it is; its two conversations */
        json_decref(report);
    }
    line = (struct outside_line){.give = give, .take = take, .failure = failure};
}

static void not_met(void)
{
    static const struct {
        enum wrong is;
        const char *begins;
    } each[] = {{SILENT, "nothing is heard from it over bench: "},
                {ECHOES, "what is said to it comes back: "},
                {STRANGE, "what comes from it is no answer of this lexicon: \"Hello.\""}};
    for (unsigned i = 0; i < G_N_ELEMENTS(each); i++) {
        char *why;
        json_t *report = drilled(each[i].is, "pump", &why);
        test_context("%s", each[i].begins);
        CHECK(report == NULL && why && g_str_has_prefix(why, each[i].begins));
        g_free(why);
    }
}

static void named(void)
{
    static const struct {
        enum wrong is;
        const char *cause;
    } each[] = {{CUTS, "answers end behind 9 bytes"},
                {SWITCHES, "an output is not as it was commanded: behind \"feed "},
                {LATE, "feed() keeps the board from answering"},
                {ANEW, "the board starts anew by itself"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(each); i++) {
        char *why;
        json_t *report = drilled(each[i].is, NULL, &why);
        test_context("%s: %s", each[i].cause, first_cause(report));
        CHECK(failed_of(report) > 0);
        CHECK(g_str_has_prefix(first_cause(report), each[i].cause));
        json_decref(report);
    }
}

static void unplugged(void)
{
    char *why;
    json_t *report = drilled(LEAVES, NULL, &why);
    const json_t *f = json_array_get(json_object_get(report, "failures"), 0);
    CHECK_TEXT(json_string_value(json_object_get(f, "kind")), "died");
    CHECK_TEXT(json_string_value(json_object_get(f, "came")),
               "the board is gone: it: it was closed or unplugged");
    json_decref(report);
}

static const struct test_case cases[] = {
    {"a sound board", sound},  {"only what may move", only_what_may},
    {"resets", resets_of},     {"boards that are not met", not_met},
    {"causes by name", named}, {"unplugged", unplugged}};

int main(int argc, char **argv)
{
    lx = lexicon_read_text("it", g_strdup(text), strlen(text));
    g_assert(!lexicon_has(lx, false));
    image = image_build(lx);
    resets = mmap(NULL, sizeof *resets, PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    board.out = g_byte_array_new();
    board.said = g_string_new(NULL);
    all = g_string_new(NULL);
    int code = test_main(argc, argv, cases, G_N_ELEMENTS(cases));
    bench_free(board.bench);
    g_byte_array_free(board.out, TRUE);
    g_string_free(board.said, TRUE);
    g_string_free(all, TRUE);
    g_free(moves_asked);
    image_free(image);
    lexicon_free(lx);
    return code;
}
