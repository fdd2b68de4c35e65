#include "drill.h"

#include <string.h>

#include "bench.h"
#include "check.h"
#include "checks.h"
#include "expect.h"

#define START_US  UINT64_C(3000000)
#define PATIENCE  UINT64_C(5000000)   /* an answer comes within this... */
#define MESSAGE   UINT64_C(120000000) /* ...a text message within this */
#define AFTER_US  UINT64_C(50000)     /* and no second one within that */
#define SETTLE_US UINT64_C(200000)

/* One link that is drilled. */
struct driller {
    struct drill_report *report;
    const struct drill_options *options;
    struct lexicon *lx;
    unsigned link;
    const struct lex_link *of;
    struct bench *bench;
    struct end *end;
    struct speaker *speaker;
    char *answer; /* the first one; NULL: none yet */
    unsigned answers, changes, calls;
};

/* ---- what happens ---- */

static void on_sight(void *user, const struct sight *sight)
{
    struct driller *d = user;
    bool known = sight->kind == SIGHT_KNOWN && d->speaker;
    if (sight->kind == SIGHT_OUT) d->changes++;
    if ((sight->kind != SIGHT_ANSWERED || d->speaker) && !known) return;
    if (sight->end != d->end || !sight->count) return;
    char *text = g_strndup(sight->text, sight->count);
    if (!bench_is_unasked(text)) {
        d->answers++;
        if (!d->answer) d->answer = g_strdup(text);
    }
    g_free(text);
}

static void on_call(void *user, const rlx_value *values)
{
    (void)values;
    ((struct driller *)user)->calls++;
}

static void pass(struct driller *d, uint64_t us)
{
    struct world *world = d->bench->world;
    uint64_t until = world->now_us + us;
    while (world->now_us < until && !bench_failure(d->bench)) {
        world_step(world, MIN(until, world->now_us + 1000));
        bench_tell_rests(d->bench);
    }
}

/* ---- what is expected ---- */

static const char *own_text(const struct lex_link *of, const char *what)
{
    for (unsigned i = 0; i < of->texts->len; i++) {
        const struct lex_text *text = of->texts->pdata[i];
        if (!strcmp(text->what, what)) return text->text;
    }
    return NULL;
}

static bool is_ok(const struct lex_link *of, const char *answer)
{
    const char *own = own_text(of, "ok"), *already = own_text(of, "already");
    if ((own && !strcmp(answer, own)) || (already && !strcmp(answer, already))) return true;
    if (*answer == '<') answer++;
    return g_str_has_prefix(answer, "ok");
}

static bool is_err(const struct lex_link *of, const char *answer)
{
    const char *own = own_text(of, "err");
    if (own && !strcmp(answer, own)) return true;
    if (*answer == '<') answer++;
    return g_str_has_prefix(answer, "err") || (answer[0] == 'e' && g_ascii_isdigit(answer[1]));
}

static void fail(struct driller *d, const struct drill_try *try, const char *expected,
                 const char *came)
{
    struct drill_failure *f = g_new0(struct drill_failure, 1);
    *f = (struct drill_failure){.row = try->row,
                                .link = d->link,
                                .text = g_strdup(try->text),
                                .expected = g_strdup(expected),
                                .came = g_strdup(came),
                                .why = try->why};
    g_ptr_array_add(d->report->failures, f);
    d->report->failed++;
}

static bool may_say(const struct lex_link *link, const struct drill_try *try)
{
    bool may = !link->only->len || !g_strcmp0(try->word, "halt"); /* it is never denied */
    if (!try->word) return check_may_say(link, try->of);
    for (unsigned i = 0; i < link->only->len; i++)
        may |= !g_ascii_strcasecmp(link->only->pdata[i], try->word);
    return may;
}

/* Whether it is, to the word and the level, what the lexicon says. */
static bool judge_words(struct driller *d, const struct drill_try *try, bool obeyed, bool may)
{
    const char *error = may && !obeyed ? expect_error(d->lx, try) : NULL;
    bool bare = (!d->of->check || d->speaker) && d->of->frame != LEX_FRAME_ENDED &&
                d->of->frame != LEX_FRAME_FIXED; /* nothing stands behind an answer */
    bool full = d->of->replies == LEX_REPLIES_FULL && !d->of->texts->len && bare;
    bool keyed = d->of->frame == LEX_FRAME_KEYS || d->of->frame == LEX_FRAME_CODES;
    char *wanted = NULL;
    if (full && error && !g_str_has_prefix(d->answer, error)) {
        fail(d, try, error, d->answer);
        return false;
    }
    if (full && !keyed && obeyed && !expect_words(d->lx, try, d->answer)) {
        fail(d, try, "ok and what was said", d->answer);
        return false;
    }
    if (keyed || !obeyed || expect_output(d->lx, try, d->end->board, &wanted)) return true;
    fail(d, try, wanted, "another level");
    g_free(wanted);
    return false;
}

