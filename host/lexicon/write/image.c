#include "image.h"

#include <string.h>

#include "build.h"
#include "check/checks.h"
#include "reader.h"
#include "rlx/error.h"
#include "sizes.h"

#define IMAGE_MAX 65535

/* ---- bytes ---- */

void build_put8(GByteArray *to, unsigned value)
{
    guint8 byte = (guint8)value;
    g_byte_array_append(to, &byte, 1);
}

void build_put16(GByteArray *to, unsigned value)
{
    build_put8(to, value & 255);
    build_put8(to, value >> 8 & 255);
}

void build_put32(GByteArray *to, uint32_t value)
{
    build_put16(to, value & 0xFFFF);
    build_put16(to, value >> 16);
}

void build_set16(GByteArray *to, unsigned at, unsigned value)
{
    to->data[at] = (guint8)value;
    to->data[at + 1] = (guint8)(value >> 8);
}

void build_put_text(GByteArray *to, const char *text)
{
    g_byte_array_append(to, (const guint8 *)text, (guint)strlen(text));
    to->data[to->len - 1] |= RLX_TEXT_END;
}

/* Tables of 16-bit numbers stand at even offsets. */
void build_align(GByteArray *to)
{
    if (to->len & 1) build_put8(to, 0);
}

void build_put_all(GByteArray *to, const GByteArray *from)
{
    g_byte_array_append(to, from->data, from->len);
}

/* A new row of the listing begins here. */
void build_row(struct build *b, const char *format, ...) G_GNUC_PRINTF(2, 3);
void build_row(struct build *b, const char *format, ...)
{
    struct image_row r = {b->image->bytes->len, NULL};
    va_list args;
    va_start(args, format);
    r.comment = g_strdup_vprintf(format, args);
    va_end(args);
    g_array_append_val(b->image->rows, r);
}

void build_need(struct build *b, unsigned bit)
{
    b->image->needs |= UINT64_C(1) << bit;
}

/* ---- the tables around it ---- */

static void put_shape_table(struct build *b)
{
    build_align(b->image->bytes);
    build_set16(b->image->bytes, RLX_IMG_SHAPES, b->image->bytes->len);
    if (b->many) return;
    build_row(b, "where the shapes are");
    for (unsigned i = 0; i < b->shape_at->len; i++)
        build_put16(b->image->bytes, g_array_index(b->shape_at, uint16_t, i));
}

/* The number of an interlock: the place of its first relay, from 1. */
static unsigned interlock_number(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; name && i < lx->outputs->len; i++)
        if (!g_strcmp0(((struct lex_output *)lx->outputs->pdata[i])->interlock, name)) return i + 1;
    return 0;
}

static void put_more_of_output(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    uint32_t share = out->fade > 1 ? (uint32_t)((UINT64_C(1) << 32) / out->fade) : UINT32_MAX;
    if (out->fade) build_need(b, RLX_BIT_ACTS);
    if (out->least_on || out->least_off || out->interlock) {
        build_need(b, RLX_BIT_RESTS);
        build_need(b, RLX_BIT_NUMBER);
        build_need(b, RLX_BIT_WIDE); /* which tells how long it waits */
    }
    build_row(b, "times of %s", out->name);
    build_put32(to, out->least_on);
    build_put32(to, out->least_off);
    build_put32(to, out->dead);
    build_put32(to, MAX(MAX(out->least_on, out->least_off), out->dead));
    build_put32(to, out->fade);
    build_put32(to, out->fade ? share : 0);
    build_put8(to, interlock_number(b->lx, out->interlock));
}

static unsigned input_number(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; name && i < lx->inputs->len; i++)
        if (lx->inputs->pdata[i] == lexicon_input(lx, name)) return i;
    return RLX_EVT_NONE;
}

/* The two relays of a reverser. */
static void put_ways(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    build_need(b, RLX_BIT_MOVES);
    build_need(b, RLX_BIT_NUMBER);
    build_need(b, RLX_BIT_WIDE); /* which tells how long it waits */
    build_row(b, "the ways of %s", out->name);
    build_put8(to, out->close.pin);
    build_put8(to, input_number(b->lx, out->open.until));
    build_put8(to, input_number(b->lx, out->close.until));
    build_put8(to, out->open.until || out->close.until);
    build_put32(to, out->dead);
    build_put32(to, out->travel);
}

