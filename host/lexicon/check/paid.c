/* Checks what goes over links on which each message costs money.
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

void check_paid(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->medium != LEX_SMS) continue;
        for (unsigned k = 0; k < lx->events->len; k++) {
            const struct lex_event *event = lx->events->pdata[k];
            if (check_goes_to(event, link) && !link->one_way) check_costs(lx, event, link);
        }
    }
}
