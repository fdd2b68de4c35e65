/* Reads `link`: its medium, framing, envelope and limits. Its keys are in read_key.c, its own texts
 * in read_texts.c; what a framing has of its own is in host/framings.
 * Lengths and buffers are worked out in write/sizes.c. */
#include "lexicon/framing.h"
#include "lexicon/read/reader.h"

#include <string.h>

#include "rlx/image.h"
#include "rlx/link.h"
#include "rlx/pdu.h"

const char *const lex_ends[] = {[LEX_END_CRLF] = "crlf",
                                [LEX_END_CR] = "cr",
                                [LEX_END_LF] = "lf",
                                [LEX_END_NONE] = "none",
                                NULL};
const char *const lex_end_names[] = {
    [LEX_END_CRLF] = "CR LF", [LEX_END_CR] = "CR", [LEX_END_LF] = "LF", [LEX_END_NONE] = "nothing"};
const char *const lex_end_bytes[] = {[LEX_END_CRLF] = RLX_TXT_LINE_END,
                                     [LEX_END_CR] = "\r",
                                     [LEX_END_LF] = "\n",
                                     [LEX_END_NONE] = ""};
const char *const lex_media[LEX_MEDIA + 1] = {"serial", "bridge", "modem", "radio",
                                              "report", "sms",    NULL};

#define S LEX_IN

/* ---- framing ---- */

static bool link_frame(struct statement *st, void *target)
{
    struct lex_link *link = target;
    struct token *token = statement_peek(st);
    unsigned frame;
    if (!statement_one_of(st, "the framing", lex_frames, &frame)) return false;
    link->frame = (enum lex_frame)frame;
    link->framed = true;
    if (!(lex_framing_of(link)->media >> link->medium & 1)) {
        lex_fault(st->lx, token->place, "a %s link has no '%s' frames", lex_media[link->medium],
                  lex_frames[frame]);
        return false;
    }
    return !lex_framing_of(link)->read || lex_framing_of(link)->read(st, link);
}

/* ---- other attributes ---- */

/* A transmit ring holds at least the longest short reply, "err ambiguous" and a line end. */
static bool read_ring(struct statement *st, const char *what, unsigned least, unsigned *size)
{
    struct token *token = statement_peek(st);
    if (!statement_number(st, what, least, RLX_RING_MAX, size)) return false;
    if ((*size & (*size - 1)) == 0) return true;
    lex_fault(st->lx, token->place, "%s is a power of two: 16, 32, 64 or 128", what);
    return false;
}

static bool link_receive(struct statement *st, void *target)
{
    return read_ring(st, "receive", 2, &((struct lex_link *)target)->receive);
}

static bool link_transmit(struct statement *st, void *target)
{
    return read_ring(st, "transmit", 16, &((struct lex_link *)target)->transmit);
}

static bool link_longest(struct statement *st, void *target)
{
    return statement_number(st, "the longest line in bytes", 8, RLX_FRAME_MAX,
                            &((struct lex_link *)target)->longest);
}

static bool link_for(struct statement *st, void *target)
{
    ((struct lex_link *)target)->people = true;
    if (statement_take_word(st, "people")) return true;
    lex_fault(st->lx, statement_peek(st)->place, "expected 'people': for people");
    return false;
}

static bool link_payload(struct statement *st, void *target)
{
    return statement_number(st, "the bytes of a packet", 8, RLX_FRAME_MAX,
                            &((struct lex_link *)target)->payload);
}

static bool link_address(struct statement *st, void *target)
{
    unsigned address;
    if (!statement_number(st, "this device's address", 0, 254, &address)) return false;
    ((struct lex_link *)target)->address = (int)address;
    return true;
}

static bool link_senders(struct statement *st, void *target)
{
    return statement_number(st, "how many senders there are", 1, 32,
                            &((struct lex_link *)target)->senders);
}

