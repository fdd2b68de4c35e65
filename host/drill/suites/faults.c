/* The suite of faults of links, each at several strengths.
 * What is sent is obeyed or lost, never something else; afterwards all is as before.
 * It makes no fault itself: the world does. */
#include "drill/suites/suite.h"

#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/envelope.h"

#define TURNS          6u  /* of all texts, at each strength... */
#define LEAST_MESSAGES 10u /* ...or, as each takes its time, until there are so many */

/* What a bad link holds up comes within this. */
#define LATE_US UINT64_C(700000)

#define STRENGTHS 4u

/* A fault: its statements in a world file, one for each strength, and how it is over. */
struct fault {
    const char *name;
    unsigned media;    /* bits: 1 << lex_medium */
    const char *begin; /* LINK and what it is followed by */
    const char *const strengths[STRENGTHS + 1];
    const char *end;
    bool damages; /* bytes become others */
    bool delays;  /* answers may come after the next text was sent */
    uint64_t patience_us, rest_us;
};

#define WIRED (1u << LEX_SERIAL | 1u << LEX_BRIDGE | 1u << LEX_MODEM)

static const struct fault faults[] = {
    {"noise",
     WIRED,
     "cable LINK noise",
     {"1/20000", "1/2000", "1/200", "1/20"},
     "cable LINK noise 0%",
     true,
     false,
     1500000,
     500000},
    {"bytes lost",
     WIRED,
     "cable LINK loss",
     {"0.1%", "1%", "5%", "20%"},
     "cable LINK loss 0%",
     true,
     false,
     1500000,
     500000},
    {"bytes duplicated",
     WIRED,
     "cable LINK duplicate",
     {"0.1%", "1%", "5%", "20%"},
     "cable LINK duplicate 0%",
     true,
     false,
     1500000,
     500000},
    {"slow typing",
     WIRED,
     "cable LINK typing",
     {"1ms", "3ms", "8ms", NULL},
     "cable LINK typing 1ms",
     false,
     false,
     3000000,
     500000},
    {"receiver served late",
     WIRED,
     "cable LINK fifo 16 service",
     {"1ms", "5ms", "20ms", "100ms"},
     "cable LINK fifo 255 service 1ms",
     true,
     false,
     2000000,
     500000},
    {"not connected",
     WIRED,
     "cable LINK",
     {"open", "crossed", "no answers", NULL},
     "cable LINK",
     false,
     false,
     500000,
     500000},
    {"latency",
     1u << LEX_BRIDGE,
     "cable LINK latency",
     {"10ms", "100ms", "600ms", NULL},
     "cable LINK latency 1ms",
     false,
     false,
     3000000,
     3000000},
    {"bytes in bursts",
     1u << LEX_BRIDGE,
     "cable LINK clumps",
     {"10ms", "50ms", "200ms", NULL},
     "cable LINK clumps 1ms",
     false,
     false,
     3000000,
     3000000},
    {"out of range",
     1u << LEX_BRIDGE,
     "cable LINK",
     {"out of range", NULL, NULL, NULL},
     "cable LINK",
     false,
     false,
     500000,
     500000},
    {"packets lost",
     1u << LEX_MODEM,
     "modem LINK bits 9600 loss",
     {"2%", "10%", "30%", NULL},
     "modem LINK loss 0%",
     true,
     false,
     3000000,
     3000000},
    {"low bit rate",
     1u << LEX_MODEM,
     "modem LINK bits",
     {"9600", "2400", "600", NULL},
     "modem LINK bits 19200",
     false,
     false,
     9000000,
     9000000},
    {"packets lost",
     1u << LEX_RADIO,
     "air LINK loss",
     {"5%", "20%", "40%", "100%"},
     "air LINK loss 0%",
     false,
     false,
     20000000,
     3000000},
    {"packets duplicated",
     1u << LEX_RADIO,
     "air LINK duplicate",
     {"5%", "20%", "50%", NULL},
     "air LINK duplicate 0%",
     false,
     false,
     20000000,
     3000000},
    {"packets delayed",
     1u << LEX_RADIO,
     "air LINK delay",
     {"20% by 20ms", "40% by 60ms", "60% by 300ms", NULL},
     "air LINK delay 0% by 1ms",
     false,
     true,
     20000000,
     3000000},
    {"bit errors",
     1u << LEX_RADIO,
     "air LINK errors",
     {"1/10000", "1/1000", "1/300", "1/100"},
     "air LINK errors 0%",
     true,
     false,
     20000000,
     3000000},
    {"polled",
     1u << LEX_REPORT,
     "reports LINK poll",
     {"1ms", "8ms", "64ms", NULL},
     "reports LINK poll 1ms",
     false,
     false,
     3000000,
     500000},
    {"stale bytes",
     1u << LEX_REPORT,
     "reports LINK poll 8ms",
     {"stale", NULL, NULL, NULL},
     "reports LINK poll 1ms",
     false,
     false,
     3000000,
     500000},
    {"unplugged",
     1u << LEX_REPORT,
     "reports LINK",
     {"unplugged", NULL, NULL, NULL},
     "reports LINK poll 1ms",
     false,
     true,
     500000,
     500000},
    {"messages lost",
     1u << LEX_SMS,
     "sms LINK loss",
     {"10%", "30%", "60%", NULL},
     "sms LINK loss 0%",
     false,
     false,
     0,
     300000000},
    {"messages duplicated",
     1u << LEX_SMS,
     "sms LINK duplicate",
     {"20%", "50%", "100%", NULL},
     "sms LINK duplicate 0%",
     false,
     true,
     0,
     300000000},
    {"messages delayed",
     1u << LEX_SMS,
     "sms LINK delay",
     {"10s", "40s", "20min", NULL},
     "sms LINK delay 3s",
     false,
     true,
     0,
     1500000000},
    {"messages out of order",
     1u << LEX_SMS,
     "sms LINK spread",
     {"5s", "60s", NULL, NULL},
     "sms LINK spread 1ms",
     false,
     true,
     0,
     300000000},
    {"network rejects the reply",
     1u << LEX_SMS,
     "sms LINK rejects",
     {"10%", "50%", "100%", NULL},
     "sms LINK rejects 0%",
     false,
     true,
     0,
     300000000},
    {"noise on the modem line",
     1u << LEX_SMS,
     "sms LINK rubbish",
     {"1/5000", "1/1000", "1/200", NULL},
     "sms LINK rubbish 0%",
     true,
     true,
     0,
     300000000},
    {"unsolicited result codes",
     1u << LEX_SMS,
     "sms LINK chatty",
     {"1/500", "1/100", "1/20", NULL},
     "sms LINK chatty 0%",
     false,
     true,
     0,
     300000000},
    {"slow modem",
     1u << LEX_SMS,
     "sms LINK answers",
     {"100ms", "1s", "4s", NULL},
     "sms LINK answers 20ms",
     false,
     true,
     0,
     300000000},
    {"message store full",
     1u << LEX_SMS,
     "sms LINK places",
     {"3", "1", NULL, NULL},
     "sms LINK places 10",
     false,
     true,
     0,
     300000000},
    {"modem state",
     1u << LEX_SMS,
     "sms LINK",
     {"silent", "off", "resets", "unregistered"},
     "sms LINK",
     false,
     true,
     0,
     300000000},
    {"modem settings",
     1u << LEX_SMS,
     "sms LINK",
     {"text", "timeless", "locked", NULL},
     "sms LINK",
     false,
     true,
     0,
     300000000},
};

