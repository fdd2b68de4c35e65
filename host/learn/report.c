/* Says what was learnt, in tables, and what is not sure; compares two recordings, and what was
 * heard with a handset of a lexicon.
 * It finds nothing by itself. */
#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/write/cells.h"
#include "learn/learn_parts.h"
#include "rlx/image.h"

/* ---- how its frames are ---- */

/* The framing in words, without what is around a frame. Owned by the caller. */
static char *framing_text(const struct learnt *l)
{
    const struct learnt_framing *f = &l->framing;
    double silence = (double)f->silence_us / 1000;
    char *shown = f->character >= '!' && f->character <= '~'
                      ? g_strdup_printf("'%c'", f->character)
                      : g_strdup_printf("0x%02X", (unsigned char)f->character);
    char *text;
    if (!f->found)
        text = g_strdup("not found");
    else if (f->frame == LEX_FRAME_LINE)
        text = g_strdup_printf("lines, each ends with %s", lex_end_names[f->end]);
    else if (f->frame == LEX_FRAME_ENDED)
        text = g_strdup_printf("each ends with %s", shown);
    else if (f->frame == LEX_FRAME_FIXED)
        text = g_strdup_printf("%u bytes, filled with %s", f->length, shown);
    else if (f->frame == LEX_FRAME_KEYS)
        text = g_strdup("single characters");
    else if (f->frame == LEX_FRAME_STUFFED)
        text = g_strdup("between flags 0x7E, stuffed (RFC 1662)");
    else if (f->frame == LEX_FRAME_COBS)
        text = g_strdup("stuffed (COBS), each ends with a zero byte");
    else if (f->frame == LEX_FRAME_REPORT)
        text = g_strdup("lines within reports of 64 bytes");
    else if (f->frame == LEX_FRAME_PACKET)
        text = g_strdup("packets");
    else
        text = g_strdup_printf("a silence ends each, longer than %.3g ms", silence);
    g_free(shown);
    return text;
}

static char *envelope_text(const struct learnt_envelope *e)
{
    GString *text = g_string_new(NULL);
    if (e->address >= 0) g_string_append_printf(text, "address %d, ", e->address);
    if (e->source >= 0) g_string_append_printf(text, "source %d, ", e->source);
    if (e->tags) g_string_append(text, "tag, ");
    if (e->check) g_string_append(text, "check, ");
    if (text->len) g_string_truncate(text, text->len - 2);
    return g_string_free(text, FALSE);
}

static void put_bytes(GString *text, const struct learnt_byte *bytes, unsigned n)
{
    for (unsigned i = 0; i < n; i++) {
        static const char *const words[] = {[BYTE_LENGTH] = "length ",
                                            [BYTE_NUMBER] = "number ",
                                            [BYTE_BIG] = "number of 16 bits ",
                                            [BYTE_LITTLE] = "number of 16 bits, little ",
                                            [BYTE_SECOND] = ""};
        if (bytes[i].kind == BYTE_CONSTANT)
            g_string_append_printf(text, "%02X ", (unsigned)bytes[i].value);
        else
            g_string_append(text, words[bytes[i].kind]);
    }
}

/* "A5 length number body CRC-16/MODBUS". Owned by the caller. */
static char *layout_text(const struct learnt_layout *y)
{
    GString *text = g_string_new(NULL);
    put_bytes(text, y->head, y->n_head);
    g_string_append(text, "body ");
    put_bytes(text, y->tail, y->n_tail);
    if (y->check.bits) {
        char *check = layout_field_text(&y->check);
        g_string_append_printf(text, "%s%s ", check,
                               y->check.bits == 8 ? ""
                               : y->check.little  ? " little"
                                                  : " big");
        g_free(check);
    }
    put_bytes(text, y->end, y->n_end);
    if (y->check.bits && y->skipped)
        g_string_append_printf(text, "(checked from byte %u on)", y->skipped);
    return g_strchomp(g_string_free(text, FALSE));
}

/* "A5 channels CRC-16/MODBUS little". Owned by the caller. */
static char *channels_text(const struct learnt *l)
{
    struct learnt_layout y = l->layout;
    y.n_head = MIN(l->channels.mark, y.n_head);
    y.n_tail = 0;
    char *text = layout_text(&y), **parts = g_strsplit(text, "body", 2);
    char *channels = g_strjoinv("channels", parts);
    g_strfreev(parts);
    g_free(text);
    return channels;
}

