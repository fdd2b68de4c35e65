/* Cuts the bytes of a link into frames, by line, key, code, end, gap, length, packet or report.
 * Lines many bytes at once, other frames byte by byte; a damaged frame becomes one state with its
 * error. It does not know commands. */
#include "core.h"

/* Bytes above 126 are refused too, but that a text in quotes may hold those above 127: where a
 * lexicon has texts, rlx_frame_stray() looks once the frame is whole. */
static bool is_control(const struct rlx_device *device, uint8_t byte)
{
    if (RLX_HAS_TEXT && byte > 127 && rlx_needs(device, RLX_BIT_TEXT)) return false;
    return (uint8_t)(byte - ' ') > '~' - ' ';
}

/* Whether the build has frames beside lines and keys. */
#define OTHERS                                                                               \
    (RLX_HAS_CODES || RLX_HAS_MARKED || RLX_HAS_TIMED || RLX_HAS_PACKET || RLX_HAS_REPORT || \
     RLX_HAS_MESSAGE || RLX_HAS_BINARY)

/* A constant where the build has one framing only. */
static uint8_t framing_of(rlx_rom row)
{
    if (OTHERS || (RLX_HAS_KEYS && RLX_HAS_LINE)) return rlx_framing(row);
    return RLX_HAS_KEYS ? RLX_FRAME_KEYS : RLX_FRAME_LINE;
}

/* What is collected ends with this byte, or goes on. The first fault ends the collecting, not the
 * frame: the rest of it is dropped, and frame_len stays where the fault is. */
