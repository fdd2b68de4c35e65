/* Any bytes, packets, faults and silences over any link of a device. The input is a run of steps;
 * after each poll the guarantees must hold: P1, P5  an output changes, or a handler runs, only with
 * an answer that says so P2      what is answered is ok, err or a text of the link's own; never
 * more answers than bytes came P3      a poll comes to rest */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "fuzz.h"
#include "rig.h"

static struct rig *rigs[26];

static struct rig *rig_number(unsigned n)
{
    static const char *const names[] = {
        "framings", "radio",          "built_in", "slots", "events",
        "crowded",  "framings_other", "asked",    "lamps", "inputs",
        "gate",     "motors",         "servos",   "dusk",  "presence",
        "settings", "bounds",         "hang",     "kept",  "permits",
        "layouts",  "layouts_other",  "channels", "raft",  "../../examples/hatchery/hatchery",
        "sessions"};
    if (!rigs[n]) {
        char *file = g_strdup_printf("%s/%s.lexicon", LEXICONS, names[n]);
        rigs[n] = rig_new(file);
        g_free(file);
    }
    return rigs[n];
}

static void fail(const struct rig *rig, unsigned link, const char *what)
{
    fprintf(stderr, "%s: link %u sent '%s', pins '%s', %u calls\n", what, link,
            rig->sent[link]->str, rig->pins->str, rig->calls);
    abort();
}

/* Whether there is an answer that says that something was done. */
static bool says_done(const struct rig *rig, unsigned link)
{
    const struct lex_link *row = rig->lx->links->pdata[link];
    const char *sent = rig->sent[link]->str;
    if (row->layout) return row->replies == LEX_REPLIES_SILENT || *sent;
    return row->address >= 0 /* what goes to all is not answered */ ||
           rig->link[link].unheard /* dropped, and told so */ || strstr(sent, "ok") ||
           strchr(sent, '+') || strchr(sent, '=') || strstr(sent, "busy") || strstr(sent, "e13");
}

/* Whether all of it was told unasked: ev, note, or a text of the link's own for these. */
static bool is_told(const char *sent)
{
    return !strstr(sent, "ok") && !strstr(sent, "err") && !strpbrk(sent, "+-");
}

/* The unused bytes of reports, behind which more may stand. */
static void drop_zeros(GString *sent)
{
    size_t n = 0;
    for (size_t i = 0; i < sent->len; i++)
        if (sent->str[i]) sent->str[n++] = sent->str[i];
    g_string_truncate(sent, n);
}

static void check(struct rig *rig, unsigned link, size_t came)
{
    for (unsigned i = 0; i < rig->lx->links->len; i++) drop_zeros(rig->sent[i]);
    bool by_itself =
        image_needs(rig->image, RLX_BIT_ACTS) || image_needs(rig->image, RLX_BIT_REVERSERS) ||
        image_needs(rig->image, RLX_BIT_MOTORS) || image_needs(rig->image, RLX_BIT_HANG_UP) ||
        image_needs(rig->image, RLX_BIT_SERVOS) ||
        image_needs(rig->image, RLX_BIT_EXPIRY); /* what was told before goes on, or ends */
    bool acted = (rig->pins->len && !by_itself) || rig->calls;
    if (by_itself && rig->board.level[7] && rig->board.level[8])
        fail(rig, link, "both relays of an interlock are on");
    const char *sent = rig->sent[link]->str;
    if (rig->hold_sent) return; /* a halt is done before its answer can be sent */
    if (acted && !says_done(rig, link)) fail(rig, link, "done without an answer");
    const struct lex_link *of = rig->lx->links->pdata[link];
    if (of->layout) return; /* bytes may be any */
    if (*sent && came == 0 && !is_told(sent)) fail(rig, link, "an answer to nothing");
    for (unsigned other = 0; other < rig->lx->links->len; other++)
        if (other != link && !((struct lex_link *)rig->lx->links->pdata[other])->layout &&
            !is_told(rig->sent[other]->str))
            fail(rig, other, "an answer on another link");
}

/* What happens beside what is said. */
static void happen(struct rig *rig, unsigned link, unsigned what)
{
    static const char *const events[] = {
        "! call pressed", "! call released", "! overflow",   "! flood high", "! tick b",
        "! note x\x01y",  "! jam",           "! down bench", "! up bench",   "! call on",
        "! call off",     "! upper off",     "! upper on",   "! lower on"};
    switch (what) {
    case 0: rlx_link_gap(&rig->link[link]); break;
    case 1: rlx_link_fault(&rig->link[link]); break;
    case 2: rig->hold_sent = true; break;
    case 3:
        rig->hold_sent = false;
        for (unsigned i = 0; i < rig->lx->links->len; i++) rlx_port_kick(&rig->board, (uint8_t)i);
        break;
    default: rig_do(rig, events[what % G_N_ELEMENTS(events)]);
    }
}

static void forget(struct rig *rig)
{
    for (unsigned i = 0; i < rig->lx->links->len; i++) g_string_truncate(rig->sent[i], 0);
    g_string_truncate(rig->pins, 0);
    rig->calls = 0;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    if (size < 3) return 0;
    unsigned low = data[0] & 7u;
    struct rig *rig = rig_number(data[1] >> 5 == 5   ? 16 + (low & 3)
                                 : data[1] >> 5 == 6 ? 20 + (low & 3)
                                 : data[1] >> 5 == 7 ? 24 + (low & 1)
                                 : data[0] & 0x80    ? 8 + low
                                                     : low);
    unsigned link = (data[0] >> 3 & 15) % rig->lx->links->len;
    size_t came = 0;
    rig->hold_sent = false;
    if (rig_start(rig, data[1] & 1 ? UINT32_MAX - 40u : 0) != 0) abort();
    for (unsigned i = 0; i < rig->lx->seal_keys->len; i++) /* they are the first settings */
        if (rlx_key_store(&rig->device, (uint8_t)i, "a-key-that-is-not-guessed", 25) < 0) abort();
    rig_run(rig);
    forget(rig);
    rig->returns = data[1] & 2 ? -RLX_ERR_BUSY : 0;
    for (size_t i = 2; i < size;) {
        uint8_t step = data[i++];
        size_t count = MIN((size_t)(step & 63), size - i);
        switch (step >> 6) {
        case 0:
        case 1:
            rig_feed(rig, link, (const char *)data + i, count);
            i += count;
            came += count;
            break;
        case 2: rig_wait(rig, (step & 63u) * 10u); break;
        default: happen(rig, link, step & 15); came++;
        }
        rig_run(rig);
        check(rig, link, came);
        if (!rig->hold_sent) forget(rig);
    }
    return 0;
}
