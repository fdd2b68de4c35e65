/* Reads the fields of a layout: their types, constants, lengths, checks and slots.
 * One at a time; slots are names here.
 * What the fields are of is in read_layout.c. */
#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/read/reader.h"
#include "rlx/image.h"

#define RESULT_BITS 7

void lex_field_free(void *p)
{
    g_free(((struct lex_field *)p)->slot);
    g_free(p);
}

/* u8, i16, u3 */
static bool read_type(struct lexicon *lx, const struct token *token, struct lex_field *field,
                      bool row)
{
    guint64 bits = 0;
    bool word = token->kind == TOKEN_WORD && (*token->text == 'u' || *token->text == 'i') &&
                g_ascii_string_to_unsigned(token->text + 1, 10, 1, 32, &bits, NULL);
    field->bits = (unsigned)bits;
    field->is_signed = word && *token->text == 'i';
    if (word && !(field->is_signed && bits == 1)) return true;
    lex_fault(lx, token->place,
              "expected a field: u8, i16 or another number of bits up to 32 and what stands there, "
              "like 'u8 0xA5'; or %s",
              row ? "'channel'" : "'body', 'checked' or 'channels'");
    return false;
}

static bool read_sum(struct statement *st, struct lex_field *field)
{
    static const char *const forms[] = {"plain", "inverted", "negated", NULL};
    for (unsigned i = 0; forms[i]; i++)
        if (statement_take_word(st, forms[i])) field->sum = i;
    if (field->bits == 8 || field->bits == 16) return true;
    lex_fault(st->lx, field->place, "a sum has 8 or 16 bits: u8 or u16");
    return false;
}

static bool read_crc(struct statement *st, struct lex_field *field, unsigned bits)
{
    struct token *token = statement_take(st);
    const char *words[32] = {NULL};
    GString *known = g_string_new(NULL);
    for (unsigned i = 0, n = 0; i < lex_n_sums; i++) {
        if (lex_sums[i].bits != bits) continue;
        words[n++] = lex_sums[i].word;
        g_string_append_printf(known, "%s%s", known->len ? ", " : "", lex_sums[i].word);
        if (token->kind == TOKEN_WORD && !strcmp(token->text, lex_sums[i].word))
            field->crc = &lex_sums[i];
    }
    if (!field->crc) {
        const char *near = token->text ? lex_nearest(token->text, words) : NULL;
        lex_fault(st->lx, token->place, "expected which crc%u: %s%s%s%s", bits, known->str,
                  near ? "; did you mean '" : "", near ? near : "", near ? "'?" : "");
    } else if (field->bits != bits) {
        lex_fault(st->lx, field->place, "a crc%u has %u bits: u%u", bits, bits, bits);
        field->crc = NULL;
    }
    g_string_free(known, TRUE);
    return field->crc != NULL;
}

static bool read_constant(struct statement *st, struct lex_field *field)
{
    struct token *token = statement_take(st);
    bool minus = *token->text == '-';
    const char *digits = token->text + minus;
    bool hex = g_str_has_prefix(digits, "0x");
    guint64 size;
    if (!g_ascii_string_to_unsigned(digits + 2 * hex, hex ? 16 : 10, 0, G_MAXUINT32, &size, NULL)) {
        lex_fault(st->lx, token->place, "'%s' is no number, like 165 or 0xA5", token->text);
        return false;
    }
    int64_t value = minus ? -(int64_t)size : (int64_t)size;
    if (value < layout_low(field) || value > layout_high(field)) {
        lex_fault(st->lx, token->place,
                  "%s does not fit %u bits, %" G_GINT64_FORMAT "..%" G_GINT64_FORMAT, token->text,
                  field->bits, layout_low(field), layout_high(field));
        return false;
    }
    field->what = RLX_FLD_CONSTANT;
    field->constant = (uint32_t)value & (uint32_t)((UINT64_C(1) << field->bits) - 1);
    return true;
}

