/* The card's frames in parts: which bytes are what.
 * An example of a frame and of its answer over each link, and what each button of a handset sends.
 * The frames themselves are made in worked.c. */
#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/write/card.h"
#include "lexicon/write/cells.h"
#include "lexicon/write/worked.h"
#include "rlx/image.h"

#define CHECK_BYTES 5u /* '*' and four characters */

/* A frame that is taken apart, row by row. */
struct parts {
    struct table table;
    const GString *frame;
    gsize at;
};

/* The next bytes up to there, and what they are. */
static void part(struct parts *p, gsize end, const char *means)
{
    if (end <= p->at) return;
    GString piece = {.str = p->frame->str + p->at, .len = end - p->at};
    GString *hex = g_string_new(NULL);
    char *shown = worked_shown(&piece);
    for (gsize i = 0; i < piece.len; i++)
        g_string_append_printf(hex, "%s%02X", i ? " " : "", (guchar)piece.str[i]);
    if (end - p->at > 1)
        table_cell(&p->table, "%u to %u", (unsigned)p->at, (unsigned)end - 1);
    else
        table_cell(&p->table, "%u", (unsigned)p->at);
    table_cell(&p->table, "%s", shown);
    table_cell(&p->table, "%s", hex->str);
    table_cell(&p->table, "%s", means);
    g_free(shown);
    g_string_free(hex, TRUE);
    p->at = end;
}

/* Behind the next blank. */
static gsize behind_blank(const struct parts *p)
{
    const char *blank = memchr(p->frame->str + p->at, ' ', p->frame->len - p->at);
    return blank ? (gsize)(blank + 1 - p->frame->str) : p->frame->len;
}

/* Where what ends or fills the frame begins: the frame without it is `bare`. */
static gsize text_end(const struct lex_link *link, const GString *frame)
{
    gsize n = frame->len;
    const struct lex_framing *framing = lex_framing_of(link);
    while (framing->piece && n && !frame->str[n - 1]) n--;
    while (link->length && n && frame->str[n - 1] == link->pad) n--;
    while (n && (frame->str[n - 1] == '\r' || frame->str[n - 1] == '\n')) n--;
    if (link->frame == LEX_FRAME_ENDED && n == frame->len && n && frame->str[n - 1] == link->end)
        n--;
    return n;
}

static void put_frame(GString *out, const struct lex_link *link, const GString *frame,
                      const char *title, bool answer)
{
    static const char *const heads[] = {"bytes", "characters", "hex", "", NULL};
    struct parts p = {.table = table_new(heads), .frame = frame};
    gsize end = text_end(link, frame);
    bool keyed = lex_is_keyed(link), checked = link->check && !keyed && end > CHECK_BYTES;
    char *safe = g_markup_escape_text(title, -1);
    if (keyed && answer) part(&p, 1, "begins each answer");
    if (!keyed && link->address >= 0)
        part(&p, behind_blank(&p),
             answer ? "to the sender, from the device" : "to the device, from the sender");
    if (!keyed && link->tags)
        part(&p, behind_blank(&p),
             answer ? "the tag of the command" : "the tag: one more with each command");
    part(&p, checked ? end - CHECK_BYTES : end,
         answer  ? "the answer"
         : keyed ? "the key"
                 : "the command");
    if (checked)
        part(&p, end,
             answer && link->tags
                 ? "the check over all before it, which goes on from that of the command"
                 : "the check over all before it");
    part(&p, frame->len,
         link->length || lex_framing_of(link)->piece ? "ends or fills the frame"
                                                     : "ends the frame");
    g_string_append_printf(out, "<h3>%s</h3>\n<div class=\"frame\">\n", safe);
    table_body(out, &p.table, TABLE_HTML);
    g_string_append(out, "</div>\n");
    g_free(safe);
}

/* The fields up to a whole byte become one row. */
static void part_fields(struct parts *p, const GPtrArray *fields, const GPtrArray *body,
                        unsigned *bits, GString *means)
{
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        if (!field->bits && !field->channels) { /* the body's place, or where the check begins */
            if (field->what == RLX_FLD_BODY && body) part_fields(p, body, NULL, bits, means);
            continue;
        }
        char *what = layout_field_text(field), *type = layout_field_type(field);
        g_string_append_printf(means, *type ? "%s%s (%s)" : "%s%s", means->len ? ", " : "", what,
                               type);
        g_free(what);
        g_free(type);
        *bits += field->channels ? field->channels * field->each : field->bits;
        if (*bits % 8) continue;
        part(p, *bits / 8, means->str);
        g_string_truncate(means, 0);
    }
}

