/* Counts which parts of the design a drill exercised.
 * Keys are made from each move and sight, and the same keys for all that there could be.
 * Coverage of code is something else: bench/coverage. */
#include "drill/run/cover.h"

#include <string.h>

#include "drill/judge/judge.h"
#include "drill/real/real.h"
#include "drill/judge/seen.h"
#include "lexicon/slot.h"
#include "rlx/error.h"

static const struct {
    unsigned number;
    const char *name;
} errors[] = {
#define ONE(number, id, name, sentence) {number, name},
    RLX_REPLY_ERRORS(ONE)
#undef ONE
};

/* ---- commands ---- */

static void cover_bounds(struct yield *y, const struct drill *drill, const struct drill_case *test)
{
    static const char *const bounds[CASE_KEY + 1] = {[CASE_HIGHEST] = "highest",
                                                     [CASE_BELOW] = "one below",
                                                     [CASE_ABOVE] = "one above",
                                                     [CASE_LONGEST] = "longest",
                                                     [CASE_LONGER] = "one longer"};
    const char *row = drill->rows->pdata[test->row];
    for (unsigned i = 0; test->why == CASE_PLAIN && i < test->of->elements->len; i++) {
        const struct lex_element *e = test->of->elements->pdata[i];
        if (lex_has_numbers(e))
            yield_cover(y, "bound|%s|%s lowest", row, e->text ? e->text : "value");
        if (e->kind == LEX_TEXT)
            yield_cover(y, "bound|%s|%s shortest", row, e->text ? e->text : "text");
    }
    if (!bounds[test->why]) return;
    const struct lex_element *e = test->of->elements->pdata[test->element];
    yield_cover(y, "bound|%s|%s %s", row, e->text ? e->text : "value", bounds[test->why]);
}

static void cover_error(struct yield *y, const char *answer)
{
    const char *at = strstr(answer, "err ");
    for (unsigned i = 0; i < G_N_ELEMENTS(errors); i++) {
        size_t n = strlen(errors[i].name);
        bool named = at && !strncmp(at + 4, errors[i].name, n) && !g_ascii_isalpha(at[4 + n]);
        char *numbered = g_strdup_printf("e%u", errors[i].number);
        if (named || (!at && g_str_has_prefix(answer, numbered) &&
                      !g_ascii_isdigit(answer[strlen(numbered)])))
            yield_cover(y, "error|%s", errors[i].name);
        g_free(numbered);
    }
}

/* What a valid command owed on a link as it should be, and whether it ever came: an ok, or over a
 * link without answers that something was done. */
static void cover_owed(struct yield *y, const struct drill *drill, const struct move *move,
                       const struct result *result)
{
    const struct lex_link *link = drill_link(drill, move->link);
    const char *row = drill->rows->pdata[move->test->row];
    bool acts = lex_effect_output(drill->lx, &move->test->of->effect) != NULL;
    const struct lex_verb *verb = move->test->of->effect.verb;
    bool far =
        verb && verb->behind == RLX_BEHIND_STEPS; /* nobody knows where a real board stands */
    if (far && drill->options->board) return;
    if (move->owed == OWED_OK) yield_cover(y, "owed|%s|%s", row, link->name);
    if (move->owed == OWED_OK && result->answer && judge_is_ok(drill->lx, link, result->answer))
        yield_cover(y, "done|%s|%s", row, link->name);
    if (drill->options->board) return; /* what it did is not seen */
    if (move->owed == OWED_SILENT && acts) yield_cover(y, "owed||%s", link->name);
    if (move->owed == OWED_SILENT && result->acted) yield_cover(y, "done||%s", link->name);
}

void cover_said(struct yield *y, const struct drill *drill, const struct move *move,
                const struct result *result)
{
    const struct lex_link *link = drill_link(drill, move->link);
    if (move->test && move->test->of && move->test->valid) cover_owed(y, drill, move, result);
    if (!result->answer) return;
    if (!judge_is_ok(drill->lx, link, result->answer)) {
        if (move->test && move->test->of) cover_bounds(y, drill, move->test);
        return;
    }
    if (!move->test) return;
    yield_cover(y, "command|%s|over %s", (char *)drill->rows->pdata[move->test->row], link->name);
    if (move->test->of) cover_bounds(y, drill, move->test);
}

/* ---- what is seen ---- */

static void cover_event(struct yield *y, const struct drill *drill, const struct sight *sight)
{
    char *text = g_strndup(sight->text, sight->count);
    const char *at = strstr(text, "ev ");
    for (unsigned i = 0; at && i < drill->lx->events->len; i++) {
        const struct lex_event *event = drill->lx->events->pdata[i];
        const char *name = strchr(at + 3, '#') == at + 3 ? strchr(at + 3, ' ') : at + 2;
        size_t n = strlen(event->name);
        if (!name || strncmp(name + 1, event->name, n) != 0) continue;
        name += 1 + n;
        char *word = *name == ' ' ? g_strndup(name + 1, strcspn(name + 1, " *")) : g_strdup("");
        yield_cover(y, "event|%s|%s", event->name, *word ? word : "told");
        g_free(word);
    }
    g_free(text);
}