/* The heads are a row, too: a text has no others. */
static struct table titled(const char *const *heads)
{
    struct table table = table_new(heads);
    for (unsigned i = 0; heads[i]; i++) table_cell(&table, "%s", heads[i]);
    return table;
}

static void put_frames(GString *out, const struct learnt *l)
{
    static const char *const heads[] = {"what", "found", "frames", NULL};
    struct table table = table_new(heads);
    char *framing = framing_text(l);
    table_cell(&table, "frame");
    table_cell(&table, "%s", framing);
    table_cell(&table, "%u of %u", l->framing.fit, l->framing.of);
    g_free(framing);
    if (l->envelope.of) {
        char *around = envelope_text(&l->envelope);
        table_cell(&table, "around it");
        table_cell(&table, "%s", around);
        table_cell(&table, "%u of %u", l->envelope.fit, l->envelope.of);
        g_free(around);
    }
    if (l->channels.found) {
        char *around = channels_text(l);
        table_cell(&table, "channels");
        table_cell(&table, "%u of %u bits, %s significant first", l->channels.count,
                   l->channels.each, l->channels.lsb ? "least" : "most");
        table_cell(&table, "every %.3g ms", (double)l->channels.every_us / 1000);
        table_cell(&table, "bytes");
        table_cell(&table, "%s", around);
        table_cell(&table, "%u of %u", l->layout.fit, l->frames->len);
        g_free(around);
    } else if (l->binary) {
        char *layout = layout_text(&l->layout);
        table_cell(&table, "bytes");
        table_cell(&table, "%s", layout);
        if (l->layout.of)
            table_cell(&table, "%u of %u, %u different", l->layout.fit, l->layout.of,
                       l->layout.distinct);
        else
            table_cell(&table, "-");
        g_free(layout);
    }
    if (l->repeat_ms) {
        table_cell(&table, "repeat");
        table_cell(&table, "every %u ms while a button is held", l->repeat_ms);
        table_cell(&table, "%u times", l->repeats);
    }
    if (l->idle) {
        char *idle = learn_shown(l, l->idle);
        table_cell(&table, "idle");
        table_cell(&table, "%s", idle);
        table_cell(&table, "%u of %u", l->idle_votes, l->idle_of);
        g_free(idle);
    }
    table_body(out, &table, TABLE_TEXT);
}

/* ---- what it sends ---- */

static bool is_sure(const struct learnt_button *b)
{
    for (unsigned i = 0; i < PHASES; i++)
        if (b->phase[i].of && b->phase[i].votes * 3 <= b->phase[i].of * 2) return false;
    return b->times > 1;
}

static void put_buttons(GString *out, const struct learnt *l)
{
    static const char *const heads[] = {"button", "press", "held", "release", "used", "", NULL};
    if (!l->buttons->len) return;
    struct table table = titled(heads);
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        table_cell(&table, "%s", b->name);
        for (unsigned p = 0; p < PHASES; p++) {
            char *shown = b->phase[p].bytes ? learn_shown(l, b->phase[p].bytes) : g_strdup("-");
            table_cell(&table, "%s", shown);
            g_free(shown);
        }
        if (b->copies > 1)
            table_cell(&table, "%u, each frame %u times", b->times, b->copies);
        else
            table_cell(&table, "%u", b->times);
        table_cell(&table, "%s", is_sure(b) && l->marked ? "sure" : "not sure");
    }
    g_string_append_c(out, '\n');
    table_body(out, &table, TABLE_TEXT);
}

static void put_sticks(GString *out, const struct learnt *l)
{
    static const char *const heads[] = {"", "channel", "values", "at rest", "moved", NULL};
    if (!l->sticks->len) return;
    struct table table = titled(heads);
    for (unsigned i = 0; i < l->sticks->len; i++) {
        const struct learnt_stick *s = l->sticks->pdata[i];
        table_cell(&table, "%s", s->name);
        if (!s->moved) {
            for (unsigned k = 0; k < 3; k++) table_cell(&table, "-");
        } else {
            table_cell(&table, "%u", s->channel + 1);
            if (s->is_switch)
                table_cell(&table, "%u, off %u", s->on, s->rest);
            else
                table_cell(&table, "%u..%u", s->low, s->high);
            table_cell(&table, "%u", s->rest);
        }
        table_cell(&table, "%u", s->times);
    }
    g_string_append_c(out, '\n');
    table_body(out, &table, TABLE_TEXT);
}

