/* The suite about what handlers must do: each clause of each contract is a short scene, with the
 * values of the command's test cases, behind every other command, twice, and often.
 * What a clause means for given values is in lexicon/contract.h.
 * Codes and commands whose permits nobody can give are left out. */
#include <string.h>

#include "drill/suites/life.h"
#include "lexicon/contract.h"
#include "lexicon/kind.h"
#include "lexicon/write/table_image.h"

#define LONGEST_MS  7200000u /* that something lasts, and is waited for */
#define STAYS_MS    5000u    /* that is looked at where it lasts until something else is said */
#define TEXTS_MOST  12u
#define OTHERS_MOST 30u
#define OFTEN       150u
#define SLACK_MS    150u

/* A command whose function has a contract, and where it is said. */
struct bound {
    struct life *life;
    const struct lex_contract *contract;
    const struct lex_command *command;
    unsigned link;
    char *row;
};

static const struct lexicon *lexicon_of(const struct bound *b)
{
    return b->life->drill->lx;
}

static const struct lex_output *output_of(const struct bound *b, const struct lex_promise *promise)
{
    return lexicon_of(b)->outputs->pdata[promise->output];
}

/* ---- texts ---- */

/* Valid texts of it with different values, that the link accepts: const char *. */
static GPtrArray *texts_of(const struct drill *drill, unsigned link,
                           const struct lex_command *command)
{
    GPtrArray *all = g_ptr_array_new();
    const struct lex_link *of = drill_link(drill, link);
    for (unsigned i = 0; i < drill->cases->len && all->len < TEXTS_MOST; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        bool values = test->why == CASE_PLAIN || test->why == CASE_CHOICE ||
                      test->why == CASE_HIGHEST || test->why == CASE_MIDDLE ||
                      test->why == CASE_BETWEEN;
        if (test->of == command && test->valid && values && drill_may_say(of, test) &&
            strlen(test->text) <= session_most(drill->lx, of))
            g_ptr_array_add(all, test->text);
    }
    return all;
}

/* A link where it can be said and is answered in words; -1: there is none. */
static int link_of(const struct drill *drill, const struct lex_command *command)
{
    int best = life_link(drill);
    for (int i = -1; i < (int)drill->lx->links->len; i++) {
        int link = i < 0 ? best : i;
        if (link < 0 || (i >= 0 && !life_is_spoken(drill, (unsigned)link)) ||
            drill_link(drill, (unsigned)link)->replies != LEX_REPLIES_FULL)
            continue;
        GPtrArray *texts = texts_of(drill, (unsigned)link, command);
        bool can = texts->len > 0;
        g_ptr_array_free(texts, TRUE);
        if (can) return link;
    }
    return -1;
}

/* What the handler gets for this text; false: it is none of the command. */
static bool values_of(const struct bound *b, const char *text, int32_t *values)
{
    int32_t said[15];
    unsigned given, slot = 0, place = 0;
    if (lex_command_taking(lexicon_of(b), text, said, &given) != b->command) return false;
    for (unsigned i = 0; i < b->command->elements->len && place < 15; i++) {
        const struct lex_element *e = b->command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        int32_t value = slot < given ? said[slot] : e->fallback;
        values[place] = e->kind == LEX_CHOICE ? value : image_said_value(e, value);
        place += lex_slot_values(e);
        slot++;
    }
    return true;
}

/* ---- what outputs are at ---- */

/* The inputs permit it, and all that the command waits for is so. */
static bool prepare(const struct bound *b)
{
    bool can = life_open(b->life, b->link, b->command);
    for (unsigned i = 0; can && i < b->contract->promises->len; i++)
        can = life_permit(b->life, output_of(b, b->contract->promises->pdata[i]));
    return can;
}

