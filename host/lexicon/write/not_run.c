/* What the language has and the library on the chip does not run yet. */
#include <string.h>

#include "image.h"

static void add(GPtrArray *all, struct lex_place place, const char *format, ...)
    G_GNUC_PRINTF(3, 4);
static void add(GPtrArray *all, struct lex_place place, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *what = g_strdup_vprintf(format, args);
    va_end(args);
    g_ptr_array_add(all, g_strdup_printf("line %u: %s", place.line, what));
    g_free(what);
}

static void add_output(GPtrArray *all, const struct lex_output *out)
{
    if (out->kind != LEX_RELAY && out->kind != LEX_LED)
        add(all, out->place, "%s '%s'", lex_output_kinds[out->kind], out->name);
    else if (out->least_on || out->least_off || out->interlock || out->fade || out->shows ||
             out->lost || out->curve)
        add(all, out->place, "what '%s' does over time", out->name);
}

static void add_command(GPtrArray *all, const struct lex_command *command)
{
    const struct lex_effect *effect = &command->effect;
    if (effect->kind == LEX_VERB || (effect->kind == LEX_CALL && command->expires))
        add(all, command->place, "what a command does over time");
    if (command->newest) add(all, command->place, "newest");
}

static bool has_event_text(const struct lex_link *link)
{
    for (unsigned i = 0; i < link->texts->len; i++) {
        const char *what = ((struct lex_text *)link->texts->pdata[i])->what;
        if (g_str_has_prefix(what, "ev") || g_str_has_prefix(what, "note")) return true;
    }
    return false;
}

static void add_link(GPtrArray *all, const struct lex_link *link)
{
    if (link->medium == LEX_REPORT || link->medium == LEX_SMS)
        add(all, link->place, "%s link '%s'", lex_media[link->medium], link->name);
    if (link->people) add(all, link->place, "echo and backspace for people");
    if (link->seal) add(all, link->place, "the seal of '%s'", link->name);
    if (link->replies_drop || link->yields || link->greets || link->state_pin != LEX_NO_PIN)
        add(all, link->place, "how '%s' drops, yields or is told states", link->name);
    if (has_event_text(link)) add(all, link->place, "own texts of events and notes");
}

GPtrArray *image_not_run(const struct lexicon *lx, bool simulated)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < lx->outputs->len; i++) add_output(all, lx->outputs->pdata[i]);
    for (unsigned i = 0; i < lx->commands->len; i++) add_command(all, lx->commands->pdata[i]);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        add_link(all, link);
        if (simulated && link->medium == LEX_RADIO)
            add(all, link->place, "the radio of '%s', by the simulated board", link->name);
    }
    for (unsigned i = 0; i < lx->inputs->len; i++)
        add(all, ((struct lex_input *)lx->inputs->pdata[i])->place, "inputs");
    for (unsigned i = 0; i < lx->events->len; i++)
        add(all, ((struct lex_event *)lx->events->pdata[i])->place, "events");
    for (unsigned i = 0; i < lx->queries->len; i++)
        add(all, ((struct lex_query *)lx->queries->pdata[i])->place, "queries");
    for (unsigned i = 0; i < lx->settings->len; i++)
        add(all, ((struct lex_setting *)lx->settings->pdata[i])->place, "settings");
    for (unsigned i = 0; i < lx->routines->len; i++)
        add(all, ((struct lex_routine *)lx->routines->pdata[i])->place, "routines");
    return all;
}
