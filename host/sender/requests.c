/* What can be asked of a device over one link, and the C names of it.
 * Commands, queries, settings, what outputs are at, and built-in words; over keys only what a key
 * says. It writes no code. */
#include "sender/sender_parts.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "rlx/def/built_ins.h"
#include "rlx/def/errors.h"

bool sender_is_answered(const struct lex_link *link)
{
    if (link->layout && !link->layout->answer->len) return false;
    return !link->one_way && link->replies != LEX_REPLIES_SILENT;
}

bool sender_has_event(const struct sender *s, const struct lex_event *event)
{
    if (s->link->one_way || (s->link->layout && !layout_has_event(s->link, event))) return false;
    return !event->to->len ||
           g_ptr_array_find_with_equal_func(event->to, s->link->name, g_str_equal, NULL);
}

char *sender_constant(struct sender *s, const char *between, const char *word)
{
    char *upper = lex_identifier(word, true);
    char *name = g_strdup_printf("%s_%s%s", s->upper, between, upper);
    for (unsigned n = 2; !g_hash_table_add(s->names, g_strdup(name)); n++) {
        g_free(name);
        name = g_strdup_printf("%s_%s%s_%u", s->upper, between, upper, n);
    }
    g_free(upper);
    return name;
}

/* ---- keys ---- */

static const char *word_of(const struct lex_element *e)
{
    return lex_spelling(e, 0);
}

/* The slot's text for a value, as the device would write it; NULL: its kind has none that is known.
 */
static char *value_text(const struct lex_element *e, int32_t value)
{
    if (e->kind == LEX_CHOICE) return g_strdup(e->words->pdata[value]);
    if (e->kind == LEX_SET) return lex_set_text(e, value);
    if (e->kind != LEX_NUMBER) return NULL;
    char *number = lex_value_text(e, value);
    char *text = g_strconcat(e->prefix ? e->prefix : "", number, e->glued ? e->unit : "", NULL);
    g_free(number);
    return text;
}

/* The command as the sender writes it, with `hashes` in the place of slot number `hashed`. NULL:
 * some slot's value has no text. */
static char *canonical(const struct lex_command *command, const int32_t *values, unsigned given,
                       int hashed, const char *hashes)
{
    GString *text = g_string_new(NULL);
    int slot = 0;
    for (unsigned i = 0; text && i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->filler || (e->kind != LEX_WORD && slot >= (int)given)) continue;
        char *piece = e->kind == LEX_WORD ? g_strdup(word_of(e))
                      : slot == hashed    ? g_strdup(hashes)
                                          : value_text(e, values[slot]);
        slot += e->kind != LEX_WORD;
        if (piece)
            g_string_append_printf(text, "%s%s", text->len ? " " : "", piece);
        else
            text = (g_string_free(text, TRUE), NULL);
        g_free(piece);
    }
    return text ? g_string_free(text, FALSE) : NULL;
}

/* The text with a digit in the place of each '#'. */
static char *with_digit(const char *text, char digit)
{
    char *with = g_strdup(text);
    for (char *c = with; *c; c++)
        if (*c == '#') *c = digit;
    return with;
}

/* What a key says, as the sender writes it, and the command that is; NULL: it is none. */
static char *key_text(const struct sender *s, const struct lex_key *key,
                      const struct lex_command **command)
{
    const char *hash = s->link->frame == LEX_FRAME_CODES ? strchr(key->text, '#') : NULL;
    char *hashes = g_strnfill(hash ? strspn(hash, "#") : 0, '#');
    char *low = with_digit(key->text, hash ? '0' : '#'), *high = with_digit(key->text, '1');
    int32_t values[15] = {0}, others[15] = {0};
    unsigned given = 0, given_too = 0;
    int hashed = -1;
    *command = lex_command_taking(s->lx, hash ? high : low, values, &given);
    if (hash && lex_command_taking(s->lx, low, others, &given_too) == *command)
        for (unsigned i = 0; i < given; i++)
            if (values[i] != others[i]) hashed = (int)i;
    bool known = *command && (!hash || (hashed >= 0 && !strchr(hash + strlen(hashes), '#')));
    char *text = known ? canonical(*command, values, given, hashed, hashes) : NULL;
    if (!text && !hash) text = g_strdup(key->text); /* as it is written there */
    g_free(low), g_free(high), g_free(hashes);
    return text;
}

void sender_each_key(const struct sender *s,
                     void (*each)(void *user, const char *code, const char *text), void *user)
{
    for (unsigned i = 0; i < s->link->keys->len; i++) {
        const struct lex_key *key = s->link->keys->pdata[i];
        const struct lex_command *command;
        char *text = key_text(s, key, &command);
        if (text && *text) each(user, key->code, text);
        g_free(text);
    }
}

