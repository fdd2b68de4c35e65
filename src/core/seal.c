/* Seals: !1.17.CODE before a command. The code is an HMAC with a key that sender and device have.
 * A sender opens a session, and the device gives it a number; frames of a session count up from 1.
 * So nothing that was recorded is obeyed again. It does not look at the command.
 *
 * What a code covers: one character for the kind of frame, the lexicon's name and version and the
 * link's name, a 0, the number of the session (4 bytes, the high one first; 0 where there is none),
 * of an answer the code that it answers, and then the frame without its own code and check. */
#include "core.h"

#if RLX_HAS_SEAL

#include "seal_code.h"

#define SEAL_LEAD '!'
/* Kinds of frames, in the codes. */
#define SEAL_OPENS   'o' /* !1?RANDOM.CODE */
#define SEAL_OPENED  'a' /* !1=SESSION.CODE */
#define SEAL_COMMAND 'c' /* !1.COUNTER.CODE text */
#define SEAL_ANSWER  'r' /* the same, before the answer */
#define SEAL_TO_ALL  'e' /* !1.NUMBER.CODE ev ... */

/* The device's own numbers: of sessions, and of what it sends to all. None is used twice: before
 * they are used, the end of a block of them is in non-volatile memory, and a start begins there. */
#define OWN_BLOCK 64u
#define OWN_LEFT  16u /* so many are left when the next block is written */
#define OWN_LAST  0xFFFFFF00u

static rlx_rom seal_of(rlx_rom more)
{
    return more + RLX_MORE_SEAL;
}

static bool is_sealed(const struct rlx_device *d, rlx_rom row)
{
    return (rlx_flags(d, row) & RLX_LINK_SEALED) == RLX_LINK_SEALED;
}

struct key {
    const uint8_t *text;
    uint8_t count, sender;
};

static struct key key_of(const struct rlx_device *d, rlx_rom seal, uint8_t number)
{
    rlx_rom at = seal + RLX_SEAL_ROWS + 2u * (number - 1u);
    const uint8_t *text = rlx_setting_record(d, RLX_ROM8(at));
    return (struct key){text + 1, *text, RLX_ROM8(at + 1)};
}

static rlx_rom first_seal(const struct rlx_device *d)
{
    rlx_rom row = rlx_link_rows(d);
    while (!is_sealed(d, row)) row += RLX_LNK_ROW; /* there is one */
    return seal_of(rlx_more(d, row));
}

RLX_INTERNAL bool rlx_seal_denies(const struct rlx_device *d, uint8_t setting)
{
    if (!rlx_needs(d, RLX_BIT_SEAL) || !d->seal_key) return false;
    rlx_rom seal = seal_of(rlx_more(d, rlx_link_row(d, rlx_current_number(d))));
    return RLX_ROM8(seal + RLX_SEAL_ROWS + 2u * (d->seal_key - 1u)) == setting;
}

/* ---- codes ---- */

static void begin_code(const struct rlx_device *d, struct rlx_hmac *h, rlx_rom seal, uint8_t number,
                       uint8_t kind, uint32_t session)
{
    struct key key = key_of(d, seal, number);
    rlx_rom name = seal + RLX_SEAL_ROWS + 2u * RLX_ROM8(seal + RLX_SEAL_KEYS);
    uint8_t c;
    rlx_hmac_begin(h, key.text, key.count);
    rlx_hmac_add(h, kind);
    do {
        c = RLX_ROM8_NEXT(name);
        rlx_hmac_add(h, (uint8_t)(c & ~RLX_TEXT_END));
    } while (c < RLX_TEXT_END);
    rlx_hmac_add(h, 0);
    for (uint8_t i = 0; i < 4; i++) rlx_hmac_add(h, (uint8_t)(session >> 8 * (3 - i)));
    for (uint8_t i = 0; (kind == SEAL_OPENED || kind == SEAL_ANSWER) && i < RLX_HMAC_CHARACTERS;
         i++)
        rlx_hmac_add(h, d->seal_question[i]);
}

/* Compares all characters, wherever the first difference is. */
static bool is_right(const struct rlx_device *d, rlx_rom seal, uint8_t number, uint8_t kind,
                     uint32_t session)
{
    struct rlx_hmac h;
    uint8_t mac[RLX_HMAC_BYTES], differ = 0;
    const uint8_t *s = rlx_frame_text(rlx_current(d));
    begin_code(d, &h, seal, number, kind, session);
    for (; *s; s++) {
        if (s == d->seal_mac) s += RLX_HMAC_CHARACTERS;
        if (!*s) break;
        rlx_hmac_add(&h, *s);
    }
    rlx_hmac_end(&h, mac);
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++)
        differ = (uint8_t)(differ | (rlx_hmac_character(mac, i) ^ d->seal_mac[i]));
    return !differ;
}