static void collect(const struct rlx_device *device, struct rlx_link *link, uint8_t byte, bool end)
{
    uint8_t len = link->frame_len;
    uint8_t *at = rlx_frame_text(link) + len;
    if (end) {
        if (!link->frame_state) {
            if (!len) return;
            *at = 0;
        }
        link->frame_state |= RLX_FRAME_READY;
    } else if (!link->frame_state) {
        if (len == rlx_frame_most(link)) {
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

#if RLX_HAS_PEOPLE
#define NOT_ECHOED 255 /* no frame is so long: the rest of this line is not echoed */

/* Where there is no room the rest of the line is not echoed: without its lead, or without what is
 * rubbed out later, it would be a command to another device. */
static bool echo(const struct rlx_device *device, struct rlx_link *link, const uint8_t *bytes,
                 uint8_t count)
{
    uint8_t head = link->tx_head;
    if (!link->echoes || !count) return true;
    if (rlx_ring_room(link) < count) {
        link->echoed = NOT_ECHOED;
        return false;
    }
    while (count--) rlx_tx_ring(link)[head++ & rlx_tx_mask(link)] = *bytes++;
    rlx_ring_publish(link, head);
    rlx_port_kick(device->port, rlx_link_number(device, link));
    return true;
}

/* Echoes what was typed, behind "> ", as soon as it cannot be a reply or an echo of another device:
 * those are never echoed, or two devices would go on for ever. */
static void echo_typed(const struct rlx_device *device, struct rlx_link *link, bool end)
{
    static const uint8_t lead[] = {RLX_ECHO_LEAD, ' '};
    if (link->frame_state & (uint8_t)~RLX_FRAME_READY || !link->frame_len) return;
    if (link->echoed == NOT_ECHOED) return;
    if (rlx_frame_text(link)[link->frame_len - 1] ==
        RLX_ECHO_LEAD) { /* that may be our own coming back */
        link->echoed = NOT_ECHOED;
        return;
    }
    if (rlx_reply_begun(device, rlx_frame_text(link), link->frame_len, end) != RLX_BEGUN_OTHER)
        return;
    if (!link->prompted && !echo(device, link, lead, sizeof lead)) return;
    link->prompted = true;
    if (echo(device, link, rlx_frame_text(link) + link->echoed,
             (uint8_t)(link->frame_len - link->echoed)))
        link->echoed = link->frame_len;
}

RLX_INTERNAL void rlx_echo_break(const struct rlx_device *device, struct rlx_link *link)
{
    static const uint8_t line_end[] = {'\r', '\n'};
    if (!link->prompted) return;
    link->prompted = false;
    if (link->echoed != NOT_ECHOED) link->echoed = 0;
    echo(device, link, line_end, sizeof line_end);
}

static void echo_line(const struct rlx_device *device, struct rlx_link *link, bool end)
{
    echo_typed(device, link, end);
    if (end) rlx_echo_break(device, link);
}

/* Backspace, delete, and Ctrl-U for all of the line. */
static bool edits(const struct rlx_device *device, struct rlx_link *link, uint8_t byte)
{
    static const uint8_t rub_out[] = {'\b', ' ', '\b'};
    if (byte != 8 && byte != 127 && byte != 0x15) return false;
    while (!link->frame_state && link->frame_len) {
        link->frame_len--;
        if (link->echoed != NOT_ECHOED && link->echoed > link->frame_len) {
            link->echoed = link->frame_len;
            echo(device, link, rub_out, sizeof rub_out);
        }
        if (byte != 0x15) break;
    }
    return true;
}
#endif

static bool ends_line(uint8_t byte)
{
    return byte == '\r' || byte == '\n';
}

/* Puts a text in the place of the frame. */
static void put_text(struct rlx_link *link, rlx_rom at)
{
    uint8_t *text = rlx_frame_text(link), *last = text + rlx_frame_most(link), c;
    do {
        c = RLX_ROM8_NEXT(at);
        *text++ = (uint8_t)(c & ~RLX_TEXT_END);
    } while (c < RLX_TEXT_END && text != last);
    *text = 0;
}

#if RLX_HAS_KEYS || RLX_HAS_CODES
/* Whether the byte belongs to somebody's reply, from its lead up to its line end. */
static bool in_reply(struct rlx_link *link, uint8_t byte)
{
    bool within = link->frame_reply;
    if (byte == RLX_REPLY_LEAD) link->frame_reply = true;
    if (ends_line(byte) && within) {
        link->frame_reply = false;
        rlx_count(&link->ignored);
    }
    return within || byte == RLX_REPLY_LEAD;
}

#endif

#if RLX_HAS_KEYS || RLX_HAS_CODES
/* A frame of one byte that means nothing. */
static void refuse_byte(struct rlx_link *link, uint8_t byte)
{
    uint8_t *text = rlx_frame_text(link);
    text[0] = byte;
    text[1] = 0;
    link->frame_len = 0;
    link->frame_state = byte > '~' || byte < ' ' ? RLX_FRAME_READY | RLX_ERR_BYTE
                                                 : RLX_FRAME_READY | RLX_ERR_UNKNOWN;
}
#endif

#if RLX_HAS_KEYS
/* A key stands for the text of a command, which is put in its place. Behind the lead character
 * comes a line. */
static void key_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                     uint8_t byte)
{
    rlx_rom end = 0, at = rlx_more_list(device, row, RLX_MORE_KEYS, &end);
#if RLX_HAS_MARKED
    if (link->frame_line) {
        collect(device, link, byte, ends_line(byte));
        if (ends_line(byte)) link->frame_line = false;
        return;
    }
    uint8_t lead = rlx_more8(rlx_more(device, row), RLX_MORE_CHAR);
    if (lead && byte == lead) {
        link->frame_line = true;
        return;
    }
#endif
    if (in_reply(link, byte) || ends_line(byte)) return;
    while (at != end && RLX_ROM8(at) != byte) at = rlx_behind(at + 1);
    if (at == end) {
        refuse_byte(link, byte);
    } else {
        put_text(link, at + 1);
        link->frame_state = RLX_FRAME_READY;
    }
}
#endif

#if RLX_HAS_CODES
/* How much of the code is there: 0 none of it, 1 its beginning, 2 all. */
static uint8_t code_fits(const struct rlx_link *link, rlx_rom code)
{
    const uint8_t *s = rlx_frame_text(link);
    for (uint8_t n = link->frame_len; n; n--, s++) {
        uint8_t want = RLX_ROM8_NEXT(code), c = (uint8_t)(want & ~RLX_TEXT_END);
        if (c == '#' ? rlx_digit(*s) > 9 : c != *s) return 0;
        if (want & RLX_TEXT_END) return n == 1 ? 2 : 0;
    }
    return 1;
}

/* The code's text in its place, with its digits. */
static void put_code(struct rlx_link *link, rlx_rom text)
{
    uint8_t digit[RLX_CODE_DIGITS], n = 0, *p = rlx_frame_text(link);
    for (uint8_t i = 0; i < link->frame_len; i++)
        if (rlx_digit(p[i]) <= 9 && n < RLX_CODE_DIGITS) digit[n++] = p[i];
    /* digits that are no slot's stand before those that are, or behind: only '#' is replaced */
    put_text(link, text);
    for (n = 0; *p; p++)
        if (*p == '#') *p = digit[n++];
}

/* A code is over with its last character. A byte that cannot go on with it begins another. */
static void code_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                      uint8_t byte)
{
    rlx_rom end = 0, at = rlx_more_list(device, row, RLX_MORE_KEYS, &end);
    uint8_t *text = rlx_frame_text(link), fits = 0;
    bool half = false;
    if (in_reply(link, byte) || ends_line(byte)) return;
    text[link->frame_len++] = byte;
    for (; at != end && fits < 2; at = rlx_behind(rlx_behind(at))) {
        fits = code_fits(link, at);
        half = half || fits == 1;
        if (fits == 2) {
            put_code(link, rlx_behind(at));
            link->frame_state = RLX_FRAME_READY;
            return;
        }
    }
    if (half) return;
    if (link->frame_len == 1) {
        refuse_byte(link, byte);
        return;
    }
    text[link->frame_len - 1] = 0;
    link->frame_len = 0;
    link->frame_next = byte;
#if RLX_HAS_HALT
    if (link->looked) link->ahead++; /* it is read once more */
#endif
    link->frame_state = RLX_FRAME_READY | RLX_ERR_HALF;
}
#endif

#if RLX_HAS_MARKED || RLX_HAS_PACKET || RLX_HAS_MESSAGE
/* All bytes of a frame are there: what fills it goes, and only now they are looked at. */
static void finish_counted(const struct rlx_device *device, struct rlx_link *link, uint8_t pad)
{
    uint8_t *text = rlx_frame_text(link), len = link->frame_len;
    while (len && (text[len - 1] == pad || text[len - 1] == ' ' || ends_line(text[len - 1]))) len--;
    text[len] = 0;
    link->frame_state |= RLX_FRAME_READY;
    for (uint8_t i = 0; i < len && link->frame_state == RLX_FRAME_READY; i++) {
        if (!is_control(device, text[i])) continue;
        link->frame_state = RLX_FRAME_READY | RLX_ERR_BYTE;
        link->frame_len = i;
    }
}
#endif

#if RLX_HAS_MESSAGE
bool rlx_link_message(struct rlx_device *device, uint8_t link_no, const char *text, uint8_t count,
                      uint8_t source)
{
    if (!rlx_started(device) || link_no >= rlx_n_links(device))
        return true; /* nobody ever takes it */
    struct rlx_link *link = rlx_link_at(device, link_no);
    if (link->frame_state & RLX_FRAME_READY) return false;
    if (!source) {
        rlx_count(&link->others);
        return true;
    }
    link->source = source;
    link->frame_len = 0;
    while (count && link->frame_len < rlx_frame_most(link)) {
        rlx_frame_text(link)[link->frame_len++] = (uint8_t)*text++;
        count--;
    }
    if (count) link->frame_state = RLX_ERR_LONG;
    finish_counted(device, link, ' ');
    if (!count && !rlx_frame_text(link)[0]) rlx_frame_over(link); /* an empty line */
    return true;
}
#endif

#if RLX_HAS_PACKET
static void packet_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                        uint8_t byte)
{
    if (!link->frame_need) {
        link->frame_need = byte;
        return;
    }
    if (link->frame_len < rlx_frame_most(link))
        rlx_frame_text(link)[link->frame_len++] = byte;
    else
        link->frame_state = RLX_ERR_LONG;
    if (!--link->frame_need)
        finish_counted(device, link, rlx_more8(rlx_more(device, row), RLX_MORE_CHAR));
}
#endif