static bool read_demand(struct statement *st, const char *what, enum lex_demand *demand)
{
    static const char *const words[] = {"off", "optional", "required", NULL};
    unsigned index;
    if (!statement_one_of(st, what, words, &index)) return false;
    *demand = (enum lex_demand)index;
    return true;
}

static bool link_check(struct statement *st, void *target)
{
    return read_demand(st, "whether a check is wanted", &((struct lex_link *)target)->check);
}

static bool link_tags(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (!read_demand(st, "whether tags are wanted", &link->tags)) return false;
    if (statement_take_word(st, "window") &&
        !statement_time(st, "how long a tag is remembered", 500, 3600000, &link->window))
        return false;
    const struct token *kept = statement_peek(st);
    if (!statement_take_word(st, "kept")) return true;
    link->tags_kept = link->tags == LEX_DEMAND_REQUIRED;
    if (!link->tags_kept)
        lex_fault(st->lx, kept->place,
                  "a frame without a tag has no record: write 'tags required kept'");
    return true;
}

static bool link_seal(struct statement *st, void *target)
{
    return lex_read_seal(st, target);
}

static bool add_number(struct statement *st, GPtrArray *allow)
{
    const struct token *token = statement_take(st);
    uint8_t address[RLX_PDU_ADDRESS];
    bool ok = strlen(token->text) < 22 &&
              rlx_pdu_address(token->text, (uint8_t)strlen(token->text), address);
    if (!ok)
        lex_fault(st->lx, token->place, "a number is + and 1..20 digits, like +15550142");
    else if (allow->len == 32)
        lex_fault(st->lx, token->place, "more than 32 numbers: write them into a setting");
    else
        g_ptr_array_add(allow, g_strdup(token->text));
    return ok;
}

/* setting NAME, or numbers */
static bool link_allow(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (statement_take_word(st, "setting")) {
        g_free(link->allow_setting);
        return (link->allow_setting = statement_name(st, "the setting that holds them")) != NULL;
    }
    while (statement_peek(st)->kind == TOKEN_WORD && *statement_peek(st)->text == '+')
        if (!add_number(st, link->allow)) return false;
    if (link->allow->len) return true;
    lex_fault(st->lx, statement_peek(st)->place,
              "expected who may command: numbers like +15550142, or 'setting' and its name");
    return false;
}

static bool link_code(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (!statement_take_word(st, "setting")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'setting' and the one that holds the code; it never stands here");
        return false;
    }
    g_free(link->code);
    return (link->code = statement_name(st, "the setting that holds the code")) != NULL;
}

static bool link_stale(struct statement *st, void *target)
{
    if (statement_take_word(st, "after"))
        return statement_time(st, "how old a message may be", 1000, 86400000,
                              &((struct lex_link *)target)->stale);
    lex_fault(st->lx, statement_peek(st)->place, "expected 'after' and a time, like: after 10min");
    return false;
}

static bool link_handed(struct statement *st, void *target)
{
    (void)st;
    return ((struct lex_link *)target)->handed = true;
}

static bool is_attribute(const struct statement *st);

static bool read_words(struct statement *st, GPtrArray *words, const char *what)
{
    do {
        const struct token *token = statement_peek(st);
        if (token->kind == TOKEN_WORD && g_str_has_suffix(token->text, "?")) {
            lex_fault(st->lx, token->place, "a query is named without its '?'");
            return false;
        }
        char *name = statement_name(st, what);
        if (!name) return false;
        g_ptr_array_add(words, name);
    } while (statement_peek(st)->kind == TOKEN_WORD && !is_attribute(st));
    return true;
}

/* The first words, queries and built-in words that it accepts. */
static bool link_only(struct statement *st, void *target)
{
    return read_words(st, ((struct lex_link *)target)->only, "a word that this link accepts");
}

/* The locks that can be changed over it. */
static bool link_also(struct statement *st, void *target)
{
    return read_words(st, ((struct lex_link *)target)->also,
                      "a setting that decides who may command");
}

