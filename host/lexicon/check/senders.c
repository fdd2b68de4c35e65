/* Checks handsets against the device that they command, and texts to be ignored.
 * Each button, slider and text is read as the device would read it.
 * It sends nothing. */
#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/check/checks.h"
#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"
#include "rlx/config.h"

/* The command that takes the text, or NULL. */
static const struct lex_command *taken_by(const struct lexicon *lx, const char *text)
{
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (lex_command_says(lx, lx->commands->pdata[i], text)) return lx->commands->pdata[i];
    const char *meant = lex_number_text(lx, text);
    return meant ? taken_by(lx, meant) : NULL;
}

static bool is_asked(const struct lexicon *lx, const char *text)
{
    size_t n = strlen(text);
    if (!n || text[n - 1] != '?') return false;
    char *name = g_strndup(text, n - 1);
    bool asked = lexicon_output_index(lx, name) >= 0 || lexicon_input(lx, name) ||
                 lexicon_setting(lx, name) || lex_asks_modem(lx, name);
    for (unsigned i = 0; i < lx->queries->len; i++)
        asked |= !strcmp(((struct lex_query *)lx->queries->pdata[i])->name, name);
    g_free(name);
    return asked;
}

/* The built-in word that a number or other words stand for; NULL: they stand for none. */
static const char *meant_by(const struct lexicon *lx, const char *said)
{
    const char *text = lex_number_text(lx, said);
    return text && lex_said_built_in(text) ? text : NULL;
}

/* Words that every device takes, and the names of routines. */
static bool is_built_in(const struct lexicon *lx, const char *text)
{
    if (meant_by(lx, text)) return true;
    for (unsigned i = 0; i < lx->routines->len; i++)
        if (!strcmp(((struct lex_routine *)lx->routines->pdata[i])->name, text)) return true;
    return lex_said_built_in(text) != NULL;
}

/* The word that was probably meant at this place of the commands that begin alike; NULL: none, or
 * this one. */
static const char *nearest_at(const struct lexicon *lx, unsigned place, const char *first,
                              const char *word)
{
    GPtrArray *words = g_ptr_array_new();
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->elements->len <= place ||
            (place && strcmp(check_subject(command), first) != 0))
            continue;
        const struct lex_element *e = command->elements->pdata[place];
        for (unsigned k = 0; e->words && k < e->words->len; k++)
            g_ptr_array_add(words, e->words->pdata[k]);
        if (e->kind == LEX_WORD && !e->words) g_ptr_array_add(words, e->text);
    }
    g_ptr_array_add(words, NULL);
    const char *near = lex_nearest(word, (const char *const *)words->pdata);
    g_ptr_array_free(words, TRUE);
    return near && strcmp(near, word) != 0 ? near : NULL;
}

/* The text that was probably meant: with another first word, or another second one. NULL: nothing
 * near. Owned by the caller. */
static char *nearest_text(const struct lexicon *lx, const char *text)
{
    char **words = g_strsplit(text, " ", -1), *advice = NULL;
    for (unsigned i = 0; i < 2 && !advice && words[0] && words[i]; i++) {
        const char *near = nearest_at(lx, i, words[0], words[i]);
        if (!near) continue;
        g_free(words[i]);
        words[i] = g_strdup(near);
        advice = g_strjoinv(" ", words);
    }
    g_strfreev(words);
    return advice;
}

