/* Texts: in quotes, or the rest of the line.
 * What this kind has of its own, for slot.h.
 * It has no value: a handler gets its characters. */
#include "slots/slots.h"

#include <string.h>

#include "rlx/def/replies.h"

static char *holds(const struct lex_element *e)
{
    return g_strdup_printf("%s %d..%d", e->rest ? "rest" : "text", e->low, e->high);
}

static char *longest(const struct lex_element *e, bool units)
{
    (void)units;
    return g_strnfill((gsize)e->high + (e->rest ? 0 : 2), 'x');
}

static bool says(const struct lexicon *lx, const struct lex_element *e, const char *text,
                 int32_t *value)
{
    size_t length = strlen(text) - (e->rest ? 0 : 2);
    (void)lx, (void)value;
    return (e->rest || (*text == '"' && g_str_has_suffix(text + 1, "\""))) &&
           length >= (size_t)e->low && length <= (size_t)e->high;
}

static unsigned wanted(const struct lex_element *e)
{
    return (unsigned)(strlen(e->text) + strlen(RLX_LONGEST_TEXT_RANGE));
}

static char *type(const struct lexicon *lx, const struct lex_command *command,
                  const struct lex_element *e)
{
    (void)lx, (void)command, (void)e;
    return g_strdup("text");
}

static void put(struct build *b, GByteArray *to, const struct lex_element *e)
{
    build_need(b, RLX_BIT_TEXT);
    build_put8(to, e->rest ? RLX_OP_REST : RLX_OP_TEXT);
    build_put8(to, (unsigned)e->low);
    build_put8(to, (unsigned)e->high);
    build_put_text(to, e->text);
}

const struct lex_slot lex_slot_text = {.name = "text",
                                       .points_to = "char",
                                       .count = "length",
                                       .holds = holds,
                                       .longest = longest,
                                       .says = says,
                                       .wanted = wanted,
                                       .type = type,
                                       .put = put};
