/* A device's start and its poll.
 * init checks the image against the build; poll runs timers, links and what is to be sent.
 * It reads no frame itself. */
#include "core.h"

#if RLX_HAS_GREETING
static const char reset_names[] RLX_ROM =
#define NAME(id, name) name "\0"
    RLX_RESETS(NAME)
#if RLX_HAS_GREETS
        NAME(CONNECT, RLX_TXT_CONNECT) /* behind the last cause */
#endif
    ;
#undef NAME
#endif

static void greet(struct rlx_device *d, uint8_t link, rlx_rom row, uint8_t cause)
{
#if RLX_HAS_GREETING
    rlx_rom name = (rlx_rom)reset_names;
    if (!rlx_needs(d, RLX_BIT_GREETING)) return;
    rlx_reply_start(d, link, row); /* there is room */
#if RLX_HAS_OWN
    enum rlx_own own = rlx_reply_own(d, row, RLX_OWN_READY);
    if (own == RLX_OWN_EMPTY) return;
    if (own == RLX_OWN_WRITTEN) {
        rlx_reply_commit(d, row);
        return;
    }
#endif
    rlx_reply_text(d, rlx_part(d, RLX_IMG_GREETING));
    for (uint8_t n = cause; n; n--)
        while (RLX_ROM8_NEXT(name)) {}
    while (RLX_ROM8(name)) rlx_reply_put(d, RLX_ROM8_NEXT(name));
    rlx_reply_commit(d, row);
#else
    (void)d, (void)link, (void)row, (void)cause;
#endif
}

/* Not on a medium with many devices, and not on a silent link. */
static bool greets(const struct rlx_device *d, rlx_rom row)
{
    if (RLX_HAS_MESSAGE && rlx_framing(row) == RLX_FRAME_MESSAGE) return false; /* it costs */
    if (RLX_HAS_RAW && rlx_framing(row) == RLX_FRAME_RAW) return false;
    return !(RLX_HAS_OWN || RLX_HAS_ADDRESS || RLX_HAS_CHECK || RLX_HAS_PACKET) ||
           !(rlx_flags(d, row) & (RLX_LINK_SILENT | RLX_LINK_ADDRESSED | RLX_LINK_SHARED));
}

static void link_init(const struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    link->rx_limit = (uint8_t)(rlx_rx_mask(link) + 1);
#if RLX_HAS_PEOPLE
    link->echoes = rlx_ways(d, row) & RLX_WAY_PEOPLE;
#else
    (void)d, (void)row;
#endif
#if RLX_HAS_SEAL
    link->starts = (rlx_flags(d, row) & RLX_LINK_SEALED) == RLX_LINK_SEALED;
#endif
}

/* ---- the start ---- */

#if RLX_FIXED
/* What is constant needs no check: the compiler and the linker have seen to it. */
static int take_image(struct rlx_device *d)
{
    rlx_rom row = rlx_link_rows(d);
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW) {
        struct rlx_link *link = rlx_link_at(d, i);
#if !RLX_FIXED_RECEIVE
        link->rx_mask = rlx_row8(row, RLX_LNK_RECEIVE);
#endif
#if !RLX_FIXED_TRANSMIT
        link->tx_mask = rlx_row8(row, RLX_LNK_TRANSMIT);
#endif
#if !RLX_FIXED_FRAME
        link->frame_size = rlx_row8(row, RLX_LNK_LONGEST);
        link->frame = rlx_tx_ring(link) + rlx_tx_mask(link) + 1;
#endif
        link_init(d, link, row);
    }
    return 0;
}
#else
static uint32_t read32(rlx_rom at)
{
    return RLX_ROM16_EVEN(at) | (uint32_t)RLX_ROM16_EVEN(at + 2) << 16;
}

RLX_STATIC_ASSERT(RLX_N_FEATURES <= 32 * RLX_FEATURE_WORDS, "more features than bits");

