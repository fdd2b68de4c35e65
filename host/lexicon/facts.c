/* What follows from a lexicon and is asked in many places: who may send what where, and what
 * stands around it.
 * Worked out from the model alone each time; nothing is kept.
 * It reports no fault. */
#include <string.h>

#include "lexicon/kind.h"
#include "lexicon/model.h"
#include "rlx/config.h"
#include "rlx/image.h"
#include "rlx/sms.h"

bool lex_tells(const struct lex_command *command, unsigned output)
{
    const struct lex_effect *effect = &command->effect;
    const struct lex_element *which = effect->which;
    if (effect->kind == LEX_CALL || effect->kind == LEX_RUN || effect->kind == LEX_STORE)
        return false;
    for (unsigned k = 0; which && k < which->words->len; k++)
        if (which->outputs[k] == output) return true;
    return !which && effect->output == output;
}

const char *lex_number_text(const struct lexicon *lx, const char *said)
{
    for (unsigned i = 0; i < lx->numbers->len; i++) {
        const struct lex_number *number = lx->numbers->pdata[i];
        if (lx->any_case ? !g_ascii_strcasecmp(number->said, said) : !strcmp(number->said, said))
            return number->text;
    }
    return NULL;
}

bool lex_asks_modem(const struct lexicon *lx, const char *name)
{
    const struct lex_link *link = lexicon_link(lx, name);
    return link && lex_drives_modem(link) && lx->built_in & RLX_BUILT_IN_STATE;
}

bool lex_tells_links(const struct lexicon *lx)
{
    return lx->built_in & RLX_BUILT_IN_HEARD && lx->built_in & RLX_BUILT_IN_STATS;
}

bool lex_may_say(const struct lex_link *link, const struct lex_command *command)
{
    const struct lex_element *first = command->elements->pdata[0];
    for (unsigned i = 0; link->layout && i < link->layout->rows->len; i++)
        if (((struct lex_packed *)link->layout->rows->pdata[i])->command == command) return true;
    if (link->layout) return false;
    if (!lex_has_spellings(first)) return !link->only->len; /* no lock begins with a number */
    for (unsigned k = 0; k < lex_spellings(first); k++)
        if (lex_may_say_word(link, command->query ? command->query->name : lex_spelling(first, k)))
            return true;
    return false;
}

unsigned lex_envelope_bytes(const struct lex_link *link)
{
    return (link->address >= 0 ? (unsigned)strlen("@254/31 ") : 0) +
           (link->tags ? (unsigned)strlen("#32767 ") : 0) +
           (link->seal ? (unsigned)strlen("!16.65535.ABCDEFGHIJK ") : 0) +
           (link->check ? (unsigned)strlen("*ABCD") : 0);
}

bool lex_has_notes(const struct lexicon *lx, const struct lex_link *link)
{
    return lx->built_in & RLX_BUILT_IN_NOTES && !lex_is_raw(link) && !link->one_way &&
           link->address < 0 && link->medium != LEX_RADIO && link->medium != LEX_SMS;
}

unsigned lex_format_bits(const struct lex_format *format)
{
    return 1u + format->data + (format->parity != LEX_PARITY_NONE) + format->stop;
}

unsigned lex_bytes_within(const struct lex_link *link, uint32_t ms)
{
    uint64_t bits = (ms + UINT64_C(1)) * link->baud, each = lex_format_bits(&link->format) * 1000u;
    return (unsigned)((bits + each - 1) / each);
}

GPtrArray *lex_callers(const struct lexicon *lx)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind == LEX_CALL) g_ptr_array_add(all, command);
    }
    for (unsigned i = 0; i < LEX_WHENS * lx->inputs->len; i++) {
        struct lex_command *act =
            ((struct lex_input *)lx->inputs->pdata[i / LEX_WHENS])->acts[i % LEX_WHENS];
        if (act && act->effect.kind == LEX_CALL) g_ptr_array_add(all, act);
    }
    return all;
}

const char *const lex_shown_words[] = {[LEX_SHOWN_UP] = "connected", [LEX_SHOWN_LOST] = "lost"};

const struct lex_link *lex_input_link(const struct lexicon *lx, const struct lex_input *in)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->state_pin == in->pin) return link;
    }
    return NULL;
}

bool lex_shows_own(const struct lex_output *out)
{
    return out->shown[LEX_SHOWN_UP] || out->shown[LEX_SHOWN_LOST];
}

const char *const lex_input_words[] = {
#define WORD(field, word) [LEX_WHEN_##field] = #word,
    LEX_INPUT_ACTS(WORD)
#undef WORD
        [LEX_WHENS] = "on",
    "off", NULL};

int lex_input_word(const struct lex_event *event, unsigned when)
{
    bool named = false;
    for (unsigned i = 0; event->what && event->what->words && i < event->what->words->len; i++) {
        const char *word = event->what->words->pdata[i];
        named |= g_strv_contains(lex_input_words, word);
        if (!strcmp(word, lex_input_words[when]) ||
            (when < LEX_WHEN_HELD && !strcmp(word, lex_input_words[LEX_WHENS + when])))
            return (int)i;
    }
    bool places = !named && event->what && event->what->words;
    return places && when < event->what->words->len ? (int)when : -1;
}

