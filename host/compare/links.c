/* Holds links against links of the same name: what stands around a command, its keys, who is
 * served, what comes back; then events, and what senders of a handset have.
 * What a command means is in texts.c. */
#include "compare/compare_parts.h"

#include <string.h>

#include "lexicon/layout/layout.h"

struct pair {
    struct comparison *c;
    struct parser *old, *now;
    const struct lex_link *a, *b;
    char *subject;
};

static void found(struct pair *p, enum finding_kind kind, const char *witness, const char *was,
                  const char *is)
{
    finding_add(p->c, kind, p->subject, witness, was, is, p->a->place.line,
                p->b ? p->b->place.line : 0);
}

static void number(struct pair *p, const char *what, long was, long is)
{
    if (was == is) return;
    char *a = g_strdup_printf("%s %ld", what, was), *b = g_strdup_printf("%s %ld", what, is);
    found(p, FINDING_FRAME, NULL, a, b);
    g_free(a), g_free(b);
}

static void words(struct pair *p, const char *was, const char *is)
{
    if (strcmp(was, is) != 0) found(p, FINDING_FRAME, NULL, was, is);
}

/* A demand that an old sender may not meet: off and required are the two that break. */
static void demand(struct pair *p, const char *what, enum lex_demand was, enum lex_demand is)
{
    static const char *const demands[] = {"off", "optional", "required"};
    bool meets = was == is || (is == LEX_DEMAND_OPTIONAL && was == LEX_DEMAND_OFF) ||
                 (is == LEX_DEMAND_OPTIONAL && was == LEX_DEMAND_REQUIRED);
    if (meets) return;
    char *a = g_strdup_printf("%s %s", what, demands[was]);
    char *b = g_strdup_printf("%s %s", what, demands[is]);
    found(p, FINDING_FRAME, NULL, a, b);
    g_free(a), g_free(b);
}

/* A key is said by its number, and a code covers the lexicon's name and version. */
static void compare_seals(struct pair *p)
{
    const struct lexicon *old = p->old->lx, *now = p->now->lx;
    GPtrArray *keys = lex_keys_of(old, p->a), *others = lex_keys_of(now, p->b);
    char *was = lex_seal_context(old, p->a), *is = lex_seal_context(now, p->b);
    words(p, was, is);
    for (unsigned i = 0; i < keys->len; i++) {
        const struct lex_seal_key *a = keys->pdata[i],
                                  *b = i < others->len ? others->pdata[i] : NULL;
        char *one = g_strdup_printf("key %u is %s of sender %u", i + 1, a->name, a->sender);
        char *other = b ? g_strdup_printf("key %u is %s of sender %u", i + 1, b->name, b->sender)
                        : g_strdup_printf("there is no key %u", i + 1);
        words(p, one, other);
        g_free(one), g_free(other);
    }
    if (p->b->seal_halt && !p->a->seal_halt) words(p, "seal required", "seal everything");
    g_free(was), g_free(is);
    g_ptr_array_free(keys, TRUE);
    g_ptr_array_free(others, TRUE);
}

static void compare_frames(struct pair *p)
{
    const struct lex_link *a = p->a, *b = p->b;
    char was[LEX_FORMAT_TEXT], is[LEX_FORMAT_TEXT];
    words(p, lex_media[a->medium], lex_media[b->medium]);
    number(p, "baud", a->baud, b->baud);
    lex_format_text(&a->format, was), lex_format_text(&b->format, is);
    words(p, was, is);
    if (a->frame != b->frame) {
        char *f = g_strconcat("frame ", lex_frames[a->frame], NULL),
             *g = g_strconcat("frame ", lex_frames[b->frame], NULL);
        words(p, f, g);
        g_free(f), g_free(g);
        return;
    }
    number(p, "ended by character", a->end, b->end);
    number(p, "lead character", a->lead, b->lead);
    number(p, "pad character", a->pad, b->pad);
    number(p, "bytes of a frame", a->length, b->length);
    if (a->gap != b->gap) number(p, "gap in ms", a->gap, b->gap);
    number(p, "address", a->address, b->address);
    if (b->senders < a->senders || (a->senders == 0) != (b->senders == 0))
        number(p, "senders", a->senders, b->senders);
    demand(p, "check", a->check, b->check);
    demand(p, "tags", a->tags, b->tags);
    demand(p, "seal", a->seal, b->seal);
    if (a->seal && b->seal) compare_seals(p);
    if (a->tags_kept && !b->tags_kept) words(p, "tags kept", "tags forgotten after a reset");
    if (a->tags && b->window < a->window) number(p, "tag window in ms", a->window, b->window);
    if (b->payload < a->payload) number(p, "bytes of a packet", a->payload, b->payload);
}