/* 0, or the first reason to refuse the image. */
static int check_image(struct rlx_device *d)
{
    rlx_rom image = d->image;
    if (!image) return -RLX_ERR_IMAGE;
    if (RLX_ROM16_EVEN(image) != ('R' | RLX_IMAGE_FORMAT << 8)) return -RLX_ERR_VERSION;
    const uint32_t build_has[RLX_FEATURE_WORDS] = RLX_BUILD_HAS;
    uint32_t any = 0;
    for (uint8_t i = 0; i < RLX_FEATURE_WORDS; i++) {
        d->lacks[i] = read32(image + RLX_IMG_NEEDS + 4 * i) & ~build_has[i];
        any |= d->lacks[i];
    }
    if (any || RLX_ROM16_EVEN(image + RLX_IMG_BUILT_IN) & (uint16_t) ~(unsigned)RLX_BUILT_IN ||
        RLX_ROM8(image + RLX_IMG_SLOTS) > RLX_SLOTS ||
        (RLX_LINKS && RLX_ROM8(image + RLX_IMG_LINKS) != RLX_LINKS))
        return -RLX_ERR_BUILD;
    return 0;
}

/* What the link remembers beside its buffer. */
static bool has_memory(const struct rlx_device *d, const struct rlx_link *link, rlx_rom row)
{
    (void)d, (void)link, (void)row;
#if RLX_HAS_TAGS
    uint8_t tags = rlx_flags(d, row) & RLX_LINK_SEALED;
    if (tags && tags != RLX_LINK_SEALED && !link->senders) return false;
#endif
#if RLX_HAS_SEAL
    if ((rlx_flags(d, row) & RLX_LINK_SEALED) == RLX_LINK_SEALED && !link->sessions) return false;
#endif
#if RLX_HAS_EVENTS
    if (rlx_head16(d, RLX_IMG_EVENTS) && !link->events) return false;
#endif
#if RLX_HAS_SMS
    rlx_rom more = rlx_more(d, row);
    if (more && rlx_more16(more, RLX_MORE_SMS) && !link->sms) return false;
#endif
    return true;
}

/* 0, or the first reason to refuse the image or the memory. */
static int take_image(struct rlx_device *d)
{
    int error = check_image(d);
    if (error) return error;
    uint8_t n = RLX_LINKS ? RLX_LINKS : rlx_head8(d, RLX_IMG_LINKS);
    rlx_rom row = rlx_part(d, RLX_IMG_LINK_ROWS);
    for (uint8_t i = 0; i < n; i++, row += RLX_LNK_ROW) {
        struct rlx_link *link = rlx_link_at(d, i);
        if (!link->buffer || !has_memory(d, link, row)) return -RLX_ERR_BUFFER;
        link->rx_mask = rlx_row8(row, RLX_LNK_RECEIVE);
        link->tx_mask = rlx_row8(row, RLX_LNK_TRANSMIT);
        link->frame_size = rlx_row8(row, RLX_LNK_LONGEST);
        link->frame = rlx_tx_ring(link) + rlx_tx_mask(link) + 1;
        link_init(d, link, row);
    }
    if (RLX_HAS_ANY_CASE && rlx_needs(d, RLX_BIT_ANY_CASE)) d->fold = 26;
    if (RLX_HAS_MANY) d->many = rlx_needs(d, RLX_BIT_MANY);
    if (RLX_HAS_SHORTEN) d->shorten = rlx_head8(d, RLX_IMG_SHORTEN);
    d->n_links = n;
    d->rows = rlx_part(d, RLX_IMG_LINK_ROWS);
    return 0;
}
#endif

