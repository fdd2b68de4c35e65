/* Texts: in quotes, or the rest of the line.
 * What this kind has of its own, for slot.h.
 * It has no value: a handler gets its characters. */
#include "slots/slots.h"

#include <string.h>

#include "rlx/def/replies.h"

/* text 1..16, rest 1..40 */
static void read_slot(struct lexicon *lx, struct lex_element *e, char *body)
{
    const char *end;
    int64_t low, high;
    e->rest = *body == 'r';
    if (!lex_read_bounds(e, g_strchug(body + 4), &end, &low, &high) || *end ||
        e->form != LEX_WHOLE || low < 0 || high > 200 || low > high || (e->rest && !low))
        lex_fault(lx, e->place, "'%s': expected how many bytes the text has, within %d..200", body,
                  e->rest);
    e->low = (int32_t)CLAMP(low, 0, 200);
    e->high = (int32_t)CLAMP(high, e->low, 200);
}

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

/* In quotes any bytes but control ones; to the end of the line no blank at either end. */
static void grammar(const struct lexicon *lx, GString *out, const struct lex_element *e)
{
    (void)lx;
    if (!e->rest)
        g_string_append_printf(out, "%%x22 %d*%d(%%x20-21 / %%x23-7E / %%x80-FF) %%x22", e->low,
                               e->high);
    else if (e->high == 1)
        g_string_append(out, "%x21-7E");
    else
        g_string_append_printf(out, "%%x21-7E %s%d*%d%%x20-7E %%x21-7E%s", e->low < 2 ? "[" : "",
                               MAX(e->low - 2, 0), e->high - 2, e->low < 2 ? "]" : "");
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
                                       .share = LEX_SHARE_ALONE,
                                       .keywords = {"text", "rest"},
                                       .read = read_slot,
                                       .points_to = "char",
                                       .count = "length",
                                       .holds = holds,
                                       .longest = longest,
                                       .says = says,
                                       .wanted = wanted,
                                       .type = type,
                                       .grammar = grammar,
                                       .put = put};