static bool link_replies(struct statement *st, void *target)
{
    static const char *const words[] = {"full", "short", "silent", "wait", "drop", NULL};
    struct lex_link *link = target;
    unsigned index;
    if (!statement_one_of(st, "how it replies", words, &index)) return false;
    if (index <= LEX_REPLIES_SILENT)
        link->replies = (enum lex_replies)index;
    else
        link->replies_drop = index == 4;
    return true;
}

/* end cr: default crlf */
static bool link_end(struct statement *st, void *target)
{
    unsigned index;
    if (!statement_one_of(st, "what stands behind an answer", lex_ends, &index)) return false;
    ((struct lex_link *)target)->answer_end = (enum lex_end)index;
    return true;
}

/* one way, open, yields to LINK [for T], state at link-up, state pin N, address... */
static bool link_one(struct statement *st, void *target)
{
    ((struct lex_link *)target)->one_way = true;
    if (statement_take_word(st, "way")) return true;
    lex_fault(st->lx, statement_peek(st)->place, "expected 'way': one way");
    return false;
}

static bool link_open(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_link *)target)->open = true;
    return true;
}

static bool link_yields(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (!statement_take_word(st, "to")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected 'to' and the link that goes before");
        return false;
    }
    g_free(link->yields);
    link->yields = statement_name(st, "the link that goes before");
    link->yields_s = 10;
    const struct token *token = statement_peek(st);
    if (!link->yields || strcmp(token->text ? token->text : "", "for") ||
        !strcmp(token[1].text ? token[1].text : "", "people"))
        return link->yields != NULL;
    st->next++;
    uint32_t ms;
    if (!statement_time(st, "how long after it was used", 1000, 65535000, &ms)) return false;
    link->yields_s = ms / 1000;
    return true;
}

/* lost after T */
static bool link_lost(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (!statement_take_word(st, "after")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected like: lost after 5s");
        return false;
    }
    return statement_time(st, "the silence after which it is lost", 100, 86400000, &link->lost);
}

/* [active low|high] */
static bool active_level(struct statement *st, bool *low)
{
    if (!statement_take_word(st, "active")) return true;
    *low = statement_take_word(st, "low");
    if (*low || statement_take_word(st, "high")) return true;
    lex_fault(st->lx, statement_peek(st)->place, "expected 'low' or 'high'");
    return false;
}

/* hang up pin N [active low] [for T] */
static bool link_hang(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (!statement_take_word(st, "up") || !statement_take_word(st, "pin")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected like: hang up pin 12 for 200ms");
        return false;
    }
    link->hang_ms = 500;
    if (!statement_pin(st, &link->hang_pin) || !active_level(st, &link->hang_low)) return false;
    const struct token *token = statement_peek(st);
    if (strcmp(token->text ? token->text : "", "for") ||
        !strcmp(token[1].text ? token[1].text : "", "people"))
        return true;
    st->next++;
    return statement_time(st, "how long the pin is active", 10, 10000, &link->hang_ms);
}

static bool link_state(struct statement *st, void *target)
{
    struct lex_link *link = target;
    if (statement_take_word(st, "pin")) {
        if (!statement_pin(st, &link->state_pin)) return false;
        return active_level(st, &link->state_low);
    }
    link->greets = true;
    if (statement_take_word(st, "told")) return true;
    lex_fault(st->lx, statement_peek(st)->place,
              "expected 'told' (the state of all events when it comes up) or 'pin' and its number");
    return false;
}

/* format 7E1: default 8N1 */
static bool link_format(struct statement *st, void *target)
{
    return statement_format(st, &((struct lex_link *)target)->format);
}

