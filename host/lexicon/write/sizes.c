/* How long replies, events and frames can be, and the buffers that links get.
 * Every text that the library writes comes from rlx/def/replies.h.
 * It changes no size that the lexicon gives. */
#include "lexicon/write/sizes.h"

#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/check/checks.h"
#include "lexicon/write/table_image.h"
#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/kind.h"
#include "lexicon/slot.h"
#include "rlx/config.h"
#include "rlx/error.h"
#include "rlx/image.h"
#include "rlx/link.h"

#define LENGTH(text) (sizeof(text) - 1)

/* Longest spelling of an element in a reply. */
static unsigned said_length(const struct lex_element *e)
{
    char *longest = lex_element_longest(e, false);
    unsigned length = (unsigned)strlen(longest);
    g_free(longest);
    return length;
}

/* Longest name of an error. */
static size_t longest_error(const struct lexicon *lx)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->reasons->len; i++) most = MAX(most, strlen(lx->reasons->pdata[i]));
#define ERROR(number, id, name, sentence) most = MAX(most, LENGTH(name));
    RLX_REPLY_ERRORS(ERROR)
#undef ERROR
    return most;
}

/* The longest that an error can say about the words or values that can stand at one place. */
static unsigned wanted_length(const struct lexicon *lx)
{
    unsigned most = RLX_WORD_SHOWN, n_commands = lx->commands->len;
    GHashTable *families = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < n_commands; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        const char *first = check_subject(command);
        unsigned sum = GPOINTER_TO_UINT(g_hash_table_lookup(families, first));
        for (unsigned k = 1; k < command->elements->len; k++)
            sum += lex_slot_of(command->elements->pdata[k])
                       ->wanted(command->elements->pdata[k]); /* at most all at one place */
        g_hash_table_insert(families, (char *)first, GUINT_TO_POINTER(sum));
        most = MAX(most, sum);
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const GPtrArray *of = ((struct lex_query *)lx->queries->pdata[i])->of;
        for (unsigned k = 0; of && k < of->len; k++)
            most = MAX(most, lex_slot_of(of->pdata[k])->wanted(of->pdata[k]));
    }
    g_hash_table_destroy(families);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        for (unsigned k = 0; k < out->permits->len; k++)
            most = MAX(most, (unsigned)strlen(((struct lex_permit *)out->permits->pdata[k])->name));
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const GPtrArray *guards = ((struct lex_command *)lx->commands->pdata[i])->guards;
        for (unsigned k = 0; guards && k < guards->len; k++)
            most = MAX(most, (unsigned)strlen(((struct lex_permit *)guards->pdata[k])->name));
    }
    return most;
}

static unsigned error_length(const struct lexicon *lx)
{
    return (unsigned)(LENGTH("err ") + longest_error(lx) + 1 + wanted_length(lx) +
                      LENGTH(RLX_LONGEST_ERROR_AT));
}

/* Longest cause of a reset. */
static size_t longest_reset(void)
{
    size_t most = 0;
#define RESET(id, name) most = MAX(most, LENGTH(name));
    RLX_RESETS(RESET)
#undef RESET
    return 1 + most;
}

/* Longest name of a link, for the replies of `heard` and `log`. */
static size_t longest_name(const struct lexicon *lx)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->links->len; i++)
        most = MAX(most, strlen(((struct lex_link *)lx->links->pdata[i])->name));
    return most;
}

/* Each with the blank before it. */
static size_t told_length(const GPtrArray *told)
{
    size_t sum = 0;
    for (unsigned i = 0; told && i < told->len; i++) sum += 1 + said_length(told->pdata[i]);
    return sum;
}

static size_t query_length(const struct lex_query *query)
{
    size_t sum = LENGTH(RLX_TXT_OK " " RLX_TXT_LINE_END) + strlen(query->name);
    return sum + told_length(query->of) + told_length(query->elements);
}

/* The longest event or note of the link, with its line end; 0: none. */
static unsigned event_length(const struct lexicon *lx, const struct lex_link *link)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        if (!image_tells(event, link)) continue;
        char *word = event->what ? lex_element_longest(event->what, false) : g_strdup("");
        most = MAX(most, LENGTH(RLX_TXT_EVENT) +
                             (event->confirmed ? LENGTH(RLX_LONGEST_NUMBER_EV) : 0) +
                             strlen(event->name) + 1 + strlen(word));
        if (lex_drives_modem(link)) most += LENGTH(RLX_LONGEST_HELD);
        g_free(word);
    }
    if (lex_has_notes(lx, link)) most = MAX(most, LENGTH(RLX_TXT_NOTE) + RLX_MOST_NOTE_BYTES);
    for (unsigned i = 0; most && i < link->texts->len; i++)
        most = MAX(most, strlen(((struct lex_text *)link->texts->pdata[i])->text));
    size_t ends = LENGTH("<" RLX_TXT_LINE_END) +
                  (link->people ? LENGTH(RLX_TXT_LINE_END) : 0); /* the echo's line, too */
    if (link->seal) ends += LENGTH("4294967295") - LENGTH("65535"); /* the device's own number */
    return most ? (unsigned)(most + ends) + lex_envelope_bytes(link) : 0;
}

