/* Texts from binary frames: what a device reads, and what it sent.
 * Holds the bytes against each row; nothing here calls the library.
 * What stands around them is taken off in wrap.c. */
#include "lexicon/layout/layout_parts.h"
#include "lexicon/layout/sticks.h"

#include <string.h>

/* Whether the bytes are these fields, with those of the body in its place. */
static bool is_fields(const GPtrArray *fields, const GPtrArray *body, const guint8 *bytes,
                      size_t count, unsigned *at, unsigned *checked, struct layout_got *got)
{
    unsigned slot = 0;
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        if (field->what == RLX_FLD_CHECKED) *checked = *at / 8;
        if (field->what == RLX_FLD_BODY && body &&
            !is_fields(body, NULL, bytes, count, at, checked, got))
            return false;
        if (!layout_is_placed(field)) continue;
        if (field->what == RLX_FLD_CHANNELS) {
            layout_take_channels(field, bytes, *at, got->channels);
            *at += layout_width(field);
            continue;
        }
        uint32_t value = layout_bits_at(field, bytes, *at);
        bool ok = true;
        switch (field->what) {
        case RLX_FLD_CONSTANT: ok = value == field->constant; break;
        case RLX_FLD_LENGTH: ok = (int64_t)value + field->addend == (int64_t)count; break;
        case RLX_FLD_NUMBER: got->number = value; break;
        case RLX_FLD_RESULT: got->result = value; break;
        case RLX_FLD_UNUSED: break;
        case RLX_FLD_FAILSAFE: got->failsafe |= value != 0; break;
        case RLX_FLD_VALUE:
        case RLX_FLD_SCALED:
            got->values[slot] = value;
            if (field->is_signed && value >> (field->bits - 1))
                got->values[slot] -= INT64_C(1) << field->bits;
            slot++;
            break;
        default: ok = value == layout_sum(field, bytes + *checked, *at / 8 - *checked);
        }
        if (!ok) return false;
        *at += field->bits;
    }
    return true;
}

bool layout_is_frame(const GPtrArray *fields, const GPtrArray *body, const guint8 *bytes,
                     size_t count, struct layout_got *got)
{
    unsigned at = 0, checked = 0;
    if (!fields->len || (layout_bits(fields) + layout_bits(body)) != count * 8) return false;
    return is_fields(fields, body, bytes, count, &at, &checked, got);
}

char *layout_row_text(const struct lex_packed *row, const struct layout_got *got)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; row->pieces[i]; i++) {
        unsigned slot = 0;
        if (text->len) g_string_append_c(text, ' ');
        if (*row->pieces[i] != '{') {
            g_string_append(text, row->pieces[i]);
            continue;
        }
        for (unsigned k = 0; k < row->fields->len; k++) {
            const struct lex_field *field = row->fields->pdata[k];
            if (!field->of) continue;
            if (field->of == row->command->elements->pdata[i]) {
                const struct lex_element *e = field->of;
                int64_t value = got->values[slot];
                if (field->what == RLX_FLD_SCALED)
                    value = layout_between(value, field->from, field->to, e->low, e->high);
                char *number = lex_value_text(e, (int32_t)value);
                g_string_append_printf(text, "%s%s%s", e->prefix ? e->prefix : "", number,
                                       e->glued ? e->unit : "");
                g_free(number);
            }
            slot++;
        }
    }
    return g_string_free(text, FALSE);
}

char *layout_command(const struct lex_link *link, const guint8 *bytes, size_t count)
{
    const struct lex_layout *layout = link->layout;
    if (layout->channels) return sticks_heard(link, bytes, count);
    unsigned around = layout_bits(layout->frame) / 8;
    struct layout_got got = {0};
    GPtrArray *any = g_ptr_array_new();
    struct lex_field rest = {.what = RLX_FLD_RESULT, .bits = 8}; /* whatever it is */
    for (size_t i = around; i < count; i++) g_ptr_array_add(any, &rest);
    bool ours = count >= around && layout_is_frame(layout->frame, any, bytes, count, &got);
    g_ptr_array_free(any, TRUE);
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (!row->event && layout_is_frame(layout->frame, row->fields, bytes, count, &got))
            return layout_row_text(row, &got);
    }
    return ours ? g_strdup("") : NULL;
}

