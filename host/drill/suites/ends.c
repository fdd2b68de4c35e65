/* How a frame comes over a serial line: every line end, in every two pieces, byte by byte, several
 * at once, between another link's bytes, too long, with bytes that no command has; and the replies
 * of others. */
#include "drill/suites/suite.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/envelope.h"
#include "drill/suites/typing.h"

#define PAUSE_US   UINT64_C(7000)
#define BURST_MOST 6u

static bool is_wired(const struct lex_link *link)
{
    bool medium = link->medium <= LEX_MODEM;
    return medium && !envelope_wanted(link) && !lex_is_keyed(link) && !link->layout;
}

static enum owed owed_of(const struct lex_link *link, enum owed owed)
{
    bool silent = link->one_way || link->replies == LEX_REPLIES_SILENT;
    return !silent ? owed : owed == OWED_OK ? OWED_SILENT : OWED_NONE;
}

/* Texts that are taken over the link and have the same effect when sent again. */
static GPtrArray *plain_tries(const struct drill *drill, unsigned link)
{
    GPtrArray *plain = g_ptr_array_new();
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        enum owed owed = drill_owed(drill, link, test);
        bool good = test->of && test->why == CASE_PLAIN && test->valid &&
                    (owed == OWED_OK || owed == OWED_SILENT) &&
                    strlen(test->text) <= session_most(drill->lx, drill_link(drill, link));
        bool stores = test->of && test->of->effect.kind == LEX_STORE;
        bool own = test->of && test->of->effect.kind == LEX_CALL && drill_is_own(drill);
        const struct lex_verb *verb = test->of ? test->of->effect.verb : NULL;
        bool way = verb && verb->behind == RLX_BEHIND_STEPS; /* the next one may lead too far */
        if (good && !stores && !own && !way) g_ptr_array_add(plain, (void *)test);
    }
    return plain;
}

/* The text with what ends a frame of the link; owned by the caller. */
static char *framed(const struct lex_link *link, const char *text, const char *end)
{
    GString *frame = g_string_new(text);
    if (lex_framing_of(link)->complete) lex_framing_of(link)->complete(link, frame, end);
    return g_string_free(frame, FALSE);
}

static void type(const struct drill *drill, GArray *moves, unsigned link, const char *bytes,
                 enum owed owed, unsigned frames)
{
    struct move *move = moves_add(moves, MOVE_TYPE, link, bytes);
    move->owed = owed == OWED_ANY ? owed : owed_of(drill_link(drill, link), owed);
    move->frames = frames;
    move->busy = true;
}

static void run(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                const char *row, GArray *moves)
{
    struct conversation c = {.job = job, .row = row, .moves = moves, .seed = drill->options->seed};
    yield_conversation(yield, drill, &c);
    g_array_free(moves, TRUE);
}

/* ---- line ends ---- */

static void line_ends(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                      const GPtrArray *plain)
{
    static const char *const ends[] = {"\r", "\n", "\r\n"};
    GArray *moves = moves_new();
    for (unsigned i = 0; i < plain->len; i++)
        for (unsigned k = 0; k < G_N_ELEMENTS(ends); k++) {
            const struct drill_case *test = plain->pdata[i];
            char *frame = framed(drill_link(drill, job->link), test->text, ends[k]);
            type(drill, moves, job->link, frame, OWED_OK, 1);
            g_free(frame);
        }
    type(drill, moves, job->link, "\r\n\r\n\n\n\r", OWED_NONE, 0);
    run(drill, job, yield, "every line end", moves);
}

/* ---- pieces ---- */

