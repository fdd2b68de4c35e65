/* The sender of a link with channels. Finds where a stick must stand for a value by the line that
 * the layout draws, and holds the frame against it.
 * Nothing here calls the library. */
#include "lexicon/layout/sticks.h"

#include <string.h>

#include "lexicon/layout/layout_parts.h"

/* ---- bits ---- */

void layout_put_channels(struct layout_bits *to, const struct lex_field *field,
                         const uint16_t *channels)
{
    const struct lex_field one = {.bits = 1};
    for (unsigned i = 0; i < field->channels * field->each; i++) {
        unsigned in_byte = i % 8, number = i;
        if (field->little)
            number = i - in_byte + (7 - in_byte); /* a byte's bits in the other order */
        unsigned bit = number % field->each;
        uint16_t value = channels ? channels[number / field->each] : 0;
        layout_put_bits(to, &one, value >> (field->little ? bit : field->each - 1 - bit) & 1);
    }
}

void layout_take_channels(const struct lex_field *field, const guint8 *bytes, unsigned at,
                          uint16_t *channels)
{
    for (unsigned c = 0; c < field->channels; c++) {
        channels[c] = 0;
        for (unsigned i = 0; i < field->each; i++, at++) {
            unsigned shift = field->little ? at % 8 : 7 - at % 8;
            unsigned bit = bytes[at / 8] >> shift & 1u;
            channels[c] |= (uint16_t)(bit << (field->little ? i : field->each - 1 - i));
        }
    }
}

/* ---- one stick ---- */

/* At rest; of a zone, not outside it and its hysteresis. */
static bool is_near(const struct lex_field *field, uint16_t at)
{
    return at >= field->near_rest[0] && at <= field->near_rest[1];
}

static bool is_inside(const struct lex_field *field, uint16_t at)
{
    return at >= field->from && at <= field->to;
}

/* The slot's value while the stick is at rest: 0, or what is nearest to it. */
static int64_t at_rest(const struct lex_field *field)
{
    return CLAMP(INT64_C(0), field->of->low, field->of->high);
}

static uint16_t rest_place(const struct lex_field *field)
{
    int64_t rest = at_rest(field);
    int32_t place = rest == field->of->low    ? field->from
                    : rest == field->of->high ? field->to
                                              : (field->near_rest[0] + field->near_rest[1]) / 2;
    return (uint16_t)place;
}

int64_t sticks_value(const struct lex_field *field, uint16_t at)
{
    int64_t rest = at_rest(field), from = field->from, to = field->to;
    if (is_near(field, at)) return rest;
    bool below = at < field->near_rest[0];
    bool to_low = from < to ? below : !below;
    int64_t begin = field->near_rest[!below], end = to_low ? from : to;
    int64_t last = to_low ? field->of->low : field->of->high;
    if (below ? at <= end : at >= end) return last;
    return layout_between(at, begin, end, rest, last);
}

/* Where it has the value; false: nowhere. */
static bool find_place(const struct lex_field *field, int64_t value, uint16_t *at)
{
    int32_t low = MIN(field->from, field->to), high = MAX(field->from, field->to);
    if (value == at_rest(field)) {
        *at = rest_place(field);
        return true;
    }
    for (int32_t i = low; i <= high; i++) {
        if (sticks_value(field, (uint16_t)i) != value) continue;
        *at = (uint16_t)i;
        while (i < high && sticks_value(field, (uint16_t)(i + 1)) == value) i++;
        if (value != field->of->low && value != field->of->high)
            *at = (uint16_t)((*at + i) / 2); /* in the middle of those that have it */
        return true;
    }
    return false;
}

/* ---- all ---- */

/* The next field of this kind, from there on; NULL: there is none. */
static const struct lex_field *next_field(const struct lex_link *link, unsigned what, unsigned *row,
                                          unsigned *i)
{
    const GPtrArray *rows = link->layout->rows;
    for (; *row < rows->len; ++*row, *i = 0) {
        const struct lex_packed *packed = rows->pdata[*row];
        while (!packed->event && *i < packed->fields->len) {
            const struct lex_field *field = packed->fields->pdata[(*i)++];
            if (field->what == what) return field;
        }
    }
    return NULL;
}