/* Of the reply in hand, over all that is written so far; into the place that was left for it. */
RLX_INTERNAL void rlx_seal_close(struct rlx_device *d, rlx_rom more)
{
    struct rlx_hmac h;
    uint8_t mac[RLX_HMAC_BYTES];
    if (!d->seal_key) return;
    begin_code(d, &h, seal_of(more), d->seal_key, d->seal_kind,
               d->seal_kind == SEAL_ANSWER ? d->seal_session : 0);
    for (uint16_t at = rlx_current(d)->tx_head; at != d->tx_next; at++)
        if ((uint16_t)(at - d->seal_tx) >= RLX_HMAC_CHARACTERS)
            rlx_hmac_add(&h, rlx_reply_ring(d)[at & rlx_reply_mask(d)]);
    rlx_hmac_end(&h, mac);
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++)
        rlx_reply_ring(d)[(uint16_t)(d->seal_tx + i) & rlx_reply_mask(d)] =
            rlx_hmac_character(mac, i);
}

/* ---- frames that come ---- */

/* 0..4294967289 without leading zeros, up to this character, which is passed over; false: something
 * else. */
static bool take_counter(struct rlx_device *d, uint8_t end, uint32_t *count)
{
    const uint8_t *s = d->text;
    uint32_t n = 0;
    if (*s == '0' && s[1] != end) return false;
    for (; rlx_digit(*s) <= 9; s++) {
        if (n >= UINT32_C(429496729)) return false;
        n = n * 10 + rlx_digit(*s);
    }
    if (s == d->text || *s != end) return false;
    d->text = s + 1;
    *count = n;
    return true;
}

/* Takes !1.17.CODE or !1?99.CODE off; false: it is neither. */
static bool take_seal(struct rlx_device *d, rlx_rom seal)
{
    uint32_t number;
    d->text++;
    const uint8_t *first = d->text;
    d->seal_kind = SEAL_COMMAND;
    if (!take_counter(d, '.', &number)) {
        d->text = first;
        d->seal_kind = SEAL_OPENS;
        if (!take_counter(d, '?', &number)) return false;
    }
    if (!number || number > RLX_ROM8(seal + RLX_SEAL_KEYS)) return false;
    if (!take_counter(d, '.', &d->seal_counter)) return false;
    if (d->seal_kind == SEAL_COMMAND && d->seal_counter > UINT16_MAX) return false;
    d->seal_mac = d->text;
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++)
        if (rlx_ends_word(*d->text++)) return false;
    if (*d->text != (d->seal_kind == SEAL_COMMAND ? ' ' : 0)) return false;
    while (*d->text == ' ') d->text++;
    d->seal_key = (uint8_t)number;
    return true;
}

static uint32_t alive(const struct rlx_device *d, uint32_t session, uint32_t due)
{
    return (int32_t)(d->now - due) >= 0 ? 0 : session;
}

/* Whether the code fits the key, the source and a session that is open. */
static bool is_sealed_rightly(struct rlx_device *d, rlx_rom more)
{
    rlx_rom seal = seal_of(more);
    struct key key = key_of(d, seal, d->seal_key);
    const struct rlx_session *s = &rlx_current(d)->sessions[d->seal_key - 1];
    if (!key.count || d->broadcast || key.sender != d->source) return false;
    d->seal_session = 0;
    if (d->seal_kind == SEAL_OPENS) return is_right(d, seal, d->seal_key, SEAL_OPENS, 0);
    for (uint8_t i = 0; i < 2; i++) {
        d->seal_session = i ? alive(d, s->offered, s->offered_due) : alive(d, s->live, s->due);
        if (d->seal_session && is_right(d, seal, d->seal_key, SEAL_COMMAND, d->seal_session))
            return true;
    }
    return false;
}