#if RLX_HAS_REPORT
/* A line is over with its end or a 0, and then the rest of the report is nothing, whatever it
 * holds; a line without an end goes on in the next report. */
static void report_byte(const struct rlx_device *device, struct rlx_link *link, uint8_t byte)
{
    bool end = !byte || ends_line(byte);
    if (!link->frame_need) {
        link->frame_need = byte;
        link->frame_rest = false;
        return;
    }
    link->frame_need--;
    if (link->frame_rest) return;
    collect(device, link, byte, end);
    link->frame_rest = end && (!byte || link->frame_state);
}
#endif

/* A line, or what people type. */
static void line_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                      uint8_t byte)
{
#if RLX_HAS_PEOPLE
    if (rlx_ways(device, row) & RLX_WAY_PEOPLE) {
        if (edits(device, link, byte)) return;
        collect(device, link, byte, ends_line(byte));
        echo_line(device, link, ends_line(byte));
        return;
    }
#endif
    (void)row;
    collect(device, link, byte, ends_line(byte));
}

#if RLX_HAS_BINARY
/* Its bytes may be any. What is damaged lasts up to its end: of the rest no frame is made. */
static void collect_bytes(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                          uint8_t byte)
{
    uint8_t most = rlx_frame_most(link);
    if (link->frame_state) return;
#if RLX_TAKES_CHANNELS
    uint8_t channels = rlx_channel_bytes(device, row);
    if (channels && channels < most) most = channels;
#endif
    (void)device, (void)row;
    if (link->frame_len == most)
        link->frame_state = RLX_ERR_LONG;
    else
        rlx_frame_text(link)[link->frame_len++] = byte;
}

