/* Checks what links accept, carry and lose.
 * Lengths are held against frames, packets and buffers; own texts against commands.
 * Who sends over them is in senders.c. */
#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/check/checks.h"
#include "lexicon/framing.h"
#include "lexicon/slot.h"
#include "rlx/config.h"
#include "rlx/drive.h"

/* ---- commands that links accept ---- */

/* Whether no text comes over it, but what stands for one. */
static bool keyed(const struct lex_link *link)
{
    return (link->frame == LEX_FRAME_KEYS && !link->lead) || link->frame == LEX_FRAME_CODES ||
           link->layout;
}

static bool has_key(const struct lexicon *lx, const struct lex_link *link,
                    const struct lex_command *command)
{
    if (link->layout) return lex_may_say(link, command);
    for (unsigned k = 0; k < link->keys->len; k++) {
        char *text =
            g_strdelimit(g_strdup(((struct lex_key *)link->keys->pdata[k])->text), "#", '1');
        bool says = lex_command_says(lx, command, text);
        g_free(text);
        if (says) return true;
    }
    return false;
}

static bool in_routine(const struct lexicon *lx, const struct lex_command *command)
{
    for (unsigned i = 0; i < lx->routines->len; i++) {
        const struct lex_routine *routine = lx->routines->pdata[i];
        for (unsigned k = 0; k < routine->steps->len; k++) {
            const struct lex_step *step = routine->steps->pdata[k];
            if (step->text && lex_command_says(lx, command, step->text)) return true;
        }
    }
    return false;
}

/* Why no link accepts it; NULL if one does. */
static const char *unsayable(const struct lexicon *lx, const struct lex_command *command)
{
    bool all_keys = true;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        all_keys = all_keys && keyed(link) && !link->layout;
        if (lex_may_say(link, command) && (!keyed(link) || has_key(lx, link, command))) return NULL;
    }
    if (in_routine(lx, command)) return NULL;
    return all_keys ? "all links take keys, and none stands for" : "no link accepts";
}

static void check_sayable(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        bool cancels =
            command->effect.kind == LEX_RUN && command->made && command->effect.fixed == RLX_CANCEL;
        const char *why = cancels ? NULL : unsayable(lx, command);
        if (!why) continue;
        char *text = lex_command_text(command);
        struct lex_fault *fault = check_find(lx, LEX_D12, command->place, check_subject(command),
                                             NULL, "%s '%s'", why, text);
        if (lex_is_lock(lx, check_subject(command)) && !lex_is_key(lx, check_subject(command)))
            fault->advice = g_strdup_printf("also %s", check_subject(command));
        g_free(text);
    }
}

/* ---- lengths ---- */

static void check_line(struct lexicon *lx, const struct lex_link *link,
                       const struct lex_command *command)
{
    char *text = lex_command_longest(command, true);
    size_t length = strlen(text);
    unsigned around = lex_envelope_bytes(link);
    struct lex_fault *fault;
    if (link->frame == LEX_FRAME_FIXED && length + around > link->length) {
        fault = check_find(lx, LEX_D27, command->place, check_subject(command), g_strdup(text),
                           "\"%s\" has %zu bytes%s, but a frame of '%s' %u", text, length + around,
                           around ? " with its envelope" : "", link->name, link->length);
        fault->advice = g_strdup_printf("frame fixed %zu", length + around);
    } else if (lex_packet_bytes(link) && length + around > link->payload) {
        check_find(lx, LEX_D22, command->place, check_subject(command), g_strdup(text),
                   "\"%s\" has %zu bytes%s, but a %s of '%s' %u", text, length + around,
                   around ? " with its envelope" : "",
                   link->medium == LEX_SMS ? "message" : "packet", link->name, link->payload);
    } else if (!keyed(link) && length > link->longest) {
        fault = check_find(lx, LEX_D10, command->place, check_subject(command), g_strdup(text),
                           "\"%s\" has %zu bytes, but a line of '%s' takes %u", text, length,
                           link->name, link->longest);
        fault->advice = g_strdup_printf("longest %zu", length);
    }
    g_free(text);
}