/* level, level 0..255 */
static bool read_value(struct statement *st, struct lex_field *field)
{
    field->what = RLX_FLD_VALUE;
    field->slot = statement_name(st, "what stands in the field");
    if (!field->slot) return false;
    const char *range = statement_peek(st)->text;
    if (statement_peek(st)->kind != TOKEN_WORD || !strstr(range, "..")) return true;
    struct lex_element any = {.kind = LEX_NUMBER};
    const char *end;
    int64_t from, to;
    struct token *token = statement_take(st);
    if (!lex_read_bounds(&any, range, &end, &from, &to) || *end || any.form != LEX_WHOLE ||
        from == to) {
        lex_fault(
            st->lx, token->place,
            "expected what the field has for the slot's lowest and highest value, like 0..255");
        return false;
    }
    if (MIN(from, to) < layout_low(field) || MAX(from, to) > layout_high(field)) {
        lex_fault(st->lx, token->place,
                  "%s does not fit %u bits, %" G_GINT64_FORMAT "..%" G_GINT64_FORMAT, range,
                  field->bits, layout_low(field), layout_high(field));
        return false;
    }
    field->what = RLX_FLD_SCALED;
    field->from = (int32_t)from;
    field->to = (int32_t)to;
    return true;
}

/* What stands in a field around the body: a number of its own, the length, a check. */
static bool read_around(struct statement *st, struct lex_field *field)
{
    static const char *const words[] = {"length", "number", "result", "sum",      "xor",
                                        "crc8",   "crc16",  "unused", "failsafe", NULL};
    struct token *token = statement_peek(st);
    unsigned word;
    if (token->kind == TOKEN_WORD && !g_ascii_isalpha(*token->text))
        return read_constant(st, field);
    if (!statement_one_of(st, "what stands in the field: a number like 0xA5, or", words, &word))
        return false;
    switch (word) {
    case 0:
        field->what = RLX_FLD_LENGTH;
        if (!statement_take_word(st, "of")) return true;
        field->addend = statement_take_word(st, "all")    ? 1
                        : statement_take_word(st, "body") ? 2
                                                          : 0;
        if (!field->addend)
            lex_fault(st->lx, statement_peek(st)->place,
                      "expected 'of all' or 'of body'; a length alone is of what follows it");
        return field->addend;
    case 1: field->what = RLX_FLD_NUMBER; return true;
    case 2:
        field->what = RLX_FLD_RESULT;
        if (field->bits >= RESULT_BITS) return true;
        lex_fault(st->lx, field->place, "errors have numbers up to 99: 'result' needs u%d",
                  RESULT_BITS);
        return false;
    case 3: field->what = RLX_FLD_SUM; return read_sum(st, field);
    case 4:
        field->what = RLX_FLD_XOR;
        if (field->bits == 8) return true;
        lex_fault(st->lx, field->place, "an xor has 8 bits: u8");
        return false;
    case 7: field->what = RLX_FLD_UNUSED; return true;
    case 8: field->what = RLX_FLD_FAILSAFE; return true;
    default: field->what = RLX_FLD_CRC; return read_crc(st, field, word == 5 ? 8 : 16);
    }
}

bool lex_read_field(struct statement *st, GPtrArray *fields, bool row)
{
    struct lex_field *field = g_new0(struct lex_field, 1);
    struct token *token = statement_peek(st);
    field->place = token->place;
    g_ptr_array_add(fields, field);
    if (!row && statement_take_word(st, "body")) {
        field->what = RLX_FLD_BODY;
        return true;
    }
    if (!row && statement_take_word(st, "checked")) {
        field->what = RLX_FLD_CHECKED;
        return true;
    }
    if (!row && statement_take_word(st, "channels")) return lex_read_channels(st, field);
    if (row && statement_take_word(st, "channel")) return lex_read_channel(st, field);
    if (!read_type(st->lx, statement_take(st), field, row)) return false;
    bool big = statement_take_word(st, "big");
    field->little = !big && statement_take_word(st, "little");
    if ((big || field->little) && field->bits % 8) {
        lex_fault(st->lx, field->place, "'big' and 'little' order whole bytes: u16, u24 or u32");
        return false;
    }
    if (statement_peek(st)->kind != TOKEN_WORD) {
        lex_fault(st->lx, statement_peek(st)->place, "expected what stands in the field, %s",
                  row ? "a number like 0xA5 or the name of a slot"
                      : "like 0xA5, length, number or a check");
        return false;
    }
    if (!row) return read_around(st, field);
    return g_ascii_isalpha(*statement_peek(st)->text) ? read_value(st, field)
                                                      : read_constant(st, field);
}