static void finish_bytes(struct rlx_link *link, uint8_t framing)
{
    if (link->frame_state)
        link->frame_state |= RLX_FRAME_READY;
    else if (link->frame_len)
        rlx_layout_unwrap(link, framing);
}

static void binary_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                        uint8_t byte, uint8_t framing)
{
#if RLX_HAS_PACKET
    if (framing == RLX_FRAME_PACKET) {
        if (!link->frame_need) {
            link->frame_need = byte;
            return;
        }
        collect_bytes(device, link, row, byte);
        if (!--link->frame_need) finish_bytes(link, framing);
        return;
    }
#endif
    bool end = (RLX_HAS_STUFFED && framing == RLX_FRAME_STUFFED && byte == RLX_STUFF_FLAG) ||
               (RLX_HAS_COBS && framing == RLX_FRAME_COBS && !byte);
    if (end)
        finish_bytes(link, framing);
    else
        collect_bytes(device, link, row, byte);
}
#endif

/* Frames that are no lines and no keys. */
static void other_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                       uint8_t byte, uint8_t framing)
{
#if RLX_HAS_BINARY
    if (rlx_is_binary(device, row)) {
        binary_byte(device, link, row, byte, framing);
        return;
    }
#endif
#if RLX_HAS_CODES
    if (framing == RLX_FRAME_CODES) {
        code_byte(device, link, row, byte);
        return;
    }
#endif
#if RLX_HAS_PACKET
    if (framing == RLX_FRAME_PACKET) {
        packet_byte(device, link, row, byte);
        return;
    }
#endif
#if RLX_HAS_REPORT
    if (framing == RLX_FRAME_REPORT) {
        report_byte(device, link, byte);
        return;
    }
#endif
#if RLX_HAS_MARKED
    rlx_rom more = rlx_more(device, row);
    if (framing == RLX_FRAME_FIXED) {
        rlx_frame_text(link)[link->frame_len++] = byte;
        if (link->frame_len == rlx_more8(more, RLX_MORE_LENGTH))
            finish_counted(device, link, rlx_more8(more, RLX_MORE_CHAR));
        return;
    }
    if (framing == RLX_FRAME_ENDED) {
        if (!ends_line(byte)) collect(device, link, byte, byte == rlx_more8(more, RLX_MORE_CHAR));
        return;
    }
#endif
    if (!ends_line(byte)) collect(device, link, byte, false); /* a gap ends it */
    (void)framing, (void)row;
}

