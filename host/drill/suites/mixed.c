/* Conversations drawn from a seed: all links at once, good and bad frames, resets, faults, time.
 * The same seed gives the same conversation on every machine.
 * It looks for nothing in particular. */
#include "drill/suites/suite.h"

#include <string.h>

#include "world/run/draw.h"
#include "lexicon/envelope.h"

#define MOVES 48u

struct mixer {
    const struct drill *drill;
    GArray *moves;
    struct draw draw;
    GPtrArray **cases; /* of each link, that are drawn from */
    GPtrArray **keys;  /* of each link of keys; NULL: it is none */
    bool *bad;         /* of each link: a fault is on it */
    bool *stranger;    /* of each link for messages: nobody who may command writes */
};

static unsigned below(struct mixer *m, unsigned n)
{
    return n ? draw_below(&m->draw, n) : 0;
}

/* What would change who may command is left alone. */
static GPtrArray *tries_of(const struct drill *drill)
{
    GPtrArray *cases = g_ptr_array_new();
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct lex_setting *stored = drill_stored(drill->lx, drill->cases->pdata[i]);
        if (!stored || !lex_is_lock(drill->lx, stored->name))
            g_ptr_array_add(cases, drill->cases->pdata[i]);
    }
    return cases;
}

/* A try of those, mostly one that is valid. */
static const struct drill_case *draw_try(struct mixer *m, unsigned link, bool valid)
{
    const GPtrArray *cases = m->keys[link] ? m->keys[link] : m->cases[link];
    for (unsigned i = 0; cases->len && i < 40; i++) {
        const struct drill_case *test = cases->pdata[below(m, cases->len)];
        if (test->valid == valid) return test;
    }
    return NULL;
}

static void soften(const struct mixer *m, unsigned link, struct move *move)
{
    const struct lex_link *of = drill_link(m->drill, link);
    move->busy = true;
    move->torn = of->medium == LEX_SMS; /* after a power cut an answer may come once more */
    if (m->bad[link]) {
        move->owed = OWED_PERHAPS;
        move->excused = move->torn = true;
    } else if (m->stranger[link]) {
        move->owed = OWED_NONE;
    } else if (of->yields && move->owed == OWED_OK) {
        move->owed = OWED_ONE;
    }
}

static void say(struct mixer *m)
{
    unsigned link = below(m, m->drill->lx->links->len);
    const struct drill_case *test = draw_try(m, link, below(m, 4) > 0);
    if (drill_link(m->drill, link)->medium == LEX_SMS && below(m, 3)) return;
    if (!test || drill_why_not(m->drill, link)) return;
    struct move *move = drill_say(m->drill, m->moves, link, test);
    if (move) soften(m, link, move);
}

/* Two commands in one frame. */
static void say_both(struct mixer *m)
{
    unsigned link = below(m, m->drill->lx->links->len);
    const struct lex_link *of = drill_link(m->drill, link);
    const struct drill_case *a = draw_try(m, link, true), *b = draw_try(m, link, below(m, 4) > 0);
    bool batch = m->drill->lx->built_in & RLX_BUILT_IN_BATCH && !m->keys[link];
    bool others = b && drill_owed(m->drill, link, b) == OWED_NONE; /* nobody answers it */
    if (!batch || !a || !b || others || of->replies == LEX_REPLIES_SILENT || of->one_way ||
        drill_why_not(m->drill, link))
        return;
    char *text = g_strdup_printf("%s; %s", a->text, b->text);
    if (strlen(text) <= session_most(m->drill->lx, of)) {
        struct move *move = moves_add(m->moves, MOVE_SAY, link, text);
        move->owed = OWED_ONE;
        soften(m, link, move);
    }
    g_free(text);
}

/* Letters that are nobody's, and bytes that no command has. */
static void babble(struct mixer *m)
{
    unsigned link = below(m, m->drill->lx->links->len), n = 1 + below(m, 30);
    const struct lex_link *of = drill_link(m->drill, link);
    if (drill_why_not(m->drill, link) || of->medium == LEX_SMS || m->keys[link]) return;
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < n && i < session_most(m->drill->lx, of); i++)
        g_string_append_c(text, (char)(below(m, 8) ? ' ' + below(m, 95) : 1 + below(m, 30)));
    struct move *move = moves_add(m->moves, MOVE_SAY, link, text->str);
    move->owed = OWED_PERHAPS;
    move->excused = move->torn = move->busy = true;
    moves_wait(m->moves, 300000);
    g_string_free(text, TRUE);
}