/* Owned by the caller. */
static char *longest_reply(const struct lex_link *link, const struct lex_command *command)
{
    bool own = answer_is_on(command, link);
    char *text = own ? answer_longest(command, command->says) : lex_command_longest(command, false);
    char *other = own && command->already ? answer_longest(command, command->already) : NULL;
    char *reply = g_strdup_printf("%s%s%s", own ? "" : "ok ", text, other ? "" : " already");
    if (other && strlen(other) > strlen(reply)) {
        g_free(reply);
        reply = g_strdup(other);
    }
    g_free(other);
    g_free(text);
    return reply;
}

static void check_reply(struct lexicon *lx, const struct lex_link *link,
                        const struct lex_command *command)
{
    char *text = longest_reply(link, command);
    size_t length = strlen(text) + strlen("\r\n");
    size_t packed = length - strlen("\r\n") + lex_envelope_bytes(link);
    bool packets = lex_packet_bytes(link);
    unsigned most = MIN(link->payload, link->transmit); /* it is written into the ring */
    if (link->one_way || link->replies != LEX_REPLIES_FULL) {
        g_free(text);
        return;
    }
    if (packets && packed > most) {
        check_find(lx, LEX_D23, command->place, check_subject(command), g_strdup(text),
                   "\"%s\" has %zu bytes, but a %s of '%s' %u; the device sends \"ok\"", text,
                   packed, link->medium == LEX_SMS ? "message" : "packet", link->name, most);
    } else if (!packets && length > link->transmit) {
        check_find(lx, LEX_D11, command->place, check_subject(command), g_strdup(text),
                   "\"%s\" takes %zu bytes with its line end, but the transmit ring of "
                   "'%s' has %u; it is cut to \"ok\"",
                   text, length, link->name, link->transmit);
    }
    g_free(text);
}

bool check_goes_to(const struct lex_event *event, const struct lex_link *link)
{
    return !event->to->len ||
           g_ptr_array_find_with_equal_func(event->to, link->name, g_str_equal, NULL);
}

static void check_event_length(struct lexicon *lx, const struct lex_event *event,
                               const struct lex_link *link)
{
    char *word = event->what ? lex_element_longest(event->what, false) : g_strdup("");
    char *text = g_strdup_printf("ev %s%s%s", event->name, *word ? " " : "", word);
    bool packets = lex_packet_bytes(link);
    size_t ends = packets ? 0 : link->people ? strlen("\r\n\r\n") : strlen("\r\n");
    size_t length = strlen(text) + lex_envelope_bytes(link) + ends;
    unsigned most = packets ? MIN(link->payload, link->transmit) : link->transmit;
    if (check_goes_to(event, link) && length > most)
        check_find(lx, LEX_D24, event->place, event->name, g_strdup(text),
                   "\"%s\" has %zu bytes%s, but '%s' carries %u at once", text, length,
                   lex_envelope_bytes(link) ? " with its envelope" : "", link->name, most);
    g_free(text);
    g_free(word);
}

/* Whether its longest text, and its answer, fit the link. */
static bool carries(const struct lex_link *link, const struct lex_command *command)
{
    char *text = lex_command_longest(command, true);
    size_t length = strlen(text), around = lex_envelope_bytes(link);
    bool packets = lex_packet_bytes(link);
    g_free(text);
    length += packets ? strlen("ok  already") + around : 0;
    return lex_may_say(link, command) && !keyed(link) && length <= lex_frame_bytes(link);
}

/* A setting need not fit every link: one is enough. */
static bool said_elsewhere(const struct lexicon *lx, const struct lex_command *command)
{
    bool carried = false;
    for (unsigned i = 0; i < lx->links->len; i++) carried |= carries(lx->links->pdata[i], command);
    return carried && command->effect.kind == LEX_STORE;
}

