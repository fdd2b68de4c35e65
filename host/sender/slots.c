/* The C of one slot: its type, how it is written into a command, and how it is read from an answer.
 * A kind of slot that lacks a case here does not compile.
 * What stands between slots is written elsewhere. */
#include "sender/sender_parts.h"

#include <string.h>

#include "lexicon/names.h"
#include "lexicon/slot.h"

char *sender_literal(const char *text)
{
    GString *out = g_string_new(NULL);
    bool escaped = false; /* a digit behind an escape would belong to it */
    for (; *text; text++) {
        guchar c = (guchar)*text;
        if (escaped && g_ascii_isxdigit(c)) g_string_append(out, "\" \"");
        escaped = c < ' ' || c > '~';
        if (escaped)
            g_string_append_printf(out, "\\%03o", c);
        else
            g_string_append_printf(out, "%s%c", strchr("\"\\?", c) ? "\\" : "", c);
    }
    return g_string_free(out, FALSE);
}

char *sender_slot_name(const GPtrArray *slots, const struct lex_element *e)
{
    /* what the functions call their own */
    static const char *const taken[] = {"s", "i", "line", "queue", NULL};
    char *name = lex_argument_name(slots, e);
    bool free = !lex_is_keyword(name) && !g_strv_contains(taken, name);
    char *other = g_strconcat(name, free ? "" : "_", NULL);
    g_free(name);
    return other;
}

char *sender_enum_name(const struct sender *s, const struct request *r, const struct lex_element *e)
{
    char *slot = sender_slot_name(r->slots, e);
    char *name = g_strdup_printf("%s_%s_%s", s->prefix, r->name, slot);
    g_free(slot);
    return name;
}

void sender_put_enum(struct sender *s, GString *out, const struct request *r,
                     const struct lex_element *e)
{
    char *name = sender_enum_name(s, r, e), *upper = g_ascii_strup(r->name, -1);
    char *between = g_strconcat(upper, "_", NULL);
    g_string_append_printf(out, "enum %s {", name);
    for (unsigned i = 0; i < e->words->len; i++) {
        char *constant = sender_constant(s, between, e->words->pdata[i]);
        g_string_append_printf(out, "%s\n    %s = %u", i ? "," : "", constant,
                               e->kind == LEX_SET ? 1u << i : i);
        g_free(constant);
    }
    g_string_append(out, "\n};\n");
    g_free(between), g_free(upper), g_free(name);
}

/* ---- types ---- */

/* Of a number, as it is sent: a device may get it scaled. */
static const char *number_type(const struct lex_element *e)
{
    if (e->low >= 0 && e->high <= UINT16_MAX) return e->high <= UINT8_MAX ? "uint8_t" : "uint16_t";
    return e->low >= INT16_MIN && e->high <= INT16_MAX ? "int16_t" : "int32_t";
}

/* " 0..100 %": bounds and unit, for a comment. Owned by the caller. */
static char *number_note(const struct lex_element *e)
{
    struct lex_element plain = *e;
    plain.scaled = false;
    char *note = lex_slot_of(e)->note(&plain), *text = g_strdup_printf(" /* %s */", note);
    g_free(note);
    return text;
}

char *sender_argument(const struct sender *s, const struct request *r, const struct lex_element *e)
{
    char *name = sender_slot_name(r->slots, e), *type = NULL, *note = NULL, *text = NULL;
    switch (e->kind) {
    case LEX_WORD: break;
    case LEX_CHOICE:
        type = sender_enum_name(s, r, e);
        text = g_strdup_printf("enum %s %s", type, name);
        break;
    case LEX_SET: text = g_strdup_printf("uint16_t %s", name); break;
    case LEX_NUMBER:
        note = number_note(e);
        text = g_strdup_printf("%s %s%s", number_type(e), name, note);
        break;
    case LEX_LIST:
        note = number_note(e);
        text =
            g_strdup_printf("const %s *%s%s, uint8_t %s_count", number_type(e), name, note, name);
        break;
    case LEX_TEXT: text = g_strdup_printf("const char *%s", name); break;
    }
    g_free(name), g_free(type), g_free(note);
    return text;
}

