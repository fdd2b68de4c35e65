/* Plays a scene step by step and reports which step failed.
 * Each step waits on the virtual clock until it is met or too late.
 * It reads no file. */
#include "drill/scenes/play.h"

#include <stdlib.h>
#include <string.h>

#include "lexicon/layout/layout.h"
#include "drill/judge/seen.h"
#include "lexicon/answers.h"
#include "world/boards/trace.h"
#include "world/talk/talk_parts.h"

#define LONGEST_US UINT64_C(86400000000) /* a scene that takes longer does not end */
#define HAPPENINGS UINT64_C(50000000)
#define AROUND     14u                /* lines of the conversation that are shown */
#define STEPS_MOST UINT64_C(20000000) /* with those that only go round */
#define SETTLES_US UINT64_C(200000)   /* a real board's line is silent behind what came before */
#define STEP_US    2000u              /* between two looks at frames without a line end */

/* What came over a link, or a controller knows. */
struct heard {
    const char *who; /* the name of a link or controller, which lives as long as the bench */
    char *text;
};

struct player {
    const struct scene_file *file;
    struct scene_step const *step;
    struct bench_options options;
    const struct play_options *asked;
    struct bench *bench;
    struct world_file *world; /* as it is by now */
    struct play_result *result;
    GArray *heard;    /* struct heard, in their order, what was not compared yet */
    unsigned changes; /* of the outputs that the step names, or of all... */
    int changed;      /* ...and the last one that did; -1: it is none of the lexicon's */
    GPtrArray *lines; /* of the conversation */
    struct talk talk;
    char *buffer;
    size_t size, taken;
};

static void clear_heard(void *p)
{
    g_free(((struct heard *)p)->text);
}

/* ---- what is seen and heard ---- */

/* Whether the step is about this output, as `still 2s pump lamp` is, or about all. */
static bool is_named(const struct player *p, const struct sight *sight)
{
    const char *names = p->step && p->step->what == SCENE_STILL ? p->step->text : NULL;
    if (!names) return true;
    int output = output_of_event(p->file->lx, sight->event);
    if (output < 0) return false;
    const struct lex_output *out = p->file->lx->outputs->pdata[output];
    char **each = g_strsplit(names, " ", -1);
    bool named = g_strv_contains((const char *const *)each, out->name);
    g_strfreev(each);
    return named;
}

static void on_sight(void *user, const struct sight *sight)
{
    struct player *p = user;
    bool known = sight->kind == SIGHT_KNOWN || sight->kind == SIGHT_UNKNOWN;
    if (sight->kind == SIGHT_OUT && !*sight->board->name && is_named(p, sight)) {
        p->changes++;
        p->changed = output_of_event(p->file->lx, sight->event);
    }
    if (sight->kind != SIGHT_ANSWERED && !known) return;
    struct heard heard = {sight->name, sight->kind == SIGHT_UNKNOWN
                                           ? g_strdup("nothing")
                                           : g_strndup(sight->text, sight->count)};
    g_array_append_val(p->heard, heard);
}

/* Lines that were printed since, into the conversation. */
static void take_lines(struct player *p)
{
    fflush(p->talk.out);
    const char *line = p->buffer + p->taken;
    p->taken = p->size;
    while (*line) { /* a firmware that floods has a hundred thousand of them */
        size_t count = strcspn(line, "\n");
        if (count) g_ptr_array_add(p->lines, g_strndup(line, count));
        line += count + (line[count] != 0);
    }
    if (p->lines->len > AROUND) g_ptr_array_remove_range(p->lines, 0, p->lines->len - AROUND);
}

static void fail(struct player *p, const char *came, const char *format, ...) G_GNUC_PRINTF(3, 4);
static void fail(struct player *p, const char *came, const char *format, ...)
{
    struct play_result *r = p->result;
    if (!r->passed) return;
    va_list args;
    va_start(args, format);
    r->passed = false;
    r->place = p->step->place;
    r->expected = g_strdup_vprintf(format, args);
    r->came = g_strdup(came);
    va_end(args);
}

/* A text with '*' for anything. */
static bool fits(const char *pattern, const char *text)
{
    return g_pattern_match_simple(pattern, text);
}