void check_lengths(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < lx->commands->len; k++) {
            if (!lex_may_say(link, lx->commands->pdata[k])) continue;
            if (said_elsewhere(lx, lx->commands->pdata[k])) continue;
            check_line(lx, link, lx->commands->pdata[k]);
            check_reply(lx, link, lx->commands->pdata[k]);
        }
        for (unsigned k = 0; k < lx->events->len; k++)
            check_event_length(lx, lx->events->pdata[k], link);
    }
}

/* ---- characters of text messages (3GPP TS 23.038, 6.2.1) ---- */

/* Places that a character takes of 160; 0: the alphabet does not have it. */
static unsigned septets(gunichar c)
{
    static const char basic[] = "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?"
                                "¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà";
    static const char extended[] = "^{}\\[~]|€";
    if (g_utf8_strchr(basic, -1, c)) return 1;
    return g_utf8_strchr(extended, -1, c) ? 2 : 0;
}

static void check_characters(struct lexicon *lx, const struct lex_link *link,
                             struct lex_place place, const char *text)
{
    for (const char *p = text; text && *p; p = g_utf8_next_char(p)) {
        unsigned cost = septets(g_utf8_get_char(p));
        char *c = g_strndup(p, (gsize)(g_utf8_next_char(p) - p));
        if (cost != 1)
            check_find(lx, cost ? LEX_D25 : LEX_D26, place, link->name, g_strdup(text),
                       cost ? "'%s' in \"%s\" takes two places of a text message"
                            : "'%s' in \"%s\" is not in the alphabet of text messages",
                       c, text);
        g_free(c);
        if (cost != 1) return;
    }
}

/* What stands between its slots. */
static void check_answer_characters(struct lexicon *lx, const struct lex_link *link,
                                    const struct lex_command *command, const char *answer)
{
    struct answer_piece piece;
    while (answer && (answer = answer_next(command, answer, &piece))) {
        char *text = g_strndup(piece.text, piece.length);
        if (piece.slot < 0) check_characters(lx, link, command->place, text);
        g_free(text);
    }
}

static void check_message_texts(struct lexicon *lx, const struct lex_link *link)
{
    for (unsigned i = 0; i < link->texts->len; i++) {
        const struct lex_text *own = link->texts->pdata[i];
        struct answer_piece piece;
        const char *at = own->text;
        while ((at = own_text_next(own, at, &piece))) {
            char *text = piece.slot < 0 ? g_strndup(piece.text, piece.length) : NULL;
            check_characters(lx, link, own->place, text);
            g_free(text);
        }
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!answer_is_on(command, link)) continue;
        check_answer_characters(lx, link, command, command->says);
        check_answer_characters(lx, link, command, command->already);
    }
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        if (g_strcmp0(handset->link, link->name) != 0) continue;
        check_characters(lx, link, handset->place, handset->idle);
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            const struct lex_button *button = handset->buttons->pdata[k];
            check_characters(lx, link, button->place, button->press);
            check_characters(lx, link, button->place, button->held);
            check_characters(lx, link, button->place, button->release);
        }
    }
}

/* ---- what gets lost, doubled or overheard ---- */

/* Two frames of a fixed length without the first byte, as they are cut then. */
static char *shifted(const struct lex_link *link, const char *first, const char *second)
{
    GString *all = g_string_new(first);
    g_string_truncate(all, MIN(all->len, link->length));
    while (all->len < link->length) g_string_append_c(all, link->pad);
    g_string_append(all, second);
    g_string_erase(all, 0, 1);
    g_string_truncate(all, link->length);
    return g_string_free(all, FALSE);
}