static void put_outputs(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned rows = to->len;
    build_set16(to, RLX_IMG_OUTPUTS, to->len);
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        struct lex_output *out = b->lx->outputs->pdata[i];
        bool moves = out->kind == LEX_REVERSER;
        bool eye = out->curve && !strcmp(out->curve, "eye");
        bool tone = out->kind == LEX_BUZZER && out->pwm;
        build_need(b, out->pwm ? RLX_BIT_LEVEL : RLX_BIT_SWITCH);
        if (eye) build_need(b, RLX_BIT_CURVE);
        if (tone) build_need(b, RLX_BIT_TONE);
        build_row(b, "output %u: %s, %s %u%s, safe %u%%", i, out->name, out->pwm ? "pwm" : "pin",
                  moves ? out->open.pin : out->pin, out->active_low ? " active low" : "",
                  out->safe);
        build_put8(to, (moves ? RLX_OUT_MOVES : 0u) | (out->active_low ? RLX_OUT_ACTIVE_LOW : 0u) |
                           (out->pwm ? RLX_OUT_PWM : 0u) | (eye ? RLX_OUT_EYE : 0u) |
                           (tone ? RLX_OUT_TONE : 0u));
        build_put8(to, moves ? out->open.pin : out->pin);
        build_put8(to, out->safe);
        build_put32(to, out->hz);
        build_put16(to, 0);
    }
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        const struct lex_output *out = b->lx->outputs->pdata[i];
        bool moves = out->kind == LEX_REVERSER;
        if (!out->least_on && !out->least_off && !out->interlock && !out->fade && !moves) continue;
        build_set16(to, rows + i * RLX_OUT_ROW + RLX_OUT_MORE, to->len);
        if (moves)
            put_ways(b, out);
        else
            put_more_of_output(b, out);
    }
}

/* A list with its length before it; returns where the length stands. */
static unsigned begin_list(GByteArray *to)
{
    build_put16(to, 0);
    return to->len - 2;
}

static void end_list(GByteArray *to, unsigned at)
{
    build_set16(to, at, to->len - at - 2);
}

static void put_keys(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "%s of %s", lex_frames[link->frame], link->name);
    unsigned at = begin_list(to);
    for (unsigned i = 0; i < link->keys->len; i++) {
        struct lex_key *key = link->keys->pdata[i];
        build_row(b, "%s = %s", key->code, key->text);
        if (link->frame == LEX_FRAME_KEYS)
            build_put8(to, (unsigned char)key->key);
        else
            build_put_text(to, key->code);
        build_put_text(to, key->text);
    }
    end_list(to, at);
}

static bool is_query(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->queries->len; i++)
        if (!strcmp(((struct lex_query *)lx->queries->pdata[i])->name, name)) return true;
    return false;
}

/* The first words that may be said, in all their spellings. */
static void put_only(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "what may be said over %s", link->name);
    unsigned at = begin_list(to);
    GHashTable *said = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < b->lx->commands->len; i++) {
        const struct lex_command *command = b->lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        for (unsigned k = 0; check_may_say(link, command) && k < lex_spellings(first); k++)
            if (g_hash_table_add(said, lex_spelling(first, k)))
                build_put_text(to, lex_spelling(first, k));
    }
    for (unsigned i = 0; i < link->only->len; i++) /* built-in words, and outputs that are asked */
        if (g_hash_table_add(said, link->only->pdata[i])) build_put_text(to, link->only->pdata[i]);
    g_hash_table_destroy(said);
    for (unsigned i = 0; i < link->only->len; i++) {
        if (!is_query(b->lx, link->only->pdata[i])) continue;
        char *name = lex_spelt(b->lx, link->only->pdata[i]), *asked = g_strconcat(name, "?", NULL);
        build_put_text(to, asked);
        g_free(name);
        g_free(asked);
    }
    if (link->only->len && b->image->needs >> RLX_BIT_PACED & 1) build_put_text(to, "got");
    end_list(to, at);
}

/* The number of what an event's text stands for: "ev call" is its first word's. */
static int own_event(const struct lexicon *lx, const char *what)
{
    char **parts = g_strsplit(what, " ", 3);
    int number = RLX_OWN_EVENT, found = -1;
    for (unsigned i = 0; parts[1] && i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        unsigned words = event->what ? event->what->words->len : 1;
        for (unsigned k = 0; k < words; k++, number++) {
            bool same = !strcmp(event->name, parts[1]);
            if (parts[2])
                same = same && event->what && !strcmp(event->what->words->pdata[k], parts[2]);
            if (same && found < 0) found = number;
        }
    }
    g_strfreev(parts);
    return found;
}

