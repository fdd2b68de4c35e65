/* What a contract means for the values of a command: the state of an output, and for how long.
 * The stand-ins of handlers and the drill both ask here.
 * Whether a contract can hold is in check/contracts.c. */
#include "lexicon/contract.h"

#include <string.h>

#include "lexicon/kind.h"

const struct lex_contract *lex_contract_of(const struct lexicon *lx, const char *handler)
{
    for (unsigned i = 0; i < lx->contracts->len; i++) {
        const struct lex_contract *contract = lx->contracts->pdata[i];
        if (!strcmp(contract->handler, handler)) return contract;
    }
    return NULL;
}

const struct lex_element *lex_contract_slot(const struct lex_command *command, const char *name,
                                            unsigned *place)
{
    *place = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind != LEX_WORD && !g_strcmp0(e->text, name)) return e;
        *place += lex_slot_values(e);
    }
    return NULL;
}

/* Whether a word of the choice is among those of "skim|drain". */
static bool is_among(const char *words, const char *word)
{
    char **each = g_strsplit(words, "|", -1);
    bool is = g_strv_contains((const char *const *)each, word);
    g_strfreev(each);
    return is;
}

bool lex_promise_holds(const struct lex_promise *promise, const struct lex_command *command,
                       const int32_t *values)
{
    unsigned place = 0;
    if (!promise->when) return true;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_CHOICE && (unsigned)values[place] < e->words->len &&
            is_among(promise->when, e->words->pdata[values[place]]))
            return true;
        place += lex_slot_values(e);
    }
    return false;
}

char *lex_promise_state(const struct lexicon *lx, const struct lex_promise *promise,
                        const struct lex_command *command, const int32_t *values)
{
    unsigned place;
    const struct lex_output *out = lx->outputs->pdata[promise->output];
    if (promise->state || !promise->slot) return g_strdup(promise->state);
    const struct lex_element *slot = lex_contract_slot(command, promise->slot, &place);
    if (!slot) return NULL;
    if (slot->kind == LEX_CHOICE) return g_strdup(slot->words->pdata[values[place]]);
    if (lex_kind_of(out)->levels == LEX_LEVELS_OWN)
        return g_strdup_printf("%d%s", lex_value_scaled(out->range, values[place]),
                               lex_kind_of(out)->becomes);
    return g_strdup_printf("%d%%", values[place]);
}

uint32_t lex_promise_lasts(const struct lex_promise *promise, const struct lex_command *command,
                           const int32_t *values)
{
    unsigned place;
    if (!promise->lasts_by) return promise->lasts;
    return lex_contract_slot(command, promise->lasts_by, &place) ? (uint32_t)values[place] : 0;
}

/* ---- in words ---- */

static void put_time(GString *to, const char *before, uint32_t ms)
{
    const struct lex_element time = {.form = LEX_TIME};
    char *text = lex_value_text(&time, (int32_t)ms);
    g_string_append_printf(to, " %s %s", before, text);
    g_free(text);
}

char *lex_promise_text(const struct lexicon *lx, const struct lex_promise *p)
{
    GString *text = g_string_new(p->leaves ? "leaves" : "makes");
    g_string_append_printf(text, " %s", ((struct lex_output *)lx->outputs->pdata[p->output])->name);
    if (p->state) g_string_append_printf(text, " %s", p->state);
    if (p->slot) g_string_append_printf(text, " {%s}", p->slot);
    if (p->when) g_string_append_printf(text, " when %s", p->when);
    if (!p->leaves && p->within != LEX_WITHIN_MS) put_time(text, "within", p->within);
    if (p->lasts_by)
        g_string_append_printf(text, " for {%s}", p->lasts_by);
    else if (p->lasts)
        put_time(text, "for", p->lasts);
    return g_string_free(text, FALSE);
}

GPtrArray *lex_contract_clauses(const struct lexicon *lx, const struct lex_contract *contract)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    const struct lex_element time = {.form = LEX_TIME};
    for (unsigned i = 0; i < contract->promises->len; i++)
        g_ptr_array_add(all, lex_promise_text(lx, contract->promises->pdata[i]));
    if (contract->leaves_others) g_ptr_array_add(all, g_strdup("leaves others"));
    if (contract->follows) g_ptr_array_add(all, g_strdup_printf("follows %s", contract->follows));
    if (contract->ok) g_ptr_array_add(all, g_strdup("answers ok"));
    if (contract->takes) {
        char *most = lex_value_text(&time, (int32_t)contract->takes);
        g_ptr_array_add(all, g_strdup_printf("takes %s", most));
        g_free(most);
    }
    return all;
}

char *lex_contract_text(const struct lexicon *lx, const struct lex_contract *contract)
{
    GPtrArray *clauses = lex_contract_clauses(lx, contract);
    g_ptr_array_add(clauses, NULL);
    char *text = g_strjoinv(", ", (char **)clauses->pdata);
    g_ptr_array_free(clauses, TRUE);
    return text;
}
