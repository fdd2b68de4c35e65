/* Lists: several numbers within the same bounds.
 * What this kind has of its own, for slot.h.
 * The numbers are those of number.c. */
#include "slots/slots.h"

#include <string.h>

/* 8 of 0..100: a list */
static void read_slot(struct lexicon *lx, struct lex_element *e, char *body)
{
    guint64 most;
    char *of = strstr(body, " of ");
    *of = 0;
    if (!g_ascii_string_to_unsigned(g_strchomp(body), 10, 2, 14, &most, NULL)) {
        lex_fault(lx, e->place, "'%s of': expected how many numbers at most, 2..14", body);
        return;
    }
    e->most = (unsigned)most;
    lex_read_range(lx, e, g_strchug(of + 4));
}

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

static void grammar(const struct lexicon *lx, GString *out, const struct lex_element *e)
{
    abnf_number(lx, out, e);
    g_string_append_printf(out, " *%u(\",\" ", e->most - 1);
    abnf_number(lx, out, e);
    g_string_append_c(out, ')');
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
                                       .share = LEX_SHARE_ALONE,
                                       .sign = " of ",
                                       .read = read_slot,
                                       .points_to = "rlx_value",
                                       .count = "count",
                                       .holds = holds,
                                       .longest = longest,
                                       .says = says,
                                       .wanted = slot_wanted_range,
                                       .type = type,
                                       .note = slot_note_number,
                                       .grammar = grammar,
                                       .put = put};