static const struct attribute attributes[] = {{"frame", link_frame, 0},
                                              {"receive", link_receive, 0},
                                              {"transmit", link_transmit, 0},
                                              {"longest", link_longest, 0},
                                              {"for", link_for, LEX_WIRED},
                                              {"format", link_format, LEX_WIRED},
                                              {"payload", link_payload, S(MODEM) | S(RADIO)},
                                              {"address", link_address, ~S(SMS)},
                                              {"senders", link_senders, ~S(SMS)},
                                              {"check", link_check, 0},
                                              {"tags", link_tags, 0},
                                              {"seal", link_seal, 0},
                                              {"allow", link_allow, S(SMS)},
                                              {"code", link_code, S(SMS)},
                                              {"stale", link_stale, S(SMS)},
                                              {"handed", link_handed, S(SMS)},
                                              {"only", link_only, 0},
                                              {"also", link_also, 0},
                                              {"replies", link_replies, 0},
                                              {"end", link_end, LEX_WIRED},
                                              {"one", link_one, ~S(SMS)},
                                              {"open", link_open, 0},
                                              {"yields", link_yields, 0},
                                              {"state", link_state, 0},
                                              {"hang", link_hang, S(BRIDGE)},
                                              {"lost", link_lost, 0},
                                              {NULL, NULL, 0}};

static bool is_attribute(const struct statement *st)
{
    const struct token *token = &g_array_index(st->tokens, struct token, st->next);
    for (const struct attribute *a = attributes; a->word; a++)
        if (!strcmp(a->word, token->text)) return true;
    return token[1].kind == TOKEN_EQUALS || token[1].kind == TOKEN_ARROW;
}

static bool read_attributes(struct statement *st, struct lex_link *link)
{
    for (;;) {
        struct token *token = statement_peek(st);
        if (token->kind == TOKEN_END || (token->kind == TOKEN_STRING && token[1].kind == TOKEN_END))
            return true;
        if (token[1].kind == TOKEN_EQUALS || token[1].kind == TOKEN_ARROW) {
            if (!lex_is_keyed(link)) {
                lex_fault(st->lx, token->place, "keys stand behind 'frame keys'");
                return false;
            }
            if (!lex_read_key(st, link)) return false;
            continue;
        }
        /* one attribute at a time: a key may follow */
        const struct attribute *a = attributes;
        for (; a->word; a++)
            if ((!a->kinds || a->kinds >> link->medium & 1) && statement_take_word(st, a->word))
                break;
        if (!a->word)
            return statement_attributes(st, attributes, link->medium, statement_any_kind,
                                        lex_media[link->medium], link);
        if (!a->read(st, link)) return false;
    }
}

void lex_link_free(void *p)
{
    struct lex_link *link = p;
    g_free(link->name);
    g_free(link->title);
    g_free(link->allow_setting);
    g_free(link->code);
    g_free(link->yields);
    g_ptr_array_free(link->keys, TRUE);
    g_ptr_array_free(link->only, TRUE);
    g_ptr_array_free(link->also, TRUE);
    g_ptr_array_free(link->locked, TRUE);
    g_ptr_array_free(link->allow, TRUE);
    g_ptr_array_free(link->texts, TRUE);
    lex_layout_free(link->layout);
    g_free(link);
}

