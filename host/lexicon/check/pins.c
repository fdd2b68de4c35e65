/* Checks what hangs on the pins: each wire used once, each output reached, safe, able to stop.
 * Asks each output's kind for its wires and its words.
 * It does not know what a kind is. */
#include <string.h>

#include "lexicon/check/checks.h"
#include "lexicon/kind.h"
#include "rlx/image.h"

/* ---- pins and channels ---- */

/* A pin or a channel, and who has it. */
struct use {
    bool channel;
    unsigned number;
    const char *name;
    struct lex_place place;
    bool state; /* of a link, which an input may have, too */
};

static void use(GArray *uses, bool channel, unsigned number, const char *name,
                struct lex_place place)
{
    struct use u = {channel, number, name, place, false};
    if (number != LEX_NO_PIN) g_array_append_val(uses, u);
}

static void use_output(GArray *uses, const struct lex_output *out)
{
    struct lex_wire wires[LEX_WIRES_MOST];
    unsigned n = lex_kind_of(out)->wires(out, wires);
    for (unsigned i = 0; i < n; i++)
        use(uses, wires[i].is != LEX_WIRE_PIN, wires[i].number, out->name, out->place);
}

void check_pins(struct lexicon *lx)
{
    GArray *uses = g_array_new(FALSE, FALSE, sizeof(struct use));
    for (unsigned i = 0; i < lx->outputs->len; i++) use_output(uses, lx->outputs->pdata[i]);
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i];
        use(uses, false, in->pin, in->name, in->place);
    }
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        use(uses, false, link->hang_pin, link->name, link->place);
        use(uses, false, link->state_pin, link->name, link->place);
        if (link->state_pin != LEX_NO_PIN)
            g_array_index(uses, struct use, uses->len - 1).state = true;
    }
    for (unsigned i = 0; i < uses->len; i++) {
        const struct use *u = &g_array_index(uses, struct use, i);
        for (unsigned k = 0; k < i; k++) {
            const struct use *other = &g_array_index(uses, struct use, k);
            if (other->channel != u->channel || other->number != u->number) continue;
            if (u->state && lexicon_input(lx, other->name)) continue; /* its state */
            check_find(lx, u->channel ? LEX_D07 : LEX_D06, u->place, u->name, NULL,
                       "'%s' and '%s' (line %u) are both on %s %u", u->name, other->name,
                       other->place.line, u->channel ? "PWM channel" : "pin", u->number);
        }
    }
    g_array_free(uses, TRUE);
}

/* ---- outputs that are reached, and safe ---- */

static bool in_reached_group(const struct lexicon *lx, const struct lex_output *out);

static bool reached(const struct lexicon *lx, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (lex_tells(lx->commands->pdata[i], output)) return true;
    for (unsigned i = 0; i < LEX_WHENS * lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i / LEX_WHENS];
        const struct lex_command *act = in->acts[i % LEX_WHENS];
        if (act && lex_tells(act, output)) return true;
    }
    return out->shows || (!out->members->len && in_reached_group(lx, out));
}

static bool in_reached_group(const struct lexicon *lx, const struct lex_output *out)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *group = lx->outputs->pdata[i];
        if (g_ptr_array_find_with_equal_func(group->members, out->name, g_str_equal, NULL) &&
            reached(lx, i))
            return true;
    }
    return false;
}

static char *command_for(const struct lex_output *out)
{
    char *slots = lex_kind_of(out)->slots(out);
    char *text = g_strdup_printf("command %s %s => %s", out->name, slots, out->name);
    g_free(slots);
    return text;
}

