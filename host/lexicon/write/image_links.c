/* The image's link rows, and what only some links have.
 * Rows first; what follows stands behind them.
 * Buffer sizes come from sizes.c. */
#include <string.h>

#include "lexicon/write/build.h"
#include "rlx/pdu.h"
#include "lexicon/answers.h"
#include "lexicon/check/checks.h"
#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/read/reader.h"
#include "rlx/error.h"

/* A list with its length before it; returns where the length stands. */
unsigned build_begin_list(GByteArray *to)
{
    build_put16(to, 0);
    return to->len - 2;
}

void build_end_list(GByteArray *to, unsigned at)
{
    build_set16(to, at, to->len - at - 2);
}

static void put_keys(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "%s of %s", lex_frames[link->frame], link->name);
    unsigned at = build_begin_list(to);
    for (unsigned i = 0; i < link->keys->len; i++) {
        struct lex_key *key = link->keys->pdata[i];
        build_row(b, "%s = %s", key->code, key->text);
        if (link->frame == LEX_FRAME_KEYS)
            build_put8(to, (unsigned char)key->key);
        else
            build_put_text(to, key->code);
        build_put_text(to, key->text);
    }
    build_end_list(to, at);
}

static bool is_query(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->queries->len; i++)
        if (!strcmp(((struct lex_query *)lx->queries->pdata[i])->name, name)) return true;
    return false;
}

/* The locks that cannot be changed over it, behind an empty text. */
static void put_locked(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "settings that %s does not accept", link->name);
    unsigned at = build_begin_list(to);
    build_put8(to, RLX_TEXT_END);
    for (unsigned i = 0; i < link->locked->len; i++) build_put_text(to, link->locked->pdata[i]);
    build_end_list(to, at);
}

/* The first words that it accepts, in all their spellings. */
static void put_only(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "commands that %s accepts", link->name);
    unsigned at = build_begin_list(to);
    GHashTable *said = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < b->lx->commands->len; i++) {
        const struct lex_command *command = b->lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        for (unsigned k = 0; lex_may_say(link, command) && k < lex_spellings(first); k++)
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
    if (link->only->len && image_needs(b->image, RLX_BIT_PACED)) build_put_text(to, "got");
    build_end_list(to, at);
}

/* The number of what an event's text stands for: "ev call" is its first word's. */
int build_own_event(const struct lexicon *lx, const char *what)
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
    } names[] = {{"ok", RLX_OWN_OK},     {"already", RLX_OWN_ALREADY}, {"err", RLX_OWN_ERR},
                 {"note", RLX_OWN_NOTE}, {"ready", RLX_OWN_READY},
#define NAME(number, id, name, sentence) {"err " name, number},
                 RLX_REPLY_ERRORS(NAME)
#undef NAME
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++)
        if (!strcmp(names[i].name, what)) return names[i].number;
    for (unsigned i = 0; g_str_has_prefix(what, "err ") && i < lx->reasons->len; i++)
        if (!strcmp(lx->reasons->pdata[i], what + strlen("err "))) return RLX_ERR_REASON + (int)i;
    return build_own_event(lx, what);
}

/* How many words a text stands for: that of an event without a word all of them. */
static unsigned own_words(const struct lexicon *lx, const char *what)
{
    const struct lex_event *event =
        g_str_has_prefix(what, "ev ") ? lexicon_event(lx, what + strlen("ev ")) : NULL;
    return event && event->what ? event->what->words->len : 1;
}

/* A text of no characters: it sends nothing. */
static void put_perhaps(GByteArray *to, const char *text)
{
    if (text && *text)
        build_put_text(to, text);
    else
        build_put8(to, RLX_TEXT_END);
}

/* A field becomes its number. */
static void put_own_text(struct build *b, const struct lex_text *own)
{
    struct answer_piece piece;
    GString *text = g_string_new(NULL);
    const char *at = own->text;
    while ((at = own_text_next(own, at, &piece)))
        if (piece.slot > 0)
            g_string_append_c(text, (char)piece.slot);
        else
            g_string_append_len(text, piece.text, (gssize)piece.length);
    put_perhaps(b->image->bytes, text->str);
    g_string_free(text, TRUE);
    if (own_text_has_fields(own)) build_need(b, RLX_BIT_FIELDS);
}

