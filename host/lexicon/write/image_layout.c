/* The image's layouts: fields of frames, answers and events, and rows of commands and events.
 * They stand where a link of keys has those; rlx/image.h has their form.
 * How a row's text is read is in the lexicon's own commands. */
#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/write/build.h"

/* What the channel has, ascending, and the slot's values there. */
static void put_channel(struct build *b, const struct lex_field *field, unsigned slot, bool renews)
{
    GByteArray *to = b->image->bytes;
    const struct lex_element *e = field->of;
    bool up = field->from < field->to;
    int32_t rest = CLAMP(0, e->low, e->high);
    build_put8(to, (field->channel - 1) | (renews ? RLX_CHANNEL_RENEWS : 0u) |
                       (field->anywhere ? RLX_CHANNEL_ANYWHERE : 0u));
    build_put8(to, slot);
    build_put16(to, (unsigned)MIN(field->from, field->to));
    build_put16(to, (unsigned)field->near_rest[0]);
    build_put16(to, (unsigned)field->near_rest[1]);
    build_put16(to, (unsigned)MAX(field->from, field->to));
    build_put32(to, (uint32_t)(up ? e->low : e->high));
    build_put32(to, (uint32_t)rest);
    build_put32(to, (uint32_t)(up ? e->high : e->low));
}

static void put_zone(GByteArray *to, const struct lex_field *field, bool renews)
{
    build_put8(to, (field->channel - 1) | (renews ? RLX_CHANNEL_RENEWS : 0u));
    build_put16(to, (unsigned)field->from);
    build_put16(to, (unsigned)field->to);
    build_put16(to, (unsigned)field->near_rest[0]);
    build_put16(to, (unsigned)field->near_rest[1]);
}

static void put_field(struct build *b, const struct lex_field *field, unsigned slot, bool renews)
{
    GByteArray *to = b->image->bytes;
    const struct lex_sum *crc = field->crc;
    bool set = crc ? crc->reflected : field->is_signed;
    unsigned width = field->what == RLX_FLD_CHANNELS ? field->each : field->bits;
    unsigned bits = width ? width - 1 : 0, shift = crc && !crc->reflected ? 16 - crc->bits : 0;
    build_put8(to, field->what);
    build_put8(to, bits | (field->little ? RLX_SIZE_LITTLE : 0u) | (set ? RLX_SIZE_SIGNED : 0u));
    switch (field->what) {
    case RLX_FLD_CONSTANT: build_put32(to, field->constant); break;
    case RLX_FLD_VALUE: build_put8(to, slot); break;
    case RLX_FLD_SCALED: {
        bool up = field->from < field->to; /* the frame's lower one first */
        build_need(b, RLX_BIT_SCALED);
        build_put8(to, slot);
        build_put32(to, (uint32_t)(up ? field->from : field->to));
        build_put32(to, (uint32_t)(up ? field->to : field->from));
        build_put32(to, (uint32_t)(up ? field->of->low : field->of->high));
        build_put32(to, (uint32_t)(up ? field->of->high : field->of->low));
        break;
    }
    case RLX_FLD_CHANNELS: build_put8(to, field->channels); break;
    case RLX_FLD_CHANNEL: put_channel(b, field, slot, renews); break;
    case RLX_FLD_ZONE: put_zone(to, field, renews); break;
    case RLX_FLD_LENGTH: build_put8(to, (guint8)field->addend); break;
    case RLX_FLD_SUM: build_put8(to, field->sum); break;
    case RLX_FLD_CRC: {
        unsigned polynomial = crc->polynomial;
        for (unsigned i = 0; crc->reflected && i < crc->bits; i++)
            polynomial =
                (polynomial & ~(1u << i)) | ((crc->polynomial >> (crc->bits - 1 - i) & 1u) << i);
        build_put16(to, polynomial << shift);
        build_put16(to, (unsigned)crc->start << shift);
        build_put16(to, (unsigned)crc->last << shift);
        break;
    }
    default: break;
    }
}

/* The number of what it is told in the list; 0: it is none of it. */
static unsigned number_in(const GPtrArray *told, const struct lex_element *e)
{
    unsigned n = 0;
    for (unsigned i = 0; told && i < told->len; i++)
        if (told->pdata[i] == e) n = i;
    return n;
}

