/* The built-in words: halt, about, stats, bye, NAME?, and batches.
 * Each is compared letter by letter; its reply's words are in rlx/def/replies.h.
 * help and log have files of their own. */
#include "core.h"

#if RLX_HAS_BUILT_IN

#define HAS(id) ((RLX_BUILT_IN & RLX_BUILT_IN_##id) != 0)

/* Whether the frame's text is this word alone. */
static bool is_word(const struct rlx_device *d, const char *word)
{
    const uint8_t *s = d->text;
    for (; *word; word++, s++)
        if (rlx_folded(d, *s) != (uint8_t)*word) return false;
    while (*s == ' ') s++;
    return !*s;
}

/* ---- halt ---- */

RLX_INTERNAL bool rlx_is_halt(const struct rlx_device *d)
{
    return HAS(HALT) && rlx_has_built_in(d, RLX_BUILT_IN_HALT) && is_word(d, "halt");
}

/* ---- about, stats ---- */

/* The greeting without "ready", up to the reset cause. */
static void write_about(struct rlx_device *d)
{
    rlx_rom text = rlx_part(d, RLX_IMG_GREETING) + sizeof RLX_TXT_READY - 1;
    uint8_t c;
    rlx_reply_words(d, RLX_TXT_ABOUT);
    for (; (c = RLX_ROM8(text)) < RLX_TEXT_END; text++) rlx_reply_put(d, c);
}

static void write_count(struct rlx_device *d, const char *what, uint16_t count)
{
    rlx_reply_words(d, what);
    rlx_reply_number(d, (rlx_value)(count > RLX_COUNTER_MOST ? RLX_COUNTER_MOST : count), 0);
}

static void write_stats(struct rlx_device *d, const struct rlx_link *link)
{
    write_count(d, RLX_COUNTER_LOST, rlx_link_lost(link));
    write_count(d, RLX_COUNTER_REFUSED, link->refused);
    write_count(d, RLX_COUNTER_IGNORED, link->ignored);
    /* of what only some links have, what there was */
#if RLX_COUNTS_OTHERS
    if (link->others) write_count(d, RLX_COUNTER_OTHERS, link->others);
#endif
#if RLX_HAS_LIMITED
    if (link->known) write_count(d, RLX_COUNTER_KNOWN, link->known);
#endif
#if RLX_HAS_NEWEST
    if (link->newer) write_count(d, RLX_COUNTER_NEWER, link->newer);
#endif
#if RLX_HAS_DROP
    if (link->unheard) write_count(d, RLX_COUNTER_UNHEARD, link->unheard);
#endif
#if RLX_HAS_SMS
    if (link->sms && link->sms->unsent) write_count(d, RLX_COUNTER_UNSENT, link->sms->unsent);
#endif
#if RLX_HAS_SMS_CODE
    if (link->sms && link->sms->wrong) write_count(d, RLX_COUNTER_WRONG, link->sms->wrong);
#endif
#if RLX_HAS_EVENTS
    if (link->merged) write_count(d, RLX_COUNTER_MERGED, link->merged);
#endif
#if RLX_HAS_NOTES
    if (link->unnoted) write_count(d, RLX_COUNTER_NOTES, link->unnoted);
#endif
#if RLX_HAS_WEAR
    uint32_t erases = d->wear.erases;
    if (erases > RLX_COUNTER_MOST) erases = RLX_COUNTER_MOST;
    if (erases && rlx_needs(d, RLX_BIT_WEAR)) write_count(d, RLX_COUNTER_ERASES, (uint16_t)erases);
#endif
}

/* ---- NAME? ---- */

#if RLX_HAS_STATE

/* The inputs' names stand behind those of the outputs, and then those of the routines and the
 * settings; of a modem's record, which is one of these, its link's name. */
static uint16_t n_named(const struct rlx_device *d)
{
    uint16_t n = rlx_n_outputs(d);
    if (RLX_HAS_INPUTS) n = (uint16_t)(n + rlx_rows_of(d, RLX_IMG_INPUTS));
    if (RLX_HAS_ROUTINES) n = (uint16_t)(n + rlx_rows_of(d, RLX_IMG_ROUTINES));
    if (RLX_HAS_SETTINGS) n = (uint16_t)(n + rlx_rows_of(d, RLX_IMG_SETTINGS));
    if (RLX_KEEPS_EVENTS && rlx_needs(d, RLX_BIT_KEPT)) n--; /* that of events has no name */
    return n;
}

#define NOT_NAMED 0xFFFFu

/* The output, input, routine, setting or modem whose name and a '?' the text is. */
static uint16_t asked(const struct rlx_device *d)
{
    rlx_rom at = rlx_part(d, RLX_IMG_NAMES);
    uint16_t n = n_named(d);
    for (uint16_t i = 0; i < n; i++, at = rlx_behind(at)) {
        const uint8_t *s = d->text;
        rlx_rom t = at;
        uint8_t c, want;
        while ((want = RLX_ROM8_NEXT(t)) == (c = rlx_folded(d, *s))) s++;
        if (want != (c | RLX_TEXT_END) || s[1] != '?') continue;
        for (s += 2; *s == ' '; s++) {}
        if (!*s) return i;
    }
    return NOT_NAMED;
}

