/* The card's frames of bytes: what each command, answer and event is, field by field; and the same
 * as JSON.
 * The bytes themselves are made in lexicon/layout/. */
#include "lexicon/write/card_layouts.h"

#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/write/cells.h"
#include "rlx/image.h"

/* ---- as text ---- */

/* "A5, length u8, 02, level u8": the body's fields in its place. */
static void add_fields(GString *text, const GPtrArray *fields, const GPtrArray *body)
{
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        if (field->what == RLX_FLD_BODY && body) add_fields(text, body, NULL);
        if (field->what == RLX_FLD_BODY || field->what == RLX_FLD_CHECKED) continue;
        if (text->len) g_string_append(text, ", ");
        bool whole = field->what == RLX_FLD_CONSTANT && field->bits % 8 == 0;
        for (unsigned k = 0; whole && k < field->bits; k += 8) {
            unsigned shift = field->little ? k : field->bits - 8 - k;
            g_string_append_printf(text, "%s%02X", k ? " " : "", field->constant >> shift & 0xFF);
        }
        if (whole) continue;
        char *what = layout_field_text(field), *type = layout_field_type(field);
        g_string_append_printf(text, *type ? "%s %s" : "%s", what, type);
        g_free(what);
        g_free(type);
    }
}

static void put_row(struct table *table, const struct lex_link *link, const char *what,
                    const GPtrArray *fields, const GPtrArray *body)
{
    GString *text = g_string_new(NULL);
    add_fields(text, fields, body);
    table_cell(table, "%s", link->name);
    table_cell(table, "%s", what);
    table_cell(table, "%s", text->str);
    g_string_free(text, TRUE);
}

#define COLUMNS 76u

/* "mast: ... ." in lines of so many columns. */
static void add_wrapped(GString *out, const char *name, const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    gsize column = strlen(name) + 1;
    g_string_append_printf(out, "%s:", name);
    for (unsigned i = 0; words[i]; i++) {
        bool wrap = column + 1 + strlen(words[i]) > COLUMNS;
        g_string_append_printf(out, "%c%s", wrap ? '\n' : ' ', words[i]);
        column = (wrap ? 0 : column + 1) + strlen(words[i]);
    }
    g_string_append(out, ".\n");
    g_strfreev(words);
}

void card_put_layouts(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"link", "frame", "its fields, in order", NULL};
    struct table table = table_new(heads);
    GString *checks = g_string_new(NULL);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        const struct lex_layout *layout = link->layout;
        if (!layout || lex_is_raw(link)) continue;
        char *frame = layout->every ? g_strdup_printf("(the frame, every %u ms)", layout->every)
                                    : g_strdup("(the frame)");
        if (layout->channels) put_row(&table, link, frame, layout->frame, NULL);
        g_free(frame);
        for (unsigned k = 0; k < layout->rows->len; k++) {
            const struct lex_packed *row = layout->rows->pdata[k];
            bool chosen = layout->channels && !row->event;
            put_row(&table, link, row->text,
                    row->event ? layout->event
                    : chosen   ? row->fields
                               : layout->frame,
                    chosen ? NULL : row->fields);
            if (row->answers->len)
                put_row(&table, link, "(its answer)", layout->answer, row->answers);
        }
        if (layout->answer->len) put_row(&table, link, "(the answer)", layout->answer, NULL);
        char *finds = layout_check_text(link);
        add_wrapped(checks, link->name, finds);
        g_free(finds);
    }
    bool any = table.cells->len;
    table_put(out, &table, "Frames of bytes", form);
    if (any)
        table_lines(out,
                    "u8 is a byte, i16 a number of 16 bits in two's complement. A length counts\n"
                    "the bytes behind it, or what stands there. The result is 0, or an error's\n"
                    "number.\n",
                    form);
    if (any) table_lines(out, checks->str, form);
    g_string_free(checks, TRUE);
}

/* ---- as JSON ---- */

