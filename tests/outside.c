/* A board outside, on a line of the test's own: the world waits for the real clock and is stopped
 * by what comes; pins and other links are nobody's; a board that is gone ends it; who resets it. */
#include <string.h>

#include "harness.h"
#include "world/boards/bench.h"

static const char text[] = "lexicon it 1\noutput pump relay pin 4 safe off\ninput door pin 5\n"
                           "command pump {on|off} => pump\nlink other serial 9600 frame line\n"
                           "link bench serial 115200 frame line\n";

static struct lexicon *lx;
static struct image *image;

/* The line: what was given, what will come and when. */
static struct {
    GString *given;
    const char *comes;
    gint64 at_us; /* of the real clock */
    const char *gone;
    unsigned resets;
    bool refuses;
} line;

static bool give(void *user, const uint8_t *bytes, size_t count)
{
    (void)user;
    g_string_append_len(line.given, (const char *)bytes, (gssize)count);
    return !line.gone;
}

static size_t take(void *user, uint8_t *bytes, size_t most, uint64_t us)
{
    gint64 now = g_get_monotonic_time(), rest = line.comes ? line.at_us - now : G_MAXINT64;
    (void)user;
    if (rest > (gint64)us) {
        g_usleep(us);
        return 0;
    }
    if (rest > 0) g_usleep((gulong)rest);
    size_t n = MIN(most, strlen(line.comes));
    memcpy(bytes, line.comes, n);
    line.comes = NULL;
    return n;
}

static const char *failure(void *user)
{
    (void)user;
    return line.gone;
}

static bool reset(void *user)
{
    (void)user;
    line.resets++;
    return !line.refuses;
}

static const struct outside_line lines = {
    .give = give, .take = take, .failure = failure, .reset = reset};

static GString *seen;

static void on_sight(void *user, const struct sight *sight)
{
    (void)user;
    if (sight->kind == SIGHT_ANSWERED)
        g_string_append_printf(seen, "%s: %.*s\n", sight->name, (int)sight->count, sight->text);
    if (sight->kind == SIGHT_OUT) g_string_append(seen, "a pin\n");
}

static struct bench_options options = {
    .outside = &lines, .outside_link = 1, .loads = true, .seed = 1};

static struct bench *begin(void)
{
    if (line.given) g_string_free(line.given, TRUE);
    if (seen) g_string_free(seen, TRUE);
    memset(&line, 0, sizeof line);
    line.given = g_string_new(NULL);
    seen = g_string_new(NULL);
    struct bench *bench = bench_new(lx, image, &options, NULL);
    bench_watch(bench, on_sight, NULL);
    outside_paces(((struct board *)bench->boards->pdata[0])->device);
    bench_start(bench);
    return bench;
}

static struct board *board_of(const struct bench *bench)
{
    return bench->boards->pdata[0];
}

static void comes(const char *what, unsigned ms)
{
    line.comes = what;
    line.at_us = g_get_monotonic_time() + ms * 1000;
}

static void a_conversation(void)
{
    struct bench *bench = begin();
    struct end *end = bench_end(bench, "bench");
    CHECK(board_of(bench)->loads == NULL);
    CHECK(device_is_outside(board_of(bench)->device));
    CHECK(!device_core(board_of(bench)->device) && !device_board(board_of(bench)->device));
    gint64 began = g_get_monotonic_time();
    comes("ok pump on\r\n", 30);
    bench_say(end, "pump on", 7);
    bench_until_quiet(end);
    gint64 took = g_get_monotonic_time() - began;
    CHECK_TEXT(line.given->str, "pump on\r");
    CHECK_TEXT(seen->str, "bench: ok pump on\n");
    CHECK(took >= 30000); /* real time, and no more than it waits for another answer */
    CHECK(bench->world->now_us >= 30000);
    CHECK_INT(line.resets, 0);
    bench_free(bench);
}

/* The world's time is the real one: a wait takes as long, and is none where it has gone by. */
static void time_goes_together(void)
{
    struct bench *bench = begin();
    gint64 began = g_get_monotonic_time();
    bench_pass(bench, 40000);
    CHECK(g_get_monotonic_time() - began >= 39000);
    CHECK_INT(bench->world->now_us, 40000);
    g_usleep(30000);
    bench_pass(bench, 20000); /* which is over since */
    CHECK_INT(bench->world->now_us, 60000);
    bench_free(bench);
}

static void only_its_link(void)
{
    struct bench *bench = begin();
    bench_say(bench_end(bench, "other"), "pump on", 7);
    bench_set_pin(board_of(bench), 5, true);
    bench_pass(bench, 20000);
    CHECK_TEXT(line.given->str, "");
    CHECK_TEXT(seen->str, "");
    bool high;
    CHECK(device_pin(board_of(bench)->device, 5, &high) && high);
    bench_free(bench);
}

/* What has come is there at once, where somebody else paces the world. */
static void unpaced(void)
{
    struct bench *bench = begin();
    bench->world->pace = NULL;
    comes("ready it 1 01234567 power\r\nev x\r\n", 0);
    outside_come(board_of(bench)->device);
    bench_pass(bench, 10000000);
    CHECK_TEXT(seen->str, "bench: ready it 1 01234567 power\nbench: ev x\n");
    bench_free(bench);
}

static void resets(void)
{
    struct bench *bench = begin();
    struct device *device = board_of(bench)->device;
    device_reset(device, RLX_RESET_PIN);
    CHECK_INT(line.resets, 1);
    CHECK(!bench_failure(bench));
    line.refuses = true;
    device_reset(device, RLX_RESET_PIN);
    CHECK_TEXT(bench_failure(bench), "the board cannot be reset");
    bench_free(bench);
}

static void unplugged(void)
{
    struct bench *bench = begin();
    line.gone = "/dev/it: it was closed or unplugged";
    bench_say(bench_end(bench, "bench"), "pump on", 7);
    bench_until_quiet(bench_end(bench, "bench"));
    CHECK_TEXT(bench_failure(bench), "the board is gone: /dev/it: it was closed or unplugged");
    bench_free(bench);
}

static const struct test_case cases[] = {{"a conversation", a_conversation},
                                         {"time goes together", time_goes_together},
                                         {"only its link", only_its_link},
                                         {"unpaced", unpaced},
                                         {"resets", resets},
                                         {"unplugged", unplugged}};

int main(int argc, char **argv)
{
    lx = lexicon_read_text("it", g_strdup(text), strlen(text));
    g_assert(!lexicon_has(lx, false));
    image = image_build(lx);
    int code = test_main(argc, argv, cases, G_N_ELEMENTS(cases));
    g_string_free(line.given, TRUE);
    g_string_free(seen, TRUE);
    image_free(image);
    lexicon_free(lx);
    return code;
}
