/* The driver of a modem for text messages.
 * One exchange after the other, each with a time limit and tries; each poll takes what came, and
 * goes on.
 * It never waits. */
#include "sms_parts.h"

#if RLX_HAS_SMS

/* ---- to the modem ---- */

static uint8_t out_room(const struct rlx_sms *s)
{
    return (uint8_t)(RLX_SMS_OUT - (uint8_t)(s->out_head - s->out_tail));
}

static void out_put(struct rlx_sms *s, uint8_t byte)
{
    s->out[s->out_head & (RLX_SMS_OUT - 1)] = byte;
    RLX_FENCE();
    s->out_head++;
}

static void out_words(struct rlx_sms *s, rlx_rom words)
{
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(words);
        out_put(s, (uint8_t)(c & ~RLX_TEXT_END));
    } while (c < RLX_TEXT_END);
}

static void out_number(struct rlx_sms *s, uint16_t number)
{
    if (number >= 1000) out_put(s, (uint8_t)('0' + number / 1000));
    if (number >= 100) out_put(s, (uint8_t)('0' + number / 100 % 10));
    if (number >= 10) out_put(s, (uint8_t)('0' + number / 10 % 10));
    out_put(s, (uint8_t)('0' + number % 10));
}

RLX_INTERNAL bool rlx_sms_take(struct rlx_sms *s, uint8_t *byte)
{
    if (s->out_head == s->out_tail) return false;
    RLX_FENCE();
    *byte = s->out[s->out_tail & (RLX_SMS_OUT - 1)];
    RLX_FENCE();
    s->out_tail++;
    return true;
}

/* ---- steps ---- */

#define COMMAND(name, ...) static const uint8_t name[] RLX_ROM = {__VA_ARGS__}
COMMAND(say_hello, 'A', 'T', 'E', '0', 'Q', '0', 'V', '1' | RLX_TEXT_END);
COMMAND(say_errors, 'A', 'T', '+', 'C', 'M', 'E', 'E', '=', '1' | RLX_TEXT_END);
COMMAND(say_pin, 'A', 'T', '+', 'C', 'P', 'I', 'N', '?' | RLX_TEXT_END);
COMMAND(say_mode, 'A', 'T', '+', 'C', 'M', 'G', 'F', '=', '0' | RLX_TEXT_END);
COMMAND(say_store, 'A', 'T', '+', 'C', 'P', 'M', 'S', '=', '"', 'S', 'M', '"', ',', '"', 'S', 'M',
        '"', ',', '"', 'S', 'M', '"' | RLX_TEXT_END);
COMMAND(say_notices, 'A', 'T', '+', 'C', 'N', 'M', 'I', '=', '2', ',', '1' | RLX_TEXT_END);
COMMAND(say_zone, 'A', 'T', '+', 'C', 'T', 'Z', 'U', '=', '1' | RLX_TEXT_END);
COMMAND(say_registered, 'A', 'T', '+', 'C', 'R', 'E', 'G', '?' | RLX_TEXT_END);
COMMAND(say_count, 'A', 'T', '+', 'C', 'P', 'M', 'S', '?' | RLX_TEXT_END);
COMMAND(say_clock, 'A', 'T', '+', 'C', 'C', 'L', 'K', '?' | RLX_TEXT_END);
COMMAND(say_read, 'A', 'T', '+', 'C', 'M', 'G', 'R', '=' | RLX_TEXT_END);
COMMAND(say_send, 'A', 'T', '+', 'C', 'M', 'G', 'S', '=' | RLX_TEXT_END);
COMMAND(say_delete, 'A', 'T', '+', 'C', 'M', 'G', 'D', '=' | RLX_TEXT_END);

static const uint8_t *words_of(uint8_t step)
{
    switch (step) {
    case STEP_HELLO: return say_hello;
    case STEP_ERRORS: return say_errors;
    case STEP_PIN: return say_pin;
    case STEP_MODE: return say_mode;
    case STEP_STORE: return say_store;
    case STEP_NOTICES: return say_notices;
    case STEP_ZONE: return say_zone;
    case STEP_REGISTERED: return say_registered;
    case STEP_COUNT: return say_count;
    case STEP_CLOCK: return say_clock;
    case STEP_READ: return say_read;
    case STEP_SEND: return say_send;
    default: return say_delete;
    }
}

