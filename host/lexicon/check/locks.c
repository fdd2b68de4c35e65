/* Checks the settings that decide who may command, which are keys, codes and lists of numbers: who
 * can change them, and how soon a code is guessed.
 * Each link that anybody can reach is asked what it accepts.
 * What such a setting has as its default it does not judge. */
#include "lexicon/check/checks.h"
#include "rlx/guess.h"

bool check_open_to_all(const struct lex_link *link)
{
    if (link->seal == LEX_DEMAND_REQUIRED) return false;
    return link->open || link->medium == LEX_RADIO || link->medium == LEX_BRIDGE;
}

/* "phones" decides what: "who may command over 'shore'"; NULL: nothing. Owned by the caller. */
static char *guards_what(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!g_strcmp0(link->allow_setting, setting) || !g_strcmp0(link->code, setting))
            return g_strdup_printf("who may command over '%s'", link->name);
    }
    for (unsigned i = 0; i < lx->seal_keys->len; i++) {
        const struct lex_seal_key *key = lx->seal_keys->pdata[i];
        if (!g_strcmp0(key->name, setting))
            return g_strdup_printf("who may command over '%s'", key->link);
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!g_strcmp0(command->code, setting))
            return g_strdup_printf("who may say '%s'", check_subject(command));
    }
    return NULL;
}

/* Over a link where anybody may be. */
static void check_door(struct lexicon *lx, const struct lex_setting *lock, const char *what)
{
    const struct lex_command *command = lex_storing(lx, lock);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!check_open_to_all(link) || !lex_may_say(link, command)) continue;
        check_find(lx, LEX_D52, link->place, lock->name, lex_command_longest(command, false),
                   "'%s' decides %s, and whoever reaches '%s' can change it", lock->name, what,
                   link->name);
        return;
    }
}

/* How long all codes of the least length take, as digits: that is what people choose. */
static void check_code(struct lexicon *lx, const struct lex_setting *code, const char *what)
{
    if (!code->slot || code->slot->kind != LEX_TEXT) return;
    const uint64_t pause = (uint64_t)RLX_GUESS_MS << (RLX_GUESSES_MOST - RLX_GUESSES);
    const uint64_t year = 365 * 24 * UINT64_C(3600000);
    uint64_t codes = 1;
    const int32_t least = MAX(code->slot->low, 1); /* an empty one serves nobody */
    for (int32_t i = 0; i < least && codes < 1000000; i++) codes *= 10;
    if (codes * pause >= year) return;
    struct lex_fault *fault = check_find(
        lx, LEX_D58, code->place, code->name, NULL,
        "'%s' decides %s, and can have %d character%s: somebody who tries all digits "
        "has it within %u h",
        code->name, what, least, least > 1 ? "s" : "", (unsigned)(codes * pause / 3600000));
    fault->advice = g_strdup_printf("{text 6..%d}", MAX(code->slot->high, 12));
}

/* What opens a session has a code, or is done by hand: else it is open to whoever knows the word.
 */
static void check_opening(struct lexicon *lx, const struct lex_command *guarded,
                          const struct lex_output *out)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_effect *effect = &command->effect;
        bool acts = effect->kind == LEX_SWITCH || effect->kind == LEX_LEVEL ||
                    (effect->kind == LEX_VERB && !(effect->verb && effect->verb->stops));
        bool opens = acts && lex_effect_output(lx, effect) == out && !lex_is_guarded(command) &&
                     !(effect->kind == LEX_SWITCH && effect->fixed == RLX_OFF);
        for (unsigned k = 0; opens && k < lx->links->len; k++) {
            const struct lex_link *link = lx->links->pdata[k];
            if (!check_open_to_all(link) || !lex_may_say(link, command)) continue;
            check_find(lx, LEX_D59, command->place, out->name, lex_command_longest(command, false),
                       "'%s' waits for '%s', and whoever reaches '%s' switches it on",
                       check_subject(guarded), out->name, link->name);
            return;
        }
    }
}

void check_locks(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *lock = lx->settings->pdata[i];
        char *what = guards_what(lx, lock->name);
        if (what) check_door(lx, lock, what);
        if (what && lexicon_is_code(lx, lock)) check_code(lx, lock, what);
        g_free(what);
    }
    GHashTable *seen = g_hash_table_new(NULL, NULL);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        for (unsigned k = 0; command->guards && k < command->guards->len; k++) {
            const struct lex_permit *guard = command->guards->pdata[k];
            if (guard->out && guard->on && g_hash_table_add(seen, (void *)guard->out))
                check_opening(lx, command, guard->out);
        }
    }
    g_hash_table_destroy(seen);
}
