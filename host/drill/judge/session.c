/* Plays one conversation in a world of its own and collects the results of each move.
 * The bench watches every byte and pin; a move ends when its reply came or could not.
 * It does not decide whether that is right. */
#include "drill/judge/session.h"

#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/check/checks.h"
#include "lexicon/framing.h"
#include "lexicon/envelope.h"
#include "drill/judge/judge.h"
#include "drill/judge/seen.h"
#include "rlx/client.h"

#define START_US   UINT64_C(3000000)
#define PATIENCE   UINT64_C(5000000)   /* an answer comes within this... */
#define MESSAGE    UINT64_C(120000000) /* ...a text message within this */
#define AFTER_US   UINT64_C(50000)     /* and no second one within that */
#define DELETED_US UINT64_C(2500000)   /* a message is deleted behind its answer */
#define NONE_US    UINT64_C(150000)    /* nothing comes where none is owed */
#define LOOK_US    UINT64_C(1000)

struct session {
    const struct setup *setup;
    const struct session_options *options;
    struct bench_options bench_options;
    struct bench *bench;
    struct world_file *world;
    struct end *end; /* that is spoken over */
    struct speaker *speaker;
    bool wrapped;      /* the envelope is the session's own */
    unsigned tags;     /* that were used */
    unsigned tag, sum; /* of the last frame */
    uint64_t answered_us;
    bool unknown; /* the retry client knows of no answer */
    bool greeted;
    struct outcome outcome;
};

/* ---- moves ---- */

static void clear_move(void *p)
{
    g_free(((struct move *)p)->text);
}

GArray *moves_new(void)
{
    GArray *moves = g_array_new(FALSE, TRUE, sizeof(struct move));
    g_array_set_clear_func(moves, clear_move);
    return moves;
}

struct move *moves_add(GArray *moves, enum move_what what, unsigned link, const char *text)
{
    struct move move = {.what = what, .link = link, .text = g_strdup(text)};
    g_array_append_val(moves, move);
    return &g_array_index(moves, struct move, moves->len - 1);
}

struct move *moves_wait(GArray *moves, uint64_t us)
{
    struct move *move = moves_add(moves, MOVE_WAIT, 0, NULL);
    move->us = us;
    return move;
}

GArray *moves_copy(const GArray *moves, unsigned n, unsigned at, unsigned without)
{
    GArray *copy = moves_new();
    for (unsigned i = 0; i < n && i < moves->len; i++) {
        struct move move = g_array_index(moves, struct move, i);
        if (i >= at && i < at + without) continue;
        move.text = g_strdup(move.text);
        g_array_append_val(copy, move);
    }
    return copy;
}

bool session_has_client(const struct lex_link *link)
{
    return link->medium == LEX_RADIO && link->address >= 0 && (link->tags || link->seal) &&
           !link->one_way && link->replies != LEX_REPLIES_SILENT;
}

/* Inputs permit what they can, the first output first: the rest is tried in scenes of its own. */
static void add_permits(GString *world, const struct lexicon *lx)
{
    GHashTable *pushed = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        for (unsigned k = 0; k < out->permits->len; k++) {
            const struct lex_permit *permit = out->permits->pdata[k];
            if (g_hash_table_add(pushed, permit->name))
                g_string_append_printf(world, "push %s %s\n", permit->name,
                                       permit->on ? "on" : "off");
        }
    }
    g_hash_table_destroy(pushed);
}

char *session_world(const struct lexicon *lx)
{
    GString *world = g_string_new(NULL);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (session_has_client(link))
            g_string_append_printf(world, "controller by_%s on %s\n", link->name, link->name);
        else if (link->medium == LEX_RADIO)
            g_string_append_printf(world, "air %s loss 0%%\n", link->name);
    }
    add_permits(world, lx);
    return g_string_free(world, FALSE);
}