static void write_name(struct rlx_device *d, uint16_t named)
{
    rlx_rom name = rlx_part(d, RLX_IMG_NAMES);
    for (; named; named--) name = rlx_behind(name);
    rlx_reply_text(d, name);
}

/* Those of a group that are on. */
static void write_members(struct rlx_device *d, uint8_t group)
{
#if RLX_HAS_GROUPS
    bool none = true;
    for (uint8_t i = 0; i < rlx_members(d, group); i++) {
        uint8_t output = rlx_member(d, group, i);
        if (!rlx_out_is_on(d, output)) continue;
        if (!none) rlx_reply_put(d, '+');
        write_name(d, output);
        none = false;
    }
    if (none) rlx_reply_words(d, RLX_TXT_NONE);
#else
    (void)d, (void)group;
#endif
}

static void write_output(struct rlx_device *d, uint8_t output)
{
    struct rlx_state state;
    rlx_out_state(d, output, &state);
    if (state.members) {
        write_members(d, output);
        return;
    }
    if (state.word) rlx_reply_words(d, state.word);
    for (uint8_t i = 0; i < state.numbers; i++) {
        if (i || state.word) rlx_reply_put(d, ' ');
        rlx_reply_number(d, state.number[i], state.decimals);
    }
    if (state.text) rlx_reply_text(d, state.text);
    if (state.unit) rlx_reply_words(d, state.unit);
#if RLX_HAS_WAITS
    if (rlx_out_waits(d, output)) rlx_write_waits(d, output);
#endif
}

static void write_state(struct rlx_device *d, uint16_t named)
{
    uint8_t output = (uint8_t)named;
    rlx_reply_put(d, ' ');
    write_name(d, named);
    rlx_reply_put(d, ' ');
    uint8_t n = rlx_n_outputs(d);
    if (named < n) {
        write_output(d, output);
#if RLX_HAS_COUNTED
        if (rlx_out_counted(d, output)) {
            rlx_reply_words(d, RLX_TXT_SWITCHED);
            rlx_reply_number(d, (rlx_value)rlx_out_switched(d, output), 0);
        }
#endif
        return;
    }
    named = (uint16_t)(named - n);
#if RLX_HAS_INPUTS
    n = rlx_rows_of(d, RLX_IMG_INPUTS);
    if (named < n) {
        rlx_reply_words(d, rlx_in_is_on(d, (uint8_t)named) ? RLX_TXT_ON : RLX_TXT_OFF);
        return;
    }
    named = (uint16_t)(named - n);
#endif
#if RLX_HAS_ROUTINES
    n = rlx_rows_of(d, RLX_IMG_ROUTINES);
    if (named < n) {
        rlx_write_routine(d, (uint8_t)named);
        return;
    }
    named = (uint16_t)(named - n);
#endif
#if RLX_HAS_SMS
    const char *modem = rlx_sms_state(d, (uint8_t)named);
    if (modem) {
        rlx_reply_words(d, modem);
        return;
    }
#endif
#if RLX_HAS_SETTINGS
    d->tx_next--; /* the blank */
    rlx_write_setting(d, (uint8_t)named);
#endif
}

#endif

/* ---- words with a number behind them ---- */

#if RLX_HAS_LOG || RLX_HAS_HEARD || RLX_HAS_HELP || (RLX_HAS_EVENTS && RLX_HAS_PACED)
/* Behind the word that the text begins with; NULL: it is another. */
static const uint8_t *behind_word(const struct rlx_device *d, const char *word)
{
    const uint8_t *s = d->text;
    for (; *word; word++, s++)
        if (rlx_folded(d, *s) != (uint8_t)*word) return 0;
    return rlx_ends_word(*s) ? s : 0;
}
#endif

#if RLX_HAS_LOG || (RLX_HAS_EVENTS && RLX_HAS_PACED)
/* The number at s and nothing behind it, 1..255; 0 where nothing stands there; 256: something else.
 */
static uint16_t number_behind(const uint8_t *s)
{
    uint16_t n = 0;
    while (*s == ' ') s++;
    if (*s == '0') return 256;
    for (; rlx_digit(*s) <= 9; s++)
        if ((n = (uint16_t)(n * 10u + rlx_digit(*s))) > 255) return 256;
    while (*s == ' ') s++;
    return *s ? 256 : n;
}
#endif

