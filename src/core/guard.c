/* What a command waits for: `only while service on`, and the code that opens it: `code pin`.
 * Wrong codes are counted for each link, and kept over a power cut.
 * What inputs permit outputs is in drive.c. */
#include "core.h"

#if RLX_HAS_CODED

static uint8_t guesses_setting(const struct rlx_device *d)
{
    return (uint8_t)(RLX_ROM8(rlx_image(d) + RLX_IMG_GUESSES) - 1);
}

/* One character for each link. */
static void keep_guesses(struct rlx_device *d)
{
    uint8_t *record = rlx_setting_record(d, guesses_setting(d));
    *record = rlx_n_links(d);
    for (uint8_t i = 0; i < *record; i++)
        record[1 + i] = (uint8_t)('#' + rlx_link_at(d, i)->guesses.wrong);
    rlx_setting_changed(d, guesses_setting(d));
}

RLX_INTERNAL void rlx_guard_run(struct rlx_device *d)
{
    if (!rlx_needs(d, RLX_BIT_CODED) || !rlx_settings_loaded(d)) return;
    const uint8_t *record = rlx_setting_record(d, guesses_setting(d));
    for (uint8_t i = 0; i < rlx_n_links(d); i++) {
        struct rlx_guesses *g = &rlx_link_at(d, i)->guesses;
        if (!d->guesses_known && *record == rlx_n_links(d)) rlx_guess_load(d, g, record[1 + i]);
        rlx_guess_run(d, g);
    }
    d->guesses_known = true;
}

static bool is_right_code(struct rlx_device *d)
{
    struct rlx_guesses *g = &rlx_current(d)->guesses;
    uint8_t count, given = (uint8_t)d->coded;
    const char *code = rlx_setting_text(d, (uint8_t)(d->code - 1), &count);
    const uint8_t *text = rlx_frame_text(rlx_current(d)) + (uint8_t)(d->coded >> 8);
    if (!count || !d->guesses_known || g->pauses) return false;
    bool right = given == count && rlx_same_code(text, (const uint8_t *)code, count);
    uint8_t before = g->wrong;
    if (right)
        rlx_guess_right(g);
    else
        rlx_guess_wrong(d, g, (uint8_t)(d->code - 1));
    if (g->wrong != before) keep_guesses(d);
    return right;
}
#endif

#if RLX_HAS_GUARDS || RLX_HAS_CODED
RLX_INTERNAL uint8_t rlx_guarded(struct rlx_device *d)
{
#if RLX_HAS_GUARDS
    rlx_rom at = d->guard;
    for (uint8_t what = RLX_GRD_MORE; at && what & RLX_GRD_MORE; at = rlx_behind(at)) {
        uint8_t number = RLX_ROM8(at + RLX_GRD_NUMBER);
        what = RLX_ROM8(at + RLX_GRD_WHAT);
#if RLX_HAS_INPUTS
        bool on =
            what & RLX_GRD_OUTPUT ? rlx_out_is_on(d, number) : rlx_in_is_on(d, number);
#else
        bool on = rlx_out_is_on(d, number);
#endif
        at += RLX_GRD_NAME;
        if (on == !(what & RLX_GRD_IF_ON)) {
            d->blocked = at;
            return RLX_ERR_BLOCKED;
        }
    }
#endif
#if RLX_HAS_CODED
    bool asked = false;
#if RLX_KEEPS_TAGS
    asked = rlx_current(d)->intent.waits; /* before its record was written */
#endif
    if (d->code && !asked && !is_right_code(d)) return RLX_ERR_DENIED;
#endif
    return 0;
}
#endif