/* The device must accept on its link what a button or slider sends. Returns the command. */
static const struct lex_command *check_said(struct lexicon *lx, const struct lex_handset *handset,
                                            struct lex_place place, const char *name,
                                            const char *said)
{
    const struct lex_link *link = handset->link ? lexicon_link(lx, handset->link) : NULL;
    if (!said || !link) return NULL;
    char *text = lex_link_hears(link, said);
    const struct lex_command *command = text ? taken_by(lx, text) : NULL;
    struct lex_fault *fault = NULL;
    if (!text)
        fault = check_find(lx, LEX_D37, place, name, g_strdup(said),
                           "'%s' sends \"%s\", which is no %s of '%s'", name, said,
                           lex_framing_of(link)->unit, link->name);
    else if (!command && !is_asked(lx, text) && !is_built_in(lx, text))
        fault = check_find(lx, LEX_D37, place, name, g_strdup(said),
                           "'%s' sends \"%s\", which no command takes", name, said);
    else if (link->layout ? !layout_says(link, text) : command && !lex_may_say(link, command))
        fault = check_find(lx, LEX_D37, place, name, g_strdup(said),
                           "'%s' sends \"%s\", which '%s' does not accept", name, said, link->name);
    if (fault && text && !command) fault->advice = nearest_text(lx, text);
    g_free(text);
    return command;
}

/* After how long it expires, at the soonest. */
static uint32_t expiry_of(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_output *out = lex_effect_output(lx, &command->effect);
    bool own = command->expires || !out;
    const char *by = own ? command->expires_by : out->expires_by;
    const struct lex_setting *setting = by ? lexicon_setting(lx, by) : NULL;
    if (setting && setting->slot) return (uint32_t)setting->slot->low;
    return own ? command->expires : out->expires;
}

static void check_button(struct lexicon *lx, const struct lex_handset *handset,
                         const struct lex_button *button)
{
    check_said(lx, handset, button->place, button->name, button->press);
    const struct lex_command *held =
        check_said(lx, handset, button->place, button->name, button->held);
    check_said(lx, handset, button->place, button->name, button->release);
    bool with = !button->with;
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        const struct lex_button *other = handset->buttons->pdata[i];
        with |= other != button && !g_strcmp0(other->name, button->with);
    }
    if (!with)
        lex_fault(lx, button->place, "'%s' has no other button '%s'", handset->name, button->with);
    uint32_t expires = held ? expiry_of(lx, held) : 0;
    if (!expires || (handset->repeat && handset->repeat < expires)) return;
    struct lex_element ms = {.form = LEX_TIME};
    char *expiry = lex_value_text(&ms, (int32_t)expires);
    char *repeat = lex_value_text(&ms, (int32_t)handset->repeat);
    struct lex_fault *fault =
        check_find(lx, LEX_D34, button->place, button->name, g_strdup(button->held),
                   handset->repeat ? "\"%s\" expires after %s, but '%s' sends it every %s"
                                   : "\"%s\" expires after %s, but '%s' does not repeat it%.0s",
                   button->held, expiry, button->name, repeat);
    fault->advice = g_strdup_printf("repeat %ums", MAX(expires / 3, 1));
    g_free(expiry);
    g_free(repeat);
}

static void check_lamp(struct lexicon *lx, const struct lex_handset *handset,
                       const struct lex_lamp *lamp)
{
    const struct lex_event *event = lamp->event ? lexicon_event(lx, lamp->event) : NULL;
    if (!event) {
        check_find(lx, LEX_D37, lamp->place, lamp->name, NULL,
                   "there is no event '%s' to light '%s'", lamp->event ? lamp->event : "",
                   lamp->name);
        return;
    }
    bool word = !lamp->word ||
                (event->what && g_ptr_array_find_with_equal_func(event->what->words, lamp->word,
                                                                 g_str_equal, NULL));
    if (!word)
        check_find(lx, LEX_D37, lamp->place, lamp->name, g_strdup(lamp->word),
                   "the event '%s' never is '%s'", event->name, lamp->word);
    if (event->to->len && handset->link &&
        !g_ptr_array_find_with_equal_func(event->to, handset->link, g_str_equal, NULL))
        check_find(lx, LEX_D37, lamp->place, lamp->name, NULL,
                   "the event '%s' is not sent over '%s'", event->name, handset->link);
}

