/* Sets: several of a list of words, or none.
 * What this kind has of its own, for slot.h.
 * Its value has a bit for each word. */
#include "slots/slots.h"

#include <string.h>

static char *holds(const struct lex_element *e)
{
    char *words = slot_joined(e, "|"), *all = g_strconcat("set ", words, NULL);
    g_free(words);
    return all;
}

/* "none", or all words joined. */
static char *longest(const struct lex_element *e, bool units)
{
    char *all = slot_joined(e, "+");
    (void)units;
    if (strlen(all) >= strlen("none")) return all;
    g_free(all);
    return g_strdup("none");
}

static bool says(const struct lexicon *lx, const struct lex_element *e, const char *text,
                 int32_t *value)
{
    char **parts = g_strsplit(text, "+", -1);
    bool all = *parts != NULL;
    *value = 0;
    for (unsigned i = 0; all && parts[i]; i++) {
        int32_t before = *value;
        bool found = false;
        for (unsigned k = 0; k < e->words->len; k++) {
            if (!slot_word_is(lx, e->words->pdata[k], parts[i])) continue;
            found = true;
            *value = before | 1 << k;
        }
        all = found;
    }
    g_strfreev(parts);
    return all || slot_word_is(lx, "none", text);
}

static unsigned wanted(const struct lex_element *e)
{
    return slot_wanted_words(e) + (unsigned)strlen("+none");
}

static char *type(const struct lexicon *lx, const struct lex_command *command,
                  const struct lex_element *e)
{
    (void)lx, (void)command, (void)e;
    return g_strdup("uint16_t");
}

static void put(struct build *b, GByteArray *to, const struct lex_element *e)
{
    unsigned at = to->len;
    build_need(b, RLX_BIT_SET);
    build_put8(to, RLX_OP_SET);
    build_put8(to, 0);
    for (unsigned i = 0; i < e->words->len; i++) {
        build_put8(to, i);
        build_put_text(to, e->words->pdata[i]);
    }
    build_put8(to, RLX_SET_NONE);
    build_put_text(to, "none");
    to->data[at + 1] = (guint8)(to->len - at - 2);
}

const struct lex_slot lex_slot_set = {.name = "choices",
                                      .words = true,
                                      .holds = holds,
                                      .longest = longest,
                                      .says = says,
                                      .wanted = wanted,
                                      .type = type,
                                      .put = put};