static json_t *field_json(const struct lex_field *field)
{
    static const char *const kinds[] = {
        [RLX_FLD_CONSTANT] = "constant", [RLX_FLD_VALUE] = "value",
        [RLX_FLD_SCALED] = "value",      [RLX_FLD_LENGTH] = "length",
        [RLX_FLD_NUMBER] = "number",     [RLX_FLD_RESULT] = "result",
        [RLX_FLD_BODY] = "body",         [RLX_FLD_CHECKED] = "checked",
        [RLX_FLD_SUM] = "sum",           [RLX_FLD_CHANNELS] = "channels",
        [RLX_FLD_UNUSED] = "unused",     [RLX_FLD_FAILSAFE] = "failsafe",
        [RLX_FLD_CHANNEL] = "channel",   [RLX_FLD_ZONE] = "zone",
        [RLX_FLD_XOR] = "xor",           [RLX_FLD_CRC] = "crc"};
    static const char *const sums[] = {"plain", "inverted", "negated"};
    json_t *all = json_pack("{s:s}", "is", kinds[field->what]);
    if (field->bits) {
        json_object_set_new(all, "bits", json_integer(field->bits));
        json_object_set_new(all, "order", json_string(field->little ? "little" : "big"));
        json_object_set_new(all, "signed", json_boolean(field->is_signed));
    }
    if (field->what == RLX_FLD_CONSTANT)
        json_object_set_new(all, "constant", json_integer(field->constant));
    if (field->slot) json_object_set_new(all, "slot", json_string(field->slot));
    if (field->what == RLX_FLD_SCALED || field->channel) {
        json_object_set_new(all, "from", json_integer(field->from));
        json_object_set_new(all, "to", json_integer(field->to));
    }
    if (field->channels) {
        json_object_set_new(all, "channels", json_integer(field->channels));
        json_object_set_new(all, "bits", json_integer(field->each));
        json_object_set_new(all, "lsb_first", json_boolean(field->little));
    }
    if (field->channel) {
        bool zone = field->what == RLX_FLD_ZONE;
        json_object_set_new(all, "channel", json_integer(field->channel));
        json_object_set_new(all, zone ? "kept" : "rest",
                            json_pack("[i, i]", field->near_rest[0], field->near_rest[1]));
        if (!zone) json_object_set_new(all, "anywhere", json_boolean(field->anywhere));
    }
    if (field->what == RLX_FLD_LENGTH)
        json_object_set_new(all, "uncounted", json_integer(field->addend));
    if (field->what == RLX_FLD_SUM) json_object_set_new(all, "form", json_string(sums[field->sum]));
    if (field->crc)
        json_object_set_new(all, "check",
                            json_pack("{s:s, s:i, s:i, s:i, s:b}", "name", field->crc->published,
                                      "polynomial", (int)field->crc->polynomial, "start",
                                      (int)field->crc->start, "final_xor", (int)field->crc->last,
                                      "reflected", (int)field->crc->reflected));
    return all;
}

static json_t *fields_json(const GPtrArray *fields)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < fields->len; i++)
        json_array_append_new(all, field_json(fields->pdata[i]));
    return all;
}

/* Takes the bytes over. */
static json_t *bytes_json(GByteArray *bytes)
{
    json_t *all = json_array();
    for (guint i = 0; bytes && i < bytes->len; i++)
        json_array_append_new(all, json_integer(bytes->data[i]));
    if (bytes) g_byte_array_free(bytes, TRUE);
    return all;
}

/* The same text in bytes, without what stands around them. */
static json_t *example_json(const struct lex_link *link, const struct lex_packed *row)
{
    char *text = row->event ? g_strdup(row->text) : layout_example(link, row);
    GByteArray *bytes = row->event ? layout_answer(link, text, 0, 0) : layout_frame(link, text, 1);
    json_t *all = json_pack("{s:s, s:o}", "text", text, "bytes", bytes_json(bytes));
    g_free(text);
    return all;
}

json_t *card_layout_json(const struct lex_link *link)
{
    const struct lex_layout *layout = link->layout;
    json_t *rows = json_array();
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        json_array_append_new(
            rows, json_pack("{s:s, s:b, s:o, s:o, s:o}", "text", row->text, "event",
                            (int)row->event, "fields", fields_json(row->fields), "answers",
                            fields_json(row->answers), "example", example_json(link, row)));
    }
    json_t *all =
        json_pack("{s:o, s:o, s:o, s:o, s:o}", "frame", fields_json(layout->frame), "answer",
                  fields_json(layout->answer), "event", fields_json(layout->event), "rows", rows,
                  "ok", bytes_json(layout_answer(link, NULL, 0, 1)));
    if (layout->every) json_object_set_new(all, "every_ms", json_integer(layout->every));
    return all;
}