/* Within its time, and for as long as it says, or for some seconds. */
static void put_kept(const struct bound *b, const struct lex_promise *promise,
                     const int32_t *values)
{
    const struct lex_output *out = output_of(b, promise);
    char *state = lex_promise_state(lexicon_of(b), promise, b->command, values),
         *safe = lex_kind_of(out)->state_at(out, out->safe);
    uint32_t lasts = lex_promise_lasts(promise, b->command, values), stays = STAYS_MS;
    if (out->expires && out->expires < 2 * stays) stays = out->expires / 2;
    if (out->kind == LEX_REVERSER) stays = 0; /* its ends stop it */
    if (lasts) stays = life_before(b->life, lasts, promise->within + SLACK_MS);
    life_put(b->life, "see %s %s within %ums", out->name, state, promise->within);
    if (stays) {
        b->life->text->len--; /* the line's end */
        life_put(b->life, " for %ums", stays);
    }
    if (lasts && safe)
        life_put(b->life, "see %s %s within %ums", out->name, safe,
                 lasts - stays + lasts / 20 + promise->within + SLACK_MS + out->min_on);
    g_free(state);
    g_free(safe);
}

static void play(struct bound *b, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void play(struct bound *b, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *title = g_strdup_vprintf(format, args);
    va_end(args);
    b->life->link = b->link;
    life_play(b->life, b->row, "%s", title);
    g_free(title);
}

/* What was written of a scene that cannot be is not played. */
static void drop(struct bound *b)
{
    b->life->unsayable = true;
    play(b, "-");
}

/* ---- makes ---- */

static void makes(struct bound *b, const struct lex_promise *promise, const char *text,
                  const char *before)
{
    int32_t values[15] = {0};
    if (!values_of(b, text, values) || !lex_promise_holds(promise, b->command, values) ||
        lex_promise_lasts(promise, b->command, values) > LONGEST_MS)
        return;
    char *what = lex_promise_text(lexicon_of(b), promise);
    if (!prepare(b)) b->life->unsayable = true;
    if (before) {
        life_say(b->life, b->link, before);
        life_hear(b->life, b->link, "*");
        life_put(b->life, "wait 100ms");
    }
    life_obeyed(b->life, b->link, text);
    put_kept(b, promise, values);
    if (before)
        play(b, "%s behind %s %s", text, before, what);
    else
        play(b, "%s %s", text, what);
    g_free(what);
}

/* Whether what it does goes on by itself, or may not be beside this output. */
static bool disturbs(const struct lexicon *lx, const struct lex_command *other,
                     const struct lex_output *out)
{
    const struct lex_output *its = lex_effect_output(lx, &other->effect);
    if (other->effect.kind == LEX_RUN || other->effect.kind == LEX_STORE) return true;
    if (other->effect.lasts || other->expires) return its == out;
    return its && its != out && out->interlock && !g_strcmp0(its->interlock, out->interlock);
}

static void behind_others(struct bound *b, const struct lex_promise *promise, const char *text)
{
    const struct lexicon *lx = lexicon_of(b);
    for (unsigned i = 0, n = 0; i < lx->commands->len && n < OTHERS_MOST; i++) {
        const struct lex_command *other = lx->commands->pdata[i];
        const char *before = other->query || disturbs(lx, other, output_of(b, promise))
                                 ? NULL
                                 : life_text(b->life->drill, b->link, other, CASE_PLAIN);
        if (!before) continue;
        makes(b, promise, text, before);
        n++;
    }
}

/* ---- leaves ---- */

/* The outputs that it leaves with these values, as the statement `still` has them. Owned by the
 * caller. */
static char *left_alone(const struct bound *b, const int32_t *values, bool *any)
{
    GString *names = g_string_new(NULL);
    const GPtrArray *promises = b->contract->promises;
    for (unsigned i = 0; i < lexicon_of(b)->outputs->len; i++) {
        const struct lex_output *out = lexicon_of(b)->outputs->pdata[i];
        bool left = b->contract->leaves_others && !out->members->len;
        for (unsigned k = 0; k < promises->len; k++) {
            const struct lex_promise *promise = promises->pdata[k];
            if (promise->output != i) continue;
            left = promise->leaves && lex_promise_holds(promise, b->command, values);
            if (left) break;
        }
        if (left) g_string_append_printf(names, " %s", out->name);
    }
    *any = names->len > 0;
    return g_string_free(names, FALSE);
}

/* The longest time that it has for something. */
static uint32_t within_most(const struct bound *b)
{
    uint32_t most = 0;
    for (unsigned i = 0; i < b->contract->promises->len; i++) {
        const struct lex_promise *promise = b->contract->promises->pdata[i];
        most = MAX(most, promise->within);
    }
    return most;
}

/* `before` was said some time before. */
static void leaves(struct bound *b, const char *text, const char *before)
{
    int32_t values[15] = {0};
    bool any = false;
    char *names = values_of(b, text, values) ? left_alone(b, values, &any) : g_strdup("");
    if (any) {
        if (!prepare(b)) b->life->unsayable = true;
        if (before) {
            life_say(b->life, b->link, before);
            life_hear(b->life, b->link, "*");
            life_put(b->life, "wait 2s");
        }
        life_say(b->life, b->link, text);
        life_put(b->life, "still %ums%s", 1000 + within_most(b), names);
        life_hear(b->life, b->link, "*ok*");
        play(b, "%s%s%s leaves%s", text, before ? " behind " : "", before ? before : "", names);
    }
    g_free(names);
}

/* Whether what this text brought is at rest 2 s later, and for some seconds. */
static bool rests(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_output *out = lex_effect_output(lx, &command->effect);
    if (command->effect.kind == LEX_CALL) {
        const struct lex_contract *its = lex_contract_of(lx, command->effect.handler);
        bool rest = its != NULL;
        for (unsigned i = 0; rest && i < its->promises->len; i++) {
            const struct lex_promise *promise = its->promises->pdata[i];
            rest = promise->within <= 1000 && !promise->lasts && !promise->lasts_by;
        }
        return rest;
    }
    return out && !command->effect.lasts && !command->expires && !out->expires && !out->lost &&
           !out->fade && !out->ramp && !out->slew && !out->dead && !out->min_on && !out->min_off &&
           lex_kind_of(out)->switches &&
           (command->effect.kind == LEX_SWITCH || command->effect.kind == LEX_LEVEL);
}

static void leaves_what_others_made(struct bound *b, const char *text)
{
    const struct lexicon *lx = lexicon_of(b);
    for (unsigned i = 0, n = 0; i < lx->commands->len && n < OTHERS_MOST; i++) {
        const struct lex_command *other = lx->commands->pdata[i];
        const char *before = other == b->command || other->query || !rests(lx, other)
                                 ? NULL
                                 : life_text(b->life->drill, b->link, other, CASE_PLAIN);
        if (!before) continue;
        leaves(b, text, before);
        n++;
    }
}

/* ---- answers and time ---- */

static void answers_ok(struct bound *b, const char *text)
{
    if (!prepare(b)) {
        drop(b);
        return;
    }
    life_put(b->life, "repeat %u", OFTEN);
    life_obeyed(b->life, b->link, text);
    life_put(b->life, "wait 100ms\nend");
    play(b, "%s answers ok, %u times", text, OFTEN);
}

/* Both frames on the line, and the main loop on its way. */
static void takes(struct bound *b, const char *text)
{
    const struct lex_link *of = drill_link(b->life->drill, b->link);
    unsigned bits = of->format.data + 3u;
    if (of->medium != LEX_SERIAL || !of->baud) return;
    unsigned bytes = (unsigned)strlen(text) + 2 + of->reply + 2;
    unsigned line = bytes * bits * 1000 / of->baud + 1, poll = lexicon_of(b)->poll;
    char *who = life_speaker(b->life, b->link);
    if (prepare(b)) {
        life_say(b->life, b->link, text);
        life_put(b->life, "hear %s \"*\" within %ums", who,
                 b->contract->takes + line + 2 * poll + LEX_WITHIN_MS);
        play(b, "%s takes %u ms at most", text, b->contract->takes);
    } else {
        drop(b);
    }
    g_free(who);
}

static void check_command(struct bound *b)
{
    GPtrArray *texts = texts_of(b->life->drill, b->link, b->command);
    for (unsigned k = 0; k < b->contract->promises->len; k++) {
        const struct lex_promise *promise = b->contract->promises->pdata[k];
        for (unsigned i = 0; !promise->leaves && i < texts->len; i++)
            makes(b, promise, texts->pdata[i], NULL);
        if (promise->leaves || !texts->len) continue;
        makes(b, promise, texts->pdata[0], texts->pdata[0]); /* twice */
        for (unsigned i = 1; i < texts->len; i++)            /* another value before */
            makes(b, promise, texts->pdata[i], texts->pdata[i - 1]);
        behind_others(b, promise, texts->pdata[0]);
    }
    for (unsigned i = 0; i < texts->len; i++) {
        leaves(b, texts->pdata[i], NULL);
        if (!i) leaves_what_others_made(b, texts->pdata[i]);
    }
    for (unsigned i = 0; i < texts->len && b->contract->takes; i++) takes(b, texts->pdata[i]);
    if (b->contract->ok && texts->len) answers_ok(b, texts->pdata[0]);
    g_ptr_array_free(texts, TRUE);
}

/* ---- queries ---- */

/* Asks, and hears the value of this text. */
static void put_told(struct bound *b, const struct lex_query *query, const char *text)
{
    int32_t said[15];
    unsigned given, place = 0, slot = 0;
    const struct lex_element *told = query->elements->pdata[0];
    lex_command_taking(lexicon_of(b), text, said, &given);
    for (unsigned i = 0; i < b->command->elements->len; i++) {
        const struct lex_element *e = b->command->elements->pdata[i];
        if (e == lex_contract_slot(b->command, told->text, &place)) break;
        slot += e->kind != LEX_WORD;
    }
    char *value = lex_value_text(told, slot < given ? said[slot] : told->fallback);
    char *asked = g_strdup_printf("%s?", query->name);
    char *answer =
        g_strdup_printf("*ok %s %s%s", query->name, value, query->elements->len > 1 ? " *" : "");
    life_say(b->life, b->link, asked);
    life_hear(b->life, b->link, answer);
    g_free(answer);
    g_free(asked);
    g_free(value);
}

static const char *refused_text(const struct bound *b)
{
    for (unsigned i = 0; i < b->life->drill->cases->len; i++) {
        const struct drill_case *test = b->life->drill->cases->pdata[i];
        if (test->of == b->command && !test->valid && test->why == CASE_ABOVE) return test->text;
    }
    return NULL;
}

/* It tells the value that was obeyed last, not one that was refused, nor one of before. */
static void follows(struct bound *b, const struct lex_query *query)
{
    GPtrArray *texts = texts_of(b->life->drill, b->link, b->command);
    const char *refused = refused_text(b);
    if (!prepare(b)) b->life->unsayable = true;
    for (unsigned turn = 0; turn < 2; turn++)
        for (unsigned i = 0; i < texts->len; i++) {
            const char *text = texts->pdata[turn ? texts->len - 1 - i : i];
            life_obeyed(b->life, b->link, text);
            put_told(b, query, text);
            if (turn || !refused) continue;
            life_say(b->life, b->link, refused);
            life_hear(b->life, b->link, "*");
            put_told(b, query, text);
        }
    if (texts->len)
        play(b, "%s? follows %s", query->name, b->contract->follows);
    else
        drop(b);
    g_ptr_array_free(texts, TRUE);
}

/* ---- all ---- */

static void of_contract(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    struct life life = {drill, job, yield, g_string_new(NULL), job->link, false};
    const struct lex_contract *contract = drill->lx->contracts->pdata[job->part];
    struct bound b = {.life = &life, .contract = contract};
    b.row = g_strdup_printf("contract of %s()", contract->handler);
    for (unsigned i = 0; i < drill->lx->commands->len; i++) {
        const struct lex_command *command = drill->lx->commands->pdata[i];
        int link = command->code ? -1 : link_of(drill, command);
        if (g_strcmp0(command->effect.handler, contract->handler) != 0 || link < 0) continue;
        b.command = command;
        b.link = (unsigned)link;
        check_command(&b);
    }
    for (unsigned i = 0; contract->followed && i < drill->lx->queries->len; i++) {
        const struct lex_query *query = drill->lx->queries->pdata[i];
        int link = link_of(drill, contract->followed);
        if (strcmp(query->handler, contract->handler) != 0 || link < 0 || query->of->len) continue;
        b.command = contract->followed;
        b.link = (unsigned)link;
        follows(&b, query);
    }
    g_free(b.row);
    g_string_free(life.text, TRUE);
}

void contracts_jobs(struct drill *drill)
{
    int link = life_link(drill);
    for (unsigned i = 0; link >= 0 && i < drill->lx->contracts->len; i++) {
        const struct lex_contract *contract = drill->lx->contracts->pdata[i];
        drill_job_add(drill, "contracts", (unsigned)link, i, of_contract, "contract of %s()",
                      contract->handler);
    }
}