static void check_handset(struct lexicon *lx, const struct lex_handset *handset)
{
    check_said(lx, handset, handset->place, handset->name, handset->idle);
    for (unsigned i = 0; i < handset->buttons->len; i++)
        check_button(lx, handset, handset->buttons->pdata[i]);
    for (unsigned i = 0; i < handset->lamps->len; i++)
        check_lamp(lx, handset, handset->lamps->pdata[i]);
    for (unsigned i = 0; i < handset->sliders->len; i++) {
        const struct lex_slider *slider = handset->sliders->pdata[i];
        GPtrArray *texts =
            slider->text ? lex_step_texts(lx, slider->text_place, slider->text) : NULL;
        unsigned faults = lx->faults->len;
        for (unsigned k = 0; texts && k < texts->len && lx->faults->len == faults; k++)
            check_said(lx, handset, slider->place, slider->name, texts->pdata[k]);
        if (texts) g_ptr_array_free(texts, TRUE);
    }
}

static void check_ignored(struct lexicon *lx, const struct lex_ignore *ignore)
{
    for (unsigned i = 0; ignore->text && i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->layout || (ignore->link && strcmp(ignore->link, link->name) != 0)) continue;
        char *text = lex_link_hears(link, ignore->text);
        const struct lex_command *command = text ? taken_by(lx, text) : NULL;
        g_free(text);
        if (!command || !lex_may_say(link, command)) continue;
        char *pattern = lex_command_text(command);
        check_find(lx, LEX_D40, ignore->place, link->name, g_strdup(ignore->text),
                   "\"%s\" is to be ignored on '%s', but '%s' in line %u takes it", ignore->text,
                   link->name, pattern, command->place.line);
        g_free(pattern);
        return;
    }
}

/* What is a command there: its pattern, or the word itself; NULL: nothing is. Owned by the caller.
 */
static char *command_there(const struct lexicon *lx, const struct lex_link *link, const char *text)
{
    const struct lex_command *command = taken_by(lx, text);
    for (const struct lex_built_in *b = lex_built_ins; !command && b->word; b++)
        if (b->said && lx->built_in & b->bit && !g_ascii_strcasecmp(b->word, text))
            return g_strdup(b->word);
    if (!command && meant_by(lx, text)) return g_strdup(text);
    if (!command && lx->built_in & RLX_BUILT_IN_STATE && is_asked(lx, text)) return g_strdup(text);
    return command && lex_may_say(link, command) ? lex_command_text(command) : NULL;
}

/* Whether it is the beginning of one of the element's words, and that is enough. */
static bool is_shortened(const struct lexicon *lx, const struct lex_element *e, const char *word)
{
    bool is = false;
    if (!lx->shorten || strlen(word) < lx->shorten) return false;
    if (e->kind == LEX_WORD || lex_has_words(e))
        for (unsigned i = 0; i < lex_spellings(e); i++)
            is |= !g_ascii_strncasecmp(lex_spelling(e, i), word, strlen(word));
    return is;
}

/* The command that begins with the word, or the word where it is built in; NULL: nothing does.
 * Owned by the caller. */
static char *begun_there(const struct lexicon *lx, const struct lex_link *link, const char *word)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *e = command->elements->pdata[0];
        int32_t value;
        if (lex_may_say(link, command) &&
            (lex_slot_of(e)->says(lx, e, word, &value) || is_shortened(lx, e, word) ||
             (lex_has_numbers(e) && lex_number_shaped(e, word))))
            return lex_command_text(command);
    }
    char *spelt = lex_spelt(lx, word), *taken = NULL;
    for (unsigned i = 0; !taken && i < lx->numbers->len; i++) {
        const char *said = ((struct lex_number *)lx->numbers->pdata[i])->said;
        char *first = g_strndup(said, strcspn(said, " "));
        if (!strcmp(first, spelt)) taken = g_strdup(said);
        g_free(first);
    }
    if (!taken && (is_built_in(lx, spelt) || is_asked(lx, spelt) || !strcmp(spelt, "got")))
        taken = g_strdup(word);
    g_free(spelt);
    return taken;
}