static void put_own(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    build_row(b, "texts of %s", link->name);
    unsigned at = build_begin_list(to);
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *own = link->texts->pdata[i];
        int number = own_number(b->lx, own->what);
        for (unsigned n = own_words(b->lx, own->what); number >= 0 && n; n--, number++) {
            build_put8(to, (unsigned)number);
            put_own_text(b, own);
        }
    }
    build_end_list(to, at);
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
    unsigned at = build_begin_list(to);
    for (unsigned i = 0; i < b->lx->ignores->len; i++) {
        const struct lex_ignore *ignore = b->lx->ignores->pdata[i];
        if (!is_ignored_on(ignore, link)) continue;
        build_put_text(to, ignore->text);
        put_perhaps(to, ignore->reply);
    }
    build_end_list(to, at);
}

/* Whether errors are sent with their names on this link, or with what was wrong. */
static bool names_errors(const struct lex_link *link)
{
    bool all = false;
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *own = link->texts->pdata[i];
        if (own_text_has_fields(own) && !link->one_way) return true;
        all |= !strcmp(own->what, "err");
    }
    return !all && !link->replies && !link->one_way;
}

bool build_names_errors(const struct build *b)
{
    bool named = b->lx->built_in & RLX_BUILT_IN_LOG;
    for (unsigned i = 0; !named && i < b->lx->links->len; i++) {
        const struct lex_link *link = b->lx->links->pdata[i];
        named = names_errors(link) || lex_drives_modem(link);
    }
    return named;
}

static unsigned link_flags(struct build *b, const struct lex_link *link)
{
    static const unsigned checks[] = {0, RLX_LINK_CHECK, RLX_LINK_CHECK_REQUIRED};
    static const unsigned tags[] = {0, RLX_LINK_TAGS, RLX_LINK_TAGS_REQUIRED};
    static const unsigned replies[] = {0, RLX_LINK_SHORT, RLX_LINK_SILENT};
    unsigned flags = checks[link->check] | tags[link->tags] | replies[link->replies] |
                     (link->seal ? RLX_LINK_SEALED : 0u);
    bool silent = link->one_way;
    if (link->layout && !lex_is_raw(link)) flags |= RLX_LINK_SHARED;
    if (link->seal) build_need(b, RLX_BIT_SEAL);
    if (link->check) build_need(b, RLX_BIT_CHECK);
    if (link->tags) build_need(b, RLX_BIT_TAGS);
    if (link->tags_kept) build_need(b, RLX_BIT_KEPT_TAGS);
    if (link->replies || link->texts->len || silent) build_need(b, RLX_BIT_OWN);
    if (link->address >= 0) build_need(b, RLX_BIT_ADDRESS);
    if (link->only->len || link->locked->len || ignores(b, link)) build_need(b, RLX_BIT_LIMITED);
    return flags | (link->address >= 0 ? RLX_LINK_ADDRESSED | RLX_LINK_SHARED : 0) |
           (link->medium == LEX_RADIO ? RLX_LINK_SHARED : 0) | (silent ? RLX_LINK_SILENT : 0);
}

bool image_tells(const struct lex_event *event, const struct lex_link *link)
{
    if (link->one_way) return false;
    if (link->layout && !layout_has_event(link, event)) return false;
    return !event->to->len ||
           g_ptr_array_find_with_equal_func(event->to, link->name, g_str_equal, NULL);
}