bool session_greets(const struct setup *setup, const struct sight *sight)
{
    if (sight->kind != SIGHT_ANSWERED) return false;
    char *text = g_strndup(sight->text, sight->count);
    char *is = answer_identity(setup->lx, setup->image->fingerprint, text);
    bool greets = is && bench_is_unasked(sight->end->of, text);
    g_free(is);
    g_free(text);
    return greets;
}

size_t session_most(const struct lexicon *lx, const struct lex_link *link)
{
    if (link->layout) return RLX_FRAME_MAX; /* bytes are what is counted there */
    const struct lex_setting *code = link->code ? lexicon_setting(lx, link->code) : NULL;
    unsigned most = lex_frame_bytes(link);
    if (session_has_client(link)) most = MIN(most, RLX_CLIENT_BYTES + lex_envelope_bytes(link));
    size_t around = lex_envelope_bytes(link) + (code ? strlen(code->value) + 1 : 0);
    return most > around ? most - around : 0;
}

/* ---- what happens ---- */

/* Without the character that ends a frame, or those that fill it. */
static void unframe(const struct lex_link *link, char *text)
{
    bool ended = link->frame == LEX_FRAME_ENDED, filled = link->length != 0;
    const char last = ended ? link->end : link->pad;
    for (size_t n = strlen(text); (ended || filled) && n && text[n - 1] == last; n--) {
        text[n - 1] = 0;
        if (ended) return;
    }
}

static void answered(struct session *s, char *text)
{
    struct outcome *o = &s->outcome;
    unframe(s->end->of, text);
    char *inside = s->wrapped ? envelope_inside(s->end->of, s->tag, s->sum, text)
                              : envelope_unchecked(s->end->of, text);
    if (!inside) {
        o->bad++;
        inside = g_strdup(text);
    }
    bool echo = s->end->of->people && (*inside == '>' || !*inside);
    if (bench_is_unasked(s->end->of, inside) || echo) {
        g_free(inside);
        return;
    }
    if (!o->answers->len) s->answered_us = s->bench->world->now_us;
    g_ptr_array_add(o->answers, inside);
}

static void changed(struct session *s, const struct sight *sight)
{
    const struct lexicon *lx = s->setup->lx;
    int output = *sight->board->name ? -1 : output_of_event(lx, sight->event);
    if (output < 0) return;
    char *state = output_state(sight->board, lx->outputs->pdata[output]);
    char **before = &s->outcome.before[output];
    if (g_strcmp0(*before, state) != 0) s->outcome.moved[output]++;
    g_free(state);
}

static void on_sight(void *user, const struct sight *sight)
{
    struct session *s = user;
    s->greeted |= session_greets(s->setup, sight);
    if (sight->kind == SIGHT_OUT) changed(s, sight);
    if (sight->kind == SIGHT_IN && !*sight->board->name)
        s->outcome.pushed_us[sight->event.index] = s->bench->world->now_us;
    if (sight->kind == SIGHT_UNKNOWN && sight->end == s->end) s->unknown = true;
    if (sight->kind != SIGHT_ANSWERED && sight->kind != SIGHT_KNOWN) return;
    bool by = s->speaker ? sight->kind == SIGHT_KNOWN : sight->kind == SIGHT_ANSWERED;
    if (!by || !s->end || sight->end != s->end || !sight->count) return;
    char *text = g_strndup(sight->text, sight->count);
    answered(s, text);
    g_free(text);
}

static void on_call(void *user, unsigned handler, const rlx_value *values)
{
    struct session *s = user;
    struct drill_call call = {.handler = handler};
    memcpy(call.values, values, MIN(sizeof call.values, RLX_SLOTS * sizeof *values));
    g_array_append_val(s->outcome.calls, call);
}

static void pass(struct session *s, uint64_t us)
{
    struct world *world = s->bench->world;
    uint64_t until = world->now_us + us;
    while (world->now_us < until && !bench_failure(s->bench)) {
        world_step(world, MIN(until, MAX(s->bench->rest_at, world->now_us + 1)));
        bench_tell_rests(s->bench);
    }
}

