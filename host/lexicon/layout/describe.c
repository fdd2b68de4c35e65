/* Layouts in words: fields, and which damage a check finds.
 * For the card, the checker and whoever looks at bytes.
 * The table of them is in write/card_layouts.c. */
#include "lexicon/layout/layout_parts.h"

char *layout_hex(const guint8 *bytes, size_t count)
{
    GString *text = g_string_new(NULL);
    for (size_t i = 0; i < count; i++)
        g_string_append_printf(text, "%s%02X", i ? " " : "", bytes[i]);
    return g_string_free(text, FALSE);
}

/* The check of a frame; NULL: it has none. */
static const struct lex_field *check_of(const struct lex_link *link)
{
    const struct lex_field *check = NULL;
    for (unsigned i = 0; i < link->layout->frame->len; i++) {
        const struct lex_field *field = link->layout->frame->pdata[i];
        if (field->what >= RLX_FLD_SUM) check = field;
    }
    return check;
}

bool layout_finds_bursts(const struct lex_link *link)
{
    const struct lex_field *check = check_of(link);
    return check && check->what == RLX_FLD_CRC && check->bits == 16;
}

char *layout_check_text(const struct lex_link *link)
{
    const struct lex_field *check = check_of(link);
    if (!check)
        return g_strdup("its frames have no check: a changed bit is another value or command");
    char *name = layout_field_text(check);
    unsigned long others = 1ul << check->bits;
    char *text =
        check->what == RLX_FLD_CRC
            ? g_strdup_printf("%s finds every changed bit and every burst of damage up to %u bits; "
                              "of other damage it lets 1 in %lu through",
                              name, check->bits, others)
        : check->what == RLX_FLD_XOR
            ? g_strdup_printf(
                  "an xor finds every changed bit, and not two changes of the same bit in "
                  "two bytes, nor bytes in another order; of random damage it lets 1 in "
                  "%lu through",
                  others)
            : g_strdup_printf(
                  "a sum finds every changed bit, and not two changes that cancel each "
                  "other, nor bytes in another order; of random damage it lets 1 in %lu "
                  "through",
                  others);
    g_free(name);
    return text;
}

char *layout_field_text(const struct lex_field *field)
{
    static const char *const sums[] = {"sum", "sum inverted", "sum negated"};
    switch (field->what) {
    case RLX_FLD_CONSTANT:
        return g_strdup_printf("0x%0*X", (int)(field->bits + 3) / 4, field->constant);
    case RLX_FLD_VALUE: return g_strdup(field->slot);
    case RLX_FLD_SCALED: return g_strdup_printf("%s %d..%d", field->slot, field->from, field->to);
    case RLX_FLD_LENGTH: return g_strdup("length");
    case RLX_FLD_NUMBER: return g_strdup("number");
    case RLX_FLD_RESULT: return g_strdup("result");
    case RLX_FLD_BODY: return g_strdup("body");
    case RLX_FLD_CHECKED: return g_strdup("checked");
    case RLX_FLD_CHANNELS:
        return g_strdup_printf("channels 1 to %u of u%u %s first", field->channels, field->each,
                               field->little ? "LSB" : "MSB");
    case RLX_FLD_UNUSED: return g_strdup("unused");
    case RLX_FLD_FAILSAFE: return g_strdup("failsafe");
    case RLX_FLD_CHANNEL:
        return g_strdup_printf("channel %u: %s from %d to %d, at rest %d to %d%s", field->channel,
                               field->slot, field->from, field->to, field->near_rest[0],
                               field->near_rest[1], field->anywhere ? ", from anywhere" : "");
    case RLX_FLD_ZONE:
        return g_strdup_printf("channel %u: from %d to %d, until it leaves %d to %d",
                               field->channel, field->from, field->to, field->near_rest[0],
                               field->near_rest[1]);
    case RLX_FLD_SUM: return g_strdup(sums[field->sum]);
    case RLX_FLD_XOR: return g_strdup("xor");
    default: return g_strdup(field->crc->published);
    }
}

char *layout_field_type(const struct lex_field *field)
{
    const char *order = field->bits <= 8 ? "" : field->little ? " little" : " big";
    if (!layout_is_placed(field) || field->channels) return g_strdup("");
    return g_strdup_printf("%c%u%s", field->is_signed ? 'i' : 'u', field->bits, order);
}

unsigned layout_check_bits(const struct lex_link *link)
{
    const struct lex_field *check = check_of(link);
    return check ? check->bits : 0;
}
