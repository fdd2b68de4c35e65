/* Reads `output` and `input`.
 * An output's kind brings its attributes and checks.
 * No kind is named here. */
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"

#include <string.h>

const char *const lex_output_kinds[LEX_OUTPUT_KINDS + 1] = {
#define KIND(id, word, drive) [LEX_##id] = #word,
    RLX_OUTPUT_KINDS(KIND)
#undef KIND
};

bool lex_kind_may_have(const struct lex_output *out, const char *attribute)
{
    return statement_any_kind(lex_kind_of(out)->attributes, attribute);
}

/* Whether an output of some kind may have this attribute. */
static bool is_elsewhere(const struct attribute *known, const char *word)
{
    bool any = statement_any_kind(known, word);
    for (unsigned i = 0; i < LEX_OUTPUT_KINDS; i++)
        any |= lex_kind_may_have(&(struct lex_output){.kind = (enum lex_output_kind)i}, word);
    return any;
}

void lex_permit_free(void *p)
{
    struct lex_permit *permit = p;
    g_free(permit->name);
    g_free(permit->word);
    g_free(permit);
}

bool statement_permits(struct statement *st, GPtrArray *permits, unsigned ways, const char *what)
{
    if (!statement_take_word(st, "while")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'while', %s and its state, like 'while door closed'", what);
        return false;
    }
    do {
        struct lex_permit *permit = g_new0(struct lex_permit, 1);
        permit->place = statement_peek(st)->place;
        permit->ways = ways;
        permit->name = statement_name(st, what);
        if (permit->name)
            permit->word = statement_name(st, "its state, like 'on' or a word of its event");
        if (!permit->word) { /* half of it permits nothing */
            lex_permit_free(permit);
            return false;
        }
        g_ptr_array_add(permits, permit);
    } while (statement_take_word(st, "and"));
    return true;
}

bool lex_find_permit(struct lexicon *lx, struct lex_permit *permit, const char *what)
{
    permit->of = lexicon_input(lx, permit->name);
    if (!permit->of && !permit->out) {
        lex_fault(lx, permit->place, "there is no %s '%s'", what, permit->name);
        return false;
    }
    int when = permit->of                     ? lex_input_when(lx, permit->of, permit->word)
               : !strcmp(permit->word, "on")  ? LEX_WHEN_ON
               : !strcmp(permit->word, "off") ? LEX_WHEN_OFF
                                              : -1;
    permit->on = when == LEX_WHEN_ON;
    if (when < 0)
        lex_fault(lx, permit->place, "'%s' is never '%s': write 'on' or 'off'%s", permit->name,
                  permit->word, permit->of ? ", or a word of its event" : "");
    return when >= 0;
}

static void position_free(void *p)
{
    g_free(((struct lex_position *)p)->name);
    g_free(p);
}

const struct lex_position *lex_position_of(const struct lex_output *out, const char *name)
{
    for (unsigned i = 0; i < out->positions->len; i++) {
        const struct lex_position *position = out->positions->pdata[i];
        if (!g_ascii_strcasecmp(position->name, name)) return position;
    }
    return NULL;
}

bool lex_range_said(const struct lex_output *out, const char *text, int32_t *value)
{
    const struct lex_position *position = lex_position_of(out, text);
    if (position) *value = position->value;
    return position || lex_value_said(out->range, text, value);
}

/* output NAME KIND attributes ["title"] */
void read_output(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_output *out = g_new0(struct lex_output, 1);
    unsigned kind;
    out->place = statement_peek(st)->place;
    out->members = g_ptr_array_new_with_free_func(g_free);
    out->permits = g_ptr_array_new_with_free_func(lex_permit_free);
    out->positions = g_ptr_array_new_with_free_func(position_free);
    out->left.direction = out->left.brake = out->left.other = LEX_NO_PIN;
    out->right = out->left;
    out->name = statement_name(st, "the output's name");
    if (out->name && lexicon_output_index(lx, out->name) >= 0)
        lex_fault(lx, out->place, "a second output '%s'", out->name);
    if (!out->name) {
        lex_output_free(out);
        return;
    }
    g_ptr_array_add(lx->outputs, out); /* also where a fault follows: others may name it */
    if (lx->outputs->len == 256) lex_too_many(lx, out->place, 255, "outputs");
    if (!statement_one_of(st, "what it is", lex_output_kinds, &kind)) return;
    out->kind = (enum lex_output_kind)kind;
    const struct lex_kind *is = lex_kind_of(out);
    if (is->read_first && !is->read_first(st, out)) return;
    if (!statement_attributes(st, is->attributes, 0, is_elsewhere, lex_output_kinds[kind], out))
        return;
    out->title = statement_title(st);
    is->check(lx, out);
}

