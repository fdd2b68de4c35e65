/* The envelope of a frame, and its seal: what stands around any text, on a link with tags and a
 * check, and on one with seals and a check. Keys and memory hold anything.
 * The tables are those of frames.lexicon. */
#include "any.h"
#include "../ports.c" /* without a memory: what it holds is given below */
#include "rlx.c"
#include "envelope.c"

static struct envelope it;

void rlx_port_kick(void *port, uint8_t link)
{
    (void)port, (void)link;
}

/* ---- a frame ---- */

/* What was said before on the links, of which only the lengths of kept answers are in order. */
static void before(void)
{
    for (uint8_t i = 0; i < 2; i++) {
        struct rlx_sender *sender = &it.link[1].senders[i];
        struct rlx_session *session = &it.link[2].sessions[i];
        ANY(*sender);
        ANY(*session);
        sender->tags.known = any_of(0, 1);
        sender->length = (uint8_t)any_of(0, RLX_KEPT_REPLY_BYTES);
        session->length = (uint8_t)any_of(0, RLX_KEPT_REPLY_BYTES);
    }
}

/* On this link, with these characters and any ones behind them. */
static void frame(uint8_t link, const char *begins, uint8_t any)
{
    struct rlx_device *d = &it.device;
    rlx_rom row = rlx_link_row(d, link);
    d->link = &it.link[link];
    d->link_no = link;
    d->now = (uint32_t)Frama_C_unsigned_int_interval(0, UINT32_MAX);
    uint8_t *text = rlx_frame_text(d->link);
    while (*begins) *text++ = (uint8_t)*begins++;
    for (; any; any--) *text++ = (uint8_t)any_of(0, '~');
    *text = 0;
    d->text = rlx_frame_text(d->link);
    before();
    if (!rlx_reply_begin(d, link, row)) return;
    d->tagged = d->broadcast = false;
    d->source = 0;
    d->seal_key = 0;
    d->own = (uint32_t)Frama_C_unsigned_int_interval(0, UINT32_MAX);
    d->own_most = (uint32_t)Frama_C_unsigned_int_interval(0, UINT32_MAX);
    d->own_known = any_of(0, 1);
    if (!rlx_envelope_open(d, row)) rlx_envelope_close(d, row);
}

void main(void)
{
    if (envelope_init(&it, 0, RLX_RESET_POWER)) return;
    ANY(it.setting_texts);
    frame(1, "", 8);
    frame(1, "@3/1 #", 6);
    frame(1, "@3/1 #17 heater on", 5);
    frame(2, "", 8);
    frame(2, "@3/1 !", 6);
    frame(2, "@3/1 !1.", 6);
    frame(2, "@3/1 !1.17.AAAAAAAAAAA", 4);
    frame(2, "@3/1 !2.17.AAAAAAAAAAA heater on", 5);
    frame(2, "@3/1 !1?17.AAAAAAAAAAA", 2);
}
