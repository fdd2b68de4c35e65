/* The suite about what a device sends unasked, keeps, and does step by step.
 * Scenes for events, settings through power cuts, and routines.
 * Commands themselves are in words.c. */
#include <string.h>

#include "lexicon/answers.h"

#include "drill/judge/judge.h"
#include "drill/suites/life.h"
#include "rlx/drive.h"
#include "rlx/image.h"

/* ---- events ---- */

bool life_is_told(const struct lex_event *event, const struct lex_link *link)
{
    for (unsigned i = 0; i < event->to->len; i++)
        if (!strcmp(event->to->pdata[i], link->name)) return true;
    return !event->to->len;
}

static void hear_event(struct life *life, unsigned link, const struct lex_event *event,
                       const char *word)
{
    char *text = g_strdup_printf("*ev %s%s%s%s*", event->confirmed ? "#* " : "", event->name,
                                 word ? " " : "", word ? word : "");
    life_hear(life, link, text);
    g_free(text);
}

/* It is heard, and acknowledged where it wants that: the next one waits for it. */
static void get_event(struct life *life, unsigned link, const struct lex_event *event,
                      const char *word)
{
    hear_event(life, link, event, word);
    if (!event->confirmed) return;
    life_say(life, link, "got");
    life_hear(life, link, "*ok got*");
}

static bool has_word(const struct lex_event *event, const char *word)
{
    return event->what &&
           g_ptr_array_find_with_equal_func(event->what->words, word, g_str_equal, NULL);
}

/* The word for when its input goes on (0) or off (1) or is held (2); NULL: there is none. */
static const char *word_of(const struct lex_event *event, unsigned when)
{
    int word = lex_input_word(event, when);
    return word < 0 ? NULL : event->what->words->pdata[word];
}

static void event(struct life *life, unsigned link, const struct lex_event *e,
                  const struct lex_input *in)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const char *any = life_any(life->drill, link);
    uint32_t rest = in->debounce + e->every + 200;
    const char *on = word_of(e, 0), *off = word_of(e, 1), *held = word_of(e, 2);
    life_put(life, "push %s off\nwait %ums", in->name, rest);
    int32_t values[15];
    unsigned given;
    const struct lex_command *command =
        any ? lex_command_taking(life->drill->lx, any, values, &given) : NULL;
    const struct lex_output *told =
        command ? lex_effect_output(life->drill->lx, &command->effect) : NULL;
    if (any && !(told && lex_is_permitted(life->drill->lx, told))) life_obeyed(life, link, any);
    life_put(life, "push %s on", in->name);
    if (in->debounce > 3) life_put(life, "wait %ums\npush %s off", in->debounce / 3, in->name);
    if (in->debounce > 3) life_put(life, "wait %ums\npush %s on", in->debounce / 3, in->name);
    if (on || !e->what) get_event(life, link, e, on);
    if (held && in->held) {
        life_put(life, "wait %ums", in->held);
        get_event(life, link, e, held);
    }
    life_put(life, "wait %ums\npush %s off", rest, in->name);
    if (off) get_event(life, link, e, off);
    life->link = link;
    life_play(life, "events", "%s sends %s over %s", in->name, e->name, of->name);
}

/* What is kept comes again after a power cut, until somebody says got; then never more. */
static void kept(struct life *life, unsigned link, const struct lex_event *e,
                 const struct lex_input *in)
{
    const char *on = word_of(e, 0), *name = drill_link(life->drill, link)->name;
    uint32_t rest = in->debounce + e->every + 200;
    if (e->what && !on) return;
    life_put(life, "push %s off\nwait %ums\npush %s on", in->name, rest, in->name);
    hear_event(life, link, e, on);
    life_put(life, "wait 500ms\nnow reset power");
    hear_event(life, link, e, on);
    life_say(life, link, "got");
    life_hear(life, link, "*ok got*");
    life_put(life, "wait 500ms\nnow reset brownout\nwait 1s\nsilence %s 3s", name);
    life->link = link;
    life_play(life, "kept through a power cut", "%s is kept until %s hears it", e->name, name);
}

/* The state that an output has at once when an input acts on it: "on", "40%". NULL: it is not
 * fixed. Owned by the caller. */