static void put_key(void *user, const char *code, const char *text)
{
    char *key = sender_literal(code), *says = sender_literal(text);
    /* apart, so that no digit goes on with the 0 */
    g_string_append_printf(user, "\n    \"%s\\0\" \"%s\\0\"", key, says);
    g_free(key), g_free(says);
}

char *sender_keys(const struct sender *s)
{
    GString *all = g_string_new(NULL);
    sender_each_key(s, put_key, all);
    return g_string_free(all, FALSE);
}

char *sender_text(const struct sender *s, const char *said)
{
    int32_t values[15] = {0};
    unsigned given = 0;
    char *text = lex_is_keyed(s->link) ? lex_link_hears(s->link, said) : NULL;
    if (!text) return g_strdup(said);
    const struct lex_command *command = lex_command_taking(s->lx, text, values, &given);
    char *written = command ? canonical(command, values, given, -1, NULL) : NULL;
    if (!written) return text;
    g_free(text);
    return written;
}

/* Whether some key says this command, or this text. */
static bool has_key(const struct sender *s, const struct lex_command *command, const char *text)
{
    bool found = false;
    for (unsigned i = 0; !found && i < s->link->keys->len; i++) {
        const struct lex_command *of;
        char *says = key_text(s, s->link->keys->pdata[i], &of);
        found = says && (command ? of == command : !of && !strcmp(says, text));
        g_free(says);
    }
    return found;
}

/* ---- what can be asked ---- */

/* Whether a row of bytes is this command, or this text. */
static bool has_row(const struct sender *s, const struct lex_command *command, const char *text)
{
    const GPtrArray *rows = s->link->layout->rows;
    bool found = false;
    for (unsigned i = 0; i < rows->len && !found; i++) {
        const struct lex_packed *row = rows->pdata[i];
        found = !row->event && (command ? row->command == command : !strcmp(row->text, text));
    }
    return found;
}

static bool can_say(const struct sender *s, const struct lex_command *command, const char *text)
{
    if (s->link->layout) return has_row(s, command, text);
    return !lex_is_keyed(s->link) || s->link->lead || has_key(s, command, text);
}

static struct request *add(struct sender *s, enum request_kind kind, const char *name, char *text)
{
    struct request *r = g_new0(struct request, 1);
    char *constant = sender_constant(s, "REQUEST_", name);
    r->kind = kind;
    r->name = g_ascii_strdown(constant + strlen(s->upper) + strlen("_REQUEST_"), -1);
    r->member = g_strconcat(r->name, lex_is_keyword(r->name) ? "_" : "", NULL);
    r->text = text;
    g_ptr_array_add(s->requests, r);
    g_free(constant);
    return r;
}

/* glow, beacon_flash, v_open: its words, and what stands before a number; the names of its slots
 * where it has none of them. */
static char *command_name(const struct lex_command *command)
{
    GString *name = g_string_new(NULL);
    for (unsigned pass = 0; pass < 2 && !name->len; pass++)
        for (unsigned i = 0; i < command->elements->len; i++) {
            const struct lex_element *e = command->elements->pdata[i];
            const char *word = e->kind == LEX_WORD ? (e->filler ? NULL : word_of(e)) : e->prefix;
            char *slot = pass && !word && e->kind != LEX_WORD
                             ? sender_slot_name(command->elements, e)
                             : NULL;
            if (slot) word = slot;
            if (word) g_string_append_printf(name, "%s%s", name->len ? "_" : "", word);
            g_free(slot);
        }
    return g_string_free(name, FALSE);
}

static void add_commands(struct sender *s)
{
    for (unsigned i = 0; i < s->lx->commands->len; i++) {
        const struct lex_command *command = s->lx->commands->pdata[i];
        if (command->query || !lex_may_say(s->link, command) || !can_say(s, command, NULL))
            continue;
        char *name = command_name(command);
        struct request *r = add(s, REQUEST_COMMAND, name, lex_command_text(command));
        r->command = command;
        r->slots = lex_arguments(command);
        r->sent = command->elements->len;
        r->title = command->title;
        r->newest = command->newest;
        g_free(name);
    }
}

/* `command`: of a query what asks it. */
static struct request *add_asked(struct sender *s, enum request_kind kind, const char *word,
                                 const char *title, const GPtrArray *slots,
                                 const struct lex_command *command)
{
    struct request *r = NULL;
    char *name = g_strconcat("ask_", word, NULL), *text = g_strconcat(word, "?", NULL);
    if (lex_may_say_word(s->link, word) && can_say(s, command, text)) {
        r = add(s, kind, name, g_strdup(text));
        r->word = word;
        r->title = title;
        r->slots = slots;
    }
    g_free(text);
    g_free(name);
    return r;
}

