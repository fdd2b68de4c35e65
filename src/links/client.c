/* The retry client: the sender's side of a link.
 * One command is under way, the others wait; each has its tag, tries and pause.
 * It does not know what a command means. */
#include "rlx/client.h"

#include "rlx/def/replies.h"
#include "rlx/error.h"
#include "rlx/port.h"
#include "rlx/wire.h"

#define TAG_COUNTS (RLX_TAG_OPENS - 1u)

/* What a link has is asked of the client, or is a constant of its sender. */
#ifdef RLX_CLIENT_REQUESTS
#define NO_ADDRESS(c) RLX_CLIENT_NO_ADDRESS
#define NO_SOURCE(c)  RLX_CLIENT_NO_SOURCE
#define NO_TAGS(c)    RLX_CLIENT_NO_TAGS
#define CHECKS(c)     RLX_CLIENT_CHECK
#else
#define NO_ADDRESS(c) ((c)->no_address)
#define NO_SOURCE(c)  ((c)->no_source)
#define NO_TAGS(c)    ((c)->no_tags)
#define CHECKS(c)     ((c)->check)
#endif
#define RENEWALS 4u /* other tags that are tried where one was used before */

static bool is_unanswered(const struct rlx_client *c)
{
    return c->one_way || c->all;
}

/* From the first try to the last. */
static uint32_t span_of(const struct rlx_client *c)
{
    uint32_t pauses = c->tries - 1u;
    return c->pause_ms * (is_unanswered(c) ? pauses : pauses * c->tries / 2);
}

int rlx_client_init(struct rlx_client *c, uint16_t start)
{
    bool wrong = !c->queue || !c->queue_size || !c->report || !c->tries || c->tries > 20 ||
                 !c->pause_ms || c->pause_ms > (NO_TAGS(c) ? 60000 : 10000) || c->to == 255 ||
                 (c->from == 0) != NO_SOURCE(c) || c->from > 32;
    if (NO_TAGS(c))
        wrong |= c->tries != 1;
    else
        wrong |= c->window_ms < 500 || c->window_ms > 3600000 || span_of(c) > c->window_ms / 2;
    c->tag = (uint16_t)(start | RLX_TAG_OPENS) & RLX_TAG_MOST;
    c->opens = !is_unanswered(c);
    return wrong ? -RLX_ERR_RANGE : 0;
}

int rlx_client_send(struct rlx_client *c, const char *text)
{
    unsigned at = (unsigned)c->first + c->waiting;
    uint8_t count = 0;
    if (c->waiting == c->queue_size) return -RLX_ERR_BUSY;
    struct rlx_client_command *e = &c->queue[at >= c->queue_size ? at - c->queue_size : at];
    for (; text[count]; count++) {
        if (count == RLX_CLIENT_BYTES) return -RLX_ERR_LONG;
        e->text[count] = text[count];
    }
#ifdef RLX_CLIENT_REQUESTS
    e->request = c->request_next;
#endif
    e->count = count;
    c->waiting++;
    return 0;
}

/* ---- frames ---- */

static uint16_t crc_of(uint16_t crc, const uint8_t *bytes, uint8_t count)
{
    while (count--) crc = rlx_crc_step(crc, *bytes++);
    return crc;
}

static uint8_t put_number(uint8_t *to, uint8_t at, uint16_t number)
{
    uint16_t unit = 1;
    while (number / unit >= 10) unit = (uint16_t)(unit * 10u);
    for (; unit; unit /= 10) to[at++] = (uint8_t)('0' + number / unit % 10);
    return at;
}

/* "@3/1 #17 pump on*ABCD"; returns its size. */
static uint8_t write_frame(struct rlx_client *c, const struct rlx_client_command *e, uint8_t *to)
{
    uint8_t at = 0;
    if (!NO_ADDRESS(c)) {
        to[at++] = '@';
        if (c->all)
            to[at++] = '*';
        else
            at = put_number(to, at, c->to);
        if (!NO_SOURCE(c)) {
            to[at++] = '/';
            at = put_number(to, at, c->from);
        }
        to[at++] = ' ';
    }
    if (!NO_TAGS(c)) {
        to[at++] = '#';
        at = put_number(to, at, c->tag);
        to[at++] = ' ';
    }
    for (uint8_t i = 0; i < e->count; i++) to[at++] = (uint8_t)e->text[i];
    if (CHECKS(c)) {
        uint16_t crc = c->sum = crc_of(RLX_CRC_START, to, at);
        to[at++] = '*';
        for (uint8_t n = 0; n < 4; n++) to[at++] = rlx_crc_character(crc, n);
    }
#ifdef RLX_CLIENT_END
    to[at++] = RLX_CLIENT_END;
#endif
#if RLX_CLIENT_PIECE
    while (at % RLX_CLIENT_PIECE) to[at++] = 0;
#endif
    while (at < c->fixed) to[at++] = RLX_CLIENT_PAD;
    return at;
}