static void check_step(struct lexicon *lx, const struct lex_link *link)
{
    if (link->frame == LEX_FRAME_FIXED && !link->gap && link->medium != LEX_RADIO) {
        char *text =
            lx->commands->len ? lex_command_longest(lx->commands->pdata[0], false) : g_strdup("a");
        char *cut = shifted(link, text, text);
        struct lex_fault *fault = check_find(
            lx, LEX_D28, link->place, link->name, cut,
            "when the first byte of \"%s\" is lost, '%s' reads \"%s\", and no frame after it right",
            text, link->name, cut);
        fault->advice = g_strdup("gap 20ms");
        g_free(text);
    }
    bool counted = false;
    const struct lex_key *example = NULL;
    for (unsigned i = 0; link->frame == LEX_FRAME_CODES && i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        if (strlen(key->code) > 1 && !example) example = key;
        counted |= strlen(key->code) > 1;
    }
    if (counted && !link->gap) {
        struct lex_fault *fault = check_find(
            lx, LEX_D28, link->place, link->name, g_strndup(example->code, 1),
            "when all but the first byte of '%s' is lost, '%s' waits for the rest, however long: "
            "nobody notices it before the next code",
            example->code, link->name);
        fault->advice = g_strdup("within 500ms");
    }
}

/* What the command does a second time, when it is more than the first. */
static const char *stepping_word(const struct lex_command *command, const struct lex_output *out)
{
    const struct lex_effect *effect = &command->effect;
    if (!out) return NULL;
    if (effect->verb) return effect->verb->steps ? effect->verb->word : NULL;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        for (unsigned k = 0; e->kind == LEX_CHOICE && k < e->words->len; k++) {
            const struct lex_verb *verb = lex_verb_of(out, e->words->pdata[k]);
            if (verb && verb->steps) return verb->word;
        }
    }
    return NULL;
}

static void check_twice(struct lexicon *lx, const struct lex_link *link)
{
    if (link->medium != LEX_RADIO || link->tags == LEX_DEMAND_REQUIRED ||
        link->seal == LEX_DEMAND_REQUIRED)
        return;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const char *word = stepping_word(command, lex_effect_output(lx, &command->effect));
        if (!word || !lex_may_say(link, command)) continue;
        char *text = g_strdup_printf("%s %s", check_subject(command), word);
        struct lex_fault *fault = check_find(
            lx, LEX_D29, command->place, check_subject(command), g_strdup(text),
            "a packet with \"%s\" that '%s' delivers twice is obeyed twice", text, link->name);
        fault->advice = g_strdup("tags required");
        g_free(text);
    }
}

static void check_one_way(struct lexicon *lx, const struct lex_link *link)
{
    if (!link->one_way) return;
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        if (event->to->len && check_goes_to(event, link))
            check_find(lx, LEX_D30, event->place, event->name, NULL,
                       "the event '%s' goes to '%s', which is one way, to the device", event->name,
                       link->name);
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        if (g_ptr_array_find_with_equal_func(link->only, query->name, g_str_equal, NULL))
            check_find(lx, LEX_D30, query->place, query->name, g_strdup_printf("%s?", query->name),
                       "\"%s?\" is asked over '%s', which cannot answer", query->name, link->name);
    }
    if (link->greets)
        check_find(lx, LEX_D30, link->place, link->name, NULL,
                   "'%s' should send the state of all events, but is one way, to the device",
                   link->name);
}

/* Whether somebody on the other side can send `got`. */
static bool can_confirm(const struct lex_link *link)
{
    return !keyed(link) && !link->one_way;
}

static void check_confirmed(struct lexicon *lx, const struct lex_link *link)
{
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        if (!event->confirmed || !check_goes_to(event, link) || link->one_way) continue;
        bool mute = false;
        for (unsigned k = 0; k < link->texts->len; k++) {
            const struct lex_text *own = link->texts->pdata[k];
            char **words = g_strsplit(own->what, " ", 3);
            mute |= !*own->text && words[1] && !strcmp(words[0], "ev") &&
                    !strcmp(words[1], event->name);
            g_strfreev(words);
        }
        if (can_confirm(link) && !mute) continue;
        struct lex_fault *fault =
            check_find(lx, LEX_D45, event->place, event->name, NULL,
                       mute ? "'%s' is confirmed, but its text on '%s' is empty: nobody hears it"
                            : "'%s' is confirmed, but '%s' takes keys only: nobody can send 'got'",
                       event->name, link->name);
        for (unsigned k = 0; k < lx->links->len && !fault->advice; k++) {
            const struct lex_link *other = lx->links->pdata[k];
            if (can_confirm(other)) fault->advice = g_strdup_printf("to %s", other->name);
        }
    }
}

