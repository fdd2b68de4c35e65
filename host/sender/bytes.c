/* Writes what is particular where frames are bytes by a layout: each row from its text to bits, and
 * what the device sends from bits to the text that the readers know.
 * Bits, sums and stuffing are in parts/bytes.c.
 * Channels have no sender. */
#include "lexicon/layout/layout.h"

#include <string.h>

#include "lexicon/slot.h"
#include "rlx/config.h"
#include "rlx/image.h"
#include "sender/sender_parts.h"

static unsigned bytes_of(const GPtrArray *around, const GPtrArray *body)
{
    return (layout_bits(around) + layout_bits(body)) / 8;
}

static const char *truth(bool is)
{
    return is ? "true" : "false";
}

/* "sum_of(b)": the check of a field. */
static void put_sum(GString *out, const struct lex_field *field)
{
    static const char *const manners[] = {
        [RLX_SUM_PLAIN] = "", [RLX_SUM_INVERTED] = "~", [RLX_SUM_NEGATED] = "0u - "};
    const struct lex_sum *crc = field->crc;
    if (field->what == RLX_FLD_CRC)
        g_string_append_printf(out, "crc_of_bits(b, %u, 0x%04X, 0x%04X, 0x%04X, %s)", crc->bits,
                               crc->polynomial, crc->start, crc->last, truth(crc->reflected));
    else if (field->what == RLX_FLD_XOR)
        g_string_append(out, "xor_of(b)");
    else
        g_string_append_printf(out, "(%ssum_of(b)) & 0x%X", manners[field->sum],
                               (unsigned)((UINT64_C(1) << field->bits) - 1));
}

/* ---- what stands around a body ---- */

/* The fields before the body, or behind it. */
static void each_around(const GPtrArray *fields, bool behind, GString *out,
                        void (*each)(GString *out, const struct lex_field *field))
{
    bool is = !behind;
    for (unsigned i = 0; i < fields->len; i++) {
        const struct lex_field *field = fields->pdata[i];
        if (field->what == RLX_FLD_BODY)
            is = behind;
        else if (is)
            each(out, field);
    }
}

static void write_field(GString *out, const struct lex_field *field)
{
    if (field->what == RLX_FLD_CHECKED) {
        g_string_append(out, "    b->checked = b->done / 8u;\n");
        return;
    }
    g_string_append(out, "    put_bits(b, ");
    switch (field->what) {
    case RLX_FLD_CONSTANT: g_string_append_printf(out, "0x%X", field->constant); break;
    case RLX_FLD_UNUSED: g_string_append_c(out, '0'); break;
    case RLX_FLD_NUMBER: g_string_append(out, "number"); break;
    case RLX_FLD_LENGTH:
        g_string_append_printf(out, "(uint32_t)(length - %d)", field->addend);
        break;
    default: put_sum(out, field); break;
    }
    g_string_append_printf(out, ", %u, %s);\n", field->bits, truth(field->little));
}

static void read_field(GString *out, const struct lex_field *field)
{
    if (field->what == RLX_FLD_CHECKED) {
        g_string_append(out, "    b->checked = b->done / 8u;\n");
        return;
    }
    bool sum =
        field->what == RLX_FLD_SUM || field->what == RLX_FLD_XOR || field->what == RLX_FLD_CRC;
    if (sum) {
        g_string_append(out, "    wanted = ");
        put_sum(out, field);
        g_string_append(out, ";\n");
    }
    g_string_append_printf(out, "    value = take_bits(b, %u, %s);\n", field->bits,
                           truth(field->little));
    switch (field->what) {
    case RLX_FLD_CONSTANT:
        g_string_append_printf(out, "    if (value != 0x%X) return false;\n", field->constant);
        break;
    case RLX_FLD_NUMBER: g_string_append(out, "    got->number = value;\n"); break;
    case RLX_FLD_RESULT: g_string_append(out, "    got->result = value;\n"); break;
    case RLX_FLD_LENGTH:
        g_string_append_printf(out, "    if (value != (uint32_t)(length - %d)) return false;\n",
                               field->addend);
        break;
    case RLX_FLD_UNUSED: break;
    default: g_string_append(out, "    if (value != wanted) return false;\n"); break;
    }
}

