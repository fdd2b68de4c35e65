/* The fields of layouts: how many bits they have, what they can be.
 * Bits are written and read most significant first, or byte by byte.
 * What a field means is in encode.c and decode.c. */
#include "lexicon/layout/layout_parts.h"

#include <string.h>

bool layout_is_placed(const struct lex_field *field)
{
    return field->what != RLX_FLD_BODY && field->what != RLX_FLD_CHECKED &&
           field->what != RLX_FLD_CHANNEL && field->what != RLX_FLD_ZONE;
}

unsigned layout_width(const struct lex_field *field)
{
    return field->what == RLX_FLD_CHANNELS ? field->channels * field->each : field->bits;
}

unsigned layout_bits(const GPtrArray *fields)
{
    unsigned bits = 0;
    for (unsigned i = 0; fields && i < fields->len; i++)
        if (layout_is_placed(fields->pdata[i])) bits += layout_width(fields->pdata[i]);
    return bits;
}

int64_t layout_low(const struct lex_field *field)
{
    return field->is_signed ? -(INT64_C(1) << (field->bits - 1)) : 0;
}

int64_t layout_high(const struct lex_field *field)
{
    return (INT64_C(1) << (field->bits - field->is_signed)) - 1;
}

void layout_put_bits(struct layout_bits *to, const struct lex_field *field, uint32_t value)
{
    for (unsigned i = 0; i < field->bits; i++) {
        unsigned bit = field->little ? i / 8 * 8 + 7 - i % 8 : field->bits - 1 - i;
        const guint8 zero = 0;
        if (!to->fill) g_byte_array_append(to->bytes, &zero, 1);
        if (value >> bit & 1) to->bytes->data[to->bytes->len - 1] |= (guint8)(0x80u >> to->fill);
        to->fill = (to->fill + 1) % 8;
    }
}

uint32_t layout_bits_at(const struct lex_field *field, const guint8 *bytes, unsigned at)
{
    uint32_t value = 0;
    for (unsigned i = 0; i < field->bits; i++, at++) {
        unsigned bit = field->little ? i / 8 * 8 + 7 - i % 8 : field->bits - 1 - i;
        value |= (uint32_t)(bytes[at / 8] >> (7 - at % 8) & 1) << bit;
    }
    return value;
}

int64_t layout_between(int64_t value, int64_t from, int64_t to, int64_t low, int64_t high)
{
    int64_t range = to - from, product = (value - from) * (high - low);
    if (range < 0) {
        range = -range;
        product = -product;
    }
    return low + (product < 0 ? product - range / 2 : product + range / 2) / range;
}

void layout_reach(const struct lex_field *field, int64_t *low, int64_t *high)
{
    *low = layout_low(field);
    *high = layout_high(field);
    if (field->what != RLX_FLD_SCALED) return;
    int64_t a = layout_between(*low, field->from, field->to, field->of->low, field->of->high);
    int64_t b = layout_between(*high, field->from, field->to, field->of->low, field->of->high);
    *low = MIN(a, b);
    *high = MAX(a, b);
}

bool layout_has_event(const struct lex_link *link, const struct lex_event *event)
{
    for (unsigned i = 0; i < link->layout->rows->len; i++) {
        const struct lex_packed *row = link->layout->rows->pdata[i];
        if (row->event && row->pieces[1] && !strcmp(row->pieces[1], event->name)) return true;
    }
    return false;
}

static size_t longest_unit(const struct lex_command *command)
{
    size_t most = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        most = MAX(most, (e->unit ? strlen(e->unit) : 0) + (e->prefix ? strlen(e->prefix) : 0));
    }
    return most;
}

unsigned layout_text_most(const struct lex_packed *row)
{
    size_t length = strlen(row->text);
    for (unsigned k = 0; !row->event && k < row->fields->len; k++)
        if (((struct lex_field *)row->fields->pdata[k])->of)
            length += strlen("-2147483648.ms") + (row->command ? longest_unit(row->command) : 0);
    return (unsigned)length;
}

unsigned layout_text_place(const struct lex_link *link)
{
    unsigned rows = 0;
    for (unsigned i = 0; i < link->layout->rows->len; i++)
        rows += !((struct lex_packed *)link->layout->rows->pdata[i])->event;
    return 2 * (layout_bits(link->layout->frame) / 8) + 1 + rows;
}

unsigned layout_room(const struct lex_link *link)
{
    unsigned most = 0;
    for (unsigned i = 0; i < link->layout->rows->len; i++)
        most = MAX(most, layout_text_most(link->layout->rows->pdata[i]));
    return layout_text_place(link) + most;
}

unsigned layout_most(const struct lex_link *link, bool answers)
{
    const struct lex_layout *layout = link->layout;
    unsigned bits = answers ? layout_bits(layout->answer) : 0;
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (answers && row->answers->len)
            bits = MAX(bits, layout_bits(layout->answer) + layout_bits(row->answers));
        if (row->event != answers) continue;
        bits = MAX(bits,
                   layout_bits(answers ? layout->event : layout->frame) + layout_bits(row->fields));
    }
    unsigned bytes = bits / 8;
    return link->frame == LEX_FRAME_STUFFED ? 2 * bytes + 2
           : link->frame == LEX_FRAME_COBS  ? bytes + 2
                                            : bytes;
}
