/* Words that every lexicon can have: halt, about, stats, NAME?, and several commands in one frame.
 */
#include "core.h"

#if RLX_HAS_BUILT_IN

#define HAS(id) ((RLX_BUILT_IN & RLX_BUILT_IN_##id) != 0)

static bool is_on(const struct rlx_device *d, uint8_t bit)
{
    return RLX_ROM8(d->image + RLX_IMG_BUILT_IN) & bit;
}

/* Whether the frame's text is this word alone. */
static bool is_word(const struct rlx_device *d, const char *word)
{
    const uint8_t *s = d->text;
    for (; *word; word++, s++)
        if (rlx_folded(d, *s) != (uint8_t)*word) return false;
    while (*s == ' ') s++;
    return !*s;
}

static void tell(struct rlx_device *d, const char *text)
{
    while (*text) rlx_reply_put(d, (uint8_t)*text++);
}

/* ---- halt ---- */

RLX_INTERNAL bool rlx_is_halt(const struct rlx_device *d)
{
    return HAS(HALT) && is_on(d, RLX_BUILT_IN_HALT) && is_word(d, "halt");
}

/* ---- about, stats ---- */

/* The greeting without "ready", up to the reset cause. */
static void tell_about(struct rlx_device *d)
{
    rlx_rom text = rlx_part(d, RLX_IMG_GREETING) + 5; /* behind "ready" */
    uint8_t c;
    tell(d, " about");
    for (; (c = RLX_ROM8(text)) < RLX_TEXT_END; text++) rlx_reply_put(d, c);
}

static void tell_count(struct rlx_device *d, const char *what, uint16_t count)
{
    tell(d, what);
    rlx_reply_number(d, (rlx_value)(count > INT16_MAX ? INT16_MAX : count), 0);
}

static void tell_stats(struct rlx_device *d)
{
    tell(d, " stats");
    tell_count(d, " lost ", rlx_link_lost(d->link));
    tell_count(d, " refused ", d->link->refused);
    tell_count(d, " ignored ", d->link->ignored);
}

/* ---- NAME? ---- */

/* The output whose name and a '?' the text is; 255: it is none. */
static uint8_t asked(const struct rlx_device *d)
{
    rlx_rom at = rlx_part(d, RLX_IMG_NAMES);
    uint8_t n = RLX_ROM8(d->image + RLX_IMG_N_OUTPUTS);
    for (uint8_t i = 0; i < n; i++, at = rlx_behind(at)) {
        const uint8_t *s = d->text;
        rlx_rom t = at;
        uint8_t c, want;
        while ((want = RLX_ROM8(t++)) == (c = rlx_folded(d, *s))) s++;
        if (want != (c | RLX_TEXT_END) || s[1] != '?') continue;
        for (s += 2; *s == ' '; s++) {}
        if (!*s) return i;
    }
    return 255;
}

static void tell_state(struct rlx_device *d, uint8_t output)
{
    rlx_rom name = rlx_part(d, RLX_IMG_NAMES);
    for (uint8_t i = output; i; i--) name = rlx_behind(name);
    rlx_reply_put(d, ' ');
    rlx_reply_text(d, name);
    rlx_reply_put(d, ' ');
    if (RLX_HAS_LEVEL && rlx_output_is_pwm(d, output))
        rlx_reply_number(d, rlx_output_percent(d, output), 0);
    else
        tell(d, rlx_output_is_on(d, output) ? "on" : "off");
}

/* ---- one of them ---- */

RLX_INTERNAL bool rlx_built_in(struct rlx_device *d, bool act)
{
    while (*d->text == ' ') d->text++;
    if (rlx_is_halt(d)) {
        tell(d, " halt");
        if (act) rlx_drive_init(d);
        return true;
    }
    if (HAS(ABOUT) && is_on(d, RLX_BUILT_IN_ABOUT) && is_word(d, "about")) {
        tell_about(d);
        return true;
    }
    if (HAS(STATS) && is_on(d, RLX_BUILT_IN_STATS) && is_word(d, "stats")) {
        tell_stats(d);
        return true;
    }
    if (!HAS(STATE) || !is_on(d, RLX_BUILT_IN_STATE)) return false;
    uint8_t output = asked(d);
    if (output == 255) return false;
    tell_state(d, output);
    return true;
}

/* ---- several commands ---- */

RLX_INTERNAL bool rlx_split(struct rlx_device *d)
{
    uint8_t *s = rlx_frame_text(d->link) + (d->text - rlx_frame_text(d->link));
    bool quoted = false, several = false;
    if (!HAS(BATCH) || !is_on(d, RLX_BUILT_IN_BATCH)) return false;
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
