/* Reads what a layout has of proportional channels: how they lie in a frame, which one gives a slot
 * its value, and the zones of a switch.
 * The other fields are read in read_field.c. */
#include <string.h>

#include "lexicon/layout/layout.h"
#include "lexicon/layout/sticks.h"
#include "lexicon/read/reader.h"
#include "rlx/image.h"

#define MOST_BITS 16u
/* Of a channel's range, what is at rest on either side, and a zone's hysteresis, unless given. */
#define DEAD_SHARE 50

/* channels 16 u11 [lsb|msb] */
bool lex_read_channels(struct statement *st, struct lex_field *field)
{
    guint64 bits = 0;
    field->what = RLX_FLD_CHANNELS;
    if (!statement_number(st, "how many channels a frame has", 1, LEX_CHANNELS_MOST,
                          &field->channels))
        return false;
    const struct token *token = statement_take(st);
    if (token->kind != TOKEN_WORD || *token->text != 'u' ||
        !g_ascii_string_to_unsigned(token->text + 1, 10, 2, MOST_BITS, &bits, NULL)) {
        lex_fault(st->lx, token->place,
                  "expected how many bits a channel has, u2..u%u, like: channels 16 u11 lsb",
                  MOST_BITS);
        return false;
    }
    field->each = (unsigned)bits;
    field->little = statement_take_word(st, "lsb");
    if (!field->little) statement_take_word(st, "msb");
    return true;
}

/* The numbers of a range, of a channel or zone. */
static bool read_range(struct statement *st, struct lex_field *field, const char *example)
{
    struct lex_element any = {.kind = LEX_NUMBER};
    const struct token *token = statement_take(st);
    const char *end;
    int64_t from, to;
    const int64_t most = (INT64_C(1) << MOST_BITS) - 1;
    if (token->kind != TOKEN_WORD || !lex_read_bounds(&any, token->text, &end, &from, &to) ||
        *end || any.form != LEX_WHOLE || from == to || MIN(from, to) < 0 || MAX(from, to) > most) {
        lex_fault(st->lx, token->place, "expected what the channel has there, like: %s", example);
        return false;
    }
    field->from = (int32_t)from;
    field->to = (int32_t)to;
    return true;
}

static bool read_zone(struct statement *st, struct lex_field *field)
{
    unsigned hysteresis = UINT_MAX;
    field->what = RLX_FLD_ZONE;
    if (!read_range(st, field, "channel 5 1500..2047")) return false;
    if (field->from > field->to) {
        lex_fault(st->lx, field->place, "the zone begins at %d and ends below it, at %d",
                  field->from, field->to);
        return false;
    }
    if (statement_take_word(st, "hysteresis") &&
        !statement_number(st, "the hysteresis, in the channel's steps", 1, 32767, &hysteresis))
        return false;
    field->addend = hysteresis == UINT_MAX ? -1 : (int)hysteresis;
    return true;
}

/* channel 1 left 172..1811 [center 992] [dead 20] [anywhere], channel 5 1500..2047 [hysteresis 40]
 */
bool lex_read_channel(struct statement *st, struct lex_field *field)
{
    unsigned center = UINT_MAX, dead = UINT_MAX;
    if (!statement_number(st, "the channel's number", 1, LEX_CHANNELS_MOST, &field->channel))
        return false;
    const struct token *token = statement_peek(st);
    if (token->kind == TOKEN_WORD && g_ascii_isdigit(*token->text)) return read_zone(st, field);
    field->what = RLX_FLD_CHANNEL;
    field->slot = statement_name(st, "the slot that it gives its value, or a zone like 1500..2047");
    if (!field->slot || !read_range(st, field, "channel 1 left 172..1811")) return false;
    for (;;) {
        if (statement_take_word(st, "center")) {
            if (!statement_number(st, "where it is at rest", 0, 65535, &center)) return false;
        } else if (statement_take_word(st, "dead")) {
            if (!statement_number(st, "how far it may be off and is at rest", 0, 32767, &dead))
                return false;
        } else if (statement_take_word(st, "anywhere")) {
            field->anywhere = true;
        } else {
            break;
        }
    }
    field->constant = center;
    field->addend = dead == UINT_MAX ? -1 : (int)dead;
    return true;
}

/* ---- when everything is read ---- */

