/* Binary frames from texts: commands, answers and events to bytes.
 * By the first row that has the text and takes its values.
 * What stands around the bytes of a frame is in wrap.c. */
#include "lexicon/layout/layout_parts.h"
#include "lexicon/layout/sticks.h"

#include <string.h>

static void put_fields(struct layout_bits *to, const GPtrArray *fields,
                       const struct layout_said *said, unsigned *checked)
{
    unsigned slot = 0;
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        uint32_t value = field->constant;
        switch (field->what) {
        case RLX_FLD_BODY:
            if (said->body) put_fields(to, said->body, said, checked);
            continue;
        case RLX_FLD_CHECKED: *checked = to->bytes->len; continue;
        case RLX_FLD_CHANNELS: layout_put_channels(to, field, said->channels); continue;
        case RLX_FLD_UNUSED: value = 0; break;
        case RLX_FLD_FAILSAFE: value = said->failsafe; break;
        case RLX_FLD_VALUE:
        case RLX_FLD_SCALED: value = (uint32_t)said->values[slot++]; break;
        case RLX_FLD_LENGTH: value = (uint32_t)((int)said->length - field->addend); break;
        case RLX_FLD_NUMBER: value = said->number; break;
        case RLX_FLD_RESULT: value = said->result; break;
        case RLX_FLD_CONSTANT: break;
        default: value = layout_sum(field, to->bytes->data + *checked, to->bytes->len - *checked);
        }
        layout_put_bits(to, field, value);
    }
}

GByteArray *layout_written(const GPtrArray *fields, struct layout_said *said)
{
    struct layout_bits to = {g_byte_array_new(), 0};
    unsigned checked = 0;
    said->length = (layout_bits(fields) + layout_bits(said->body)) / 8;
    put_fields(&to, fields, said, &checked);
    return to.bytes;
}

bool layout_number_said(const struct lex_element *e, const char *text, int64_t *value)
{
    struct lex_element any = *e;
    int32_t got;
    size_t before = e->prefix ? strlen(e->prefix) : 0;
    if (strncmp(text, e->prefix ? e->prefix : "", before) != 0) return false;
    any.low = -G_MAXINT32;
    any.high = G_MAXINT32;
    if (!lex_value_said(&any, text + before, &got)) return false;
    *value = got;
    return true;
}

/* The values of the row's fields, in their order. False: the text is another one, or a value does
 * not fit its field. */
static bool values_of(const struct lex_packed *row, char **words, int64_t *values)
{
    unsigned n = g_strv_length(words);
    if (n != g_strv_length(row->pieces)) return false;
    for (unsigned i = 0; i < n; i++)
        if (*row->pieces[i] != '{' && strcmp(row->pieces[i], words[i]) != 0) return false;
    unsigned slot = 0;
    for (unsigned k = 0; k < row->fields->len; k++) {
        const struct lex_field *field = row->fields->pdata[k];
        int64_t value = 0;
        if (!field->of) continue;
        unsigned i = 0;
        while (row->command->elements->pdata[i] != field->of) i++;
        if (!layout_number_said(field->of, words[i], &value)) return false;
        if (field->what == RLX_FLD_SCALED)
            value = layout_between(value, field->of->low, field->of->high, field->from, field->to);
        if (value < layout_low(field) || value > layout_high(field)) return false;
        values[slot++] = value;
    }
    return true;
}

/* 0xA5 0x02: bytes as they are. NULL: it is something else. */
static GByteArray *hex_bytes(char **words)
{
    GByteArray *bytes = g_byte_array_new();
    for (char **word = words; *word; word++) {
        guint64 value;
        bool ok = g_str_has_prefix(*word, "0x") &&
                  g_ascii_string_to_unsigned(*word + 2, 16, 0, 255, &value, NULL);
        guint8 byte = ok ? (guint8)value : 0;
        if (!ok) {
            g_byte_array_free(bytes, TRUE);
            return NULL;
        }
        g_byte_array_append(bytes, &byte, 1);
    }
    if (bytes->len) return bytes;
    g_byte_array_free(bytes, TRUE);
    return NULL;
}

GByteArray *layout_frame(const struct lex_link *link, const char *text, uint32_t number)
{
    const struct lex_layout *layout = link->layout;
    if (layout->channels) return sticks_say(link, text);
    char **words = g_strsplit(text, " ", -1);
    GByteArray *frame = NULL;
    for (unsigned i = 0; !frame && i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        int64_t values[RLX_MOST_SLOTS];
        struct layout_said said = {.number = number, .body = row->fields, .values = values};
        if (!row->event && values_of(row, words, values))
            frame = layout_written(layout->frame, &said);
    }
    g_strfreev(words);
    return frame;
}

GByteArray *layout_encode(const struct lex_link *link, const char *text, uint32_t number)
{
    char **words = g_strsplit(text, " ", -1);
    GByteArray *frame = hex_bytes(words);
    g_strfreev(words);
    if (frame) return frame;
    frame = layout_frame(link, text, number);
    if (frame) layout_wrap(link, frame);
    return frame;
}

GByteArray *layout_answer(const struct lex_link *link, const char *event, unsigned result,
                          uint32_t number)
{
    const struct lex_layout *layout = link->layout;
    struct layout_said said = {.number = number, .result = result};
    if (!event) return layout->answer->len ? layout_written(layout->answer, &said) : NULL;
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        const int64_t values[RLX_MOST_SLOTS] = {0};
        if ((!row->event && !row->answers->len) || strcmp(row->text, event) != 0) continue;
        said.body = row->event ? row->fields : row->answers;
        said.values = values;
        return layout_written(row->event ? layout->event : layout->answer, &said);
    }
    return NULL;
}

char *layout_example(const struct lex_link *link, const struct lex_packed *row)
{
    struct layout_got got = {0};
    unsigned slot = 0;
    if (link->layout->channels && !row) row = sticks_first(link);
    for (unsigned i = 0; !row || row->event; i++) row = link->layout->rows->pdata[i];
    for (unsigned i = 0; i < row->fields->len; i++) {
        const struct lex_field *field = row->fields->pdata[i];
        if (!field->of) continue;
        bool low = field->channel && field->of->high <= 0; /* where a stick is not at rest */
        got.values[slot++] = field->what == RLX_FLD_SCALED ? field->to
                             : low                         ? field->of->low
                                                           : field->of->high;
    }
    return layout_row_text(row, &got);
}
