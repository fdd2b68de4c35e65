/* Checks what goes over links on which each message costs money, and who may change the lists of
 * those who may command there.
 * Such a link is one of text messages.
 * Nothing here is an error: the lexicon can mean it. */
#include "lexicon/check/checks.h"
#include "rlx/link.h"

#define DAY_MS (UINT64_C(24) * 60 * 60 * 1000)

/* How often an unanswered event is told in a day. */
static unsigned repeats(const struct lex_event *event)
{
    unsigned n = 1;
    uint64_t at = 0, wait = RLX_EVENT_RETRY_MS * RLX_EVENT_RETRY_MESSAGES;
    for (;; n++) {
        at += MAX(wait, event->every);
        if (at >= DAY_MS) return n;
        if (n <= RLX_EVENT_RETRY_DOUBLE) wait *= 2;
    }
}

static void check_costs(struct lexicon *lx, const struct lex_event *event,
                        const struct lex_link *link)
{
    struct lex_fault *fault;
    if (event->confirmed && !event->per_day) {
        fault = check_find(lx, LEX_D50, event->place, event->name, NULL,
                           "'%s' is confirmed: where nobody says 'got', '%s' sends it %u times in "
                           "24 hours, each at a price",
                           event->name, link->name, repeats(event));
        fault->advice = g_strdup("at most 5 a day");
    }
    if (event->to->len || lx->links->len < 2) return;
    fault = check_find(lx, LEX_D51, event->place, event->name, NULL,
                       "'%s' goes to all links, to '%s', too, where each message has its price",
                       event->name, link->name);
    GString *to = g_string_new("to");
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *other = lx->links->pdata[i];
        if (other->medium != LEX_SMS && !other->one_way)
            g_string_append_printf(to, " %s", other->name);
    }
    if (to->len > 2) fault->advice = g_strdup(to->str);
    g_string_free(to, TRUE);
}

/* Whether somebody may be there whom nobody knows. */
static bool is_open_to_all(const struct lex_link *link)
{
    return link->open || link->medium == LEX_RADIO || link->medium == LEX_BRIDGE;
}

/* The setting's command: NAME VALUE. */
static const struct lex_command *stores(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        if (command->effect.kind == LEX_STORE && first->kind == LEX_WORD &&
            !g_ascii_strcasecmp(first->text, setting))
            return command;
    }
    return NULL;
}

static void check_door(struct lexicon *lx, const struct lex_link *link, const char *setting)
{
    const struct lex_command *command = setting ? stores(lx, setting) : NULL;
    for (unsigned i = 0; command && i < lx->links->len; i++) {
        const struct lex_link *other = lx->links->pdata[i];
        if (other == link || !is_open_to_all(other) || !lex_may_say(other, command)) continue;
        char *longest = lex_command_longest(command, false);
        check_find(lx, LEX_D52, link->place, setting, longest,
                   "'%s' decides who may command over '%s', and whoever reaches '%s' can change it",
                   setting, link->name, other->name);
        return;
    }
}

void check_paid(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->medium != LEX_SMS) continue;
        for (unsigned k = 0; k < lx->events->len; k++) {
            const struct lex_event *event = lx->events->pdata[k];
            if (check_goes_to(event, link) && !link->one_way) check_costs(lx, event, link);
        }
        check_door(lx, link, link->allow_setting);
        if (g_strcmp0(link->code, link->allow_setting) != 0) check_door(lx, link, link->code);
    }
}
