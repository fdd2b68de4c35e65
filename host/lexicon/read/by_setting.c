/* Times and ranges by settings: `expires SETTING`, `{0..100 up to SETTING}`.
 * A time is then the setting's standard, for whatever reckons with it.
 * Whether a range can be left empty is in check/. */
#include "lexicon/read/reader.h"

#include <string.h>

bool statement_time_by(struct statement *st, const char *what, uint32_t least, uint32_t most,
                       uint32_t *ms, char **by)
{
    const struct token *token = statement_peek(st);
    g_clear_pointer(by, g_free);
    if (token->kind == TOKEN_WORD && g_ascii_isalpha(*token->text))
        return (*by = statement_name(st, "a time, or a setting that has one")) != NULL;
    return statement_time(st, what, least, most, ms);
}

/* ---- times ---- */

/* What a time by a setting may be. */
struct times {
    const char *word;
    int32_t least, most;
};

static bool is_within(const struct lex_element *slot, const struct times *times)
{
    return slot->kind == LEX_NUMBER && slot->form == LEX_TIME && slot->low >= times->least &&
           slot->high <= times->most;
}

/* The time that the setting has as long as nobody changed it; 0 after a fault. */
static uint32_t time_of(struct lexicon *lx, struct lex_place place, const struct times *times,
                        const char *name)
{
    const struct lex_setting *setting = lexicon_setting(lx, name);
    struct lex_element any = {.kind = LEX_NUMBER, .form = LEX_TIME};
    if (setting && !setting->slot) return 0;
    if (setting && is_within(setting->slot, times)) return (uint32_t)setting->standard;
    any.low = times->least;
    any.high = times->most;
    char *range = lex_range_text(&any);
    if (setting)
        lex_fault(lx, place, "'%s %s': the setting needs a time of %s, like {time %s}", times->word,
                  name, range, times->most > 60000 ? "1s..10min" : "10ms..1s");
    else
        lex_fault(lx, place, "'%s %s': expected a time, like %s, or a setting that has one",
                  times->word, name, times->most > 60000 ? "2s" : "20ms");
    g_free(range);
    return 0;
}

static void find_lasting(struct lexicon *lx, struct lex_command *command)
{
    static const struct times expires = {"expires", 10, RLX_LASTS_MAX},
                              lasts = {"for", 10, RLX_LASTS_MAX};
    struct lex_effect *effect = &command->effect;
    if (command->expires_by)
        command->expires = time_of(lx, command->place, &expires, command->expires_by);
    if (effect->lasts_by) effect->lasts = time_of(lx, command->place, &lasts, effect->lasts_by);
}

static void find_output_times(struct lexicon *lx, struct lex_output *out)
{
    static const struct times expires = {"expires", 10, RLX_LASTS_MAX},
                              ramps[] = {{"fade", 1, LEX_RAMP_MOST},
                                         {"slew", 1, LEX_RAMP_MOST},
                                         {"ramp", 1, LEX_RAMP_MOST}};
    unsigned ramp = out->kind == LEX_LED ? 0 : out->kind == LEX_SERVO ? 1 : 2;
    uint32_t *const ms[] = {&out->fade, &out->slew, &out->ramp};
    if (out->expires_by) out->expires = time_of(lx, out->place, &expires, out->expires_by);
    if (out->ramp_by) *ms[ramp] = time_of(lx, out->place, &ramps[ramp], out->ramp_by);
}

/* Of a group's members the shortest expiry counts, which is known only where each is a time. */
static void check_members(struct lexicon *lx, const struct lex_output *group)
{
    for (unsigned i = 0; i < group->members->len; i++) {
        const struct lex_output *member = lexicon_output(lx, group->members->pdata[i]);
        if (member && member->expires_by)
            lex_fault(lx, group->place, "'%s' expires by setting '%s', and can be in no group",
                      member->name, member->expires_by);
    }
}

/* ---- bounds ---- */

bool lex_is_bound(const struct lex_element *e)
{
    return e->from || e->upto;
}

void lex_bounds_now(const struct lexicon *lx, const struct lex_element *e, int32_t *low,
                    int32_t *high)
{
    const struct lex_setting *from = e->from ? lexicon_setting(lx, e->from) : NULL,
                             *upto = e->upto ? lexicon_setting(lx, e->upto) : NULL;
    *low = from ? MAX(e->low, from->standard) : e->low;
    *high = upto ? MIN(e->high, upto->standard) : e->high;
}

