/* What a command does, in words that both lexicons share: outputs, functions, values with units.
 * Only the name of an output or function that was renamed is looked up.
 * It reads no text. */
#include "compare/compare_parts.h"

#include <string.h>

#include "lexicon/kind.h"
#include "lexicon/slot.h"
#include "rlx/drive.h"
#include "rlx/image.h"

/* Its name in the old lexicon. */
static const char *name_in_old(const struct parser *parser, const char *name)
{
    const char *old = g_hash_table_lookup(parser->names, name);
    return old ? old : name;
}

/* ---- values ---- */

/* "7.5 C", "30 ml", "90 s", "700" where it is scaled: as a quantity, however it is written. */
static char *quantity(const struct lex_element *e, int32_t value)
{
    if (e->scaled) return g_strdup_printf("%d", lex_value_scaled(e, value));
    if (e->form == LEX_TIME) return g_strdup_printf("%d ms", value);
    if (e->form == LEX_HEX) return g_strdup_printf("%d", value);
    char *text = lex_value_text(e, value);
    if (strchr(text, '.')) { /* 7.0 is 7 */
        char *end = text + strlen(text);
        while (end[-1] == '0') *--end = 0;
        if (end[-1] == '.') end[-1] = 0;
    }
    char *with = g_strdup_printf("%s%s%s", text, e->unit ? " " : "", e->unit ? e->unit : "");
    g_free(text);
    return with;
}

static char *value_words(const struct lex_element *e, int32_t value)
{
    switch (e->kind) {
    case LEX_NUMBER: return quantity(e, value);
    case LEX_CHOICE:
        if ((unsigned)value < e->words->len) return g_strdup(e->words->pdata[value]);
        break;
    case LEX_SET: return lex_set_text(e, value);
    case LEX_LIST: {
        char *least = quantity(e, e->low);
        const char *unit = strchr(least, ' ');
        char *list = g_strdup_printf("numbers%s%s, %u decimals", unit ? " of" : "",
                                     unit ? unit : "", e->decimals);
        g_free(least);
        return list;
    }
    case LEX_TEXT:
    case LEX_WORD: break;
    }
    return g_strdup("a text");
}

/* All slots' values but those of the output's name, joined. */
static char *all_values(const struct lex_command *command, const int32_t *values, unsigned given)
{
    GString *out = g_string_new(NULL);
    unsigned slot = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        int32_t value = slot < given ? values[slot] : e->fallback;
        slot++;
        if (e == command->effect.which) continue;
        char *words = value_words(e, value);
        g_string_append_printf(out, "%s%s", out->len ? ", " : "", words);
        g_free(words);
    }
    return g_string_free(out, FALSE);
}

/* ---- what it does ---- */

static const char *output_name(const struct parser *parser, const struct lex_command *command,
                               const int32_t *values, unsigned given)
{
    const struct lex_effect *effect = &command->effect;
    unsigned slot = 0;
    for (unsigned i = 0; effect->which && i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e == effect->which && slot < given && (unsigned)values[slot] < e->words->len) {
            const struct lex_output *out =
                parser->lx->outputs->pdata[effect->which->outputs[values[slot]]];
            return name_in_old(parser, out->name);
        }
        slot += e->kind != LEX_WORD;
    }
    const struct lex_output *out = lex_effect_output(parser->lx, effect);
    return out ? name_in_old(parser, out->name) : "nothing";
}

/* What the handler answers with, of these slots. */
static void put_held(GString *to, const GPtrArray *slots)
{
    for (unsigned i = 0; i < slots->len; i++) {
        const struct lex_element *e = slots->pdata[i];
        char *holds = lex_slot_of(e)->holds(e);
        g_string_append_printf(to, " %s%s", holds, e->glued ? e->unit : "");
        g_free(holds);
    }
}

char *meaning_of(const struct parser *parser, const struct lex_command *command,
                 const int32_t *values, unsigned given)
{
    const struct lex_effect *effect = &command->effect;
    char *all = all_values(command, values, given), *means = NULL;
    bool drives =
        effect->kind == LEX_SWITCH || effect->kind == LEX_LEVEL || effect->kind == LEX_VERB;
    char *argument = drives ? lex_effect_argument(parser->lx, effect) : g_strdup("");
    const char *space = *argument ? " " : "";
    switch (effect->kind) {
    case LEX_CALL: {
        char *function = g_strconcat(effect->handler, "()", NULL);
        means = g_strdup_printf("calls %s%s%s", name_in_old(parser, function), *all ? " with " : "",
                                all);
        g_free(function);
        if (command->told) {
            GString *told = g_string_new(means);
            g_string_append(told, ", answers with");
            put_held(told, command->told);
            g_free(means);
            means = g_string_free(told, FALSE);
        }
        break;
    }
    case LEX_SWITCH:
    case LEX_LEVEL:
    case LEX_VERB: {
        const char *verb = effect->verb ? effect->verb->word
                           : effect->fixed >= 0 && effect->kind == LEX_SWITCH
                               ? lex_verbs[effect->fixed].word
                               : "";
        means = g_strdup_printf("%s%s%s%s%s%s%s", output_name(parser, command, values, given),
                                *verb ? " " : "", verb, *all ? " " : "", all, space, argument);
        break;
    }
    case LEX_RUN: {
        const struct lex_routine *routine = parser->lx->routines->pdata[effect->output];
        means = g_strdup_printf("%s routine %s", effect->fixed == RLX_RUN ? "starts" : "stops",
                                routine->name);
        break;
    }
    case LEX_STORE: {
        const struct lex_setting *setting = parser->lx->settings->pdata[effect->output];
        means = g_strdup_printf("sets %s to %s", setting->name, all);
        break;
    }
    }
    g_free(argument);
    g_free(all);
    return means;
}

