#include "core.h"

static const char ready_[] RLX_ROM = "ready ";
static const char reset_names[] RLX_ROM =
#define NAME(id, name) name "\0"
    RLX_RESETS(NAME);
#undef NAME

/* The features of this build, as bits. */
#define BIT(id, bit, name) | ((uint32_t)(RLX_HAS_##id ? 1 : 0) << (bit))
#define BUILD_HAS (UINT32_C(0) RLX_FEATURES(BIT))

static uint32_t needs(rlx_rom image)
{
    return RLX_ROM16(image + RLX_IMG_NEEDS) |
           (uint32_t)RLX_ROM16(image + RLX_IMG_NEEDS + 2) << 16;
}

rlx_rom rlx_link_row(const struct rlx_device *d, uint8_t link)
{
    return d->image + RLX_ROM16(d->image + RLX_IMG_LINK_ROWS) + link * RLX_LNK_ROW;
}

static int check_image(const struct rlx_setup *setup)
{
    rlx_rom image = setup->image;
    if (!image || RLX_ROM8(image) != 'R' || RLX_ROM8(image + 1) != 'L') return -RLX_ERR_IMAGE;
    if (RLX_ROM8(image + RLX_IMG_VERSION) != RLX_IMAGE_FORMAT) return -RLX_ERR_VERSION;
    if (RLX_ROM16(image + RLX_IMG_SIZE) < RLX_IMG_HEADER) return -RLX_ERR_IMAGE;
    if (needs(image) & ~BUILD_HAS || RLX_ROM8(image + RLX_IMG_SLOTS) > RLX_SLOTS)
        return -RLX_ERR_BUILD;
    return 0;
}

static int check_buffers(const struct rlx_setup *setup)
{
    rlx_rom image = setup->image;
    rlx_rom row = image + RLX_ROM16(image + RLX_IMG_LINK_ROWS);
    if (setup->n_links != RLX_ROM8(image + RLX_IMG_LINKS) ||
        setup->n_outputs < RLX_ROM8(image + RLX_IMG_N_OUTPUTS))
        return -RLX_ERR_BUFFER;
    for (uint8_t i = 0; i < setup->n_links; i++, row += RLX_LNK_ROW)
        if (!setup->links[i].buffer || setup->links[i].tx_mask + 1 < RLX_ROM8(row + RLX_LNK_REPLY))
            return -RLX_ERR_BUFFER;
    return 0;
}

static void greet(struct rlx_device *d, enum rlx_reset cause)
{
    uint16_t text = RLX_ROM16(d->image + RLX_IMG_GREETING);
    if (!text) return;
    for (uint8_t i = 0; i < d->n_links; i++) {
        struct rlx_link *link = &d->links[i];
        if (!rlx_reply_begin(d, link, RLX_ROM8(rlx_link_row(d, i) + RLX_LNK_REPLY))) continue;
        rlx_reply_string(d, ready_);
        rlx_reply_text(d, d->image + text);
        rlx_reply_put(d, ' ');
        rlx_reply_nth(d, reset_names, (uint8_t)cause);
        rlx_reply_commit(d);
    }
}

int rlx_init_(struct rlx_device *d, const struct rlx_setup *setup, unsigned version, size_t size)
{
    int error;
    if (version != RLX_VERSION || size != sizeof *d) return -RLX_ERR_VERSION;
    *d = (struct rlx_device){
        .image = setup->image,
        .handlers = setup->handlers,
        .invokers = setup->invokers,
        .links = setup->links,
        .n_links = setup->n_links,
        .outputs = setup->outputs,
        .port = setup->port,
        .user = setup->user,
    };
    error = check_image(setup);
    if (error == -RLX_ERR_BUILD) d->lacks = needs(setup->image) & ~BUILD_HAS;
    if (!error) error = check_buffers(setup);
    if (error) {
        d->n_links = 0; /* poll and idle then do nothing */
        return error;
    }
    uint32_t has = needs(d->image);
    d->fold = has & 1u << RLX_BIT_ANY_CASE ? 26 : 0;
    d->many = (has & 1u << RLX_BIT_MANY) != 0;
    d->shorten = RLX_ROM8(d->image + RLX_IMG_SHORTEN);
    if (RLX_HAS_SWITCH || RLX_HAS_LEVEL) rlx_drive_init(d);
    if (RLX_HAS_GREETING) greet(d, setup->cause);
    return 0;
}

/* Takes what came over one link; true when bytes are left. */
static bool run_link(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    uint8_t budget = RLX_POLL_BYTES, byte;
    for (;;) {
        if (link->frame_state & RLX_FRAME_READY && !rlx_answer(d, link, row)) return false;
        if (!budget--) return rlx_ring_waits(link);
        switch (rlx_ring_get(link, &byte)) {
        case RLX_GOT_NONE: return false;
        case RLX_GOT_BYTE: rlx_frame_byte(d, link, row, byte); break;
        case RLX_GOT_CUT: rlx_frame_cut(link, row); break;
        }
    }
}

uint32_t rlx_poll(struct rlx_device *d, uint32_t now_ms)
{
    uint32_t wait = RLX_FOREVER;
    (void)now_ms;
    for (uint8_t i = 0; i < d->n_links; i++)
        if (run_link(d, &d->links[i], rlx_link_row(d, i))) wait = 0;
    return wait;
}

bool rlx_idle(const struct rlx_device *d)
{
    for (uint8_t i = 0; i < d->n_links; i++) {
        const struct rlx_link *link = &d->links[i];
        bool blocked = link->frame_state & RLX_FRAME_READY;
        if (blocked ? rlx_ring_room(link) >= RLX_ROM8(rlx_link_row(d, i) + RLX_LNK_REPLY)
                    : rlx_ring_waits(link))
            return false;
    }
    return true;
}
