/* Checks that the contracts of handlers can hold: the firmware may drive what they make, at once
 * and for so long, and no two of them want different things.
 * Whether a firmware keeps them is tried by the drill. */
#include <string.h>

#include "lexicon/check/checks.h"
#include "lexicon/contract.h"
#include "lexicon/kind.h"

static struct lex_fault *cannot(struct lexicon *lx, const struct lex_contract *contract,
                                const struct lex_promise *promise, const char *format, ...)
    G_GNUC_PRINTF(4, 5);
static struct lex_fault *cannot(struct lexicon *lx, const struct lex_contract *contract,
                                const struct lex_promise *promise, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *why = g_strdup_vprintf(format, args), *text = lex_promise_text(lx, promise);
    va_end(args);
    struct lex_fault *fault = check_find(lx, LEX_D61, promise->place, contract->handler, NULL,
                                         "%s() cannot keep '%s': %s", contract->handler, text, why);
    g_free(text);
    g_free(why);
    return fault;
}

static bool is_safe_state(const struct lex_output *out, const struct lex_promise *promise)
{
    char *safe = lex_kind_of(out)->state_at(out, out->safe);
    const char *state = promise->state;
    bool off = state && (!strcmp(state, "off") || !strcmp(state, "0%"));
    bool is = state && safe && (!strcmp(safe, state) || (off && !out->safe));
    g_free(safe);
    return is;
}

static void check_driver(struct lexicon *lx, const struct lex_contract *contract,
                         const struct lex_promise *promise, const struct lex_output *out)
{
    bool may = out->by == LEX_BY_FIRMWARE ||
               (out->by == LEX_BY_FIRMWARE_SAFE && is_safe_state(out, promise));
    if (may) return;
    struct lex_fault *fault =
        cannot(lx, contract, promise,
               out->by == LEX_BY_FIRMWARE_SAFE ? "the firmware may only make '%s' safe"
                                               : "commands alone drive '%s'",
               out->name);
    fault->advice = g_strdup_printf("output %s ... by firmware", out->name);
}

/* So long it can take before the output is as it should. */
static uint32_t delay_of(const struct lex_output *out, const struct lex_promise *promise)
{
    const char *state = promise->state;
    bool off = state && (!strcmp(state, "off") || !strcmp(state, "0%"));
    return (off ? out->min_on : out->min_off) + out->dead + out->ramp + out->fade;
}

static void check_times(struct lexicon *lx, const struct lex_contract *contract,
                        const struct lex_promise *promise, const struct lex_output *out)
{
    uint32_t delay = delay_of(out, promise), enough = delay + LEX_WITHIN_MS;
    if (delay > promise->within) {
        struct lex_fault *fault =
            cannot(lx, contract, promise, "'%s' may take %u ms by its own times", out->name, delay);
        fault->advice = enough > 2000 ? g_strdup_printf("within %us", (enough + 999) / 1000)
                                      : g_strdup_printf("within %ums", enough);
    }
    if (out->expires && promise->lasts > out->expires && !is_safe_state(out, promise))
        cannot(lx, contract, promise, "'%s' expires after %u ms", out->name, out->expires);
}

/* Whether there are values for which both are promised. */
static bool meet(const struct lex_promise *a, const struct lex_promise *b)
{
    if (!a->when || !b->when) return true;
    char **words = g_strsplit(a->when, "|", -1), **others = g_strsplit(b->when, "|", -1);
    bool both = false;
    for (char **word = words; *word; word++)
        both |= g_strv_contains((const char *const *)others, *word);
    g_strfreev(words);
    g_strfreev(others);
    return both;
}

static void check_other(struct lexicon *lx, const struct lex_contract *contract,
                        const struct lex_promise *promise, const struct lex_promise *other)
{
    bool same = promise->leaves == other->leaves && !g_strcmp0(promise->state, other->state) &&
                !g_strcmp0(promise->slot, other->slot);
    if (promise->output != other->output || same || !meet(promise, other)) return;
    char *text = lex_promise_text(lx, other);
    cannot(lx, contract, promise, "it also promises '%s'", text);
    g_free(text);
}

static bool is_on(const struct lex_promise *promise)
{
    return !promise->leaves && promise->state && strcmp(promise->state, "off") != 0 &&
           strcmp(promise->state, "0%") != 0;
}

/* Two of an interlock are never on together. */
static void check_interlock(struct lexicon *lx, const struct lex_contract *contract,
                            const struct lex_promise *promise, const struct lex_promise *other)
{
    const struct lex_output *out = lx->outputs->pdata[promise->output],
                            *beside = lx->outputs->pdata[other->output];
    if (out == beside || !out->interlock || !is_on(promise) || !is_on(other) ||
        g_strcmp0(out->interlock, beside->interlock) != 0 || !meet(promise, other))
        return;
    cannot(lx, contract, promise, "'%s' and '%s' are never on together: interlock %s", out->name,
           beside->name, out->interlock);
}

void check_contracts(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->contracts->len; i++) {
        const struct lex_contract *contract = lx->contracts->pdata[i];
        for (unsigned k = 0; k < contract->promises->len; k++) {
            const struct lex_promise *promise = contract->promises->pdata[k];
            const struct lex_output *out = lx->outputs->pdata[promise->output];
            if (!promise->leaves) check_driver(lx, contract, promise, out);
            if (!promise->leaves) check_times(lx, contract, promise, out);
            for (unsigned n = 0; n < k; n++) {
                check_other(lx, contract, promise, contract->promises->pdata[n]);
                check_interlock(lx, contract, promise, contract->promises->pdata[n]);
            }
        }
    }
}