/* ---- time ---- */

static bool goes_on(struct player *p)
{
    if (bench_failure(p->bench)) {
        p->result->died |= p->result->passed;
        fail(p, bench_failure(p->bench), "that the device runs");
    }
    if (p->bench->world->now_us > LONGEST_US) fail(p, "it goes on", "an end within 24 h");
    if (p->bench->world->count > HAPPENINGS)
        fail(p, "it goes on", "less than 50 million happenings");
    return p->result->passed;
}

/* Lets time go by up to this, as long as nothing is so; false: it did not become so. */
static bool until(struct player *p, uint64_t at_us, bool (*is_so)(struct player *p))
{
    struct world *world = p->bench->world;
    while (goes_on(p)) {
        bench_tell_rests(p->bench);
        if (is_so && is_so(p)) return true;
        trace_look(p->asked->trace);
        if (world->now_us >= at_us) return false;
        world_step(world, MIN(at_us, world->now_us + STEP_US));
    }
    return false;
}

/* ---- steps ---- */

/* Key by key; a line behind the lead with its end. */
static void say_keys(struct end *end, const char *text, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        if (end->of->lead && text[i] == end->of->lead) {
            bench_say_line(end, text + i, count - i);
            return;
        }
        bench_say(end, text + i, 1);
    }
}

static void say(struct player *p)
{
    const struct scene_step *step = p->step;
    struct speaker *speaker = bench_speaker(p->bench, step->who);
    struct end *end = bench_end(p->bench, step->who);
    size_t count = strlen(step->text);
    bool said = true;
    if (speaker)
        said = speaker_say(speaker, step->text);
    else if (end->of->frame == LEX_FRAME_KEYS)
        say_keys(end, step->text, count);
    else
        said = bench_say(end, step->text, count);
    if (!said) fail(p, "it is too long, or too much waits", "that \"%s\" can be sent", step->text);
}

/* Whether the next line of whom the step names is there; what does not fit fails. */
static bool is_heard(struct player *p)
{
    const struct scene_step *step = p->step;
    const struct end *end = bench_end(p->bench, step->who);
    for (unsigned i = 0; i < p->heard->len; i++) {
        struct heard *heard = &g_array_index(p->heard, struct heard, i);
        if (strcmp(heard->who, step->who) != 0) continue;
        bool ok = fits(step->text, heard->text),
             over = !ok && bench_is_unasked(end ? end->of : NULL, heard->text);
        if (!ok && !over) fail(p, heard->text, "\"%s\" from %s", step->text, step->who);
        g_array_remove_index(p->heard, i--);
        if (!over) return true;
    }
    return false;
}

/* The latest time for what the step awaits. */
static uint64_t latest(const struct player *p)
{
    uint64_t now = p->bench->world->now_us;
    uint64_t part = p->asked->late_part ? now / p->asked->late_part : 0;
    return now + p->step->us + p->asked->late_us + part;
}

static void hear(struct player *p)
{
    uint64_t at_us = latest(p);
    if (!until(p, at_us, is_heard))
        fail(p, "nothing", "\"%s\" from %s within %g s", p->step->text, p->step->who,
             (double)p->step->us / 1e6);
}

/* Of whom the step names, or of anybody. */
static bool breaks_silence(struct player *p)
{
    for (unsigned i = 0; i < p->heard->len; i++) {
        const struct heard *heard = &g_array_index(p->heard, struct heard, i);
        if (p->step->who && strcmp(p->step->who, heard->who) != 0) continue;
        fail(p, heard->text, "silence%s%s for %g s", p->step->who ? " from " : "",
             p->step->who ? p->step->who : "", (double)p->step->us / 1e6);
        return true;
    }
    return false;
}

/* What was heard so far is not meant. */
static void silence(struct player *p)
{
    for (unsigned i = p->heard->len; i--;) {
        const struct heard *heard = &g_array_index(p->heard, struct heard, i);
        if (!p->step->who || !strcmp(p->step->who, heard->who)) g_array_remove_index(p->heard, i);
    }
    until(p, p->bench->world->now_us + p->step->us, breaks_silence);
}

/* The board that the step names, "deck.called", or the one that is talked to; what it names there.
 */