/* Whether what happened is what the promises say; tells what is not. */
static bool judge(struct driller *d, const struct drill_try *try)
{
    bool valid = try->valid, may = may_say(d->of, try),
         calls = try->of && try->of->effect.kind == LEX_CALL;
    bool asks = !try->of || try->of->query;
    bool tables = !d->options->firmware;
    if (!d->answer) {
        fail(d, try, "an answer", "none");
    } else if (d->answers > 1) {
        fail(d, try, "one answer", d->answer);
    } else if (valid && may && !is_ok(d->of, d->answer)) {
        fail(d, try, "ok", d->answer);
    } else if ((!valid || !may) && !is_err(d->of, d->answer)) {
        fail(d, try, may ? "err: no command takes it" : "err: it may not be said here", d->answer);
    } else if ((!valid || !may) && (d->changes || d->calls)) {
        fail(d, try, "that nothing moves",
             d->changes ? "an output changed" : "a handler was called");
    } else if (valid && may && calls && tables && !asks && d->calls != 1) {
        fail(d, try, "one call of its handler", d->calls ? "more" : "none");
    } else {
        return judge_words(d, try, valid && may, may);
    }
    return false;
}

/* ---- one try ---- */

/* What is sent for it; owned by the caller. NULL: it is longer than the link carries, or would lock
 * the driller out. */
static char *sent_for(const struct driller *d, const struct drill_try *try)
{
    const struct lex_link *of = d->of;
    const struct lex_command *command = try->of;
    const struct lex_setting *code = of->code ? lexicon_setting(d->lx, of->code) : NULL;
    if (command && command->effect.kind == LEX_STORE) {
        const struct lex_setting *stored = d->lx->settings->pdata[command->effect.output];
        if (!g_strcmp0(stored->name, of->code) || !g_strcmp0(stored->name, of->allow_setting))
            return NULL;
    }
    unsigned most = of->payload && of->frame != LEX_FRAME_REPORT ? of->payload : of->longest;
    if (of->frame == LEX_FRAME_FIXED) most = of->length;
    size_t around = check_envelope(of) + (code ? strlen(code->value) + 1 : 0);
    if (strlen(try->text) + around > most || (d->speaker && strlen(try->text) > RLX_ERRAND))
        return NULL;
    return code ? g_strdup_printf("%s %s", code->value, try->text) : g_strdup(try->text);
}

static void one_try(struct driller *d, const struct drill_try *try, const char *sent)
{
    struct drill_report *r = d->report;
    struct drill_cell *cell = &r->cells[try->row * r->n_links + d->link];
    uint64_t began = d->bench->world->now_us;
    uint64_t patience = d->of->medium == LEX_SMS ? MESSAGE : PATIENCE;
    g_clear_pointer(&d->answer, g_free);
    d->answers = d->changes = d->calls = 0;
    bool said = d->speaker ? speaker_say(d->speaker, sent) : bench_say(d->end, sent, strlen(sent));
    while (said && !d->answer && d->bench->world->now_us - began < patience &&
           !bench_failure(d->bench))
        pass(d, 1000);
    uint32_t took = (uint32_t)(d->bench->world->now_us - began);
    pass(d, AFTER_US);
    if (d->of->medium == LEX_SMS) pass(d, PATIENCE / 2); /* it is still deleted */
    r->tries++;
    cell->tries++;
    cell->passed += judge(d, try);
    if (d->answer) g_array_append_val(r->reply_us[d->link], took);
}

/* ---- one link ---- */

/* Why it is not drilled; NULL: it is. */
static const char *why_not(const struct lex_link *of)
{
    bool addressed =
        of->address >= 0 || of->check == LEX_DEMAND_REQUIRED || of->tags == LEX_DEMAND_REQUIRED;
    if (of->one_way) return "nothing comes back";
    if (of->replies == LEX_REPLIES_SILENT) return "it does not answer";
    if (of->medium == LEX_SMS && of->handed) return "its messages are handed in by a firmware";
    if (addressed && (of->medium != LEX_RADIO || of->address < 0 || !of->tags))
        return "it wants an envelope that no controller of the bench writes";
    return NULL;
}

static bool begin(struct driller *d, const struct image *image, struct bench_options *options)
{
    GError *error = NULL;
    bool radio = d->of->medium == LEX_RADIO && d->of->address >= 0;
    char *text =
        radio ? g_strdup_printf("controller drill on %s from 1\n", d->of->name) : g_strdup("");
    *options = (struct bench_options){.firmware = d->options->firmware, .seed = 1};
    options->world = world_file_text("drill", text, strlen(text), d->lx);
    d->bench = bench_new(d->lx, image, options, &error);
    if (!d->bench) {
        d->report->failure = g_strdup(error->message);
        g_clear_error(&error);
        return false;
    }
    d->end = bench_end(d->bench, d->of->name);
    d->speaker = bench_speaker_to(d->bench, d->end);
    bench_watch(d->bench, on_sight, d);
    struct board *board = d->bench->boards->pdata[0];
    if (!d->options->firmware) device_on_call(board->device, on_call, d);
    bench_start(d->bench);
    pass(d, START_US);
    return true;
}