/* Whether all of a stand in b; the first that does not. */
static const char *missing(const GPtrArray *a, GPtrArray *b)
{
    for (unsigned i = 0; i < a->len; i++)
        if (!g_ptr_array_find_with_equal_func(b, a->pdata[i], g_str_equal, NULL))
            return a->pdata[i];
    return NULL;
}

/* Who may send, and what. An empty list is everybody, and everything. */
static void compare_access(struct pair *p)
{
    const struct lex_link *a = p->a, *b = p->b;
    const char *lost = b->only->len ? (a->only->len ? missing(a->only, b->only) : "") : NULL;
    if (lost)
        found(p, FINDING_FRAME, *lost ? lost : NULL, *lost ? lost : "everything",
              "only some commands");
    const char *locked = b->locked->len ? missing(b->locked, a->locked) : NULL;
    if (locked && lex_may_say_word(a, locked))
        found(p, FINDING_FRAME, NULL, locked, "is not accepted");
    const char *one = b->allow->len ? (a->allow->len ? missing(a->allow, b->allow) : NULL) : NULL;
    if (one) found(p, FINDING_FRAME, NULL, one, "is not served");
    if (!a->allow->len && !a->allow_setting && (b->allow->len || b->allow_setting))
        found(p, FINDING_FRAME, NULL, "everybody is served", "some numbers are");
    if (g_strcmp0(a->code, b->code) != 0 && b->code)
        found(p, FINDING_FRAME, NULL, a->code ? a->code : "no code", b->code);
    if (g_strcmp0(a->allow_setting, b->allow_setting) != 0 && a->allow_setting)
        found(p, FINDING_FRAME, NULL, a->allow_setting,
              b->allow_setting ? b->allow_setting : "no setting");
    if (b->stale && (!a->stale || b->stale < a->stale))
        number(p, "stale after ms", a->stale, b->stale);
    if (b->yields && !a->yields) found(p, FINDING_EFFECT, NULL, "never yields", b->yields);
}

static const char *own_text(const struct lex_link *link, const char *what)
{
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *own = link->texts->pdata[i];
        if (!strcmp(own->what, what)) return own->text;
    }
    return NULL;
}

static void compare_replies(struct pair *p)
{
    static const char *const replies[] = {"full", "short", "silent"};
    const struct lex_link *a = p->a, *b = p->b;
    if (a->replies != b->replies)
        found(p, FINDING_ANSWER, NULL, replies[a->replies], replies[b->replies]);
    if (a->answer_end != b->answer_end)
        found(p, FINDING_ANSWER, NULL, lex_end_names[a->answer_end], lex_end_names[b->answer_end]);
    if (a->one_way != b->one_way)
        found(p, FINDING_ANSWER, NULL, a->one_way ? "one way" : "answers",
              b->one_way ? "one way" : "answers");
    static const char *const byes[] = {"bye leaves it connected", "bye hangs up"};
    words(p, byes[a->hang_pin != LEX_NO_PIN], byes[b->hang_pin != LEX_NO_PIN]);
    for (unsigned n = 0; n < 2; n++) {
        const GPtrArray *texts = (n ? b : a)->texts;
        for (unsigned i = 0; i < texts->len; i++) {
            const struct lex_text *own = texts->pdata[i];
            const char *other = own_text(n ? a : b, own->what);
            bool same = other && (n || !strcmp(other, own->text));
            if (same) continue;
            const char *plain = "its usual words";
            char *subject = g_strdup_printf("%s, texts %s", p->subject, own->what);
            finding_add(p->c, FINDING_ANSWER, subject, NULL, n ? plain : own->text,
                        n       ? own->text
                        : other ? other
                                : plain,
                        own->place.line, 0);
            g_free(subject);
        }
    }
}

static const struct lex_key *key_named(const struct lex_link *link, const char *code)
{
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        if (!strcmp(key->code, code)) return key;
    }
    return NULL;
}