/* The number of what an own text stands for, or -1. */
static int own_number(const struct lexicon *lx, const char *what)
{
    static const struct {
        const char *name;
        int number;
    } names[] = {{"ok", RLX_OWN_OK},
                 {"already", RLX_OWN_ALREADY},
                 {"err", RLX_OWN_ERR},
                 {"note", RLX_OWN_NOTE},
#define NAME(number, id, name, sentence) {"err " name, number},
                 RLX_REPLY_ERRORS(NAME)
#undef NAME
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++)
        if (!strcmp(names[i].name, what)) return names[i].number;
    return own_event(lx, what);
}

/* How many words a text stands for: that of an event without a word all of them. */
static unsigned own_words(const struct lexicon *lx, const char *what)
{
    const struct lex_event *event =
        g_str_has_prefix(what, "ev ") ? lexicon_event(lx, what + strlen("ev ")) : NULL;
    return event && event->what ? event->what->words->len : 1;
}

static void put_own(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "texts of %s", link->name);
    unsigned at = begin_list(to);
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *own = link->texts->pdata[i];
        int number = own_number(b->lx, own->what);
        for (unsigned n = own_words(b->lx, own->what); number >= 0 && n; n--, number++) {
            build_put8(to, (unsigned)number);
            build_put_text(to, own->text);
        }
    }
    end_list(to, at);
}

static bool is_ignored_on(const struct lex_ignore *ignore, const struct lex_link *link)
{
    return !ignore->link || !strcmp(ignore->link, link->name);
}

static bool ignores(const struct build *b, const struct lex_link *link)
{
    for (unsigned i = 0; i < b->lx->ignores->len; i++)
        if (is_ignored_on(b->lx->ignores->pdata[i], link)) return true;
    return false;
}

static void put_ignored(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "what is ignored on %s", link->name);
    unsigned at = begin_list(to);
    for (unsigned i = 0; i < b->lx->ignores->len; i++) {
        const struct lex_ignore *ignore = b->lx->ignores->pdata[i];
        if (!is_ignored_on(ignore, link)) continue;
        build_put_text(to, ignore->text);
        if (ignore->reply && *ignore->reply)
            build_put_text(to, ignore->reply);
        else
            build_put8(to, RLX_TEXT_END); /* a text of no characters: no answer */
    }
    end_list(to, at);
}

static unsigned link_flags(struct build *b, const struct lex_link *link)
{
    static const unsigned checks[] = {0, RLX_LINK_CHECK, RLX_LINK_CHECK_REQUIRED};
    static const unsigned tags[] = {0, RLX_LINK_TAGS, RLX_LINK_TAGS_REQUIRED};
    static const unsigned replies[] = {0, RLX_LINK_SHORT, RLX_LINK_SILENT};
    unsigned flags = checks[link->check] | tags[link->tags] | replies[link->replies];
    bool silent = link->one_way;
    if (link->check) build_need(b, RLX_BIT_CHECK);
    if (link->tags) build_need(b, RLX_BIT_TAGS);
    if (link->replies || link->texts->len || silent) build_need(b, RLX_BIT_OWN);
    if (link->address >= 0) build_need(b, RLX_BIT_ADDRESS);
    if (link->only->len || ignores(b, link)) build_need(b, RLX_BIT_LIMITED);
    return flags | (link->address >= 0 ? RLX_LINK_ADDRESSED | RLX_LINK_SHARED : 0) |
           (link->medium == LEX_RADIO ? RLX_LINK_SHARED : 0) | (silent ? RLX_LINK_SILENT : 0);
}

bool image_tells(const struct lex_event *event, const struct lex_link *link)
{
    if (link->one_way) return false;
    return !event->to->len ||
           g_ptr_array_find_with_equal_func(event->to, link->name, g_str_equal, NULL);
}

/* Notes go where a greeting goes: to whoever looks on, not to many and not as text messages. */
bool image_has_notes(const struct lexicon *lx, const struct lex_link *link)
{
    return lx->built_in & RLX_BUILT_IN_NOTES && !link->one_way && link->address < 0 &&
           link->medium != LEX_RADIO && link->medium != LEX_SMS &&
           link->replies != LEX_REPLIES_SILENT;
}