void sender_put_member(const struct sender *s, GString *out, const struct request *r,
                       const struct lex_element *e)
{
    char *name = sender_slot_name(r->slots, e), *type = NULL, *note = NULL;
    switch (e->kind) {
    case LEX_WORD: break;
    case LEX_CHOICE:
        type = sender_enum_name(s, r, e);
        g_string_append_printf(out, "            enum %s %s;\n", type, name);
        break;
    case LEX_SET: g_string_append_printf(out, "            uint16_t %s;\n", name); break;
    case LEX_NUMBER:
        note = number_note(e);
        g_string_append_printf(out, "            %s %s;%s\n", number_type(e), name, note);
        break;
    case LEX_LIST:
        note = number_note(e);
        g_string_append_printf(out, "            %s %s[%u];%s\n            uint8_t %s_count;\n",
                               number_type(e), name, e->most, note, name);
        break;
    case LEX_TEXT:
        g_string_append_printf(
            out,
            "            const char *%s; /* not ended by a 0 */\n            uint8_t %s_count;\n",
            name, name);
        break;
    }
    g_free(name), g_free(type), g_free(note);
}

/* ---- writing and reading ---- */

/* ROM("open\0close\0") and its count. Owned by the caller. */
static char *word_list(const struct lex_element *e)
{
    GString *out = g_string_new("ROM(");
    for (unsigned i = 0; i < e->words->len; i++) {
        char *word = sender_literal(e->words->pdata[i]);
        g_string_append_printf(out, "%s\"%s\\0\"", i ? " " : "", word);
        g_free(word);
    }
    g_string_append_c(out, ')');
    return g_string_free(out, FALSE);
}

/* "put_number(line, VALUE, 0, 100)" or "take_number(&h, 0, 100, &number)". */
static void number_call(GString *out, const char *verb, const struct lex_element *e,
                        const char *first, const char *last, const char *value)
{
    static const char *const forms[] = {
        [LEX_WHOLE] = "whole", [LEX_FRACTION] = "decimal", [LEX_HEX] = "hex", [LEX_TIME] = "time"};
    g_string_append_printf(out, "%s_%s(%s%s%s, %d, %d", verb, forms[e->form], first,
                           value ? ", " : "", value ? value : "", e->low, e->high);
    if (e->form == LEX_FRACTION) g_string_append_printf(out, ", %u", e->decimals);
    g_string_append_printf(out, "%s)", last);
}

static void literal_call(GString *out, const char *format, const char *text)
{
    char *literal = sender_literal(text);
    g_string_append_printf(out, format, literal);
    g_free(literal);
}

/* put_text(), or put_char() of a text of one character. */
static void say_text(GString *out, const char *indent, const char *text)
{
    g_string_append(out, indent);
    literal_call(out, "put_text(&line, ROM(\"%s\"));\n", text);
}

void sender_put_say(GString *out, const struct request *r, const struct lex_element *e)
{
    char *name = sender_slot_name(r->slots, e);
    sender_put_value(out, e, name);
    g_free(name);
}

void sender_put_value(GString *out, const struct lex_element *e, const char *name)
{
    char *words = NULL, *each = NULL;
    switch (e->kind) {
    case LEX_WORD: say_text(out, "    ", lex_spelling(e, 0)); break;
    case LEX_CHOICE:
    case LEX_SET:
        words = word_list(e);
        g_string_append_printf(out, "    put_word%s(&line, (uint16_t)%s, %u, %s);\n",
                               e->kind == LEX_SET ? "s" : "", name, e->words->len, words);
        break;
    case LEX_NUMBER:
        if (e->prefix) say_text(out, "    ", e->prefix);
        g_string_append(out, "    ");
        number_call(out, "put", e, "&line", "", name);
        g_string_append(out, ";\n");
        if (e->glued) say_text(out, "    ", e->unit);
        break;
    case LEX_LIST:
        each = g_strdup_printf("%s[i]", name);
        g_string_append_printf(
            out,
            "    for (uint8_t i = 0; has_count(&line, %s_count, 1, %u) && i < %s_count; i++) {\n"
            "        if (i) put_char(&line, ',');\n        ",
            name, e->most, name);
        number_call(out, "put", e, "&line", "", each);
        g_string_append(out, ";\n");
        if (e->glued) say_text(out, "        ", e->unit);
        g_string_append(out, "    }\n");
        break;
    case LEX_TEXT:
        g_string_append_printf(out, "    put_%s(&line, %s, %d, %d);\n", e->rest ? "rest" : "quoted",
                               name, e->low, e->high);
        break;
    }
    g_free(words), g_free(each);
}

