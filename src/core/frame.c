#include "core.h"

RLX_INTERNAL uint8_t *rlx_frame_text(const struct rlx_link *link)
{
    return link->buffer + link->rx_mask + link->tx_mask + 2;
}

static bool is_control(uint8_t byte)
{
    return (uint8_t)(byte - ' ') > '~' - ' ';
}

/* A line ends with CR, LF or CRLF; an empty one is nothing. The first fault ends the collecting,
 * not the line: the rest of it is dropped, and frame_len stays where the fault is. */
static void line_byte(struct rlx_link *link, uint8_t byte)
{
    uint8_t len = link->frame_len;
    uint8_t *at = rlx_frame_text(link) + len;
    if (byte == '\r' || byte == '\n') {
        if (!link->frame_state) {
            if (!len) return;
            *at = 0;
        }
        link->frame_state |= RLX_FRAME_READY;
    } else if (!link->frame_state) {
        if (len == link->frame_size) {
            link->frame_state = RLX_ERR_LONG;
            return;
        }
        *at = byte;
        if (is_control(byte))
            link->frame_state = RLX_ERR_BYTE;
        else
            link->frame_len = (uint8_t)(len + 1);
    }
}

/* A key stands for the text of a command, which is put in its place. */
static void key_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                     uint8_t byte)
{
    uint8_t *text = rlx_frame_text(link), *last = text + link->frame_size, c;
    rlx_rom at = device->image + RLX_ROM16(row + RLX_LNK_KEYS);
    rlx_rom end = at + 2 + RLX_ROM16(at);
    if (byte == '\r' || byte == '\n') return;
    for (at += 2; at != end && RLX_ROM8(at) != byte;) {
        while (RLX_ROM8(++at) < RLX_TEXT_END) {}
        at++;
    }
    link->frame_state = RLX_FRAME_READY;
    if (at == end) {
        *text++ = byte;
        link->frame_state =
            is_control(byte) ? RLX_FRAME_READY | RLX_ERR_BYTE : RLX_FRAME_READY | RLX_ERR_UNKNOWN;
    } else {
        do {
            c = RLX_ROM8(++at);
            *text++ = (uint8_t)(c & ~RLX_TEXT_END);
        } while (c < RLX_TEXT_END && text != last);
    }
    *text = 0;
}

static bool has_keys(rlx_rom row)
{
    return RLX_HAS_KEYS && (!RLX_HAS_LINE || RLX_ROM8(row + RLX_LNK_FRAME) == RLX_FRAME_KEYS);
}

RLX_INTERNAL void rlx_frame_byte(const struct rlx_device *device, struct rlx_link *link,
                                 rlx_rom row, uint8_t byte)
{
    if (has_keys(row))
        key_byte(device, link, row, byte);
    else
        line_byte(link, byte);
}

/* Bytes were lost here. A line is refused when it ends; a key is a frame of its own, and so is
 * the gap in a run of keys. */
RLX_INTERNAL void rlx_frame_cut(struct rlx_link *link, rlx_rom row)
{
    if (!link->frame_state) link->frame_state = RLX_ERR_LOST;
    if (has_keys(row)) link->frame_state |= RLX_FRAME_READY;
}