static char *acted(const struct life *life, const struct lex_command *act,
                   const struct lex_output **out)
{
    const struct lex_effect *effect = &act->effect;
    bool level = effect->kind == LEX_LEVEL;
    *out = lex_effect_output(life->drill->lx, effect);
    bool plain = *out && lex_is_plain(*out) && !(*out)->members->len && !(*out)->min_on &&
                 !(*out)->min_off && !(*out)->interlock && !(*out)->fade;
    if (!plain || drill_by(life->drill, *out)) return NULL;
    if (level && !effect->which) return g_strdup_printf("%d%%", effect->argument);
    if (effect->kind != LEX_SWITCH || (effect->fixed != RLX_ON && effect->fixed != RLX_OFF))
        return NULL;
    return g_strdup(effect->fixed == RLX_ON ? "on" : "off");
}

/* What each input does when it goes on, is held, and goes off. */
void told_inputs(struct life *life)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned i = 0; i < LEX_WHENS * lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i / LEX_WHENS];
        const struct lex_command *act = in->acts[i % LEX_WHENS];
        const struct lex_output *out;
        char *state = act && !lex_input_link(lx, in) ? acted(life, act, &out) : NULL;
        if (!state) continue;
        life_put(life, "push %s off\nwait %ums\npush %s on", in->name, in->debounce + 50, in->name);
        if (i % LEX_WHENS == LEX_WHEN_HELD) life_put(life, "wait %ums", in->debounce + in->held);
        if (i % LEX_WHENS == LEX_WHEN_OFF)
            life_put(life, "wait %ums\npush %s off", in->debounce + 50, in->name);
        life_put(life, "see %s %s within %ums", out->name, state, in->debounce + 20);
        life_play(life, "inputs that act", "%s acts on %s", in->name, out->name);
        g_free(state);
    }
}

/* Faster than it can be sent: an event that comes again before it was sent is sent once. */
static void many_events(struct life *life, const struct lex_input *in)
{
    const struct lexicon *lx = life->drill->lx;
    static const uint64_t pauses_ms[] = {1, 2, 5, 30, 200, 2000, 20000};
    GArray *moves = moves_new();
    for (unsigned i = 0; i < 4 * G_N_ELEMENTS(pauses_ms); i++) {
        moves_add(moves, MOVE_PUSH, 0, in->name)->us = i % 2;
        moves_wait(moves, 1000 * (in->debounce + pauses_ms[i / 4]));
    }
    for (unsigned link = 0; link < lx->links->len; link++) {
        const char *any = life_any(life->drill, link);
        if (!any || drill_why_not(life->drill, link) || !life_is_spoken(life->drill, link))
            continue;
        /* beside an answer, a little later each time */
        for (unsigned i = 0; i < 16 && drill_link(life->drill, link)->medium != LEX_SMS; i++) {
            moves_add(moves, MOVE_PUSH, 0, in->name)->us = i % 2;
            moves_wait(moves, 1000 * (MAX(in->debounce, 10u) - 10u + i));
            moves_add(moves, MOVE_SAY, link, any)->owed = OWED_ANY;
            moves_wait(moves, 1000000);
        }
        moves_add(moves, MOVE_SAY, link, any)->owed = OWED_ANY;
        for (unsigned i = 0; i < 4; i++) {
            moves_add(moves, MOVE_PUSH, 0, in->name)->us = i % 2;
            moves_wait(moves, 1000 * (in->debounce + 1));
        }
    }
    moves_wait(moves, 180000000);
    struct conversation c = {
        .job = life->job, .row = "events", .moves = moves, .seed = life->drill->options->seed};
    yield_conversation(life->yield, life->drill, &c);
    g_array_free(moves, TRUE);
}

/* An output that is commanded on and off tells each change once. */
static void event_of_output(struct life *life, unsigned link, const struct lex_event *e,
                            const struct lex_output *out)
{
    const struct lexicon *lx = life->drill->lx;
    const char *on = word_of(e, 0), *off = word_of(e, 1);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_link *of = drill_link(life->drill, link);
        char *state = NULL;
        bool its = lex_effect_output(lx, &command->effect) == out;
        const char *text = its ? life_full_text(life, link, command, &state) : NULL;
        g_free(state);
        if (!text || out->safe || drill_by(life->drill, out) || out->expires || command->expires ||
            !(lx->built_in & RLX_BUILT_IN_HALT) || !life_permit(life, out))
            continue;
        life_put(life, "wait %ums", out->min_off + out->min_on + e->every + 100);
        life_obeyed(life, link, text);
        if (on || !e->what) get_event(life, link, e, on);
        life_obeyed(life, link, text);
        life_put(life, "silence %s 2s\nwait %ums", of->name, out->min_on + e->every + 1);
        life_obeyed(life, link, "halt");
        if (off) get_event(life, link, e, off);
        life->link = link;
        life_play(life, "events", "%s sends %s over %s", out->name, e->name, of->name);
        return;
    }
}

