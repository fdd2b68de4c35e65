#include "core.h"

RLX_INTERNAL uint8_t *rlx_frame_text(const struct rlx_link *link)
{
    return link->buffer + link->rx_mask + link->tx_mask + 2;
}

/* Bytes above 126 are refused too, but that a text in quotes may hold those above 127: where a
 * lexicon has texts, rlx_frame_stray() looks once the frame is whole. */
static bool is_control(const struct rlx_device *device, uint8_t byte)
{
    if (RLX_HAS_TEXT && byte > 127 &&
        RLX_ROM8(device->image + RLX_IMG_NEEDS + 2) & 1u << (RLX_BIT_TEXT - 16))
        return false;
    return (uint8_t)(byte - ' ') > '~' - ' ';
}

/* A line ends with CR, LF or CRLF; an empty one is nothing. The first fault ends the collecting,
 * not the line: the rest of it is dropped, and frame_len stays where the fault is. */
static void line_byte(const struct rlx_device *device, struct rlx_link *link, uint8_t byte)
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
        if (is_control(device, byte))
            link->frame_state = RLX_ERR_BYTE;
        else
            link->frame_len = (uint8_t)(len + 1);
    }
}

/* Puts a text in the place of the frame. */
static void put_text(struct rlx_link *link, rlx_rom at)
{
    uint8_t *text = rlx_frame_text(link), *last = text + link->frame_size, c;
    do {
        c = RLX_ROM8(at++);
        *text++ = (uint8_t)(c & ~RLX_TEXT_END);
    } while (c < RLX_TEXT_END && text != last);
    *text = 0;
}

/* A key stands for the text of a command, which is put in its place. */
static void key_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                     uint8_t byte)
{
    uint8_t *text = rlx_frame_text(link);
    rlx_rom at = device->image + RLX_ROM16(row + RLX_LNK_KEYS);
    rlx_rom end = at + 2 + RLX_ROM16(at);
    if (byte == '\r' || byte == '\n') return;
    for (at += 2; at != end && RLX_ROM8(at) != byte;) {
        while (RLX_ROM8(++at) < RLX_TEXT_END) {}
        at++;
    }
    link->frame_state = RLX_FRAME_READY;
    if (at == end) {
        text[0] = byte;
        text[1] = 0;
        link->frame_state = byte > '~' || byte < ' ' ? RLX_FRAME_READY | RLX_ERR_BYTE
                                                     : RLX_FRAME_READY | RLX_ERR_UNKNOWN;
    } else {
        put_text(link, at + 1);
    }
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
        line_byte(device, link, byte);
}

/* Bytes were lost here. A line is refused when it ends; a key is a frame of its own, and so is
 * the gap in a run of keys. */
RLX_INTERNAL void rlx_frame_cut(struct rlx_link *link, rlx_rom row)
{
    if (!link->frame_state) link->frame_state = RLX_ERR_LOST;
    if (has_keys(row)) link->frame_state |= RLX_FRAME_READY;
}

RLX_INTERNAL const uint8_t *rlx_frame_stray(const struct rlx_link *link)
{
    bool quoted = false;
    const uint8_t *s = rlx_frame_text(link);
    for (; *s; s++) {
        if (*s == '"') quoted = !quoted;
        if (*s > '~' && !quoted) return s;
    }
    return 0;
}

/* Behind what the text begins with, or NULL where it is something else. */
static const uint8_t *behind_text(const uint8_t *s, rlx_rom text)
{
    uint8_t c;
    do {
        c = RLX_ROM8(text++);
        if (*s++ != (c & ~RLX_TEXT_END)) return 0;
    } while (c < RLX_TEXT_END);
    return s;
}

RLX_INTERNAL void rlx_frame_number(const struct rlx_device *device, struct rlx_link *link)
{
    const uint8_t *s = rlx_frame_text(link), *behind;
    rlx_rom at = rlx_part(device, RLX_IMG_NUMBERED), end = at + 2 + RLX_ROM16(at);
    if (at == device->image) return; /* there are none */
    while (*s == ' ') s++;
    for (at += 2; at != end;) {
        behind = behind_text(s, at);
        while (RLX_ROM8(at++) < RLX_TEXT_END) {}
        while (behind && *behind == ' ') behind++;
        if (behind && !*behind) {
            put_text(link, at);
            return;
        }
        while (RLX_ROM8(at++) < RLX_TEXT_END) {}
    }
}
