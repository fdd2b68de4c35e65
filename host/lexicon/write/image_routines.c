/* The image's routines: each a row of acts and waits.
 * A step is read as a command and written as its act.
 * It checks nothing. */
#include <string.h>

#include "lexicon/write/build.h"

/* Marks the outputs that the command acts on; of a group its members. */
static void mark_outputs(const struct lexicon *lx, const struct lex_command *command,
                         const int32_t *values, bool marked[256])
{
    const struct lex_element *which = command->effect.which;
    const struct lex_output *out = lex_effect_output(lx, &command->effect);
    unsigned output = command->effect.output;
    if (!out) return;
    if (which) output = which->outputs[values[0]];
    out = lx->outputs->pdata[output];
    if (!out->members->len) marked[output] = true;
    for (unsigned i = 0; i < out->members->len; i++)
        marked[lexicon_output_index(lx, out->members->pdata[i])] = true;
}

/* A step's act: the values of its text, and what is done with them. */
static void put_step(struct build *b, GByteArray *to, const struct lex_step *step, bool marked[256])
{
    int32_t values[15];
    unsigned given;
    if (!step->text) {
        build_put8(to, RLX_OP_WAIT);
        build_put32(to, step->wait);
        return;
    }
    const struct lex_command *command = lex_command_taking(b->lx, step->text, values, &given);
    if (!command) return; /* D21 */
    mark_outputs(b->lx, command, values, marked);
    build_put_end(b, to, command, given, values,
                  command->effect.which ? RLX_OPERAND_VALUE : RLX_OPERAND_INLINE);
}

static void put_routine(struct build *b, const struct lex_routine *routine)
{
    GByteArray *to = b->image->bytes, *steps = g_byte_array_new();
    bool marked[256] = {false};
    unsigned outputs = 0;
    for (unsigned i = 0; i < routine->steps->len; i++)
        put_step(b, steps, routine->steps->pdata[i], marked);
    if (routine->rounds != 1) {
        build_need(b, RLX_BIT_LOOPS);
        build_put8(steps, RLX_OP_AGAIN);
        build_put16(steps, routine->rounds);
    }
    build_put8(steps, RLX_OP_OVER);
    for (unsigned i = 0; i < G_N_ELEMENTS(marked); i++) outputs += marked[i];
    build_row(b, "routine %s", routine->name);
    build_put8(to, outputs);
    for (unsigned i = 0; i < G_N_ELEMENTS(marked); i++)
        if (marked[i]) build_put8(to, i);
    build_put8(to, routine->steps->len);
    build_put_all(to, steps);
    g_byte_array_free(steps, TRUE);
}

/* What an input or a link does; `list`: where the list begins, 0 before its first row. */
static void put_act(struct build *b, unsigned *list, unsigned number, unsigned when,
                    const struct lex_command *act)
{
    static const int32_t none[1];
    GByteArray *to = b->image->bytes, *step = g_byte_array_new();
    if (!*list) {
        build_need(b, RLX_BIT_FAMILY);
        build_row(b, "what inputs and links do");
        build_set16(to, RLX_IMG_ACTS, to->len);
        *list = build_begin_list(to);
    }
    build_put_end(b, step, act, 0, none, RLX_OPERAND_INLINE);
    build_put8(to, number);
    build_put8(to, when);
    build_put8(to, step->len);
    build_put_all(to, step);
    g_byte_array_free(step, TRUE);
}

void build_put_acts(struct build *b)
{
    static const unsigned fields[] = {
#define FIELD(field, word) [LEX_WHEN_##field] = RLX_EVT_##field,
        LEX_INPUT_ACTS(FIELD)
#undef FIELD
    };
    static const unsigned states[] = {[LEX_SHOWN_UP] = RLX_ACT_UP, [LEX_SHOWN_LOST] = RLX_ACT_LOST};
    unsigned list = 0;
    for (unsigned i = 0; i < LEX_WHENS * b->lx->inputs->len; i++) {
        const struct lex_input *in = b->lx->inputs->pdata[i / LEX_WHENS];
        if (!in->acts[i % LEX_WHENS]) continue;
        build_need(b, RLX_BIT_INPUT_ACTS);
        put_act(b, &list, i / LEX_WHENS, fields[i % LEX_WHENS], in->acts[i % LEX_WHENS]);
    }
    for (unsigned i = 0; i < LEX_SHOWN * b->lx->outputs->len; i++) {
        const struct lex_output *out = b->lx->outputs->pdata[i / LEX_SHOWN];
        guint link = 0;
        if (!out->shown[i % LEX_SHOWN]) continue;
        build_need(b, RLX_BIT_SHOWS);
        g_ptr_array_find(b->lx->links, lexicon_link(b->lx, out->shows), &link);
        put_act(b, &list, link, states[i % LEX_SHOWN], out->shown[i % LEX_SHOWN]);
    }
    if (list) build_end_list(b->image->bytes, list);
}

void build_put_routines(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned n = b->lx->routines->len, rows;
    if (!n) return;
    build_need(b, RLX_BIT_ROUTINES);
    build_need(b, RLX_BIT_FAMILY);
    build_need(b, RLX_BIT_SWITCH);
    build_need(b, RLX_BIT_NUMBER);
    build_need(b, RLX_BIT_WIDE); /* for the time that it still takes */
    build_set16(to, RLX_IMG_ROUTINES, to->len);
    build_row(b, "the routines");
    build_put8(to, n);
    rows = to->len;
    for (unsigned i = 0; i < n; i++) build_put16(to, 0);
    for (unsigned i = 0; i < n; i++) {
        build_set16(to, rows + 2 * i, to->len);
        put_routine(b, b->lx->routines->pdata[i]);
    }
}