/* A text with values is known by what stands before the first of them. */
static void check_begun(struct lexicon *lx, const struct lex_link *link, const struct lex_text *own)
{
    char *word = g_strndup(own->text, strcspn(own->text, " {"));
    char *taken = begun_there(lx, link, word);
    if (taken)
        check_find(lx, LEX_D43, own->place, link->name, g_strdup(word),
                   "\"%s\", which '%s' sends for '%s', begins like the command '%s'", own->text,
                   link->name, own->what, taken);
    g_free(word);
    g_free(taken);
}

/* On links of keys and codes a lead stands before them. */
static void check_own(struct lexicon *lx, const struct lex_link *link, const struct lex_text *own)
{
    if (lex_is_keyed(link)) return;
    if (own_text_has_fields(own)) {
        check_begun(lx, link, own);
        return;
    }
    char **parts = g_strsplit(lx->built_in & RLX_BUILT_IN_BATCH ? own->text : "", ";", -1);
    char *taken = command_there(lx, link, own->text);
    for (unsigned i = 0; !taken && g_strv_length(parts) > 1 && parts[i]; i++)
        taken = command_there(lx, link, g_strstrip(parts[i]));
    if (taken)
        check_find(lx, LEX_D43, own->place, link->name, g_strdup(own->text),
                   "\"%s\", which '%s' sends for '%s', is the command '%s'", own->text, link->name,
                   own->what, taken);
    g_strfreev(parts);
    g_free(taken);
}

/* An answer with the nth of each choice's words, and every number's lowest or highest value. */
static char *sample(const struct lex_command *command, const char *answer, unsigned n)
{
    char *slots[128] = {NULL};
    unsigned count = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        slots[count++] = e->kind == LEX_NUMBER ? lex_value_text(e, n % 2 ? e->high : e->low)
                         : e->words ? g_strdup(e->words->pdata[MIN(n, e->words->len - 1)])
                                    : g_strdup("a");
    }
    char *text = answer_text(command, answer, slots);
    while (count) g_free(slots[--count]);
    return text;
}

/* It is passed over when it comes back: neither it nor what looks like it may be a command. */
static void check_answer(struct lexicon *lx, const struct lex_link *link,
                         const struct lex_command *command, const char *answer)
{
    unsigned from = lx->faults->len, samples = 2;
    char *what = lex_command_text(command);
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind != LEX_WORD && e->words) samples = MAX(samples, e->words->len);
    }
    for (unsigned i = 0; i < samples && lx->faults->len == from; i++) {
        char *text = sample(command, answer, i);
        char *with = g_strconcat(text, " already", NULL);
        const struct lex_text own = {.place = command->place, .what = what, .text = text};
        const struct lex_text other = {.place = command->place, .what = what, .text = with};
        check_own(lx, link, &own);
        if (lx->faults->len == from) check_own(lx, link, &other);
        g_free(text);
        g_free(with);
    }
    for (unsigned i = 0; i < 2 * lx->commands->len && lx->faults->len == from; i++) {
        char *text = lex_command_longest(lx->commands->pdata[i / 2], i % 2);
        const char *behind = answer_behind(command, answer, text);
        const struct lex_text own = {.place = command->place, .what = what, .text = text};
        if (behind && !*behind) check_own(lx, link, &own);
        g_free(text);
    }
    g_free(what);
}

static void check_answers(struct lexicon *lx, const struct lex_link *link)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!answer_is_on(command, link) || lex_is_keyed(link)) continue;
        check_answer(lx, link, command, command->says);
        if (command->already) check_answer(lx, link, command, command->already);
    }
}

void check_senders(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->texts->len; k++) check_own(lx, link, link->texts->pdata[k]);
        check_answers(lx, link);
    }
    for (unsigned i = 0; i < lx->handsets->len; i++) check_handset(lx, lx->handsets->pdata[i]);
    for (unsigned i = 0; i < lx->ignores->len; i++) check_ignored(lx, lx->ignores->pdata[i]);
}
