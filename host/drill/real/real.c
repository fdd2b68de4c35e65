/* Meets a real board before it is drilled, and leaves it at rest.
 * Who it is and how fast it answers is asked over the link; what brings it to rest is tried on the
 * lexicon's tables. What it answers in the drill is judged elsewhere. */
#include "drill/real/real.h"

#include <string.h>

#include "drill/judge/judge.h"
#include "drill/judge/seen.h"
#include "drill/suites/life.h"
#include "lexicon/answers.h"
#include "lexicon/framing.h"
#include "world/boards/bench.h"
#include "lexicon/envelope.h"

#define LOADER_US  UINT64_C(5000000) /* a loader has its say within this... */
#define SILENT_US  UINT64_C(300000)  /* ...and is over after this silence */
#define ASKED_US   UINT64_C(1000000) /* an answer comes within this */
#define GREETED_US UINT64_C(5000000) /* so does a greeting, after a reset */
#define ASKED      15u
#define ABOUT      3u
#define QUIET_US   UINT64_C(50000)
#define AWAY_US    UINT64_C(500000)    /* an output that is not slow has gone where it goes... */
#define WHILE_US   UINT64_C(120000000) /* ...and a slow one */

struct meeting {
    const struct drill *drill;
    struct bench *bench;
    struct end *end;
    char *identity;
    bool heard; /* anything */
    char *text; /* the last of it */
    uint64_t heard_us;
    unsigned tags;
    char word[3]; /* nobody's: nothing moves by it; "": there is none */
};

/* ---- a word that is nobody's ---- */

static bool begins_with(const char *text, char letter)
{
    return text && g_ascii_tolower(*text) == letter;
}

static bool begins_an_element(const struct lex_element *e, char letter)
{
    bool begins = begins_with(e->text, letter) || begins_with(e->prefix, letter);
    for (unsigned i = 0; e->words && i < e->words->len; i++)
        begins |= begins_with(e->words->pdata[i], letter);
    return begins;
}

/* Whether anything that may be said there begins with the letter, or a key has it. */
static bool is_somebodys(const struct lexicon *lx, const struct lex_link *link, char letter)
{
    bool is = g_ascii_tolower(link->lead) == letter;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        for (unsigned k = 0; k < command->elements->len; k++)
            is |= begins_an_element(command->elements->pdata[k], letter);
    }
    for (unsigned i = 0; i < link->keys->len; i++) {
        const char *code = ((struct lex_key *)link->keys->pdata[i])->code;
        is |= strchr(code, letter) || strchr(code, g_ascii_toupper(letter));
    }
    for (unsigned i = 0; i < lx->ignores->len; i++)
        is |= begins_with(((struct lex_ignore *)lx->ignores->pdata[i])->text, letter);
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
        is |= begins_with(b->word, letter);
    return is;
}

static void find_word(struct meeting *m)
{
    static const char letters[] = "zqxjkvywubfgcdeimnoprsthal";
    const char *c = letters;
    while (*c && is_somebodys(m->drill->lx, m->end->of, *c)) c++;
    g_snprintf(m->word, sizeof m->word, "%.1s%.1s", c, c);
}

/* ---- what is said and heard ---- */

static void on_meeting(void *user, const struct sight *sight)
{
    struct meeting *m = user;
    if (sight->kind != SIGHT_ANSWERED || !sight->count) return;
    char *text = g_strndup(sight->text, sight->count);
    char *is = answer_identity(m->drill->lx, m->drill->image->fingerprint, text);
    if (is) {
        g_free(m->identity);
        m->identity = is;
    }
    m->heard = true;
    m->heard_us = m->bench->world->now_us;
    g_free(m->text);
    m->text = text;
}

/* Until something is heard, or the board has said who it is. */
static void wait_for(struct meeting *m, uint64_t us, bool identity)
{
    uint64_t until = m->bench->world->now_us + us;
    m->heard = false;
    while (m->bench->world->now_us < until && !bench_failure(m->bench) &&
           !(identity ? m->identity != NULL : m->heard)) {
        bench_pass(m->bench, 1000);
        bench_tell_rests(m->bench);
    }
}

static void be_silent(struct meeting *m)
{
    uint64_t until = m->bench->world->now_us + LOADER_US;
    do {
        m->heard = false;
        bench_pass(m->bench, SILENT_US);
        bench_tell_rests(m->bench);
    } while (m->heard && m->bench->world->now_us < until && !bench_failure(m->bench));
}