static void pieces(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                   const GPtrArray *plain)
{
    const struct lex_link *link = drill_link(drill, job->link);
    uint64_t pause = PAUSE_US;
    if (link->gap) pause = MIN(pause, link->gap * UINT64_C(1000) / 3);
    GArray *moves = moves_new();
    for (unsigned i = 0; i < plain->len; i++) {
        const struct drill_case *test = plain->pdata[i];
        char *frame = framed(link, test->text, "\r\n");
        size_t length = strlen(frame) - (link->frame == LEX_FRAME_LINE);
        for (size_t cut = 1; cut < length; cut++) {
            char *head = g_strndup(frame, cut);
            type(drill, moves, job->link, head, OWED_ANY, 0);
            moves_wait(moves, pause + cut * 1000);
            type(drill, moves, job->link, frame + cut, OWED_OK, 1);
            g_free(head);
        }
        for (size_t at = 0; at < length; at++) {
            char byte[3] = {frame[at], at == length - 1 ? frame[at + 1] : 0, 0};
            type(drill, moves, job->link, byte, at < length - 1 ? OWED_ANY : OWED_OK, 1);
            if (at < length - 1) moves_wait(moves, pause);
        }
        g_free(frame);
    }
    run(drill, job, yield, "split frames", moves);
}

/* ---- back-to-back frames ---- */

static void burst(const struct drill *drill, GArray *moves, unsigned link, const GPtrArray *plain,
                  unsigned first, unsigned n)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < n; i++) {
        const struct drill_case *test = plain->pdata[(first + i) % plain->len];
        char *frame = framed(drill_link(drill, link), test->text, "\n");
        g_string_append(all, frame);
        g_free(frame);
    }
    type(drill, moves, link, all->str, OWED_OK, n);
    g_string_free(all, TRUE);
}

static void bursts(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                   const GPtrArray *plain)
{
    const struct lex_link *link = drill_link(drill, job->link);
    size_t longest = link->length;
    for (unsigned i = 0; i < plain->len; i++)
        longest = MAX(longest, strlen(((struct drill_case *)plain->pdata[i])->text) + 2);
    unsigned most = (unsigned)MIN((link->receive - 1) / longest, BURST_MOST);
    GArray *moves = moves_new();
    for (unsigned n = 2; n <= most; n++)
        for (unsigned first = 0; first < MIN(plain->len, 4); first++)
            burst(drill, moves, job->link, plain, first, n);
    run(drill, job, yield, "back-to-back frames", moves);
}

/* More at once than there is room for: what is cut is dropped, up to a line end that nobody
 * dropped: the next frame may be refused as cut, the one behind it is taken. */
static void floods(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                   const GPtrArray *plain)
{
    GArray *moves = moves_new();
    for (unsigned i = 0; i < 4; i++) {
        burst(drill, moves, job->link, plain, i, 60);
        struct move *move = &g_array_index(moves, struct move, moves->len - 1);
        move->owed = OWED_PERHAPS;
        move->torn = true;
        moves_wait(moves, 4000000);
        drill_say(drill, moves, job->link, plain->pdata[i % plain->len]);
        move = &g_array_index(moves, struct move, moves->len - 1);
        move->owed = OWED_PERHAPS;
        move->torn = true;
        drill_say(drill, moves, job->link, plain->pdata[i % plain->len]);
    }
    run(drill, job, yield, "receive buffer overflow", moves);
}

/* ---- what is superseded ---- */

static void type_both(const struct drill *drill, GArray *moves, unsigned link, const char *a,
                      const char *b, enum owed owed)
{
    char *both = g_strdup_printf("%s\n%s\n", a, b);
    if (strlen(both) < drill_link(drill, link)->receive) {
        type(drill, moves, link, both, owed, 2);
        moves_wait(moves, 300000);
    }
    g_free(both);
}

/* Back-pressure: both that wait are answered. Where only the newest of a command counts, that is
 * not one that is refused; all others are done as often as they were sent. */
