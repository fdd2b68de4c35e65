/* Locks: the settings that decide who may command, which are keys, codes and lists of numbers.
 * Over a wired link they are written and asked like any setting, elsewhere where `also` names them.
 * What a device does with them it does not know. */
#include <string.h>

#include "lexicon/read/reader.h"

static bool names(const GPtrArray *words, const char *word)
{
    for (unsigned i = 0; i < words->len; i++)
        if (!g_ascii_strcasecmp(words->pdata[i], word)) return true;
    return false;
}

/* Whether nobody is shown it: the code of a link or command, or a key. */
static bool is_code(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->links->len; i++)
        if (!g_strcmp0(((struct lex_link *)lx->links->pdata[i])->code, setting)) return true;
    return lex_is_key(lx, setting) || lex_opens(lx, setting);
}

bool lexicon_is_code(const struct lexicon *lx, const struct lex_setting *setting)
{
    return is_code(lx, setting->name);
}

bool lex_tells_guesses(const struct lexicon *lx, const struct lex_event *event)
{
    return event->input && lexicon_setting(lx, event->input) && is_code(lx, event->input) &&
           !lex_is_key(lx, event->input);
}

bool lex_is_lock(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->links->len; i++)
        if (!g_strcmp0(((struct lex_link *)lx->links->pdata[i])->allow_setting, setting))
            return true;
    return is_code(lx, setting);
}

bool lex_may_say_word(const struct lex_link *link, const char *word)
{
    if (names(link->locked, word)) return false;
    return !link->only->len || names(link->only, word);
}

void finish_locks(struct lexicon *lx, struct lex_link *link)
{
    const bool local = link->medium == LEX_SERIAL || link->medium == LEX_REPORT;
    for (unsigned i = 0; i < link->also->len; i++) {
        char *word = link->also->pdata[i];
        if (!lex_is_lock(lx, word))
            lex_fault(lx, link->place,
                      "'also %s': only settings that decide who may command stand here, like those "
                      "of 'allow setting', 'code setting' and 'key'",
                      word);
        else if (link->only->len && !names(link->only, word))
            lex_fault(lx, link->place, "'also %s': 'only' does not name it: leave 'also' out",
                      word);
    }
    if (local || link->layout || lex_is_keyed(link) || link->only->len) return;
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        if (lex_is_lock(lx, setting->name) && !names(link->also, setting->name))
            g_ptr_array_add(link->locked, lex_spelt(lx, setting->name));
    }
}