int lex_input_when(const struct lexicon *lx, const struct lex_input *in, const char *word)
{
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        if (g_strcmp0(event->input, in->name) || !event->what) continue;
        for (unsigned when = 0; when < LEX_WHEN_HELD; when++) {
            int own = lex_input_word(event, when);
            if (own >= 0 && !strcmp(event->what->words->pdata[own], word)) return (int)when;
        }
    }
    for (unsigned i = 0; lex_input_words[i]; i++)
        if (!strcmp(lex_input_words[i], word))
            return i == LEX_WHEN_HELD ? -1 : (int)(i % LEX_WHENS);
    return -1;
}

static void add_permits(GString *text, const struct lex_output *out, unsigned ways)
{
    unsigned n = 0;
    const char *way = lex_permit_way(out, ways);
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *permit = out->permits->pdata[i];
        if (permit->ways != ways) continue;
        if (!n && text->len) g_string_append(text, ", ");
        if (n++)
            g_string_append(text, " and ");
        else
            g_string_append_printf(text, "%s%sonly while ", way ? way : "", way ? " " : "");
        g_string_append_printf(text, "%s %s", permit->name, permit->word);
    }
}

const struct lex_command *lex_storing(const struct lexicon *lx, const struct lex_setting *setting)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind == LEX_STORE &&
            lx->settings->pdata[command->effect.output] == setting)
            return command;
    }
    return NULL; /* never */
}

char *lex_guards_text(const struct lex_command *command)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; command->guards && i < command->guards->len; i++) {
        const struct lex_permit *guard = command->guards->pdata[i];
        g_string_append_printf(text, "%s%s %s", i ? " and " : "only while ", guard->name,
                               guard->word);
    }
    return g_string_free(text, FALSE);
}

const char *lex_permit_way(const struct lex_output *out, unsigned ways)
{
    return ways == RLX_GOES_ANY ? NULL : lex_kind_of(out)->ways[ways == RLX_GOES_BACK];
}

char *lex_permits_text(const struct lex_output *out)
{
    GString *text = g_string_new(NULL);
    add_permits(text, out, RLX_GOES_ANY);
    add_permits(text, out, RLX_GOES_FORWARD);
    add_permits(text, out, RLX_GOES_BACK);
    return g_string_free(text, !text->len);
}

bool lex_is_permitted(const struct lexicon *lx, const struct lex_output *out)
{
    for (unsigned i = 0; i < out->members->len; i++) {
        int member = lexicon_output_index(lx, out->members->pdata[i]);
        if (member >= 0 && ((struct lex_output *)lx->outputs->pdata[member])->permits->len)
            return true;
    }
    return out->permits->len > 0;
}

bool lex_has_own(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++)
        if (((struct lex_output *)lx->outputs->pdata[i])->by != LEX_BY_COMMANDS) return true;
    return false;
}

char *lex_visible(const char *text, size_t count)
{
    GString *out = g_string_new(NULL);
    for (size_t i = 0; i < count; i++) {
        unsigned char c = (unsigned char)text[i];
        if (c >= ' ' && c <= '~' && c != '\\')
            g_string_append_c(out, (char)c);
        else
            g_string_append_printf(out, "\\x%02X", c);
    }
    return g_string_free(out, FALSE);
}

char *lex_link_hears(const struct lex_link *link, const char *said)
{
    bool codes = link->frame == LEX_FRAME_CODES;
    if (!lex_is_keyed(link)) return g_strdup(said);
    if (link->lead && *said == link->lead) return g_strdup(said + 1);
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        size_t n = strlen(key->code), k = 0;
        if (n != strlen(said)) continue;
        while (k < n && (key->code[k] == said[k] ||
                         (codes && key->code[k] == '#' && g_ascii_isdigit(said[k]))))
            k++;
        if (k < n) continue;
        char *text = g_strdup(key->text);
        const char *digit = said;
        for (char *p = text; codes && *p; p++) {
            if (*p != '#') continue;
            while (!g_ascii_isdigit(*digit)) digit++;
            *p = *digit++;
        }
        return text;
    }
    return NULL;
}

unsigned lex_kept_bytes(const struct lexicon *lx)
{
    unsigned kept = 0;
    for (unsigned i = 0; i < lx->events->len; i++)
        kept += ((struct lex_event *)lx->events->pdata[i])->kept;
    return kept ? RLX_KEPT_HEAD + 2 * kept * lx->links->len : 0;
}

unsigned lex_record_bytes(const struct lex_link *link)
{
    if (link->tags_kept) return RLX_INTENT_BYTES * MAX(link->senders, 1);
    if (!lex_drives_modem(link)) return 0;
    return link->code ? RLX_SMS_RECORD_CODE : RLX_SMS_RECORD;
}

bool lex_keeps_tags(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++)
        if (((struct lex_link *)lx->links->pdata[i])->tags_kept) return true;
    return false;
}

unsigned lex_n_settings(const struct lexicon *lx)
{
    unsigned n = lx->settings->len + (lex_kept_bytes(lx) > 0) + lex_has_seals(lx) +
                 (lex_guess_bytes(lx) > 0);
    for (unsigned i = 0; i < lx->links->len; i++) n += lex_record_bytes(lx->links->pdata[i]) > 0;
    return n;
}

unsigned lex_guess_bytes(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (((struct lex_command *)lx->commands->pdata[i])->code) return lx->links->len;
    return 0;
}
