/* Checks the settings that decide who may command, which are keys, codes and lists of numbers: who
 * can change them, and how soon a code is guessed.
 * Each link that anybody can reach is asked what it accepts.
 * What such a setting has as its default it does not judge. */
#include "lexicon/check/checks.h"
#include "rlx/sms.h"

/* Whether somebody may be there whom nobody knows. */
static bool is_open_to_all(const struct lex_link *link)
{
    if (link->seal == LEX_DEMAND_REQUIRED) return false;
    return link->open || link->medium == LEX_RADIO || link->medium == LEX_BRIDGE;
}

/* The setting's command: NAME VALUE. */
static const struct lex_command *stores(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        if (command->effect.kind == LEX_STORE && first->kind == LEX_WORD &&
            !g_ascii_strcasecmp(first->text, setting))
            return command;
    }
    return NULL;
}

/* "phones" decides over which link: its name; of a key that of the link whose frames it seals. */
static const char *guarded_by(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!g_strcmp0(link->allow_setting, setting) || !g_strcmp0(link->code, setting))
            return link->name;
    }
    for (unsigned i = 0; i < lx->seal_keys->len; i++) {
        const struct lex_seal_key *key = lx->seal_keys->pdata[i];
        if (!g_strcmp0(key->name, setting)) return key->link;
    }
    return NULL;
}

/* Over a link where anybody may be. */
static void check_door(struct lexicon *lx, const struct lex_setting *lock, const char *guarded)
{
    const struct lex_command *command = stores(lx, lock->name);
    for (unsigned i = 0; command && i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!is_open_to_all(link) || !lex_may_say(link, command)) continue;
        check_find(lx, LEX_D52, link->place, lock->name, lex_command_longest(command, false),
                   "'%s' decides who may command over '%s', and whoever reaches '%s' can change it",
                   lock->name, guarded, link->name);
        return;
    }
}

/* How long all codes of the least length take, as digits: that is what people choose. */
static void check_code(struct lexicon *lx, const struct lex_link *link)
{
    const struct lex_setting *code = link->code ? lexicon_setting(lx, link->code) : NULL;
    if (!code || !code->slot || code->slot->kind != LEX_TEXT) return;
    const uint64_t pause = (uint64_t)RLX_SMS_PAUSE_MS << (RLX_SMS_GUESSES_MOST - RLX_SMS_GUESSES);
    const uint64_t year = 365 * 24 * UINT64_C(3600000);
    uint64_t codes = 1;
    const int32_t least = MAX(code->slot->low, 1); /* an empty one serves nobody */
    for (int32_t i = 0; i < least && codes < 1000000; i++) codes *= 10;
    if (codes * pause >= year) return;
    struct lex_fault *fault = check_find(
        lx, LEX_D58, code->place, code->name, NULL,
        "'%s' can have %d character%s: somebody who tries all digits over '%s' has it within %u h",
        code->name, least, least > 1 ? "s" : "", link->name, (unsigned)(codes * pause / 3600000));
    fault->advice = g_strdup_printf("{text 6..%d}", MAX(code->slot->high, 12));
}

void check_locks(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *lock = lx->settings->pdata[i];
        const char *guarded = guarded_by(lx, lock->name);
        if (guarded) check_door(lx, lock, guarded);
    }
    for (unsigned i = 0; i < lx->links->len; i++)
        if (lex_drives_modem(lx->links->pdata[i])) check_code(lx, lx->links->pdata[i]);
}