/* RLX_WAY_... */
static unsigned link_ways(struct build *b, const struct lex_link *link)
{
    if (link->people) build_need(b, RLX_BIT_PEOPLE);
    if (link->replies_drop) build_need(b, RLX_BIT_DROP);
    if (link->yields) build_need(b, RLX_BIT_YIELDS);
    return (link->people ? RLX_WAY_PEOPLE : 0u) | (link->replies_drop ? RLX_WAY_DROP : 0u) |
           (link->greets ? RLX_WAY_STATE_TOLD : 0u) |
           (image_has_notes(b->lx, link) ? RLX_WAY_ALOUD : 0u);
}

/* Whether the link has anything beyond a row. */
static bool has_more(struct build *b, const struct lex_link *link)
{
    return link_ways(b, link) || link->event || link->yields || link->frame != LEX_FRAME_LINE ||
           link_flags(b, link) || link->only->len || link->texts->len || ignores(b, link);
}

static void put_more(struct build *b, const struct lex_link *link)
{
    static const guint8 zero[RLX_MORE_SIZE];
    GByteArray *to = b->image->bytes;
    unsigned at = to->len;
    bool fixed = link->frame == LEX_FRAME_FIXED;
    build_row(b, "more of link %s", link->name);
    g_byte_array_append(to, zero, RLX_MORE_SIZE);
    to->data[at + RLX_MORE_CHAR] = (guint8)(fixed                           ? link->pad
                                            : link->frame == LEX_FRAME_KEYS ? link->lead
                                                                            : link->end);
    to->data[at + RLX_MORE_LENGTH] = (guint8)(fixed ? link->length : link->payload);
    build_set16(to, at + RLX_MORE_GAP, link->gap);
    to->data[at + RLX_MORE_FLAGS] = (guint8)link_flags(b, link);
    to->data[at + RLX_MORE_ADDRESS] = (guint8)MAX(link->address, 0);
    to->data[at + RLX_MORE_SENDERS] = (guint8)link->senders;
    to->data[at + RLX_MORE_WAYS] = (guint8)link_ways(b, link);
    to->data[at + RLX_MORE_EVENT] = (guint8)link->event;
    for (unsigned i = 0; link->yields && i < b->lx->links->len; i++)
        if (b->lx->links->pdata[i] == lexicon_link(b->lx, link->yields))
            to->data[at + RLX_MORE_YIELDS] = (guint8)(i + 1);
    build_set16(to, at + RLX_MORE_YIELDS_S, link->yields_s);
    const struct {
        bool wanted;
        unsigned field;
        void (*put)(struct build *b, const struct lex_link *link);
    } parts[] = {{link->keys->len != 0, RLX_MORE_KEYS, put_keys},
                 {link->only->len != 0, RLX_MORE_ONLY, put_only},
                 {link->texts->len != 0, RLX_MORE_TEXTS, put_own},
                 {ignores(b, link), RLX_MORE_IGNORED, put_ignored}};
    for (unsigned i = 0; i < G_N_ELEMENTS(parts); i++) {
        if (!parts[i].wanted) continue;
        build_set16(to, at + parts[i].field, to->len);
        parts[i].put(b, link);
    }
}

static void need_framing(struct build *b, const struct lex_link *link)
{
    static const unsigned needs[LEX_FRAMES] = {
        [LEX_FRAME_LINE] = RLX_BIT_LINE,      [LEX_FRAME_KEYS] = RLX_BIT_KEYS,
        [LEX_FRAME_CODES] = RLX_BIT_CODES,    [LEX_FRAME_ENDED] = RLX_BIT_MARKED,
        [LEX_FRAME_GAP] = RLX_BIT_TIMED,      [LEX_FRAME_FIXED] = RLX_BIT_MARKED,
        [LEX_FRAME_PACKET] = RLX_BIT_PACKET,  [LEX_FRAME_REPORT] = RLX_BIT_REPORT,
        [LEX_FRAME_MESSAGE] = RLX_BIT_MESSAGE};
    build_need(b, needs[link->frame]);
    if (link->gap) build_need(b, RLX_BIT_TIMED);
    if (link->frame == LEX_FRAME_KEYS && link->lead) build_need(b, RLX_BIT_MARKED);
}