/* ---- one move ---- */

static void clear_outcome(struct session *s, const struct move *move)
{
    struct outcome *o = &s->outcome;
    const struct lexicon *lx = s->setup->lx;
    s->end = ((struct board *)s->bench->boards->pdata[0])->ends->pdata[move->link];
    s->speaker = bench_speaker_to(s->bench, s->end);
    s->wrapped = !s->speaker && !move->raw && envelope_wanted(s->end->of);
    s->unknown = false;
    o->link = s->end->of;
    o->move = move;
    o->bad = 0;
    g_ptr_array_set_size(o->answers, 0);
    g_array_set_size(o->calls, 0);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        g_free(o->before[i]);
        o->before[i] = output_state(o->board, lx->outputs->pdata[i]);
        o->moved[i] = 0;
    }
}

static void said_free(void *p)
{
    g_free(((struct drill_case *)p)->text);
    g_free(p);
}

static void keep_said(struct session *s, const struct drill_case *as, const char *text)
{
    struct drill_case *said = g_new(struct drill_case, 1);
    *said = *as;
    said->text = g_strdup(text);
    g_ptr_array_add(s->outcome.said, said);
}

/* The text with its frames' ends as line ends. Owned by the caller. */
static char *as_lines(const struct lex_link *link, const char *text)
{
    GString *lines = g_string_new(NULL);
    for (unsigned i = 0; text[i]; i++) {
        bool fixed = link->frame == LEX_FRAME_FIXED;
        bool end = link->frame == LEX_FRAME_ENDED && text[i] == link->end;
        g_string_append_c(lines, end ? '\n' : fixed && text[i] == link->pad ? ' ' : text[i]);
        if (fixed && i % link->length == link->length - 1u) g_string_append_c(lines, '\n');
    }
    return g_string_free(lines, FALSE);
}

/* Keeps the commands of a text with several lines or commands, if it is no test case. */
static void keep_texts(struct session *s, const char *text)
{
    char *lines = as_lines(s->end->of, text), **texts = g_strsplit_set(lines, "\r\n;", -1);
    int32_t values[15];
    unsigned given;
    for (unsigned i = 0; texts[i]; i++) {
        struct drill_case said = {.valid = true, .why = CASE_PLAIN};
        g_strstrip(texts[i]);
        said.of = lex_command_taking(s->setup->lx, texts[i], values, &given);
        if (!said.of)
            for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
                if (!g_ascii_strcasecmp(texts[i], b->word)) said.word = b->word;
        if (said.of || said.word) keep_said(s, &said, texts[i]);
    }
    g_free(lines);
    g_strfreev(texts);
}

static bool has_least_times(const struct lex_output *out)
{
    return out && (out->min_on || out->min_off);
}

/* What a real board has behind it that the reference model has not: counts, a log, times since a
 * switch, unless it is reset; settings and inputs at any rate. */
static bool has_past(const struct setup *setup, const struct move *move)
{
    const struct lexicon *lx = setup->lx;
    const struct drill_case *test = move->test;
    bool times = false;
    for (unsigned i = 0; i < lx->outputs->len; i++) times |= has_least_times(lx->outputs->pdata[i]);
    if (!test || strchr(move->text, ';')) return times && !setup->resets;
    const struct lex_output *out =
        test->of ? lex_effect_output(lx, &test->of->effect) : lexicon_output(lx, test->word);
    if (!test->of && !out) return test->valid;
    return has_least_times(out) && !setup->resets;
}