static char *statement(const char *pattern, const char *link, const char *strength)
{
    char **parts = g_strsplit(pattern, "LINK", 2);
    char *text =
        g_strconcat(parts[0], link, parts[1], strength ? " " : "", strength ? strength : "", NULL);
    g_strfreev(parts);
    return text;
}

char *faults_statement(unsigned n, unsigned k, const struct lex_link *link)
{
    if (n < G_N_ELEMENTS(faults) && k == FAULTS_OVER)
        return statement(faults[n].end, link->name, NULL);
    if (n >= G_N_ELEMENTS(faults) || k >= STRENGTHS || !faults[n].strengths[k]) return NULL;
    if (!(faults[n].media >> link->medium & 1)) return g_strdup("");
    return statement(faults[n].begin, link->name, faults[n].strengths[k]);
}

/* Damaged bits cannot be detected: another command may be obeyed. */
static bool is_excused(const struct lex_link *link, const struct fault *fault)
{
    bool doubles =
        !strcmp(fault->name, "packets duplicated") || !strcmp(fault->name, "packets delayed");
    bool client = session_has_client(link),
         tagged = link->tags && (client || envelope_wanted(link));
    if (doubles && !tagged) return true; /* what comes twice is obeyed twice */
    bool checked = link->check == LEX_DEMAND_REQUIRED || (client && link->check) ||
                   (link->layout && layout_check_bits(link) >= 16);
    return fault->damages && !checked;
}