/* What the new device makes of a text that is sent so. */
static void hold_text(struct pair *p, const char *subject, const char *witness, const char *text,
                      const char *text_now, unsigned line, unsigned now)
{
    char *one = g_strdelimit(g_strdup(text), "#", '1');
    char *other = text_now ? g_strdelimit(g_strdup(text_now), "#", '1') : NULL;
    struct reading was = parser_read(p->old, one), is = {0};
    if (other) is = parser_read(p->now, other);
    if (was.obeyed && !is.obeyed)
        finding_add(p->c, FINDING_REFUSED, subject, witness, was.means,
                    is.answer      ? is.answer
                    : p->b->layout ? "no such frame"
                                   : "no such key",
                    line, now);
    else if (was.obeyed && strcmp(was.means, is.means) != 0)
        finding_add(p->c, FINDING_OTHER, subject, witness, was.means, is.means, line, now);
    reading_clear(&was);
    reading_clear(&is);
    g_free(one), g_free(other);
}

static void compare_keys(struct pair *p)
{
    for (unsigned i = 0; i < p->a->keys->len; i++) {
        const struct lex_key *key = p->a->keys->pdata[i], *now = key_named(p->b, key->code);
        char *subject = g_strdup_printf("%s, key %s", p->subject, key->code);
        hold_text(p, subject, key->code, key->text, now ? now->text : NULL, key->place.line,
                  now ? now->place.line : 0);
        g_free(subject);
    }
}

/* ---- frames of bytes ---- */

/* What the new device reads where the old one read `text`: its bytes are the witness. */
static void hold_bytes(struct pair *p, const struct lex_packed *row)
{
    char *text = layout_example(p->a, row);
    char *subject = g_strdup_printf("%s, layout \"%s\"", p->subject, row->text);
    GByteArray *bytes = layout_frame(p->a, text, 1);
    char *hex = layout_hex(bytes->data, bytes->len);
    char *now = layout_command(p->b, bytes->data, bytes->len);
    hold_text(p, subject, hex, text, now && *now ? now : NULL, row->place.line,
              p->b->layout->place.line);
    g_byte_array_free(bytes, TRUE);
    g_free(hex), g_free(now), g_free(text), g_free(subject);
}

/* The bytes of an answer, or of an event; NULL: there is none. Owned by the caller. */
static char *sent_hex(const struct lex_link *link, const char *row, unsigned result)
{
    GByteArray *bytes = layout_answer(link, row, result, 1);
    char *hex = bytes ? layout_hex(bytes->data, bytes->len) : NULL;
    if (bytes) g_byte_array_free(bytes, TRUE);
    return hex;
}

static void hold_sent(struct pair *p, const struct lex_packed *row, unsigned result)
{
    const char *text = row ? row->text : NULL;
    char *was = sent_hex(p->a, text, result), *is = sent_hex(p->b, text, result);
    if (was && g_strcmp0(was, is) != 0)
        found(p, row && row->event ? FINDING_EVENT : FINDING_ANSWER, text, was,
              is ? is : "nothing");
    g_free(was), g_free(is);
}

static void compare_layouts(struct pair *p)
{
    const struct lex_layout *a = p->a->layout, *b = p->b->layout;
    if (!a != !b) words(p, a ? "frames of bytes" : "frames of text", b ? "of bytes" : "of text");
    if (!a || !b) return;
    hold_sent(p, NULL, 0);
    hold_sent(p, NULL, 4);
    for (unsigned i = 0; i < a->rows->len; i++) {
        const struct lex_packed *row = a->rows->pdata[i];
        if (row->event || row->answers->len) hold_sent(p, row, 0);
        if (!row->event) hold_bytes(p, row);
    }
}

void compare_links(struct comparison *c, struct parser *old, struct parser *now)
{
    for (unsigned i = 0; i + 1 < old->lx->links->len; i++) { /* the last one was added */
        struct pair p = {c, old, now, old->lx->links->pdata[i], NULL, NULL};
        p.subject = g_strconcat("link ", p.a->name, NULL);
        p.b = lexicon_link(now->lx, p.a->name);
        if (p.b) {
            compare_frames(&p);
            compare_access(&p);
            compare_replies(&p);
            if (p.a->frame == p.b->frame) compare_keys(&p);
            compare_layouts(&p);
        } else {
            found(&p, FINDING_FRAME, NULL, "there", "no such link");
        }
        g_free(p.subject);
    }
}