RLX_INTERNAL uint8_t rlx_seal_read(struct rlx_device *d, rlx_rom more)
{
    uint8_t mode = RLX_ROM8(seal_of(more) + RLX_SEAL_MODE);
    d->seal_key = 0;
    while (*d->text == ' ') d->text++;
    if (*d->text != SEAL_LEAD) {
        if (!(mode & RLX_SEAL_REQUIRED) || (rlx_halts(d) && !(mode & RLX_SEAL_HALT))) return 0;
        return rlx_is_answer(d) ? RLX_MATCH_REPLY : RLX_ERR_SEAL;
    }
    const uint8_t *first = d->text;
    bool is_whole = take_seal(d, seal_of(more));
    if (is_whole && rlx_is_answer(d)) return RLX_MATCH_REPLY;
    if (is_whole && is_sealed_rightly(d, more)) return 0;
    d->seal_key = 0;
    if (mode & RLX_SEAL_HALT) return RLX_ERR_SEAL;
    for (d->text = first; *d->text && *d->text != ' ';) d->text++;
    while (*d->text == ' ') d->text++;
    return rlx_halts(d) ? 0 : RLX_ERR_SEAL; /* a wrong seal is no worse than none */
}

RLX_INTERNAL uint8_t rlx_seal_judge(const struct rlx_device *d)
{
    if (!d->seal_key) return 0;
    const struct rlx_session *s = &rlx_current(d)->sessions[d->seal_key - 1];
    uint32_t last = d->seal_session == s->live ? s->last : 0;
    if (d->seal_kind == SEAL_OPENS || (last && d->seal_counter == last)) return RLX_MATCH_REPEAT;
    return d->seal_counter > last ? 0 : RLX_MATCH_OTHERS;
}

/* ---- the device's own numbers ---- */

static uint8_t *own_record(const struct rlx_device *d, uint8_t *setting)
{
    *setting = RLX_ROM8(first_seal(d) + RLX_SEAL_OWN);
    return rlx_setting_record(d, *setting);
}

static uint32_t read_own(const struct rlx_device *d)
{
    uint8_t setting;
    const uint8_t *record = own_record(d, &setting);
    uint32_t own = 0;
    for (uint8_t i = 1; *record == 8 && i <= 8; i++) own = own << 4 | (uint8_t)(record[i] - '@');
    return own;
}

/* The next block, up to this number: it is in use once it is kept. */
static void write_own(struct rlx_device *d, uint32_t most)
{
    uint8_t setting, *record = own_record(d, &setting);
    *record = 8;
    for (uint8_t i = 0; i < 8; i++)
        record[1 + i] = rlx_crc_character((uint16_t)(most >> (i < 4 ? 16 : 0)), i & 3);
    rlx_setting_changed(d, setting);
    d->own_writing = true;
    d->own_wanted = false;
}

static bool has_numbers(const struct rlx_device *d)
{
    return d->own_known && d->own != d->own_most;
}

/* The first key of the link that is set; 0: none is, or the link has no seals. */
static uint8_t first_key(const struct rlx_device *d, rlx_rom row)
{
    if (!is_sealed(d, row)) return 0;
    rlx_rom seal = seal_of(rlx_more(d, row));
    for (uint8_t k = 1; k <= RLX_ROM8(seal + RLX_SEAL_KEYS); k++)
        if (key_of(d, seal, k).count) return k;
    return 0;
}

/* Ends what is over, and has numbers ready. Milliseconds until it is to be called again. */
RLX_INTERNAL uint32_t rlx_seal_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
    uint8_t setting;
    bool keyed = false;
    if (!rlx_needs(d, RLX_BIT_SEAL)) return wait;
    rlx_rom row = rlx_link_rows(d);
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW) {
        keyed = keyed || first_key(d, row);
        uint8_t keys = is_sealed(d, row) ? RLX_ROM8(seal_of(rlx_more(d, row)) + RLX_SEAL_KEYS) : 0;
        for (uint8_t k = 0; k < keys; k++) {
            struct rlx_session *s = &rlx_link_at(d, i)->sessions[k];
            s->live = alive(d, s->live, s->due);
            s->offered = alive(d, s->offered, s->offered_due);
            if (s->live && s->due - d->now < wait) wait = s->due - d->now;
            if (s->offered && s->offered_due - d->now < wait) wait = s->offered_due - d->now;
        }
    }
    if (!rlx_settings_loaded(d)) return wait;
    if (!d->own_known) {
        d->own = d->own_most = read_own(d);
        d->own_known = true;
        d->own_wanted = keyed; /* the first sender needs not wait */
    }
    if (d->own_writing) {
        (void)own_record(d, &setting);
        if (rlx_setting_unsaved(d, setting)) return wait;
        d->own_writing = false;
        d->own_most = read_own(d);
        return 0;
    }
    bool few = has_numbers(d) ? d->own_most - d->own < OWN_LEFT : d->own_wanted;
    if (!few || d->own_most >= OWN_LAST) return wait;
    write_own(d, d->own_most + OWN_BLOCK);
    return 1; /* the memory takes it then */
}