void cover_seen(struct cover *cover, struct yield *y, const struct drill *drill,
                const struct sight *sight)
{
    if (!sight->board || *sight->board->name) return;
    if (sight->kind == SIGHT_ANSWERED || sight->kind == SIGHT_KNOWN) {
        cover_event(y, drill, sight);
        char *text = g_strndup(sight->text, sight->count);
        if (sight->kind == SIGHT_ANSWERED) cover_error(y, text);
        g_free(text);
    }
    if (sight->kind != SIGHT_OUT) return;
    int output = output_of_event(drill->lx, sight->event);
    if (output < 0) return;
    const struct lex_output *out = drill->lx->outputs->pdata[output];
    const char *is = output_class(sight->board, out), *was = cover->was[output];
    if (!was && lex_kind_of(out)->direct) was = *output_classes(out);
    if (was && (is != was || !strcmp(is, "level") || !strcmp(is, "pulse")))
        yield_cover(y, "output|%s|%s to %s", out->name, was, is);
    cover->was[output] = is;
}

/* ---- all that could be ---- */

struct universe {
    json_t *all;
    const json_t *counted;
};

static void could(struct universe *u, const char *kind, const char *name, const char *part)
{
    char *key = part ? g_strjoin("|", kind, name, part, NULL) : g_strjoin("|", kind, name, NULL);
    char *shown = part ? g_strdup_printf("%s: %s", name, part) : g_strdup(name);
    json_t *of = json_object_get(u->all, kind);
    if (!of) {
        json_object_set_new(u->all, kind, json_object());
        of = json_object_get(u->all, kind);
    }
    json_object_set_new(of, shown,
                        json_integer(json_integer_value(json_object_get(u->counted, key))));
    g_free(key);
    g_free(shown);
}

/* Whether some link takes text: bytes by a layout have no place for what is no value. */
static bool takes_text(const struct lexicon *lx)
{
    bool text = false;
    for (unsigned i = 0; i < lx->links->len; i++)
        text |= !((struct lex_link *)lx->links->pdata[i])->layout;
    return text;
}

static void could_bounds(struct universe *u, const struct lexicon *lx,
                         const struct lex_command *command, const char *row)
{
    const bool text = takes_text(lx);
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        bool number = lex_has_numbers(e);
        const char *parts[] = {"lowest", "highest", "one below", "one above", NULL};
        const char *texts[] = {"shortest", "longest", "one longer", NULL};
        for (const char **p = number ? parts : texts; (number || e->kind == LEX_TEXT) && *p; p++) {
            bool below = !strcmp(*p, "one below") && e->low == INT32_MIN;
            bool above = !strcmp(*p, "one above") && e->high == INT32_MAX;
            char *part = g_strdup_printf("%s %s",
                                         e->text  ? e->text
                                         : number ? "value"
                                                  : "text",
                                         *p);
            bool beyond = g_str_has_prefix(*p, "one") && !text;
            if (!below && !above && !beyond) could(u, "bound", row, part);
            g_free(part);
        }
    }
}

static bool parks(const struct lexicon *lx, const struct lex_output *out)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_effect *effect = &((struct lex_command *)lx->commands->pdata[i])->effect;
        if (effect->kind == LEX_VERB && lex_effect_output(lx, effect) == out) return true;
    }
    return false;
}

static void could_move(struct universe *u, const struct lexicon *lx, const struct lex_output *out)
{
    const char *const *classes = output_classes(out);
    bool servo = lex_kind_of(out)->direct;
    for (unsigned a = 0; classes[a]; a++)
        for (unsigned b = 0; classes[b]; b++) {
            bool far = lex_kind_of(out)->passes;
            bool steps = servo ? a && b : !strcmp(classes[a], "level");
            if ((a == b && !steps) || (far && a && b) || (servo && a && !b && !parks(lx, out)))
                continue;
            char *part = g_strdup_printf("%s to %s", classes[a], classes[b]);
            could(u, "output", out->name, part);
            g_free(part);
        }
}

/* Nobody has another one than the sample keys. */
static bool is_key(const struct lexicon *lx, const struct lex_command *command)
{
    if (command->effect.kind != LEX_STORE) return false;
    const struct lex_setting *setting = lx->settings->pdata[command->effect.output];
    return lex_is_key(lx, setting->name);
}

/* Commands over the links that accept them are counted as they are sent; here those that nobody
 * sent at all. */
static void could_say(struct universe *u, const struct drill *drill)
{
    const struct lexicon *lx = drill->lx;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (is_key(lx, command) || (drill->real && !real_may_say(drill, command))) continue;
        char *row = lex_command_text(command);
        json_int_t said = 0;
        for (unsigned k = 0; k < lx->links->len; k++) {
            const struct lex_link *link = lx->links->pdata[k];
            char *key = g_strdup_printf("command|%s|over %s", row, link->name);
            said += json_integer_value(json_object_get(u->counted, key));
            g_free(key);
        }
        could(u, "command", row, NULL);
        json_object_set_new(json_object_get(u->all, "command"), row, json_integer(said));
        if (!command->query) could_bounds(u, lx, command, row);
        g_free(row);
    }
}

