/* Reads `contract FUNCTION() ...`: what a handler must do with outputs, answers and time.
 * Functions, slots and commands are found when everything is read.
 * Whether the contract can hold is checked in check/contracts.c. */
#include <string.h>

#include "lexicon/contract.h"
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"

#define DAY_MS 86400000u

static void promise_free(void *p)
{
    struct lex_promise *promise = p;
    g_free(promise->state);
    g_free(promise->slot);
    g_free(promise->when);
    g_free(promise->lasts_by);
    g_free(promise);
}

void lex_contract_free(void *p)
{
    struct lex_contract *contract = p;
    g_ptr_array_free(contract->promises, TRUE);
    g_free(contract->handler);
    g_free(contract->follows);
    g_free(contract);
}

/* The one of the function, which several statements may make together. */
static struct lex_contract *contract_for(struct lexicon *lx, struct lex_place place, char *handler)
{
    for (unsigned i = 0; i < lx->contracts->len; i++) {
        struct lex_contract *contract = lx->contracts->pdata[i];
        if (strcmp(contract->handler, handler) != 0) continue;
        g_free(handler);
        return contract;
    }
    struct lex_contract *contract = g_new0(struct lex_contract, 1);
    *contract = (struct lex_contract){.place = place, .handler = handler};
    contract->promises = g_ptr_array_new_with_free_func(promise_free);
    g_ptr_array_add(lx->contracts, contract);
    return contract;
}

/* ---- states ---- */

/* A level or place of the output, as scenes write it; NULL: it is none. Owned by the caller. */
static char *level_state(const struct lex_output *out, const char *text)
{
    enum lex_levels levels = lex_kind_of(out)->levels;
    struct lex_element percent = {.kind = LEX_NUMBER, .high = 100, .unit = (char *)"%"};
    int32_t value;
    if (levels == LEX_LEVELS_SIGNED) percent.low = -100;
    if (!lex_kind_of(out)->becomes && levels == LEX_LEVELS_OWN) return NULL;
    if (levels == LEX_LEVELS_OWN)
        return out->range && lex_range_said(out, text, &value)
                   ? g_strdup_printf("%d%s", lex_value_scaled(out->range, value),
                                     lex_kind_of(out)->becomes)
                   : NULL;
    if (!lex_takes_level(out) || !lex_value_said(&percent, text, &value)) return NULL;
    return g_strdup_printf("%d%%", value);
}

/* The words that scenes have for what the output is at; a turning one is at a speed. */
static bool is_word_of(const struct lex_output *out, const char *word)
{
    const struct lex_kind *kind = lex_kind_of(out);
    if (kind->switches) return !strcmp(word, "on") || !strcmp(word, "off");
    if (kind->levels == LEX_LEVELS_SIGNED || kind->direct) return false;
    return g_strv_contains(kind->classes(out), word);
}

/* What it can be at, for a message. Owned by the caller. */
static char *words_of(const struct lex_output *out)
{
    const struct lex_kind *kind = lex_kind_of(out);
    if (kind->direct && out->range) {
        char *range = lex_range_text(out->range),
             *whole = g_strconcat(range, out->range->unit, NULL);
        g_free(range);
        return whole;
    }
    if (kind->switches) return g_strdup(lex_takes_level(out) ? "on, off, 0..100%" : "on, off");
    if (kind->levels == LEX_LEVELS_SIGNED) return g_strdup("-100..100%");
    return g_strjoinv(", ", (char **)kind->classes(out));
}

static bool read_state_of(struct statement *st, const struct lex_output *out,
                          struct lex_promise *promise)
{
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_SLOT) {
        promise->slot = g_strstrip(g_strdup(token->text));
        return true;
    }
    if (token->kind == TOKEN_WORD)
        promise->state =
            is_word_of(out, token->text) ? g_strdup(token->text) : level_state(out, token->text);
    if (promise->state) return true;
    char *words = words_of(out);
    lex_fault(st->lx, token->place, "expected how '%s' is then: %s, or a slot like {level}",
              out->name, words);
    g_free(words);
    return false;
}

