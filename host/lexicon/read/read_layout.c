/* Reads `layout`: how the frames of a link are bytes, and what its commands and events are in them.
 * Slots are found, and widths and ranges held against them, when everything is read; the fields
 * themselves are read in read_field.c.
 * Whether two rows can be confused is asked in check/layouts.c. */
#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/read/reader.h"
#include "rlx/config.h"
#include "rlx/image.h"
#include "rlx/link.h"

#define EVENT "ev "

static void packed_free(void *p)
{
    struct lex_packed *row = p;
    g_ptr_array_free(row->fields, TRUE);
    g_ptr_array_free(row->answers, TRUE);
    g_strfreev(row->pieces);
    g_free(row->text);
    g_free(row);
}

void lex_layout_free(struct lex_layout *layout)
{
    if (!layout) return;
    g_ptr_array_free(layout->frame, TRUE);
    g_ptr_array_free(layout->answer, TRUE);
    g_ptr_array_free(layout->event, TRUE);
    g_ptr_array_free(layout->rows, TRUE);
    g_free(layout);
}

static struct lex_layout *layout_of(struct lex_link *link, struct lex_place place)
{
    if (link->layout) return link->layout;
    struct lex_layout *layout = g_new0(struct lex_layout, 1);
    layout->place = place;
    layout->frame = g_ptr_array_new_with_free_func(lex_field_free);
    layout->answer = g_ptr_array_new_with_free_func(lex_field_free);
    layout->event = g_ptr_array_new_with_free_func(lex_field_free);
    layout->rows = g_ptr_array_new_with_free_func(packed_free);
    return link->layout = layout;
}

void lex_make_raw(struct lex_link *link)
{
    layout_of(link, link->place)->raw = true;
}

/* Bits before each field: whole bytes where it needs those, and in all. */
static bool are_whole(struct lexicon *lx, const GPtrArray *fields, struct lex_place place)
{
    unsigned bits = 0;
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        bool bytes = field->little || field->what == RLX_FLD_BODY ||
                     field->what == RLX_FLD_CHECKED || field->what >= RLX_FLD_SUM;
        if (bytes && bits % 8) {
            lex_fault(lx, field->place,
                      "this begins at bit %u of a byte, and begins with one: fill "
                      "the byte up, like u%u 0",
                      bits % 8, 8 - bits % 8);
            return false;
        }
        bits += field->what == RLX_FLD_CHANNELS ? field->channels * field->each : field->bits;
        if (field->what == RLX_FLD_CHANNELS && field->little && bits % 8) {
            lex_fault(lx, field->place,
                      "channels that begin with their lsb are whole bytes, and "
                      "%u of %u bits are none",
                      field->channels, field->each);
            return false;
        }
    }
    if (bits % 8) {
        lex_fault(lx, place, "its fields have %u bits, which is no number of bytes", bits);
        return false;
    }
    return true;
}

static unsigned count_of(const GPtrArray *fields, unsigned what)
{
    unsigned n = 0;
    for (unsigned i = 0; i < fields->len; i++)
        n += ((struct lex_field *)fields->pdata[i])->what == what;
    return n;
}

static unsigned checks_of(const GPtrArray *fields)
{
    return count_of(fields, RLX_FLD_SUM) + count_of(fields, RLX_FLD_XOR) +
           count_of(fields, RLX_FLD_CRC);
}

/* What a length counts becomes what the whole frame has more than it. */
static void set_lengths(const GPtrArray *fields)
{
    unsigned all = layout_bits(fields) / 8, before = 0;
    for (unsigned i = 0; i < fields->len; i++) {
        struct lex_field *field = fields->pdata[i];
        before += field->bits;
        if (field->what == RLX_FLD_LENGTH)
            field->addend = field->addend == 1 ? 0 : (int)(field->addend ? all : before / 8);
    }
}

