/* Jobs done by several processes: each done once, results whatever the order, a process that dies
 * takes only its own job with it, and who has had enough ends it. */
#include "drill/run/workers.h"

#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "harness.h"

struct seen {
    unsigned times[300], lost, enough, count;
    bool right;
};

static json_t *square(void *user, unsigned job)
{
    (void)user;
    return json_pack("{s:i, s:i}", "job", (int)job, "square", (int)(job * job));
}

/* Every seventh dies in the middle of it. */
static json_t *mortal(void *user, unsigned job)
{
    if (job % 7 == 3) _exit(1);
    return square(user, job);
}

/* More than a pipe holds. */
static json_t *large(void *user, unsigned job)
{
    char *text = g_strnfill(300000, (char)('a' + job));
    json_t *result =
        json_pack("{s:i, s:i, s:s}", "job", (int)job, "square", (int)(job * job), "text", text);
    (void)user;
    g_free(text);
    return result;
}

static bool done(void *user, unsigned job, json_t *result)
{
    struct seen *seen = user;
    seen->times[job]++;
    seen->count++;
    if (!result) seen->lost++;
    if (result && json_integer_value(json_object_get(result, "square")) != (json_int_t)job * job)
        seen->right = false;
    const char *text = json_string_value(json_object_get(result, "text"));
    if (text && (strlen(text) != 300000 || text[299999] != (char)('a' + job))) seen->right = false;
    return seen->count != seen->enough;
}

static bool run(struct seen *seen, unsigned jobs, unsigned processes,
                json_t *(*work)(void *user, unsigned job))
{
    struct workers workers = {jobs, processes, work, done, seen};
    seen->right = true;
    return workers_run(&workers);
}

static void each_once(void)
{
    static const unsigned processes[] = {1, 2, 3, 8, 64};
    for (unsigned i = 0; i < sizeof processes / sizeof *processes; i++) {
        struct seen seen = {0};
        test_context("%u processes", processes[i]);
        CHECK(run(&seen, 100, processes[i], square));
        CHECK_INT(seen.count, 100);
        CHECK_INT(seen.lost, 0);
        CHECK(seen.right);
        for (unsigned k = 0; k < 100; k++) CHECK_INT(seen.times[k], 1);
    }
    test_context("%s", "");
}

static void none(void)
{
    struct seen seen = {0};
    CHECK(run(&seen, 0, 4, square));
    CHECK_INT(seen.count, 0);
}

static void some_die(void)
{
    struct seen seen = {0};
    CHECK(run(&seen, 50, 4, mortal));
    CHECK_INT(seen.count, 50);
    CHECK_INT(seen.lost, 7);
    CHECK(seen.right);
    for (unsigned k = 0; k < 50; k++) CHECK_INT(seen.times[k], 1);
}

static void long_results(void)
{
    struct seen seen = {0};
    CHECK(run(&seen, 20, 3, large));
    CHECK_INT(seen.count, 20);
    CHECK(seen.right);
}

static void enough(void)
{
    struct seen seen = {.enough = 10};
    CHECK(!run(&seen, 300, 2, square));
    CHECK_INT(seen.count, 10);
    for (unsigned k = 0; k < 300; k++) CHECK(seen.times[k] <= 1);
}

static const struct test_case cases[] = {
    {"each once", each_once},       {"none", none},     {"some die", some_die},
    {"long results", long_results}, {"enough", enough},
};
TEST_MAIN(cases)