static struct board *board_of(const struct player *p, const char **name)
{
    const char *point = strchr(p->step->who, '.');
    *name = point ? point + 1 : p->step->who;
    for (unsigned i = 1; point && i < p->bench->boards->len; i++) {
        struct board *board = p->bench->boards->pdata[i];
        size_t n = strlen(board->name);
        if (p->step->who + n == point && !strncmp(board->name, p->step->who, n)) return board;
    }
    return p->bench->boards->pdata[0];
}

/* How the output is that the step names. Owned by the caller. */
static char *state_now(const struct player *p)
{
    const char *name;
    const struct board *board = board_of(p, &name);
    return output_state(board, lexicon_output(board->lx, name));
}

static bool is_seen(struct player *p)
{
    char *state = state_now(p);
    bool off = !strcmp(state, "0%") || !strcmp(state, "0us") || !strcmp(state, "0Hz");
    bool seen = !strcmp(state, p->step->text) || (off && !strcmp(p->step->text, "off")) ||
                (g_str_has_suffix(state, "%") && !off && !strcmp(p->step->text, "on"));
    g_free(state);
    return seen;
}

static bool is_not_seen(struct player *p)
{
    return !is_seen(p);
}

static void see(struct player *p)
{
    if (!until(p, latest(p), is_seen)) {
        char *state = state_now(p);
        fail(p, state, "%s %s within %g s", p->step->who, p->step->text, (double)p->step->us / 1e6);
        g_free(state);
        return;
    }
    const uint64_t since_us = p->bench->world->now_us;
    if (!p->step->lasts_us || !until(p, since_us + p->step->lasts_us, is_not_seen)) return;
    char *state = state_now(p),
         *came = g_strdup_printf("%s after %g s", state,
                                 (double)(p->bench->world->now_us - since_us) / 1e6);
    fail(p, came, "%s %s for %g s", p->step->who, p->step->text, (double)p->step->lasts_us / 1e6);
    g_free(came);
    g_free(state);
}

static void still(struct player *p)
{
    unsigned before = p->changes;
    uint64_t at_us = p->bench->world->now_us + p->step->us;
    while (goes_on(p) && p->changes == before && p->bench->world->now_us < at_us) {
        trace_look(p->asked->trace);
        world_step(p->bench->world, at_us);
    }
    if (p->changes == before) return;
    const struct lex_output *out = p->changed < 0 ? NULL : p->file->lx->outputs->pdata[p->changed];
    char *came = g_strdup_printf("%s changed", out ? out->name : "an output");
    fail(p, came, "that %s for %g s",
         p->step->text ? "none of these outputs changes" : "no output changes",
         (double)p->step->us / 1e6);
    g_free(came);
}

static void push(struct player *p)
{
    const char *name;
    struct board *board = board_of(p, &name);
    bench_push(board, lexicon_input(board->lx, name), !strcmp(p->step->text, "on"));
}

static void now(struct player *p)
{
    struct world_file *more = world_file_more(p->world, p->step->text, p->file->lx);
    bench_now(p->bench, more);
    if (p->world != p->file->world) world_file_free(p->world);
    p->world = more;
}

/* What a bench does, and nobody on a real board; NULL: it is said or heard over its link. */
static const char *bench_does(const struct player *p, const struct scene_step *step)
{
    const struct lex_link *link = p->file->lx->links->pdata[p->asked->board_link];
    switch (step->what) {
    case SCENE_PUSH: return "an input is pushed";
    case SCENE_PRESS:
    case SCENE_RELEASE:
    case SCENE_SLIDE: return "a handset is used";
    case SCENE_BREAK: return "a load breaks";
    case SCENE_NOW:
        return p->asked->board->reset && !strcmp(step->text, "reset pin")
                   ? NULL
                   : "the bench does something";
    case SCENE_FROM: return "somebody writes a text message";
    case SCENE_SAY:
    case SCENE_REPLAY:
    case SCENE_TYPE:
    case SCENE_HEAR: return strcmp(step->who, link->name) != 0 ? "it is over another link" : NULL;
    case SCENE_SILENCE:
    case SCENE_SEE:
    case SCENE_STILL:
    case SCENE_WAIT:
    case SCENE_REPEAT:
    case SCENE_END: break;
    }
    return NULL;
}