int RLX_CONFIGURED(rlx_init)(struct rlx_device *d, enum rlx_reset cause, unsigned sizes)
{
    if (sizes != RLX_INIT_SIZES) return -RLX_ERR_VERSION;
    int error = take_image(d);
    if (error) return error;
#if RLX_TAKES_CHANNELS
    rlx_channels_halt(d);
#endif
#if RLX_HAS_SETTINGS
    rlx_settings_init(d);
#endif
    if (RLX_HAS_SWITCH || RLX_HAS_LEVEL) rlx_drive_init(d);
#if RLX_HAS_INPUTS
    rlx_inputs_init(d);
#if RLX_HAS_EVENTS
    rlx_events_begin(d);
#endif
#endif
#if RLX_KEEPS_EVENTS
    rlx_events_restore(d);
#endif
#if RLX_HAS_PRESENCE
    rlx_presence_init(d);
#endif
#if RLX_HAS_SMS
    rlx_rom row = rlx_link_rows(d);
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW)
        if (rlx_link_at(d, i)->sms) rlx_sms_begin(d, rlx_link_at(d, i), row);
#endif
    if (RLX_HAS_GREETING) {
        rlx_rom at = rlx_link_rows(d);
        for (uint8_t i = 0; i < rlx_n_links(d); i++, at += RLX_LNK_ROW)
            if (greets(d, at)) greet(d, i, at, (uint8_t)cause);
    }
    return 0;
}

static bool waits(const struct rlx_link *link)
{
#if RLX_HAS_CODES
    if (link->frame_next) return true;
#endif
    return rlx_ring_waits(link);
}

/* The silence that ends the frame that arrives, by the clock. Where bytes came meanwhile and the
 * poll is late, nobody knows on which side of the silence they came. */
static void run_timer(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
#if RLX_HAS_TIMED
    if (!link->armed || (int32_t)(d->now - link->due) < 0) return;
    if (!rlx_ring_waits(link))
        rlx_frame_silence(d, link, row);
    else if (rlx_framing(row) == RLX_FRAME_GAP && (int32_t)(d->now - link->due) > 1 &&
             !link->frame_state)
        link->frame_state = RLX_ERR_LOST;
#else
    (void)d, (void)link, (void)row;
#endif
}

/* Takes what came over one link; true when bytes are left. */
static bool run_link(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = rlx_link_at(d, link_no);
    uint8_t budget = RLX_POLL_BYTES;
#if RLX_HAS_SMS
    if (link->sms) return false; /* its driver takes it */
#endif
    if (RLX_HAS_RAW && rlx_framing(row) == RLX_FRAME_RAW) return false; /* the firmware takes it */
    rlx_reply_packet(d, link_no, row);
    if (RLX_HAS_TIMED) run_timer(d, link, row);
#if RLX_HAS_YIELDS
    if (link->yields && (int32_t)(d->now - link->yields_due) >= 0) link->yields = false;
#endif
    for (;;) {
        if (link->frame_state & RLX_FRAME_READY && !rlx_answer(d, link_no, row)) return false;
        if (!budget) return waits(link);
        if (!rlx_frame_step(d, link, row, &budget)) break;
    }
#if RLX_HAS_HALT
    link->halts = 0; /* all that was looked at was answered */
#endif
    return false;
}

/* Milliseconds until the frame in the making ends. */
static uint32_t wait_of(const struct rlx_device *d, const struct rlx_link *link)
{
#if RLX_HAS_TIMED
    if (link->armed) return (int32_t)(link->due - d->now) <= 0 ? 0 : link->due - d->now;
#endif
    (void)d, (void)link;
    return RLX_FOREVER;
}

#if RLX_HAS_GREETS
static bool is_to_greet(const struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    const struct rlx_link *link = rlx_link_at(d, link_no);
    return link->greets && rlx_ring_room(link) >= rlx_row8(row, RLX_LNK_REPLY);
}

/* It came up, and there is room by now. */
static void greet_again(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    if (!is_to_greet(d, link_no, row)) return;
    rlx_link_at(d, link_no)->greets = false;
    if (greets(d, row)) greet(d, link_no, row, RLX_RESET_UNKNOWN + 1);
}
#endif