/* RLX_WAY_... */
static unsigned link_ways(struct build *b, const struct lex_link *link)
{
    if (link->people) build_need(b, RLX_BIT_PEOPLE);
    if (link->replies_drop) build_need(b, RLX_BIT_DROP);
    if (link->yields) build_need(b, RLX_BIT_YIELDS);
    static const unsigned ends[] = {[LEX_END_CRLF] = 0,
                                    [LEX_END_CR] = RLX_WAY_NO_LF,
                                    [LEX_END_LF] = RLX_WAY_NO_CR,
                                    [LEX_END_NONE] = RLX_WAY_NO_CR | RLX_WAY_NO_LF};
    if (link->answer_end) build_need(b, RLX_BIT_LINE_ENDS);
    bool filled = link->frame == LEX_FRAME_PACKET && link->length;
    if (filled) build_need(b, RLX_BIT_MARKED);
    return (link->people ? RLX_WAY_PEOPLE : 0u) |
           (link->layout && !lex_is_raw(link) ? RLX_WAY_BINARY : 0u) |
           (filled ? RLX_WAY_FILLED : 0u) | (link->replies_drop ? RLX_WAY_DROP : 0u) |
           (link->greets ? RLX_WAY_STATE_TOLD : 0u) |
           (lex_has_notes(b->lx, link) ? RLX_WAY_ALOUD : 0u) | ends[link->answer_end];
}

static bool output_names(const struct lex_output *out, const struct lex_link *link, bool shows)
{
    return !g_strcmp0(shows ? out->shows : out->lost, link->name);
}

/* Whether its loss is detected, or has an effect. */
static bool has_presence(const struct build *b, const struct lex_link *link)
{
    for (unsigned i = 0; i < b->lx->outputs->len; i++)
        if (output_names(b->lx->outputs->pdata[i], link, false) ||
            output_names(b->lx->outputs->pdata[i], link, true))
            return true;
    return link->lost || link->state_pin != LEX_NO_PIN || link->hang_pin != LEX_NO_PIN;
}

static bool is_input(const struct lexicon *lx, unsigned pin)
{
    for (unsigned i = 0; i < lx->inputs->len; i++)
        if (((struct lex_input *)lx->inputs->pdata[i])->pin == pin) return true;
    return false;
}

static void put_presence(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    bool pin = link->state_pin != LEX_NO_PIN;
    bool hangs = link->hang_pin != LEX_NO_PIN;
    build_need(b, RLX_BIT_PRESENCE);
    build_row(b, "whether %s is there", link->name);
    build_put8(to, (hangs ? RLX_PRS_HANGS_UP : 0u) | (link->hang_low ? RLX_PRS_HANGS_LOW : 0u) |
                       (pin ? RLX_PRS_HAS_PIN : 0u) | (link->state_low ? RLX_PRS_ACTIVE_LOW : 0u) |
                       (is_input(b->lx, link->state_pin) ? RLX_PRS_WATCHED : 0u));
    build_put8(to, pin ? link->state_pin : 0);
    build_put32(to, link->lost);
    for (unsigned shows = 0; shows < 2; shows++) {
        unsigned at = to->len;
        build_put8(to, 0);
        for (unsigned i = 0; i < b->lx->outputs->len; i++)
            if (output_names(b->lx->outputs->pdata[i], link, shows) &&
                !(shows && lex_shows_own(b->lx->outputs->pdata[i])))
                build_put8(to, i);
        to->data[at] = (guint8)(to->len - at - 1);
    }
    if (!hangs) return;
    build_need(b, RLX_BIT_HANG_UP);
    build_put8(to, link->hang_pin);
    build_put16(to, link->hang_ms);
}

/* Of a setting, from 1; 0: no name. */
static unsigned setting_number(const struct build *b, const char *name)
{
    return name ? build_setting(b, name) + 1 : 0;
}

/* Who may command by text message. */
static void put_sms(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    uint8_t address[RLX_PDU_ADDRESS];
    build_row(b, "who may command over %s", link->name);
    build_put32(to, link->stale / 1000);
    build_put8(to, setting_number(b, link->allow_setting));
    build_put8(to, setting_number(b, link->code));
    build_put8(to, image_record_of(b->lx, link));
    build_put8(to, link->allow->len);
    for (unsigned i = 0; i < link->allow->len; i++) {
        const char *number = link->allow->pdata[i];
        rlx_pdu_address(number, (uint8_t)strlen(number), address);
        g_byte_array_append(to, address, sizeof address);
    }
}

/* Whether the link has anything beyond a row. */
static bool has_more(struct build *b, const struct lex_link *link)
{
    return has_presence(b, link) || link_ways(b, link) || link->event || link->yields ||
           link->frame != LEX_FRAME_LINE || link_flags(b, link) || link->only->len ||
           link->locked->len || link->texts->len || ignores(b, link);
}