/* ---- events ---- */

static bool goes_to(const struct lex_event *event, const char *link)
{
    return !event->to->len || g_ptr_array_find_with_equal_func(event->to, link, g_str_equal, NULL);
}

/* An input that has another name hangs where it did. */
static bool same_source(const struct parser *old, const struct parser *now,
                        const struct lex_event *a, const struct lex_event *b)
{
    const struct lex_input *was = a->input ? lexicon_input(old->lx, a->input) : NULL;
    const struct lex_input *is = b->input ? lexicon_input(now->lx, b->input) : NULL;
    if (was && is) return was->pin == is->pin;
    const char *renamed = b->input ? g_hash_table_lookup(now->names, b->input) : NULL;
    return !g_strcmp0(a->input, renamed ? renamed : b->input);
}

static void compare_event(struct comparison *c, const struct parser *old,
                          const struct parser *now_parser, const struct lex_event *a,
                          const struct lex_event *b)
{
    char *subject = g_strconcat("event ", a->name, NULL);
    unsigned line = a->place.line, now = b ? b->place.line : 0;
    if (!b) finding_add(c, FINDING_EVENT, subject, NULL, "sent", "no such event", line, 0);
    for (unsigned i = 0; b && a->what && i < a->what->words->len; i++) {
        const char *word = a->what->words->pdata[i];
        if (b->what && g_ptr_array_find_with_equal_func(b->what->words, word, g_str_equal, NULL))
            continue;
        char *text = g_strdup_printf("ev %s %s", a->name, word);
        finding_add(c, FINDING_EVENT, subject, text, "sent", "never sent", line, now);
        g_free(text);
    }
    if (b && !a->what && b->what)
        finding_add(c, FINDING_EVENT, subject, NULL, "without a word", "with a word", line, now);
    if (b && a->kept != b->kept)
        finding_add(c, FINDING_EVENT, subject, NULL,
                    a->kept ? "kept over a power cut" : "lost with a power cut",
                    b->kept ? "kept over a power cut" : "lost with a power cut", line, now);
    if (b && a->confirmed != b->confirmed)
        finding_add(c, FINDING_EVENT, subject, NULL, a->confirmed ? "confirmed" : "sent once",
                    b->confirmed ? "confirmed" : "sent once", line, now);
    if (b && !same_source(old, now_parser, a, b))
        finding_add(c, FINDING_EVENT, subject, NULL, a->input ? a->input : "from the firmware",
                    b->input ? b->input : "from the firmware", line, now);
    for (unsigned i = 0; b && i + 1 < old->lx->links->len; i++) {
        const struct lex_link *link = old->lx->links->pdata[i];
        if (goes_to(a, link->name) && !goes_to(b, link->name))
            finding_add(c, FINDING_EVENT, subject, NULL, link->name, "not there any more", line,
                        now);
    }
    g_free(subject);
}

void compare_events(struct comparison *c, struct parser *old, struct parser *now)
{
    for (unsigned i = 0; i < old->lx->events->len; i++) {
        const struct lex_event *event = old->lx->events->pdata[i];
        compare_event(c, old, now, event, lexicon_event(now->lx, event->name));
    }
    for (unsigned i = 0; i < old->lx->handsets->len; i++) {
        const struct lex_handset *handset = old->lx->handsets->pdata[i];
        struct pair p = {.c = c, .old = old, .now = now};
        if (handset->idle) {
            char *subject = g_strdup_printf("handset %s, idle", handset->name);
            hold_text(&p, subject, handset->idle, handset->idle, handset->idle, handset->place.line,
                      0);
            g_free(subject);
        }
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            const struct lex_button *b = handset->buttons->pdata[k];
            const char *const texts[] = {b->press, b->held, b->release};
            char *subject = g_strdup_printf("handset %s, button %s", handset->name, b->name);
            for (unsigned n = 0; n < G_N_ELEMENTS(texts); n++)
                if (texts[n])
                    hold_text(&p, subject, texts[n], texts[n], texts[n], b->place.line, 0);
            g_free(subject);
        }
    }
}