static void meet_say(struct meeting *m, const char *text)
{
    char *frame = session_frame(m->drill->lx, m->end->of, text, envelope_wanted(m->end->of),
                                m->tags++ & (RLX_TAG_OPENS - 1u));
    bool keys = m->end->of->frame == LEX_FRAME_KEYS;
    for (const char *p = frame; keys && *p; p++) bench_say(m->end, p, 1);
    if (!keys) bench_say(m->end, frame, strlen(frame));
    g_free(frame);
}

static bool is_answered(const struct lex_link *link)
{
    return !link->one_way && link->replies != LEX_REPLIES_SILENT;
}

static void ask_identity(struct meeting *m)
{
    const struct lex_link *link = m->end->of;
    const struct drill_case about = {.word = "about"};
    bool can = m->drill->lx->built_in & RLX_BUILT_IN_ABOUT && is_answered(link) &&
               !lex_is_keyed(link) && drill_may_say(link, &about);
    be_silent(m);
    if (!m->identity && m->drill->options->board->reset) {
        device_reset(m->end->board->device, RLX_RESET_PIN);
        wait_for(m, GREETED_US, true);
    }
    if (link->frame == LEX_FRAME_LINE) { /* ends what was begun, and nobody obeys it */
        bench_type(m->end, m->word, strlen(m->word));
        bench_type(m->end, "\x01\r\n", 3);
    }
    be_silent(m);
    for (unsigned i = 0; can && !m->identity && i < ABOUT; i++) {
        meet_say(m, "about");
        wait_for(m, ASKED_US, true);
    }
}

static int by_size(const void *a, const void *b)
{
    uint64_t x = *(const uint64_t *)a, y = *(const uint64_t *)b;
    return x < y ? -1 : x > y;
}

/* Whether it is how this lexicon's firmware answers to what is no command. */
static bool is_its_error(const struct meeting *m)
{
    const struct lex_link *link = m->end->of;
    char *inside = envelope_unchecked(link, m->text);
    bool its = link->people || link->texts->len || judge_is_err(link, inside);
    g_free(inside);
    return its;
}

static void measure(struct meeting *m, struct real *real)
{
    uint64_t took[ASKED];
    unsigned n = 0;
    g_clear_pointer(&m->text, g_free);
    for (unsigned i = 0; *m->word && i < ASKED && !bench_failure(m->bench); i++) {
        uint64_t began = m->bench->world->now_us;
        meet_say(m, m->word);
        wait_for(m, ASKED_US, false);
        if (m->heard && is_its_error(m)) took[n++] = m->heard_us - began;
        m->heard = false;
        bench_pass(m->bench, QUIET_US);
        real->asked = i + 1;
        if (i == 2 && !n) break; /* it never will */
    }
    real->answered = n;
    if (!n) return;
    qsort(took, n, sizeof *took, by_size);
    real->median_us = took[n / 2];
    real->worst_us = took[n - 1];
}

/* ---- what moves ---- */

static void add_once(GPtrArray *names, char *name)
{
    if (g_ptr_array_find_with_equal_func(names, name, g_str_equal, NULL))
        g_free(name);
    else
        g_ptr_array_add(names, name);
}

/* The names of all that the command moves. */
static void add_moved(const struct lexicon *lx, const struct lex_command *command, GPtrArray *names)
{
    const struct lex_effect *effect = &command->effect;
    if (command->query) return;
    if (effect->kind == LEX_CALL) add_once(names, g_strdup_printf("%s()", effect->handler));
    if (effect->kind == LEX_STORE)
        add_once(names,
                 g_strdup(((struct lex_setting *)lx->settings->pdata[effect->output])->name));
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        bool routine = effect->kind == LEX_RUN &&
                       judge_told_by(lx, lx->routines->pdata[effect->output], i) != TOLD_NOTHING;
        if (!routine && !lex_tells(command, i)) continue;
        for (unsigned k = 0; k < out->members->len; k++)
            add_once(names, g_strdup(out->members->pdata[k]));
        if (!out->members->len) add_once(names, g_strdup(out->name));
    }
}

static bool has_permits(const struct lexicon *lx, const GPtrArray *names)
{
    for (unsigned i = 0; i < names->len; i++) {
        const struct lex_output *out = lexicon_output(lx, names->pdata[i]);
        if (out && out->permits->len) return true;
    }
    return false;
}

