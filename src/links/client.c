/* The retry client: the sender's side of a link.
 * One command is under way, the others wait; each has its tag, tries and pause.
 * It does not know what a command means. */
#include "rlx/client.h"

#include "rlx/def/replies.h"
#include "rlx/error.h"
#include "rlx/port.h"
#include "rlx/wire.h"
#if RLX_CLIENT_SEAL
#include "../core/seal_code.h"
#endif

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
#if !RLX_CLIENT_SEAL
#define SEALED(c) false
#elif defined(RLX_CLIENT_REQUESTS)
#define SEALED(c) true
#else
#define SEALED(c) ((c)->key != 0)
#endif
/* Whether frames have tags; whether the device obeys a frame once that is sent more often. */
#define TAGGED(c)  (!NO_TAGS(c) && !SEALED(c))
#define REPEATS(c) (!NO_TAGS(c) || SEALED(c))
#define RENEWALS   4u /* other tags that are tried where one was used before */

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
                 !c->pause_ms || c->pause_ms > (REPEATS(c) ? 10000 : 60000) || c->to == 255 ||
                 (c->from == 0) != NO_SOURCE(c) || c->from > 32;
    if (!REPEATS(c))
        wrong |= c->tries != 1;
    else
        wrong |= c->window_ms < 500 || c->window_ms > 3600000 || span_of(c) > c->window_ms / 2;
    c->tag = (uint16_t)(start | RLX_TAG_OPENS) & RLX_TAG_MOST;
    c->opens = !is_unanswered(c);
#if RLX_CLIENT_SEAL
    if (SEALED(c))
        wrong |= is_unanswered(c) || c->key_count < RLX_HMAC_KEY_LEAST ||
                 c->key_count > RLX_HMAC_KEY_MOST || !c->key_number || !c->context;
    c->session = c->heard = 0;
    c->counter = 0;
    c->opening = SEALED(c);
    c->live = c->asks = c->plain = false;
#endif
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

#if RLX_CLIENT_SEAL
typedef uint32_t number_in_frame;
#else
typedef uint16_t number_in_frame;
#endif

static uint8_t put_number(uint8_t *to, uint8_t at, number_in_frame number)
{
    number_in_frame unit = 1;
    while (number / unit >= 10) unit = (number_in_frame)(unit * 10u);
    for (; unit; unit /= 10) to[at++] = (uint8_t)('0' + number / unit % 10);
    return at;
}

#if RLX_CLIENT_SEAL
/* Kinds of frames, in the codes of seals: src/core/seal.c. */
#define SEAL_OPENING 'o'
#define SEAL_SESSION 'a'
#define SEAL_COMMAND 'c'
#define SEAL_ANSWER  'r'
#define SEAL_TO_ALL  'e'

/* The code over a frame of `count` bytes, whose own code is or comes at `at`. */
static void code_of(const struct rlx_client *c, uint8_t kind, const uint8_t *frame, uint8_t count,
                    uint8_t at, uint8_t code[RLX_HMAC_CHARACTERS])
{
    struct rlx_hmac h;
    uint8_t mac[RLX_HMAC_BYTES];
    bool other = kind == SEAL_TO_ALL && c->key_to_all;
    bool answers = kind == SEAL_SESSION || kind == SEAL_ANSWER;
    uint32_t session = kind == SEAL_COMMAND || kind == SEAL_ANSWER ? c->session : 0;
    rlx_hmac_begin(&h, (const uint8_t *)(other ? c->key_to_all : c->key),
                   other ? c->key_to_all_count : c->key_count);
    rlx_hmac_add(&h, kind);
    for (const char *s = c->context; *s; s++) rlx_hmac_add(&h, (uint8_t)*s);
    rlx_hmac_add(&h, 0);
    for (uint8_t i = 0; i < 4; i++) rlx_hmac_add(&h, (uint8_t)(session >> 8 * (3 - i)));
    for (uint8_t i = 0; answers && i < RLX_HMAC_CHARACTERS; i++) rlx_hmac_add(&h, c->mac[i]);
    for (uint8_t i = 0; i < count; i++)
        if ((uint8_t)(i - at) >= RLX_HMAC_CHARACTERS) rlx_hmac_add(&h, frame[i]);
    rlx_hmac_end(&h, mac);
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++) code[i] = rlx_hmac_character(mac, i);
}

/* "!1.17.CODE " or, while it asks for a session, "!1?99.CODE", the code still to be written. */
static uint8_t begin_seal(const struct rlx_client *c, uint8_t *to, uint8_t at)
{
    to[at++] = '!';
    at = put_number(to, at, c->key_number);
    to[at++] = c->opening ? '?' : '.';
    at = put_number(to, at, c->opening ? c->random : c->counter + (c->tried ? 0u : 1u));
    to[at++] = '.';
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++) to[at++] = '-';
    if (!c->opening) to[at++] = ' ';
    return at;
}