enum counter {
#define COUNTER(id) COUNTER_##id,
    RLX_COUNTERS(COUNTER)
#undef COUNTER
};

/* Whether a link of this lexicon can have this counter. */
static bool counts(const struct lexicon *lx, enum counter counter)
{
    bool others = false, drops = false, modem = false, newest = false, coded = false;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        others |= link->address >= 0 || link->check || lex_comes_whole(link) || link->layout;
        drops |= link->replies_drop;
        modem |= lex_drives_modem(link);
        coded |= lex_drives_modem(link) && link->code;
    }
    for (unsigned i = 0; i < lx->commands->len; i++)
        newest |= ((struct lex_command *)lx->commands->pdata[i])->newest;
    switch (counter) {
    case COUNTER_LOST:
    case COUNTER_REFUSED:
    case COUNTER_IGNORED: return true;
    case COUNTER_OTHERS: return others;
    case COUNTER_KNOWN: return lx->ignores->len;
    case COUNTER_NEWER: return newest;
    case COUNTER_UNHEARD: return drops;
    case COUNTER_UNSENT: return modem;
    case COUNTER_WRONG: return coded;
    case COUNTER_MERGED: return lx->events->len;
    case COUNTER_NOTES: return lx->built_in & RLX_BUILT_IN_NOTES;
    case COUNTER_ERASES: return lex_spares_memory(lx);
    }
    return true;
}

/* The longest reply of `stats` in this lexicon. */
static size_t stats_length(const struct lexicon *lx)
{
    size_t sum = LENGTH(RLX_TXT_OK RLX_TXT_STATS RLX_TXT_LINE_END);
#define COUNTER(id) \
    if (counts(lx, COUNTER_##id)) sum += LENGTH(RLX_COUNTER_##id RLX_LONGEST_COUNTER);
    RLX_COUNTERS(COUNTER)
#undef COUNTER
    return sum;
}

/* An answer of the command's own with its line end; 0: it has none. */
static size_t own_length(const struct lex_command *command, const char *answer)
{
    char *longest = answer ? answer_longest(command, answer) : NULL;
    size_t length = longest ? strlen(longest) + LENGTH(RLX_TXT_LINE_END) : 0;
    g_free(longest);
    return length;
}

/* The longest reply of a command that was obeyed. */
static size_t command_reply(const struct lex_command *command, bool waits)
{
    size_t sum = LENGTH(RLX_TXT_OK " already"
                                   " off" RLX_TXT_LINE_END);
    if (waits) sum += LENGTH(RLX_LONGEST_WAITING);
    sum += told_length(command->elements) + told_length(command->told);
    size_t own = own_length(command, command->says), other = own_length(command, command->already);
    if (own) own += LENGTH(" already") + (waits ? LENGTH(RLX_LONGEST_WAITING) : 0);
    return MAX(sum, MAX(own, other));
}

/* The longest state of an output. */
static size_t output_state(const struct lexicon *lx, const struct lex_output *out, bool waits)
{
    size_t sum = strlen(waits ? "opening 99%" RLX_LONGEST_WAITING : "100"), members = 0;
    if (out->counted) sum = LENGTH(RLX_TXT_OFF RLX_LONGEST_WAITING RLX_LONGEST_SWITCHED);
    for (unsigned k = 0; lex_verbs[RLX_PATTERN].kinds >> out->kind & 1 && k < lx->patterns->len;
         k++)
        sum = MAX(sum, strlen(((struct lex_pattern *)lx->patterns->pdata[k])->name));
    for (unsigned k = 0; k < out->members->len; k++) members += strlen(out->members->pdata[k]) + 1;
    if (lex_kind_of(out)->state_length) sum = MAX(sum, lex_kind_of(out)->state_length(out));
    return MAX(sum, members);
}

static size_t longest_modem(void)
{
    size_t most = LENGTH(RLX_TXT_GUESSED);
#define STATE(id, word) most = MAX(most, LENGTH(word));
    RLX_MODEM_STATES(STATE)
#undef STATE
    return most;
}

/* The longest answer to NAME?. */
static size_t state_length(const struct lexicon *lx, bool waits)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        most = MAX(most, strlen(out->name) + output_state(lx, out, waits));
    }
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        most =
            MAX(most, strlen(setting->name) + said_length(setting->slot) + LENGTH(RLX_TXT_UNSAVED));
    }
    for (unsigned i = 0; i < lx->routines->len; i++) {
        const struct lex_routine *routine = lx->routines->pdata[i];
        most = MAX(most, strlen(routine->name) + LENGTH(RLX_LONGEST_OF_ROUTINE) +
                             (routine->rounds != 1 ? LENGTH(RLX_LONGEST_ROUND) : 0));
    }
    for (unsigned i = 0; i < lx->inputs->len; i++)
        most = MAX(most,
                   strlen(((struct lex_input *)lx->inputs->pdata[i])->name) + LENGTH(RLX_TXT_OFF));
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (lex_drives_modem(link)) most = MAX(most, strlen(link->name) + longest_modem());
    }
    return LENGTH(RLX_LONGEST_ASKED) + most;
}