void sticks_release(const struct lex_link *link, struct sticks *sticks)
{
    unsigned row = 0, i = 0;
    const struct lex_field *field;
    while ((field = next_field(link, RLX_FLD_CHANNEL, &row, &i)))
        if (!field->anywhere) sticks->at[field->channel - 1] = rest_place(field);
}

/* A place outside all zones of the channel; false: there is none. */
static bool find_nowhere(const struct lex_link *link, unsigned channel, uint16_t *at)
{
    unsigned most = (1u << link->layout->each) - 1, best = 0;
    for (unsigned place = 0, run = 0; place <= most; place++) {
        unsigned row = 0, i = 0;
        const struct lex_field *zone;
        bool in = false;
        while ((zone = next_field(link, RLX_FLD_ZONE, &row, &i)))
            in |= zone->channel == channel && is_near(zone, (uint16_t)place);
        run = in ? 0 : run + 1;
        if (run > best) *at = (uint16_t)(place - run / 2);
        best = MAX(best, run);
    }
    return best;
}

void sticks_rest(const struct lex_link *link, struct sticks *sticks)
{
    const unsigned most = (1u << link->layout->each) - 1;
    unsigned row = 0, i = 0;
    *sticks = (struct sticks){0};
    const struct lex_field *zone, *stick;
    for (unsigned c = 0; c < LEX_CHANNELS_MOST; c++) sticks->at[c] = (uint16_t)(most / 2);
    while ((zone = next_field(link, RLX_FLD_ZONE, &row, &i)))
        find_nowhere(link, zone->channel, &sticks->at[zone->channel - 1]);
    row = i = 0;
    while ((stick = next_field(link, RLX_FLD_CHANNEL, &row, &i)))
        sticks->at[stick->channel - 1] = rest_place(stick);
}

/* The row that the words are, with where its channels must stand. NULL: none. */
static const struct lex_packed *row_saying(const struct lex_link *link, char **words,
                                           struct sticks *sticks)
{
    for (unsigned r = 0; r < link->layout->rows->len; r++) {
        const struct lex_packed *row = link->layout->rows->pdata[r];
        struct sticks there = *sticks;
        bool is = !row->event && g_strv_length(words) == g_strv_length(row->pieces);
        for (unsigned i = 0; is && words[i]; i++)
            is = *row->pieces[i] == '{' || !strcmp(row->pieces[i], words[i]);
        for (unsigned k = 0; is && k < row->fields->len; k++) {
            const struct lex_field *field = row->fields->pdata[k];
            uint16_t *at = &there.at[field->channel - 1];
            int64_t value;
            unsigned i = 0;
            if (field->what == RLX_FLD_ZONE) {
                *at = (uint16_t)((field->from + field->to) / 2);
                continue;
            }
            while (row->command->elements->pdata[i] != field->of) i++;
            is = layout_number_said(field->of, words[i], &value) && find_place(field, value, at);
        }
        if (!is) continue;
        *sticks = there;
        return row;
    }
    return NULL;
}

static bool has_failsafe(const struct lex_link *link)
{
    bool has = false;
    for (unsigned i = 0; i < link->layout->frame->len; i++)
        has |= ((struct lex_field *)link->layout->frame->pdata[i])->what == RLX_FLD_FAILSAFE;
    return has;
}

static bool set_channel(const struct lex_link *link, struct sticks *sticks, char **words)
{
    guint64 channel, place, most = (UINT64_C(1) << link->layout->each) - 1;
    if (g_strv_length(words) != 3 || strcmp(words[0], "channel") != 0) return false;
    if (!g_ascii_string_to_unsigned(words[1], 10, 1, link->layout->channels, &channel, NULL) ||
        !g_ascii_string_to_unsigned(words[2], 10, 0, most, &place, NULL))
        return false;
    sticks->at[channel - 1] = (uint16_t)place;
    return true;
}

bool sticks_set(const struct lex_link *link, struct sticks *sticks, const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    sticks->failsafe = !strcmp(text, "failsafe") && has_failsafe(link);
    bool is =
        sticks->failsafe || set_channel(link, sticks, words) || row_saying(link, words, sticks);
    g_strfreev(words);
    return is;
}