static void check_around(struct lexicon *lx, const GPtrArray *fields, struct lex_place place,
                         const char *which)
{
    static const struct {
        unsigned what;
        const char *word;
    } once[] = {{RLX_FLD_BODY, "body"},         {RLX_FLD_CHECKED, "checked"},
                {RLX_FLD_CHANNELS, "channels"}, {RLX_FLD_LENGTH, "length"},
                {RLX_FLD_NUMBER, "number"},     {RLX_FLD_RESULT, "result"}};
    bool frame = !strcmp(which, "frame"), answer = !strcmp(which, "answer");
    if (!are_whole(lx, fields, place)) return;
    for (unsigned i = 0; i < G_N_ELEMENTS(once); i++)
        if (count_of(fields, once[i].what) > 1)
            lex_fault(lx, place, "a second '%s' in one %s", once[i].word, which);
    if (checks_of(fields) > 1) lex_fault(lx, place, "a second check in one %s", which);
    unsigned channels = count_of(fields, RLX_FLD_CHANNELS);
    if (channels && !frame)
        lex_fault(lx, place, "'channels' stand in a frame: an %s has none", which);
    if (channels && count_of(fields, RLX_FLD_BODY))
        lex_fault(lx, place, "a frame has 'channels' or a 'body', not both");
    if (!answer && !channels && !count_of(fields, RLX_FLD_BODY))
        lex_fault(lx, place, "where do the fields of a command stand? Write 'body' there");
    if (!channels && count_of(fields, RLX_FLD_FAILSAFE))
        lex_fault(lx, place, "'failsafe' is of frames with channels");
    if (answer && !count_of(fields, RLX_FLD_RESULT))
        lex_fault(
            lx, place,
            "an answer needs its result, 0 or the number of an error: write like 'u8 result'");
    if (!answer && count_of(fields, RLX_FLD_RESULT))
        lex_fault(lx, place, "'result' stands in an answer: a %s has none", which);
    if (!frame && !answer && count_of(fields, RLX_FLD_NUMBER))
        lex_fault(lx, place, "an event answers nothing, and has no 'number'");
    set_lengths(fields);
}

static void read_statement(struct statement *st, struct lex_link *link, struct lex_place place)
{
    struct lexicon *lx = st->lx;
    struct lex_layout *layout = layout_of(link, place);
    struct token *token = statement_take(st);
    static const char *const parts[] = {"frame", "answer", "event"};
    GPtrArray *fields = NULL, *lists[] = {layout->frame, layout->answer, layout->event};
    unsigned part = 0;
    for (; token->kind == TOKEN_WORD && part < G_N_ELEMENTS(parts); part++)
        if (!strcmp(token->text, parts[part])) {
            fields = lists[part];
            break;
        }
    if (token->kind == TOKEN_STRING) {
        struct lex_packed *row = g_new0(struct lex_packed, 1);
        *row = (struct lex_packed){.place = token->place,
                                   .text = g_strdup(token->text),
                                   .fields = g_ptr_array_new_with_free_func(lex_field_free),
                                   .answers = g_ptr_array_new_with_free_func(lex_field_free),
                                   .event = g_str_has_prefix(token->text, EVENT)};
        row->pieces = g_strsplit(row->text, " ", -1);
        g_ptr_array_add(layout->rows, row);
        fields = row->fields;
    } else if (!fields) {
        lex_fault(
            lx, token->place,
            "expected 'frame', 'answer' or 'event', or a command in quotes, like \"pump on\"");
        return;
    } else if (fields->len) {
        lex_fault(lx, token->place, "a second '%s' of '%s'", token->text, link->name);
        return;
    }
    bool row = token->kind == TOKEN_STRING;
    GPtrArray *answers =
        row ? ((struct lex_packed *)layout->rows->pdata[layout->rows->len - 1])->answers : NULL;
    bool behind = false;
    while (statement_peek(st)->kind == TOKEN_WORD) {
        if (fields == layout->frame && statement_take_word(st, "every")) {
            if (!statement_time(st, "the time from one frame to the next", 1, 1000, &layout->every))
                return;
            break;
        }
        if (row && !behind && (behind = statement_take_word(st, "answers"))) continue;
        if (!lex_read_field(st, behind ? answers : fields, row)) return;
    }
    if (behind && !answers->len)
        lex_fault(lx, statement_peek(st)->place,
                  "expected the fields of its answer, like: answers u16 little mm");
    else if (answers)
        are_whole(lx, answers, token->place);
    g_free(statement_title(st));
    if (!fields->len && !row)
        lex_fault(lx, token->place, "expected its fields, like: u8 0xA5 body u8 sum");
    else if (row)
        are_whole(lx, fields, token->place);
    else
        check_around(lx, fields, token->place, parts[part]);
    for (unsigned i = 0; i < fields->len && fields == layout->frame; i++) {
        const struct lex_field *field = fields->pdata[i];
        if (field->what != RLX_FLD_CHANNELS) continue;
        layout->channels = field->channels;
        layout->each = field->each;
    }
}