/* Who may seal its frames, and what each code covers besides. */
static void put_seal(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    GPtrArray *keys = lex_keys_of(b->lx, link);
    char *context = lex_seal_context(b->lx, link);
    build_row(b, "seals of %s", link->name);
    build_put8(to, (link->seal == LEX_DEMAND_REQUIRED ? RLX_SEAL_REQUIRED : 0u) |
                       (link->seal_halt ? RLX_SEAL_HALT : 0u));
    build_put8(to, image_own_record(b->lx));
    build_put8(to, keys->len);
    for (unsigned i = 0; i < keys->len; i++) {
        const struct lex_seal_key *key = keys->pdata[i];
        build_put8(to, build_setting(b, key->name));
        build_put8(to, key->sender);
    }
    build_put_text(to, context);
    g_free(context);
    g_ptr_array_free(keys, TRUE);
}

static void put_more(struct build *b, const struct lex_link *link)
{
    static const guint8 zero[RLX_MORE_SIZE];
    GByteArray *to = b->image->bytes;
    unsigned at = to->len;
    bool fixed = link->frame == LEX_FRAME_FIXED, timed = link->tags || link->seal;
    const struct lex_framing *framing = lex_framing_of(link);
    char character = framing->character ? framing->character(link) : 0;
    if (link->layout && link->layout->channels) character = (char)layout_most(link, false);
    build_row(b, "more of link %s", link->name);
    g_byte_array_append(to, zero, RLX_MORE_SIZE);
    if (link->seal) put_seal(b, link);
    if (link->tags == LEX_DEMAND_REQUIRED && lex_keeps_tags(b->lx))
        build_put8(to, link->tags_kept ? image_record_of(b->lx, link) + 1 : 0);
    to->data[at + RLX_MORE_CHAR] = (guint8)character;
    to->data[at + RLX_MORE_LENGTH] =
        (guint8)(fixed ? link->length : MIN(link->payload, link->transmit));
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
    build_set16(to, at + RLX_MORE_WINDOW, timed ? link->window & 0xFFFF : 0);
    build_set16(to, at + RLX_MORE_WINDOW + 2, timed ? link->window >> 16 : 0);
    const struct {
        bool wanted;
        unsigned field;
        void (*put)(struct build *b, const struct lex_link *link);
    } parts[] = {{link->keys->len != 0, RLX_MORE_KEYS, put_keys},
                 {link->layout && !lex_is_raw(link), RLX_MORE_KEYS, build_put_layout},
                 {link->only->len != 0, RLX_MORE_ONLY, put_only},
                 {link->locked->len != 0, RLX_MORE_ONLY, put_locked},
                 {link->texts->len != 0, RLX_MORE_TEXTS, put_own},
                 {ignores(b, link), RLX_MORE_IGNORED, put_ignored},
                 {has_presence(b, link), RLX_MORE_PRESENCE, put_presence},
                 {lex_drives_modem(link), RLX_MORE_SMS, put_sms}};
    for (unsigned i = 0; i < G_N_ELEMENTS(parts); i++) {
        if (!parts[i].wanted) continue;
        build_set16(to, at + parts[i].field, to->len);
        parts[i].put(b, link);
    }
}

static void need_framing(struct build *b, const struct lex_link *link)
{
    build_need(b, lex_framing_need(link));
    if (link->gap) build_need(b, RLX_BIT_TIMED);
    if (lex_drives_modem(link)) build_need(b, RLX_BIT_SMS);
    if (lex_drives_modem(link) && link->code) build_need(b, RLX_BIT_SMS_CODE);
    if (link->lead) build_need(b, RLX_BIT_MARKED);
}

void build_put_links(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned rows = to->len, n = b->lx->links->len;
    build_set16(to, RLX_IMG_LINK_ROWS, rows);
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = b->lx->links->pdata[i];
        need_framing(b, link);
        const char *frames = lex_framing_of(link)->unit;
        build_row(b, "link %u: %s, %s frames, replies up to %u bytes", i, link->name,
                  frames ? frames : lex_frames[link->frame], link->reply);
        build_put8(to, (unsigned)link->frame);
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
