/* Sets: several of a list of words, or none.
 * What this kind has of its own, for slot.h.
 * Its value has a bit for each word. */
#include "slots/slots.h"

#include <string.h>

static void read_slot(struct lexicon *lx, struct lex_element *e, char *body)
{
    lex_read_words(lx, e, g_strchug(body + strlen("set")));
    if (e->words->len > 15) lex_fault(lx, e->place, "more than 15 words in a set");
    for (unsigned i = 0; i < e->words->len; i++)
        if (!strcmp(e->words->pdata[i], "none"))
            lex_fault(lx, e->place, "'none' stands for the empty set already");
}

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

static int32_t value(const struct lex_element *e, int32_t said)
{
    (void)e;
    return said;
}

static void grammar(const struct lexicon *lx, GString *out, const struct lex_element *e)
{
    for (unsigned twice = 0; twice < 2; twice++) {
        g_string_append(out, twice ? " *(\"+\" (" : "((");
        for (unsigned i = 0; i < e->words->len; i++) {
            if (i) g_string_append(out, " / ");
            abnf_literal(lx, out, e->words->pdata[i], strlen(e->words->pdata[i]));
        }
        g_string_append(out, twice ? "))) / " : ")");
    }
    abnf_literal(lx, out, "none", strlen("none"));
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
                                      .answers = true,
                                      .share = LEX_SHARE_ALONE,
                                      .keywords = {"set"},
                                      .read = read_slot,
                                      .holds = holds,
                                      .longest = longest,
                                      .says = says,
                                      .wanted = wanted,
                                      .type = type,
                                      .value = value,
                                      .grammar = grammar,
                                      .put = put};
