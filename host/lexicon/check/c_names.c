/* Checks the lexicon's names as identifiers of the emitted C.
 * Every name that will be emitted is made and looked up among those before it.
 * It emits nothing. */
#include <string.h>

#include "lexicon/check/checks.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"

struct names {
    struct lexicon *lx;
    GHashTable *taken; /* identifier -> what has it */
};

/* One identifier of the emitted C and what it is for. */
static void claim(struct names *names, struct lex_place place, char *identifier, char *what)
{
    const char *other = g_hash_table_lookup(names->taken, identifier);
    if (lex_is_keyword(identifier))
        lex_find(names->lx, LEX_D09, place, "%s becomes '%s', a word of C or C++", what,
                 identifier);
    else if (other)
        lex_find(names->lx, LEX_D09, place, "%s and %s both become '%s' in C", other, what,
                 identifier);
    g_hash_table_insert(names->taken, identifier, what);
}

static void claim_upper(struct names *names, struct lex_place place, const char *kind,
                        const char *name)
{
    char *upper = lex_identifier(name, true), *prefix = lex_identifier(names->lx->name, true);
    char *what = g_ascii_strdown(kind, -1);
    claim(names, place, g_strdup_printf("%s_%s_%s", prefix, kind, upper),
          g_strdup_printf("the %s '%s'", what, name));
    g_free(what);
    g_free(upper);
    g_free(prefix);
}

/* A handler's arguments, beside the device itself. */
static void claim_arguments(struct lexicon *lx, const GPtrArray *elements)
{
    struct names names = {lx, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    g_hash_table_insert(names.taken, g_strdup(lx->name), g_strdup("the device itself"));
    for (unsigned i = 0; i < elements->len; i++) {
        const struct lex_element *e = elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        char *name = lex_argument_name(elements, e);
        const char *more = lex_slot_of(e)->count;
        if (more)
            claim(&names, e->place, g_strdup_printf("%s_%s", name, more),
                  g_strdup_printf("the %s of the slot '%s'", more, e->text));
        claim(&names, e->place, name,
              g_strdup_printf("the slot '%s'", e->text ? e->text : "choice"));
    }
    g_hash_table_destroy(names.taken);
}

/* Commands may share a handler, queries a function; not one with the other. */
static void claim_handler(struct names *names, struct lex_place place, const char *handler,
                          const char *what)
{
    char *name = g_strdup_printf("%s_%s", names->lx->name, handler);
    const char *before = g_hash_table_lookup(names->taken, name);
    if (!before || !g_str_has_prefix(before, what))
        claim(names, place, g_strdup(name), g_strdup_printf("%s '%s()'", what, handler));
    g_free(name);
}

/* Its number, those of its words, and the function that sends it. */
static void claim_event(struct names *names, const struct lex_event *event)
{
    claim_upper(names, event->place, "EVENT", event->name);
    for (unsigned i = 0; event->what && event->what->words && i < event->what->words->len; i++) {
        char *name = g_strdup_printf("%s_%s", event->name, (char *)event->what->words->pdata[i]);
        claim_upper(names, event->place, "EVENT", name);
        g_free(name);
    }
    char *name = lex_identifier(event->name, false);
    claim(names, event->place, g_strdup_printf("%s_send_%s", names->lx->name, name),
          g_strdup_printf("the function that sends the event '%s'", event->name));
    g_free(name);
}

/* The calls for an output that the firmware drives too. */
static void claim_calls(struct names *names, const struct lex_output *out)
{
    char *name = lex_identifier(out->name, false);
    claim(names, out->place, g_strdup_printf("%s_%s_safe", names->lx->name, name),
          g_strdup_printf("the call that makes '%s' safe", out->name));
    if (out->by == LEX_BY_FIRMWARE)
        claim(names, out->place, g_strdup_printf("%s_%s", names->lx->name, name),
              g_strdup_printf("the firmware's call for '%s'", out->name));
    g_free(name);
}

void check_names(struct lexicon *lx)
{
    struct names names = {lx, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    claim(&names, lx->place, g_strdup(lx->name), g_strdup("the lexicon's name"));
    claim(&names, lx->place, g_strdup_printf("%s_init", lx->name),
          g_strdup("the start of the device"));
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        claim_upper(&names, out->place, "OUTPUT", out->name);
        if (out->by) claim_calls(&names, out);
    }
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        claim_upper(&names, link->place, "LINK", link->name);
    }
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i];
        claim_upper(&names, in->place, "INPUT", in->name);
    }
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        claim_event(&names, event);
    }
    for (unsigned i = 0; i < lx->reasons->len; i++)
        claim_upper(&names, lx->place, "REFUSES", lx->reasons->pdata[i]);
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        claim_upper(&names, setting->place, "SETTING", setting->name);
    }
    for (unsigned i = 0; i < lx->routines->len; i++) {
        const struct lex_routine *routine = lx->routines->pdata[i];
        claim_upper(&names, routine->place, "ROUTINE", routine->name);
    }
    GPtrArray *callers = lex_callers(lx);
    for (unsigned i = 0; i < callers->len; i++) {
        const struct lex_command *command = callers->pdata[i];
        claim_handler(&names, command->place, command->effect.handler, "the handler");
        claim_arguments(lx, lex_arguments(command));
    }
    g_ptr_array_free(callers, TRUE);
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        claim_handler(&names, query->place, query->handler, "the query");
        claim_arguments(lx, lex_arguments(query->asked));
    }
    g_hash_table_destroy(names.taken);
}