static void check_notes(struct lexicon *lx)
{
    if (!(lx->built_in & RLX_BUILT_IN_NOTES) || !lx->links->len) return;
    for (unsigned i = 0; i < lx->links->len; i++)
        if (lex_has_notes(lx, lx->links->pdata[i])) return;
    const struct lex_link *link = lx->links->pdata[0];
    check_find(lx, LEX_D46, link->place, "notes", NULL,
               "'notes' is built in, but no link sends notes");
}

/* Whether its ring holds what comes between two polls. */
static void check_ring(struct lexicon *lx, const struct lex_link *link)
{
    unsigned bytes =
        lx->poll && link->baud && link->medium != LEX_SMS ? lex_bytes_within(link, lx->poll) : 0;
    uint32_t ms = lx->poll;
    if (bytes <= link->receive) return;
    struct lex_fault *fault = check_find(
        lx, LEX_D47, link->place, link->name, NULL,
        "%u bytes can come over '%s' between two polls %u ms apart, and its receive ring holds %u",
        bytes, link->name, ms, link->receive);
    while (ms > 1 && lex_bytes_within(link, ms) > RLX_RING_MAX) ms--;
    fault->advice = ms < lx->poll ? g_strdup_printf("poll every %ums", ms)
                                  : g_strdup_printf("receive %u", lex_ring_bytes(bytes));
}

/* Reports have a plug and text messages a registration, which the firmware reports. */
static void check_loss(struct lexicon *lx, const struct lex_link *link)
{
    bool told = link->lost || link->state_pin != LEX_NO_PIN;
    if (told || link->medium == LEX_REPORT || link->medium == LEX_SMS) return;
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        bool shows = !g_strcmp0(out->shows, link->name);
        if (!shows && g_strcmp0(out->lost, link->name)) continue;
        struct lex_fault *fault = check_find(
            lx, LEX_D42, link->place, link->name, NULL,
            shows ? "'%s' shows '%s', but nothing detects its loss"
                  : "'%s' goes to its safe state when '%s' is lost, but nothing detects that",
            out->name, link->name);
        fault->advice = g_strdup("lost after 5s");
        return;
    }
}

static void check_open(struct lexicon *lx, const struct lex_link *link)
{
    bool radio = link->medium == LEX_RADIO, sms = link->medium == LEX_SMS;
    bool known = link->open || link->seal == LEX_DEMAND_REQUIRED;
    if (sms) known = known || link->allow->len || link->allow_setting || link->code;
    if (known || (!radio && !sms)) return;
    struct lex_fault *fault =
        check_find(lx, LEX_D31, link->place, link->name, NULL,
                   !radio               ? "everybody who knows the number of '%s' may command"
                   : link->address >= 0 ? "everybody in range of '%s' may command: an address can "
                                          "be read along"
                                        : "everybody in range of '%s' may command",
                   link->name);
    fault->advice = g_strdup(!radio ? "allow +15550142" : link->layout ? "open" : "seal required");
}

/* ---- text to the end of the line ---- */

static void check_rest(struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_element *last = command->elements->pdata[command->elements->len - 1];
    if (!last->rest) return;
    const struct lex_link *checked = NULL;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->check == LEX_DEMAND_OPTIONAL && lex_may_say(link, command)) checked = link;
    }
    if (!checked && !(lx->built_in & RLX_BUILT_IN_BATCH)) return;
    const struct lex_command *other = lx->commands->pdata[0];
    char *next = lex_command_longest(other, false);
    char *text = checked ? g_strdup_printf("%s a*ABCD", check_subject(command))
                         : g_strdup_printf("%s a; %s", check_subject(command), next);
    if (checked)
        check_find(lx, LEX_D39, last->place, check_subject(command), text,
                   "in \"%s\" the end could be a check or text, as a check is optional on '%s'",
                   text, checked->name);
    else
        check_find(lx, LEX_D39, last->place, check_subject(command), text,
                   "\"%s\" is one command, with the second one in its text", text);
    g_free(next);
}

