/* The sender's side of a packet radio: one command is under way, the others wait. */
#include "rlx/courier.h"

#include "rlx/error.h"
#include "rlx/inside.h"
#include "rlx/port.h"

#define PACKET_MAX 255u

int rlx_courier_init(struct rlx_courier *c, uint8_t tag)
{
    bool wrong = !c->errands || !c->n_errands || !c->told || !c->tries || c->tries > 20 ||
                 !c->pause_ms || c->pause_ms > 10000 || c->to == 255 || !c->from || c->from > 32;
    c->tag = tag;
    return wrong ? -RLX_ERR_RANGE : 0;
}

int rlx_courier_say(struct rlx_courier *c, const char *text)
{
    unsigned at = (unsigned)c->first + c->waiting;
    uint8_t count = 0;
    if (c->waiting == c->n_errands) return -RLX_ERR_BUSY;
    struct rlx_errand *e = &c->errands[at >= c->n_errands ? at - c->n_errands : at];
    for (; text[count]; count++) {
        if (count == RLX_ERRAND) return -RLX_ERR_LONG;
        e->text[count] = text[count];
    }
    e->count = count;
    e->tag = c->tag++;
    c->waiting++;
    return e->tag;
}

/* ---- frames ---- */

static uint16_t crc_of(const uint8_t *bytes, uint8_t count)
{
    uint16_t crc = 0xFFFF;
    while (count--) crc = rlx_crc_step(crc, *bytes++);
    return crc;
}

static uint8_t put_number(uint8_t *to, uint8_t at, uint8_t number)
{
    if (number >= 100) to[at++] = (uint8_t)('0' + number / 100);
    if (number >= 10) to[at++] = (uint8_t)('0' + number / 10 % 10);
    to[at++] = (uint8_t)('0' + number % 10);
    return at;
}

/* "@3/1 #17 pump on*ABCD"; returns its size. */
static uint8_t write_frame(const struct rlx_courier *c, const struct rlx_errand *e, uint8_t *to)
{
    uint8_t at = 0;
    to[at++] = '@';
    if (c->all)
        to[at++] = '*';
    else
        at = put_number(to, at, c->to);
    to[at++] = '/';
    at = put_number(to, at, c->from);
    to[at++] = ' ';
    to[at++] = '#';
    at = put_number(to, at, e->tag);
    to[at++] = ' ';
    for (uint8_t i = 0; i < e->count; i++) to[at++] = (uint8_t)e->text[i];
    if (c->check) {
        uint16_t crc = crc_of(to, at);
        to[at++] = '*';
        for (uint8_t n = 0; n < 4; n++) to[at++] = (uint8_t)('@' + (crc >> (12 - 4 * n) & 15));
    }
    while (at < c->fixed) to[at++] = ' ';
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

/* 0..255; false: there is none. */
static bool take_byte(struct reader *r, uint8_t *number)
{
    uint16_t n = 0;
    const uint8_t *from = r->at;
    for (; r->at != r->end && *r->at >= '0' && *r->at <= '9' && n <= 255; r->at++)
        n = (uint16_t)(n * 10u + (uint8_t)(*r->at - '0'));
    *number = (uint8_t)n;
    return r->at != from && n <= 255;
}

/* Takes the check off; false: there is none, or a wrong one. */
static bool take_check(struct reader *r)
{
    if (r->end - r->at < 6 || r->end[-5] != '*') return false;
    r->end -= 5;
    uint16_t crc = crc_of(r->at, (uint8_t)(r->end - r->at));
    for (uint8_t n = 0; n < 4; n++)
        if (r->end[1 + n] != (uint8_t)('@' + (crc >> (12 - 4 * n) & 15))) return false;
    return true;
}

/* ---- what comes ---- */

static bool is_unanswered(const struct rlx_courier *c)
{
    return c->one_way || c->all;
}

static void errand_over(struct rlx_courier *c)
{
    c->first = (uint8_t)(c->first + 1 == c->n_errands ? 0 : c->first + 1);
    c->waiting--;
    c->tried = 0;
}

static bool is_answer(const struct reader *r)
{
    return r->end - r->at >= 2 &&
           ((r->at[0] == 'o' && r->at[1] == 'k') || (r->at[0] == 'e' && r->at[1] != 'v'));
}

/* ev ..., note ..., ready ...: a command for all of another source is none of these. */
static bool is_told(const struct reader *r)
{
    static const char words[3][6] = {"ev ", "note ", "ready "};
    for (uint8_t i = 0; i < 3; i++) {
        const uint8_t *at = r->at;
        uint8_t n = 0;
        while (at != r->end && n < 6 && words[i][n] && *at == (uint8_t)words[i][n]) at++, n++;
        if (n == 6 || !words[i][n]) return true;
    }
    return false;
}

void rlx_courier_hear(struct rlx_courier *c, const uint8_t *packet, uint8_t count)
{
    struct reader r = {packet, packet + count};
    uint8_t to = 0, from = 0, tag = 0;
    while (r.end != r.at && (r.end[-1] == ' ' || r.end[-1] == '\r' || r.end[-1] == '\n')) r.end--;
    if (c->check && !take_check(&r)) {
        if (c->damaged != UINT16_MAX) c->damaged++;
        return;
    }
    if (!take(&r, '@')) return;
    bool all = take(&r, '*');
    if (!all && (!take_byte(&r, &to) || to != c->from)) return;
    if (!take(&r, '/') || !take_byte(&r, &from) || from != c->to || !take(&r, ' ')) return;
    if (take(&r, '#') && (!take_byte(&r, &tag) || !take(&r, ' '))) return;
    const struct rlx_errand *e = &c->errands[c->first];
    if (is_told(&r)) {
        c->told(c->user, RLX_TOLD, tag, (const char *)r.at, (uint8_t)(r.end - r.at));
    } else if (is_answer(&r) && !all && !is_unanswered(c) && c->waiting && c->tried &&
               tag == e->tag) {
        errand_over(c); /* before it is told: what is said then is the next one */
        c->told(c->user, RLX_ANSWERED, tag, (const char *)r.at, (uint8_t)(r.end - r.at));
    }
}

/* ---- what goes ---- */

uint32_t rlx_courier_poll(struct rlx_courier *c, uint32_t now)
{
    uint8_t packet[PACKET_MAX];
    while (c->waiting) {
        const struct rlx_errand *e = &c->errands[c->first];
        if (c->tried && (int32_t)(c->due - now) > 0) return c->due - now;
        if (c->tried == c->tries) {
            struct rlx_errand lost = *e;
            errand_over(c);
            c->told(c->user, is_unanswered(c) ? RLX_SAID : RLX_UNKNOWN, lost.tag, lost.text,
                    lost.count);
            continue;
        }
        if (!rlx_port_packet_send(c->port, c->link, packet, write_frame(c, e, packet))) return 1;
        if (c->sent != UINT16_MAX) c->sent++;
        c->tried++;
        c->due = now + (uint32_t)c->pause_ms * (is_unanswered(c) ? 1u : c->tried);
    }
    return UINT32_MAX;
}