static void leave_zone(const struct lex_link *link, const struct lex_field *zone, uint16_t *at)
{
    if (is_near(zone, *at) && !find_nowhere(link, zone->channel, at))
        *at = zone->near_rest[0] > 0 ? 0 : (uint16_t)((1u << link->layout->each) - 1);
}

bool sticks_leave(const struct lex_link *link, struct sticks *sticks, const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    struct sticks there = *sticks, before = *sticks;
    const struct lex_packed *row = row_saying(link, words, &there);
    bool same = true;
    g_strfreev(words);
    for (unsigned k = 0; row && k < row->fields->len; k++) {
        const struct lex_field *field = row->fields->pdata[k];
        uint16_t *at = &sticks->at[field->channel - 1];
        if (field->what == RLX_FLD_ZONE) {
            leave_zone(link, field, at);
        } else {
            same = same && *at == there.at[field->channel - 1];
            *at = rest_place(field);
        }
    }
    if (!same) *sticks = before;
    return memcmp(sticks->at, before.at, sizeof before.at) != 0;
}

GByteArray *sticks_frame(const struct lex_link *link, const struct sticks *sticks)
{
    struct layout_said said = {.channels = sticks->at, .failsafe = sticks->failsafe};
    return layout_written(link->layout->frame, &said);
}

GByteArray *sticks_say(const struct lex_link *link, const char *text)
{
    struct sticks sticks;
    sticks_rest(link, &sticks);
    return sticks_set(link, &sticks, text) ? sticks_frame(link, &sticks) : NULL;
}

/* What the row says; whether its channels are at rest, or stand as switches do at first. */
static char *row_now(const struct lex_packed *row, const struct sticks *first,
                     struct layout_got *got, bool *rests)
{
    unsigned slot = 0;
    *rests = true;
    for (unsigned k = 0; k < row->fields->len; k++) {
        const struct lex_field *field = row->fields->pdata[k];
        uint16_t at = got->channels[field->channel - 1];
        *rests &= field->what == RLX_FLD_CHANNEL
                      ? is_near(field, at)
                      : !is_inside(field, at) || is_inside(field, first->at[field->channel - 1]);
        if (field->of) got->values[slot++] = sticks_value(field, at);
    }
    return layout_row_text(row, got);
}

bool sticks_says(const struct lex_link *link, const char *text)
{
    char **words = g_strsplit(text, " ", -1);
    struct layout_got got = {0};
    struct sticks sticks;
    bool rests;
    sticks_rest(link, &sticks);
    const struct lex_packed *row = row_saying(link, words, &sticks);
    memcpy(got.channels, sticks.at, sizeof sticks.at);
    char *now = row ? row_now(row, &sticks, &got, &rests) : NULL;
    bool says = now && !strcmp(now, text);
    g_free(now);
    g_strfreev(words);
    return says;
}

bool sticks_moves(const struct lex_link *link, const char *text)
{
    struct sticks rest, said;
    sticks_rest(link, &rest);
    said = rest;
    return sticks_set(link, &said, text) && memcmp(rest.at, said.at, sizeof said.at) != 0;
}

char *sticks_heard(const struct lex_link *link, const guint8 *bytes, size_t count)
{
    struct layout_got got = {0};
    struct sticks first;
    sticks_rest(link, &first);
    if (!layout_is_frame(link->layout->frame, NULL, bytes, count, &got) || got.failsafe)
        return NULL;
    for (unsigned i = 0; i < link->layout->rows->len; i++) {
        const struct lex_packed *row = link->layout->rows->pdata[i];
        bool rests = true;
        char *now = row->event ? NULL : row_now(row, &first, &got, &rests);
        if (!rests) return now;
        g_free(now);
    }
    return g_strdup("");
}

const struct lex_packed *sticks_first(const struct lex_link *link)
{
    unsigned i = 0;
    while (((struct lex_packed *)link->layout->rows->pdata[i])->event) i++;
    return link->layout->rows->pdata[i];
}