/* stats LINK: with heard, for which the links have names. */
static bool stats_of_link(struct rlx_device *d)
{
#if RLX_HAS_HEARD
    bool has = HAS(STATS) && rlx_has_built_in(d, RLX_BUILT_IN_STATS);
    const uint8_t *s = has ? behind_word(d, "stats") : 0;
    if (!s) return false;
    while (*s == ' ') s++;
    uint16_t from = d->tx_next;
    rlx_reply_words(d, RLX_TXT_STATS);
    uint8_t link = rlx_link_named(d, s);
    if (link == RLX_NO_LINK) {
        d->tx_next = from;
        return false;
    }
    write_stats(d, rlx_link_at(d, link));
    return true;
#else
    (void)d;
    return false;
#endif
}

static bool write_log(struct rlx_device *d)
{
#if RLX_HAS_LOG
    const uint8_t *s = rlx_has_built_in(d, RLX_BUILT_IN_LOG) ? behind_word(d, "log") : 0;
    uint16_t n = s ? number_behind(s) : 256;
    if (n > RLX_LOG_ENTRIES) return false;
    rlx_write_log(d, (uint8_t)(n ? n : 1));
    return true;
#else
    (void)d;
    return false;
#endif
}

static bool write_help(struct rlx_device *d, bool act)
{
#if RLX_HAS_HELP
    const uint8_t *s = rlx_has_built_in(d, RLX_BUILT_IN_HELP) ? behind_word(d, "help") : 0;
    return s && rlx_help(d, s, act);
#else
    (void)d, (void)act;
    return false;
#endif
}

/* got 7: the other side received the event with this number; got: it received all events. */
static uint8_t take_got(struct rlx_device *d, bool act)
{
#if RLX_HAS_EVENTS && RLX_HAS_PACED
    const uint8_t *s = behind_word(d, "got");
    if (!s || !rlx_needs(d, RLX_BIT_PACED)) return RLX_BUILT_IN_NONE;
    uint16_t n = number_behind(s);
    if (n > 255) return RLX_BUILT_IN_NONE;
    rlx_reply_words(d, RLX_TXT_GOT);
    if (n) {
        rlx_reply_put(d, ' ');
        rlx_reply_number(d, (rlx_value)n, 0);
    }
    if (!act || rlx_event_got(d, (uint8_t)n)) return RLX_BUILT_IN_ANSWERED;
    rlx_reply_nth(d, RLX_TEXT_ALREADY);
    return RLX_BUILT_IN_ALREADY;
#else
    (void)d, (void)act;
    return RLX_BUILT_IN_NONE;
#endif
}

/* ---- one of them ---- */

/* Whether it is this word, which the lexicon has. */
#define IS_WORD(id, word) (HAS(id) && rlx_has_built_in(d, RLX_BUILT_IN_##id) && is_word(d, word))

static bool built_in_word(struct rlx_device *d, bool act)
{
    if (IS_WORD(ABOUT, "about")) {
        write_about(d);
        return true;
    }
    if (IS_WORD(STATS, "stats")) {
        rlx_reply_words(d, RLX_TXT_STATS);
        write_stats(d, rlx_current(d));
        return true;
    }
    if (stats_of_link(d)) return true;
#if RLX_HAS_HEARD
    if (IS_WORD(HEARD, "heard")) {
        rlx_write_heard(d);
        return true;
    }
#endif
    if (IS_WORD(BYE, "bye")) {
        rlx_reply_words(d, RLX_TXT_BYE);
#if RLX_HAS_UP
        d->bye = act;
#endif
        return true;
    }
    return write_log(d) || write_help(d, act);
}

RLX_INTERNAL uint8_t rlx_built_in(struct rlx_device *d, bool act)
{
    while (*d->text == ' ') d->text++;
#if RLX_HAS_HALT
    if (rlx_is_halt(d)) {
        rlx_reply_words(d, RLX_TXT_HALT);
        if (!act) return RLX_BUILT_IN_ANSWERED;
        if (rlx_current(d)->halts)
            rlx_current(d)->halts--; /* it was done before its turn */
        else
            rlx_make_safe(d);
        return RLX_BUILT_IN_ANSWERED;
    }
#endif
    if (built_in_word(d, act)) return RLX_BUILT_IN_ANSWERED;
    uint8_t got = take_got(d, act);
#if RLX_HAS_STATE
    if (got || !rlx_has_built_in(d, RLX_BUILT_IN_STATE)) return got;
    uint16_t named = asked(d);
    if (named == NOT_NAMED) return RLX_BUILT_IN_NONE;
    write_state(d, named);
    return RLX_BUILT_IN_ANSWERED;
#else
    return got;
#endif
}

/* ---- several commands ---- */

RLX_INTERNAL bool rlx_split(struct rlx_device *d)
{
    uint8_t *s = rlx_frame_text(rlx_current(d)) + (d->text - rlx_frame_text(rlx_current(d)));
    bool quoted = false, several = false;
    if (!HAS(BATCH) || !rlx_has_built_in(d, RLX_BUILT_IN_BATCH)) return false;
    for (; *s; s++) {
        if (*s == '"') quoted = !quoted;
        if (*s != ';' || quoted) continue;
        *s = 0;
        several = true;
    }
    d->text_end = s;
    return several;
}
#endif