/* layout LINK frame|answer|event FIELDS, layout LINK "glow {level}" FIELDS */
void read_layout(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_place place = statement_peek(st)->place;
    unsigned faults = lx->faults->len;
    char *name = statement_name(st, "the link whose frames these are");
    struct lex_link *link = name ? lexicon_link(lx, name) : NULL;
    if (name && !link) lex_fault(lx, place, "there is no link '%s' above", name);
    g_free(name);
    if (!link) return;
    read_statement(st, link, place);
    if (lx->faults->len != faults) link->layout->misread = true;
}

/* ---- when everything is read ---- */

/* {level}: the name within, or NULL. Owned by the caller. */
static char *slot_name(const char *piece)
{
    size_t n = strlen(piece);
    return *piece == '{' && n > 2 && piece[n - 1] == '}' ? g_strndup(piece + 1, n - 2) : NULL;
}

/* dim{level}mm: whether what touches the slot is what touches the command's number. */
static bool is_number_piece(const char *piece, const struct lex_element *e)
{
    const char *open = strchr(piece, '{'), *close = open ? strchr(open, '}') : NULL;
    if (!close || e->kind != LEX_NUMBER) return false;
    size_t before = (size_t)(open - piece), name = (size_t)(close - open) - 1;
    const char *prefix = e->prefix ? e->prefix : "", *unit = e->unit ? e->unit : "";
    return strlen(prefix) == before && !strncmp(piece, prefix, before) && strlen(e->text) == name &&
           !strncmp(open + 1, e->text, name) &&
           (!strcmp(close + 1, unit) || (!close[1] && !e->glued));
}

/* Whether the row's pieces are those of the command: slots by their names. */
static bool is_row_of(const struct lexicon *lx, const struct lex_packed *row,
                      const struct lex_command *command)
{
    if (g_strv_length(row->pieces) != command->elements->len) return false;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        int32_t value;
        bool same = strchr(row->pieces[i], '{') ? is_number_piece(row->pieces[i], e)
                                                : lex_element_says(lx, e, row->pieces[i], &value);
        if (!same) return false;
    }
    return true;
}

/* From now on a slot's piece is its name in braces. */
static void name_pieces(struct lex_packed *row)
{
    for (unsigned i = 0; row->pieces[i]; i++) {
        const struct lex_element *e = row->command->elements->pdata[i];
        if (!strchr(row->pieces[i], '{')) continue;
        g_free(row->pieces[i]);
        row->pieces[i] = g_strdup_printf("{%s}", e->text);
    }
}

static const struct lex_element *slot_of(const GPtrArray *elements, const char *name)
{
    for (unsigned i = 0; elements && i < elements->len; i++) {
        const struct lex_element *e = elements->pdata[i];
        if (e->kind != LEX_WORD && !g_strcmp0(e->text, name)) return e;
    }
    return NULL;
}

/* What a slot's value can be: of a choice its word's place, from 0; of a set a bit for each. */
static void range_of(const struct lex_element *e, int64_t *low, int64_t *high)
{
    *low = e->kind == LEX_NUMBER ? e->low : 0;
    *high = e->kind == LEX_NUMBER   ? e->high
            : e->kind == LEX_CHOICE ? (int64_t)e->words->len - 1
                                    : (INT64_C(1) << e->words->len) - 1;
}

