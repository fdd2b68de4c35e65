/* Wrong codes: counts them, and pauses. A pause doubles with each further wrong one, and begins
 * anew when the device starts.
 * It does not know what a code opens, nor where the count is kept. */
#include "core.h"

#if RLX_HAS_GUESSES

static void begin_pause(const struct rlx_device *d, struct rlx_guesses *g)
{
    g->pauses = g->wrong >= RLX_GUESSES;
    if (g->pauses) g->until = d->now + (RLX_GUESS_MS << (g->wrong - RLX_GUESSES));
}

RLX_INTERNAL void rlx_guess_load(const struct rlx_device *d, struct rlx_guesses *g, uint8_t kept)
{
    uint8_t wrong = (uint8_t)(kept - '#');
    g->wrong = wrong > RLX_GUESSES_MOST ? RLX_GUESSES_MOST : wrong;
    begin_pause(d, g);
}

RLX_INTERNAL void rlx_guess_run(const struct rlx_device *d, struct rlx_guesses *g)
{
    if ((int32_t)(d->now - g->until) >= 0) g->pauses = false;
}

RLX_INTERNAL void rlx_guess_wrong(struct rlx_device *d, struct rlx_guesses *g, uint8_t setting)
{
    if (g->wrong < RLX_GUESSES_MOST) g->wrong++;
    begin_pause(d, g);
    if (g->pauses) rlx_source_event(d, setting, RLX_EVT_IS_CODES, RLX_EVT_ON);
}

/* Mistyped codes are forgotten; who guesses gains little by others who know it. */
RLX_INTERNAL void rlx_guess_right(struct rlx_guesses *g)
{
    g->wrong = g->wrong < RLX_GUESSES ? 0 : (uint8_t)(g->wrong - 1);
}

RLX_INTERNAL bool rlx_same_code(const uint8_t *text, const uint8_t *code, uint8_t count)
{
    uint8_t differ = 0;
    while (count--) differ = (uint8_t)(differ | (text[count] ^ code[count]));
    return !differ;
}
#endif
