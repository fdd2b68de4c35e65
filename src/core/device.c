#include "core.h"

#if RLX_HAS_GREETING
static const char reset_names[] RLX_ROM =
#define NAME(id, name) name "\0"
    RLX_RESETS(NAME);
#undef NAME
#endif

/* The features of this build, as bits. */
#define BIT(id, bit, name) | ((uint32_t)(RLX_HAS_##id ? 1 : 0) << (bit))
#define BUILD_HAS          (UINT32_C(0) RLX_FEATURES(BIT))

/* 0, or the first reason to refuse the image. */
static int check_image(struct rlx_device *d)
{
    rlx_rom image = d->image;
    if (!image) return -RLX_ERR_IMAGE;
    if (RLX_ROM16_EVEN(image) != ('R' | RLX_IMAGE_FORMAT << 8)) return -RLX_ERR_VERSION;
    d->lacks = (RLX_ROM16_EVEN(image + RLX_IMG_NEEDS) |
                (uint32_t)RLX_ROM16_EVEN(image + RLX_IMG_NEEDS + 2) << 16) &
               ~BUILD_HAS;
    if (d->lacks || RLX_ROM8(image + RLX_IMG_SLOTS) > RLX_SLOTS ||
        (RLX_LINKS && RLX_ROM8(image + RLX_IMG_LINKS) != RLX_LINKS))
        return -RLX_ERR_BUILD;
    return 0;
}

static void greet(struct rlx_device *d, uint8_t link, uint8_t most, enum rlx_reset cause)
{
#if RLX_HAS_GREETING
    rlx_rom name = (rlx_rom)reset_names;
    if (!RLX_ROM16_EVEN(d->image + RLX_IMG_GREETING) || !rlx_reply_begin(d, link, most)) return;
    rlx_reply_text(d, rlx_part(d, RLX_IMG_GREETING));
    for (uint8_t n = (uint8_t)cause; n; n--)
        while (RLX_ROM8(name++)) {}
    while (RLX_ROM8(name)) rlx_reply_put(d, RLX_ROM8(name++));
    rlx_reply_commit(d);
#else
    (void)d, (void)link, (void)most, (void)cause;
#endif
}

int rlx_init_(struct rlx_device *d, enum rlx_reset cause, unsigned check)
{
    if (check != RLX_INIT_CHECK) return -RLX_ERR_VERSION;
    int error = check_image(d);
    if (error) return error;
    uint8_t n = RLX_LINKS ? RLX_LINKS : RLX_ROM8(d->image + RLX_IMG_LINKS);
    rlx_rom row = rlx_part(d, RLX_IMG_LINK_ROWS);
    for (uint8_t i = 0; i < n; i++, row += RLX_LNK_ROW) {
        struct rlx_link *link = &d->links[i];
        if (!link->buffer) return -RLX_ERR_BUFFER;
        link->rx_mask = RLX_ROM8(row + RLX_LNK_RECEIVE);
        link->rx_limit = (uint8_t)(link->rx_mask + 1);
        link->tx_mask = RLX_ROM8(row + RLX_LNK_TRANSMIT);
        link->frame_size = RLX_ROM8(row + RLX_LNK_LONGEST);
    }
    if (RLX_HAS_ANY_CASE && RLX_ROM8(d->image + RLX_IMG_NEEDS) & 1u << RLX_BIT_ANY_CASE)
        d->fold = 26;
    if (RLX_HAS_MANY) d->many = RLX_ROM8(d->image + RLX_IMG_NEEDS + 1) & 1u << (RLX_BIT_MANY - 8);
    if (RLX_HAS_SHORTEN) d->shorten = RLX_ROM8(d->image + RLX_IMG_SHORTEN);
    d->n_links = n;
    d->rows = rlx_part(d, RLX_IMG_LINK_ROWS);
    if (RLX_HAS_SWITCH || RLX_HAS_LEVEL) rlx_drive_init(d);
    if (RLX_HAS_GREETING) {
        row = d->rows;
        for (uint8_t i = 0; i < n; i++, row += RLX_LNK_ROW)
            greet(d, i, RLX_ROM8(row + RLX_LNK_REPLY), cause);
    }
    return 0;
}

/* Takes what came over one link; true when bytes are left. */
static bool run_link(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    struct rlx_link *link = &d->links[link_no];
    uint8_t budget = RLX_POLL_BYTES, byte;
    for (;;) {
        if (link->frame_state & RLX_FRAME_READY && !rlx_answer(d, link_no, row)) return false;
        if (!budget--) return rlx_ring_waits(link);
        enum rlx_got got = rlx_ring_get(link, &byte);
        if (got == RLX_GOT_NONE) return false;
        if (got == RLX_GOT_CUT)
            rlx_frame_cut(link, row);
        else
            rlx_frame_byte(d, link, row, byte);
    }
}

uint32_t rlx_poll(struct rlx_device *d, uint32_t now_ms)
{
    uint32_t wait = RLX_FOREVER;
    rlx_rom row = d->rows;
    (void)now_ms;
    if (!row) return wait; /* rlx_init() refused */
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW)
        if (run_link(d, i, row)) wait = 0;
    return wait;
}

static bool link_idle(const struct rlx_link *link, rlx_rom row)
{
    if (!(link->frame_state & RLX_FRAME_READY)) return !rlx_ring_waits(link);
    return rlx_ring_room(link) < RLX_ROM8(row + RLX_LNK_REPLY);
}

bool rlx_idle(const struct rlx_device *d)
{
    rlx_rom row = d->rows;
    if (!row) return true;
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW)
        if (!link_idle(&d->links[i], row)) return false;
    return true;
}