void told_events(struct life *life)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *e = lx->events->pdata[i];
        const struct lex_input *in = e->input ? lexicon_input(lx, e->input) : NULL;
        int output = e->input ? lexicon_output_index(lx, e->input) : -1;
        const struct lex_output *out = output < 0 ? NULL : lx->outputs->pdata[output];
        if (out && !lex_kind_of(out)->switches) out = NULL;
        if (in) many_events(life, in);
        for (unsigned link = 0; (in || out) && link < lx->links->len; link++) {
            const struct lex_link *of = drill_link(life->drill, link);
            if (life_is_spoken(life->drill, link) && life_is_told(e, of) && of->medium != LEX_SMS &&
                !of->texts->len && of->state_pin == LEX_NO_PIN && !e->per_day)
                in ? event(life, link, e, in) : event_of_output(life, link, e, out);
            if (in && e->kept && e->to->len == 1 && life_is_spoken(life->drill, link) &&
                life_is_told(e, of) && !of->texts->len && of->state_pin == LEX_NO_PIN &&
                of->medium != LEX_SMS && !e->per_day)
                kept(life, link, e, in);
        }
    }
}

/* ---- settings ---- */

#define CUTS  24u
#define OFTEN 60u

/* So long after a change the memory has it, whatever was changed before. */
static unsigned saved_within(const struct lexicon *lx, const struct lex_setting *s)
{
    return 500 + s->saved_every + lex_nv_between(lx);
}

static void ask_setting(struct life *life, unsigned link, const char *name, const char *text,
                        const char *behind)
{
    char *ask = g_strdup_printf("%s?", name), *told = g_strdup_printf("*ok %s%s", text, behind);
    life_say(life, link, ask);
    life_hear(life, link, told);
    g_free(ask), g_free(told);
}

static void setting(struct life *life, unsigned link, const struct lex_setting *s,
                    const struct drill_case *test)
{
    const struct lexicon *lx = life->drill->lx;
    bool asks = lx->built_in & RLX_BUILT_IN_STATE;
    life_obeyed(life, link, test->text);
    life_put(life, "wait 500ms\nnow reset power\nwait 1s");
    if (asks) ask_setting(life, link, s->name, test->text, "*");
    life_obeyed(life, link, test->text); /* which is so already */
    life_put(life, "wait 500ms\nnow reset brownout\nwait 1s");
    if (asks) ask_setting(life, link, s->name, test->text, "*");
    life_play(life, "kept through a power cut", "%s is kept through a power cut: %s", s->name,
              try_whys[test->why]);
}

/* The memory takes a change at once, and the next one when its time is over: not before a power cut
 * that comes earlier. */
static void rests(struct life *life, const struct lex_setting *s, const GPtrArray *values)
{
    unsigned link = life->job->link;
    const struct lexicon *lx = life->drill->lx;
    if (!s->saved_every || lexicon_is_code(lx, s) || values->len < 2 ||
        !(lx->built_in & RLX_BUILT_IN_STATE))
        return;
    const char *first = ((struct drill_case *)values->pdata[0])->text,
               *last = ((struct drill_case *)values->pdata[values->len - 1])->text;
    life_obeyed(life, link, last); /* it may be so already */
    life_obeyed(life, link, first);
    life_put(life, "wait %ums", 2 * saved_within(lx, s));
    life_obeyed(life, link, last);
    life_put(life, "wait 500ms");
    ask_setting(life, link, s->name, last, "");
    life_obeyed(life, link, first);
    life_put(life, "wait 500ms");
    ask_setting(life, link, s->name, first, " unsaved*");
    life_put(life, "now reset power\nwait 1s");
    ask_setting(life, link, s->name, last, "");
    life_obeyed(life, link, first);
    life_put(life, "wait %ums", saved_within(lx, s));
    ask_setting(life, link, s->name, first, "");
    life_play(life, "kept through a power cut", "%s is saved at most every %u ms", s->name,
              s->saved_every);
}