const struct lex_element *lex_beyond_now(const struct lexicon *lx, const char *text)
{
    int32_t values[15], low, high;
    unsigned given, slot = 0;
    const struct lex_command *command = lex_command_taking(lx, text, values, &given);
    for (unsigned i = 0; command && i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD || slot == given) continue;
        int32_t value = values[slot++];
        if (!lex_is_bound(e)) continue;
        lex_bounds_now(lx, e, &low, &high);
        if (value < low || value > high) return e;
    }
    return NULL;
}

/* One end of the range: the setting is there, and is a number of the same form and unit. */
static void check_bound(struct lexicon *lx, const struct lex_element *e, const char *words,
                        const char *name)
{
    const struct lex_setting *setting = name ? lexicon_setting(lx, name) : NULL;
    const struct lex_element *slot = setting ? setting->slot : NULL;
    if (name && !setting)
        lex_fault(lx, e->place, "'%s %s': there is no setting '%s'", words, name, name);
    if (!slot) return;
    bool alike = slot->kind == LEX_NUMBER && slot->form == e->form &&
                 slot->decimals == e->decimals && !g_strcmp0(slot->unit, e->unit);
    if (slot == e) {
        lex_fault(lx, e->place, "'%s %s': a setting is no bound of itself", words, name);
    } else if (!alike) {
        char *range = lex_range_text(e);
        lex_fault(lx, e->place,
                  "'%s %s': the setting has to be a number like this one, with as many decimals "
                  "and the same unit, like {%s%s}",
                  words, name, range, e->unit ? e->unit : "");
        g_free(range);
    }
}

/* What a setting is before anybody changes it has to be within its own bounds. */
static void check_standard(struct lexicon *lx, const struct lex_setting *own, const char *name,
                           int sign)
{
    const struct lex_setting *other = name ? lexicon_setting(lx, name) : NULL;
    if (!other || !other->slot || (int64_t)sign * ((int64_t)own->standard - other->standard) <= 0)
        return;
    char *value = lex_value_text(own->slot, own->standard);
    lex_fault(lx, own->place, "'%s' begins with %s, and its bound '%s' with %s: it is beyond that",
              own->name, value, name, other->value);
    g_free(value);
}

static void check_bounds(struct lexicon *lx, const struct lex_command *command,
                         const struct lex_element *e)
{
    unsigned faults = lx->faults->len;
    if (!lex_is_bound(e)) return;
    if (e->kind == LEX_LIST || lex_is_told(command, e))
        lex_fault(lx, e->place, "only one number that is sent has a setting for a bound");
    else if (e->optional)
        lex_fault(
            lx, e->place,
            "what may be left out has no setting for a bound: its default could be beyond it");
    check_bound(lx, e, "from", e->from);
    check_bound(lx, e, "up to", e->upto);
    if (command->effect.kind != LEX_STORE || lx->faults->len > faults) return;
    check_standard(lx, lx->settings->pdata[command->effect.output], e->from, -1);
    check_standard(lx, lx->settings->pdata[command->effect.output], e->upto, 1);
}

void finish_by_settings(struct lexicon *lx)
{
    static const struct times debounce = {"debounce", 1, LEX_DEBOUNCE_MOST};
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        find_lasting(lx, command);
        for (unsigned k = 0; k < command->elements->len; k++)
            check_bounds(lx, command, command->elements->pdata[k]);
        for (unsigned k = 0; command->told && k < command->told->len; k++)
            check_bounds(lx, command, command->told->pdata[k]);
    }
    for (unsigned i = 0; i < LEX_WHENS * lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i / LEX_WHENS];
        if (in->acts[i % LEX_WHENS]) find_lasting(lx, in->acts[i % LEX_WHENS]);
    }
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        struct lex_input *in = lx->inputs->pdata[i];
        if (in->debounce_by) in->debounce = time_of(lx, in->place, &debounce, in->debounce_by);
    }
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        find_output_times(lx, lx->outputs->pdata[i]);
        check_members(lx, lx->outputs->pdata[i]);
    }
}