static void set_limit(const struct rlx_device *d, struct rlx_sms *s, uint32_t ms)
{
    s->timed = true;
    s->due = d->now + ms;
}

/* What waits in the transmit ring goes to the sender of the message; an event goes to the first
 * of those who are served. False: to nobody. */
static bool finds_to(const struct rlx_device *d, struct rlx_sms *s, rlx_rom row)
{
    return s->in_hand || rlx_sms_served(d, row, 1, s->to);
}

static uint8_t write_message(const struct rlx_link *link)
{
    return rlx_pdu_write(&link->sms->out_, link->sms->to, rlx_tx_ring(link) + link->tx_tail,
                         (uint8_t)(link->tx_head - link->tx_tail));
}

/* Says what the step wants, as soon as there is room. */
static void say_step(const struct rlx_device *d, struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    if (out_room(s) != RLX_SMS_OUT) return;
    if (s->step == STEP_HELLO) out_put(s, 0x1B); /* out of a message that was half sent */
    if (s->step == STEP_READ) {
        rlx_pdu_begin(&s->in, rlx_frame_text(link), rlx_frame_most(link));
        s->pdu_is_there = s->hex = false;
        s->nibble = 255;
    }
    if (s->step == STEP_PIN || s->step == STEP_REGISTERED) s->registered = false;
    out_words(s, words_of(s->step));
    if (s->step == STEP_READ || s->step == STEP_DELETE) out_number(s, s->index);
    if (s->step == STEP_SEND) out_number(s, write_message(link));
    out_put(s, '\r');
    s->asked = true;
    s->result = RESULT_NONE;
    set_limit(d, s, s->step == STEP_HELLO ? HELLO_MS : ANSWER_MS);
}

/* The message itself, as it finds room. */
static void say_text(const struct rlx_device *d, struct rlx_sms *s)
{
    static const uint8_t digits[] RLX_ROM = "0123456789ABCDEF";
    uint8_t octet;
    while (!s->asked && out_room(s) >= 2) {
        if (rlx_pdu_next(&s->out_, &octet)) {
            out_put(s, RLX_ROM8(digits + (octet >> 4)));
            out_put(s, RLX_ROM8(digits + (octet & 15)));
            continue;
        }
        out_put(s, 0x1A);
        s->asked = true;
        s->result = RESULT_NONE;
        set_limit(d, s, SEND_MS);
    }
}

/* The modem is started anew, after a pause that grows. */
static void start_anew(const struct rlx_device *d, struct rlx_sms *s)
{
    s->step = STEP_PAUSE;
    s->asked = false;
    rlx_sms_count(&s->resets);
    set_limit(d, s, PAUSE_MS << (s->fails < PAUSE_DOUBLE ? s->fails : PAUSE_DOUBLE));
    if (s->fails < PAUSE_DOUBLE) s->fails++;
}

/* The next place of the store, or the end of it. */
static void look_on(struct rlx_sms *s)
{
    bool over = s->found >= s->used || s->rounds > s->total;
    s->in_hand = false;
    s->tries = 0;
    s->step = STEP_READ;
    if (!over) return;
    s->step = STEP_IDLE;
    s->timed = false;
    s->fails = 0;
    if (!s->resumes) return;
    s->resumes = false; /* it is no longer there */
    s->more = true;
}

static void next_place(struct rlx_sms *s)
{
    s->index = (uint16_t)(s->index >= s->total ? 0u : s->index + 1u);
    s->rounds++;
    look_on(s);
}

/* It was sent, or given up. */
static void sent(struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    link->tx_head = link->tx_tail = 0;
    s->sends = 0;
    rlx_sms_answered(link);
}

static void not_sent(const struct rlx_device *d, struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    if (++s->sends < SENDS) {
        s->fails = s->sends;
        start_anew(d, s);
        return;
    }
    rlx_sms_count(&s->unsent);
    sent(link);
}

/* Where it goes on when the modem is started. */
static void go_on(struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    bool answers = link->tx_head != link->tx_tail;
    s->step = !s->in_hand ? STEP_IDLE : answers ? STEP_SEND : STEP_DELETE;
    s->more = true;
}

static void come_up(struct rlx_device *d, struct rlx_link *link, bool up)
{
#if RLX_HAS_UP
    if (link->down == up) rlx_link_set(d, rlx_link_number(d, link), up);
#else
    (void)d, (void)link, (void)up;
#endif
}

