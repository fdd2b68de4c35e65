/* Choices: one of a list of words.
 * What this kind has of its own, for slot.h.
 * Choices with the same rest share it: lexicon/write/program.c. */
#include "slots/slots.h"

#include "lexicon/names.h"

static void read_default(struct lexicon *lx, struct lex_element *e, const char *text)
{
    guint index;
    char *word = lex_spelt(lx, text);
    if (g_ptr_array_find_with_equal_func(e->words, word, g_str_equal, &index))
        e->fallback = (int32_t)index;
    else
        lex_fault(lx, e->place, "'%s' is none of the words of this slot", text);
    g_free(word);
}

static char *holds(const struct lex_element *e)
{
    return slot_joined(e, "|");
}

static char *type(const struct lexicon *lx, const struct lex_command *command,
                  const struct lex_element *e)
{
    char *name = lex_enum_name(lx, command, e), *of = g_strconcat("enum ", name, NULL);
    g_free(name);
    return of;
}

static int32_t value(const struct lex_element *e, int32_t said)
{
    return (int32_t)image_choice_value(e, (unsigned)said);
}

static void put(struct build *b, GByteArray *to, const struct lex_element *e)
{
    unsigned at = to->len;
    build_need(b, RLX_BIT_CHOICE);
    build_put8(to, RLX_OP_CHOICE);
    build_put8(to, 0);
    for (unsigned i = 0; i < e->words->len; i++) {
        build_put8(to, image_choice_value(e, i));
        build_put_text(to, e->words->pdata[i]);
    }
    to->data[at + 1] = (guint8)(to->len - at - 2);
}

const struct lex_slot lex_slot_choice = {.name = "choice",
                                         .words = true,
                                         .single = true,
                                         .answers = true,
                                         .share = LEX_SHARE_CHOICE,
                                         .sign = "|",
                                         .read = lex_read_words,
                                         .read_default = read_default,
                                         .holds = holds,
                                         .longest = slot_longest_word,
                                         .says = slot_says_word,
                                         .wanted = slot_wanted_words,
                                         .type = type,
                                         .value = value,
                                         .put = put};