/* RLX_FRAME_... */
static unsigned framing_of(const struct lex_link *link)
{
    static const unsigned framings[LEX_FRAMES] = {
        [LEX_FRAME_LINE] = RLX_FRAME_LINE,      [LEX_FRAME_KEYS] = RLX_FRAME_KEYS,
        [LEX_FRAME_CODES] = RLX_FRAME_CODES,    [LEX_FRAME_ENDED] = RLX_FRAME_ENDED,
        [LEX_FRAME_GAP] = RLX_FRAME_GAP,        [LEX_FRAME_FIXED] = RLX_FRAME_FIXED,
        [LEX_FRAME_PACKET] = RLX_FRAME_PACKET,  [LEX_FRAME_REPORT] = RLX_FRAME_REPORT,
        [LEX_FRAME_MESSAGE] = RLX_FRAME_MESSAGE};
    return framings[link->frame];
}

static void put_links(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned rows = to->len, n = b->lx->links->len;
    build_set16(to, RLX_IMG_LINK_ROWS, rows);
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = b->lx->links->pdata[i];
        need_framing(b, link);
        build_row(b, "link %u: %s, %s frames, replies up to %u bytes", i, link->name,
                  link->frame == LEX_FRAME_KEYS ? "key" : lex_frames[link->frame], link->reply);
        build_put8(to, framing_of(link));
        build_put8(to, link->reply);
        build_put8(to, link->receive - 1);
        build_put8(to, link->transmit - 1);
        build_put8(to, link->longest);
        build_put16(to, 0);
        if (link->may_not_fit) build_need(b, RLX_BIT_LONG_REPLY);
    }
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = b->lx->links->pdata[i];
        if (!has_more(b, link)) continue;
        build_set16(to, rows + i * RLX_LNK_ROW + RLX_LNK_MORE, to->len);
        put_more(b, link);
    }
}

/* Numbers that stand for commands. */
static void put_numbered(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!b->lx->numbers->len) return;
    build_need(b, RLX_BIT_NUMBERED);
    build_set16(to, RLX_IMG_NUMBERED, to->len);
    build_row(b, "commands by number");
    unsigned at = to->len;
    build_put16(to, 0);
    for (unsigned i = 0; i < b->lx->numbers->len; i++) {
        const struct lex_number *number = b->lx->numbers->pdata[i];
        build_row(b, "%s = %s", number->digits, number->text);
        build_put_text(to, number->digits);
        build_put_text(to, number->text);
    }
    build_set16(to, at, to->len - at - 2);
}

/* The number of the word that an event tells then; one without words is told when its input goes
 * on.
 */
static unsigned event_word(const struct lex_event *event, const char *word, const char *other)
{
    if (!event->what) return strcmp(other, "on") ? RLX_EVT_NONE : 0;
    for (unsigned i = 0; i < event->what->words->len; i++)
        if (!strcmp(event->what->words->pdata[i], word) ||
            !strcmp(event->what->words->pdata[i], other))
            return i;
    return RLX_EVT_NONE;
}

static void put_event(struct build *b, const struct lex_event *event, unsigned first)
{
    GByteArray *to = b->image->bytes;
    unsigned links = 0;
    for (unsigned i = 0; i < b->lx->links->len; i++)
        links |= (unsigned)image_tells(event, b->lx->links->pdata[i]) << i;
    if (event->confirmed || event->every || event->per_day) build_need(b, RLX_BIT_PACED);
    build_row(b, "event %s", event->name);
    build_put16(to, links);
    build_put8(to, event->what ? event->what->words->len : 0);
    build_put8(to, first);
    int output = event->input ? lexicon_output_index(b->lx, event->input) : -1;
    build_put8(to, (event->confirmed ? RLX_EVT_IS_CONFIRMED : 0u) |
                       (output >= 0 ? RLX_EVT_IS_OUTPUTS : 0u));
    build_put32(to, event->every);
    build_put16(to, event->per_day);
    build_put16(to, 0);
    build_put8(to, output >= 0 ? (unsigned)output : input_number(b->lx, event->input));
    build_put8(to, event_word(event, output >= 0 ? "open" : "pressed", "on"));
    build_put8(to, event_word(event, output >= 0 ? "closed" : "released", "off"));
    build_put8(to, event_word(event, output >= 0 ? "late" : "held", "held"));
}

