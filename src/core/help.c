/* help: the first words, as many as fit one answer; help WORD: the commands that begin with it.
 * Pages are counted anew at each question; nothing is kept.
 * The patterns are texts of the image. */
#include "core.h"

#if RLX_HAS_HELP

/* The patterns. */
static rlx_rom patterns(const struct rlx_device *d, rlx_rom *end)
{
    rlx_rom at = rlx_part(d, RLX_IMG_HELP);
    *end = at + 2 + RLX_ROM16(at);
    return at + 2;
}

/* Length of a pattern's first word, with its other spellings, or of its first slot. */
static uint8_t first_word(rlx_rom at)
{
    bool slot = RLX_ROM8(at) == '{';
    for (uint8_t n = 0;; n++) {
        uint8_t c = RLX_ROM8(at + n);
        if (c == ' ' && !slot) return n;
        if (c == '}') slot = false;
        if (c >= RLX_TEXT_END) return (uint8_t)(n + 1);
    }
}

static bool same_first(rlx_rom a, rlx_rom b)
{
    uint8_t n = first_word(a);
    if (n != first_word(b)) return false;
    for (uint8_t i = 0; i < n; i++)
        if ((RLX_ROM8(a + i) ^ RLX_ROM8(b + i)) & (uint8_t)~RLX_TEXT_END) return false;
    return true;
}

/* Bytes that one answer has for words: the link's most, less `ok help` and ` more 99`. */
static uint8_t room(const struct rlx_device *d)
{
    uint8_t most = RLX_HELP_LINE;
#if RLX_HAS_LONG_REPLY
    uint8_t before = (uint8_t)(rlx_reply_from(d) - rlx_current(d)->tx_head);
    if (d->tx_most < most + before + 16) most = (uint8_t)(d->tx_most - before - 16);
#else
    (void)d;
#endif
    return most;
}

/* Equal first words beside one another are listed once. */
static void write_words(struct rlx_device *d, uint8_t page)
{
    rlx_rom end, at = patterns(d, &end), last = 0;
    uint8_t now = 1, used = 0, most = room(d);
    for (; at != end; last = at, at = rlx_behind(at)) {
        uint8_t n = first_word(at);
        if (last && same_first(last, at)) continue;
        if (n > most) n = most;
        if (used && used + 1 + n > most) {
            used = 0;
            now++;
        }
        if (now > page) {
            rlx_reply_words(d, RLX_TXT_MORE);
            rlx_reply_number(d, now, 0);
            return;
        }
        used = (uint8_t)(used + 1 + n);
        if (now < page) continue;
        rlx_reply_put(d, ' ');
        for (uint8_t i = 0; i < n; i++) rlx_reply_put(d, RLX_ROM8(at + i) & (uint8_t)~RLX_TEXT_END);
    }
    if (now < page) rlx_reply_words(d, RLX_TXT_NO_MORE);
}

/* Whether the word at s is a spelling of the pattern's first word, or a word of its first slot. */
static bool begins_with(const struct rlx_device *d, rlx_rom at, const uint8_t *s)
{
    uint8_t n = first_word(at), same = 0;
    bool differs = false;
    for (uint8_t i = 0; i <= n; i++) {
        uint8_t c = i == n ? '|' : RLX_ROM8(at + i) & (uint8_t)~RLX_TEXT_END;
        if (c == '|' || c == '{' || c == '}' || c == ' ') {
            if (same && !differs && rlx_ends_word(s[same])) return true;
            same = 0;
            differs = false;
        } else if (differs || rlx_folded(d, s[same]) != c) {
            differs = true;
        } else {
            same++;
        }
    }
    return false;
}

/* A pattern that is too long for an answer is cut. */
static void put_pattern(struct rlx_device *d, rlx_rom at)
{
    uint8_t left = room(d), c;
    do {
        c = RLX_ROM8_NEXT(at);
        rlx_reply_put(d, c & (uint8_t)~RLX_TEXT_END);
    } while (c < RLX_TEXT_END && --left);
}

static void write_word(struct rlx_device *d, const uint8_t *word, uint8_t page)
{
    rlx_rom end, at = patterns(d, &end);
    uint8_t n = 0;
    for (; at != end; at = rlx_behind(at)) {
        if (!begins_with(d, at, word)) continue;
        n++;
        if (n == page) {
            rlx_reply_put(d, ' ');
            put_pattern(d, at);
        } else if (n > page) {
            rlx_reply_words(d, RLX_TXT_MORE);
            rlx_reply_number(d, n, 0);
            return;
        }
    }
    if (n < page) rlx_reply_words(d, n ? RLX_TXT_NO_MORE : RLX_TXT_NO_SUCH_WORD);
}

/* 1..99 at *s, of which it steps over the digits; 1 where there is none. */
static uint8_t page_at(const uint8_t **s)
{
    uint8_t page = 0;
    for (uint8_t n = 0; n < 2 && rlx_digit(**s) <= 9; n++)
        page = (uint8_t)(page * 10 + rlx_digit(*(*s)++));
    return page ? page : 1;
}

RLX_INTERNAL bool rlx_help(struct rlx_device *d, const uint8_t *s, bool act)
{
    const uint8_t *word = 0;
    while (*s == ' ') s++;
    if (*s && rlx_digit(*s) > 9) {
        for (word = s; !rlx_ends_word(*s); s++)
            if (*s == '"' || *s == ';') return false;
        while (*s == ' ') s++;
    }
    uint8_t page = page_at(&s);
    while (*s == ' ') s++;
    if (*s) return false;
    rlx_reply_words(d, RLX_TXT_HELP);
    if (act && word)
        write_word(d, word, page);
    else if (act)
        write_words(d, page);
    return true;
}
#endif