static void put_writers(GString *out, const GPtrArray *frame)
{
    for (unsigned behind = 0; behind < 2; behind++) {
        g_string_append_printf(out,
                               "static void put_%s(struct bits *b, uint32_t number, uint8_t length)"
                               "\n{\n    (void)b, (void)number, (void)length;\n",
                               behind ? "tail" : "head");
        each_around(frame, behind, out, write_field);
        g_string_append(out, "}\n\n");
    }
}

static void put_takers(GString *out, const GPtrArray *fields, const char *what)
{
    for (unsigned behind = 0; behind < 2; behind++) {
        g_string_append_printf(out,
                               "static bool take_%s_%s(struct bits *b, struct got *got, uint8_t "
                               "length)\n{\n    uint32_t value = 0, wanted = 0;\n"
                               "    (void)b, (void)got, (void)length;\n",
                               what, behind ? "tail" : "head");
        each_around(fields, behind, out, read_field);
        g_string_append(out, "    (void)value, (void)wanted;\n    return true;\n}\n\n");
    }
}

/* ---- rows: texts to bytes ---- */

/* The place of an element among the numbers of a text. */
static unsigned number_of(const struct lex_command *command, const struct lex_element *of)
{
    unsigned n = 0;
    for (unsigned i = 0; command->elements->pdata[i] != of; i++)
        n += ((struct lex_element *)command->elements->pdata[i])->kind == LEX_NUMBER;
    return n;
}

static void put_word(GString *out, const char *word)
{
    char *literal = sender_literal(word);
    g_string_append_printf(out, "take_text(&h, ROM(\"%s\"))", literal);
    g_free(literal);
}

/* The condition that reads the text of a row. */
static void put_condition(GString *out, const struct lex_packed *row)
{
    g_string_append(out, "    h = text;\n    if (");
    for (unsigned i = 0; row->pieces[i]; i++) {
        const struct lex_element *e = row->command ? row->command->elements->pdata[i] : NULL;
        if (i) g_string_append(out, " && take_char(&h, ' ') && ");
        if (*row->pieces[i] == '{') {
            char *to = g_strdup_printf("v[%u]", number_of(row->command, e));
            sender_put_take(out, e, to);
            g_free(to);
        } else {
            put_word(out, e && e->kind == LEX_WORD ? lex_spelling(e, 0) : row->pieces[i]);
        }
    }
    g_string_append(out, " && is_over(&h)) {\n");
}

static void put_body(GString *out, const struct lex_packed *row)
{
    for (unsigned i = 0; i < row->fields->len; i++) {
        const struct lex_field *field = row->fields->pdata[i];
        if (!field->of) {
            GString *one = g_string_new(NULL);
            write_field(one, field);
            char **parts = g_strsplit(one->str, "(b, ", 2); /* b is a struct here */
            char *here = g_strjoinv("(&b, ", parts);
            g_string_append_printf(out, "    %s", here);
            g_free(here);
            g_strfreev(parts);
            g_string_free(one, TRUE);
            continue;
        }
        const struct lex_element *e = field->of;
        unsigned n = number_of(row->command, e);
        if (field->what == RLX_FLD_SCALED) {
            g_string_append_printf(out,
                                   "        put_bits(&b, (uint32_t)between(v[%u], %d, %d, %d, %d), "
                                   "%u, %s);\n",
                                   n, e->low, e->high, field->from, field->to, field->bits,
                                   truth(field->little));
            continue;
        }
        if (e->low < layout_low(field) || e->high > layout_high(field))
            g_string_append_printf(out, "        if (v[%u] < %d || v[%u] > %d) return 0;\n", n,
                                   (int)MAX(layout_low(field), e->low), n,
                                   (int)MIN(layout_high(field), e->high));
        g_string_append_printf(out, "        put_bits(&b, (uint32_t)v[%u], %u, %s);\n", n,
                               field->bits, truth(field->little));
    }
}