/* Longest reply that is no error. */
static unsigned ok_length(const struct lexicon *lx, const char *greeting)
{
    unsigned built_in = lx->built_in;
    bool waits = false;
    size_t most = 0;
    if (!lx->silent || built_in & RLX_BUILT_IN_ABOUT)
        most = LENGTH(RLX_TXT_READY " " RLX_TXT_LINE_END) + strlen(greeting) + longest_reset();
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        waits |= out->min_on || out->min_off || out->interlock || lex_kind_of(out)->waits;
    }
    for (unsigned i = 0; i < lx->commands->len; i++)
        most = MAX(most, command_reply(lx->commands->pdata[i], waits));
    for (unsigned i = 0; i < lx->queries->len; i++)
        most = MAX(most, query_length(lx->queries->pdata[i]));
    if (built_in & RLX_BUILT_IN_HELP) most = MAX(most, LENGTH(RLX_LONGEST_HELP) + RLX_HELP_LINE);
    if (built_in & RLX_BUILT_IN_HEARD)
        most = MAX(most, LENGTH(RLX_LONGEST_HEARD) + longest_name(lx) +
                             RLX_MOST_HEARD_BYTES * LENGTH(RLX_LONGEST_HEARD_BYTE));
    if (built_in & RLX_BUILT_IN_LOG)
        most = MAX(most, LENGTH(RLX_LONGEST_LOG) + longest_name(lx) + RLX_MOST_LOG_CHARACTERS +
                             longest_error(lx));
    if (built_in & RLX_BUILT_IN_STATS)
        most = MAX(most, stats_length(lx) + (lex_tells_links(lx) ? 1 + longest_name(lx) : 0));
    if (built_in & RLX_BUILT_IN_STATE) most = MAX(most, state_length(lx, waits));
    return (unsigned)most;
}

static size_t elements_length(const GPtrArray *elements)
{
    size_t sum = 0;
    for (unsigned i = 0; i < elements->len; i++) {
        char *longest = lex_element_longest(elements->pdata[i], true);
        sum += 1 + strlen(longest);
        g_free(longest);
    }
    return sum;
}

/* Longest text of a command, or of one that stores a setting, one blank between words. */
static unsigned command_length(const struct lexicon *lx, bool stores)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        if ((command->effect.kind == LEX_STORE) == stores)
            most = MAX(most, elements_length(command->elements));
    }
    for (unsigned i = 0; !stores && i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        if (query->of && query->of->len) most = MAX(most, elements_length(query->asked->elements));
    }
    return (unsigned)most;
}

unsigned lex_ring_bytes(unsigned least)
{
    unsigned size = 16;
    while (size < MIN(least, RLX_RING_MAX)) size *= 2;
    return size;
}

/* The longest code, and the longest text that stands for a key or a code: where no line can come, a
 * frame holds nothing else. */
static unsigned longest_of_keys(const struct lex_link *link)
{
    size_t most = 8;
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        most = MAX(most, MAX(strlen(key->text), key->code ? strlen(key->code) : 1));
    }
    return (unsigned)MIN(most, RLX_FRAME_MAX);
}

/* Bytes of a binary frame as it comes, and of the text that takes its place. */
static unsigned longest_of_layout(const struct lex_link *link)
{
    unsigned most = link->layout->channels ? layout_room(link) : layout_most(link, false);
    for (unsigned i = 0; i < link->layout->rows->len; i++)
        most = MAX(most, layout_text_most(link->layout->rows->pdata[i]));
    return MIN(most, RLX_FRAME_MAX);
}

static unsigned longest_frame(const struct lex_link *link, unsigned command)
{
    const struct lex_framing *framing = lex_framing_of(link);
    if (lex_is_keyed(link) && !link->lead) return longest_of_keys(link);
    if (link->layout) return longest_of_layout(link);
    unsigned enveloped = MIN(command + lex_envelope_bytes(link), RLX_FRAME_MAX);
    return framing->longest ? framing->longest(link, command, enveloped) : MAX(enveloped, 48);
}