/* ---- self-ending frames ---- */

static bool same_place(char a, char b)
{
    return a == b || (a == '#' && g_ascii_isdigit(b)) || (b == '#' && g_ascii_isdigit(a));
}

static void check_code(struct lexicon *lx, const struct lex_link *link, unsigned index)
{
    const struct lex_key *key = link->keys->pdata[index];
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *other = link->keys->pdata[i];
        size_t n = strlen(other->code), k = 0;
        if (i == index || n > strlen(key->code) || (n == strlen(key->code) && i > index)) continue;
        while (k < n && same_place(other->code[k], key->code[k])) k++;
        if (k < n) continue;
        char *witness = g_strndup(key->code, n);
        for (k = 0; k < n; k++)
            if (witness[k] == '#') witness[k] = other->code[k] == '#' ? '0' : other->code[k];
        check_find(lx, LEX_D38, key->place, link->name, witness,
                   "'%s' is over at \"%s\", which is '%s'", key->code, witness, other->code);
        return;
    }
}

/* A text of the command with this character, or NULL. */
static char *text_with(const struct lex_command *command, char c)
{
    for (unsigned units = 0; units < 2; units++) {
        char *text = lex_command_longest(command, units);
        if (strchr(text, c)) return text;
        g_free(text);
    }
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        bool text = e->kind == LEX_TEXT && c >= ' ' && c <= '~'; /* others are refused */
        bool minus = c == '-' && e->kind == LEX_NUMBER && e->low < 0;
        bool digit = g_ascii_isdigit(c) && lex_has_numbers(e);
        if (text || minus || digit) return lex_command_text(command);
        for (unsigned k = 0; e->words && k < e->words->len; k++)
            if (strchr(e->words->pdata[k], c)) return g_strdup(e->words->pdata[k]);
    }
    return NULL;
}

static void check_self_ending(struct lexicon *lx, const struct lex_link *link)
{
    if (link->frame == LEX_FRAME_CODES)
        for (unsigned i = 0; i < link->keys->len; i++) check_code(lx, link, i);
    if (link->frame == LEX_FRAME_KEYS && link->lead)
        for (unsigned i = 0; i < link->keys->len; i++) {
            const struct lex_key *key = link->keys->pdata[i];
            if (key->key == link->lead)
                check_find(lx, LEX_D38, key->place, link->name, g_strdup(key->code),
                           "the key '%c' begins a line on '%s'", key->key, link->name);
        }
    char last = link->frame == LEX_FRAME_ENDED ? link->end : link->length ? link->pad : 0;
    for (unsigned i = 0; last && i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        char *text = lex_may_say(link, command) ? text_with(command, last) : NULL;
        if (!text) continue;
        check_find(lx, LEX_D41, command->place, check_subject(command), g_strdup(text),
                   "\"%s\" holds '%c', which %s '%s'", text, last,
                   link->frame == LEX_FRAME_ENDED ? "ends a frame of" : "fills the frames of",
                   link->name);
        g_free(text);
    }
}

void check_links(struct lexicon *lx)
{
    check_sayable(lx);
    check_notes(lx);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->medium == LEX_SMS) check_message_texts(lx, link);
        check_step(lx, link);
        check_twice(lx, link);
        check_one_way(lx, link);
        check_confirmed(lx, link);
        check_open(lx, link);
        check_ring(lx, link);
        check_loss(lx, link);
        check_self_ending(lx, link);
    }
    for (unsigned i = 0; i < lx->commands->len; i++) check_rest(lx, lx->commands->pdata[i]);
}