/* ---- clauses ---- */

static const struct lex_output *read_output_name(struct statement *st, unsigned *index)
{
    struct token *token = statement_take(st);
    int found = token->kind == TOKEN_WORD ? lexicon_output_index(st->lx, token->text) : -1;
    if (found < 0) {
        char *near = lex_did_you_mean_output(st->lx, token->kind == TOKEN_WORD ? token->text : "");
        lex_fault(st->lx, token->place, "expected an output above%s", near);
        g_free(near);
        return NULL;
    }
    const struct lex_output *out = st->lx->outputs->pdata[found];
    *index = (unsigned)found;
    if (!out->members->len) return out;
    lex_fault(st->lx, token->place, "'%s' is a group: write its outputs", out->name);
    return NULL;
}

/* when WORD|WORD */
static bool read_when(struct statement *st, struct lex_promise *promise)
{
    struct token *token = statement_take(st);
    g_free(promise->when);
    promise->when = token->kind == TOKEN_WORD ? g_strdup(token->text) : NULL;
    if (!promise->when)
        lex_fault(st->lx, token->place, "expected words of a choice, like skim|drain");
    return promise->when != NULL;
}

/* for T, for {slot} */
static bool read_lasts(struct statement *st, struct lex_promise *promise)
{
    if (statement_peek(st)->kind != TOKEN_SLOT)
        return statement_time(st, "how long it stays so", 10, DAY_MS, &promise->lasts);
    g_free(promise->lasts_by);
    promise->lasts_by = g_strstrip(g_strdup(statement_take(st)->text));
    return true;
}

/* makes OUTPUT STATE [when WORD|WORD] [within T] [for T|{slot}], these in any order */
static bool read_makes(struct statement *st, struct lex_contract *contract)
{
    struct lex_promise *promise = g_new0(struct lex_promise, 1);
    g_ptr_array_add(contract->promises, promise);
    promise->place = statement_peek(st)->place;
    promise->within = LEX_WITHIN_MS;
    const struct lex_output *out = read_output_name(st, &promise->output);
    bool ok = out && read_state_of(st, out, promise), more = true;
    while (ok && more) {
        if (statement_take_word(st, "when"))
            ok = read_when(st, promise);
        else if (statement_take_word(st, "within"))
            ok = statement_time(st, "until when it is so", 1, DAY_MS, &promise->within);
        else if (statement_take_word(st, "for"))
            ok = read_lasts(st, promise);
        else
            more = false;
    }
    return ok;
}

/* leaves OUTPUT|OUTPUT [when WORD|WORD], or others */
static bool read_leaves(struct statement *st, struct lex_contract *contract)
{
    if (statement_take_word(st, "others")) return contract->leaves_others = true;
    struct token *token = statement_take(st);
    struct lex_promise like = {.place = token->place, .leaves = true};
    char **names = g_strsplit(token->kind == TOKEN_WORD ? token->text : "", "|", -1);
    bool ok = *names && (!statement_take_word(st, "when") || read_when(st, &like));
    if (!*names) lex_fault(st->lx, token->place, "expected outputs, like pump|lamp, or 'others'");
    for (char **name = names; ok && *name; name++) {
        int found = lexicon_output_index(st->lx, *name);
        struct lex_promise *promise = g_new0(struct lex_promise, 1);
        *promise = like;
        promise->output = (unsigned)MAX(found, 0);
        promise->when = g_strdup(like.when);
        g_ptr_array_add(contract->promises, promise);
        if (found < 0) {
            char *near = lex_did_you_mean_output(st->lx, *name);
            lex_fault(st->lx, token->place, "there is no output '%s' above%s", *name, near);
            g_free(near);
            ok = false;
        }
    }
    g_strfreev(names);
    g_free(like.when);
    return ok;
}