/* A frame of bytes, without what is around it: field by field. */
static void put_bytes(GString *out, const char *title, const GByteArray *bytes,
                      const GPtrArray *fields, const GPtrArray *body)
{
    static const char *const heads[] = {"bytes", "characters", "hex", "", NULL};
    GString *frame = g_string_new_len((const char *)bytes->data, bytes->len);
    GString *means = g_string_new(NULL);
    struct parts p = {.table = table_new(heads), .frame = frame};
    unsigned bits = 0;
    char *safe = g_markup_escape_text(title, -1);
    part_fields(&p, fields, body, &bits, means);
    g_string_append_printf(out, "<h3>%s</h3>\n<div class=\"frame\">\n", safe);
    table_body(out, &p.table, TABLE_HTML);
    g_string_append(out, "</div>\n");
    g_string_free(means, TRUE);
    g_string_free(frame, TRUE);
    g_free(safe);
}

/* Each command and event of the layout, and an answer. */
static void put_layout(GString *out, const struct lex_link *link)
{
    const struct lex_layout *layout = link->layout;
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        char *text = row->event ? g_strdup(row->text) : layout_example(link, row);
        char *title = g_strdup_printf("%s: \"%s\"", link->name, text);
        GByteArray *bytes =
            row->event ? layout_answer(link, text, 0, 0) : layout_frame(link, text, 1);
        put_bytes(out, title, bytes, row->event ? layout->event : layout->frame,
                  layout->channels && !row->event ? NULL : row->fields);
        g_byte_array_free(bytes, TRUE);
        g_free(title);
        g_free(text);
    }
    GByteArray *answer = layout_answer(link, NULL, 0, 1);
    char *title = g_strdup_printf("%s: the answer ok", link->name);
    if (answer) put_bytes(out, title, answer, layout->answer, NULL);
    if (answer) g_byte_array_free(answer, TRUE);
    g_free(title);
}

static void put_example(GString *out, const struct lexicon *lx, const struct lex_link *link)
{
    struct worked worked;
    if (link->layout) {
        put_layout(out, link);
        return;
    }
    if (!worked_example(lx, link, &worked)) return;
    char *title = g_strdup_printf("%s: \"%s\"", link->name, worked.command);
    char *back = g_strdup_printf("%s: its answer", link->name);
    put_frame(out, link, worked.frame, title, false);
    if (worked.answer) put_frame(out, link, worked.answer, back, true);
    g_free(title), g_free(back);
    worked_clear(&worked);
}

static void put_said(struct table *table, const struct lex_link *link, const struct lex_button *b,
                     const char *how, const char *text)
{
    if (!text) return;
    GString *frame = worked_frame(link, text), *hex = g_string_new(NULL);
    char *shown = worked_shown(frame);
    for (gsize i = 0; i < frame->len; i++)
        g_string_append_printf(hex, "%s%02X", i ? " " : "", (guchar)frame->str[i]);
    table_cell(table, "%s%s%s, %s", b->name, b->with ? " with " : "", b->with ? b->with : "", how);
    table_cell(table, "%s", shown);
    table_cell(table, "%s", hex->str);
    g_free(shown);
    g_string_free(hex, TRUE);
    g_string_free(frame, TRUE);
}

static void put_buttons(GString *out, const struct lexicon *lx, const struct lex_handset *handset)
{
    static const char *const heads[] = {"button", "characters", "hex", NULL};
    const struct lex_link *link = lexicon_link(lx, handset->link);
    struct table table = table_new(heads);
    for (unsigned i = 0; !link->seal && i < handset->buttons->len; i++) {
        const struct lex_button *b = handset->buttons->pdata[i];
        put_said(&table, link, b, "pressed", b->press);
        put_said(&table, link, b, "held", b->held);
        put_said(&table, link, b, "released", b->release);
    }
    if (table.cells->len)
        g_string_append_printf(out, "<h3>handset %s</h3>\n<div class=\"frame\">\n", handset->name);
    bool any = table.cells->len;
    table_body(out, &table, TABLE_HTML);
    if (any) g_string_append(out, "</div>\n");
}

void card_put_frames(GString *out, const struct lexicon *lx)
{
    GString *frames = g_string_new(NULL);
    for (unsigned i = 0; i < lx->links->len; i++) put_example(frames, lx, lx->links->pdata[i]);
    for (unsigned i = 0; i < lx->handsets->len; i++)
        put_buttons(frames, lx, lx->handsets->pdata[i]);
    if (frames->len) table_head(out, "Frames, byte for byte", TABLE_HTML);
    g_string_append(out, frames->str);
    g_string_free(frames, TRUE);
}