/* What is being read of an answer. */
struct reader {
    const uint8_t *at, *end;
};

static bool take(struct reader *r, uint8_t c)
{
    if (r->at == r->end || *r->at != c) return false;
    r->at++;
    return true;
}

/* 0..most; false: there is none. */
static bool take_number(struct reader *r, uint16_t most, uint16_t *number)
{
    uint32_t n = 0;
    const uint8_t *from = r->at;
    for (; r->at != r->end && *r->at >= '0' && *r->at <= '9' && n <= most; r->at++)
        n = n * 10u + (uint8_t)(*r->at - '0');
    *number = (uint16_t)n;
    return r->at != from && n <= most;
}

/* Whether the check behind it is right, begun with this: that of a frame, or that of the answer to
 * one. */
static bool is_checked(const struct reader *r, uint16_t start)
{
    if (r->end - r->at < 6 || r->end[-5] != '*') return false;
    uint16_t crc = crc_of(start, r->at, (uint8_t)(r->end - 5 - r->at));
    for (uint8_t n = 0; n < 4; n++)
        if (r->end[n - 4] != rlx_crc_character(crc, n)) return false;
    return true;
}

/* ---- what comes ---- */

static void command_over(struct rlx_client *c)
{
#ifdef RLX_CLIENT_REQUESTS
    c->request = c->queue[c->first].request;
#endif
    c->first = (uint8_t)(c->first + 1 == c->queue_size ? 0 : c->first + 1);
    c->waiting--;
    c->tried = c->renewed = 0;
    /* until the device has answered one it may remember an earlier start */
    c->tag = ((c->tag + 1u) & TAG_COUNTS) | (c->opens ? RLX_TAG_OPENS : 0u);
}

#ifdef RLX_CLIENT_REQUESTS /* a sender knows its lexicon */
static bool is_answer(const struct rlx_client *c, const struct reader *r)
{
    return rlx_client_is_answer(c->user, c->queue[c->first].request, (const char *)r->at,
                                (uint8_t)(r->end - r->at));
}

static bool is_event(const struct rlx_client *c, const struct reader *r)
{
    return rlx_client_is_event(c->user, (const char *)r->at, (uint8_t)(r->end - r->at));
}
#else
static bool is_answer(const struct rlx_client *c, const struct reader *r)
{
    (void)c;
    return r->end - r->at >= 2 &&
           ((r->at[0] == 'o' && r->at[1] == 'k') || (r->at[0] == 'e' && r->at[1] != 'v'));
}

/* ev ..., note ..., ready ...: a command for all of another source is none of these. */
static bool is_event(const struct rlx_client *c, const struct reader *r)
{
    static const char words[3][sizeof RLX_TXT_READY " " - 1] = {RLX_TXT_EVENT, RLX_TXT_NOTE,
                                                                RLX_TXT_READY " "};
    (void)c;
    for (uint8_t i = 0; i < 3; i++) {
        const uint8_t *at = r->at;
        uint8_t n = 0;
        while (at != r->end && n < 6 && words[i][n] && *at == (uint8_t)words[i][n]) at++, n++;
        if (n == 6 || !words[i][n]) return true;
    }
    return false;
}
#endif

/* err old 17, or its short form: the tag was used before, by an earlier start of this source. True:
 * the command was not obeyed, and that is the last tag; without one it may have been. */
static bool is_old(const struct reader *answer, bool *has_last, uint16_t *last)
{
    static const char words[2][8] = {"err old", "e18"};
    for (uint8_t i = 0; i < 2; i++) {
        struct reader r = *answer;
        uint8_t n = 0;
        while (n < 7 && words[i][n] && take(&r, (uint8_t)words[i][n])) n++;
        if (n != 7 && words[i][n]) continue;
        *has_last = false;
        if (r.at == r.end) return true;
        *has_last = true;
        return take(&r, ' ') && take_number(&r, RLX_TAG_MOST, last) && r.at == r.end;
    }
    return false;
}