/* The silence that ends this frame begins anew with each byte. */
static void arm(const struct rlx_device *device, struct rlx_link *link, rlx_rom row)
{
#if RLX_HAS_TIMED
    uint16_t gap = rlx_perhaps16(device, row, RLX_MORE_GAP);
    link->armed =
        gap && !(link->frame_state & RLX_FRAME_READY) && (link->frame_len || link->frame_state);
    link->due = device->now + gap;
#else
    (void)device, (void)link, (void)row;
#endif
}

static void frame_byte(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                       uint8_t byte)
{
    uint8_t framing = framing_of(row);
#if RLX_HAS_KEYS
    if (framing == RLX_FRAME_KEYS)
        key_byte(device, link, row, byte);
    else
#endif
        if (OTHERS && framing > RLX_FRAME_KEYS)
        other_byte(device, link, row, byte, framing);
    else
        line_byte(device, link, row, byte);
    if (RLX_HAS_TIMED) arm(device, link, row);
}

/* Bytes were lost here. A line is refused when it ends; a key is a frame of its own, and so is
 * the gap in a run of keys; where nothing but a count or a silence ends a frame, this does. */
static void frame_cut(const struct rlx_device *device, struct rlx_link *link, rlx_rom row)
{
    uint8_t framing = framing_of(row);
    if (!link->frame_state) link->frame_state = RLX_ERR_LOST;
#if RLX_HAS_BINARY
    if (rlx_is_binary(device, row) && framing != RLX_FRAME_PACKET) {
        if (RLX_HAS_TIMED) arm(device, link, row);
        return;
    }
#endif
    (void)device;
    if (framing != RLX_FRAME_LINE && framing != RLX_FRAME_ENDED)
        link->frame_state |= RLX_FRAME_READY;
#if RLX_HAS_REPORT
    if (framing == RLX_FRAME_REPORT) link->frame_need = 0; /* the next byte is a report's length */
#endif
#if RLX_HAS_MARKED
    if (link->frame_line) link->frame_state &= (uint8_t)~RLX_FRAME_READY;
#endif
#if RLX_HAS_TIMED
    if (link->frame_state & RLX_FRAME_READY) link->armed = false;
#endif
}

RLX_INTERNAL void rlx_frame_silence(const struct rlx_device *device, struct rlx_link *link,
                                    rlx_rom row)
{
#if RLX_HAS_TIMED
    uint8_t framing = rlx_framing(row);
    link->armed = false;
    if (link->frame_state & RLX_FRAME_READY || (!link->frame_len && !link->frame_state)) return;
#if RLX_HAS_BINARY
    if (rlx_is_binary(device, row)) {
        if (framing != RLX_FRAME_GAP) link->frame_state = RLX_ERR_HALF;
        finish_bytes(link, framing);
        return;
    }
#endif
    if (framing == RLX_FRAME_GAP) collect(device, link, 0, true);
#if RLX_HAS_MARKED
    if (framing == RLX_FRAME_FIXED)
        finish_counted(device, link, rlx_more8(rlx_more(device, row), RLX_MORE_CHAR));
#endif
    if (framing == RLX_FRAME_CODES || framing == RLX_FRAME_ENDED || framing == RLX_FRAME_REPORT) {
        rlx_frame_text(link)[link->frame_len] = 0;
        link->frame_len = 0;
        if (!link->frame_state) link->frame_state = RLX_ERR_HALF;
        link->frame_state |= RLX_FRAME_READY;
    }
#else
    (void)device, (void)link, (void)row;
#endif
}

/* The same for the bytes of a line, up to its end: as collect() for each, with what it has of the
 * link at hand. */
__attribute__((__noinline__)) static uint8_t
collect_line(const struct rlx_device *device, struct rlx_link *link, uint8_t tail, uint8_t most)
{
    const uint8_t *ring = rlx_rx_ring(link);
    const uint8_t longest = rlx_frame_most(link);
    uint8_t *text = rlx_frame_text(link), len = link->frame_len, state = link->frame_state;
    do {
        uint8_t byte = ring[tail++ & rlx_rx_mask(link)];
        RLX_PREEMPT();
        if (ends_line(byte)) {
            if (!(state | len)) continue;
            if (!state) text[len] = 0;
            state |= RLX_FRAME_READY;
            break;
        }
        if (state) continue;
        text[len] = byte; /* where it is too long, on the place of the final 0 */
        if (len == longest)
            state = RLX_ERR_LONG;
        else if (is_control(device, byte))
            state = RLX_ERR_BYTE;
        else
            len++;
    } while (--most);
    link->frame_len = len;
    link->frame_state = state;
    return tail;
}