/* Why the scene cannot be played on a real board; NULL: it can. Owned by the caller. */
static char *why_not(struct player *p, const struct scene *scene)
{
    for (unsigned i = 0; i < scene->steps->len; i++) {
        const struct scene_step *step = &g_array_index(scene->steps, struct scene_step, i);
        const char *does = bench_does(p, step);
        if (does) return g_strdup_printf("line %u: %s", step->place.line, does);
    }
    return NULL;
}

static void do_step(struct player *p)
{
    const struct scene_step *step = p->step;
    struct board *board = p->bench->boards->pdata[0];
    bool seen = step->what == SCENE_SEE || step->what == SCENE_STILL;
    if (seen && p->asked->board) {
        p->result->unseen++;
        return;
    }
    switch (step->what) {
    case SCENE_SAY: say(p); break;
    case SCENE_REPLAY:
        if (!speaker_replay(bench_speaker(p->bench, step->who), step->text))
            fail(p, "none", "a packet like \"%s\" that %s heard", step->text, step->who);
        break;
    case SCENE_FROM: {
        struct end *end = bench_end(p->bench, step->who);
        if (!end || !end->modem || !bench_is_number(step->text))
            fail(p, step->text, "a link for text messages, and a number");
        else
            bench_write_as(end, step->text);
        break;
    }
    case SCENE_TYPE:
        bench_type(bench_end(p->bench, step->who), step->text, strlen(step->text));
        break;
    case SCENE_HEAR: hear(p); break;
    case SCENE_SILENCE: silence(p); break;
    case SCENE_SEE: see(p); break;
    case SCENE_STILL: still(p); break;
    case SCENE_PUSH: push(p); break;
    case SCENE_PRESS: bench_press(p->bench, step->who, true); break;
    case SCENE_RELEASE: bench_press(p->bench, step->who, false); break;
    case SCENE_SLIDE:
        if (!bench_slide(p->bench, step->who, step->text))
            fail(p, step->text, "a value that %s has", step->who);
        break;
    case SCENE_BREAK:
        if (!board->loads || !loads_break(board->loads, step->text))
            fail(p, "no load breaks so", "that \"%s\" happens", step->text);
        break;
    case SCENE_NOW: now(p); break;
    case SCENE_WAIT: until(p, p->bench->world->now_us + step->us, NULL); break;
    case SCENE_REPEAT:
    case SCENE_END: break;
    }
}

/* For a page that shows it: which line of the scene is done, or has failed. */
static void trace_line(const struct player *p, const char *what, const struct play_result *failed)
{
    if (!p->asked->states) return;
    json_t *more = json_pack("{s:i}", "line", (int)(failed ? failed->place : p->step->place).line);
    if (failed)
        json_object_update_new(
            more, json_pack("{s:s, s:s}", "expected", failed->expected, "came", failed->came));
    trace_put(p->asked->trace, p->bench->world->now_us, what, more);
}

static void do_steps(struct player *p, const struct scene *scene)
{
    unsigned *left = g_new0(unsigned, scene->steps->len + 1);
    uint64_t gone = 0;
    for (unsigned i = 0; i < scene->steps->len && goes_on(p); i++) {
        p->step = &g_array_index(scene->steps, struct scene_step, i);
        if (++gone > STEPS_MOST) fail(p, "it goes on", "less than 20 million steps");
        if (p->step->what == SCENE_REPEAT) {
            left[i] = p->step->times;
        } else if (p->step->what == SCENE_END) {
            if (--left[p->step->other]) i = p->step->other;
        } else {
            if (p->asked->stepped)
                p->asked->stepped(p->asked->watcher_user, p->result->steps,
                                  p->bench->world->now_us);
            trace_line(p, "step", NULL);
            do_step(p);
            p->result->steps++;
        }
        take_lines(p);
    }
    g_free(left);
}

/* ---- one scene ---- */

/* Whether the board has greeted; one of another lexicon fails. */
static bool has_greeted(struct player *p)
{
    bool greeted = false;
    for (unsigned i = 0; i < p->heard->len; i++) {
        const char *text = g_array_index(p->heard, struct heard, i).text;
        char *is = answer_identity(p->file->lx, p->asked->fingerprint, text);
        if (is && *is) fail(p, is, "a board of this lexicon");
        greeted |= is != NULL;
        g_free(is);
    }
    return greeted;
}