static void put_to_bytes(const struct sender *s, GString *out)
{
    const struct lex_layout *layout = s->link->layout;
    g_string_append_printf(
        out,
        "/* The frame of a command, and which row it is; 0: the link has none for it. */\n"
        "static uint8_t to_bytes(struct heard text, uint32_t number, uint8_t *to, uint8_t "
        "*row)\n{\n"
        "    struct heard h;\n    struct bits b;\n    int32_t v[%u] = {0};\n    (void)v;\n",
        (unsigned)RLX_MOST_SLOTS);
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (row->event) continue;
        unsigned length = bytes_of(layout->frame, row->fields);
        put_condition(out, row);
        g_string_append_printf(out,
                               "        begin_bits(&b, to);\n"
                               "        put_head(&b, number, %u);\n",
                               length);
        put_body(out, row);
        g_string_append_printf(out,
                               "        put_tail(&b, number, %u);\n        *row = %u;\n"
                               "        return %u;\n    }\n",
                               length, i + 1, length);
    }
    g_string_append(out, "    return 0;\n}\n\n");
}

/* ---- what the device sends: bytes to texts ---- */

/* The values of a row's answer, in the order in which a text has them. */
static void put_values(GString *out, const struct lex_packed *row, const GPtrArray *told)
{
    for (unsigned i = 0; i < row->answers->len; i++) {
        const struct lex_field *field = row->answers->pdata[i];
        unsigned n = 0;
        while (field->of && told->pdata[n] != field->of) n++;
        if (!field->of) {
            g_string_append_printf(out, "            (void)take_bits(&b, %u, %s);\n", field->bits,
                                   truth(field->little));
            continue;
        }
        g_string_append_printf(
            out, "            v[%u] = %s%s(&b, %u, %s);\n", n, field->is_signed ? "" : "(int32_t)",
            field->is_signed ? "take_signed" : "take_bits", field->bits, truth(field->little));
        if (field->what == RLX_FLD_SCALED)
            g_string_append_printf(out, "            v[%u] = between(v[%u], %d, %d, %d, %d);\n", n,
                                   n, field->from, field->to, field->of->low, field->of->high);
    }
}

/* The same as text: each behind a blank. */
static void put_told(GString *out, const GPtrArray *told)
{
    for (unsigned n = 0; n < told->len; n++) {
        const struct lex_element *e = told->pdata[n];
        char *name = g_strdup_printf("v[%u]", n);
        GString *value = g_string_new(NULL);
        sender_put_value(value, e, name);
        char **lines = g_strsplit(value->str, "\n", -1);
        g_string_append(out, "            tell_char(t, ' ');\n            begin_line(&line);\n");
        for (unsigned i = 0; lines[i] && *lines[i]; i++)
            g_string_append_printf(out, "        %s\n", lines[i]);
        g_string_append(out, "            tell_line(t, &line);\n"
                             "            if (line.result) return 0;\n");
        g_strfreev(lines);
        g_string_free(value, TRUE);
        g_free(name);
    }
}

/* What a row's answer tells: of a query its values, of a command what its handler answers with. */
static const GPtrArray *told_of(const struct lex_packed *row)
{
    if (!row->command) return NULL;
    return row->command->query ? row->command->query->elements : row->command->told;
}

static void put_valued(const struct sender *s, GString *out)
{
    const struct lex_layout *layout = s->link->layout;
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        const GPtrArray *told = row->answers->len ? told_of(row) : NULL;
        unsigned length = bytes_of(layout->answer, row->answers);
        if (!told) continue;
        g_string_append_printf(
            out,
            "    if (row == %u && count >= %u) {\n        begin_bits(&b, frame);\n"
            "        if (take_answer_head(&b, &got, %u) && !got.result && got.number == number) "
            "{\n",
            i + 1, length, length);
        put_values(out, row, told);
        /* "temp? 2" is answered as "ok temp 2 ..." */
        g_string_append(out, "            tell_text(t, ROM(\"ok \"));\n"
                             "            for (; !is_over(&said); said.at++)\n"
                             "                if (*said.at != '?') tell_char(t, *said.at);\n");
        put_told(out, told);
        g_string_append_printf(out,
                               "            if (take_answer_tail(&b, &got, %u)) return %u;\n"
                               "            t->count = 0;\n        }\n    }\n",
                               length, length);
    }
}