static void check_output(struct lexicon *lx, unsigned i)
{
    const struct lex_output *out = lx->outputs->pdata[i];
    const struct lex_kind *kind = lex_kind_of(out);
    if (!reached(lx, i) && out->by != LEX_BY_FIRMWARE) {
        const char *state = kind->unreached ? kind->unreached : out->safe ? "on" : "off";
        struct lex_fault *fault = check_find(
            lx, LEX_D05, out->place, out->name, NULL,
            "no command reaches '%s': it is %s from power-up and stays so", out->name, state);
        fault->advice = command_for(out);
    }
    if (out->safe_told || !kind->safe) return;
    struct lex_fault *fault;
    if (kind->unsaid)
        fault = check_find(lx, LEX_D08, out->place, out->name, NULL,
                           "no safe state for the %s '%s': from power-up on it will %s",
                           lex_output_kinds[out->kind], out->name, kind->unsaid);
    else
        fault = check_find(lx, LEX_D08, out->place, out->name, NULL,
                           "no safe state for the relay '%s': from power-up on it is off (pin %u "
                           "%s)",
                           out->name, out->pin, out->active_low ? "high" : "low");
    fault->advice = *kind->safe ? g_strdup_printf("safe %s", kind->safe) : kind->safe_text(out);
}

/* Whether the effect, without a way of its own, would move the output. */
static bool would_move(const struct lex_output *out, const struct lex_effect *effect)
{
    bool stops = effect->kind == LEX_VERB && effect->verb && effect->verb->stops;
    if (effect->kind == LEX_SWITCH)
        return effect->fixed == RLX_TOGGLE || (effect->fixed == RLX_ON) != (out->safe != 0);
    if (effect->kind == LEX_LEVEL) return (unsigned)effect->argument != out->safe;
    return !stops;
}

/* What an input does to an output that it does not permit to do it just then. */
static void check_input_acts(struct lexicon *lx, const struct lex_input *in)
{
    for (unsigned i = 0; i < LEX_WHENS * lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i / LEX_WHENS];
        const unsigned when = i % LEX_WHENS;
        const struct lex_command *act = in->acts[when];
        if (!act || !lex_tells(act, i / LEX_WHENS) || !would_move(out, &act->effect)) continue;
        for (unsigned k = 0; k < out->permits->len; k++) {
            const struct lex_permit *permit = out->permits->pdata[k];
            if (permit->of != in || permit->on == (when != LEX_WHEN_OFF) ||
                permit->ways != RLX_GOES_ANY)
                continue;
            struct lex_fault *fault = check_find(
                lx, LEX_D48, in->place, in->name, NULL,
                "when '%s' is %s it moves '%s', which moves only while '%s' is %s: it never does",
                in->name, lex_input_words[when], out->name, in->name, permit->word);
            fault->advice =
                g_strdup_printf("%s => %s ...", when ? "pressed" : "released", out->name);
        }
    }
}

void check_outputs(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) check_output(lx, i);
    for (unsigned i = 0; i < lx->inputs->len; i++) check_input_acts(lx, lx->inputs->pdata[i]);
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i];
        bool heard = false;
        for (unsigned k = 0; k < lx->events->len; k++)
            heard |= !g_strcmp0(((struct lex_event *)lx->events->pdata[k])->input, in->name);
        for (unsigned k = 0; k < lx->outputs->len; k++) {
            const struct lex_output *out = lx->outputs->pdata[k];
            heard |= lex_ends_at(out, in->name);
            for (unsigned p = 0; p < out->permits->len; p++)
                heard |= ((struct lex_permit *)out->permits->pdata[p])->of == in;
        }
        for (unsigned k = 0; k < LEX_WHENS; k++) heard |= in->acts[k] != NULL;
        if (heard) continue;
        struct lex_fault *fault =
            check_find(lx, LEX_D33, in->place, in->name, NULL,
                       "no event reports '%s', and no output stops at it", in->name);
        fault->advice = g_strdup_printf("event %s {pressed|released} <= %s", in->name, in->name);
    }
}

/* ---- what moves ---- */

/* What the commands that reach an output can do with it. */
struct motion {
    bool stops, forward, back, expires;
    const struct lex_command *some, *brief, *lasting; /* one that expires, and one that does not */
};

static bool goes_back(const char *word)
{
    static const char *const words[] = {"back",      "close",      "reverse", "left",
                                        "spin_left", "spin_right", NULL};
    return g_strv_contains(words, word);
}

