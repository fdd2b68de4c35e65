/* Fixed words: with other spellings, or as fillers that may be left out.
 * What this kind has of its own, for slot.h.
 * It has no value, and its element in the image depends on what else can stand there. */
#include "slots/slots.h"

static char *holds(const struct lex_element *e)
{
    return e->words ? slot_joined(e, "|") : g_strdup(e->text);
}

const struct lex_slot lex_slot_word = {.name = "word",
                                       .share = LEX_SHARE_WORD,
                                       .holds = holds,
                                       .longest = slot_longest_word,
                                       .says = slot_says_word,
                                       .wanted = slot_wanted_words};