/* What the firmware answers by itself is not compared. */
static bool is_loose(const struct setup *setup, const struct move *move)
{
    const struct lexicon *lx = setup->lx;
    if (setup->real && has_past(setup, move)) return true;
    const struct drill_case *test = move->test;
    const struct lex_output *out =
        test && test->of ? lex_effect_output(lx, &test->of->effect) : NULL;
    bool owned = lex_has_own(lx) && (!out || out->by || test->of->effect.which);
    bool handlers = lx->queries->len > 0, calls = false;
    for (unsigned i = 0; i < lx->commands->len; i++)
        calls |= ((struct lex_command *)lx->commands->pdata[i])->effect.kind == LEX_CALL &&
                 !((struct lex_command *)lx->commands->pdata[i])->query;
    handlers |= calls;
    if (owned) return true;
    if (!handlers) return false;
    if (move->what != MOVE_SAY || !test || strchr(move->text, ';')) return calls;
    if (test->of) return test->of->effect.kind == LEX_CALL || test->of->query;
    return calls && (!g_strcmp0(test->word, "log") || !g_strcmp0(test->word, "stats"));
}

char *session_frame(const struct lexicon *lx, const struct lex_link *link, const char *text,
                    bool wrapped, unsigned tag)
{
    const struct lex_setting *code = link->code ? lexicon_setting(lx, link->code) : NULL;
    char *coded = code ? g_strdup_printf("%s %s", code->value, text) : g_strdup(text);
    if (!wrapped) return coded;
    char *frame = envelope_around(link, tag, coded);
    g_free(coded);
    return frame;
}

static bool send(struct session *s, const struct move *move)
{
    bool said = true;
    if (s->wrapped) s->tag = s->tags++ & (RLX_TAG_OPENS - 1u);
    char *sent = session_frame(s->setup->lx, s->end->of, move->text, s->wrapped, s->tag);
    if (s->wrapped) s->sum = envelope_sum(sent);
    if (s->speaker)
        said = speaker_say(s->speaker, sent);
    else if (s->end->of->frame == LEX_FRAME_KEYS && s->end->of->lead && *sent == s->end->of->lead)
        bench_say_line(s->end, sent, strlen(sent));
    else if (s->end->of->frame == LEX_FRAME_KEYS)
        for (const char *p = sent; *p; p++) bench_say(s->end, p, 1);
    else
        said = bench_say(s->end, sent, strlen(sent));
    g_free(sent);
    return said;
}

/* What a frame and its answer take on a slow line, beyond the times above. */
static uint64_t slow_us(const struct lex_link *link)
{
    uint64_t bytes = MAX(link->length, link->longest),
             frame_us = link->baud ? bytes * 11 * 1000000 / link->baud : 0;
    return frame_us > 2 * AFTER_US ? 2 * frame_us : 0;
}

static void wait_for_answers(struct session *s, const struct move *move, uint64_t began)
{
    bool message = s->end->of->medium == LEX_SMS && s->end->modem;
    enum owed owed = judge_owed(&s->outcome);
    bool none = owed == OWED_NONE || owed == OWED_SILENT;
    uint64_t patience = s->setup->patience_us ? s->setup->patience_us : PATIENCE;
    unsigned frames = MAX(move->frames, 1);
    if (message) patience = MAX(patience, MESSAGE);
    uint64_t slack_us = s->setup->real ? 0 : s->setup->slack_us; /* it would take minutes */
    slack_us += slow_us(s->end->of);
    patience += slow_us(s->end->of);
    if (s->end->of->baud) /* until all of it was sent */
        patience += strlen(move->text) * UINT64_C(11000000) / s->end->of->baud;
    if (none) patience = message ? MESSAGE : NONE_US + slack_us;
    while ((none || s->outcome.answers->len < frames) && !s->unknown &&
           s->bench->world->now_us - began < patience && !bench_failure(s->bench))
        pass(s, LOOK_US);
    pass(s, MAX(AFTER_US, s->setup->after_us) + slack_us);
    if (message) pass(s, DELETED_US);
}

/* What a scene would have to see: the outputs that changed and may not, as they were. */
static char *states_before(const struct outcome *o)
{
    GString *states = g_string_new(NULL);
    for (unsigned i = 0; i < o->setup->lx->outputs->len; i++)
        if (o->moved[i] && !judge_may_change(o, i))
            g_string_append_printf(states, "see %s %s\n",
                                   ((struct lex_output *)o->setup->lx->outputs->pdata[i])->name,
                                   o->before[i]);
    return g_string_free(states, FALSE);
}