void sender_put_take(GString *out, const struct lex_element *e, const char *to)
{
    char *last = g_strdup_printf(", &%s", to);
    if (e->prefix) literal_call(out, "take_text(&h, ROM(\"%s\")) && ", e->prefix);
    number_call(out, "take", e, "&h", last, NULL);
    if (e->glued) literal_call(out, " && take_text(&h, ROM(\"%s\"))", e->unit);
    g_free(last);
}

static void hear_text(GString *out, const char *indent, const char *text)
{
    g_string_append(out, indent);
    literal_call(out, "if (!take_text(&h, ROM(\"%s\"))) return false;\n", text);
}

static void hear_number(GString *out, const char *indent, const struct lex_element *e)
{
    g_string_append_printf(out, "%sif (!", indent);
    number_call(out, "take", e, "&h", ", &number", NULL);
    g_string_append(out, ") return false;\n");
    if (e->glued) hear_text(out, indent, e->unit);
}

/* Whether a device answers it with on or off. */
static bool switches_something(const struct lex_element *choice)
{
    static const char *const verbs[] = {"on", "off", "toggle", NULL};
    for (unsigned i = 0; i < choice->words->len; i++)
        if (g_strv_contains(verbs, choice->words->pdata[i])) return true;
    return false;
}

void sender_put_hear(const struct sender *s, GString *out, const struct request *r,
                     const struct lex_element *e, int behind)
{
    char *name = sender_slot_name(r->slots, e), *words = NULL;
    char *member = g_strdup_printf("heard->is.%s.%s", r->member, name);
    char *enum_name = NULL;
    bool switches = false;
    switch (e->kind) {
    case LEX_WORD: break;
    case LEX_CHOICE:
        words = word_list(e);
        enum_name = sender_enum_name(s, r, e);
        switches = r->kind == REQUEST_COMMAND && switches_something(e);
        if (switches) g_string_append(out, "        note_switched(heard, h);\n");
        g_string_append_printf(out,
                               "        if (take_word(&h, %u, %s, &word))\n"
                               "            %s = (enum %s)word;\n"
                               "        else%s\n            return false;\n",
                               e->words->len, words, member, enum_name,
                               switches ? " if (!take_switched(&h))" : "");
        break;
    case LEX_SET:
        words = word_list(e);
        g_string_append_printf(out,
                               "        if (!take_words(&h, %u, %s, &word)) return false;\n"
                               "        %s = word;\n",
                               e->words->len, words, member);
        break;
    case LEX_NUMBER:
        if (e->prefix && behind < 0) hear_text(out, "        ", e->prefix);
        hear_number(out, "        ", e);
        g_string_append_printf(out, "        %s = (%s)number;\n", member, number_type(e));
        break;
    case LEX_LIST:
        g_string_append_printf(out, "        %s_count = 0;\n        do {\n", member);
        g_string_append_printf(out, "            if (%s_count == %u) return false;\n", member,
                               e->most);
        hear_number(out, "            ", e);
        g_string_append_printf(out, "            %s[%s_count++] = (%s)number;\n", member, member,
                               number_type(e));
        g_string_append(out, "        } while (take_char(&h, ','));\n");
        break;
    case LEX_TEXT:
        if (behind < 0 && !e->rest)
            g_string_append_printf(
                out, "        if (!take_quoted(&h, %d, %d, &%s, &%s_count)) return false;\n",
                e->low, e->high, member, member);
        else
            g_string_append_printf(
                out,
                "        if (!take_until(&h, (char)%d, %d, %d, &%s, &%s_count)) return false;\n",
                MAX(behind, 0), e->low, e->high, member, member);
        break;
    }
    g_free(name), g_free(words), g_free(member), g_free(enum_name);
}