/* Sends what is pending; milliseconds until the link needs the next poll. */
static uint32_t end_link(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    uint32_t wait = RLX_HAS_TIMED ? wait_of(d, rlx_link_at(d, link_no)) : RLX_FOREVER;
#if RLX_HAS_GREETS
    greet_again(d, link_no, row);
#endif
#if RLX_HAS_SEAL
    rlx_seal_greet(d, link_no, row);
#endif
#if RLX_HAS_EVENTS || RLX_HAS_NOTES
    uint32_t due = rlx_events_run(d, link_no, row);
    if (due < wait) wait = due;
#endif
#if RLX_KEEPS_TAGS
    if (wait > 1 && rlx_link_at(d, link_no)->intent.waits) wait = 1; /* the memory writes */
#endif
#if RLX_HAS_YIELDS
    const struct rlx_link *link = rlx_link_at(d, link_no);
    if (link->yields && link->yields_due - d->now < wait) wait = link->yields_due - d->now;
#endif
    (void)row;
    return wait;
}

uint32_t rlx_poll(struct rlx_device *d, uint32_t now_ms)
{
    uint32_t wait = RLX_FOREVER;
    rlx_rom row = rlx_link_rows(d);
#if RLX_HAS_NOW
    d->now = now_ms;
#else
    (void)now_ms;
#endif
    if (!rlx_started(d)) return wait; /* rlx_init() refused */
    /* what has expired is safe before anything else is obeyed, and what is obeyed now may expire */
    if (RLX_HAS_RUNS) rlx_drive_run(d);
#if RLX_HAS_INPUTS
    wait = rlx_inputs_run(d);
#endif
#if RLX_HAS_PRESENCE
    rlx_presence_run(d);
#endif
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW) {
        if (run_link(d, i, row)) wait = 0;
        uint32_t due = end_link(d, i, row);
        if (due < wait) wait = due;
#if RLX_HAS_SMS
        due = rlx_link_at(d, i)->sms ? rlx_sms_run(d, i, row) : RLX_FOREVER;
        if (due < wait) wait = due;
#endif
    }
#if RLX_HAS_LOG
    uint32_t aged = rlx_log_run(d);
    if (aged < wait) wait = aged;
#endif
#if RLX_HAS_PRESENCE
    uint32_t silent = rlx_presence_run(d);
    if (silent < wait) wait = silent;
#endif
#if RLX_KEEPS_EVENTS
    rlx_events_keep(d);
#endif
#if RLX_HAS_SETTINGS
    uint32_t save = rlx_settings_run(d);
    if (save < wait) wait = save;
#endif
#if RLX_HAS_CODED
    rlx_guard_run(d);
#endif
#if RLX_HAS_SEAL
    uint32_t ends = rlx_seal_run(d);
    if (ends < wait) wait = ends;
#endif
#if RLX_HAS_ROUTINES
    uint32_t step = rlx_routines_run(d);
    if (step < wait) wait = step;
#endif
    if (RLX_HAS_RUNS) {
        uint32_t due = rlx_drive_run(d);
        if (due < wait) wait = due;
    }
    return wait;
}

static bool link_idle(const struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    const struct rlx_link *link = rlx_link_at(d, link_no);
#if RLX_LINKS_ACT
    if (link->shows) return false;
#endif
#if RLX_HAS_GREETS
    if (is_to_greet(d, link_no, row)) return false;
#endif
#if RLX_HAS_EVENTS || RLX_HAS_NOTES
    if (rlx_event_fits(d, link_no, row)) return false;
#endif
#if RLX_HAS_SMS
    if (link->sms) return !rlx_ring_waits(link);
#endif
    if (!(link->frame_state & RLX_FRAME_READY)) return !waits(link);
#if RLX_KEEPS_TAGS
    if (rlx_intent_waits(d, link, row)) return true;
#endif
    return rlx_ring_room(link) < rlx_row8(row, RLX_LNK_REPLY);
}

uint8_t rlx_asker(const struct rlx_device *d)
{
#if RLX_HAS_STEPS
    if (d->in_step) return RLX_NO_LINK;
#endif
    return rlx_current_number(d);
}

bool rlx_idle(const struct rlx_device *d)
{
    rlx_rom row = rlx_link_rows(d);
    if (!rlx_started(d)) return true;
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW)
        if (!link_idle(d, i, row)) return false;
    return true;
}