/* Whether what the row does ends by itself, so that each frame has to renew it. */
static bool is_renewed(const struct build *b, const struct lex_packed *row)
{
    const struct lex_command *command = row->command;
    const struct lex_output *out = command ? lex_effect_output(b->lx, &command->effect) : NULL;
    bool expires = command && (command->expires || command->effect.lasts || (out && out->expires));
    for (unsigned i = 0; out && i < out->members->len; i++) {
        int member = lexicon_output_index(b->lx, out->members->pdata[i]);
        expires |= member >= 0 && ((struct lex_output *)b->lx->outputs->pdata[member])->expires;
    }
    return expires;
}

/* Slots have numbers in the order of their fields, or of what a command is answered with. */
static void put_fields(struct build *b, const GPtrArray *fields, const GPtrArray *told, bool renews)
{
    unsigned slot = 0;
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        put_field(b, field, told ? number_in(told, field->of) : slot, renews);
        if (!field->of || told) continue;
        int64_t low = field->of->low, high = field->of->high;
        if (!field->channel) layout_reach(field, &low, &high);
        if (low < G_MININT16 || high > G_MAXUINT16 || (high > G_MAXINT16 && field->of->low < 0))
            build_need(b, RLX_BIT_WIDE);
        slot++;
    }
    build_put8(b->image->bytes, RLX_FLD_END);
}

/* The number of the row's field that has this slot. */
static unsigned slot_of(const struct lex_packed *row, const struct lex_element *e)
{
    unsigned slot = 0;
    for (unsigned i = 0; i < row->fields->len; i++) {
        const struct lex_field *field = row->fields->pdata[i];
        if (field->of == e) return slot;
        slot += field->of != NULL;
    }
    return slot;
}

/* Its words, with RLX_ROW_SLOT and the slot for each number. */
static void put_text(struct build *b, const struct lex_packed *row)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; row->pieces[i]; i++) {
        const struct lex_element *e = row->command ? row->command->elements->pdata[i] : NULL;
        if (i) g_string_append_c(text, ' ');
        if (*row->pieces[i] != '{') {
            g_string_append(text, row->pieces[i]);
            continue;
        }
        if (e->prefix) g_string_append(text, e->prefix);
        g_string_append_c(text, RLX_ROW_SLOT);
        g_string_append_c(text, (char)((slot_of(row, e) + 1) | e->decimals << RLX_ROW_SLOT_BITS));
        if (e->form == LEX_TIME) g_string_append(text, "ms");
        if (e->glued) g_string_append(text, e->unit);
    }
    build_put_text(b->image->bytes, text->str);
    g_string_free(text, TRUE);
}

/* Bytes of the frame behind its body. */
static unsigned behind_body(const GPtrArray *fields)
{
    unsigned bits = 0;
    for (unsigned i = fields->len; i--;) {
        const struct lex_field *field = fields->pdata[i];
        if (field->what == RLX_FLD_BODY) break;
        bits += field->bits;
    }
    return bits / 8;
}

void build_put_layout(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    const struct lex_layout *layout = link->layout;
    build_need(b, RLX_BIT_LAYOUT);
    build_row(b, "layout of %s: frames, answers, events", link->name);
    unsigned at = build_begin_list(to);
    if (layout->channels) build_need(b, RLX_BIT_CHANNELS);
    build_put8(to, layout->channels ? layout_text_place(link) : behind_body(layout->frame));
    put_fields(b, layout->frame, NULL, false);
    put_fields(b, layout->answer, NULL, false);
    put_fields(b, layout->event, NULL, false);
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        build_row(b, "\"%s\"", row->text);
        build_put8(to, row->event          ? (unsigned)build_own_event(b->lx, row->text)
                       : row->answers->len ? RLX_ROW_ANSWERS
                                           : RLX_ROW_COMMAND);
        put_fields(b, row->fields, NULL, is_renewed(b, row));
        if (!row->event) put_text(b, row);
        if (row->answers->len) put_fields(b, row->answers, row->command->told, false);
    }
    build_end_list(to, at);
}