void lex_output_free(void *p)
{
    struct lex_output *out = p;
    char *texts[] = {out->ramp_by,   out->expires_by, out->name,        out->title,
                     out->interlock, out->curve,      out->shows,       out->lost,
                     out->style,     out->open.until, out->close.until, out->home.until};
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) g_free(texts[i]);
    if (out->range) lex_element_free(out->range);
    for (unsigned i = 0; i < LEX_SHOWN; i++)
        if (out->shown[i]) lex_command_free(out->shown[i]);
    g_ptr_array_free(out->members, TRUE);
    g_ptr_array_free(out->permits, TRUE);
    g_ptr_array_free(out->positions, TRUE);
    g_free(out);
}

/* ---- inputs ---- */

static bool input_pin(struct statement *st, void *target)
{
    struct lex_input *in = target;
    in->placed = true;
    return statement_pin(st, &in->pin);
}

static bool input_active(struct statement *st, void *target)
{
    static const char *const words[] = {"high", "low", NULL};
    unsigned index;
    if (!statement_one_of(st, "the level at which it is on", words, &index)) return false;
    ((struct lex_input *)target)->active_low = index == 1;
    return true;
}

static bool input_pull(struct statement *st, void *target)
{
    static const char *const words[] = {"none", "up", "down", NULL};
    unsigned index;
    if (!statement_one_of(st, "where it is pulled", words, &index)) return false;
    ((struct lex_input *)target)->pull = (enum lex_pull)index;
    return true;
}

static bool input_debounce(struct statement *st, void *target)
{
    struct lex_input *in = target;
    return statement_time_by(st, "the time that a level lasts before it counts", 1,
                             LEX_DEBOUNCE_MOST, &in->debounce, &in->debounce_by);
}

/* pressed => EFFECT: what needs no value of a slot. */
static bool read_act(struct statement *st, struct lex_input *in, unsigned when)
{
    struct lex_command *act = g_new0(struct lex_command, 1);
    struct lex_place place = statement_peek(st)->place;
    act->elements = g_ptr_array_new_with_free_func(lex_element_free);
    act->place = in->place;
    if (in->acts[when]) lex_command_free(in->acts[when]);
    in->acts[when] = act;
    if (statement_take(st)->kind != TOKEN_ARROW) {
        lex_fault(st->lx, place, "expected '=>' and what '%s' does then", in->name);
        return false;
    }
    place = statement_peek(st)->place;
    unsigned faults = st->lx->faults->len;
    if (!read_effect(st, act)) return false;
    if (st->lx->faults->len == faults && act->effect.kind != LEX_CALL && act->effect.fixed < 0 &&
        !act->effect.argument_fixed) {
        lex_fault(st->lx, place,
                  "an input gives no value: write one, like 'lamp on' or 'glow 40%%'");
        return false;
    }
    return true;
}

