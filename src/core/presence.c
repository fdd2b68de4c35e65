/* Whether somebody is there on a link: a pin, silence, a goodbye.
 * Outputs that the lexicon names go to their safe state when a link is lost, or show it.
 * It sends nothing. */
#include "core.h"

#if RLX_HAS_PRESENCE

/* NULL: the link has no presence. */
static rlx_rom presence_of(const struct rlx_device *d, uint8_t link)
{
    rlx_rom more = rlx_more(d, rlx_link_row(d, link));
    uint16_t at = 0;
    if (more) at = rlx_more16(more, RLX_MORE_PRESENCE);
    return at ? rlx_image(d) + at : 0;
}

static void lose(struct rlx_device *d, rlx_rom list)
{
    for (uint8_t n = RLX_ROM8_NEXT(list); n; n--, list++) {
#if RLX_HAS_ROUTINES
        rlx_routines_yield(d, RLX_ROM8(list)); /* which would move it again */
#endif
        rlx_out_safe(d, RLX_ROM8(list));
    }
}

static void show(struct rlx_device *d, uint8_t link, rlx_rom lists)
{
    lists += RLX_ROM8(lists) + 1;
    for (uint8_t n = RLX_ROM8_NEXT(lists); n; n--, lists++)
        rlx_out_switch(d, RLX_ROM8(lists), rlx_link_at(d, link)->down ? RLX_OFF : RLX_ON);
#if RLX_LINKS_ACT
    rlx_link_at(d, link)->shows = true; /* the others in a poll: a command may be in hand */
#endif
}

RLX_INTERNAL void rlx_presence_lost(struct rlx_device *d, uint8_t link)
{
    rlx_rom row = presence_of(d, link);
    if (row) lose(d, row + RLX_PRS_LISTS);
}

static void presence_changed(struct rlx_device *d, uint8_t link)
{
    rlx_rom row = presence_of(d, link);
    if (!row) return;
    if (rlx_link_at(d, link)->down) {
        rlx_link_at(d, link)->listens = false;
        lose(d, row + RLX_PRS_LISTS);
    }
    show(d, link, row + RLX_PRS_LISTS);
}

#if RLX_HAS_HALT
RLX_INTERNAL void rlx_presence_show(struct rlx_device *d)
{
    for (uint8_t i = 0; i < rlx_n_links(d); i++)
        if (presence_of(d, i)) show(d, i, presence_of(d, i) + RLX_PRS_LISTS);
}
#endif

static void presence_heard(struct rlx_device *d, uint8_t link)
{
    rlx_rom row = presence_of(d, link);
    uint32_t silence = row ? rlx_rom32(row + RLX_PRS_SILENCE) : 0;
    rlx_link_at(d, link)->listens = silence && !rlx_link_at(d, link)->down;
    rlx_link_at(d, link)->silent_due = d->now + silence;
}

static bool pin_is_down(const struct rlx_device *d, rlx_rom row)
{
    uint8_t flags = RLX_ROM8(row + RLX_PRS_FLAGS);
    return flags & RLX_PRS_HAS_PIN && rlx_port_pin_read(d->port, RLX_ROM8(row + RLX_PRS_PIN)) ==
                                          ((flags & RLX_PRS_ACTIVE_LOW) != 0);
}

#if RLX_HANGS_UP
/* A link is hung up when the answer to bye has gone out: a pin of the bridge is active for some
 * time. A command before that keeps it. */
enum { HANG_NOT, HANG_SENDS, HANG_RESTS, HANG_ACTIVE };
#define HANG_LOOK_MS 10u  /* whether the answer was taken... */
#define HANG_REST_MS 100u /* ...and so long for its way through the bridge */

/* Its pin; behind that, how long it is active. */
static rlx_rom hang_row(rlx_rom row)
{
    rlx_rom lists = row + RLX_PRS_LISTS;
    lists += RLX_ROM8(lists) + 1;
    return lists + RLX_ROM8(lists) + 1;
}

static void hang_pin(struct rlx_device *d, rlx_rom row, bool active)
{
    bool low = RLX_ROM8(row + RLX_PRS_FLAGS) & RLX_PRS_HANGS_LOW;
    rlx_port_pin_write(d->port, RLX_ROM8(hang_row(row)), active != low);
}