static void has_registered(struct rlx_device *d, struct rlx_link *link)
{
    struct rlx_sms *s = link->sms;
    come_up(d, link, s->registered);
    s->state = s->registered ? RLX_MODEM_READY : RLX_MODEM_NO_NETWORK;
    if (s->registered) {
        go_on(link);
        s->timed = false;
        return;
    }
    s->step = STEP_PAUSE;
    set_limit(d, s, SEARCH_MS);
}

/* A place was read: an error without a number, or with this one, means that it is empty. */
static void has_read(struct rlx_device *d, struct rlx_link *link, rlx_rom row, bool ok)
{
    struct rlx_sms *s = link->sms;
    if (!ok && s->fault && s->fault != NO_PLACE && ++s->tries < TRIES) return;
    if (ok && s->pdu_is_there) {
        rlx_sms_judge(d, link, row);
        if (s->in_hand || s->tries) return;
    }
    next_place(s);
}

/* A message was deleted, or cannot be. */
static void has_deleted(struct rlx_link *link, bool ok)
{
    struct rlx_sms *s = link->sms;
    if (!ok && ++s->tries < TRIES) return;
    s->tries = 0;
    if (ok && s->found) s->found--;
    if (ok && s->used) s->used--;
    if (s->begins && ok) { /* only now, where nothing can be kept */
        s->step = STEP_ACT;
        return;
    }
    rlx_sms_forget(link);
    s->more = ok; /* what cannot be deleted is looked at when it is time */
    next_place(s);
}

/* The modem has answered the command of the step, or has not. */
static void has_answered(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    struct rlx_sms *s = link->sms;
    enum result result = (enum result)s->result;
    bool ok = result == RESULT_OK;
    bool may_fail = s->step == STEP_ERRORS || s->step == STEP_STORE || s->step == STEP_ZONE ||
                    s->step == STEP_CLOCK;
    s->asked = false;
    s->timed = false;
    s->result = RESULT_NONE;
    if (result == RESULT_SILENT) s->state = RLX_MODEM_SILENT;
    if (s->step == STEP_PIN && result != RESULT_SILENT && !s->registered)
        s->state = ok ? RLX_MODEM_LOCKED : RLX_MODEM_NO_CARD;
    if (result == RESULT_PROMPT) {
        s->step = STEP_TEXT;
    } else if (s->step == STEP_TEXT || (s->step == STEP_SEND && !ok)) {
        if (ok && s->step == STEP_TEXT)
            sent(link);
        else
            not_sent(d, link);
    } else if (result == RESULT_SILENT || s->step == STEP_SEND) { /* NOLINT: the order counts */
        start_anew(d, s);
    } else if (s->step == STEP_READ) {
        has_read(d, link, row, ok);
    } else if (s->step == STEP_DELETE) {
        has_deleted(link, ok || s->fault == NO_PLACE); /* nothing is there any more */
    } else if (!ok && !may_fail) {
        start_anew(d, s);
    } else if (s->step == STEP_HELLO) {
        s->step = STEP_SETTLE;
        set_limit(d, s, SETTLE_MS);
    } else if (s->step == STEP_PIN && !s->registered) {
        start_anew(d, s);
    } else if (s->step == STEP_REGISTERED) {
        has_registered(d, link);
    } else if (s->step == STEP_CLOCK) {
        look_on(s);
    } else {
        s->step++;
    }
}

/* What is to be done where nothing is under way. */
static void look_around(const struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    struct rlx_sms *s = link->sms;
    if (link->tx_head != link->tx_tail) {
        if (finds_to(d, s, row))
            s->step = STEP_SEND;
        else
            rlx_sms_count(&s->unsent), sent(link);
    } else if (s->more) {
        s->step = STEP_COUNT;
        s->more = false;
        s->found = 0;
        s->rounds = 0;
        if (s->hint) s->index = s->hint;
        s->hint = 0;
    } else if (!s->timed) {
        set_limit(d, s, LOOK_MS);
    }
}

/* The time of a step is over. */
static void is_late(struct rlx_sms *s)
{
    s->timed = false;
    if (s->asked) {
        s->result = RESULT_SILENT;
    } else if (s->step == STEP_PAUSE) {
        s->step = STEP_HELLO;
    } else if (s->step == STEP_SETTLE) {
        s->step++;
    } else if (s->step == STEP_IDLE) {
        s->step = STEP_REGISTERED; /* then the store is looked at */
    }
}