static void end_seal(struct rlx_client *c, uint8_t *frame, uint8_t count, uint8_t at)
{
    code_of(c, c->opening ? SEAL_OPENING : SEAL_COMMAND, frame, count, at, c->mac);
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++) frame[at + i] = c->mac[i];
}
#endif

/* "@3/1 #17 pump on*ABCD"; returns its size. `plain`: without a seal. */
static uint8_t write_frame(struct rlx_client *c, const struct rlx_client_command *e, uint8_t *to,
                           bool plain)
{
    uint8_t at = 0, count = SEALED(c) && !e ? 0 : e->count;
#if RLX_CLIENT_SEAL
    uint8_t code = 0;
#endif
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
    if (TAGGED(c)) {
        to[at++] = '#';
        at = put_number(to, at, c->tag);
        to[at++] = ' ';
    }
#if RLX_CLIENT_SEAL
    if (SEALED(c) && !plain) {
        at = begin_seal(c, to, at);
        code = (uint8_t)(at - RLX_HMAC_CHARACTERS - !c->opening);
        if (c->opening) count = 0;
        while (count && e->text[count - 1] == ' ') count--; /* the device may take them off */
    }
#endif
    for (uint8_t i = 0; i < count; i++) to[at++] = (uint8_t)e->text[i];
#if RLX_CLIENT_SEAL
    if (SEALED(c) && !plain) end_seal(c, to, at, code);
#endif
    (void)plain;
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
    bool sent = c->tried;
#if RLX_CLIENT_SEAL
    if (SEALED(c) && c->opening) sent = false;
#endif
    for (uint8_t n = c->waiting; n; n--, sent = false)
        report_over(c, sent ? RLX_CLIENT_UNKNOWN : RLX_CLIENT_DROPPED);
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

static void report_event(struct rlx_client *c, const struct reader *r, uint16_t tag)
{
    c->report(c->user, RLX_CLIENT_EVENT, tag, (const char *)r->at, (uint8_t)(r->end - r->at));
}

/* It is answered: over before the report, which may queue the next one. */
static void report_answer(struct rlx_client *c, const struct reader *r, uint16_t tag)
{
    c->opens = false;
    command_over(c);
    c->report(c->user, RLX_CLIENT_ANSWERED, tag, (const char *)r->at, (uint8_t)(r->end - r->at));
}

#if RLX_CLIENT_SEAL
/* 0..4294967289; false: there is none. */
static bool take_count(struct reader *r, uint32_t *count)
{
    const uint8_t *from = r->at;
    for (*count = 0; r->at != r->end && *r->at >= '0' && *r->at <= '9'; r->at++) {
        if (*count >= UINT32_C(429496729)) return false;
        *count = *count * 10 + (uint8_t)(*r->at - '0');
    }
    return r->at != from;
}

/* Whether the code at `at` of the frame is right for this kind. */
static bool is_right(const struct rlx_client *c, uint8_t kind, const uint8_t *frame,
                     const struct reader *r, const uint8_t *at)
{
    uint8_t code[RLX_HMAC_CHARACTERS], differ = 0;
    code_of(c, kind, frame, (uint8_t)(r->end - frame), (uint8_t)(at - frame), code);
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++)
        differ = (uint8_t)(differ | (code[i] ^ at[i]));
    return !differ;
}

/* The device gave a session: its number is also higher than all that it sent before. */
static void begin_session(struct rlx_client *c, uint32_t session)
{
    if (session != c->session) c->counter = 0; /* no counter comes twice in one */
    c->session = session;
    c->live = true;
    if (session > c->heard) c->heard = session;
    c->proved = c->began;
    c->opening = false;
    c->tried = 0; /* the command is sent by the next poll */
}

static bool is_ready(const struct reader *r)
{
    static const char ready[] = RLX_TXT_READY;
    uint8_t n = 0;
    while (r->at + n != r->end && ready[n] && r->at[n] == (uint8_t)ready[n]) n++;
    return !ready[n] && r->at + n == r->end;
}

/* What has no seal, or a wrong one, is nobody's. */
static void receive_sealed(struct rlx_client *c, const uint8_t *frame, struct reader *r, bool all)
{
    uint32_t key, count;
    if (!take(r, '!') || !take_count(r, &key)) return;
    bool gives = take(r, '=');
    if ((!gives && !take(r, '.')) || !take_count(r, &count) || !take(r, '.')) return;
    const uint8_t *code = r->at;
    if (r->end - r->at < (int)RLX_HMAC_CHARACTERS) return;
    r->at += RLX_HMAC_CHARACTERS;
    bool mine = key == c->key_number && !all && c->tried;
    if (gives) {
        if (mine && c->opening && is_right(c, SEAL_SESSION, frame, r, code))
            begin_session(c, count);
        return;
    }
    if (!take(r, ' ')) return;
    if (mine && !c->opening && c->waiting && count == c->counter &&
        is_right(c, SEAL_ANSWER, frame, r, code)) {
        c->proved = c->began;
        if (is_answer(c, r)) report_answer(c, r, c->counter);
        return;
    }
    uint8_t sealed_by = c->key_to_all ? c->key_to_all_number : c->key_number;
    if (key != sealed_by || !c->heard || count <= c->heard ||
        !is_right(c, SEAL_TO_ALL, frame, r, code))
        return;
    c->heard = count;
    if (is_ready(r))
        c->live = false; /* the device starts, and has no sessions */
    else if (is_event(c, r))
        report_event(c, r, (uint16_t)count);
}
#endif

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
    if (!TAGGED(c) || !CHECKS(c)) its = true;
    if (CHECKS(c)) r.end -= 5;
    if (!take_address(c, &r, &all)) return;
