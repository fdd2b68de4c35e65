/* Counts what of a lexicon decides how large its firmware is.
 * From the lexicon and its table image, before anything is compiled.
 * It knows no chip. */
#include "weigh/facts.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/write/emit.h"

static const char *const names[WEIGH_FACTS] = {
#define NAME(id, what) [WEIGH_##id] = #id,
    WEIGH_COUNTS(NAME)
#undef NAME
#define NAME(id, name) [WEIGH_HAS_##id] = "HAS_" #id,
        RLX_FEATURES(NAME)
#undef NAME
#define NAME(id, word, spoken, sentence) [WEIGH_WORD_##id] = "WORD_" #id,
            RLX_BUILT_INS(NAME)
#undef NAME
#define NAME(id, word, drive) [WEIGH_KIND_##id] = "KIND_" #id,
                RLX_OUTPUT_KINDS(NAME)
#undef NAME
};

const char *weigh_fact_name(enum weigh_fact fact)
{
    return names[fact];
}

static void count_links(const struct lexicon *lx, double facts[WEIGH_FACTS])
{
    const struct lex_link *first = lx->links->len ? lx->links->pdata[0] : NULL;
    guint64 framings = 0;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        framings |= UINT64_C(1) << link->frame;
        facts[WEIGH_MODEMS] += lex_drives_modem(link);
        facts[WEIGH_DIFFER] += link->medium != first->medium || link->frame != first->frame ||
                               link->check != first->check || link->replies != first->replies;
        facts[WEIGH_BUFFERS] += link->receive + link->transmit + link->longest;
        for (unsigned k = 0; k < lx->events->len; k++)
            facts[WEIGH_EVENTS] += image_tells(lx->events->pdata[k], link);
        GPtrArray *keys = lex_keys_of(lx, link);
        unsigned senders = link->tags ? MAX(link->senders, 1) : link->seal ? keys->len : 0;
        facts[WEIGH_SENDERS] += senders;
        facts[WEIGH_KEPT] += senders * (double)emit_kept(lx);
        g_ptr_array_free(keys, TRUE);
    }
    for (; framings; framings &= framings - 1) facts[WEIGH_FRAMINGS]++;
}

void weigh_facts(const struct lexicon *lx, const struct image *image, double facts[WEIGH_FACTS])
{
    memset(facts, 0, WEIGH_FACTS * sizeof *facts);
    facts[WEIGH_ONE] = 1;
    facts[WEIGH_LINKS] = lx->links->len;
    facts[WEIGH_SEVERAL_LINKS] = lx->links->len > 1;
    facts[WEIGH_OUTPUTS] = lx->outputs->len;
    facts[WEIGH_INPUTS] = lx->inputs->len;
    facts[WEIGH_ROUTINES] = lx->routines->len;
    facts[WEIGH_SETTINGS] = lex_n_settings(lx);
    facts[WEIGH_SETTING_TEXTS] = image->setting_texts;
    facts[WEIGH_HANDLERS] = image->handlers->len;
    facts[WEIGH_SIGNATURES] = image->signatures->len;
    for (unsigned i = 0; i < image->signatures->len; i++) {
        const char *list = image->signatures->pdata[i];
        facts[WEIGH_PARAMETERS] += *list != 0;
        for (; *list; list++) facts[WEIGH_PARAMETERS] += *list == ',';
    }
    facts[WEIGH_SLOTS] = image->slots;
    facts[WEIGH_IMAGE] = image->bytes->len;
    facts[WEIGH_AHEAD] = emit_ahead(lx);
    facts[WEIGH_SAID] = MAX(emit_says(lx), 0);
    count_links(lx, facts);
    for (unsigned i = 0; i < RLX_N_FEATURES; i++)
        facts[WEIGH_HAS_ANY_CASE + i] = image_needs(image, i);
    for (unsigned i = 0; WEIGH_WORD_HALT + i < WEIGH_KIND_RELAY; i++)
        facts[WEIGH_WORD_HALT + i] = lx->built_in >> i & 1;
    for (unsigned i = 0; i < lx->outputs->len; i++)
        facts[WEIGH_KIND_RELAY + ((struct lex_output *)lx->outputs->pdata[i])->kind]++;
}