/* ---- what is sealed ---- */

static void put_count(struct rlx_device *d, uint32_t n)
{
    uint8_t digit[10], count = 0;
    do {
        uint32_t rest = rlx_tenth32(n);
        digit[count++] = (uint8_t)('0' + n - rest * 10);
        n = rest;
    } while (n);
    while (count) rlx_reply_put(d, digit[--count]);
}

/* !1.17. and room for the code: its numbers are in the device. */
RLX_INTERNAL void rlx_seal_put(struct rlx_device *d)
{
    if (!d->seal_key) return;
    rlx_reply_put(d, SEAL_LEAD);
    put_count(d, d->seal_key);
    rlx_reply_put(d, d->seal_kind == SEAL_OPENED ? '=' : '.');
    put_count(d, d->seal_kind == SEAL_OPENED ? d->seal_session : d->seal_counter);
    rlx_reply_put(d, '.');
    d->seal_tx = d->tx_next;
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++) rlx_reply_put(d, '-');
    if (d->seal_kind != SEAL_OPENED) rlx_reply_put(d, ' ');
}

/* What is answered: a command that stands for another one is written over the frame. */
static void keep_question(struct rlx_device *d)
{
    for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++) d->seal_question[i] = d->seal_mac[i];
}

RLX_INTERNAL bool rlx_seal_opens(struct rlx_device *d, rlx_rom more)
{
    if (!d->seal_key || d->seal_kind != SEAL_OPENS) return false;
    keep_question(d);
    struct rlx_session *s = &rlx_current(d)->sessions[d->seal_key - 1];
    s->offered = alive(d, s->offered, s->offered_due);
    if (!s->offered) {
        if (!has_numbers(d)) {
            d->own_wanted = true;
            d->seal_key = 0; /* its sender asks again */
            return true;
        }
        s->offered = ++d->own;
        s->offered_due = d->now + rlx_rom32(more + RLX_MORE_WINDOW);
    }
    d->seal_session = s->offered;
    d->seal_kind = SEAL_OPENED;
    return true;
}

RLX_INTERNAL struct rlx_session *rlx_seal_session(const struct rlx_device *d)
{
    return d->seal_key && d->seal_kind == SEAL_ANSWER ? &rlx_current(d)->sessions[d->seal_key - 1]
                                                      : 0;
}

/* What was judged is obeyed, or answered once more. */
RLX_INTERNAL void rlx_seal_take(struct rlx_device *d, rlx_rom more, bool fresh)
{
    if (!d->seal_key) return;
    d->seal_kind = SEAL_ANSWER;
    keep_question(d);
    struct rlx_session *s = rlx_seal_session(d);
    if (fresh) {
        if (d->seal_session == s->offered) {
            s->live = s->offered;
            s->offered = 0;
        }
        s->last = d->seal_counter;
        s->length = 0;
    }
    s->due = d->now + rlx_rom32(more + RLX_MORE_WINDOW);
}

/* ---- to all ---- */

RLX_INTERNAL bool rlx_seal_is_ready(const struct rlx_device *d, rlx_rom row)
{
    return !is_sealed(d, row) || (first_key(d, row) && has_numbers(d));
}

RLX_INTERNAL void rlx_seal_to_all(struct rlx_device *d, rlx_rom row)
{
    d->seal_key = first_key(d, row);
    if (!d->seal_key) return;
    d->seal_kind = SEAL_TO_ALL;
    d->seal_counter = ++d->own;
}

/* A device that starts has no sessions: it sends "ready" to all, so that no sender tries in vain.
 */
RLX_INTERNAL void rlx_seal_greet(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    if (!link->starts || !rlx_seal_is_ready(d, row) ||
        rlx_ring_room(link) < rlx_row8(row, RLX_LNK_REPLY))
        return;
    link->starts = false;
    rlx_reply_start(d, link_no, row);
    rlx_envelope_to_all(d, row);
    rlx_reply_words(d, RLX_TXT_READY);
    rlx_envelope_close(d, row);
    rlx_reply_commit(d, row);
}
#endif
