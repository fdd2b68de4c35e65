/* Lists: several numbers within the same bounds.
 * What this kind has of its own, for slot.h.
 * The numbers are those of number.c. */
#include "slots/slots.h"

static char *holds(const struct lex_element *e)
{
    char *range = slot_holds_range(e), *all = g_strdup_printf("%u of %s", e->most, range);
    g_free(range);
    return all;
}

static char *longest(const struct lex_element *e, bool units)
{
    return slot_longest_numbers(e, e->most, units);
}

static bool says(const struct lexicon *lx, const struct lex_element *e, const char *text,
                 int32_t *value)
{
    char **parts = g_strsplit(text, ",", -1);
    bool all = g_strv_length(parts) >= 1 && g_strv_length(parts) <= e->most;
    int32_t number;
    (void)value;
    for (unsigned i = 0; all && parts[i]; i++) all = slot_says_number(lx, e, parts[i], &number);
    g_strfreev(parts);
    return all;
}

static char *type(const struct lexicon *lx, const struct lex_command *command,
                  const struct lex_element *e)
{
    (void)lx, (void)command;
    return g_strdup_printf("list:%u", e->most);
}

static void put(struct build *b, GByteArray *to, const struct lex_element *e)
{
    build_need(b, RLX_BIT_LIST);
    build_put8(to, RLX_OP_LIST);
    build_put8(to, e->most);
    build_put_number(b, to, e);
}

const struct lex_slot lex_slot_list = {.name = "values",
                                       .numbers = true,
                                       .points_to = "rlx_value",
                                       .count = "count",
                                       .holds = holds,
                                       .longest = longest,
                                       .says = says,
                                       .wanted = slot_wanted_range,
                                       .type = type,
                                       .put = put};