/* A real board starts anew where somebody can make it; otherwise it halts, where it knows that. */
static void begin_board(struct player *p)
{
    struct board *board = p->bench->boards->pdata[0];
    struct end *end = board->ends->pdata[p->asked->board_link];
    outside_paces(board->device);
    bench_pass(p->bench, SETTLES_US);
    if (p->asked->board->reset) {
        device_reset(board->device, RLX_RESET_PIN);
        until(p, p->bench->world->now_us + PLAY_START_US, has_greeted);
    } else if (p->file->lx->built_in & RLX_BUILT_IN_HALT && !lex_is_keyed(end->of) &&
               (!end->of->layout || layout_says(end->of, "halt"))) {
        bench_say(end, "halt", 4);
    }
    bench_pass(p->bench, SETTLES_US);
    has_greeted(p);
}

static void begin(struct player *p, const struct play_options *options)
{
    p->talk.bench = p->bench;
    p->talk.out = open_memstream(&p->buffer, &p->size);
    p->talk.ramp = (struct ramp){.step = {.kind = SIM_SLEEP}};
    bench_watch(p->bench, on_sight, p);
    bench_watch(p->bench, talk_print, &p->talk);
    if (options->watcher) bench_watch(p->bench, options->watcher, options->watcher_user);
    if (options->trace) bench_watch(p->bench, trace_sight, options->trace);
    if (options->states) trace_states(options->trace, p->bench);
    bench_start(p->bench);
    if (options->board)
        begin_board(p);
    else
        bench_pass(p->bench, PLAY_START_US);
    g_array_set_size(p->heard, 0);
    take_lines(p);
}

static void end(struct player *p)
{
    trace_last_look(p->asked->trace);
    if (!p->result->passed) trace_line(p, "failed", p->result);
    talk_tell_ramp(&p->talk);
    take_lines(p);
    fclose(p->talk.out);
    free(p->buffer);
    p->result->took_s = (double)p->bench->world->now_us / 1e6;
}

struct play_result *play_scene(const struct scene_file *file, const struct scene *scene,
                               const struct play_options *options)
{
    static const struct talk_options silent;
    struct scene_step first = {.place = scene->place};
    struct player p = {.file = file, .step = &first, .world = file->world, .asked = options};
    GError *error = NULL;
    uint32_t world_seed = file->world->seed;
    uint32_t seed = options->seed ? options->seed : file->seed ? file->seed : world_seed;
    p.result = g_new0(struct play_result, 1);
    p.result->passed = true;
    p.result->seed = file->world->seed = seed;
    p.heard = g_array_new(FALSE, TRUE, sizeof(struct heard));
    g_array_set_clear_func(p.heard, clear_heard);
    p.lines = g_ptr_array_new_with_free_func(g_free);
    p.talk.options = &silent;
    p.options =
        (struct bench_options){.firmware = options->firmware ? options->firmware : file->firmware,
                               .world = file->world,
                               .loads = file->loads && !options->board,
                               .outside = options->board,
                               .outside_link = options->board_link,
                               .clock_ppm = options->clock_ppm,
                               .idle = options->idle,
                               .seed = seed};
    if (options->board) p.result->left_out = why_not(&p, scene);
    if (!p.result->left_out) p.bench = bench_new(file->lx, file->image, &p.options, &error);
    if (p.bench) {
        begin(&p, options);
        do_steps(&p, scene);
        end(&p);
    } else if (!p.result->left_out) {
        fail(&p, error->message, "that the device starts");
        g_clear_error(&error);
    }
    bench_free(p.bench);
    if (p.world != file->world) world_file_free(p.world);
    file->world->seed = world_seed;
    g_array_free(p.heard, TRUE);
    p.result->around = p.lines;
    return p.result;
}

void play_result_free(struct play_result *r)
{
    if (!r) return;
    g_ptr_array_free(r->around, TRUE);
    g_free(r->left_out);
    g_free(r->expected);
    g_free(r->came);
    g_free(r);
}