static void tell(struct session *s, unsigned number, uint64_t began, bool said)
{
    struct outcome *o = &s->outcome;
    bool wrong = false;
    char *came = NULL, *states = states_before(o);
    char *expected = said ? judge(o, &came, &wrong) : NULL;
    bool acted = o->calls->len > 0;
    for (unsigned i = 0; i < s->setup->lx->outputs->len; i++) acted |= o->moved[i] > 0;
    struct result result = {.move = number,
                            .expected = expected,
                            .came = came ? came : "",
                            .states = states,
                            .answer = o->answers->len ? o->answers->pdata[0] : NULL,
                            .said = said,
                            .wrong = wrong,
                            .acted = acted,
                            .took_us = s->answered_us - began};
    /* while a device fails, that is reported */
    if (s->options->told && !bench_failure(s->bench))
        s->options->told(s->options->user, o->move, &result);
    g_free(expected);
    g_free(came);
    g_free(states);
}

static void speak(struct session *s, const struct move *move, unsigned number)
{
    uint64_t began = s->bench->world->now_us;
    bool said = true;
    clear_outcome(s, move);
    if (move->test)
        keep_said(s, move->test, move->test->text);
    else
        keep_texts(s, move->text);
    if (s->options->record) {
        record_loose(s->options->record, move->link, is_loose(s->setup, move));
        record_bad(s->options->record, move->owed == OWED_PERHAPS && !move->after);
    }
    bool flood = move->what == MOVE_TYPE && move->owed == OWED_PERHAPS;
    if (flood && s->options->record && s->setup->slack_us) /* it drops others of them */
        record_chance(s->options->record);
    if (move->what == MOVE_TYPE)
        bench_type(s->end, move->text, strlen(move->text));
    else
        said = send(s, move);
    if (said && move->owed != OWED_ANY) wait_for_answers(s, move, began);
    tell(s, number, began, said);
}

static void change_world(struct session *s, const char *text)
{
    struct world_file *more = world_file_more(s->world, text, s->setup->lx);
    g_assert(!lexicon_has(more->read, false));
    bench_now(s->bench, more);
    if (s->world != s->bench_options.world) world_file_free(s->world);
    s->world = more;
}

/* It is said, and whatever comes is nobody's business. */
static void calm(struct session *s, const struct move *move)
{
    clear_outcome(s, move);
    const struct lex_link *of = s->end->of;
    bool answers = move->what == MOVE_SAY && !of->one_way && of->replies != LEX_REPLIES_SILENT;
    uint64_t until = s->bench->world->now_us + PATIENCE;
    if (move->what == MOVE_TYPE)
        bench_type(s->end, move->text, strlen(move->text));
    else
        send(s, move);
    while (answers && !s->outcome.answers->len && s->bench->world->now_us < until &&
           !bench_failure(s->bench))
        pass(s, LOOK_US);
    pass(s, AFTER_US + slow_us(of));
}

static void do_move(struct session *s, const struct move *move, unsigned number)
{
    struct board *board = s->bench->boards->pdata[0];
    if (s->options->record) record_mute(s->options->record, move->calm);
    if (s->options->record) record_move(s->options->record, number, s->bench->world->now_us);
    if (s->options->reached) *s->options->reached = number;
    if (move->calm) {
        calm(s, move);
        return;
    }
    switch (move->what) {
    case MOVE_SAY:
    case MOVE_TYPE: speak(s, move, number); break;
    case MOVE_FROM: bench_write_as(board->ends->pdata[move->link], move->text); break;
    case MOVE_PUSH: {
        const struct lex_input *in = lexicon_input(s->setup->lx, move->text);
        bench_set_pin(board, in->pin, (move->us != 0) != in->active_low);
        break;
    }
    case MOVE_NOW:
        /* with slack, what it was doing when it was reset is chance, too */
        if (s->options->record && (s->setup->slack_us || !g_str_has_prefix(move->text, "reset")))
            record_chance(s->options->record);
        change_world(s, move->text);
        break;
    case MOVE_WAIT: pass(s, move->us); break;
    }
}