bool layout_says(const struct lex_link *link, const char *text)
{
    if (link->layout->channels) return sticks_says(link, text);
    GByteArray *frame = layout_frame(link, text, 0);
    char *read = frame ? layout_command(link, frame->data, frame->len) : NULL;
    bool says = read && !strcmp(read, text);
    g_free(read);
    if (frame) g_byte_array_free(frame, TRUE);
    return says;
}

bool layout_asks(const struct lex_link *link, const char *text)
{
    return layout_says(link, text) && (!link->layout->channels || sticks_moves(link, text));
}

/* The text of a value that a handler answered with. Owned by the caller. */
static char *told_text(const struct lex_element *e, int64_t value)
{
    if (e->kind == LEX_SET) return lex_set_text(e, (int32_t)value);
    if (e->kind == LEX_CHOICE)
        return g_strdup(value >= 0 && value < e->words->len ? e->words->pdata[value] : "?");
    return lex_value_text(e, (int32_t)value);
}

/* "ok level 234": what a command or query was answered with. Owned by the caller. */
static char *told_values(const struct lex_packed *row, const struct layout_got *got)
{
    const struct lex_query *query = row->command->query;
    GString *text = g_string_new("ok");
    if (query) g_string_append_printf(text, " %s", query->name);
    for (unsigned i = 0; i < row->command->told->len; i++) {
        unsigned slot = 0;
        for (unsigned k = 0; k < row->answers->len; k++) {
            const struct lex_field *field = row->answers->pdata[k];
            const struct lex_element *e = field->of;
            if (e && e == row->command->told->pdata[i]) {
                int64_t value = got->values[slot];
                if (field->what == RLX_FLD_SCALED)
                    value = layout_between(value, field->from, field->to, e->low, e->high);
                char *told = told_text(e, value);
                g_string_append_printf(text, " %s", told);
                g_free(told);
            }
            slot += e != NULL;
        }
    }
    return g_string_free(text, FALSE);
}

/* The answer or event of the device that these bytes are. NULL: none. */
static char *answer_in(const struct lex_link *link, const guint8 *bytes, size_t count)
{
    const struct lex_layout *layout = link->layout;
    struct layout_got got = {0};
    if (layout_is_frame(layout->answer, NULL, bytes, count, &got))
        return got.result ? g_strdup_printf("e%u", got.result) : g_strdup("ok");
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (row->answers->len && layout_is_frame(layout->answer, row->answers, bytes, count, &got))
            return told_values(row, &got);
    }
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (row->event && layout_is_frame(layout->event, row->fields, bytes, count, &got))
            return g_strdup(row->text);
    }
    return NULL;
}

/* How many bytes are one frame; 0: nothing ends one here. Its bytes are then in `frame`. */
static size_t cut_frame(const struct lex_link *link, const guint8 *bytes, size_t count,
                        GByteArray *frame)
{
    bool stuffed = link->frame == LEX_FRAME_STUFFED;
    guint8 end = stuffed ? RLX_STUFF_FLAG : 0;
    size_t from = stuffed && *bytes == end ? 1 : 0, n = from;
    if (!stuffed && link->frame != LEX_FRAME_COBS) return 0;
    while (n < count && bytes[n] != end) n++;
    if (n == count) return 0;
    g_byte_array_append(frame, bytes + from, (guint)(n - from));
    return n + 1;
}

/* Where nothing marks the ends of frames, the longest beginning that is one. */
char *layout_decode(const struct lex_link *link, const guint8 *bytes, size_t count, size_t *used)
{
    GByteArray *frame = g_byte_array_new();
    char *text = NULL;
    *used = cut_frame(link, bytes, count, frame);
    if (*used) {
        if (layout_unwrap(link, frame)) text = answer_in(link, frame->data, frame->len);
    } else if (link->frame != LEX_FRAME_STUFFED && link->frame != LEX_FRAME_COBS) {
        for (*used = count; *used && !text;)
            if (!(text = answer_in(link, bytes, *used))) --*used;
    }
    g_byte_array_free(frame, TRUE);
    if (!*used) *used = count;
    return text ? text : layout_hex(bytes, *used);
}
