/* The suite of all texts over each link, on a link as it should be.
 * Sends every text of the cases and judges each reply.
 * Line ends, bursts and faults are other suites. */
#include "drill/suites/suite.h"

/* What is not valid comes first, on a board where nothing moves by itself yet. */
static void say_all(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                    const GPtrArray *cases)
{
    for (unsigned valid = 0; valid < 2; valid++) {
        GArray *moves = moves_new();
        for (unsigned i = 0; i < cases->len; i++) {
            const struct drill_case *test = cases->pdata[i];
            bool denied = !drill_may_say(drill_link(drill, job->link), test) &&
                          test->why != CASE_PLAIN; /* once is enough */
            if (test->valid == (valid == 1) && !denied) drill_say(drill, moves, job->link, test);
        }
        moves_wait(moves, 200000);
        struct conversation c = {.job = job, .moves = moves, .seed = drill->options->seed};
        yield_conversation(yield, drill, &c);
        g_array_free(moves, TRUE);
    }
}

/* Keys and codes; behind a lead also all that a line can have. */
static void words(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    const struct lex_link *of = drill_link(drill, job->link);
    bool keyed = lex_is_keyed(of);
    GPtrArray *keys = keyed ? drill_keys(drill->lx, of) : NULL;
    GPtrArray *led = keyed && of->lead ? drill_led(drill->cases, of->lead) : NULL;
    say_all(drill, job, yield, keys ? keys : drill->cases);
    if (led) say_all(drill, job, yield, led);
    if (keys) g_ptr_array_free(keys, TRUE);
    if (led) g_ptr_array_free(led, TRUE);
}

void words_jobs(struct drill *drill, unsigned link)
{
    drill_job_add(drill, "words", link, 0, words, "words over %s", drill_link(drill, link)->name);
}
