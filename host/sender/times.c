/* How often a sender sends a command, and how long it waits for the answer.
 * From the link's rate, the longest answer, and the window in which the device knows a tag.
 * It counts no tries: the retry client does. */
#include "lexicon/framing.h"
#include "sender/sender.h"
#include "sender/sender_parts.h"

static bool is_silent(const struct lex_link *link)
{
    return !sender_is_answered(link);
}

/* Milliseconds that so many bytes take on the wire. */
static unsigned wire_ms(const struct lex_link *link, unsigned bytes)
{
    if (!link->baud || link->medium == LEX_SMS) return 0;
    return (bytes * lex_format_bits(&link->format) * 1000u + link->baud - 1) / link->baud;
}

/* How long an answer may take: the command, the answer, an event before it, and the device's own
 * time; over text messages a minute. */
static unsigned answer_ms(const struct lex_link *link)
{
    if (link->medium == LEX_SMS) return 60000;
    unsigned bytes = lex_frame_bytes(link) + link->reply + link->event;
    unsigned time = wire_ms(link, bytes) + 3 * link->gap +
                    (link->baud             ? 200
                     : sender_repeats(link) ? 150
                                            : 500);
    return MIN((time + 49) / 50 * 50, 10000);
}

bool sender_repeats(const struct lex_link *link)
{
    return link->tags || link->seal;
}

unsigned sender_tries(const struct lex_link *link)
{
    return !sender_repeats(link) ? 1 : is_silent(link) ? 3 : 4;
}

/* The pause before the second try; each further one is longer by as much. All are at most half of
 * the window. */
unsigned sender_pause_ms(const struct lex_link *link)
{
    unsigned tries = sender_tries(link),
             pauses = is_silent(link) ? tries - 1 : (tries - 1) * tries / 2;
    unsigned pause = is_silent(link) ? wire_ms(link, lex_frame_bytes(link)) + 2 * link->gap + 50
                                     : answer_ms(link);
    return sender_repeats(link) ? CLAMP(pause, 1, link->window / 2 / pauses) : pause;
}

char *sender_manner(const struct lex_link *link)
{
    const char *silent = "Nobody answers on this link: what was obeyed nobody knows.";
    if (!sender_repeats(link) && is_silent(link))
        return g_strdup_printf("Each command is sent once. %s", silent);
    if (!sender_repeats(link))
        return g_strdup_printf(
            "The link has no tags: each command is sent once, and %u ms without an "
            "answer leave it open whether it was obeyed.",
            sender_pause_ms(link));
    if (is_silent(link))
        return g_strdup_printf(
            "Each command is sent %u times with one tag, %u ms apart, and obeyed "
            "once. %s",
            sender_tries(link), sender_pause_ms(link), silent);
    return g_strdup_printf("Each command is sent up to %u times with one %s, after %u ms, %u ms, "
                           "%u ms, and obeyed once at most.",
                           sender_tries(link), link->seal ? "seal" : "tag", sender_pause_ms(link),
                           2 * sender_pause_ms(link), 3 * sender_pause_ms(link));
}
