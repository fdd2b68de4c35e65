#include "core.h"

/* Texts in program memory. */
static const char error_names[] RLX_ROM =
#define NAME(number, id, name, sentence) name "\0"
    RLX_REPLY_ERRORS(NAME);
#undef NAME
static const char err_[] RLX_ROM = "err ";
static const char at_[] RLX_ROM = " at ";
static const char hex_[] RLX_ROM = " 0x";

/* Most characters of a foreign word that are told back. */
#define WORD_SHOWN 16

bool rlx_reply_begin(struct rlx_device *d, struct rlx_link *link, uint8_t most)
{
    if (rlx_ring_room(link) < most) return false;
    d->link = link;
    d->tx_next = link->tx_head;
    d->room = (uint8_t)(most - 2); /* the line end */
    d->full = false;
    return true;
}

void rlx_reply_put(struct rlx_device *d, uint8_t c)
{
    if (!d->room) {
        d->full = true;
        return;
    }
    d->room--;
    rlx_ring_put(d->link, d->tx_next++, c);
}

/* Back to an earlier tx_next. */
void rlx_reply_rewind(struct rlx_device *d, uint8_t index)
{
    d->room = (uint8_t)(d->room + d->tx_next - index);
    d->tx_next = index;
    d->full = false;
}

void rlx_reply_string(struct rlx_device *d, const char *rom)
{
    uint8_t c;
    while ((c = RLX_ROM8((rlx_rom)rom++)) != 0) rlx_reply_put(d, c);
}

/* The nth of a run of strings, from 0. */
void rlx_reply_nth(struct rlx_device *d, const char *rom, uint8_t n)
{
    while (n--)
        while (RLX_ROM8((rlx_rom)rom++)) {}
    rlx_reply_string(d, rom);
}

/* A text of the image; returns where it ends. */
rlx_rom rlx_reply_text(struct rlx_device *d, rlx_rom text)
{
    uint8_t c;
    do {
        c = RLX_ROM8(text++);
        rlx_reply_put(d, (uint8_t)(c & ~RLX_TEXT_END));
    } while (c < RLX_TEXT_END);
    return text;
}

void rlx_reply_commit(struct rlx_device *d)
{
    d->room = 2;
    rlx_reply_put(d, '\r');
    rlx_reply_put(d, '\n');
    rlx_ring_publish(d->link, d->tx_next);
    rlx_port_kick(d->port, (uint8_t)(d->link - d->links));
}

/* ---- errors ---- */

static void put_number(struct rlx_device *d, rlx_value value)
{
    uint8_t digit[10], n = 0;
    rlx_magnitude left = (rlx_magnitude)value;
    if (value < 0) {
        rlx_reply_put(d, '-');
        left = (rlx_magnitude)(0u - left);
    }
    do {
        digit[n++] = (uint8_t)('0' + left % 10u);
        left = (rlx_magnitude)(left / 10u);
    } while (left);
    while (n) rlx_reply_put(d, digit[--n]);
}

static void put_hex(struct rlx_device *d, uint8_t nibble)
{
    rlx_reply_put(d, (uint8_t)(nibble < 10 ? '0' + nibble : 'A' - 10 + nibble));
}

/* " on|off|toggle" or " level 0..100": what the program wants at d->at. */
static void put_wanted(struct rlx_device *d)
{
    rlx_rom at = d->at, end;
    uint8_t op = RLX_ROM8(at), separator = ' ', before;
    if (RLX_HAS_NUMBER && (op == RLX_OP_NUM16 || op == RLX_OP_NUM32 || op == RLX_OP_IF_NUM)) {
        rlx_rom number = op == RLX_OP_IF_NUM ? at + 3 : at;
        rlx_value low, high;
        rlx_rom name = rlx_number_row(number, &low, &high);
        rlx_reply_put(d, ' ');
        if (RLX_HAS_UNIT && (RLX_ROM8(number + 2) & RLX_NUM_UNIT))
            while (RLX_ROM8(name++) < RLX_TEXT_END) {}
        rlx_reply_text(d, name);
        rlx_reply_put(d, ' ');
        put_number(d, low);
        rlx_reply_put(d, '.');
        rlx_reply_put(d, '.');
        put_number(d, high);
        if (!RLX_HAS_FAMILY || op != RLX_OP_IF_NUM) return;
        at += 3 + RLX_ROM16(at + 1);
        op = RLX_ROM8(at);
        separator = '|';
    }
    if (op == RLX_OP_HASH || (op & RLX_OP_END)) return;
    end = at + 4 + RLX_ROM16(at + 1);
    before = RLX_ROM8(at + 3);
    for (at += 4; at != end;) {
        rlx_reply_put(d, separator);
        separator = '|';
        at = rlx_reply_text(d, at + before);
    }
}

/* The word of the frame at d->text, cut where it is too long to be told. */
static void put_word(struct rlx_device *d)
{
    const uint8_t *s = d->text;
    rlx_reply_put(d, ' ');
    while (*s > ' ' && s != d->text + WORD_SHOWN) rlx_reply_put(d, *s++);
}

/* Replaces what was written so far: err NAME, what is meant, where. Where that does not fit, the
 * name alone. */
void rlx_reply_error(struct rlx_device *d, uint8_t error)
{
    uint8_t start = d->link->tx_head;
    rlx_reply_rewind(d, start);
    rlx_reply_string(d, err_);
    rlx_reply_nth(d, error_names, (uint8_t)(error - 1));
    uint8_t named = d->tx_next;
    switch (error) {
    case RLX_ERR_UNKNOWN:
    case RLX_ERR_AMBIGUOUS:
    case RLX_ERR_EXTRA: put_word(d); break;
    case RLX_ERR_BYTE:
        rlx_reply_string(d, hex_);
        put_hex(d, *d->text >> 4);
        put_hex(d, *d->text & 15);
        break;
    case RLX_ERR_LONG:
        rlx_reply_put(d, ' ');
        put_number(d, d->link->frame_size);
        break;
    case RLX_ERR_CHOICE:
    case RLX_ERR_MISSING:
    case RLX_ERR_NUMBER:
    case RLX_ERR_RANGE:
    case RLX_ERR_DIGITS: put_wanted(d); break;
    default: break;
    }
    if (error < RLX_ERR_FAILED) {
        rlx_reply_string(d, at_);
        put_number(d, (rlx_value)(d->text - rlx_frame_text(d->link)));
    }
    if (d->full) rlx_reply_rewind(d, named);
}