/* link NAME MEDIUM [BAUD] attributes [KEY = "..."] ["title"] */
void read_link(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_link *link = g_new0(struct lex_link, 1);
    unsigned medium;
    link->keys = g_ptr_array_new_with_free_func(lex_key_free);
    link->only = g_ptr_array_new_with_free_func(g_free);
    link->also = g_ptr_array_new_with_free_func(g_free);
    link->locked = g_ptr_array_new_with_free_func(g_free);
    link->allow = g_ptr_array_new_with_free_func(g_free);
    link->texts = g_ptr_array_new_with_free_func(lex_text_free);
    link->window = 10000;
    link->address = -1;
    link->state_pin = link->hang_pin = LEX_NO_PIN;
    link->format = (struct lex_format){8, 1, LEX_PARITY_NONE, false};
    link->place = statement_peek(st)->place;
    link->name = statement_name(st, "the link's name");
    if (!link->name) {
        link->name = g_strdup("");
    } else if (lexicon_link(lx, link->name)) {
        lex_fault(lx, link->place, "a second link '%s'", link->name);
    }
    g_ptr_array_add(lx->links, link);
    if (!*link->name) return;
    if (lx->links->len == 256) lex_too_many(lx, link->place, 255, "links");
    if (!statement_one_of(st, "what it is", lex_media, &medium)) return;
    link->medium = (enum lex_medium)medium;
    if (LEX_WIRED >> medium & 1 &&
        !statement_number(st, "the baud rate", 50, 12000000, &link->baud))
        return;
    if (medium == LEX_SMS) {
        link->baud = 9600;
        const char *next = statement_peek(st)->text;
        if (next && g_ascii_isdigit(*next) &&
            !statement_number(st, "the modem's baud rate", 300, 4000000, &link->baud))
            return;
    }
    if (medium == LEX_RADIO) link->frame = LEX_FRAME_PACKET;
    if (medium == LEX_REPORT) link->frame = LEX_FRAME_REPORT;
    if (medium == LEX_SMS) link->frame = LEX_FRAME_MESSAGE;
    if (!read_attributes(st, link)) return;
    link->title = statement_title(st);
    if (link->answer_end && !lex_framing_of(link)->lines && !lex_is_keyed(link))
        lex_fault(lx, link->place,
                  "'%s': 'end' is for lines, keys and codes; other frames end as they are",
                  link->name);
    if (link->answer_end && link->people)
        lex_fault(lx, link->place, "'%s' is for people, whose terminals want CR LF: drop 'end'",
                  link->name);
    if (LEX_WIRED >> medium & 1 && !link->framed)
        lex_fault(lx, link->place, "'%s' has no framing; write 'frame line'", link->name);
    if (medium == LEX_RADIO && !link->payload)
        lex_fault(lx, link->place, "'%s': how many bytes has a packet? Write like 'payload 48'",
                  link->name);
    if (medium == LEX_RADIO && link->frame == LEX_FRAME_FIXED) { /* packets that are filled up */
        link->frame = LEX_FRAME_PACKET;
        if (link->payload && link->payload < link->length)
            lex_fault(lx, link->place, "'%s': a frame of %u bytes does not fit a packet of %u",
                      link->name, link->length, link->payload);
        link->payload = link->length;
    }
    if (medium == LEX_RADIO && link->payload > 127)
        lex_fault(lx, link->place, "'%s': a radio's packets have at most 127 bytes", link->name);
    if (medium == LEX_SMS) link->payload = 160;
    if (link->handed && (link->allow->len || link->allow_setting || link->code || link->stale))
        lex_fault(lx, link->place,
                  "'%s' is handed in by the firmware, which decides whose messages it takes",
                  link->name);
    if (medium == LEX_REPORT) link->payload = 64;
    if (link->senders && link->address < 0)
        lex_fault(lx, link->place,
                  "'%s' has senders and no address: frames name their sender behind it, like "
                  "'@3/1'; write 'address 3 senders %u', or no senders",
                  link->name, link->senders);
    if (lex_record_bytes(link) > LEX_KEPT_MOST)
        lex_fault(lx, link->place, "'%s': tags are kept for at most %u senders", link->name,
                  LEX_KEPT_MOST / RLX_INTENT_BYTES);
}

/* ---- when everything is read ---- */

static void want_setting(struct lexicon *lx, const struct lex_link *link, const char *name)
{
    const struct lex_setting *setting = name ? lexicon_setting(lx, name) : NULL;
    if (name && !setting)
        lex_fault(lx, link->place, "'%s': there is no setting '%s'", link->name, name);
    else if (name && setting->slot && setting->slot->kind != LEX_TEXT)
        lex_fault(lx, link->place, "'%s': the setting '%s' is no text, like {text 0..40}",
                  link->name, name);
}

/* Whether a name is that of a first word, a query, a setting, an output, a routine or a built-in
 * word. */