bool real_may_say(const struct drill *drill, const struct lex_command *command)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    const char *const *only = drill->options->only;
    bool may = true;
    add_moved(drill->lx, command, names);
    for (unsigned i = 0; only && i < names->len; i++) may &= g_strv_contains(only, names->pdata[i]);
    if (command->effect.kind == LEX_STORE || has_permits(drill->lx, names)) may = false;
    g_ptr_array_free(names, TRUE);
    return may;
}

static void unjudged(struct real *real, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void unjudged(struct real *real, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_ptr_array_add(real->unjudged, g_strdup_vprintf(format, args));
    va_end(args);
}

static void put_unjudged(const struct drill *drill, struct real *real)
{
    const struct lexicon *lx = drill->lx;
    bool stores = false;
    unjudged(real, "what the pins do%s",
             lx->built_in & RLX_BUILT_IN_STATE ? ": outputs are asked instead" : "");
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        stores |= command->effect.kind == LEX_STORE;
    }
    if (stores) unjudged(real, "settings: a drill would change what the board keeps");
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        if (out->permits->len)
            unjudged(real, "%s: whether it may move depends on inputs", out->name);
    }
    if (lx->inputs->len) unjudged(real, "inputs and their events: nobody pushes them");
    for (unsigned i = 0; i < lx->links->len; i++)
        if (i != drill->options->board_link)
            unjudged(real, "link %s: it does not lead here", drill_link(drill, i)->name);
    unjudged(real,
             "power cuts, faults of the line and what takes long: the suites life, mixed, faults");
}

/* ---- at rest ---- */

/* Whether the output is safe when the first text was said, and behind it the second (NULL: none),
 * within this time, on the lexicon's tables. */
static bool is_safe_behind(const struct drill *drill, unsigned output, const char *first,
                           const char *second, uint64_t us)
{
    struct bench_options options = {.single = true, .seed = 1};
    struct bench *bench = bench_new(drill->lx, drill->image, &options, NULL);
    struct end *end = bench->ends->pdata[drill->options->board_link];
    const char *const texts[] = {first, second};
    bench_start(bench);
    for (unsigned i = 0; i < G_N_ELEMENTS(texts) && texts[i]; i++) {
        bench_say(end, texts[i], strlen(texts[i]));
        bench_pass(bench, i ? us : AWAY_US);
    }
    bool safe = output_is_safe(bench->boards->pdata[0], drill->lx->outputs->pdata[output]);
    bench_free(bench);
    return safe;
}

/* The first valid text about the output, behind `first` (NULL: from power-up), that leaves it safe
 * within this time, or not safe; NULL: none does. */
static const struct drill_case *leading(const struct drill *drill, unsigned output,
                                        const char *first, uint64_t us, bool safe)
{
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        if (!test->valid || !test->of || !lex_tells(test->of, output)) continue;
        const char *begin = first ? first : test->text, *then = first ? test->text : NULL;
        if (is_safe_behind(drill, output, begin, then, us) == safe) return test;
    }
    return NULL;
}

/* The first text that makes it safe soon, or after a while; NULL: none does. */
static const struct drill_case *way_back(const struct drill *drill, unsigned output)
{
    const struct drill_case *away = leading(drill, output, NULL, 0, false);
    const struct drill_case *back = away ? leading(drill, output, away->text, AWAY_US, true) : NULL;
    return !away || back ? back : leading(drill, output, away->text, WHILE_US, true);
}

static struct move *add_calm(struct real *real, enum move_what what, unsigned link,
                             const char *text)
{
    struct move *move = moves_add(real->calm, what, link, text);
    move->calm = true;
    return move;
}