/* The longest name of a slot, and the longest bound of one. */
struct bounds {
    size_t slot, bound;
};

static void add_bounds(struct bounds *b, const GPtrArray *elements)
{
    for (unsigned i = 0; elements && i < elements->len; i++) {
        const struct lex_element *e = elements->pdata[i];
        if (!lex_has_numbers(e) && e->kind != LEX_TEXT) continue;
        char *low = lex_value_text(e, e->low), *high = lex_value_text(e, e->high);
        b->slot = MAX(b->slot, strlen(e->text));
        b->bound = MAX(b->bound, MAX(strlen(low), strlen(high)));
        g_free(low);
        g_free(high);
    }
}

static struct bounds longest_bounds(const struct lexicon *lx)
{
    struct bounds b = {0};
    for (unsigned i = 0; i < lx->commands->len; i++)
        add_bounds(&b, ((struct lex_command *)lx->commands->pdata[i])->elements);
    for (unsigned i = 0; i < lx->queries->len; i++)
        add_bounds(&b, ((struct lex_query *)lx->queries->pdata[i])->of);
    return b;
}

/* The longest that a text of a link's own can be, with its line end. */
static unsigned own_text_length(const struct lexicon *lx, const struct lex_text *own)
{
    struct answer_piece piece;
    struct bounds bounds = longest_bounds(lx);
    size_t sum = LENGTH(RLX_TXT_LINE_END);
    const char *at = own->text;
    while ((at = own_text_next(own, at, &piece))) {
        if (piece.slot < 0) {
            sum += piece.length;
            continue;
        }
        switch ((enum rlx_error_field)piece.slot) {
        case RLX_FIELD_NAME: sum += longest_error(lx); break;
        case RLX_FIELD_WORD: sum += RLX_WORD_SHOWN; break;
        case RLX_FIELD_WANTED:
        case RLX_FIELD_INPUT: sum += wanted_length(lx); break;
        case RLX_FIELD_SLOT: sum += bounds.slot; break;
        case RLX_FIELD_LOW:
        case RLX_FIELD_HIGH: sum += bounds.bound; break;
        case RLX_FIELD_AT: sum += LENGTH("254"); break;
        }
    }
    return (unsigned)sum;
}

static void size_link(const struct lexicon *lx, struct lex_link *link, unsigned reply,
                      unsigned command)
{
    const struct lex_framing *framing = lex_framing_of(link);
    unsigned most = framing->holds ? MIN(framing->holds(link), RLX_RING_MAX) : 0;
    unsigned piece = framing->piece;
    if (link->replies != LEX_REPLIES_FULL || link->one_way)
        reply = MAX(16, reply); /* it is written in full before it is cut */
    for (unsigned i = 0; i < link->texts->len; i++)
        reply = MAX(reply, own_text_length(lx, link->texts->pdata[i]));
    reply += lex_envelope_bytes(link);
    if (lex_is_keyed(link)) reply++; /* '<' */
    if (!lex_comes_whole(link)) reply = MAX(reply, link->length);
    link->event = event_length(lx, link);
    if (link->layout) reply = MAX(reply, layout_most(link, true));
    if (link->layout && link->event) link->event = MAX(link->event, layout_most(link, true));
    if (piece) reply = (reply + piece - 1) / piece * piece;
    if (!link->receive)
        link->receive = lex_drives_modem(link) ? RLX_RING_MAX
                        : framing->receives    ? framing->receives(link)
                        : lx->poll             ? lex_ring_bytes(lex_bytes_within(link, lx->poll))
                                               : 64;
    if (!link->transmit) link->transmit = lex_ring_bytes(MAX(MAX(reply + link->event, most), most));
    link->transmit = MAX(link->transmit, piece);
    if (!link->longest) link->longest = longest_frame(link, command);
    link->may_not_fit = reply > link->transmit || (most && reply > most);
    /* a packet waits in the ring alone; a reply that may not fit needs all of it */
    link->reply =
        lex_comes_whole(link) || link->may_not_fit ? link->transmit : MIN(reply, link->transmit);
}

void lexicon_size_links(struct lexicon *lx, const char *greeting)
{
    unsigned reply = MAX(error_length(lx), ok_length(lx, greeting));
    unsigned several = lx->built_in & RLX_BUILT_IN_BATCH ? 3 : 1;
    unsigned command = MAX(several * command_length(lx, false), command_length(lx, true));
    command = MIN(command + 8, RLX_FRAME_MAX); /* and stray blanks */
    for (unsigned i = 0; i < lx->links->len; i++)
        size_link(lx, lx->links->pdata[i], reply, command);
}