static void say_all(const struct drill *drill, GArray *moves, const struct drill_job *job,
                    const struct fault *fault, unsigned turn)
{
    const struct lex_link *link = drill_link(drill, job->link);
    bool keyed = lex_is_keyed(link);
    for (unsigned i = 0; !keyed && i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        bool good = test->of && !test->of->query && test->valid && drill_may_say(link, test) &&
                    (test->why == CASE_PLAIN || (test->why == CASE_HIGHEST && turn % 2) ||
                     (test->why == CASE_CHOICE && (i + turn) % 3 == 0));
        struct move *move = good ? drill_say(drill, moves, job->link, test) : NULL;
        if (!move) continue;
        move->owed = OWED_PERHAPS;
        move->excused = is_excused(link, fault);
        move->torn = fault->damages || fault->delays || !strcmp(fault->name, "packets duplicated");
        if (link->gap && !strcmp(fault->name, "bytes in bursts")) move->torn = true;
        move->busy = fault->delays;
        /* where the flag behind a frame is lost, the one before the next frame ends it */
        if (link->frame == LEX_FRAME_STUFFED && fault->damages) move->busy = true;
    }
}

/* Said again when all is well: the first may still meet what is left of the fault at the device,
 * and its answer, or that to the second, what is left of it at the sender. */
#define AFTER 3u
static void say_after(const struct drill *drill, GArray *moves, const struct drill_job *job)
{
    const struct lex_link *link = drill_link(drill, job->link);
    unsigned said = 0;
    for (unsigned i = 0; i < drill->cases->len && said < AFTER; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        if (!test->of || test->why != CASE_PLAIN || !test->valid || !drill_may_say(link, test))
            continue;
        struct move *move = drill_say(drill, moves, job->link, test);
        if (!move) continue;
        bool lost =
            link->tags && link->check != LEX_DEMAND_REQUIRED; /* a damaged tag was a later one */
        said++;
        if (move->owed == OWED_OK && (said < AFTER || lost)) move->owed = OWED_PERHAPS;
        move->excused = move->torn = move->busy = move->after = true;
        i -= said < AFTER; /* the same once more */
    }
}

static void rung(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    const struct fault *fault = &faults[job->part / STRENGTHS];
    const char *strength = fault->strengths[job->part % STRENGTHS];
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    char *begin = statement(fault->begin, link->name, strength);
    char *end = statement(fault->end, link->name, NULL);
    unsigned least = link->medium == LEX_SMS ? LEAST_MESSAGES : UINT32_MAX;
    moves_add(moves, MOVE_NOW, job->link, begin);
    if (link->medium == LEX_SMS) moves_wait(moves, 30000000);
    for (unsigned turn = 0; turn < TURNS && moves->len < least; turn++)
        say_all(drill, moves, job, fault, turn);
    moves_add(moves, MOVE_NOW, job->link, end);
    moves_wait(moves, fault->rest_us);
    say_after(drill, moves, job);
    guint said = moves->len;
    drill_ask_counts(drill, moves, job->link);
    for (guint i = said; i < moves->len; i++) g_array_index(moves, struct move, i).after = true;
    struct conversation c = {.job = job,
                             .fault = fault->name,
                             .strength = strength,
                             .moves = moves,
                             .patience_us = fault->patience_us,
                             .after_us = LATE_US,
                             .seed = drill->options->seed + job->part};
    yield_cover(yield, "fault|%s: %s %s", link->name, fault->name, strength);
    yield_conversation(yield, drill, &c);
    g_array_free(moves, TRUE);
    g_free(begin);
    g_free(end);
}

void faults_jobs(struct drill *drill, unsigned link)
{
    const struct lex_link *of = drill_link(drill, link);
    bool keyed = lex_is_keyed(of);
    bool silent = of->one_way || of->replies == LEX_REPLIES_SILENT;
    if (keyed || silent) return;
    for (unsigned i = 0; i < G_N_ELEMENTS(faults); i++) {
        if (!(faults[i].media >> of->medium & 1)) continue;
        if (of->medium == LEX_SMS && of->handed) continue;
        if (!strcmp(faults[i].name, "slow typing") && of->gap) continue; /* a pause is an end */
        for (unsigned k = 0; k < STRENGTHS && faults[i].strengths[k]; k++)
            drill_job_add(drill, "faults", link, i * STRENGTHS + k, rung, "%s over %s: %s",
                          faults[i].name, of->name, faults[i].strengths[k]);
    }
}