static void find_rest(const struct drill *drill, struct real *real)
{
    const unsigned link = drill->options->board_link;
    const struct lex_link *of = drill_link(drill, link);
    const struct drill_case halt = {.word = "halt"};
    bool halts =
        drill->lx->built_in & RLX_BUILT_IN_HALT && drill_may_say(of, &halt) && !lex_is_keyed(of);
    if (of->frame == LEX_FRAME_LINE) add_calm(real, MOVE_TYPE, link, "\r\n");
    if (halts) add_calm(real, MOVE_SAY, link, "halt");
    for (unsigned i = 0; !lex_is_keyed(of) && i < drill->lx->outputs->len; i++) {
        const struct lex_output *out = drill->lx->outputs->pdata[i];
        if (out->members->len ||
            !g_ptr_array_find_with_equal_func(real->moves, out->name, g_str_equal, NULL))
            continue;
        const struct drill_case *back = way_back(drill, i);
        if (back && !halts) add_calm(real, MOVE_SAY, link, back->text);
        if (!back && !halts)
            unjudged(real, "%s is left as it is: no command here makes it safe", out->name);
        if (!back) continue;
        struct move *probe = moves_add(real->probes, MOVE_SAY, link, back->text);
        probe->owed = OWED_ONE;
        probe->test = back;
        probe->busy = true;
    }
}

/* ---- the whole ---- */

static void find_moves(const struct drill *drill, struct real *real)
{
    for (unsigned i = 0; i < drill->lx->commands->len; i++) {
        const struct lex_command *command = drill->lx->commands->pdata[i];
        if (lex_may_say(drill_link(drill, drill->options->board_link), command) &&
            real_may_say(drill, command))
            add_moved(drill->lx, command, real->moves);
    }
}

static bool may_move(const struct drill *drill, const struct real *real, GError **error)
{
    GString *what = g_string_new(NULL);
    for (unsigned i = 0; i < real->moves->len; i++)
        g_string_append_printf(what, "%s%s", i ? ", " : "", (char *)real->moves->pdata[i]);
    bool may = !real->moves->len || drill->options->may_move(what->str);
    if (!may) g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_PERM, "nothing was said to the board");
    g_string_free(what, TRUE);
    return may;
}

/* Why nothing of it can be understood. */
static void say_silent(const struct meeting *m, GError **error)
{
    const struct lex_link *link = m->end->of;
    const char *where = m->drill->options->where;
    char *shown = m->text ? g_strescape(m->text, NULL) : NULL;
    if (m->text && strstr(m->text, m->word))
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED,
                    "what is said to %s comes back: its TX is on its own RX, or it is an echo",
                    where);
    else if (m->text)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED,
                    "what comes from %s is no answer of this lexicon: \"%.40s\"; is it another "
                    "firmware, another baud rate than %u, another format?",
                    where, shown, link->baud);
    else
        g_set_error(
            error, G_FILE_ERROR, G_FILE_ERROR_FAILED,
            "nothing is heard from %s over %s: is it the right device, at %u baud, is RX on "
            "TX, does the firmware run?",
            where, link->name, link->baud);
    g_free(shown);
}

static bool is_met(struct meeting *m, struct real *real, GError **error)
{
    const struct lex_link *link = m->end->of;
    ask_identity(m);
    const char *gone = bench_failure(m->bench);
    if (!gone && m->identity && *m->identity) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s", m->identity);
        return false;
    }
    if (m->identity)
        real->is = g_strdup_printf("%s %u, fingerprint %s", m->drill->lx->name,
                                   m->drill->lx->version, m->drill->image->fingerprint);
    if (!gone && !may_move(m->drill, real, error)) return false;
    if (!gone && is_answered(link)) {
        measure(m, real);
        if (real->asked && !real->answered && !bench_failure(m->bench)) {
            say_silent(m, error);
            return false;
        }
    }
    gone = bench_failure(m->bench);
    if (gone) g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", gone);
    return !gone;
}

struct real *real_meet(const struct drill *drill, GError **error)
{
    const struct lex_link *link = drill_link(drill, drill->options->board_link);
    if (link->layout) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "%s has frames of bytes, over which no board can be drilled yet: drill it over "
                    "a link of text, and talk to it over this one",
                    link->name);
        return NULL;
    }
    struct real *real = g_new0(struct real, 1);
    real->moves = g_ptr_array_new_with_free_func(g_free);
    real->unjudged = g_ptr_array_new_with_free_func(g_free);
    real->calm = moves_new();
    real->probes = moves_new();
    find_moves(drill, real);
    put_unjudged(drill, real);
    find_rest(drill, real);
    struct bench_options options = {
        .outside = drill->options->board, .outside_link = drill->options->board_link, .seed = 1};
    struct meeting m = {.drill = drill};
    m.bench = bench_new(drill->lx, drill->image, &options, error);
    bool met = false;
    if (m.bench) {
        m.end = m.bench->ends->pdata[drill->options->board_link];
        find_word(&m);
        bench_watch(m.bench, on_meeting, &m);
        outside_paces(m.end->board->device);
        bench_start(m.bench);
        met = is_met(&m, real, error);
    }
    bench_free(m.bench);
    g_free(m.identity);
    g_free(m.text);
    if (met) return real;
    real_free(real);
    return NULL;
}