/* Stored so often that the areas of the memory take turns more than once, and then the power is
 * cut. */
static void often(struct life *life, const struct lex_setting *s, const GPtrArray *values)
{
    unsigned link = life->job->link;
    const char *first = ((struct drill_case *)values->pdata[0])->text,
               *last = ((struct drill_case *)values->pdata[values->len - 1])->text;
    if (values->len < 2 || !(life->drill->lx->built_in & RLX_BUILT_IN_STATE)) return;
    for (unsigned i = 0; i < 3; i++) {
        life_put(life, "repeat %u", OFTEN);
        life_obeyed(life, link, first);
        life_obeyed(life, link, last);
        life_put(life, "end\nwait %ums\nnow reset power\nwait 1s",
                 saved_within(life->drill->lx, s));
        bool code = lexicon_is_code(life->drill->lx, s); /* which is never sent */
        char *hidden = g_strdup_printf("%s hidden", s->name);
        ask_setting(life, link, s->name, code ? hidden : last, "*");
        g_free(hidden);
    }
    life_play(life, "kept through a power cut", "%s is kept, however often it was stored", s->name);
}

/* Each value is stored again and again, with the power cut a little later each time: what is kept
 * is the old value or the new one, the areas take turns, and in the end it is as commanded. */
static void cuts(struct life *life, const struct lex_setting *s, const GPtrArray *values)
{
    const struct drill *drill = life->drill;
    unsigned link = life->job->link;
    char *asked = g_strdup_printf("%s?", s->name);
    GArray *moves = moves_new();
    for (unsigned i = 0; i < CUTS; i++) {
        const struct drill_case *test = values->pdata[i % values->len];
        drill_busy(drill, moves, link);
        struct move *move = drill_say(drill, moves, link, test);
        if (move) move->busy = true;
        if (drill->lx->built_in & RLX_BUILT_IN_STATE)
            moves_add(moves, MOVE_SAY, link, asked)->owed = OWED_ONE;
        if (i % 2 == 0) {
            moves_add(moves, MOVE_SAY, link,
                      ((struct drill_case *)values->pdata[(i + 1) % values->len])->text);
            moves_wait(moves, 1000 + 700 * i);
        }
        moves_add(moves, MOVE_NOW, link, i % 4 ? "reset power" : "reset brownout");
        moves_wait(moves, 1000000);
        if (drill->lx->built_in & RLX_BUILT_IN_STATE)
            moves_add(moves, MOVE_SAY, link, asked)->owed = OWED_ONE;
    }
    struct conversation c = {.job = life->job,
                             .row = "kept through a power cut",
                             .moves = moves,
                             .seed = drill->options->seed};
    yield_conversation(life->yield, drill, &c);
    g_array_free(moves, TRUE);
    g_free(asked);
}

/* The command's plain text with another value in one slot; NULL: its words are not its pieces. */
static char *with_value(const struct life *life, unsigned link, const struct lex_command *command,
                        unsigned at, int32_t value)
{
    const struct lex_element *e = command->elements->pdata[at];
    const char *plain = life_text(life->drill, link, command, CASE_PLAIN);
    char **words = g_strsplit(plain ? plain : "", " ", -1), *text = NULL;
    if (g_strv_length(words) == command->elements->len) {
        char *number = lex_value_text(e, value);
        g_free(words[at]);
        words[at] = g_strconcat(e->prefix ? e->prefix : "", number, e->glued ? e->unit : "", NULL);
        text = g_strjoinv(" ", words);
        g_free(number);
    }
    g_strfreev(words);
    return text;
}

/* Sets one end of a slot's range to the middle: what is there is taken, what is beyond it is not;
 * also where one line does both. */