/* Where the stick is at rest: where its slot is 0, or nearest to it. */
static void finish_stick(struct lexicon *lx, const struct lex_layout *layout,
                         struct lex_field *field)
{
    const struct lex_element *e = field->of;
    int32_t low = MIN(field->from, field->to), high = MAX(field->from, field->to),
            most = (1 << layout->each) - 1;
    int32_t dead = field->addend >= 0 ? field->addend : (high - low + DEAD_SHARE - 1) / DEAD_SHARE;
    bool both = e->low < 0 && e->high > 0;
    bool at_from = both ? false : e->low >= 0; /* at rest where the slot is lowest */
    int32_t center = both ? (low + high + 1) / 2 : at_from ? field->from : field->to;
    if (field->constant != UINT_MAX && !both) {
        lex_fault(lx, field->place, "'%s' is at rest at the end of its range: leave 'center' out",
                  field->slot);
        return;
    }
    if (field->constant != UINT_MAX) center = (int32_t)field->constant;
    field->near_rest[0] = center - dead;
    field->near_rest[1] = center + dead;
    if (!both && center == low) field->near_rest[0] = 0; /* also beyond the end */
    if (!both && center == high) field->near_rest[1] = most;
    bool ok = both ? field->near_rest[0] > low && field->near_rest[1] < high : dead < high - low;
    if (!ok)
        lex_fault(lx, field->place,
                  "at rest from %d to %d, which leaves nothing of %d..%d on one side: take less "
                  "'dead', or another center",
                  field->near_rest[0], field->near_rest[1], field->from, field->to);
    if (((int64_t)high - low) * ((int64_t)e->high - e->low) > G_MAXINT32)
        lex_fault(
            lx, field->place,
            "the device computes with 32 bits: %d steps of the channel times %" G_GINT64_FORMAT
            " of '%s' are more",
            high - low, (int64_t)e->high - e->low, field->slot);
}

static void finish_zone(const struct lex_layout *layout, struct lex_field *field)
{
    const int32_t most = (1 << layout->each) - 1;
    int32_t hysteresis = field->addend >= 0 ? field->addend : (most + DEAD_SHARE) / DEAD_SHARE;
    field->near_rest[0] = MAX(0, field->from - hysteresis);
    field->near_rest[1] = MIN(most, field->to + hysteresis);
}

static void finish_row(struct lexicon *lx, const struct lex_link *link, struct lex_packed *row)
{
    const struct lex_layout *layout = link->layout;
    const int32_t most = (1 << layout->each) - 1;
    bool zone = false;
    if (!row->fields->len) {
        lex_fault(lx, row->place, "which channel chooses it? Write like: channel 5 %d..%d",
                  most / 4 * 3, most);
        return;
    }
    for (unsigned i = 0; i < row->fields->len; i++) {
        struct lex_field *field = row->fields->pdata[i];
        if (!field->channel) {
            lex_fault(lx, field->place,
                      "'%s' has channels, and its rows too: write like channel 1 level 0..%d",
                      link->name, most);
            return;
        }
        zone |= field->what == RLX_FLD_ZONE;
        if (field->channel > layout->channels)
            lex_fault(lx, field->place, "a frame of '%s' has %u channels", link->name,
                      layout->channels);
        if (MAX(field->from, field->to) > most)
            lex_fault(lx, field->place, "a channel of %u bits has 0..%d", layout->each, most);
        else if (field->what == RLX_FLD_ZONE)
            finish_zone(layout, field);
        else if (field->of)
            finish_stick(lx, layout, field);
    }
    if (zone && row->fields->len > 1)
        lex_fault(lx, row->place, "one zone chooses a command, of one channel");
    if (zone && strchr(row->text, '{'))
        lex_fault(lx, row->place,
                  "a zone chooses a command, and gives it no values: write them in its text");
}

/* Each frame, with the silence that ends it, has to fit its time; and one that is lost is not yet
 * the link. */
static void check_rate(struct lexicon *lx, const struct lex_link *link)
{
    const struct lex_layout *layout = link->layout;
    unsigned bytes = layout_bits(layout->frame) / 8, baud = MAX(link->baud, 1);
    uint32_t takes = (bytes * lex_format_bits(&link->format) * 1000 + baud - 1) / baud;
    if (!layout->every) return;
    if (takes + link->gap > layout->every)
        lex_fault(lx, layout->place,
                  "a frame takes %u ms and needs a silence of %u ms behind it, but the next one "
                  "comes after %u ms",
                  takes, link->gap, layout->every);
    if (link->lost < 3 * layout->every)
        lex_fault(lx, link->place,
                  "two lost frames would be a lost link: write 'lost after %ums' or more, or a "
                  "shorter 'every'",
                  3 * layout->every);
}

void lex_finish_channels(struct lexicon *lx, struct lex_link *link)
{
    const struct lex_layout *layout = link->layout;
    unsigned faults = lx->faults->len;
    if (link->frame != LEX_FRAME_GAP)
        lex_fault(lx, link->place,
                  "frames of channels repeat, and a silence ends each: write 'frame gap 3ms'");
    if (!link->lost)
        lex_fault(lx, link->place,
                  "when has the sender of '%s' gone? Its sticks must be at rest before they move "
                  "anything again: write like 'lost after 500ms'",
                  link->name);
    if (link->frame == LEX_FRAME_GAP && link->lost) check_rate(lx, link);
    if (layout->answer->len)
        lex_fault(lx, layout->place, "nobody answers frames of channels, which repeat for ever");
    for (unsigned i = 0; i < layout->rows->len; i++) {
        struct lex_packed *row = layout->rows->pdata[i];
        if (!row->event) finish_row(lx, link, row);
    }
    if (lx->faults->len == faults && layout_room(link) > 254)
        lex_fault(lx, layout->place,
                  "two frames, its rows and a command's text are %u bytes, of at most 254: take "
                  "fewer rows",
                  layout_room(link));
}
