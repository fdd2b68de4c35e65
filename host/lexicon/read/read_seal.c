/* Seals of links, and the keys for them: `seal required`, `key deck over skiff sender 1`.
 * A key is a setting that nobody is shown; its number is its place among the keys of its link.
 * What a link with seals cannot be is found when everything is read. */
#include <string.h>

#include "lexicon/read/reader.h"
#include "rlx/hmac.h"

bool lex_read_seal(struct statement *st, struct lex_link *link)
{
    static const char *const words[] = {"off", "optional", "required", "everything", NULL};
    unsigned index;
    if (!statement_one_of(st, "what needs a seal", words, &index)) return false;
    link->seal_halt = index == 3;
    link->seal = (enum lex_demand)MIN(index, LEX_DEMAND_REQUIRED);
    if (!statement_take_word(st, "window")) return true;
    return statement_time(st, "how long a session goes on without a command", 500, 3600000,
                          &link->window);
}

void lex_seal_key_free(void *p)
{
    struct lex_seal_key *key = p;
    g_free(key->name);
    g_free(key->link);
    g_free(key);
}

static bool key_sender(struct statement *st, void *target)
{
    return statement_number(st, "which sender has the key", 1, 32,
                            &((struct lex_seal_key *)target)->sender);
}

/* Of the command that was made for it just now. */
static bool key_only(struct statement *st, void *target)
{
    (void)target;
    return lex_read_guards(st, st->lx->commands->pdata[st->lx->commands->len - 1]);
}

/* key NAME over LINK [sender N] [only while ...] ["title"] */
void read_key(struct statement *st)
{
    static const struct attribute attributes[] = {{"sender", key_sender, 0}, {"only", key_only, 0}, {NULL, NULL, 0}};
    struct lexicon *lx = st->lx;
    struct lex_seal_key *key = g_new0(struct lex_seal_key, 1);
    key->place = statement_peek(st)->place;
    g_ptr_array_add(lx->seal_keys, key);
    key->name = statement_name(st, "the key's name");
    if (!key->name) return;
    if (!statement_take_word(st, "over")) {
        lex_fault(lx, statement_peek(st)->place,
                  "expected 'over' and the link whose frames it seals, like: key %s over radio "
                  "sender 1",
                  key->name);
        return;
    }
    key->link = statement_name(st, "the link whose frames it seals");
    if (!key->link) return;
    char *slot = g_strdup_printf("key text %u..%u", RLX_HMAC_KEY_LEAST, RLX_HMAC_KEY_MOST);
    lex_add_setting(lx, key->place, key->name, slot);
    g_free(slot);
    if (!statement_attributes(st, attributes, 0, statement_any_kind, "key", key)) return;
    ((struct lex_setting *)lx->settings->pdata[lx->settings->len - 1])->title = statement_title(st);
}

bool lex_is_key(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->seal_keys->len; i++)
        if (!g_strcmp0(((struct lex_seal_key *)lx->seal_keys->pdata[i])->name, setting))
            return true;
    return false;
}

GPtrArray *lex_keys_of(const struct lexicon *lx, const struct lex_link *link)
{
    GPtrArray *keys = g_ptr_array_new();
    for (unsigned i = 0; i < lx->seal_keys->len; i++) {
        struct lex_seal_key *key = lx->seal_keys->pdata[i];
        if (!g_strcmp0(key->link, link->name)) g_ptr_array_add(keys, key);
    }
    return keys;
}

bool lex_has_seals(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++)
        if (((struct lex_link *)lx->links->pdata[i])->seal) return true;
    return false;
}

char *lex_seal_context(const struct lexicon *lx, const struct lex_link *link)
{
    return g_strdup_printf("%s %u %s", lx->name, lx->version, link->name);
}

/* ---- when everything is read ---- */

static void finish_key(struct lexicon *lx, const struct lex_seal_key *key)
{
    if (!key->name || !key->link) return; /* a fault already */
    const struct lex_link *link = lexicon_link(lx, key->link);
    if (!link)
        lex_fault(lx, key->place, "there is no link '%s'", key->link);
    else if (!link->seal)
        lex_fault(lx, key->place, "the frames of '%s' have no seal: write 'seal required' there",
                  key->link);
    else if (key->sender > link->senders)
        lex_fault(lx, key->place, "'%s' has no sender %u: write 'senders %u' there, or a lower one",
                  key->link, key->sender, key->sender);
}

void finish_seals(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->seal_keys->len; i++) finish_key(lx, lx->seal_keys->pdata[i]);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        GPtrArray *keys = lex_keys_of(lx, link);
        bool commands = false;
        for (unsigned k = 0; k < keys->len; k++)
            commands |= ((struct lex_seal_key *)keys->pdata[k])->sender || !link->senders;
        const char taken = link->frame == LEX_FRAME_ENDED ? link->end
                           : link->length                 ? link->pad
                                                          : ' ';
        const struct {
            bool is;
            const char *why;
        } not [] = {
            {link->medium == LEX_SMS, "text messages have no seals yet: leave 'seal' out"},
            {link->layout || lex_is_keyed(link),
             "only frames of text have a seal; its frames are bytes, keys or codes"},
            {g_ascii_isalnum(taken) || (taken && strchr("!.?=-_", taken)),
             "the character that ends or fills its frames is one of a seal: take another"},
            {link->people, "nobody types a seal by hand: leave out 'for people'"},
            {link->tags != LEX_DEMAND_OFF, "a seal counts the frames itself: leave out 'tags'"},
            {link->one_way || link->replies == LEX_REPLIES_SILENT,
             "a sender opens a session by an answer of the device: with a seal the link needs "
             "answers"},
            {!keys->len, "a seal needs a key: write 'key NAME over LINK', with 'sender N' where "
                         "the link has senders"},
            {keys->len && !commands, "nobody can command: each key is without a sender, and then "
                                     "only seals what goes to all"},
            {keys->len > LEX_SEAL_KEYS_MOST, "a link has at most 16 keys"},
        };
        for (unsigned k = 0; link->seal && k < G_N_ELEMENTS(not ); k++)
            if (not [k].is) {
                lex_fault(lx, link->place, "'%s': %s", link->name, not [k].why);
                break;
            }
        g_ptr_array_free(keys, TRUE);
    }
}