/* Two frames of a line back to back. */
static void say_burst(struct mixer *m)
{
    unsigned link = below(m, m->drill->lx->links->len);
    const struct lex_link *of = drill_link(m->drill, link);
    const struct drill_case *a = draw_try(m, link, true), *b = draw_try(m, link, true);
    if (of->frame != LEX_FRAME_LINE || of->medium > LEX_MODEM || envelope_wanted(of) || !a || !b ||
        drill_why_not(m->drill, link) || of->replies == LEX_REPLIES_SILENT || of->one_way ||
        of->replies_drop || strlen(a->text) + strlen(b->text) + 4 > of->receive)
        return;
    char *text = g_strdup_printf("%s\r%s\n", a->text, b->text);
    struct move *move = moves_add(m->moves, MOVE_TYPE, link, text);
    move->owed = m->bad[link] ? OWED_PERHAPS : OWED_ONE;
    move->frames = 2;
    move->busy = move->excused = move->torn = true;
    g_free(text);
}

static void pass(struct mixer *m)
{
    static const uint64_t most_ms[] = {5, 40, 400, 400, 3000, 3000, 30000, 600000};
    uint64_t ms = 1 + below(m, (unsigned)most_ms[below(m, G_N_ELEMENTS(most_ms))]);
    moves_wait(m->moves, ms * 1000);
}

static void push(struct mixer *m)
{
    const GPtrArray *inputs = m->drill->lx->inputs;
    if (!inputs->len) return;
    const struct lex_input *in = inputs->pdata[below(m, inputs->len)];
    if (lex_input_link(m->drill->lx, in)) return; /* the link's own move */
    moves_add(m->moves, MOVE_PUSH, 0, in->name)->us = below(m, 2);
    moves_wait(m->moves, 1000 * UINT64_C(1) * (1 + below(m, 2 * in->debounce + 60)));
}

static void reset(struct mixer *m)
{
    static const char *const causes[] = {"power", "watchdog", "brownout"};
    char *text = g_strdup_printf("reset %s", causes[below(m, G_N_ELEMENTS(causes))]);
    moves_add(m->moves, MOVE_NOW, 0, text);
    moves_wait(m->moves, below(m, 3) ? 1000000 : 20000000);
    g_free(text);
}

/* Somebody writes a message, and the power is cut while it is read, done or answered. */
static void cut(struct mixer *m)
{
    for (unsigned i = 0; i < m->drill->lx->links->len; i++) {
        const struct lex_link *of = drill_link(m->drill, i);
        const struct drill_case *test = draw_try(m, i, true);
        if (!lex_drives_modem(of) || !test || drill_why_not(m->drill, i)) continue;
        struct move *move = drill_say(m->drill, m->moves, i, test);
        if (!move) continue;
        move->owed = OWED_ANY;
        moves_wait(m->moves, 2500000 + UINT64_C(1000) * below(m, 5000));
        reset(m);
        moves_wait(m->moves, 60000000);
    }
}

/* What a network does to text messages it does to those of all links. */
static void make_bad(struct mixer *m, unsigned link, bool bad)
{
    bool messages = drill_link(m->drill, link)->medium == LEX_SMS;
    for (unsigned i = 0; i < m->drill->lx->links->len; i++)
        if (i == link || (messages && drill_link(m->drill, i)->medium == LEX_SMS)) m->bad[i] = bad;
}