static void end(struct driller *d, const struct bench_options *options)
{
    if (d->bench && bench_failure(d->bench) && !d->report->failure)
        d->report->failure = g_strdup(bench_failure(d->bench));
    bench_free(d->bench);
    d->bench = NULL;
    world_file_free((struct world_file *)options->world);
    g_clear_pointer(&d->answer, g_free);
}

/* What a key or code stands for, with digits where it has some. */
static void drill_key(struct driller *d, const struct lex_key *key)
{
    int32_t values[15];
    unsigned given, digit = 0;
    char *code = g_strdup(key->code), *text = g_strdup(key->text);
    for (char *p = code; *p; p++)
        if (*p == '#') *p = digit++ ? '0' : '1';
    digit = 0;
    for (char *p = text; *p; p++)
        if (*p == '#') *p = digit++ ? '0' : '1';
    const struct lex_command *command = lex_command_taking(d->lx, text, values, &given);
    guint index = 0;
    if (command && g_ptr_array_find(d->lx->commands, command, &index)) {
        struct drill_try try = {index, command, NULL, code, true, "its key"};
        one_try(d, &try, code);
    }
    g_free(code);
    g_free(text);
}

/* What is not valid comes first, on a board where nothing moves by itself yet. */
static void drill_link(struct driller *d, const struct image *image, const GPtrArray *tries)
{
    bool keyed = d->of->frame == LEX_FRAME_KEYS || d->of->frame == LEX_FRAME_CODES;
    for (unsigned valid = 0; valid < 2 && !d->report->failure; valid++) {
        struct bench_options options;
        if (begin(d, image, &options)) {
            for (unsigned i = 0; !keyed && i < tries->len && !bench_failure(d->bench); i++) {
                const struct drill_try *try = tries->pdata[i];
                char *sent = try->valid == (valid == 1) ? sent_for(d, try) : NULL;
                if (sent) one_try(d, try, sent);
                g_free(sent);
            }
            for (unsigned i = 0; keyed && valid && i < d->of->keys->len; i++)
                drill_key(d, d->of->keys->pdata[i]);
            pass(d, SETTLE_US);
        }
        end(d, &options);
    }
}

/* ---- all ---- */

static void failure_free(void *p)
{
    struct drill_failure *f = p;
    g_free(f->text);
    g_free(f->expected);
    g_free(f->came);
    g_free(f);
}

static int by_size(const void *a, const void *b)
{
    uint32_t x = *(const uint32_t *)a, y = *(const uint32_t *)b;
    return x < y ? -1 : x > y;
}

struct drill_report *drill(struct lexicon *lx, const struct image *image,
                           const struct drill_options *options)
{
    struct drill_report *r = g_new0(struct drill_report, 1);
    r->rows = g_ptr_array_new_with_free_func(g_free);
    GPtrArray *tries = drill_tries(lx, r->rows);
    r->lx = lx;
    r->n_links = lx->links->len;
    r->cells = g_new0(struct drill_cell, r->rows->len * r->n_links + 1);
    r->left_out = g_new0(char *, r->n_links + 1);
    r->reply_us = g_new0(GArray *, r->n_links + 1);
    r->failures = g_ptr_array_new_with_free_func(failure_free);
    for (unsigned i = 0; i < r->n_links; i++) {
        struct driller d = {
            .report = r, .options = options, .lx = lx, .link = i, .of = lx->links->pdata[i]};
        r->reply_us[i] = g_array_new(FALSE, FALSE, sizeof(uint32_t));
        const char *why = why_not(d.of);
        if (options->link && strcmp(options->link, d.of->name) != 0) why = "it was not chosen";
        if (why)
            r->left_out[i] = g_strdup(why);
        else if (!r->failure)
            drill_link(&d, image, tries);
        g_array_sort(r->reply_us[i], by_size);
    }
    g_ptr_array_free(tries, TRUE);
    return r;
}

void drill_report_free(struct drill_report *r)
{
    if (!r) return;
    for (unsigned i = 0; i < r->n_links; i++) {
        g_free(r->left_out[i]);
        g_array_free(r->reply_us[i], TRUE);
    }
    g_free(r->left_out);
    g_free(r->reply_us);
    g_free(r->cells);
    g_ptr_array_free(r->rows, TRUE);
    g_ptr_array_free(r->failures, TRUE);
    g_free(r->failure);
    g_free(r);
}