static void report_over(struct rlx_client *c, enum rlx_delivery what)
{
    struct rlx_client_command lost = c->queue[c->first];
    uint16_t tag = c->tag;
    command_over(c);
    c->report(c->user, what, tag, lost.text, lost.count);
}

/* All tries are used up, or it is too late to send it again. */
static void give_up(struct rlx_client *c)
{
    report_over(c, is_unanswered(c) ? RLX_CLIENT_SENT : RLX_CLIENT_UNKNOWN);
}

void rlx_client_drop(struct rlx_client *c)
{
    for (uint8_t n = c->waiting; n; n--)
        report_over(c, c->tried ? RLX_CLIENT_UNKNOWN : RLX_CLIENT_DROPPED);
}

/* Takes the address off; *all: it is to every source. False: it is not to this one. */
static bool take_address(const struct rlx_client *c, struct reader *r, bool *all)
{
    uint16_t to = 0, from = 0;
    if (NO_ADDRESS(c)) return true;
    if (!take(r, '@')) return false;
    *all = take(r, '*');
    if (!*all && (!take_number(r, 255, &to) || to != c->from)) return false;
    return take(r, '/') && take_number(r, 255, &from) && from == c->to && take(r, ' ');
}

void rlx_client_receive(struct rlx_client *c, const uint8_t *packet, uint8_t count)
{
    struct reader r = {packet, packet + count};
    uint16_t tag = 0;
    bool all = false, has_tag = false;
    while (r.end != r.at && (r.end[-1] == ' ' || r.end[-1] == '\r' || r.end[-1] == '\n' ||
                             (c->fixed && r.end[-1] == RLX_CLIENT_PAD)))
        r.end--;
    bool its = CHECKS(c) && is_checked(&r, c->sum); /* the answer to the frame that was sent last */
    if (CHECKS(c) && !its && !is_checked(&r, RLX_CRC_START)) {
        if (c->damaged != UINT16_MAX) c->damaged++;
        return;
    }
    if (NO_TAGS(c) || !CHECKS(c)) its = true;
    if (CHECKS(c)) r.end -= 5;
    if (!take_address(c, &r, &all)) return;
    if (!NO_TAGS(c) && take(&r, '#') && (!take_number(&r, RLX_TAG_MOST, &tag) || !take(&r, ' ')))
        return;
    bool awaited =
        !all && !is_unanswered(c) && c->waiting && c->tried && its && (NO_TAGS(c) || tag == c->tag);
    if (is_event(c, &r)) {
        c->report(c->user, RLX_CLIENT_EVENT, tag, (const char *)r.at, (uint8_t)(r.end - r.at));
        return;
    }
    if (!awaited || !is_answer(c, &r)) return;
    if (!NO_TAGS(c) && is_old(&r, &has_tag, &tag)) {
        if (!has_tag || c->renewed++ == RENEWALS) {
            give_up(c);
            return;
        }
        c->tag = (tag + 1u) & TAG_COUNTS;
        c->opens = false;
        c->tried = 0; /* sent again by the next poll */
        return;
    }
    tag = c->tag;
    c->opens = false;
    command_over(c); /* before the report, which may queue the next one */
    c->report(c->user, RLX_CLIENT_ANSWERED, tag, (const char *)r.at, (uint8_t)(r.end - r.at));
}

/* ---- what goes ---- */

uint32_t rlx_client_poll(struct rlx_client *c, uint32_t now)
{
    uint8_t packet[RLX_CLIENT_PACKET];
    while (c->waiting) {
        const struct rlx_client_command *e = &c->queue[c->first];
        bool late = !NO_TAGS(c) && c->tried && now - c->began > c->window_ms / 2;
        if (c->tried && (int32_t)(c->due - now) > 0 && !late) return c->due - now;
        if (c->tried == c->tries || late) {
            give_up(c);
            continue;
        }
        if (!rlx_port_packet_send(c->port, c->link, packet, write_frame(c, e, packet))) return 1;
        if (c->sent != UINT16_MAX) c->sent++;
        if (!c->tried++) c->began = now;
        c->due = now + (uint32_t)c->pause_ms * (is_unanswered(c) ? 1u : c->tried);
    }
    return UINT32_MAX;
}