static void newest(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                   const GPtrArray *plain)
{
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    char *late =
        g_strdup_printf("cable %s fifo 255 service 50ms", link->name); /* both are there at once */
    moves_add(moves, MOVE_NOW, job->link, late);
    g_free(late);
    for (unsigned i = 0; i < plain->len; i++) {
        const struct drill_case *test = plain->pdata[i];
        if (!test->of->newest) type_both(drill, moves, job->link, test->text, test->text, OWED_OK);
        for (unsigned k = 0; k < drill->cases->len; k++) {
            const struct drill_case *next = drill->cases->pdata[k];
            bool toggles = g_str_has_suffix(next->text, "toggle");
            if (next->of != test->of || (!test->of->newest && !toggles)) continue;
            type_both(drill, moves, job->link, test->text, next->text,
                      next->valid ? OWED_OK : OWED_ONE);
            if (toggles && next->valid)
                type_both(drill, moves, job->link, next->text, next->text, OWED_OK);
        }
        char *strange = g_strconcat(test->text, " \xc3\xa4", NULL);
        if (test->of->newest) type_both(drill, moves, job->link, test->text, strange, OWED_ONE);
        g_free(strange);
    }
    drill_ask_counts(drill, moves, job->link);
    run(drill, job, yield, "back-pressure", moves);
}

/* ---- ignored texts ---- */

static void ignored(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    for (unsigned i = 0; i < drill->lx->ignores->len; i++) {
        const struct lex_ignore *known = drill->lx->ignores->pdata[i];
        if (known->link && strcmp(known->link, link->name) != 0) continue;
        char *texts[] = {g_strdup(known->text), g_strconcat("  ", known->text, "  ", NULL),
                         g_strconcat(known->text, "x", NULL),
                         g_strndup(known->text, strlen(known->text) - 1),
                         g_strconcat(known->text, " x", NULL)};
        for (unsigned k = 0; k < G_N_ELEMENTS(texts); k++) {
            if (*texts[k] && strlen(texts[k]) <= session_most(drill->lx, link)) {
                struct move *move = moves_add(moves, MOVE_SAY, job->link, texts[k]);
                move->owed = k < 2 && !known->reply ? OWED_NONE : owed_of(link, OWED_ONE);
            }
            g_free(texts[k]);
        }
    }
    if (moves->len) drill_ask_counts(drill, moves, job->link);
    run(drill, job, yield, "ignored texts", moves);
}

/* ---- what no command has ---- */

static void rubbish(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                    const GPtrArray *plain)
{
    static const char *const bytes[] = {"\x01",     "\x1b[A",  "\x7f\x80",
                                        "\xff\xfe", "pump\tx", "\xc3\xa4"};
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    if (link->frame != LEX_FRAME_LINE || link->people) {
        g_array_free(moves, TRUE);
        return;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(bytes); i++) {
        char *frame = framed(link, bytes[i], "\n");
        type(drill, moves, job->link, frame, OWED_ERR, 1);
        drill_say(drill, moves, job->link, plain->pdata[i % plain->len]);
        g_free(frame);
    }
    char *xs = g_strnfill(link->longest + 20, 'x'), *frame = framed(link, xs, "\n");
    if (!drill->options->slack_us || strlen(frame) < link->receive) { /* else it may lose its end */
        type(drill, moves, job->link, frame, OWED_ERR, 1);
        drill_say(drill, moves, job->link, plain->pdata[0]);
    }
    g_free(frame);
    g_free(xs);
    run(drill, job, yield, "bytes that no command has", moves);
}

/* What waits when halt comes is answered as halted, or was obeyed before. */
static void halts(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                  const GPtrArray *plain)
{
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    for (unsigned i = 0; i < plain->len && drill->lx->built_in & RLX_BUILT_IN_HALT; i++) {
        GString *all = g_string_new(NULL);
        unsigned n = 0;
        for (; n < 3; n++) {
            const struct drill_case *test = plain->pdata[(i + n) % plain->len];
            char *frame = framed(link, test->text, "\n");
            if (all->len + strlen(frame) + 8 < link->receive) g_string_append(all, frame);
            g_free(frame);
        }
        n = 1;
        for (const char *p = all->str; *p; p++) n += *p == '\n';
        char *halt = framed(link, "halt", "\n");
        g_string_append(all, halt);
        type(drill, moves, job->link, all->str, OWED_ONE, n);
        g_string_free(all, TRUE);
        g_free(halt);
    }
    run(drill, job, yield, "halt behind a backlog", moves);
}