static void finish_field(struct lexicon *lx, const struct lex_packed *row, struct lex_field *field,
                         bool answers)
{
    const GPtrArray *slots = !row->command ? NULL
                             : answers     ? row->command->told
                                           : row->command->elements;
    const struct lex_element *e = slot_of(slots, field->slot);
    char *braced = g_strdup_printf("{%s}", field->slot);
    bool named = answers || g_strv_contains((const char *const *)row->pieces, braced);
    g_free(braced);
    if (!e || !named) {
        lex_fault(lx, field->place,
                  answers ? "\"%s\" is answered with no {%s}" : "\"%s\" has no slot {%s}",
                  row->text, field->slot);
        return;
    }
    int64_t low, high;
    range_of(e, &low, &high);
    field->of = e;
    bool stretched = field->what == RLX_FLD_SCALED || field->what == RLX_FLD_CHANNEL;
    if (stretched && e->kind != LEX_NUMBER) {
        lex_fault(lx, field->place, "only a number can be stretched");
        return;
    }
    if (!answers && (e->form == LEX_HEX || e->decimals > 7))
        lex_fault(lx, field->place,
                  "'%s' is written in hex, or with more than 7 decimals, which "
                  "layouts do not know: take a plain number",
                  field->slot);
    if (field->what == RLX_FLD_VALUE && (low < layout_low(field) || high > layout_high(field))) {
        char *range = g_strdup_printf("%" G_GINT64_FORMAT "..%" G_GINT64_FORMAT, low, high);
        lex_fault(lx, field->place,
                  "%s has %s, and the field %" G_GINT64_FORMAT "..%" G_GINT64_FORMAT
                  ": take more bits, or write what the field has instead, like '%s 0..255'",
                  field->slot, range, layout_low(field), layout_high(field), field->slot);
        g_free(range);
        return;
    }
    if (field->what == RLX_FLD_VALUE && field->bits == 32 && !field->is_signed)
        lex_fault(lx, field->place, "a value has at most 31 bits without a sign: i32 or u31");
    if (field->what != RLX_FLD_SCALED) return;
    int64_t furthest = MAX(layout_high(field) - MIN(field->from, field->to),
                           MAX(field->from, field->to) - layout_low(field));
    int64_t span = (int64_t)e->high - e->low;
    if (answers) furthest = ABS((int64_t)field->to - field->from) + 1; /* within its range it is */
    if (furthest * span + ABS(field->to - field->from) > G_MAXINT32)
        lex_fault(lx, field->place,
                  "the device computes with 32 bits: %u bits of the field times %" G_GINT64_FORMAT
                  " steps of '%s' are more; take fewer bits",
                  field->bits, span, field->slot);
}

/* Every slot of the text has a field, and no field a slot twice. */
static void check_slots(struct lexicon *lx, const struct lex_packed *row)
{
    for (unsigned i = 0; row->pieces[i]; i++) {
        char *name = slot_name(row->pieces[i]);
        unsigned n = 0;
        for (unsigned k = 0; name && k < row->fields->len; k++)
            n += !g_strcmp0(((struct lex_field *)row->fields->pdata[k])->slot, name);
        if (name && n != 1)
            lex_fault(lx, row->place, n ? "'%s' stands in two fields" : "no field has '%s'", name);
        g_free(name);
    }
}