/* The rows of what is read. */
static void put_inputs(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned n = b->lx->inputs->len;
    if (!n) return;
    build_need(b, RLX_BIT_INPUTS);
    build_set16(to, RLX_IMG_INPUTS, to->len);
    build_put8(to, n);
    for (unsigned i = 0; i < n; i++) {
        const struct lex_input *in = b->lx->inputs->pdata[i];
        build_row(b, "input %u: %s, pin %u%s", i, in->name, in->pin,
                  in->active_low ? " active low" : "");
        build_put8(to,
                   (in->active_low ? RLX_INP_ACTIVE_LOW : 0u) | (unsigned)in->pull << RLX_INP_PULL);
        build_put8(to, in->pin);
        build_put16(to, in->settle);
        build_put16(to, in->held);
        build_put16(to, in->repeat);
    }
}

/* The rows, then the texts. */
static void put_events(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned first = 0, rows, n = b->lx->events->len;
    if (!n) return;
    build_need(b, RLX_BIT_EVENTS);
    build_set16(to, RLX_IMG_EVENTS, to->len);
    build_put8(to, n);
    rows = to->len;
    for (unsigned i = 0; i < n; i++) {
        const struct lex_event *event = b->lx->events->pdata[i];
        put_event(b, event, first);
        first += event->what ? event->what->words->len : 1;
    }
    for (unsigned i = 0; i < n; i++) {
        const struct lex_event *event = b->lx->events->pdata[i];
        build_set16(to, rows + i * RLX_EVT_ROW + RLX_EVT_TEXT, to->len);
        build_row(b, "what %s tells", event->name);
        build_put_text(to, event->name);
        for (unsigned k = 0; event->what && k < event->what->words->len; k++)
            build_put_text(to, event->what->words->pdata[k]);
    }
}

/* The commands as the lexicon writes them, and what is asked. */
static void put_help(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->lx->built_in & RLX_BUILT_IN_HELP)) return;
    build_set16(to, RLX_IMG_HELP, to->len);
    build_row(b, "patterns for help");
    unsigned at = begin_list(to);
    for (unsigned i = 0; i < b->lx->commands->len; i++) {
        char *text = lex_command_text(b->lx->commands->pdata[i]);
        build_put_text(to, text);
        g_free(text);
    }
    for (unsigned i = 0; i < b->lx->queries->len; i++) {
        char *text = lex_command_text(((struct lex_query *)b->lx->queries->pdata[i])->asked);
        build_put_text(to, text);
        g_free(text);
    }
    end_list(to, at);
}

static void put_link_names(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->lx->built_in & (RLX_BUILT_IN_HEARD | RLX_BUILT_IN_LOG))) return;
    build_set16(to, RLX_IMG_LINK_NAMES, to->len);
    build_row(b, "names of the links");
    for (unsigned i = 0; i < b->lx->links->len; i++)
        build_put_text(to, ((struct lex_link *)b->lx->links->pdata[i])->name);
}

/* The fingerprint tells images apart: the first 32 bits of the SHA-256 (FIPS 180-4) of all bytes
 * up to the greeting, which holds it. */
static void put_greeting(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!b->lx->silent) build_need(b, RLX_BIT_GREETING);
    for (unsigned i = 0; i < 4; i++)
        build_set16(to, RLX_IMG_NEEDS + 2 * i, b->image->needs >> 16 * i & 0xFFFF);
    char *sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, to->data, to->len);
    b->image->fingerprint = g_strndup(sum, 8);
    char *text =
        g_strdup_printf("ready %s %u %s ", b->lx->name, b->lx->version, b->image->fingerprint);
    if (!b->lx->silent || b->lx->built_in & RLX_BUILT_IN_ABOUT) {
        build_set16(to, RLX_IMG_GREETING, to->len);
        build_row(b, "greeting: %s", text);
        build_put_text(to, text);
    }
    g_free(text);
    g_free(sum);
}

