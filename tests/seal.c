/* Seals: the code is the standard's, a conversation is what docs/security.md has, and each attack
 * on a link with seals fails that succeeds on one without. */
#include <mbedtls/md.h>
#include <stdio.h>
#include <string.h>

#include "../src/core/seal_code.h"
#include "harness.h"
#include "lexicon/seal.h"
#include "lines.h"
#include "rig.h"
#include "rlx/client.h"

enum { BENCH, SKIFF };
#define DECK "sample-key-of-deck-01"
#define DESK "sample-key-of-desk-02"

/* ---- the code ---- */

static void code_is_the_standards(void)
{
    static const struct { /* RFC 4231, 4.2, 4.3 and 4.4 */
        const char *key, *text, *code;
    } vectors[] = {
        {"\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b\x0b",
         "Hi There", "b0344c61d8db3853"},
        {"Jefe", "what do ya want for nothing?", "5bdcc146bf60754e"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(vectors); i++) {
        struct rlx_hmac h;
        uint8_t mac[RLX_HMAC_BYTES];
        char hex[17];
        rlx_hmac_begin(&h, (const uint8_t *)vectors[i].key, (uint8_t)strlen(vectors[i].key));
        for (const char *s = vectors[i].text; *s; s++) rlx_hmac_add(&h, (uint8_t)*s);
        rlx_hmac_end(&h, mac);
        for (unsigned k = 0; k < 8; k++) snprintf(hex + 2 * k, 3, "%02x", mac[k]);
        CHECK_TEXT(hex, vectors[i].code);
    }
    lines_seed = 2104;
    for (unsigned count = 0; count < 600; count++) { /* another library computes the same */
        uint8_t key[RLX_HMAC_KEY_MOST], text[600], mac[RLX_HMAC_BYTES], sum[32];
        uint8_t key_count = (uint8_t)(1 + count % RLX_HMAC_KEY_MOST);
        for (unsigned i = 0; i < key_count; i++) key[i] = (uint8_t)lines_chance(256);
        for (unsigned i = 0; i < count; i++) text[i] = (uint8_t)lines_chance(256);
        struct rlx_hmac h;
        rlx_hmac_begin(&h, key, key_count);
        for (unsigned i = 0; i < count; i++) rlx_hmac_add(&h, text[i]);
        rlx_hmac_end(&h, mac);
        CHECK_INT(mbedtls_md_hmac(mbedtls_md_info_from_type(MBEDTLS_MD_SHA256), key, key_count,
                                  text, count, sum),
                  0);
        test_context("%u bytes, key of %u", count, key_count);
        CHECK(!memcmp(mac, sum, RLX_HMAC_BYTES));
        char *base64 = g_base64_encode(sum, RLX_HMAC_BYTES);
        for (char *s = base64; *s; s++) *s = *s == '+' ? '-' : *s == '/' ? '_' : *s;
        for (uint8_t i = 0; i < RLX_HMAC_CHARACTERS; i++)
            CHECK_INT(rlx_hmac_character(mac, i), base64[i]);
        g_free(base64);
    }
}

/* ---- conversations ---- */

static struct rig *rig_with(const char *seal)
{
    char *text = g_strdup_printf("lexicon tank 3\n"
                                 "built-in halt stats heard state\n"
                                 "output pump relay pin 1\n"
                                 "command pump {on|off|toggle} => pump\n"
                                 "command mark {0..999999} => mark()\n"
                                 "number 7 = pump on\n"
                                 "event call {pressed|released}\n"
                                 "link bench serial 115200 frame line\n"
                                 "link skiff radio payload 90 address 3 senders 3 %s\n",
                                 seal);
    struct rig *rig = rig_of_text(text);
    g_free(text);
    return rig;
}

static struct rig *rig_sealed(void)
{
    struct rig *rig = rig_with("seal required\n"
                               "key deck over skiff sender 1\n"
                               "key desk over skiff sender 2");
    CHECK_TALK(rig, BENCH, "deck \"" DECK "\"", "ok deck \"" DECK "\"");
    CHECK_TALK(rig, BENCH, "desk \"" DESK "\"", "ok desk \"" DESK "\"");
    rig_wait(rig, 50);
    return rig;
}

static struct seal deck_seal(void)
{
    return (struct seal){.key = DECK, .context = "tank 3 skiff", .number = 1};
}

/* What comes back to a sealed command; NULL: nothing, or no right answer. Valid until the next. */
static const char *ask(struct rig *rig, struct seal *seal, unsigned counter, const char *text)
{
    char *frame = seal_frame(seal, SEAL_COMMAND, "@3/1 ", counter, text);
    char *back = rig_talk(rig, SKIFF, frame);
    g_free(frame);
    uint32_t count;
    const char *inside;
    g_strchomp(back);
    if (!seal_is_right(seal, SEAL_ANSWER, back, &count, &inside) || count != counter) return NULL;
    return inside;
}

static void open_session(struct rig *rig, struct seal *seal, uint32_t random)
{
    char *frame = seal_frame(seal, SEAL_OPENING, "@3/1 ", random, NULL), *back = NULL;
    const char *inside;
    for (unsigned i = 0; i < 2 && (!back || !*back); i++) { /* the first number is written first */
        back = g_strchomp(rig_talk(rig, SKIFF, frame));
        rig_wait(rig, 50);
    }
    test_context("opened: %s", back);
    CHECK(seal_is_right(seal, SEAL_SESSION, back, &seal->session, &inside));
    CHECK(g_str_has_prefix(back, "@1/3 !1="));
    g_free(frame);
}

static void sessions(void)
{
    struct rig *rig = rig_sealed();
    struct seal seal = deck_seal();
    open_session(rig, &seal, 99);
    uint32_t offered = seal.session;
    open_session(rig, &seal, 98); /* whoever asks: it is the same until it is in use */
    CHECK_INT(seal.session, offered);
    CHECK_TEXT(ask(rig, &seal, 1, "pump on"), "ok pump on");
    CHECK_TEXT(ask(rig, &seal, 1, "pump on"), "ok pump on"); /* the same frame: once obeyed */
    CHECK_TEXT(ask(rig, &seal, 2, "pump"), "err missing on|off|toggle at 26");
    CHECK_TEXT(ask(rig, &seal, 6, "7"), "ok pump on already"); /* written over the frame */
    CHECK_TEXT(ask(rig, &seal, 7, "pump off"), "ok pump off");
    for (unsigned n = 8; n < 12; n++) { /* it goes on as long as there are commands */
        rig_wait(rig, 9000);
        CHECK_TEXT(ask(rig, &seal, n, "pump?"), "ok pump off");
    }
    CHECK(!ask(rig, &seal, 65536, "pump on"));
    rig_wait(rig, 10000);
    CHECK(!ask(rig, &seal, 12, "pump on"));
    /* long after that the clock has wrapped, and it is still over */
    for (unsigned day = 0; day < 30; day++) {
        rig->now_ms += 86400000;
        rig_run(rig);
    }
    CHECK(!ask(rig, &seal, 12, "pump on"));
    CHECK_TALK(rig, BENCH, "pump?", "ok pump off");
    /* a device that starts tells it, so that nobody sends in vain */
    rig_forget(rig);
    rig->board.nv_kept = true;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    rig_wait(rig, 50);
    uint32_t number;
    const char *inside;
    char *told = rig->sent[SKIFF]->str;
    CHECK(seal_is_right(&seal, SEAL_TO_ALL, told, &number, &inside));
    CHECK_TEXT(inside, "ready");
    CHECK(number > offered);
    rig_free(rig);
}

/* ---- a handset, a device, and somebody between them ---- */

struct air {
    struct rig *rig;
    struct sim_board board;
    struct rlx_client deck;
    struct rlx_client_command queue[4];
    GString *packet, *heard;
    GPtrArray *said, *back; /* char *: what the handset and the device sent so far */
    bool jammed;            /* nothing that the handset sends arrives */
    unsigned answered, over, events;
};

static void on_deck(void *user, struct sim_event event)
{
    struct air *a = user;
    if (event.kind != SIM_PACKET) return;
    if (event.value < 256) {
        g_string_append_c(a->packet, (char)event.value);
        return;
    }
    g_ptr_array_add(a->said, g_strdup(a->packet->str));
    g_string_truncate(a->packet, 0);
}

static void on_deck_report(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                           uint8_t count)
{
    struct air *a = user;
    (void)tag;
    a->answered += what == RLX_CLIENT_ANSWERED;
    a->events += what == RLX_CLIENT_EVENT;
    a->over += what != RLX_CLIENT_EVENT;
    g_string_printf(a->heard, "%.*s", count, text);
}

static void deck_starts(struct air *a, uint32_t random)
{
    const bool sealed = ((struct lex_link *)a->rig->lx->links->pdata[SKIFF])->seal;
    a->deck = (struct rlx_client){.port = &a->board,
                                  .to = 3,
                                  .from = 1,
                                  .tries = 4,
                                  .pause_ms = 100,
                                  .window_ms = 10000,
                                  .queue = a->queue,
                                  .queue_size = 4,
                                  .key = sealed ? DECK : NULL,
                                  .key_count = sizeof DECK - 1,
                                  .key_number = 1,
                                  .context = "tank 3 skiff",
                                  .random = random,
                                  .user = a,
                                  .report = on_deck_report};
    CHECK_INT(rlx_client_init(&a->deck, (uint16_t)random), 0);
}

static struct air *air_new(bool sealed)
{
    struct air *a = g_new0(struct air, 1);
    a->rig = sealed ? rig_sealed() : rig_with("tags required open");
    sim_board_init(&a->board, on_deck, a, 0, RLX_RESET_POWER);
    a->packet = g_string_new(NULL);
    a->heard = g_string_new(NULL);
    a->said = g_ptr_array_new_with_free_func(g_free);
    a->back = g_ptr_array_new_with_free_func(g_free);
    deck_starts(a, 4711);
    return a;
}

static void air_free(struct air *a)
{
    rig_free(a->rig);
    g_string_free(a->packet, TRUE);
    g_string_free(a->heard, TRUE);
    g_ptr_array_free(a->said, TRUE);
    g_ptr_array_free(a->back, TRUE);
    g_free(a);
}

/* The device gets a packet, from whomever; what it sends is in `back`, and comes to the handset. */
static void device_gets(struct air *a, const char *packet)
{
    char **lines = g_strsplit(rig_talk(a->rig, SKIFF, packet), "\n", 0);
    for (char **line = lines; *line; line++) {
        if (!**line) continue;
        g_ptr_array_add(a->back, g_strdup(*line));
        rlx_client_receive(&a->deck, (const uint8_t *)*line, (uint8_t)strlen(*line));
    }
    g_strfreev(lines);
}

static void time_passes(struct air *a, uint32_t ms)
{
    for (uint32_t i = 0; i < ms; i++) {
        unsigned n = a->said->len;
        rig_wait(a->rig, 1);
        rlx_client_poll(&a->deck, a->rig->now_ms);
        for (; n < a->said->len; n++)
            if (!a->jammed) device_gets(a, a->said->pdata[n]);
    }
}

/* Somebody presses a button of the handset: whether the device answered. */
static bool press(struct air *a, const char *text)
{
    unsigned answered = a->answered, over = a->over;
    CHECK_INT(rlx_client_send(&a->deck, text), 0);
    for (unsigned i = 0; i < 5000 && a->over == over; i++) time_passes(a, 1);
    return a->answered > answered;
}

/* How often the device obeyed `mark N` since this was asked last, whoever sent it. */
static unsigned obeyed(struct air *a)
{
    unsigned calls = a->rig->calls;
    a->rig->calls = 0;
    return calls;
}

static const char *last_said(const struct air *a)
{
    return a->said->pdata[a->said->len - 1];
}

static void device_restarts(struct air *a)
{
    a->rig->board.nv_kept = true;
    CHECK_INT(rig_start(a->rig, a->rig->now_ms + 500), 0);
    rig_wait(a->rig, 50);
}

/* ---- attacks: whether each succeeds ---- */

static bool forges_a_source(struct air *a)
{
    device_gets(a, "@3/2 #16385 mark 66");
    device_gets(a, "@3/2 !2.1.AAAAAAAAAAA mark 66");
    return obeyed(a) > 0;
}

static bool replays_after_the_window(struct air *a)
{
    press(a, "mark 1");
    char *recorded = g_strdup(last_said(a));
    press(a, "mark 2");
    obeyed(a);
    time_passes(a, 10001);
    device_gets(a, recorded);
    g_free(recorded);
    return obeyed(a) > 0;
}

static bool replays_after_a_restart(struct air *a)
{
    press(a, "mark 1");
    obeyed(a);
    device_restarts(a);
    for (unsigned i = 0; i < a->said->len; i++) device_gets(a, a->said->pdata[i]);
    return obeyed(a) > 0;
}

/* The handset opens a session once more, and the attacker repeats all of the earlier ones. */
static bool replays_into_a_new_session(struct air *a)
{
    for (unsigned i = 0; i < 5; i++) {
        press(a, "mark 1");
        time_passes(a, 10001);
    }
    unsigned recorded = a->said->len;
    press(a, "mark 2");
    obeyed(a);
    for (unsigned i = 0; i < recorded; i++) device_gets(a, a->said->pdata[i]);
    return obeyed(a) > 0;
}

static bool delivers_late(struct air *a)
{
    press(a, "mark 1");
    a->jammed = true;
    press(a, "mark 2");
    a->jammed = false;
    char *recorded = g_strdup(last_said(a));
    obeyed(a);
    time_passes(a, 20000);
    device_gets(a, recorded);
    g_free(recorded);
    return obeyed(a) > 0;
}

/* The next command of the handset is nothing new to the device. */
static bool uses_the_next_number(struct air *a)
{
    press(a, "mark 1");
    obeyed(a);
    for (unsigned i = 1; i < 5; i++) {
        char *next = g_strdup_printf("@3/1 #%u mark 66", (4711 + i) & 16383);
        device_gets(a, next);
        g_free(next);
    }
    obeyed(a);
    press(a, "mark 2");
    return a->rig->value[0] != 2 || obeyed(a) != 1;
}

/* The handset's command never arrives, and somebody else refuses it. */
static bool refuses_for_the_device(struct air *a)
{
    press(a, "mark 1");
    a->jammed = true;
    unsigned over = a->over;
    CHECK_INT(rlx_client_send(&a->deck, "mark 2"), 0);
    time_passes(a, 1);
    uint32_t tag = a->deck.tag;
    for (unsigned i = 0; i < 2; i++) {
        char *forged = g_strdup_printf("@1/3 %s%u%s err busy", i ? "!1." : "#", i ? 2 : tag,
                                       i ? ".AAAAAAAAAAA" : "");
        rlx_client_receive(&a->deck, (const uint8_t *)forged, (uint8_t)strlen(forged));
        g_free(forged);
    }
    return a->over > over;
}

static bool repeats_the_opening(struct air *a)
{
    press(a, "mark 1");
    char *opening = g_strdup(a->said->pdata[0]);
    for (unsigned i = 0; i < 20; i++) {
        device_gets(a, opening);
        time_passes(a, 10);
    }
    g_free(opening);
    unsigned said = a->said->len;
    return !press(a, "mark 2") || a->said->len != said + 1;
}

static bool plays_the_answer(struct air *a)
{
    press(a, "mark 1");
    time_passes(a, 10001);
    char *recorded = g_strdup(a->back->pdata[a->back->len - 1]);
    deck_starts(a, 4712);
    a->jammed = true;
    unsigned answered = a->answered;
    a->deck.tag = 4711 | 16384; /* tags begin anew, and one day as they did */
    CHECK_INT(rlx_client_send(&a->deck, "mark 1"), 0);
    for (unsigned i = 0; i < 300; i++) {
        time_passes(a, 1);
        for (unsigned k = 0; k < a->back->len; k++) {
            const char *packet = a->back->pdata[k];
            rlx_client_receive(&a->deck, (const uint8_t *)packet, (uint8_t)strlen(packet));
        }
        rlx_client_receive(&a->deck, (const uint8_t *)recorded, (uint8_t)strlen(recorded));
    }
    g_free(recorded);
    return a->answered > answered;
}

static bool forges_an_event(struct air *a)
{
    press(a, "mark 1");
    rlx_event(&a->rig->device, 0, 0);
    device_gets(a, "@9/9 -");
    const char *told = a->back->pdata[a->back->len - 1];
    unsigned events = a->events;
    for (unsigned i = 0; i < 3; i++) /* it comes again */
        rlx_client_receive(&a->deck, (const uint8_t *)told, (uint8_t)strlen(told));
    static const char forged[] = "@*/3 ev call pressed";
    rlx_client_receive(&a->deck, (const uint8_t *)forged, sizeof forged - 1);
    return a->events > events;
}

static bool floods(struct air *a)
{
    press(a, "mark 1");
    obeyed(a);
    unsigned answered = a->answered, back = a->back->len;
    for (unsigned i = 0; i < 2000; i++) {
        char *forged = g_strdup_printf("@3/1 %s%u.%s mark 66", i & 1 ? "!1." : "#", 2 + i % 100,
                                       i & 1 ? "AAAAAAAAAAA" : "");
        device_gets(a, forged);
        g_free(forged);
    }
    bool wasted = a->back->len > back;
    return !press(a, "mark 2") || a->answered != answered + 1 || obeyed(a) != 1 || wasted;
}

static void attacks(void)
{
    static const struct {
        const char *name;
        bool (*attack)(struct air *a);
    } all[] = {
        {"a command as another source", forges_a_source},
        {"a recorded command when the window has closed", replays_after_the_window},
        {"a recorded command after a restart of the device", replays_after_a_restart},
        {"all recorded commands in a new session", replays_into_a_new_session},
        {"a command that was jammed, later", delivers_late},
        {"the number of the next command", uses_the_next_number},
        {"a refusal that the device did not send", refuses_for_the_device},
        {"an answer of the device from before", plays_the_answer},
        {"events, recorded and forged", forges_an_event},
        {"a flood of forged frames", floods},
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        for (unsigned sealed = 0; sealed < 2; sealed++) {
            struct air *a = air_new(sealed);
            test_context("%s, %s seals", all[i].name, sealed ? "with" : "without");
            CHECK_INT(all[i].attack(a), !sealed);
            air_free(a);
        }
    struct air *a = air_new(true);
    CHECK(!repeats_the_opening(a));
    air_free(a);
}

/* ---- what else is no seal ---- */

static void each_character_counts(void)
{
    struct air *a = air_new(true);
    press(a, "mark 1");
    a->jammed = true;
    press(a, "mark 2");
    a->jammed = false;
    char *frame = g_strdup(last_said(a));
    obeyed(a);
    for (char *c = frame; *c; c++) {
        const char was = *c;
        for (unsigned bit = 0; bit < 7; bit++) {
            *c = (char)(was ^ 1 << bit);
            if (*c < ' ' || *c > '~') continue;
            device_gets(a, frame);
            test_context("%s", frame);
            CHECK_INT(obeyed(a), 0);
        }
        *c = was;
    }
    for (size_t n = strlen(frame) - 1; n; n--) { /* the next one would be a command, too */
        char *shorter = g_strndup(frame, n);
        device_gets(a, shorter);
        g_free(shorter);
    }
    CHECK_INT(obeyed(a), 0);
    device_gets(a, frame); /* and as it was it is still obeyed */
    CHECK_INT(obeyed(a), 1);
    g_free(frame);
    air_free(a);
}

/* A right key, but not for this: another version of the lexicon, link, source or number of the key,
 * or a frame of the device's own. */
static void meant_for_something_else(void)
{
    struct rig *rig = rig_sealed();
    static const struct {
        const char *context, *around;
        unsigned number;
    } others[] = {{"tank 2 skiff", "@3/1 ", 1}, {"tank 3 bench", "@3/1 ", 1},
                  {"tank 3 skiff", "@3/2 ", 1}, {"tank 3 skiff", "@4/1 ", 1},
                  {"tank 3 skiff", "@*/1 ", 1}, {"tank 3 skiff", "@3/1 ", 2},
                  {"tank 3 skiff", "@3/1 ", 3}, {"tank 3 skiff", "", 1}};
    for (unsigned i = 0; i < G_N_ELEMENTS(others); i++) {
        struct seal seal = deck_seal();
        open_session(rig, &seal, 100 + i);
        seal.context = others[i].context;
        seal.number = others[i].number;
        char *frame = seal_frame(&seal, SEAL_COMMAND, others[i].around, 1, "mark 5");
        char *opening = seal_frame(&seal, SEAL_OPENING, others[i].around, 9, NULL);
        test_context("%s", frame);
        CHECK_TEXT(rig_talk(rig, SKIFF, frame), "");
        CHECK_TEXT(rig_talk(rig, SKIFF, opening), "");
        g_free(frame);
        g_free(opening);
    }
    CHECK_INT(rig->calls, 0);
    CHECK(g_str_has_prefix(rig_talk(rig, BENCH, "heard"), "ok heard skiff seal 40 33 2F 31 20 21"));
    rig_free(rig);
}

/* A key is written, hidden, and a new one ends what was sealed with the old one. */
static void keys(void)
{
    struct rig *rig = rig_sealed();
    struct seal seal = deck_seal();
    CHECK_TALK(rig, BENCH, "deck?", "ok deck hidden");
    CHECK_TALK(rig, BENCH, "deck \"too-short\"", "err range key 20..32 at 5");
    open_session(rig, &seal, 5);
    CHECK_TEXT(ask(rig, &seal, 1, "mark 1"), "ok mark 1");
    CHECK_TALK(rig, BENCH, "deck \"another-key-of-the-deck\"",
               "ok deck \"another-key-of-the-deck\"");
    CHECK(!ask(rig, &seal, 2, "mark 2"));
    seal.key = "another-key-of-the-deck";
    open_session(rig, &seal, 6);
    CHECK_TEXT(ask(rig, &seal, 1, "mark 3"), "ok mark 3");
    CHECK_INT(rig->calls, 2);
    static const uint8_t deck = 0;
    CHECK_INT(rlx_key_store(&rig->device, deck, "short", 5), -RLX_ERR_RANGE);
    CHECK_INT(rlx_key_store(&rig->device, 9, DECK, sizeof DECK - 1), -RLX_ERR_RANGE);
    CHECK_INT(rlx_key_store(&rig->device, deck, DECK, sizeof DECK - 1), 0);
    CHECK_INT(rlx_key_store(&rig->device, deck, DECK, sizeof DECK - 1), RLX_ALREADY);
    rig_free(rig);
}

/* Nobody on the air writes a key but where the link names it, and nobody his own. */
static void who_writes_keys(void)
{
    static const struct {
        const char *only, *other, *own;
    } rows[] = {
        {"", "err denied desk at 22", "err denied deck at 22"},
        {"only mark deck desk ", "ok desk \"a-new-key-of-the-desk\"", "err denied deck at 22"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++) {
        char *with = g_strconcat(rows[i].only,
                                 "seal required\nkey deck over skiff sender 1\n"
                                 "key desk over skiff sender 2",
                                 NULL);
        struct rig *rig = rig_with(with);
        struct seal seal = deck_seal();
        CHECK_TALK(rig, BENCH, "deck \"" DECK "\"", "ok deck \"" DECK "\"");
        open_session(rig, &seal, 1);
        CHECK_TEXT(ask(rig, &seal, 1, "desk \"a-new-key-of-the-desk\""), rows[i].other);
        CHECK_TEXT(ask(rig, &seal, 2, "deck \"a-new-key-of-the-deck\""), rows[i].own);
        CHECK_TEXT(ask(rig, &seal, 3, "mark 1"), "ok mark 1");
        rig_free(rig);
        g_free(with);
    }
}

/* A device that cannot keep its numbers gives none. */
static void without_a_memory(void)
{
    struct rig *rig = rig_sealed();
    struct seal seal = deck_seal();
    rig->board.nv_fails = true;
    for (unsigned i = 0; i < 3; i++) {
        char *frame = seal_frame(&seal, SEAL_OPENING, "@3/1 ", i, NULL);
        CHECK_TEXT(rig_talk(rig, SKIFF, frame), "");
        rig_wait(rig, 1000);
        g_free(frame);
    }
    rig->board.nv_fails = false; /* it works again: pauses are up to 65 s */
    rig_wait(rig, 70000);
    open_session(rig, &seal, 9);
    for (unsigned n = 0; n < 200; n++) { /* there is always one left, many blocks on */
        char *frame = seal_frame(&seal, SEAL_OPENING, "@3/1 ", n, NULL);
        const char *inside;
        uint32_t session = seal.session;
        CHECK(seal_is_right(&seal, SEAL_SESSION, g_strchomp(rig_talk(rig, SKIFF, frame)),
                            &seal.session, &inside));
        CHECK(n == 0 || seal.session > session);
        rig_wait(rig, 10001);
        g_free(frame);
    }
    rig_free(rig);
}

/* What needs a seal: all but a halt, everything, or nothing. */
static void what_needs_one(void)
{
    static const struct {
        const char *seal;
        unsigned obeyed, halted; /* of an unsealed command, of an unsealed halt */
    } rows[] = {{"optional", 1, 1}, {"required", 0, 1}, {"everything", 0, 0}};
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++) {
        char *text = g_strdup_printf("seal %s\nkey deck over skiff sender 1", rows[i].seal);
        struct rig *rig = rig_with(text);
        CHECK_TALK(rig, BENCH, "deck \"" DECK "\"", "ok deck \"" DECK "\"");
        rig_wait(rig, 50);
        test_context("seal %s", rows[i].seal);
        CHECK_TEXT(rig_talk(rig, SKIFF, "@3/1 mark 1"), rows[i].obeyed ? "@1/3 ok mark 1\n" : "");
        CHECK_INT(rig->calls, rows[i].obeyed);
        CHECK_TEXT(rig_talk(rig, SKIFF, "@3/1 halt"), rows[i].halted ? "@1/3 ok halt\n" : "");
        struct seal seal = deck_seal();
        open_session(rig, &seal, 7);
        CHECK_TEXT(ask(rig, &seal, 1, "halt"), "ok halt");
        CHECK_TEXT(ask(rig, &seal, 2, "mark 2"), "ok mark 2");
        /* one that comes late, or of an old session, halts all the same where it needs none */
        CHECK_TALK(rig, BENCH, "pump on", "ok pump on");
        ask(rig, &seal, 1, "halt");
        CHECK_TALK(rig, BENCH, "pump?", rows[i].halted ? "ok pump off" : "ok pump on");
        static const char *const wrong[] = {
            "!1.1.AAAAAAAAAAA",          "!1.3.AAAAAAAAAAA", "!1.3.",        "!",
            "!9.99999999999.AAAAAAAAAA", "!2.1.AAAAAAAAAAA", "!1.3.A-B_c d", "!1=1.AAAAAAAAAAA"};
        for (unsigned k = 0; k < G_N_ELEMENTS(wrong); k++) { /* so does one with a wrong seal */
            char *halt = g_strdup_printf("@3/1 %s halt", wrong[k]);
            bool is_one = rows[i].halted && !strstr(wrong[k], " ");
            rig_talk(rig, BENCH, "pump on");
            test_context("seal %s: %s", rows[i].seal, halt);
            CHECK_TEXT(rig_talk(rig, SKIFF, halt), is_one ? "@1/3 ok halt\n" : "");
            CHECK_TALK(rig, BENCH, "pump?", is_one ? "ok pump off" : "ok pump on");
            g_free(halt);
        }
        rig_wait(rig, 11000); /* the session is over */
        rig_talk(rig, BENCH, "pump on");
        ask(rig, &seal, 3, "halt");
        CHECK_TALK(rig, BENCH, "pump?", rows[i].halted ? "ok pump off" : "ok pump on");
        g_free(text);
        rig_free(rig);
    }
}

/* ---- power cuts ---- */

/* Whatever byte of the memory is the last that is written: no number of a session comes again. */
static void numbers_outlast_power_cuts(void)
{
    unsigned cuts = 0;
    for (unsigned left = 1; left < 4000; left++) {
        struct rig *rig = rig_sealed();
        uint32_t last = 0;
        rig->board.nv_left = left;
        for (unsigned n = 0; n < 200 && !rig->board.nv_dead; n++) {
            struct seal seal = deck_seal();
            open_session(rig, &seal, n);
            if (rig->board.nv_dead) break; /* nobody heard that */
            test_context("cut at byte %u: session %u behind %u", left, seal.session, last);
            CHECK(seal.session > last);
            last = seal.session;
            rig_wait(rig, 10001);
        }
        bool cut = rig->board.nv_dead;
        rig->board.nv_kept = true;
        rig->board.nv_left = 0;
        rig->board.nv_dead = false;
        CHECK_INT(rig_start(rig, rig->now_ms), 0);
        rig_wait(rig, 100);
        struct seal seal = deck_seal();
        open_session(rig, &seal, 9999);
        CHECK(seal.session > last);
        rig_free(rig);
        cuts += cut;
        if (!cut || test_failures() > 3) break;
    }
    test_context("%u cuts", cuts);
    CHECK(cuts > 50);
}

/* ---- at random ---- */

struct late {
    uint64_t due;
    char *packet;
    bool to_device;
};

/* An air that loses, doubles and delays packets, and what came of it. */
struct noisy {
    struct air *a;
    GArray *under_way; /* struct late */
    uint64_t now_ms;
    unsigned said, back; /* packets that were put under way */
    unsigned last;       /* the number of the last command */
    uint8_t *times;      /* how often each was obeyed */
    unsigned twice, unsaid;
};

static void put_under_way(struct noisy *n, bool calm)
{
    struct air *a = n->a;
    while (n->said < a->said->len || n->back < a->back->len) {
        const bool up = n->said < a->said->len;
        const char *packet = up ? a->said->pdata[n->said++] : a->back->pdata[n->back++];
        unsigned copies = calm ? 1 : lines_chance(5) ? 1 + !lines_chance(5) : 0;
        while (copies--) {
            uint64_t late = calm || lines_chance(4) ? 0 : lines_chance(9000);
            struct late one = {n->now_ms + late, g_strdup(packet), up};
            g_array_append_val(n->under_way, one);
        }
    }
}

static void deliver(struct noisy *n, const struct late *late)
{
    struct air *a = n->a;
    if (!late->to_device) {
        rlx_client_receive(&a->deck, (const uint8_t *)late->packet, (uint8_t)strlen(late->packet));
        return;
    }
    a->rig->calls = 0;
    char *back = g_strchomp(rig_talk(a->rig, SKIFF, late->packet));
    if (*back) g_ptr_array_add(a->back, g_strdup(back));
    unsigned mark = (unsigned)a->rig->value[0];
    if (!a->rig->calls) return;
    if (mark > n->last || a->rig->calls > 1)
        n->unsaid++;
    else if (n->times[mark]++)
        n->twice++;
}

static void deliver_due(struct noisy *n)
{
    for (unsigned k = 0; k < n->under_way->len; k++) {
        struct late late = g_array_index(n->under_way, struct late, k);
        if (late.due > n->now_ms) continue;
        g_array_remove_index_fast(n->under_way, k--);
        deliver(n, &late);
        g_free(late.packet);
    }
}

/* The device loses its power, perhaps while it writes, or the handset starts anew. */
static void one_restarts(struct air *a, unsigned random)
{
    if (!lines_chance(2)) {
        deck_starts(a, random);
        return;
    }
    a->rig->board.nv_left = lines_chance(40);
    rig_wait(a->rig, lines_chance(30));
    a->rig->board.nv_left = 0;
    a->rig->board.nv_dead = false;
    device_restarts(a);
}

/* Loss, copies, delay, restarts and power cuts at any moment: nothing is obeyed twice, or that
 * nobody said; and once the air is clear the next command comes through. */
static void at_random(void)
{
    const unsigned most = 2000 * test_rounds();
    struct noisy n = {.a = air_new(true)};
    struct air *a = n.a;
    unsigned said = 0, heard = 0, restarts = 0, stuck = 0;
    n.under_way = g_array_new(FALSE, FALSE, sizeof(struct late));
    n.times = g_new0(uint8_t, most + 1);
    lines_seed = 27;
    for (n.last = 1; n.last <= most && test_failures() < 3; n.last++) {
        const bool calm = n.last % 40 == 0, restarts_now = !calm && !lines_chance(60);
        unsigned over = a->over, answered = a->answered;
        n.said = a->said->len, n.back = a->back->len;
        if (restarts_now) one_restarts(a, 5000 + n.last);
        restarts += restarts_now;
        char *text = g_strdup_printf("mark %u", n.last);
        said += rlx_client_send(&a->deck, text) == 0;
        g_free(text);
        for (unsigned ms = 0; ms < 6000 && a->over == over; ms += 10, n.now_ms += 10) {
            rig_wait(a->rig, 10);
            rlx_client_poll(&a->deck, a->rig->now_ms);
            put_under_way(&n, calm);
            deliver_due(&n);
        }
        heard += a->answered > answered;
        stuck += calm && a->answered == answered;
        test_context("command %u of %u", n.last, most);
        CHECK(!n.twice && !n.unsaid && !stuck);
    }
    printf("%u commands: %u said, %u answered, %u restarts\n", most, said, heard, restarts);
    CHECK(heard > most / 4 && heard < most);
    for (unsigned k = 0; k < n.under_way->len; k++)
        g_free(g_array_index(n.under_way, struct late, k).packet);
    g_array_free(n.under_way, TRUE);
    g_free(n.times);
    air_free(a);
}

static const struct test_case cases[] = {
    {"the code is that of RFC 2104 and FIPS 180-4", code_is_the_standards},
    {"a session", sessions},
    {"P8: attacks", attacks},
    {"each character of a frame is sealed", each_character_counts},
    {"P8: seals that were meant for something else", meant_for_something_else},
    {"keys", keys},
    {"who writes keys", who_writes_keys},
    {"P8: numbers of sessions without a memory", without_a_memory},
    {"what needs a seal", what_needs_one},
    {"P8: numbers of sessions outlast power cuts", numbers_outlast_power_cuts},
    {"P8: sealed commands at random", at_random},
};

int main(int argc, char **argv)
{
    return test_main(argc, argv, cases, G_N_ELEMENTS(cases));
}
