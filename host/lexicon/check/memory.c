/* Checks that the non-volatile memory holds what is kept, and that not anybody can wear it out.
 * How much that is stands in host/lexicon/memory.c.
 * Without `memory` the areas are as large as they need to be. */
#include "lexicon/check/checks.h"
#include "rlx/def/knobs.h"

/* Names the first link that anybody can reach. D52 tells of locks there. */
static void check_wear(struct lexicon *lx, const struct lex_setting *setting)
{
    const struct lex_command *command = lex_storing(lx, setting);
    if (setting->saved_every || !setting->slot || lex_is_guarded(command) ||
        lex_is_lock(lx, setting->name))
        return;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!check_open_to_all(link) || !lex_may_say(link, command)) continue;
        struct lex_fault *fault = check_find(
            lx, LEX_D60, setting->place, setting->name, lex_command_longest(command, false),
            "whoever reaches '%s' can change '%s' without end: after %.0f changes a page of "
            "the memory was erased %u times",
            link->name, setting->name, lex_nv_outlasts(lx, lex_nv_changes(lx, setting)),
            lex_nv_endurance(lx));
        fault->advice = g_strdup("saved every 10s");
        return;
    }
}

/* Whether it must not be done twice: a handler, or a verb like `toggle` that can stand in it. */
static bool is_once(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_effect *effect = &command->effect;
    const struct lex_output *out = lex_effect_output(lx, effect);
    if (effect->kind == LEX_CALL) return !command->query;
    if (effect->verb && !effect->verb->again) return true;
    for (unsigned i = 0; out && i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        for (unsigned k = 0; e->kind == LEX_CHOICE && k < e->words->len; k++) {
            const struct lex_verb *verb = lex_verb_of(out, e->words->pdata[k]);
            if (verb && !verb->again) return true;
        }
    }
    return false;
}

/* The same of a link whose commands are recorded. */
static void check_records(struct lexicon *lx, const struct lex_link *link)
{
    if (!link->tags_kept || !check_open_to_all(link)) return;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!is_once(lx, command) || lex_is_guarded(command) || !lex_may_say(link, command))
            continue;
        struct lex_fault *fault = check_find(
            lx, LEX_D60, link->place, link->name, lex_command_longest(command, false),
            "whoever reaches '%s' can have '%s' recorded without end: after %.0f times a page of "
            "the memory was erased %u times",
            link->name, check_subject(command), lex_nv_outlasts(lx, lex_nv_commands(lx, link)),
            lex_nv_endurance(lx));
        fault->advice = g_strdup("memory 2 pages of 1024 bytes  erases 20 a day");
        return;
    }
}

void check_memory(struct lexicon *lx)
{
    unsigned needs = lex_nv_needs(lx), area = lex_nv_area(lx), page = lx->nv_page;
    if (needs > RLX_MOST_NV_AREA_BYTES) {
        check_find(lx, LEX_D49, page ? lx->nv_place : lx->place, "memory", NULL,
                   "what is kept needs an area of %u bytes; one has at most %d", needs,
                   RLX_MOST_NV_AREA_BYTES);
        return;
    }
    for (unsigned i = 0; area >= needs && !lx->nv_erases && i < lx->settings->len; i++)
        check_wear(lx, lx->settings->pdata[i]);
    for (unsigned i = 0; area >= needs && !lx->nv_erases && i < lx->links->len; i++)
        check_records(lx, lx->links->pdata[i]);
    if (area >= needs) return;
    struct lex_fault *fault =
        check_find(lx, LEX_D49, lx->nv_place, "memory", NULL,
                   "half of the memory is %u bytes; what is kept needs %u", area, needs);
    unsigned pages = (needs + page - 1) / page;
    if (pages * page <= RLX_MOST_NV_AREA_BYTES)
        fault->advice = g_strdup_printf("memory %u pages of %u bytes", 2 * pages, page);
}