#define ACT(field, word)                                       \
    static bool act_##word(struct statement *st, void *target) \
    {                                                          \
        return read_act(st, target, LEX_WHEN_##field);         \
    }
ACT(ON, pressed)
ACT(OFF, released)
#undef ACT

static bool input_held(struct statement *st, void *target)
{
    if (statement_peek(st)->kind == TOKEN_ARROW) return read_act(st, target, LEX_WHEN_HELD);
    return statement_time(st, "the time after which it is held", 10, 60000,
                          &((struct lex_input *)target)->held);
}

static bool input_repeat(struct statement *st, void *target)
{
    return statement_time(st, "the time between the events of a held one", 10, 60000,
                          &((struct lex_input *)target)->repeat);
}

/* input NAME pin N [pull up|down] [active low|high] [debounce T] [held T] [repeat T] ["title"] */
void read_input(struct statement *st)
{
    static const struct attribute known[] = {
        {"pin", input_pin, 0},           {"pull", input_pull, 0},       {"active", input_active, 0},
        {"debounce", input_debounce, 0}, {"held", input_held, 0},       {"repeat", input_repeat, 0},
        {"pressed", act_pressed, 0},     {"released", act_released, 0}, {NULL, NULL, 0}};
    struct lexicon *lx = st->lx;
    struct lex_input *in = g_new0(struct lex_input, 1);
    in->place = statement_peek(st)->place;
    in->name = statement_name(st, "the input's name");
    if (!in->name) {
        g_free(in);
        return;
    }
    if (lexicon_input(lx, in->name)) lex_fault(lx, in->place, "a second input '%s'", in->name);
    g_ptr_array_add(lx->inputs, in);
    if (lx->inputs->len == 256) lex_too_many(lx, in->place, 255, "inputs");
    if (!statement_attributes(st, known, 0, statement_any_kind, "input", in)) return;
    in->title = statement_title(st);
    if (!in->placed) lex_fault(lx, in->place, "'%s' has no pin; write 'pin N'", in->name);
    if (in->repeat && !in->held)
        lex_fault(lx, in->place, "'%s' repeats, but has no 'held' time to begin with", in->name);
    if (in->acts[LEX_WHEN_HELD] && !in->held)
        lex_fault(lx, in->place,
                  "'%s' does something when it is held: write 'held T', after which time",
                  in->name);
}

void lex_input_free(void *p)
{
    struct lex_input *in = p;
    for (unsigned i = 0; i < LEX_WHENS; i++)
        if (in->acts[i]) lex_command_free(in->acts[i]);
    g_free(in->debounce_by);
    g_free(in->name);
    g_free(in->title);
    g_free(in);
}

/* ---- when everything is read ---- */

static void want_link(struct lexicon *lx, const struct lex_output *out, const char *link,
                      const char *word)
{
    bool verb = false;
    if (!link || lexicon_link(lx, link)) return;
    for (unsigned i = 0; out->shows && i < LEX_VERBS; i++)
        verb |= !g_strcmp0(lex_verbs[i].word, link);
    lex_fault(lx, out->place, "'%s %s': there is no link '%s'%s%s%s", word, link, link,
              verb ? ", and '" : "", verb ? out->name : "", verb ? "' has no such state" : "");
}

static void want_inputs(struct lexicon *lx, const struct lex_output *out)
{
    const struct lex_kind *kind = lex_kind_of(out);
    for (unsigned i = 0; kind->ends && i < LEX_ENDS_MOST; i++) {
        const struct lex_way *way = kind->ends(out, i);
        if (way->until && !lexicon_input(lx, way->until))
            lex_fault(lx, way->place, "there is no input '%s'", way->until);
    }
}

/* Of an interlock one is safe on at most: from power-up on they are what is safe. */
static void check_interlock(struct lexicon *lx, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    for (unsigned i = 0; out->interlock && out->safe && i < output; i++) {
        const struct lex_output *other = lx->outputs->pdata[i];
        if (g_strcmp0(other->interlock, out->interlock) || !other->safe) continue;
        lex_fault(lx, out->place, "'%s' and '%s' are never on together, but both are safe on",
                  other->name, out->name);
        return;
    }
}

/* What one input permits in one state, and another statement of the output in the other. */
static void check_permits(struct lexicon *lx, const struct lex_output *out)
{
    if (out->permits->len && out->shows)
        lex_fault(lx, out->place,
                  "'%s' shows link %s: nothing permits that; leave 'only while' out", out->name,
                  out->shows);
    if (out->permits->len && out->interlock && out->safe)
        lex_fault(lx, out->place,
                  "'%s' is safe on, but others of its interlock switch it off whatever permits it",
                  out->name);
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *permit = out->permits->pdata[i];
        for (unsigned k = 0; k < i; k++) {
            const struct lex_permit *other = out->permits->pdata[k];
            if (permit->of != other->of || permit->on == other->on || !(permit->ways & other->ways))
                continue;
            lex_fault(lx, permit->place, "'%s' is never %s and %s at once: '%s' could never move",
                      permit->name, other->word, permit->word, out->name);
        }
    }
}

void finish_permits(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        bool found = true;
        for (unsigned k = 0; k < out->permits->len; k++)
            found &= lex_find_permit(lx, out->permits->pdata[k], "input");
        if (found) check_permits(lx, out);
    }
}

void finish_outputs(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        check_interlock(lx, i);
        want_link(lx, out, out->shows, "shows");
        want_link(lx, out, out->lost, "lost");
        want_inputs(lx, out);
        if (out->curve && strcmp(out->curve, "linear") != 0 && strcmp(out->curve, "eye") != 0 &&
            !lexicon_setting(lx, out->curve))
            lex_fault(lx, out->place, "'curve %s': linear, eye, or a setting", out->curve);
        if (out->dead && out->kind == LEX_RELAY && !out->interlock)
            lex_fault(lx, out->place, "a relay's dead time belongs to an interlock");
    }
}
