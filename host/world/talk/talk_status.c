/* How all is by now: the clock, each output, input and link, in words.
 * Outputs by what the board drives, inputs by the level at their pin.
 * Of a real board only the clock is known. */
#include <string.h>

#include "lexicon/kind.h"
#include "world/talk/talk_parts.h"

static void put(GString *to, const char *before, const char *name, const char *is)
{
    g_string_append_printf(to, "%s%s %s", before, name, is);
}

static char *state_of(const struct board *board, const struct lex_output *out)
{
    return lex_kind_of(out)->state(&board->driven, out);
}

void talk_status(const struct talk *t)
{
    const struct board *board = t->end->board;
    const struct lexicon *lx = board->lx;
    GString *text = g_string_new(NULL);
    fprintf(t->out, "# at %.3f s\n", (double)t->bench->world->now_us / 1e6);
    if (device_is_outside(board->device)) lx = NULL;
    for (unsigned i = 0; lx && i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        char *state = state_of(board, out);
        if (!out->members->len) put(text, text->len ? ", " : "# outputs: ", out->name, state);
        g_free(state);
    }
    if (text->len) fprintf(t->out, "%s\n", text->str);
    g_string_truncate(text, 0);
    for (unsigned i = 0; lx && i < lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i];
        put(text, i ? ", " : "# inputs: ", in->name, board_input_is_on(board, in) ? "on" : "off");
    }
    if (text->len) fprintf(t->out, "%s\n", text->str);
    g_string_truncate(text, 0);
    for (unsigned i = 0; lx && i < t->bench->ends->len; i++) {
        const struct end *end = t->bench->ends->pdata[i];
        const char *is = end_is(end);
        if (is) put(text, text->len ? ", " : "# links: ", end->name, is);
    }
    if (text->len) fprintf(t->out, "%s\n", text->str);
    g_string_free(text, TRUE);
}

/* Adds where there is room for it. */
static void glance(GString *to, unsigned width, const char *name, const char *is)
{
    if (to->len + strlen(name) + strlen(is) + 3 <= width) put(to, to->len ? "  " : "", name, is);
}

static void glance_outputs(GString *to, unsigned width, const struct board *board, bool at_rest)
{
    for (unsigned i = 0; i < board->lx->outputs->len; i++) {
        const struct lex_output *out = board->lx->outputs->pdata[i];
        char *state = state_of(board, out);
        if (!out->members->len && lex_kind_of(out)->is_safe(&board->driven, out) == at_rest)
            glance(to, width, out->name, state);
        g_free(state);
    }
}

/* What moves comes first, then inputs that are on and links, and what is at rest. */
char *talk_glance(const struct talk *t, unsigned width)
{
    const struct board *board = t->end->board;
    unsigned s = (unsigned)(t->bench->world->now_us / 1000000);
    char *clock = g_strdup_printf("%u:%02u:%02u", s / 3600, s / 60 % 60, s % 60);
    const unsigned room = width > strlen(clock) + 2 ? width - (unsigned)strlen(clock) - 2 : 0;
    const bool seen = !device_is_outside(board->device);
    GString *text = g_string_new(NULL);
    if (seen) glance_outputs(text, room, board, false);
    for (unsigned i = 0; seen && i < board->lx->inputs->len; i++) {
        const struct lex_input *in = board->lx->inputs->pdata[i];
        if (board_input_is_on(board, in)) glance(text, room, in->name, "on");
    }
    for (unsigned i = 0; seen && i < board->ends->len; i++) {
        const struct end *end = board->ends->pdata[i];
        if (end_is(end)) glance(text, room, end->name, end_is(end));
    }
    if (seen) glance_outputs(text, room, board, true);
    if (strlen(clock) <= width) g_string_append_printf(text, "%s%s", text->len ? "  " : "", clock);
    g_free(clock);
    return g_string_free(text, FALSE);
}
