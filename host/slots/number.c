/* Numbers: within bounds, in one of four forms, with a unit and a scale.
 * What this kind has of its own, for slot.h.
 * How a number is written and read is in lexicon/read/value.c. */
#include "slots/slots.h"

#include <string.h>

static void read_default(struct lexicon *lx, struct lex_element *e, const char *text)
{
    if (lex_value_said(e, text, &e->fallback)) return;
    char *range = lex_range_text(e);
    lex_fault(lx, e->place, "'%s' is not in the slot's range, %s%s", text, range,
              e->unit ? e->unit : "");
    g_free(range);
}

static char *longest(const struct lex_element *e, bool units)
{
    return slot_longest_numbers(e, 1, units);
}

static bool says(const struct lexicon *lx, const struct lex_element *e, const char *text,
                 int32_t *value)
{
    size_t before = e->prefix ? strlen(e->prefix) : 0;
    if (strlen(text) < before) return false;
    char *head = g_strndup(text, before);
    bool fits = !e->prefix || slot_word_is(lx, e->prefix, head);
    g_free(head);
    return fits && slot_says_number(lx, e, text + before, value);
}

static int32_t value(const struct lex_element *e, int32_t said)
{
    int64_t way = (int64_t)e->own_high - e->own_low;
    if (e->own) return e->own_low + (int32_t)((said - e->low) * way / (e->high - e->low));
    return lex_value_scaled(e, said);
}

/* What a handler gets. */
static char *type(const struct lexicon *lx, const struct lex_command *command,
                  const struct lex_element *e)
{
    int32_t low = e->scaled ? MIN(e->to_low, e->to_high) : e->low;
    int32_t high = e->scaled ? MAX(e->to_low, e->to_high) : e->high;
    (void)lx;
    (void)command;
    if (low >= 0 && high <= UINT16_MAX) return g_strdup(high <= UINT8_MAX ? "uint8_t" : "uint16_t");
    return g_strdup(low >= INT16_MIN && high <= INT16_MAX ? "int16_t" : "int32_t");
}

const struct lex_slot lex_slot_number = {.name = "value",
                                         .numbers = true,
                                         .single = true,
                                         .answers = true,
                                         .share = LEX_SHARE_NUMBER,
                                         .sign = "..",
                                         .read = lex_read_range,
                                         .read_default = read_default,
                                         .holds = slot_holds_range,
                                         .longest = longest,
                                         .says = says,
                                         .wanted = slot_wanted_range,
                                         .type = type,
                                         .note = slot_note_number,
                                         .value = value,
                                         .grammar = abnf_number,
                                         .put = build_put_number};