static void bound(struct life *life, unsigned link, const struct lex_command *command, unsigned at,
                  bool high)
{
    const struct lexicon *lx = life->drill->lx;
    const struct lex_element *e = command->elements->pdata[at];
    const struct lex_setting *s = lexicon_setting(lx, high ? e->upto : e->from);
    int32_t least, most, own_least, own_most, low, top;
    lex_bounds_now(lx, e, &least, &most);
    int32_t value = (int32_t)(((int64_t)least + most) / 2), beyond = high ? value + 1 : value - 1;
    low = e->low, top = e->high;
    lex_bounds_now(lx, s->slot, &own_least, &own_most);
    if (least > most || value < own_least || value > own_most || beyond < low || beyond > top)
        return;
    char *number = lex_value_text(s->slot, value),
         *store = g_strdup_printf("%s %s%s%s", s->name, s->slot->prefix ? s->slot->prefix : "",
                                  number, s->slot->glued ? s->slot->unit : "");
    char *text = with_value(life, link, command, at, value),
         *refused = with_value(life, link, command, at, beyond);
    if (text && refused) {
        char *both = g_strdup_printf("%s; %s", store, refused);
        if (lx->built_in & RLX_BUILT_IN_BATCH &&
            strlen(both) <= session_most(lx, drill_link(life->drill, link))) {
            life_say(life, link, both);
            life_hear(life, link, "err*");
        }
        life_obeyed(life, link, store);
        life_say(life, link, refused);
        life_hear(life, link, "err*");
        life_obeyed(life, link, text);
        life_play(life, "a setting is a bound", "%s goes %s %s, and no further",
                  command->implied ? command->implied : store, high ? "up to" : "from", number);
        g_free(both);
    }
    g_free(number), g_free(store), g_free(text), g_free(refused);
}

static void told_bounds(struct life *life)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_output *out = lex_effect_output(lx, &command->effect);
        bool free = command->effect.kind != LEX_CALL && !command->query &&
                    !(out && (lex_is_permitted(lx, out) || drill_by(life->drill, out)));
        for (unsigned k = 0; free && k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            if (e->from) bound(life, life->job->link, command, k, false);
            if (e->upto) bound(life, life->job->link, command, k, true);
        }
    }
}

void told_settings(struct life *life)
{
    told_bounds(life);
    const struct drill *drill = life->drill;
    unsigned link = life->job->link;
    GPtrArray **values = g_new0(GPtrArray *, drill->lx->settings->len + 1);
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        bool value = test->why == CASE_PLAIN || test->why == CASE_HIGHEST ||
                     test->why == CASE_CHOICE || test->why == CASE_SHORTEST ||
                     test->why == CASE_LONGEST || test->why == CASE_MIDDLE;
        const struct lex_setting *s = drill_stored(drill->lx, test);
        if (!s || !value || !test->valid || lex_is_guarded(test->of)) continue;
        if (lex_number_text(drill->lx, test->text)) continue; /* its answer is the text's */
        bool fits = strlen(test->text) <= session_most(drill->lx, drill_link(drill, link));
        if (!fits || !drill_may_say(drill_link(drill, link), test)) continue;
        if (!lex_is_lock(drill->lx, s->name)) setting(life, link, s, test);
        if (!values[test->of->effect.output]) values[test->of->effect.output] = g_ptr_array_new();
        g_ptr_array_add(values[test->of->effect.output], (void *)test);
    }
    for (unsigned i = 0; i < drill->lx->settings->len; i++) {
        if (!values[i]) continue;
        often(life, drill->lx->settings->pdata[i], values[i]);
        cuts(life, drill->lx->settings->pdata[i], values[i]);
        rests(life, drill->lx->settings->pdata[i], values[i]);
        g_ptr_array_free(values[i], TRUE);
    }
    g_free(values);
}

/* ---- routines ---- */

static const struct lex_event *event_of(const struct lexicon *lx, const char *source)
{
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *e = lx->events->pdata[i];
        if (!g_strcmp0(e->input, source)) return e;
    }
    return NULL;
}