static void fault(struct mixer *m)
{
    static const struct {
        unsigned media;
        const char *begin, *end;
    } faults[] = {
        {1u << LEX_SERIAL | 1u << LEX_BRIDGE, "cable LINK noise 1/300", "cable LINK noise 0%"},
        {1u << LEX_SERIAL | 1u << LEX_BRIDGE, "cable LINK loss 3%", "cable LINK loss 0%"},
        {1u << LEX_BRIDGE, "cable LINK out of range", "cable LINK"},
        {1u << LEX_MODEM, "modem LINK loss 10%", "modem LINK loss 0%"},
        {1u << LEX_RADIO, "air LINK loss 20% duplicate 20% delay 20% by 40ms",
         "air LINK loss 0% duplicate 0% delay 0% by 1ms"},
        {1u << LEX_RADIO, "air LINK errors 1/800", "air LINK errors 0%"},
        {1u << LEX_SMS, "sms LINK chatty 1/60", "sms LINK chatty 0%"},
        {1u << LEX_SMS, "sms LINK rubbish 1/900", "sms LINK rubbish 0%"},
        {1u << LEX_SMS, "sms LINK duplicate 40% spread 9s rejects 20%",
         "sms LINK duplicate 0% spread 1ms rejects 0%"},
        {1u << LEX_SMS, "sms LINK resets", "sms LINK"},
        {1u << LEX_SMS, "sms LINK unregistered", "sms LINK"},
        {1u << LEX_SMS, "sms LINK silent", "sms LINK"}};
    unsigned link = below(m, m->drill->lx->links->len), which = below(m, G_N_ELEMENTS(faults));
    const struct lex_link *of = drill_link(m->drill, link);
    if (!(faults[which].media >> of->medium & 1) || drill_why_not(m->drill, link) ||
        (of->medium == LEX_SMS && of->handed))
        return;
    char **begin = g_strsplit(faults[which].begin, "LINK", 2), *text;
    text = g_strconcat(begin[0], of->name, begin[1], NULL);
    moves_add(m->moves, MOVE_NOW, link, text);
    g_free(text);
    make_bad(m, link, true);
    for (unsigned i = 0; i < 8; i++) say(m);
    make_bad(m, link, false);
    char **end = g_strsplit(faults[which].end, "LINK", 2);
    text = g_strconcat(end[0], of->name, end[1], NULL);
    moves_add(m->moves, MOVE_NOW, link, text);
    moves_wait(m->moves, of->medium == LEX_SMS ? 300000000 : 1000000);
    /* a line that was cut takes the next one with it */
    const struct drill_case *test = draw_try(m, link, true);
    struct move *move = test ? drill_say(m->drill, m->moves, link, test) : NULL;
    if (move) {
        move->owed = OWED_PERHAPS;
        move->excused = move->torn = move->busy = true;
    }
    g_free(text);
    g_strfreev(begin);
    g_strfreev(end);
}

static void write_as(struct mixer *m)
{
    for (unsigned i = 0; i < m->drill->lx->links->len; i++) {
        const struct lex_link *of = drill_link(m->drill, i);
        if (!lex_drives_modem(of) || of->open || !of->allow->len) continue;
        m->stranger[i] = below(m, 3) == 0;
        moves_add(m->moves, MOVE_FROM, i,
                  m->stranger[i] ? "+15550199" : of->allow->pdata[below(m, of->allow->len)]);
    }
}

static void draw_move(struct mixer *m)
{
    unsigned what = below(m, 100);
    if (what < 52)
        say(m);
    else if (what < 66)
        pass(m);
    else if (what < 76)
        push(m);
    else if (what < 80)
        say_both(m);
    else if (what < 84)
        say_burst(m);
    else if (what < 88)
        babble(m);
    else if (what < 91)
        reset(m);
    else if (what < 93)
        write_as(m);
    else if (what < 95)
        cut(m);
    else
        fault(m);
}

static void mixed(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    unsigned n = drill->lx->links->len;
    struct mixer m = {.drill = drill,
                      .moves = moves_new(),
                      .draw = draw_from(drill->options->seed * 7919u + job->part),
                      .cases = g_new0(GPtrArray *, n + 1),
                      .keys = g_new0(GPtrArray *, n + 1),
                      .bad = g_new0(bool, n + 1),
                      .stranger = g_new0(bool, n + 1)};
    for (unsigned i = 0; i < n; i++) {
        const struct lex_link *of = drill_link(drill, i);
        bool keyed = lex_is_keyed(of);
        m.cases[i] = tries_of(drill);
        m.keys[i] = keyed ? drill_keys(drill->lx, of) : NULL;
    }
    for (unsigned i = 0; i < MOVES; i++) draw_move(&m);
    for (unsigned i = 0; i < n; i++)
        if (!m.keys[i] && !drill_why_not(drill, i) && !m.stranger[i])
            drill_ask_counts(drill, m.moves, i);
    struct conversation c = {.job = job,
                             .row = "mixed conversations",
                             .fault = "mixed",
                             .strength = "all links at once",
                             .moves = m.moves,
                             .seed = drill->options->seed + job->part};
    yield_conversation(yield, drill, &c);
    for (unsigned i = 0; i < n; i++) {
        g_ptr_array_free(m.cases[i], TRUE);
        if (m.keys[i]) g_ptr_array_free(m.keys[i], TRUE);
    }
    g_array_free(m.moves, TRUE);
    g_free(m.cases);
    g_free(m.keys);
    g_free(m.bad);
    g_free(m.stranger);
}

void mixed_jobs(struct drill *drill)
{
    for (unsigned i = 0; i < drill->options->mixed; i++)
        drill_job_add(drill, "mixed", 0, i, mixed, "mixed conversation %u", i + 1);
}