static void put_sliders(GString *out, const struct learnt *l)
{
    static const char *const heads[] = {"slider", "sends", "values", "", NULL};
    if (!l->sliders->len) return;
    struct table table = titled(heads);
    for (unsigned i = 0; i < l->sliders->len; i++) {
        const struct learnt_slider *s = l->sliders->pdata[i];
        char *slides = learn_slides(l, s);
        table_cell(&table, "%s", s->name);
        table_cell(&table, "%s", slides);
        table_cell(&table, "%u heard", s->steps);
        table_cell(&table, "%s",
                   s->steps > 2 && !s->missing->len && !s->uneven ? "sure" : "not sure");
        g_free(slides);
    }
    g_string_append_c(out, '\n');
    table_body(out, &table, TABLE_TEXT);
}

char *learnt_report(const struct learnt *l)
{
    GString *out = g_string_new(NULL);
    const struct recording *r = l->recording;
    g_string_append_printf(out, "%s%s%s: %u bytes, %u frame%s in %.1f s, %u damaged\n\n",
                           r->handset ? r->handset : "a sender", r->link ? " on " : "",
                           r->link ? r->link : "", r->bytes->len, l->frames->len,
                           l->frames->len == 1 ? "" : "s", (double)l->span_us / 1e6, l->damaged);
    put_frames(out, l);
    put_buttons(out, l);
    put_sliders(out, l);
    put_sticks(out, l);
    if (l->doubts->len) g_string_append(out, "\nNot sure\n");
    for (unsigned i = 0; i < l->doubts->len; i++)
        g_string_append_printf(out, "  %s\n", (char *)l->doubts->pdata[i]);
    return g_string_free(out, FALSE);
}

/* ---- comparing ---- */

/* One thing of both; true where it is the same. */
static bool compare(GString *out, const char *what, const char *here, const char *there,
                    const char *others)
{
    bool same = !strcmp(here, there);
    if (same)
        g_string_append_printf(out, "  %s: %s\n", what, here);
    else
        g_string_append_printf(out, "! %s: heard %s, %s %s\n", what, here, others, there);
    return same;
}

static char *shown_or_not(const struct learnt *l, GBytes *bytes)
{
    return bytes ? learn_shown(l, bytes) : g_strdup("nothing");
}

static unsigned compare_owned(GString *out, char *what, char *here, char *there, const char *others)
{
    unsigned differs = !compare(out, what, here, there, others);
    g_free(what);
    g_free(here);
    g_free(there);
    return differs;
}

static const struct learnt_button *button_named(const struct learnt *l, const char *name)
{
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        if (!strcmp(b->name, name)) return b;
    }
    return NULL;
}

static const struct learnt_slider *slider_named(const struct learnt *l, const char *name)
{
    for (unsigned i = 0; i < l->sliders->len; i++) {
        const struct learnt_slider *s = l->sliders->pdata[i];
        if (!strcmp(s->name, name)) return s;
    }
    return NULL;
}

/* "channel 3, 100..923". Owned by the caller. */
static char *stick_text(const struct learnt_stick *s)
{
    if (!s->moved) return g_strdup("nothing");
    return s->is_switch
               ? g_strdup_printf("channel %u, on %u, off %u", s->channel + 1, s->on, s->rest)
               : g_strdup_printf("channel %u, %u..%u", s->channel + 1, s->low, s->high);
}

static unsigned confirm_sticks(const struct learnt *l, const struct learnt *other, GString *out,
                               const char *second)
{
    unsigned differs = compare_owned(
        out, g_strdup("channels"), g_strdup_printf("%u bits", l->channels.each),
        other->channels.found ? g_strdup_printf("%u bits", other->channels.each) : g_strdup("none"),
        second);
    for (unsigned i = 0; i < l->sticks->len; i++) {
        const struct learnt_stick *s = l->sticks->pdata[i];
        for (unsigned k = 0; k < other->sticks->len; k++) {
            const struct learnt_stick *same = other->sticks->pdata[k];
            if (!strcmp(s->name, same->name))
                differs +=
                    compare_owned(out, g_strdup(s->name), stick_text(s), stick_text(same), second);
        }
    }
    return differs;
}