static void wired(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    const struct lex_link *link = drill_link(drill, job->link);
    GPtrArray *plain = plain_tries(drill, job->link);
    /* answers that nothing ends cannot be told apart */
    bool several =
        link->frame == LEX_FRAME_LINE && !link->replies_drop && link->answer_end != LEX_END_NONE;
    if (plain->len) {
        if (link->frame == LEX_FRAME_LINE) line_ends(drill, job, yield, plain);
        pieces(drill, job, yield, plain);
        if (several) bursts(drill, job, yield, plain);
        if (link->frame != LEX_FRAME_GAP && link->receive) floods(drill, job, yield, plain);
        if (several) halts(drill, job, yield, plain);
        rubbish(drill, job, yield, plain);
        if (link->frame == LEX_FRAME_LINE) typing_people(drill, job, yield, plain);
        if (several) newest(drill, job, yield, plain);
    }
    g_ptr_array_free(plain, TRUE);
}

/* ---- replies of others ---- */

static void others(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    static const char *const texts[] = {
        "ok",         "ok pump on",         "err",     "err busy 2", "e4",  "e12 x",
        "ev call on", "ev #3 call on",      "note on", "ready x 1",  "e24", "e19 x",
        "e99",        "err range 0..1 at 3"};
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) {
        char *behind = g_strdup_printf("<%s\r\n", texts[i]);
        if (link->frame == LEX_FRAME_KEYS)
            type(drill, moves, job->link, behind, OWED_NONE, 0);
        else if (strlen(texts[i]) <= session_most(drill->lx, link))
            moves_add(moves, MOVE_SAY, job->link, texts[i])->owed = OWED_NONE;
        g_free(behind);
    }
    if (link->frame != LEX_FRAME_KEYS) drill_ask_counts(drill, moves, job->link);
    run(drill, job, yield, "replies from other devices", moves);
    if (link->frame == LEX_FRAME_KEYS) typing_keys(drill, job, yield);
    if (link->frame != LEX_FRAME_KEYS) ignored(drill, job, yield);
}

/* ---- between another link's bytes ---- */

static void between(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    GPtrArray *a = plain_tries(drill, job->link), *b = plain_tries(drill, job->part);
    GArray *moves = moves_new();
    for (unsigned i = 0; a->len && b->len && i < MAX(a->len, b->len); i++) {
        const struct drill_case *x = a->pdata[i % a->len], *y = b->pdata[i % b->len];
        char *frame = framed(drill_link(drill, job->link), x->text, "\n");
        char *other = framed(drill_link(drill, job->part), y->text, "\n");
        size_t half = strlen(frame) / 2, part = strlen(other) / 2;
        char *head = g_strndup(frame, half), *begin = g_strndup(other, part);
        type(drill, moves, job->link, head, OWED_ANY, 0);
        type(drill, moves, job->part, begin, OWED_ANY, 0);
        type(drill, moves, job->link, frame + half, OWED_OK, 1);
        type(drill, moves, job->part, other + part, OWED_OK, 1);
        g_free(frame), g_free(other), g_free(head), g_free(begin);
    }
    run(drill, job, yield, "between another link's bytes", moves);
    g_ptr_array_free(a, TRUE);
    g_ptr_array_free(b, TRUE);
}

void ends_jobs(struct drill *drill, unsigned link)
{
    const struct lex_link *of = drill_link(drill, link);
    if (is_wired(of)) drill_job_add(drill, "ends", link, 0, wired, "frames over %s", of->name);
    if (of->frame != LEX_FRAME_CODES && of->frame != LEX_FRAME_FIXED && !session_has_client(of) &&
        of->medium != LEX_SMS && !of->layout)
        drill_job_add(drill, "ends", link, 0, others, "replies of others over %s", of->name);
    for (unsigned i = 0; i < link; i++) {
        const struct lex_link *other = drill_link(drill, i);
        bool both = is_wired(of) && is_wired(other) && of->frame != LEX_FRAME_GAP &&
                    other->frame != LEX_FRAME_GAP && !drill_why_not(drill, i) && !of->yields &&
                    !other->yields;
        if (both)
            drill_job_add(drill, "ends", link, i, between, "frames over %s between those over %s",
                          of->name, other->name);
    }
}
