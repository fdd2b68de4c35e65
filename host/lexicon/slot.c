/* The kinds of slots by their number.
 * A table of what host/slots has, made from the list of kinds.
 * What a kind has of its own is not here. */
#include "lexicon/slot.h"

const struct lex_slot *const lex_slots[LEX_ELEMENT_KINDS] = {
#define ELEMENT(id, word) [LEX_##id] = &lex_slot_##word,
    LEX_ELEMENTS(ELEMENT)
#undef ELEMENT
};

const struct lex_slot *lex_slot_of(const struct lex_element *e)
{
    return lex_slots[e->kind];
}

bool lex_has_numbers(const struct lex_element *e)
{
    return lex_slot_of(e)->numbers;
}

bool lex_has_words(const struct lex_element *e)
{
    return lex_slot_of(e)->words;
}