RLX_INTERNAL void rlx_hang_up(struct rlx_device *d, uint8_t link_no, bool bye)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    rlx_rom row = presence_of(d, link_no);
    if (!row || !(RLX_ROM8(row + RLX_PRS_FLAGS) & RLX_PRS_HANGS_UP)) return;
    if (link->hangs == HANG_ACTIVE) return;
    link->hangs = bye ? HANG_SENDS : HANG_NOT;
    link->hang_due = d->now;
}

/* Goes on with it; milliseconds until there is more to do. */
static uint32_t run_hang(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    while (link->hangs && (int32_t)(d->now - link->hang_due) >= 0) {
        uint16_t pause = HANG_LOOK_MS;
        if (link->hangs == HANG_SENDS && rlx_ring_is_sent(link)) {
            pause = HANG_REST_MS;
            link->hangs = HANG_RESTS;
        } else if (link->hangs == HANG_RESTS) {
            hang_pin(d, row, true);
            pause = RLX_ROM16(hang_row(row) + 1);
            link->hangs = HANG_ACTIVE;
        } else if (link->hangs == HANG_ACTIVE) {
            hang_pin(d, row, false);
            link->hangs = HANG_NOT;
        }
        link->hang_due = d->now + pause;
    }
    return link->hangs ? link->hang_due - d->now : RLX_FOREVER;
}
#endif

RLX_INTERNAL void rlx_presence_init(struct rlx_device *d)
{
    for (uint8_t i = 0; i < rlx_n_links(d); i++) {
        struct rlx_link *link = rlx_link_at(d, i);
        rlx_rom row = presence_of(d, i);
        if (!row) continue;
        if ((RLX_ROM8(row + RLX_PRS_FLAGS) & (RLX_PRS_HAS_PIN | RLX_PRS_WATCHED)) ==
            RLX_PRS_HAS_PIN)
            rlx_port_pin_watch(d->port, RLX_ROM8(row + RLX_PRS_PIN), RLX_PULL_NONE);
#if RLX_HANGS_UP
        if (RLX_ROM8(row + RLX_PRS_FLAGS) & RLX_PRS_HANGS_UP) hang_pin(d, row, false);
#endif
        link->pin_down = pin_is_down(d, row);
        link->down = link->pin_down || rlx_rom32(row + RLX_PRS_SILENCE); /* nobody was heard yet */
        show(d, i, row + RLX_PRS_LISTS);
    }
}

RLX_INTERNAL uint32_t rlx_presence_run(struct rlx_device *d)
{
    uint32_t wait = RLX_FOREVER;
    for (uint8_t i = 0; i < rlx_n_links(d); i++) {
        struct rlx_link *link = rlx_link_at(d, i);
        rlx_rom row = presence_of(d, i);
        if (!row) continue;
        bool pin_down = pin_is_down(d, row);
        if (pin_down != link->pin_down) {
            link->pin_down = pin_down;
            if (pin_down || !rlx_rom32(row + RLX_PRS_SILENCE)) rlx_link_set(d, i, !pin_down);
        }
        if (link->listens && (int32_t)(d->now - link->silent_due) >= 0)
            rlx_link_set(d, i, false);
        else if (link->listens && link->silent_due - d->now < wait)
            wait = link->silent_due - d->now;
#if RLX_HANGS_UP
        uint32_t due = run_hang(d, link, row);
        if (due < wait) wait = due;
#endif
#if RLX_LINKS_ACT
        if (link->shows) rlx_acts(d, i, link->down ? RLX_ACT_LOST : RLX_ACT_UP);
        link->shows = false;
#endif
    }
    return wait;
}
#endif

#if RLX_HAS_UP
void rlx_link_is_up(struct rlx_device *d, uint8_t link_no, bool up)
{
    if (rlx_started(d) && link_no < rlx_n_links(d)) rlx_link_set(d, link_no, up);
}

RLX_INTERNAL void rlx_link_set(struct rlx_device *d, uint8_t link_no, bool up)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    bool was = !link->down;
    link->down = !up;
#if RLX_HAS_PRESENCE
    if (up) presence_heard(d, link_no);
#endif
    if (was == up) return;
#if RLX_TAKES_CHANNELS
    if (!up) rlx_channels_forget(d, link_no);
#endif
#if RLX_HAS_GREETS
    link->greets = up && rlx_needs(d, RLX_BIT_GREETS);
#endif
#if RLX_HAS_EVENTS
    rlx_events_up(d, link_no, up);
#endif
#if RLX_HAS_PRESENCE
    presence_changed(d, link_no);
#endif
}
#endif