/* follows COMMAND: its words, in quotes where they are several */
static bool read_follows(struct statement *st, struct lex_contract *contract)
{
    struct token *token = statement_take(st);
    contract->follows_place = token->place;
    if (token->kind != TOKEN_WORD && token->kind != TOKEN_STRING) {
        lex_fault(st->lx, token->place, "expected the words of a command, like \"set target\"");
        return false;
    }
    g_free(contract->follows);
    contract->follows = g_strdup(token->text);
    return true;
}

static bool read_clause(struct statement *st, struct lex_contract *contract)
{
    struct token *token = statement_peek(st);
    if (statement_take_word(st, "makes")) return read_makes(st, contract);
    if (statement_take_word(st, "leaves")) return read_leaves(st, contract);
    if (statement_take_word(st, "follows")) return read_follows(st, contract);
    if (statement_take_word(st, "takes"))
        return statement_time(st, "how long it may take", 1, 10000, &contract->takes);
    if (statement_take_word(st, "answers") && statement_take_word(st, "ok"))
        return contract->ok = true;
    lex_fault(st->lx, token->place,
              "expected makes OUTPUT STATE, leaves OUTPUT, follows COMMAND, answers ok or takes T");
    return false;
}

void read_contract(struct statement *st)
{
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_WORD || !g_str_has_suffix(token->text, "()")) {
        lex_fault(st->lx, token->place,
                  "expected the function() whose contract this is, like warm()");
        return;
    }
    struct lex_contract *contract =
        contract_for(st->lx, token->place, lex_read_function(st->lx, token));
    do {
        if (!read_clause(st, contract)) return;
    } while (statement_peek(st)->kind != TOKEN_END);
}

/* ---- when everything is read ---- */

static bool is_of(const struct lex_command *command, const struct lex_contract *contract)
{
    return !g_strcmp0(command->effect.handler, contract->handler);
}

/* The words of the command before its first slot. Owned by the caller. */
static char *words_before(const struct lex_command *command)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind != LEX_WORD) break;
        g_string_append_printf(text, "%s%s", i ? " " : "", e->text);
    }
    return g_string_free(text, FALSE);
}

/* Whether the handler gets levels of the output, or places in its range, and nothing beyond. */
static bool fits_levels(const struct lex_element *slot, const struct lex_output *out)
{
    const int32_t a = lex_value_scaled(slot, slot->low), b = lex_value_scaled(slot, slot->high);
    const int32_t low = MIN(a, b), high = MAX(a, b);
    const enum lex_levels levels = lex_kind_of(out)->levels;
    if (levels == LEX_LEVELS_OWN)
        return lex_kind_of(out)->direct && out->range && slot->form == out->range->form &&
               slot->decimals == out->range->decimals && !slot->scaled && low >= out->range->low &&
               high <= out->range->high;
    return lex_takes_level(out) && slot->form == LEX_WHOLE && high <= 100 &&
           low >= (levels == LEX_LEVELS_SIGNED ? -100 : 0);
}

/* The slot of a promise, in each command that calls the function. */
static void find_slot(struct lexicon *lx, const struct lex_contract *contract,
                      const struct lex_promise *promise, const struct lex_command *command,
                      const char *name, bool time)
{
    const struct lex_output *out = lx->outputs->pdata[promise->output];
    unsigned place;
    const struct lex_element *slot = lex_contract_slot(command, name, &place);
    char *text = lex_command_text(command);
    if (!slot) {
        lex_fault(lx, promise->place, "there is no slot {%s} in '%s', which calls %s()", name,
                  *text ? text : "an input", contract->handler);
    } else if (time) {
        if (slot->kind != LEX_NUMBER || slot->form != LEX_TIME || slot->scaled)
            lex_fault(lx, promise->place, "{%s} is no time: 'for' wants one, like {%s 1s..90min}",
                      name, name);
    } else if (slot->kind == LEX_CHOICE) {
        for (unsigned i = 0; i < slot->words->len; i++)
            if (!is_word_of(out, slot->words->pdata[i]))
                lex_fault(lx, promise->place, "'%s' in {%s} is no state of '%s'",
                          (char *)slot->words->pdata[i], name, out->name);
    } else if (slot->kind != LEX_NUMBER || !fits_levels(slot, out)) {
        char *words = words_of(out);
        lex_fault(lx, promise->place, "{%s} has values that '%s' cannot have: %s", name, out->name,
                  words);
        g_free(words);
    }
    g_free(text);
}