/* Goes on as far as it can without the modem; false: it waits for something. */
static bool go_step(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    struct rlx_sms *s = link->sms;
    uint8_t before = s->step;
    if (s->timed && (int32_t)(d->now - s->due) >= 0) is_late(s);
    if (s->asked && !s->result) return false;
    if (s->asked) {
        has_answered(d, link, row);
        return true;
    }
    switch (s->step) {
    case STEP_SETTLE: return false;
    case STEP_PAUSE:
        if (!s->timed) start_anew(d, s);
        return false;
    case STEP_IDLE: look_around(d, link, row); break;
    case STEP_KEEP:
        if (!rlx_sms_is_kept(d, row) && !d->keep.none) return false;
        s->step = s->next;
        if (s->step == STEP_SEND && link->tx_head == link->tx_tail) rlx_sms_answered(link);
        break;
    case STEP_ACT: rlx_sms_act(d, link, row); break;
    case STEP_TEXT: say_text(d, s); return false;
    case STEP_CLOCK:
        if (!rlx_rom32(rlx_sms_row(d, row) + RLX_SMS_ROW_STALE) ||
            (s->clock_known && d->now - s->clock_at < CLOCK_MS))
            look_on(s);
        else
            say_step(d, link);
        break;
    default: say_step(d, link);
    }
    return s->step != before;
}

#if RLX_HAS_EVENTS || RLX_HAS_NOTES
RLX_INTERNAL bool rlx_sms_is_busy(const struct rlx_link *link)
{
    const struct rlx_sms *s = link->sms;
    return s && (s->in_hand || (s->step >= STEP_COUNT && s->step < STEP_IDLE));
}
#endif

RLX_INTERNAL void rlx_sms_begin(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    (void)d, (void)row;
    link->sms->nibble = 255;
#if RLX_HAS_UP
    link->down = true; /* until it has registered */
#endif
}

#if RLX_HAS_STATE
RLX_INTERNAL const char *rlx_sms_state(const struct rlx_device *d, uint8_t record)
{
    static const char *const words[] = {
#define WORD(id, word) [RLX_MODEM_##id] = (word),
        RLX_MODEM_STATES(WORD)
#undef WORD
    };
    rlx_rom row = rlx_link_rows(d);
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW) {
        const struct rlx_sms *s = rlx_link_at(d, i)->sms;
        if (!s || rlx_sms_record_of(d, row) != record) continue;
#if RLX_HAS_SMS_CODE
        if (s->state == RLX_MODEM_READY && (s->guesses[0].pauses || s->guesses[1].pauses))
            return RLX_TXT_GUESSED;
#endif
        bool untimed = !s->clock_known && rlx_rom32(rlx_sms_row(d, row) + RLX_SMS_ROW_STALE);
        return words[s->state == RLX_MODEM_READY && untimed ? RLX_MODEM_NO_CLOCK : s->state];
    }
    return 0;
}
#endif

RLX_INTERNAL uint32_t rlx_sms_run(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    struct rlx_sms *s = link->sms;
    rlx_set_current(d, link, link_no);
    if (!s->loaded) {
        if (!rlx_settings_loaded(d)) return 1; /* what was in hand at a power cut comes first */
        s->loaded = true;
        s->resumes = rlx_sms_has_record(d, row);
#if RLX_HAS_SMS_CODE
        if (s->resumes && RLX_ROM8(rlx_sms_row(d, row) + RLX_SMS_ROW_CODE))
            rlx_sms_load_guesses(d, s, row);
#endif
    }
#if RLX_HAS_SMS_CODE
    rlx_sms_run_guesses(d, s);
#endif
    for (uint8_t budget = 8; budget; budget--) {
        if (!s->result) rlx_sms_hear(d, link);
        if (!go_step(d, link, row)) break;
    }
    if (s->out_head != s->out_tail) rlx_port_kick(d->port, link_no);
    if (s->result || rlx_ring_waits(link)) return 0;
    if (s->step == STEP_KEEP) return 1;
    if (!s->timed) return s->step == STEP_TEXT || !s->asked ? 1 : RLX_FOREVER;
    return (int32_t)(s->due - d->now) <= 0 ? 0 : s->due - d->now;
}
#endif