static bool has_slot(const struct lexicon *lx, unsigned kinds)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        for (unsigned k = 0; k < command->elements->len; k++)
            if (kinds >> ((struct lex_element *)command->elements->pdata[k])->kind & 1) return true;
    }
    return false;
}

/* Whether this design has a place where the error can come from. */
static bool could_err(const struct lexicon *lx, unsigned number)
{
    bool check = false, tags = false, kept = false, only = false, yields = false, sms = false,
         half = false;
    bool late = false, ways = false, permits = false, handlers = lx->queries->len > 0;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        check |= link->check && link->medium != LEX_RADIO; /* damaged packets are only counted */
        tags |= link->tags != LEX_DEMAND_OFF;
        kept |= link->tags_kept;
        only |= link->only->len || link->locked->len;
        yields |= link->yields != NULL;
        sms |= lex_drives_modem(link);
        late |= link->stale > 0;
        half |= link->frame == LEX_FRAME_CODES || (link->frame == LEX_FRAME_ENDED && link->gap);
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_effect *effect = &command->effect;
        permits |= command->guards != NULL;
        only |= command->code != NULL;
        handlers |= effect->kind == LEX_CALL;
        ways |= effect->verb && effect->verb->behind == RLX_BEHIND_STEPS;
    }
    for (unsigned i = 0; i < lx->outputs->len; i++)
        permits |= ((struct lex_output *)lx->outputs->pdata[i])->permits->len > 0;
    const unsigned numbers = 1u << LEX_NUMBER | 1u << LEX_LIST;
    const bool text = takes_text(lx);
    switch ((enum rlx_error)number) {
    case RLX_ERR_AMBIGUOUS: return text && lx->shorten > 0;
    case RLX_ERR_CHOICE: return text && has_slot(lx, 1u << LEX_CHOICE | 1u << LEX_SET);
    case RLX_ERR_NUMBER:
    case RLX_ERR_DIGITS: return text && has_slot(lx, numbers);
    case RLX_ERR_RANGE: return has_slot(lx, numbers | 1u << LEX_TEXT);
    case RLX_ERR_FAILED: return handlers || ways;
    case RLX_ERR_BUSY: return handlers;
    case RLX_ERR_TEXT: return text && has_slot(lx, 1u << LEX_TEXT);
    case RLX_ERR_HALF: return half;
    case RLX_ERR_CHECK: return check;
    case RLX_ERR_TAG:
    case RLX_ERR_OLD: return tags;
    case RLX_ERR_DENIED: return only;
    case RLX_ERR_HALTED: return lx->built_in & RLX_BUILT_IN_HALT;
    case RLX_ERR_YIELDS: return yields;
    case RLX_ERR_BLOCKED: return permits;
    case RLX_ERR_SEAL:               /* the drill's sender has the key */
    case RLX_ERR_REST: return false; /* nobody answers frames of channels */
    case RLX_ERR_LATE: return late;
    case RLX_ERR_ALPHABET: return sms;
    case RLX_ERR_UNSURE: return sms || kept;
    case RLX_ERR_MISSING:
    case RLX_ERR_EXTRA:
    case RLX_ERR_BYTE:
    case RLX_ERR_LONG:
    case RLX_ERR_LOST: return text;
    case RLX_OK:
    case RLX_ERR_UNKNOWN:
    case RLX_ERR_REPLIES: break;
    case RLX_ERR_VERSION:
    case RLX_ERR_IMAGE:
    case RLX_ERR_BUILD:
    case RLX_ERR_BUFFER: return false; /* never in a reply */
    }
    return true;
}

json_t *cover_all(const struct drill *drill, const json_t *counted)
{
    const struct lexicon *lx = drill->lx;
    const bool blind = drill->real != NULL;
    struct universe u = {json_object(), counted};
    const char *key;
    json_t *value;
    could_say(&u, drill);
    for (unsigned i = 0; i < G_N_ELEMENTS(errors); i++)
        if (could_err(lx, errors[i].number)) could(&u, "error", errors[i].name, NULL);
    for (unsigned i = 0; !blind && i < lx->outputs->len; i++)
        could_move(&u, lx, lx->outputs->pdata[i]);
    for (unsigned i = 0; !blind && i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        for (unsigned k = 0; event->what && k < event->what->words->len; k++)
            could(&u, "event", event->name, event->what->words->pdata[k]);
        if (!event->what) could(&u, "event", event->name, "told");
    }
    json_object_foreach((json_t *)counted, key, value) if (g_str_has_prefix(key, "fault|"))
        could(&u, "fault", key + strlen("fault|"), NULL);
    return u.all;
}