/* Whether bytes of this link are a line, and nothing else is to be done for each of them. */
static bool is_plain(const struct rlx_device *device, rlx_rom row)
{
    if (framing_of(row) != RLX_FRAME_LINE) return false;
    return !(RLX_HAS_TIMED && rlx_perhaps16(device, row, RLX_MORE_GAP)) &&
           !(RLX_HAS_PEOPLE && rlx_ways(device, row) & RLX_WAY_PEOPLE);
}

/* So many bytes are taken: whether a halt was looked for in the last one of them. */
static void passed(struct rlx_link *link, uint8_t count)
{
#if RLX_HAS_HALT
    link->looked = link->ahead >= count;
    link->ahead = (uint8_t)(link->looked ? link->ahead - count : 0);
#else
    (void)link, (void)count;
#endif
}

/* Takes at least one and at most `most` bytes, up to the end of a frame; returns how many. */
static uint8_t frame_bytes(const struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                           uint8_t tail, uint8_t most)
{
    if (is_plain(device, row)) {
        uint8_t end = collect_line(device, link, tail, most);
        rlx_ring_took(link, end);
        end = (uint8_t)(end - tail);
        passed(link, end);
        return end;
    }
    uint8_t byte = rlx_rx_ring(link)[tail & rlx_rx_mask(link)];
    rlx_ring_took(link, (uint8_t)(tail + 1));
    passed(link, 1);
    frame_byte(device, link, row, byte);
    return 1;
}

RLX_INTERNAL bool rlx_frame_step(const struct rlx_device *device, struct rlx_link *link,
                                 rlx_rom row, uint8_t *budget)
{
    uint8_t tail, head;
#if RLX_HAS_CODES
    if (link->frame_next) { /* it was kept back of the last frame */
        uint8_t byte = link->frame_next;
        link->frame_next = 0;
        (*budget)--;
        passed(link, 1);
        frame_byte(device, link, row, byte);
        return true;
    }
#endif
    enum rlx_got got = rlx_ring_run(link, &tail, &head);
    if (got == RLX_GOT_BYTE) {
        uint8_t count = (uint8_t)(head - tail);
        *budget = (uint8_t)(*budget - frame_bytes(device, link, row, tail,
                                                  count < *budget ? count : *budget));
        return true;
    }
    if (got == RLX_GOT_CUT) frame_cut(device, link, row);
    if (RLX_HAS_TIMED && got == RLX_GOT_GAP) rlx_frame_silence(device, link, row);
    if (got != RLX_GOT_NONE) (*budget)--;
    return got != RLX_GOT_NONE;
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

RLX_INTERNAL const uint8_t *rlx_behind_text(const struct rlx_device *device, const uint8_t *s,
                                            rlx_rom text)
{
    uint8_t c;
    do {
        c = RLX_ROM8_NEXT(text);
        if (rlx_folded(device, *s++) != (c & ~RLX_TEXT_END)) return 0;
        while (c == ' ' && *s == ' ') s++;
    } while (c < RLX_TEXT_END);
    return s;
}

RLX_INTERNAL void rlx_frame_number(struct rlx_device *device)
{
    const uint8_t *s = device->text, *end_of;
    rlx_rom at = rlx_part(device, RLX_IMG_NUMBERED), end = at + 2 + RLX_ROM16(at);
    if (at == rlx_image(device)) return; /* there are none */
    while (*s == ' ') s++;
    for (at += 2; at != end; at = rlx_behind(at)) {
        end_of = rlx_behind_text(device, s, at);
        at = rlx_behind(at);
        while (end_of && *end_of == ' ') end_of++;
        if (!end_of || *end_of) continue;
        put_text(rlx_current(device), at);
        device->text = rlx_frame_text(rlx_current(device));
        return;
    }
}