unsigned learnt_confirm(const struct learnt *l, const struct learnt *other, GString *out)
{
    static const char second[] = "the second time";
    unsigned whole = other->frames->len - other->damaged;
    unsigned differs = whole * 4 < other->frames->len * 3;
    g_string_append_printf(out, "%c frames: %u of %u have the same form\n", differs ? '!' : ' ',
                           whole, other->frames->len);
    if (l->channels.found) differs += confirm_sticks(l, other, out, second);
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i], *same = button_named(other, b->name);
        for (unsigned p = 0; same && p < PHASES; p++)
            differs += compare_owned(out, g_strdup_printf("%s, %s", b->name, learn_phases[p]),
                                     shown_or_not(l, b->phase[p].bytes),
                                     shown_or_not(other, same->phase[p].bytes), second);
        if (!same) g_string_append_printf(out, "  %s: in the first recording only\n", b->name);
    }
    for (unsigned i = 0; i < other->buttons->len; i++) {
        const struct learnt_button *b = other->buttons->pdata[i];
        if (!button_named(l, b->name))
            g_string_append_printf(out, "  %s: in the second recording only\n", b->name);
    }
    for (unsigned i = 0; i < l->sliders->len; i++) {
        const struct learnt_slider *s = l->sliders->pdata[i], *same = slider_named(other, s->name);
        if (same)
            differs += compare_owned(out, g_strdup(s->name), learn_slides(l, s),
                                     learn_slides(other, same), second);
    }
    return differs;
}

/* What a button of a lexicon sends in a phase, as it would be shown. */
static char *sent_text(const char *text)
{
    return text ? g_strdup_printf("\"%s\"", text) : g_strdup("nothing");
}

/* What the device of a lexicon reads in what was heard: of bytes the command that they are. */
static char *as_read(const struct learnt *l, const struct lex_link *link, GBytes *is)
{
    char *text = NULL;
    if (!is || !l->binary || !link || !link->layout) return shown_or_not(l, is);
    for (unsigned i = 0; i < l->frames->len && !text; i++) {
        const struct frame *f = l->frames->pdata[i];
        size_t n;
        const guint8 *data = g_bytes_get_data(f->whole, &n);
        if (!f->damaged && g_bytes_equal(f->said, is)) text = layout_command(link, data, n);
    }
    char *shown = text && *text ? sent_text(text) : learn_shown(l, is);
    g_free(text);
    return shown;
}

static unsigned against_button(const struct learnt *l, const struct lex_link *link,
                               const struct lex_button *is, GString *out)
{
    const struct learnt_button *b = button_named(l, is->name);
    const char *const texts[PHASES] = {is->press, is->held, is->release};
    unsigned differs = 0;
    if (!b) {
        g_string_append_printf(out, "  %s: not recorded\n", is->name);
        return 0;
    }
    for (unsigned p = 0; p < PHASES; p++)
        differs += compare_owned(out, g_strdup_printf("%s, %s", b->name, learn_phases[p]),
                                 as_read(l, link, b->phase[p].bytes), sent_text(texts[p]),
                                 "the lexicon has");
    return differs;
}

unsigned learnt_against(const struct learnt *l, const struct lexicon *lx,
                        const struct lex_handset *handset, GString *out)
{
    const struct lex_link *link = handset->link ? lexicon_link(lx, handset->link) : NULL;
    unsigned differs = 0;
    for (unsigned i = 0; i < handset->buttons->len; i++)
        differs += against_button(l, link, handset->buttons->pdata[i], out);
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        bool is_known = false;
        for (unsigned k = 0; k < handset->buttons->len; k++)
            is_known |= !strcmp(((struct lex_button *)handset->buttons->pdata[k])->name, b->name);
        if (is_known) continue;
        g_string_append_printf(out, "! %s: no button of %s\n", b->name, handset->name);
        differs++;
    }
    for (unsigned i = 0; i < handset->sliders->len; i++) {
        const struct lex_slider *is = handset->sliders->pdata[i];
        const struct learnt_slider *s = slider_named(l, is->name);
        if (s && !l->binary && !s->keys)
            differs += compare_owned(out, g_strdup(s->name), learn_slides(l, s),
                                     sent_text(is->text), "the lexicon has");
        else
            g_string_append_printf(out, "  %s: %s\n", is->name,
                                   s ? "its steps are not compared" : "not recorded");
    }
    if (l->repeat_ms && handset->repeat)
        differs += compare_owned(out, g_strdup("repeat"), g_strdup_printf("%u ms", l->repeat_ms),
                                 g_strdup_printf("%u ms", handset->repeat), "the lexicon has");
    differs += compare_owned(out, g_strdup("idle"), as_read(l, link, l->idle),
                             sent_text(handset->idle), "the lexicon has");
    if (link && !l->binary && link->address != l->envelope.address) {
        g_string_append_printf(out, "! address: heard %d, the lexicon has %d\n",
                               l->envelope.address, link->address);
        differs++;
    }
    return differs;
}