#if RLX_CLIENT_SEAL
    if (SEALED(c)) {
        receive_sealed(c, packet, &r, all);
        return;
    }
#endif
    if (TAGGED(c) && take(&r, '#') && (!take_number(&r, RLX_TAG_MOST, &tag) || !take(&r, ' ')))
        return;
    bool awaited =
        !all && !is_unanswered(c) && c->waiting && c->tried && its && (!TAGGED(c) || tag == c->tag);
    if (is_event(c, &r)) {
        report_event(c, &r, tag);
        return;
    }
    if (!awaited || !is_answer(c, &r)) return;
    if (TAGGED(c) && is_old(&r, &has_tag, &tag)) {
        if (!has_tag || c->renewed++ == RENEWALS) {
            give_up(c);
            return;
        }
        c->tag = (tag + 1u) & TAG_COUNTS;
        c->opens = false;
        c->tried = 0; /* sent again by the next poll */
        return;
    }
    report_answer(c, &r, c->tag);
}

/* ---- what goes ---- */

#if RLX_CLIENT_SEAL
/* Half of the window is for the tries of the command that comes last. */
static void open_if_due(struct rlx_client *c, uint32_t now)
{
    if (c->opening || (c->waiting && c->tried)) return;
    bool over = !c->live || c->counter == UINT16_MAX || now - c->proved > c->window_ms / 2;
    c->opening = c->waiting ? over : c->asks && (int32_t)(c->due - now) <= 0;
    if (!c->opening) return;
    c->asks = c->plain = false;
    c->random++;
}

static bool is_halt(const struct rlx_client_command *e)
{
    static const char halt[] = "halt";
    uint8_t n = 0;
    while (n < 4 && e->text[n] == halt[n]) n++;
    return n == 4 && e->count == 4;
}

/* Nobody gave a session. Where nothing waits it asks again later, for the sake of events. */
static void end_opening(struct rlx_client *c, uint32_t now)
{
    c->live = false;
    c->tried = 0;
    c->opening = false;
    c->asks = !c->waiting;
    c->due = now + c->window_ms;
    if (c->waiting)
        report_over(c, is_halt(&c->queue[c->first]) ? RLX_CLIENT_UNKNOWN : RLX_CLIENT_DROPPED);
}
#endif

uint32_t rlx_client_poll(struct rlx_client *c, uint32_t now)
{
    uint8_t packet[RLX_CLIENT_PACKET];
    for (;;) {
        bool opening = false, plain = false;
#if RLX_CLIENT_SEAL
        if (SEALED(c)) open_if_due(c, now);
        opening = SEALED(c) && c->opening;
#endif
#if RLX_CLIENT_SEAL
        if (!c->waiting && !opening && SEALED(c) && c->asks) return c->due - now;
#endif
        if (!c->waiting && !opening) return UINT32_MAX;
        const struct rlx_client_command *e = SEALED(c) && !c->waiting ? 0 : &c->queue[c->first];
        bool late = REPEATS(c) && c->tried && now - c->began > c->window_ms / 2;
        bool waits = c->tried;
#if RLX_CLIENT_SEAL
        waits = waits || c->plain;
#endif
        if (waits && (int32_t)(c->due - now) > 0 && !late) return c->due - now;
        if (c->tried == c->tries || late) {
#if RLX_CLIENT_SEAL
            if (SEALED(c)) {
                if (opening) {
                    end_opening(c, now);
                    continue;
                }
                c->live = false; /* perhaps the device started anew */
            }
#endif
            give_up(c);
            continue;
        }
#if RLX_CLIENT_SEAL
        /* a halt does not wait for a session */
        plain = opening && e && !c->halt_sealed && !c->plain && is_halt(e);
#endif
        if (!rlx_port_packet_send(c->port, c->link, packet, write_frame(c, e, packet, plain)))
            return 1;
        if (c->sent != UINT16_MAX) c->sent++;
#if RLX_CLIENT_SEAL
        c->plain = plain;
        if (plain) { /* and asks for one behind the answer to that */
            c->due = now + c->pause_ms / 2u;
            continue;
        }
        if (SEALED(c) && !opening && !c->tried) c->counter++;
#endif
        if (!c->tried++) c->began = now;
        c->due = now + (uint32_t)c->pause_ms * (is_unanswered(c) ? 1u : c->tried);
    }
}