static void finish_command_row(struct lexicon *lx, const struct lex_link *link,
                               struct lex_packed *row)
{
    const struct lex_layout *layout = link->layout;
    for (unsigned i = 0; i < lx->commands->len && !row->command; i++)
        if (is_row_of(lx, row, lx->commands->pdata[i])) row->command = lx->commands->pdata[i];
    for (unsigned i = 0; i < lx->queries->len && !row->command; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        if (query->asked && is_row_of(lx, row, query->asked)) row->command = query->asked;
    }
    const struct lex_built_in *built_in = lex_said_built_in(row->text);
    if (!row->command && !(built_in && lx->built_in & built_in->bit)) {
        lex_fault(lx, row->place,
                  "no command is \"%s\": write its words, and its numbers as {NAME}, as in "
                  "'command glow {level 0..100%%}' and \"glow {level}\"",
                  row->text);
        return;
    }
    if (row->command) name_pieces(row);
    for (unsigned i = 0; i < row->fields->len; i++) {
        struct lex_field *field = row->fields->pdata[i];
        if (field->slot) finish_field(lx, row, field, false);
        if (field->channel && !layout->channels)
            lex_fault(lx, field->place,
                      "the frame has no channels: write like 'layout %s frame channels 8 u10'",
                      link->name);
    }
    for (unsigned i = 0; i < row->answers->len; i++) {
        struct lex_field *field = row->answers->pdata[i];
        if (field->slot) finish_field(lx, row, field, true);
    }
    check_slots(lx, row);
}

/* The words of an event; NULL: it has none, or a fault. */
static const GPtrArray *words_of(const struct lex_event *event)
{
    return event && event->what ? event->what->words : NULL;
}

static bool is_event(const struct lexicon *lx, const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    const struct lex_event *event = words[1] ? lexicon_event(lx, words[1]) : NULL;
    const GPtrArray *known = words_of(event);
    bool is = event && !event->confirmed && !event->what && !words[2];
    for (unsigned i = 0; known && !event->confirmed && words[2] && !words[3] && i < known->len; i++)
        is |= !strcmp(known->pdata[i], words[2]);
    g_strfreev(words);
    return is;
}

/* Every word of the event has a row, or nobody could read what happened. */
static void check_words(struct lexicon *lx, const struct lex_link *link,
                        const struct lex_packed *row)
{
    char **words = g_strsplit(row->text, " ", -1);
    const struct lex_event *event = lexicon_event(lx, words[1]);
    const GPtrArray *known = words_of(event);
    for (unsigned i = 0; known && i < known->len; i++) {
        char *text = g_strdup_printf(EVENT "%s %s", event->name, (char *)known->pdata[i]);
        bool has = false;
        for (unsigned k = 0; k < link->layout->rows->len; k++)
            has |= !strcmp(((struct lex_packed *)link->layout->rows->pdata[k])->text, text);
        if (!has)
            lex_fault(lx, row->place, "\"%s\" has a row, and \"%s\" has none", row->text, text);
        g_free(text);
    }
    g_strfreev(words);
}

static void finish_event_row(struct lexicon *lx, const struct lex_link *link,
                             struct lex_packed *row)
{
    for (unsigned i = 0; i < row->fields->len; i++) {
        const struct lex_field *field = row->fields->pdata[i];
        if (field->slot)
            lex_fault(lx, field->place, "an event has words and no slots: write numbers");
    }
    if (is_event(lx, row->text))
        check_words(lx, link, row);
    else
        lex_fault(lx, row->place,
                  "no event is \"%s\", or it is confirmed, which a layout cannot be: write like "
                  "\"ev call pressed\"",
                  row->text);
}

/* What a link of text has and one of bytes has not. */
static void check_link(struct lexicon *lx, const struct lex_link *link)
{
    const struct {
        bool given;
        const char *what, *instead;
    } not [] = {
        {link->check || link->seal, "check", "give its frame one, like 'u16 crc16 modbus'"},
        {link->tags, "tags", "give its frame and answer a 'number'"},
        {link->address >= 0, "address", "give its frame one, like 'u8 3'"},
        {link->only->len, "only", "it has the commands that have a row"},
        {link->texts->len, "texts", "write 'layout NAME answer' and 'layout NAME event'"},
        {link->people, "for people", "people type text"},
        {link->greets, "greeting", "its events have rows"},
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(not ); i++)
        if (not [i].given)
            lex_fault(lx, link->place, "'%s' has frames of bytes by its layout, and no '%s': %s",
                      link->name, not [i].what, not [i].instead);
    bool packets = link->frame == LEX_FRAME_PACKET && !link->length;
    if (!packets && link->frame != LEX_FRAME_GAP && link->frame != LEX_FRAME_STUFFED &&
        link->frame != LEX_FRAME_COBS)
        lex_fault(
            lx, link->place,
            "frames of bytes are ended by a silence, flags, a zero or the packet: write 'frame "
            "gap 5ms', 'frame stuffed' or 'frame cobs', or a radio's packets");
}

