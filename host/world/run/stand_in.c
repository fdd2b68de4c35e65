/* Keeps the contract of a handler by the calls that a firmware would make.
 * A state is that of scenes: on, 40%, opening, 1500us.
 * What no contract says it does not do. */
#include "world/run/stand_in.h"

#include <stdlib.h>
#include <string.h>

#include "lexicon/contract.h"
#include "lexicon/kind.h"

/* A motor's level is its speed and its way. */
static int turn(struct rlx_device *device, uint8_t output, int percent)
{
    if (!percent) return rlx_output_act(device, output, RLX_STOP, 0);
    rlx_output_act(device, output, RLX_SPEED, (uint32_t)abs(percent));
    return rlx_output_act(device, output, percent < 0 ? RLX_BACK : RLX_FORWARD, 0);
}

static int bring(struct rlx_device *device, const struct lex_output *out, uint8_t output,
                 const char *state)
{
    static const struct {
        const char *state;
        enum rlx_verb verb;
    } ways[] = {{"opening", RLX_OPEN}, {"closing", RLX_CLOSE}, {"stopped", RLX_STOP},
                {"holding", RLX_STOP}, {"moving", RLX_HOME},   {"released", RLX_RELEASE}};
    if (!strcmp(state, "on") || !strcmp(state, "off"))
        return rlx_output_switch(device, output, strcmp(state, "on") ? RLX_OFF : RLX_ON);
    for (unsigned i = 0; i < G_N_ELEMENTS(ways); i++)
        if (!strcmp(state, ways[i].state)) return rlx_output_act(device, output, ways[i].verb, 0);
    if (g_str_has_suffix(state, "us"))
        return rlx_output_pulse(device, output, (uint16_t)atoi(state));
    if (lex_kind_of(out)->levels == LEX_LEVELS_SIGNED) return turn(device, output, atoi(state));
    return rlx_output_level(device, output, (uint8_t)atoi(state));
}

static int keep(struct rlx_device *device, const struct lexicon *lx,
                const struct lex_contract *contract, const struct lex_command *command,
                const rlx_value *values)
{
    int result = 0;
    for (unsigned i = 0; i < contract->promises->len && result >= 0; i++) {
        const struct lex_promise *promise = contract->promises->pdata[i];
        if (promise->leaves || !lex_promise_holds(promise, command, values)) continue;
        char *state = lex_promise_state(lx, promise, command, values);
        uint32_t lasts = lex_promise_lasts(promise, command, values);
        if (lasts) rlx_output_lasts(device, (uint8_t)promise->output, lasts);
        if (state)
            result =
                bring(device, lx->outputs->pdata[promise->output], (uint8_t)promise->output, state);
        g_free(state);
    }
    return MIN(result, 0);
}

/* The value that the followed command was obeyed with last. */
static void tell(const struct lex_contract *contract, const struct lex_command *asked,
                 const GPtrArray *called, rlx_value *value, const struct stand_in_last *last)
{
    const struct lex_element *told = asked->told->pdata[0];
    unsigned place;
    if (!lex_contract_slot(contract->followed, told->text, &place)) return;
    for (unsigned i = 0; i < called->len; i++)
        if (called->pdata[i] == contract->followed && last[i].given) *value = last[i].values[place];
}

int stand_in_act(struct rlx_device *device, const struct lexicon *lx, const GPtrArray *called,
                 unsigned handler, rlx_value *values, struct stand_in_last *last)
{
    const struct lex_command *command = called->pdata[handler];
    const struct lex_contract *contract = lex_contract_of(lx, command->effect.handler);
    memcpy(last[handler].values, values, sizeof last[handler].values);
    last[handler].given = true;
    if (contract && contract->followed && command->told && command->told->len)
        tell(contract, command, called, values + device->n_values, last);
    return contract ? keep(device, lx, contract, command, values) : 0;
}