static bool is_said(const struct lexicon *lx, const char *name)
{
    bool said = lex_said_built_in(name) || lexicon_output_index(lx, name) >= 0 ||
                lexicon_setting(lx, name) || lexicon_input(lx, name) || lex_asks_modem(lx, name);
    for (unsigned i = 0; !said && i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        for (unsigned k = 0; lex_has_spellings(first) && k < lex_spellings(first); k++)
            said |= !g_ascii_strcasecmp(lex_spelling(first, k), name);
    }
    for (unsigned i = 0; i < lx->queries->len; i++)
        said |= !strcmp(((struct lex_query *)lx->queries->pdata[i])->name, name);
    for (unsigned i = 0; i < lx->routines->len; i++)
        said |= !strcmp(((struct lex_routine *)lx->routines->pdata[i])->name, name);
    return said;
}

static void finish_link(struct lexicon *lx, struct lex_link *link)
{
    lex_finish_texts(lx, link);
    lex_finish_layout(lx, link);
    want_setting(lx, link, link->allow_setting);
    want_setting(lx, link, link->code);
    if (link->yields && !lexicon_link(lx, link->yields))
        lex_fault(lx, link->place, "'%s': there is no link '%s'", link->name, link->yields);
    finish_locks(lx, link);
    for (unsigned k = 0; k < link->only->len; k++)
        if (!is_said(lx, link->only->pdata[k]))
            lex_fault(lx, link->place, "'only %s': no command, query or setting begins so",
                      (char *)link->only->pdata[k]);
    if (link->people && link->frame != LEX_FRAME_LINE)
        lex_fault(
            lx, link->place,
            "'%s': only lines are echoed and corrected; write 'frame line', or leave out 'for "
            "people'",
            link->name);
    if (link->hang_pin != LEX_NO_PIN && !(lx->built_in & RLX_BUILT_IN_BYE))
        lex_fault(lx, link->place, "'%s' is hung up by 'bye', which is not built in: built-in bye",
                  link->name);
    unsigned ring = link->transmit ? link->transmit : RLX_RING_MAX;
    if (link->frame == LEX_FRAME_FIXED && link->length > ring && !link->one_way)
        lex_fault(
            lx, link->place,
            "'%s' answers with frames of %u bytes, but its transmit ring has %u: write 'transmit "
            "%u', shorter frames, or 'one way'",
            link->name, link->length, ring, RLX_RING_MAX);
    lex_finish_keys(lx, link);
}

/* Links that a command's own answer goes to. */
static void check_says(struct lexicon *lx, const struct lex_command *command)
{
    for (unsigned i = 0; command->says && i < command->says_on->len; i++)
        if (!lexicon_link(lx, command->says_on->pdata[i]))
            lex_fault(lx, command->place, "there is no link '%s'",
                      (char *)command->says_on->pdata[i]);
    if (command->says && lx->links->len > RLX_EVENT_LINKS)
        lex_fault(lx, command->place,
                  "where commands have answers of their own there are at most %u links",
                  RLX_EVENT_LINKS);
}

void finish_links(struct lexicon *lx)
{
    if (!lx->links->len && lx->name)
        lex_fault(lx, lx->place,
                  "no link: nobody can send a command; write 'link bench serial 115200 "
                  "frame line'");
    for (unsigned i = 0; i < lx->links->len; i++) finish_link(lx, lx->links->pdata[i]);
    finish_seals(lx);
    for (unsigned i = 0; i < lx->commands->len; i++) check_says(lx, lx->commands->pdata[i]);
    for (unsigned i = 0; i < lx->ignores->len; i++) {
        const struct lex_ignore *ignore = lx->ignores->pdata[i];
        if (ignore->link && !lexicon_link(lx, ignore->link))
            lex_fault(lx, ignore->place, "there is no link '%s'", ignore->link);
    }
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        if (handset->link && !lexicon_link(lx, handset->link))
            lex_fault(lx, handset->place, "there is no link '%s'", handset->link);
    }
}