/* What is asked for, then the values. */
static void add_query(struct sender *s, const struct lex_query *query)
{
    GPtrArray *slots = g_ptr_array_new();
    g_ptr_array_add(s->own, slots);
    for (unsigned i = 0; i < query->of->len; i++) g_ptr_array_add(slots, query->of->pdata[i]);
    for (unsigned i = 0; i < query->elements->len; i++)
        g_ptr_array_add(slots, query->elements->pdata[i]);
    struct request *r = add_asked(s, REQUEST_QUERY, query->name, query->title, slots,
                                  s->link->layout ? query->asked : NULL);
    if (!r) return;
    g_free(r->text);
    r->text = lex_command_text(query->asked);
    r->asked = query->asked;
    r->sent = query->of->len;
}

static void add_queries(struct sender *s)
{
    for (unsigned i = 0; i < s->lx->queries->len; i++) {
        add_query(s, s->lx->queries->pdata[i]);
    }
    for (unsigned i = 0; i < s->lx->settings->len; i++) {
        const struct lex_setting *setting = s->lx->settings->pdata[i];
        GPtrArray *slot = g_ptr_array_new();
        g_ptr_array_add(slot, setting->slot);
        g_ptr_array_add(s->own, slot);
        if (!lexicon_is_code(s->lx, setting))
            add_asked(s, REQUEST_SETTING, setting->name, setting->title, slot, NULL);
    }
    for (unsigned i = 0; s->lx->built_in & RLX_BUILT_IN_STATE && i < s->lx->outputs->len; i++) {
        const struct lex_output *out = s->lx->outputs->pdata[i];
        add_asked(s, REQUEST_STATE, out->name, out->title, NULL, NULL);
    }
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++) {
        if (!b->said || !(s->lx->built_in & b->bit) || !lex_may_say_word(s->link, b->word) ||
            !can_say(s, NULL, b->word))
            continue;
        struct request *r = add(s, REQUEST_BUILT_IN, b->word, g_strdup(b->word));
        r->word = b->word;
        r->title = b->does;
    }
}

static unsigned longest_of(const struct request *r)
{
    const struct lex_command *command = r->command ? r->command : r->asked;
    if (!command) return (unsigned)strlen(r->text);
    char *text = lex_command_longest(command, false);
    unsigned longest = (unsigned)strlen(text);
    g_free(text);
    return longest;
}

/* Names that each header has. */
static const char *const fixed[] = {"REQUEST_NONE",
                                    "REQUEST_TEXT",
                                    "EVENT_NONE",
                                    "ERR_NONE",
                                    "ERR_OTHER",
                                    "DONE",
                                    "ALREADY",
                                    "REFUSED",
                                    "UNANSWERED",
                                    "SENT",
                                    "DROPPED",
                                    "EVENT",
                                    "STARTED",
                                    "NOTE",
                                    "QUEUED",
                                    "OUT_OF_RANGE",
                                    "BAD_TEXT",
                                    "TOO_LONG",
                                    "NO_KEY",
                                    "QUEUE_FULL",
                                    "QUEUE",
                                    "TRIES",
                                    "PAUSE_MS",
                                    "CLIENT_ANSWERED",
                                    "CLIENT_UNKNOWN",
                                    "CLIENT_DROPPED",
                                    "CLIENT_EVENT",
                                    "CLIENT_SENT",
#define ERROR(number, id, name, sentence) "ERR_" #id,
                                    RLX_REPLY_ERRORS(ERROR)
#undef ERROR
};

void sender_begin(struct sender *s, const struct lexicon *lx, const struct image *image,
                  const struct lex_link *link)
{
    char *both = g_strdup_printf("%s_%s", lx->name, link->name);
    *s = (struct sender){.lx = lx,
                         .image = image,
                         .link = link,
                         .prefix = lex_identifier(both, false),
                         .upper = lex_identifier(both, true)};
    g_free(both);
    s->requests = g_ptr_array_new();
    s->own = g_ptr_array_new();
    s->names = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(fixed); i++) g_free(sender_constant(s, "", fixed[i]));
    add_commands(s);
    add_queries(s);
    for (unsigned i = 0; i < s->requests->len; i++)
        s->longest = MAX(s->longest, longest_of(s->requests->pdata[i]));
}

void sender_end(struct sender *s)
{
    for (unsigned i = 0; i < s->requests->len; i++) {
        struct request *r = s->requests->pdata[i];
        g_free(r->name), g_free(r->member), g_free(r->text), g_free(r);
    }
    for (unsigned i = 0; i < s->own->len; i++) g_ptr_array_free(s->own->pdata[i], TRUE);
    g_ptr_array_free(s->requests, TRUE);
    g_ptr_array_free(s->own, TRUE);
    g_hash_table_destroy(s->names);
    g_free(s->prefix), g_free(s->upper), g_free(s->handset_prefix), g_free(s->handset_upper);
}