/* Each word of `when` is one of a choice in the command. */
static void find_when(struct lexicon *lx, const struct lex_promise *promise,
                      const struct lex_command *command)
{
    char **words = g_strsplit(promise->when ? promise->when : "", "|", -1);
    for (char **word = words; *word; word++) {
        bool found = false;
        for (unsigned i = 0; i < command->elements->len; i++) {
            const struct lex_element *e = command->elements->pdata[i];
            found |= e->kind == LEX_CHOICE && !e->verbs &&
                     g_ptr_array_find_with_equal_func(e->words, *word, g_str_equal, NULL);
        }
        char *text = lex_command_text(command);
        if (!found)
            lex_fault(lx, promise->place, "'%s' is no word of a choice in '%s'", *word, text);
        g_free(text);
    }
    g_strfreev(words);
}

static void find_promise(struct lexicon *lx, const struct lex_contract *contract,
                         const struct lex_promise *promise, const struct lex_command *command)
{
    unsigned faults = lx->faults->len;
    if (promise->slot) find_slot(lx, contract, promise, command, promise->slot, false);
    if (promise->lasts_by) find_slot(lx, contract, promise, command, promise->lasts_by, true);
    if (lx->faults->len == faults) find_when(lx, promise, command);
}

/* The command whose value the query tells: its slot has the name and the numbers of the query's. */
static void find_followed(struct lexicon *lx, struct lex_contract *contract,
                          const struct lex_query *query)
{
    const struct lex_element *told = query->elements->len ? query->elements->pdata[0] : NULL;
    for (unsigned i = 0; told && i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        unsigned place;
        char *words = words_before(command);
        bool same = !g_ascii_strcasecmp(words, contract->follows);
        const struct lex_element *slot =
            same ? lex_contract_slot(command, told->text, &place) : NULL;
        g_free(words);
        if (!slot) continue;
        if (command->effect.kind != LEX_CALL)
            lex_fault(lx, contract->follows_place,
                      "'%s' calls no function; the state of an output, and a setting, can be asked "
                      "by its name",
                      contract->follows);
        else if (slot->kind != LEX_NUMBER || slot->form != told->form || slot->scaled ||
                 told->scaled || slot->decimals != told->decimals ||
                 g_strcmp0(slot->unit, told->unit) != 0)
            lex_fault(lx, contract->follows_place,
                      "{%s} of '%s' and of the query are not the same numbers with the same unit",
                      told->text, contract->follows);
        contract->followed = command;
        return;
    }
    lex_fault(lx, contract->follows_place, "there is no command '%s' with a slot {%s}",
              contract->follows, told && told->text ? told->text : "");
}

static void finish_contract(struct lexicon *lx, struct lex_contract *contract)
{
    GPtrArray *callers = lex_callers(lx);
    unsigned called = 0;
    for (unsigned i = 0; i < callers->len; i++) {
        if (!is_of(callers->pdata[i], contract)) continue;
        called++;
        for (unsigned k = 0; k < contract->promises->len; k++)
            find_promise(lx, contract, contract->promises->pdata[k], callers->pdata[i]);
    }
    g_ptr_array_free(callers, TRUE);
    const struct lex_query *query = NULL;
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *one = lx->queries->pdata[i];
        if (!g_strcmp0(one->handler, contract->handler)) query = one;
    }
    if (contract->follows && query)
        find_followed(lx, contract, query);
    else if (contract->follows)
        lex_fault(lx, contract->follows_place, "only a query follows a command");
    if (!called && !query)
        lex_fault(lx, contract->place, "no command, query or input calls %s()", contract->handler);
}

void finish_contracts(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->contracts->len; i++) finish_contract(lx, lx->contracts->pdata[i]);
}