/* ---- the whole ---- */

static void begin(struct session *s)
{
    struct outcome *o = &s->outcome;
    const unsigned n = s->setup->lx->outputs->len;
    o->setup = s->setup;
    o->tables = !setup_is_own(s->setup);
    o->blind = s->setup->board != NULL;
    o->board = s->bench->boards->pdata[0];
    o->answers = g_ptr_array_new_with_free_func(g_free);
    o->calls = g_array_new(FALSE, FALSE, sizeof(struct drill_call));
    o->said = g_ptr_array_new_with_free_func(said_free);
    o->moved = g_new0(unsigned, n + 1);
    o->before = g_new0(char *, n + 1);
    bench_watch(s->bench, on_sight, s);
    if (s->options->record) bench_watch(s->bench, record_sight, s->options->record);
    if (s->options->watcher) bench_watch(s->bench, s->options->watcher, s->options->watcher_user);
    if (o->tables) device_on_call(o->board->device, on_call, s);
    if (o->blind) outside_paces(o->board->device);
    bench_start(s->bench);
    if (o->blind && s->setup->resets) device_reset(o->board->device, RLX_RESET_PIN);
    /* a board that is not reset is on its way since long */
    uint64_t until = s->bench->world->now_us + (o->blind && !s->setup->resets ? 0 : START_US);
    while (s->bench->world->now_us < until && !(o->blind && s->greeted) && !bench_failure(s->bench))
        pass(s, LOOK_US);
}

static void end(struct session *s)
{
    struct outcome *o = &s->outcome;
    for (unsigned i = 0; s->options->states && i < s->setup->lx->outputs->len; i++) {
        const struct lex_output *out = s->setup->lx->outputs->pdata[i];
        char *state = output_state(o->board, out);
        if (!out->members->len)
            g_string_append_printf(s->options->states, "see %s %s\n", out->name, state);
        g_free(state);
    }
    for (unsigned i = 0; i < s->setup->lx->outputs->len; i++) g_free(o->before[i]);
    g_free(o->before);
    g_free(o->moved);
    g_array_free(o->calls, TRUE);
    g_ptr_array_free(o->said, TRUE);
    g_ptr_array_free(o->answers, TRUE);
}

char *session_run(const struct setup *setup, const GArray *moves,
                  const struct session_options *options, uint64_t *took_us)
{
    struct session s = {.setup = setup, .options = options};
    GError *error = NULL;
    char *failure = NULL, *text = g_strdup(setup->world);
    struct world_file *world = world_file_text("drill", text, strlen(text), setup->lx);
    g_assert(!lexicon_has(world->read, false));
    world->seed = setup->seed;
    s.world = world;
    s.bench_options = (struct bench_options){.single = true,
                                             .idle = true,
                                             .firmware = setup->firmware,
                                             .outside = setup->board,
                                             .outside_link = setup->board_link,
                                             .world = world,
                                             .seed = setup->seed,
                                             .clock_ppm = setup->clock_ppm};
    s.bench = bench_new(setup->lx, setup->image, &s.bench_options, &error);
    if (s.bench) {
        begin(&s);
        for (unsigned i = 0; i < moves->len && !bench_failure(s.bench); i++)
            do_move(&s, &g_array_index(moves, struct move, i), i);
        failure = g_strdup(bench_failure(s.bench));
        *took_us = s.bench->world->now_us;
        if (options->record) record_end(options->record, *took_us);
        end(&s);
    } else {
        failure = g_strdup(error->message);
        g_clear_error(&error);
        *took_us = 0;
    }
    bench_free(s.bench);
    if (s.world != world) world_file_free(s.world);
    world_file_free(world);
    return failure;
}