bool image_can_fail(const struct lexicon *lx, const struct image *image, unsigned number)
{
    uint64_t needs = image->needs;
    switch (number) {
    case RLX_ERR_AMBIGUOUS: return lx->shorten != 0;
    case RLX_ERR_NUMBER:
    case RLX_ERR_RANGE:
    case RLX_ERR_DIGITS:
        return needs >> RLX_BIT_NUMBER & 1 ||
               (number == RLX_ERR_RANGE && needs >> RLX_BIT_TEXT & 1);
    case RLX_ERR_TEXT: return needs >> RLX_BIT_TEXT & 1;
    case RLX_ERR_FAILED:
    case RLX_ERR_BUSY: return needs >> RLX_BIT_CALL & 1;
    case RLX_ERR_LONG:
        return (needs & (1u << RLX_BIT_LINE | 1u << RLX_BIT_MARKED | 1u << RLX_BIT_TIMED |
                         1u << RLX_BIT_PACKET)) ||
               needs >> RLX_BIT_REPORT & 1 || needs >> RLX_BIT_MESSAGE & 1;
    case RLX_ERR_HALF:
        return (needs & (1u << RLX_BIT_CODES | 1u << RLX_BIT_TIMED)) || needs >> RLX_BIT_REPORT & 1;
    case RLX_ERR_CHECK: return needs >> RLX_BIT_CHECK & 1;
    case RLX_ERR_TAG:
    case RLX_ERR_OLD: return needs >> RLX_BIT_TAGS & 1;
    case RLX_ERR_DENIED: return needs >> RLX_BIT_LIMITED & 1;
    case RLX_ERR_HALTED: return lx->built_in & RLX_BUILT_IN_HALT;
    case RLX_ERR_YIELDS: return needs >> RLX_BIT_YIELDS & 1;
    case RLX_TEXT_ON:
    case RLX_TEXT_OFF: return needs >> RLX_BIT_SWITCH & 1;
    default: return true;
    }
}

static void put_texts(struct build *b)
{
    static const char *const texts[RLX_TEXTS] = {
#define NAME(number, id, name, sentence) [number] = name,
        RLX_REPLY_ERRORS(NAME)
#undef NAME
            [RLX_TEXT_ALREADY] = " already",
        [RLX_TEXT_ERR] = "err ",
        [RLX_TEXT_AT] = " at ",
        [RLX_TEXT_OFF] = "off",
        [RLX_TEXT_ON] = "on",
    };
    GByteArray *to = b->image->bytes;
    build_set16(to, RLX_IMG_TEXTS, to->len);
    build_row(b, "texts of replies");
    for (unsigned i = 0; i < RLX_TEXTS; i++)
        build_put_text(to, image_can_fail(b->lx, b->image, i) ? texts[i] : "-");
}

/* The outputs' names, where they can be asked by name. */
static void put_names(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->lx->built_in & RLX_BUILT_IN_STATE)) return;
    build_set16(to, RLX_IMG_NAMES, to->len);
    build_row(b, "names of the outputs and inputs");
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_output *)b->lx->outputs->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
    for (unsigned i = 0; i < b->lx->inputs->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_input *)b->lx->inputs->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
}

static void put_header(struct build *b)
{
    static const guint8 zero[RLX_IMG_HEADER];
    struct lexicon *lx = b->lx;
    GByteArray *to = b->image->bytes;
    build_row(b, "header");
    g_byte_array_append(to, zero, RLX_IMG_HEADER);
    to->data[RLX_IMG_MAGIC] = 'R';
    to->data[RLX_IMG_VERSION] = RLX_IMAGE_FORMAT;
    to->data[RLX_IMG_LINKS] = (guint8)lx->links->len;
    to->data[RLX_IMG_N_OUTPUTS] = (guint8)lx->outputs->len;
    to->data[RLX_IMG_SHORTEN] = (guint8)(lx->shorten ? lx->shorten : 255);
    build_set16(to, RLX_IMG_BUILT_IN, lx->built_in);
    if (lx->built_in & (RLX_BUILT_IN_HALT | RLX_BUILT_IN_STATE) && lx->outputs->len)
        build_need(b, RLX_BIT_SWITCH); /* what makes outputs safe, and knows them */
    if (lx->any_case) build_need(b, RLX_BIT_ANY_CASE);
    if (lx->shorten) build_need(b, RLX_BIT_SHORTEN);
    if (b->many) build_need(b, RLX_BIT_MANY);
}

static struct image *image_new(void)
{
    struct image *image = g_new0(struct image, 1);
    image->bytes = g_byte_array_new();
    image->rows = g_array_new(FALSE, TRUE, sizeof(struct image_row));
    image->handlers = g_ptr_array_new();
    image->signatures = g_ptr_array_new_with_free_func(g_free);
    return image;
}

void image_free(struct image *image)
{
    if (!image) return;
    for (unsigned i = 0; i < image->rows->len; i++)
        g_free(g_array_index(image->rows, struct image_row, i).comment);
    g_array_free(image->rows, TRUE);
    g_byte_array_free(image->bytes, TRUE);
    g_ptr_array_free(image->handlers, TRUE);
    g_ptr_array_free(image->signatures, TRUE);
    g_free(image->fingerprint);
    g_free(image);
}