/* Of raw bytes the device knows nothing. */
static void finish_raw(struct lexicon *lx, const struct lex_link *link)
{
    const struct {
        bool given;
        const char *what;
    } not [] = {{link->check || link->seal, "check"},
                {link->tags, "tags"},
                {link->address >= 0, "address"},
                {link->only->len, "only"},
                {link->texts->len, "texts"},
                {link->keys->len, "keys"},
                {link->people, "for people"},
                {link->greets, "state told"},
                {link->lost, "lost after"},
                {link->layout->rows->len || link->layout->frame->len, "layout"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(not ); i++)
        if (not [i].given)
            lex_fault(lx, link->place,
                      "the firmware reads the bytes of '%s', of which the device knows nothing: it "
                      "has no '%s'",
                      link->name, not [i].what);
}

void lex_finish_layout(struct lexicon *lx, struct lex_link *link)
{
    struct lex_layout *layout = link->layout;
    if (layout && layout->raw) {
        finish_raw(lx, link);
        return;
    }
    bool wants = link->frame == LEX_FRAME_STUFFED || link->frame == LEX_FRAME_COBS;
    bool packed = link->frame == LEX_FRAME_PACKET;
    if (!layout && wants)
        lex_fault(
            lx, link->place,
            "'%s' has frames of bytes: write its layout, like 'layout %s frame u8 0xA5 body u8 "
            "sum'",
            link->name, link->name);
    if (!layout || layout->misread) return; /* what follows could only confuse */
    unsigned faults = lx->faults->len;
    check_link(lx, link);
    if (!layout->frame->len)
        lex_fault(lx, layout->place,
                  "how does a frame begin and end? Write like 'layout %s frame u8 "
                  "0xA5 body u8 sum'; 'layout %s frame body' where there is nothing around it",
                  link->name, link->name);
    link->replies = layout->answer->len ? LEX_REPLIES_SHORT : LEX_REPLIES_SILENT;
    bool commands = false;
    for (unsigned i = 0; i < layout->rows->len; i++) {
        struct lex_packed *row = layout->rows->pdata[i];
        if (row->event)
            finish_event_row(lx, link, row);
        else
            finish_command_row(lx, link, row);
        commands |= !row->event;
        bool fits = !row->answers->len || count_of(layout->answer, RLX_FLD_BODY);
        if (!fits)
            lex_fault(lx, row->place,
                      "where do the values stand in an answer? Write 'body' in "
                      "'layout %s answer'",
                      link->name);
        if (row->event && !layout->event->len)
            lex_fault(lx, row->place,
                      "how does an event begin and end? Write like 'layout %s event "
                      "u8 0xA6 body'",
                      link->name);
    }
    if (!commands)
        lex_fault(lx, layout->place,
                  "no command has a row: write like 'layout %s \"pump on\" u8 1'", link->name);
    if (layout->every && !layout->channels)
        lex_fault(lx, layout->place,
                  "'every' is of frames with channels, which their sender repeats for ever");
    if (layout->channels && lx->faults->len == faults) lex_finish_channels(lx, link);
    unsigned most = MAX(layout_most(link, false), layout_most(link, true));
    if (packed && link->payload && most > link->payload)
        lex_fault(lx, layout->place, "its longest frame has %u bytes, but a packet of '%s' %u",
                  most, link->name, link->payload);
    if (layout_most(link, false) > RLX_FRAME_MAX || layout_most(link, true) > RLX_RING_MAX)
        lex_fault(lx, layout->place, "a frame has at most %u bytes, an answer or event %u",
                  RLX_FRAME_MAX, RLX_RING_MAX);
}