char *meaning_asked(const struct parser *parser, const char *name, const char *behind)
{
    const struct lex_setting *setting = lexicon_setting(parser->lx, name);
    const struct lex_output *out = lexicon_output(parser->lx, name);
    for (unsigned i = 0; i < parser->lx->queries->len; i++) {
        const struct lex_query *query = parser->lx->queries->pdata[i];
        if (strcmp(query->name, name) != 0) continue;
        char *function = g_strconcat(query->handler, "()", NULL);
        GString *asks = g_string_new(NULL);
        g_string_append_printf(asks, "asks %s for", name_in_old(parser, function));
        put_held(asks, query->elements);
        char **given = g_strsplit(behind, " ", -1); /* the first one is empty */
        for (unsigned k = 0; k < query->of->len && given[0] && given[k + 1]; k++)
            g_string_append_printf(asks, "%s %s", k ? "" : " of", given[k + 1]);
        g_strfreev(given);
        g_free(function);
        return g_string_free(asks, FALSE);
    }
    if (setting && setting->slot) {
        char *holds = lex_slot_of(setting->slot)->holds(setting->slot);
        char *asks = g_strdup_printf("asks for setting %s, %s", setting->name, holds);
        g_free(holds);
        return asks;
    }
    if (lexicon_input(parser->lx, name)) return g_strdup_printf("asks how %s is", name);
    return out ? g_strdup_printf("asks what %s is at, a %s", name_in_old(parser, out->name),
                                 lex_output_kinds[out->kind])
               : NULL;
}

/* ---- names ---- */

/* The one output of the new lexicon that hangs where this one did, and has a name that is new. */
static const struct lex_output *moved(const struct parser *old, const struct parser *now,
                                      const struct lex_output *out)
{
    const struct lex_output *found = NULL;
    for (unsigned i = 0; i < now->lx->outputs->len; i++) {
        const struct lex_output *other = now->lx->outputs->pdata[i];
        bool same = other->kind == out->kind && other->placed && out->placed &&
                    other->pwm == out->pwm && other->pin == out->pin;
        if (same && !lexicon_output(old->lx, other->name)) found = other;
    }
    return found;
}

static bool has_function(const struct lexicon *lx, const char *handler)
{
    bool found = false;
    for (unsigned i = 0; !found && i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        found = command->effect.kind == LEX_CALL && !strcmp(command->effect.handler, handler);
    }
    for (unsigned i = 0; !found && i < lx->queries->len; i++)
        found = !strcmp(((struct lex_query *)lx->queries->pdata[i])->handler, handler);
    return found;
}

static void rename_function(const struct parser *old, struct parser *now, const char *was,
                            const char *is)
{
    if (!strcmp(was, is) || has_function(now->lx, was) || has_function(old->lx, is)) return;
    g_hash_table_insert(now->names, g_strconcat(is, "()", NULL), g_strconcat(was, "()", NULL));
}

void meaning_renamed(const struct parser *old, struct parser *now)
{
    for (unsigned i = 0; i < old->lx->outputs->len; i++) {
        const struct lex_output *out = old->lx->outputs->pdata[i];
        const struct lex_output *other =
            lexicon_output(now->lx, out->name) ? NULL : moved(old, now, out);
        if (other) g_hash_table_insert(now->names, g_strdup(other->name), g_strdup(out->name));
    }
    for (unsigned i = 0; i < old->lx->commands->len; i++) {
        const struct lex_command *a = old->lx->commands->pdata[i];
        char *pattern = lex_command_text(a);
        for (unsigned k = 0; a->effect.kind == LEX_CALL && k < now->lx->commands->len; k++) {
            const struct lex_command *b = now->lx->commands->pdata[k];
            char *other = lex_command_text(b);
            if (b->effect.kind == LEX_CALL && !strcmp(pattern, other))
                rename_function(old, now, a->effect.handler, b->effect.handler);
            g_free(other);
        }
        g_free(pattern);
    }
    for (unsigned i = 0; i < old->lx->queries->len; i++)
        for (unsigned k = 0; k < now->lx->queries->len; k++) {
            const struct lex_query *a = old->lx->queries->pdata[i], *b = now->lx->queries->pdata[k];
            if (!strcmp(a->name, b->name)) rename_function(old, now, a->handler, b->handler);
        }
}