static void routine(struct life *life, unsigned link, const struct lex_routine *r, const char *text)
{
    const struct lexicon *lx = life->drill->lx;
    const struct lex_event *e = event_of(lx, r->name);
    bool asked = lx->built_in & RLX_BUILT_IN_STATE;
    bool heard = e && life_is_told(e, drill_link(life->drill, link)) && !e->every;
    uint64_t ms = lex_routine_ms(r);
    char *ask = g_strdup_printf("%s?", r->name), *off = g_strdup_printf("*ok %s off*", r->name);
    char *stop = g_strdup_printf("%s stop", r->name),
         *on = g_strdup_printf("*ok %s step*", r->name);
    const bool ends = ms <= 3600000; /* else it is not waited for */
    life_obeyed(life, link, text);
    if (asked && ms > 500) {
        life_say(life, link, ask);
        life_hear(life, link, on);
    }
    if (ms && ends) {
        life_put(life, "wait %" G_GUINT64_FORMAT "ms", ms + 200);
        if (heard && has_word(e, "done")) {
            char *done = g_strdup_printf("*ev %s%s done*", e->confirmed ? "#* " : "", e->name);
            char *who = life_speaker(life, link);
            life_put(life, "hear %s \"%s\" within 1ms", who, done);
            g_free(who);
            g_free(done);
        }
        if (asked) life_say(life, link, ask);
        if (asked) life_hear(life, link, off);
    }
    life_obeyed(life, link, text);
    life_obeyed(life, link, stop);
    if (heard && ms > 500 && has_word(e, "stopped")) hear_event(life, link, e, "stopped");
    if (asked) life_say(life, link, ask);
    if (asked) life_hear(life, link, off);
    life_play(life, "routines", "%s is done, and stopped", r->name);
    g_free(ask), g_free(off), g_free(stop), g_free(on);
}

/* A command to one of its outputs ends it; one to another output does not. */
static void yields(struct life *life, unsigned link, const struct lex_routine *r, const char *text)
{
    const struct lexicon *lx = life->drill->lx;
    char *ask = g_strdup_printf("%s?", r->name), *off = g_strdup_printf("*ok %s off*", r->name),
         *on = g_strdup_printf("*ok %s step*", r->name);
    const uint64_t ms = lex_routine_ms(r);
    for (unsigned i = 0; i < lx->commands->len && ms >= 2000; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_output *out = lex_effect_output(lx, &command->effect);
        const char *other = life_text(life->drill, link, command, CASE_PLAIN);
        if (!out || !other || command->query || command->effect.which || out->members->len)
            continue;
        enum told its = judge_told_by(lx, r, command->effect.output);
        if (its == TOLD_PERHAPS) continue;
        life_obeyed(life, link, text);
        life_obeyed(life, link, other);
        life_say(life, link, ask);
        life_hear(life, link, its == TOLD ? off : on);
        life_play(life, "routines", "%s, and %s meanwhile", r->name, other);
    }
    g_free(ask), g_free(off), g_free(on);
}

void told_routines(struct life *life)
{
    const struct lexicon *lx = life->drill->lx;
    unsigned link = life->job->link;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_effect *effect = &command->effect;
        if (effect->kind != LEX_RUN || !command->made || effect->fixed != RLX_RUN) continue;
        const char *text = life_text(life->drill, link, command, CASE_PLAIN);
        bool refused = false;
        const struct lex_routine *r = lx->routines->pdata[effect->output];
        for (unsigned k = 0; k < r->steps->len; k++) {
            const char *step = ((struct lex_step *)r->steps->pdata[k])->text;
            refused |= step && life_may_refuse(lx, step);
        }
        if (refused) continue;
        if (text) routine(life, link, lx->routines->pdata[effect->output], text);
        if (text && lx->built_in & RLX_BUILT_IN_STATE)
            yields(life, link, lx->routines->pdata[effect->output], text);
    }
}

/* ---- handsets ---- */

void told_handsets(struct life *life)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        unsigned link = 0;
        while (link < lx->links->len &&
               strcmp(drill_link(life->drill, link)->name, handset->link) != 0)
            link++;
        if (link == lx->links->len || !life_is_spoken(life->drill, link)) continue;
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            const struct lex_button *button = handset->buttons->pdata[k];
            const char *said[] = {button->press, button->release, handset->idle};
            bool refused = false;
            for (unsigned n = 0; n < G_N_ELEMENTS(said); n++)
                refused |= said[n] && life_may_refuse(lx, said[n]);
            if (!button->press || button->with || refused) continue;
            life_put(life, "press %s", button->name);
            life_hear(life, link,
                      answers_are_own(lx, drill_link(life->drill, link)) ? "*" : "*ok*");
            life_put(life, "wait 100ms\nrelease %s", button->name);
            for (int n = 0; n < (button->release != NULL) + (handset->idle != NULL); n++)
                life_hear(life, link,
                          answers_are_own(lx, drill_link(life->drill, link)) ? "*" : "*ok*");
            life->link = link;
            life_play(life, "buttons", "Button %s of %s", button->name, handset->name);
        }
    }
}