static struct image *build_with(struct lexicon *lx, struct node *root, bool many)
{
    struct build b = {.lx = lx, .image = image_new(), .root = root, .many = many};
    b.shapes =
        g_hash_table_new_full(g_bytes_hash, g_bytes_equal, (GDestroyNotify)g_bytes_unref, NULL);
    b.shape_at = g_array_new(FALSE, FALSE, sizeof(uint16_t));
    b.handler = g_hash_table_new(g_str_hash, g_str_equal);
    put_header(&b);
    bool ok = build_put_root(&b);
    if (ok) {
        put_shape_table(&b);
        put_outputs(&b);
        put_events(&b);
        put_inputs(&b);
        put_links(&b);
        put_help(&b);
        put_link_names(&b);
        put_numbered(&b);
        put_names(&b);
        put_texts(&b);
        b.image->bytes->data[RLX_IMG_SLOTS] = (guint8)MAX(b.image->slots, 1);
        put_greeting(&b);
        build_set16(b.image->bytes, RLX_IMG_SIZE, b.image->bytes->len);
    }
    bool more = !many && (b.shape_at->len > 256 || (!b.by_group && b.image->handlers->len > 256));
    g_hash_table_destroy(b.shapes);
    g_hash_table_destroy(b.handler);
    g_array_free(b.shape_at, TRUE);
    if (ok && !more) return b.image;
    image_free(b.image);
    return ok ? build_with(lx, root, true) : NULL;
}

/* Commands may share a handler where it gets the same from both. */
static void check_shared(struct lexicon *lx, const struct lex_command *command,
                         const struct lex_command *first)
{
    char *mine = build_signature(lx, command), *other = build_signature(lx, first);
    if (strcmp(mine, other) != 0)
        lex_find(lx, LEX_D13, command->place, "%s() gets (%s) here, but (%s) in line %u",
                 command->effect.handler, mine, other, first->place.line);
    g_free(mine);
    g_free(other);
}

static void check_handlers(struct lexicon *lx)
{
    GHashTable *first = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < lx->queries->len; i++) { /* one with a command's is told as a name's */
        struct lex_query *query = lx->queries->pdata[i];
        struct lex_command *other =
            g_hash_table_lookup(first, query->handler ? query->handler : "");
        if (other && query->asked)
            check_shared(lx, query->asked, other);
        else if (query->asked)
            g_hash_table_insert(first, query->handler, query->asked);
    }
    g_hash_table_remove_all(first);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind != LEX_CALL) continue;
        struct lex_command *other = g_hash_table_lookup(first, command->effect.handler);
        if (other)
            check_shared(lx, command, other);
        else
            g_hash_table_insert(first, command->effect.handler, command);
    }
    g_hash_table_destroy(first);
}

/* Commands that cannot be told apart are told with the text that shows it, instead of with the
 * place where the tables could not be made. */
static void explain_clashes(struct lexicon *lx, unsigned from)
{
    unsigned to = lx->faults->len;
    if (to == from || !lexicon_find_ambiguous(lx)) return;
    for (unsigned i = to; i-- > from;) {
        const struct lex_fault *clash = lx->faults->pdata[i];
        bool explained = false;
        for (unsigned k = to; k < lx->faults->len; k++)
            explained |=
                ((struct lex_fault *)lx->faults->pdata[k])->place.line == clash->place.line;
        if (!explained) continue;
        g_ptr_array_remove_index(lx->faults, i);
        to--;
    }
}

struct image *image_build(struct lexicon *lx)
{
    if (!lx->name || lexicon_misread(lx)) return NULL;
    check_handlers(lx);
    char *greeting = g_strdup_printf("%s %u 00000000", lx->name, lx->version);
    lexicon_size_links(lx, greeting);
    g_free(greeting);
    unsigned faults = lx->faults->len;
    struct node *root = graph_build(lx);
    explain_clashes(lx, faults);
    struct image *image = lexicon_has(lx, false) ? NULL : build_with(lx, root, false);
    graph_free(root);
    if (image && image->bytes->len > IMAGE_MAX) {
        lex_find(lx, LEX_D17, lx->place, "the image has %u bytes; %d is the most",
                 image->bytes->len, IMAGE_MAX);
        image_free(image);
        return NULL;
    }
    return image;
}