static void add_verb(struct motion *m, const struct lex_verb *verb)
{
    if (!verb) return;
    m->stops |= verb->stops;
    if (!verb->stops) m->forward |= !goes_back(verb->word);
    m->back |= goes_back(verb->word);
}

static void add_slots(struct motion *m, const struct lex_output *out,
                      const struct lex_command *command)
{
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        for (unsigned k = 0; e->kind == LEX_CHOICE && k < e->words->len; k++)
            add_verb(m, lex_verb_of(out, e->words->pdata[k]));
        if (e->kind != LEX_NUMBER) continue;
        int32_t low = e->scaled ? MIN(e->to_low, e->to_high) : e->low;
        int32_t high = e->scaled ? MAX(e->to_low, e->to_high) : e->high;
        m->stops |= low <= 0 && high >= 0;
        m->back |= low < 0;
        m->forward |= high > 0;
    }
}

/* Whether it may leave the output moving: not if all its values stop it. */
static bool moves_on(const struct lex_output *out, const struct lex_command *command)
{
    struct motion m = {false};
    add_verb(&m, command->effect.verb);
    if (command->effect.kind == LEX_LEVEL && command->effect.argument_fixed)
        return command->effect.argument != 0;
    add_slots(&m, out, command);
    return m.forward || m.back;
}

static struct motion motion_of(const struct lexicon *lx, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    struct motion m = {.expires = out->expires != 0};
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!lex_tells(command, output)) continue;
        const struct lex_effect *effect = &command->effect;
        m.some = command;
        m.expires |= command->expires != 0;
        if (command->expires || effect->lasts)
            m.brief = command;
        else if (moves_on(out, command))
            m.lasting = command;
        add_verb(&m, effect->verb);
        if (effect->kind == LEX_LEVEL && effect->argument_fixed) {
            m.stops |= effect->argument == 0;
            m.back |= effect->argument < 0;
            m.forward |= effect->argument > 0;
        }
        add_slots(&m, out, command);
    }
    return m;
}

/* A text of the command that moves it. */
static char *moving(const struct lex_command *command)
{
    return lex_command_longest(command, false);
}

static void check_turning(struct lexicon *lx, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    struct motion m = motion_of(lx, output);
    struct lex_fault *fault;
    bool ended = out->travel || (out->kind == LEX_REVERSER && out->open.until && out->close.until);
    if (!m.some) return;
    if (!m.stops && !m.expires && !ended) {
        char *text = moving(m.some);
        fault = check_find(lx, LEX_D32, out->place, out->name, text,
                           "after \"%s\" nothing but 'halt' stops '%s'", text, out->name);
        fault->advice = g_strdup_printf("command %s stop => %s stop", out->name, out->name);
    }
    if (m.forward && m.back && !out->dead && !out->ramp) {
        char *text = moving(m.some);
        fault =
            check_find(lx, LEX_D35, out->place, out->name, text,
                       "'%s' is reversed at once when both directions are commanded one after the "
                       "other, as with \"%s\"",
                       out->name, text);
        fault->advice = g_strdup(lex_kind_of(out)->gentle);
    }
    if (!out->expires && m.brief && m.lasting) {
        char *text = moving(m.lasting), *other = moving(m.brief);
        fault =
            check_find(lx, LEX_D44, m.lasting->place, out->name, text,
                       "\"%s\" expires, \"%s\" does not: after it '%s' moves on when the sender "
                       "goes quiet",
                       other, text, out->name);
        fault->advice = g_strdup("expires 2s");
        g_free(other);
    }
    if (out->kind != LEX_REVERSER || out->travel) return;
    if (!out->open.until || !out->close.until)
        fault = check_find(lx, LEX_D36, out->place, out->name, NULL,
                           "nothing ends the way of '%s' when it %s", out->name,
                           out->open.until ? "closes" : "opens");
}

void check_motion(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        if (lex_kind_of(lx->outputs->pdata[i])->turns) check_turning(lx, i);
    }
}