void real_free(struct real *real)
{
    if (!real) return;
    g_free(real->is);
    g_ptr_array_free(real->moves, TRUE);
    g_ptr_array_free(real->unjudged, TRUE);
    g_array_free(real->calm, TRUE);
    g_array_free(real->probes, TRUE);
    g_free(real);
}

static void append(GArray *moves, const struct move *move)
{
    struct move *own = moves_add(moves, move->what, move->link, move->text);
    char *text = own->text;
    *own = *move;
    own->text = text;
}

/* Where the outputs can be asked, each is behind what may have moved one. */
static void ask_states(const struct drill *drill, GArray *moves, unsigned link)
{
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        bool asks = test->word && !test->of && test->why == CASE_PLAIN && test->valid &&
                    g_str_has_suffix(test->text, "?");
        char *name = asks ? g_strndup(test->text, strlen(test->text) - 1) : NULL;
        if (name && lexicon_output(drill->lx, name) &&
            drill_may_say(drill_link(drill, link), test)) {
            struct move *move = drill_say(drill, moves, link, test);
            if (move) move->busy = true;
        }
        g_free(name);
    }
}

/* Where the outputs cannot be asked. */
static void probe(const struct drill *drill, GArray *moves)
{
    const bool asked = drill->lx->built_in & RLX_BUILT_IN_STATE;
    for (unsigned i = 0; !asked && i < drill->real->probes->len; i++)
        append(moves, &g_array_index(drill->real->probes, struct move, i));
}

GArray *real_moves(const struct drill *drill, const GArray *moves)
{
    const unsigned link = drill->options->board_link;
    GArray *all = moves_new();
    unsigned spoken = 0;
    for (unsigned i = 0; i < drill->real->calm->len; i++)
        append(all, &g_array_index(drill->real->calm, struct move, i));
    for (unsigned i = 0; i < moves->len; i++) {
        const struct move *move = &g_array_index(moves, struct move, i);
        bool speaks = move->what == MOVE_SAY || move->what == MOVE_TYPE;
        const struct lex_command *of = move->test ? move->test->of : NULL;
        if ((speaks && move->link != link) || (!speaks && move->what != MOVE_WAIT)) {
            g_array_free(all, TRUE); /* somebody would have to do it */
            return NULL;
        }
        if (of && !real_may_say(drill, of)) continue;
        append(all, move);
        spoken += speaks;
        if (speaks && of && !of->query && move->what == MOVE_SAY) ask_states(drill, all, link);
        if (speaks && of && of->effect.kind == LEX_CALL && move->test->valid && !of->query)
            probe(drill, all);
    }
    if (spoken) probe(drill, all);
    if (spoken) return all;
    g_array_free(all, TRUE);
    return NULL;
}

void real_leave(const struct drill *drill)
{
    struct setup setup = {.lx = drill->lx,
                          .image = drill->image,
                          .board = drill->options->board,
                          .board_link = drill->options->board_link,
                          .world = drill->world,
                          .seed = 1};
    struct session_options silent = {.told = NULL};
    uint64_t us;
    g_free(session_run(&setup, drill->real->calm, &silent, &us));
}

static json_t *texts_json(const GPtrArray *texts)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < texts->len; i++)
        json_array_append_new(all, json_string(texts->pdata[i]));
    return all;
}

json_t *real_json(const struct drill *drill)
{
    const struct real *real = drill->real;
    json_t *board = json_pack(
        "{s:s, s:s, s:s*, s:i, s:i, s:f, s:f, s:f, s:o, s:o}", "where", drill->options->where,
        "link", drill_link(drill, drill->options->board_link)->name, "is", real->is, "asked",
        (int)real->asked, "answered", (int)real->answered, "median_ms",
        (double)real->median_us / 1e3, "worst_ms", (double)real->worst_us / 1e3, "slack_ms",
        (double)drill->options->slack_us / 1e3, "moves", texts_json(real->moves), "not_judged",
        texts_json(real->unjudged));
    return board;
}