static void put_events(const struct sender *s, GString *out)
{
    const struct lex_layout *layout = s->link->layout;
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        unsigned length = bytes_of(layout->event, row->fields);
        if (!row->event) continue;
        g_string_append_printf(out,
                               "    if (count >= %u) {\n        begin_bits(&b, frame);\n"
                               "        if (take_event_head(&b, &got, %u)",
                               length, length);
        for (unsigned k = 0; k < row->fields->len; k++) {
            const struct lex_field *field = row->fields->pdata[k];
            if (field->what == RLX_FLD_UNUSED)
                g_string_append_printf(out, " &&\n            (take_bits(&b, %u, %s), true)",
                                       field->bits, truth(field->little));
            else
                g_string_append_printf(out, " &&\n            take_bits(&b, %u, %s) == 0x%X",
                                       field->bits, truth(field->little), field->constant);
        }
        char *text = sender_literal(row->text);
        g_string_append_printf(out,
                               " &&\n            take_event_tail(&b, &got, %u)) {\n"
                               "            tell_text(t, ROM(\"%s\"));\n"
                               "            return %u;\n        }\n    }\n",
                               length, text, length);
        g_free(text);
    }
}

/* Whether the answer has room for values, where the command has some. */
static void put_plain(const struct sender *s, GString *out)
{
    const struct lex_layout *layout = s->link->layout;
    unsigned length = bytes_of(layout->answer, NULL);
    GString *valued = g_string_new(NULL);
    for (unsigned i = 0; i < layout->rows->len; i++)
        if (((struct lex_packed *)layout->rows->pdata[i])->answers->len)
            g_string_append_printf(valued, "%srow == %u", valued->len ? " || " : "", i + 1);
    g_string_append_printf(
        out,
        "    bool valued = %s;\n"
        "    if (row && count >= %u) {\n        begin_bits(&b, frame);\n"
        "        if (take_answer_head(&b, &got, %u) && take_answer_tail(&b, &got, %u) &&\n"
        "            got.number == number && (got.result || !valued)) {\n"
        "            tell_text(t, got.result ? ROM(\"e\") : ROM(\"ok\"));\n"
        "            if (got.result) tell_digits(t, (int32_t)got.result, 0);\n"
        "            return %u;\n        }\n    }\n",
        valued->len ? valued->str : "false", length, length, length, length);
    g_string_free(valued, TRUE);
}

static void put_to_text(const struct sender *s, GString *out)
{
    const struct lex_layout *layout = s->link->layout;
    g_string_append_printf(
        out,
        "/* The first thing in what was received, and how many bytes it is; 0: it is nothing that "
        "is\n * known. `row` and `number` are those of the command that waits for its answer, "
        "`said` "
        "its text. */\n"
        "static uint8_t to_text(uint8_t *frame, uint8_t count, uint8_t row, uint32_t number, "
        "struct "
        "heard said,\n                       struct told *t)\n{\n"
        "    struct bits b;\n    struct line line;\n    struct got got = {number, 0};\n"
        "    int32_t v[%u] = {0};\n    t->count = 0;\n"
        "    (void)frame, (void)count, (void)row, (void)said;\n"
        "    (void)b, (void)line, (void)got, (void)v;\n",
        (unsigned)RLX_MOST_SLOTS);
    if (layout->answer->len) put_plain(s, out);
    if (layout->answer->len) put_valued(s, out);
    if (layout->event->len) put_events(s, out);
    g_string_append(out, "    return 0;\n}\n\n");
}

void sender_put_rows(const struct sender *s, GString *out)
{
    const struct lex_layout *layout = s->link->layout;
    g_string_append(out, "/* ---- the rows of the layout ---- */\n\n"
                         "/* What was read of a frame. */\nstruct got {\n"
                         "    uint32_t number, result;\n};\n\n");
    put_writers(out, layout->frame);
    if (layout->answer->len) put_takers(out, layout->answer, "answer");
    if (layout->event->len) put_takers(out, layout->event, "event");
    put_to_bytes(s, out);
    put_to_text(s, out);
}
