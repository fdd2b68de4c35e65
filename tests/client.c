/* P8 from the sender's side: what a retry client says, when, and what it takes for an answer. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rlx/client.h"
#include "rlx/error.h"
#include "sim/sim.h"

struct desk {
    struct sim_board board;
    struct rlx_client client;
    struct rlx_client_command queue[3];
    GString *sent, *told;
};

static void on_board(void *user, struct sim_event event)
{
    struct desk *d = user;
    if (event.kind != SIM_PACKET) return;
    g_string_append_c(d->sent, event.value < 256 ? (char)event.value : '\n');
}

static void on_told(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                    uint8_t count)
{
    static const char *const words[] = {"answered", "unknown", "dropped", "told"};
    struct desk *d = user;
    g_string_append_printf(d->told, "%s %u: %.*s\n", words[what], tag, count, text);
}

static struct desk *desk_new(bool check, uint8_t fixed)
{
    struct desk *d = g_new0(struct desk, 1);
    sim_board_init(&d->board, on_board, d, 0, RLX_RESET_POWER);
    d->client = (struct rlx_client){.port = &d->board,
                                    .to = 3,
                                    .from = 1,
                                    .check = check,
                                    .fixed = fixed,
                                    .tries = 3,
                                    .pause_ms = 100,
                                    .window_ms = 10000,
                                    .queue = d->queue,
                                    .queue_size = 3,
                                    .user = d,
                                    .report = on_told};
    d->sent = g_string_new(NULL);
    d->told = g_string_new(NULL);
    CHECK_INT(rlx_client_init(&d->client, 254), 0);
    return d;
}

static void desk_free(struct desk *d)
{
    g_string_free(d->sent, TRUE);
    g_string_free(d->told, TRUE);
    g_free(d);
}

static void hear(struct desk *d, const char *packet)
{
    rlx_client_receive(&d->client, (const uint8_t *)packet, (uint8_t)strlen(packet));
}

static void tries_and_pauses(void)
{
    struct desk *d = desk_new(false, 0);
    uint32_t now = UINT32_MAX - 150; /* across the wrap */
    CHECK_INT(rlx_client_poll(&d->client, now), UINT32_MAX);
    CHECK_INT(rlx_client_send(&d->client, "pump on"), 0);
    CHECK_INT(rlx_client_send(&d->client, "glow 40"), 0);
    CHECK_INT(rlx_client_send(&d->client, "glow 7"), 0);
    CHECK_INT(rlx_client_send(&d->client, "glow 8"), -RLX_ERR_BUSY);
    CHECK_INT(rlx_client_poll(&d->client, now), 100);
    CHECK_INT(rlx_client_poll(&d->client, now + 99), 1);
    CHECK_INT(rlx_client_poll(&d->client, now + 100), 200);
    CHECK_INT(rlx_client_poll(&d->client, now + 300), 300);
    CHECK_TEXT(d->sent->str, "@3/1 #16638 pump on\n@3/1 #16638 pump on\n@3/1 #16638 pump on\n");
    CHECK_TEXT(d->told->str, "");
    g_string_truncate(d->sent, 0);
    CHECK_INT(rlx_client_poll(&d->client, now + 600), 100); /* and the next one goes */
    CHECK_TEXT(d->told->str, "unknown 16638: pump on\n");
    CHECK_TEXT(d->sent->str, "@3/1 #16639 glow 40\n");
    hear(d, "@1/3 #16639 ok glow 40");
    hear(d, "@1/3 #16639 ok glow 40"); /* its copy is nothing */
    d->board.radio_busy = true;
    CHECK_INT(rlx_client_poll(&d->client, now + 650), 1); /* the radio takes nothing now */
    d->board.radio_busy = false;
    CHECK_INT(rlx_client_poll(&d->client, now + 651), 100);
    hear(d, "@1/3 #256 err range level 0..100 at 5\r\n");
    CHECK_INT(rlx_client_poll(&d->client, now + 652), UINT32_MAX);
    CHECK_TEXT(d->told->str, "unknown 16638: pump on\nanswered 16639: ok glow 40\n"
                             "answered 256: err range level 0..100 at 5\n");
    CHECK_INT(d->client.sent, 5);
    desk_free(d);
}

/* Nothing but the answer with this tag, from this device to this source, is the answer. */
static void what_is_no_answer(void)
{
    static const char *const others[] = {
        "",           "ok",          "@",          "@1",           "@1/",          "@1/3",
        "@1/3 ",      "@1/3 #",      "@1/3 #7",    "@1/3 #7 ",     "@1/3 #6 ok x", "@2/3 #7 ok x",
        "@1/4 #7 ok", "@1/3 #7 o",   "@*/3 #7 ok", "@1/3 #256 ok", "@1/3 #7 pump", "@1/3 7 ok",
        "@1/3 ok x",  "@01/03 ok x", "#7 ok x",    "@999/3 #7 ok", "@1/3#7 ok x",  "1/3 #7 ok"};
    struct desk *d = desk_new(false, 0);
    d->client.tag = 7;
    CHECK_INT(rlx_client_send(&d->client, "pump on"), 0);
    hear(d, "@1/3 #7 ok pump on"); /* it was not said yet */
    rlx_client_poll(&d->client, 0);
    for (unsigned i = 0; i < G_N_ELEMENTS(others); i++) hear(d, others[i]);
    CHECK_INT(d->client.waiting, 1);
    g_string_truncate(d->told, 0);
    hear(d, "@*/3 ev call pressed");
    hear(d, "@*/3 #9 ev gate open");
    hear(d, "@1/3 #7 e4");
    CHECK_TEXT(d->told->str, "told 0: ev call pressed\ntold 9: ev gate open\nanswered 7: e4\n");
    char *longest = g_strnfill(RLX_CLIENT_BYTES, 'x'),
         *longer = g_strnfill(RLX_CLIENT_BYTES + 1, 'x');
    CHECK_INT(rlx_client_send(&d->client, longest), 0);
    CHECK_INT(rlx_client_send(&d->client, longer), -RLX_ERR_LONG);
    g_free(longest);
    g_free(longer);
    const struct rlx_client right = d->client;
    struct rlx_client wrong[13];
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) wrong[i] = right;
    wrong[0].tries = 0, wrong[1].tries = 21, wrong[2].pause_ms = 0, wrong[3].pause_ms = 10001;
    wrong[4].to = 255, wrong[5].from = 0, wrong[6].from = 33, wrong[7].queue_size = 0;
    wrong[8].queue = NULL;
    wrong[9].window_ms = 499, wrong[10].window_ms = 3600001;
    wrong[11].pause_ms = 1667; /* 1667 + 3334 ms: more than half of 10 s */
    wrong[12].one_way = true, wrong[12].pause_ms = 2501;
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++)
        CHECK_INT(rlx_client_init(&wrong[i], 0), -RLX_ERR_RANGE);
    desk_free(d);
}

/* A tag that an earlier start of the handset used for something else: the command is said with
 * another one. Where it may have been obeyed already nobody knows. */
static void a_tag_that_is_old(void)
{
    struct desk *d = desk_new(false, 0);
    CHECK_INT(rlx_client_init(&d->client, 5), 0);
    rlx_client_send(&d->client, "pump off");
    rlx_client_poll(&d->client, 0);
    rlx_client_poll(&d->client, 100);
    hear(d, "@1/3 #16389 err old 901");
    hear(d, "@1/3 #16389 err old 901");
    rlx_client_poll(&d->client, 101);
    hear(d, "@1/3 #902 e18 16383");
    CHECK_INT(rlx_client_poll(&d->client, 102), 100);
    CHECK_TEXT(d->sent->str, "@3/1 #16389 pump off\n@3/1 #16389 pump off\n"
                             "@3/1 #902 pump off\n@3/1 #0 pump off\n");
    CHECK_TEXT(d->told->str, "");
    hear(d, "@1/3 #0 err old"); /* perhaps it was obeyed */
    CHECK_TEXT(d->told->str, "unknown 0: pump off\n");
    g_string_truncate(d->told, 0);
    static const char *const others[] = {"err older", "err old x", "err old 32768", "e180",
                                         "e18 1 "};
    for (unsigned i = 0; i < G_N_ELEMENTS(others); i++) { /* answers like any */
        rlx_client_send(&d->client, "pump on");
        rlx_client_poll(&d->client, 103);
        char *answer = g_strdup_printf("@1/3 #%u %sx", i + 1, others[i]);
        hear(d, answer);
        g_free(answer);
        CHECK_INT(d->client.waiting, 0);
    }
    CHECK(!strstr(d->told->str, "unknown"));
    for (unsigned i = 0; i < 6; i++) { /* not for ever */
        rlx_client_send(&d->client, "pump on");
        rlx_client_poll(&d->client, 200);
        char *answer = g_strdup_printf("@1/3 #%u err old 77", d->client.tag);
        hear(d, answer);
        g_free(answer);
    }
    CHECK(strstr(d->told->str, "unknown 78: pump on"));
    desk_free(d);
}

/* However late it is polled, or the radio takes it: nothing goes out when the device may have
 * forgotten the tag. */
static void too_late(void)
{
    struct desk *d = desk_new(false, 0);
    rlx_client_send(&d->client, "pump toggle");
    rlx_client_poll(&d->client, 7);
    d->board.radio_busy = true;
    CHECK_INT(rlx_client_poll(&d->client, 200), 1);
    d->board.radio_busy = false;
    CHECK_INT(rlx_client_poll(&d->client, 5008), UINT32_MAX);
    CHECK_TEXT(d->sent->str, "@3/1 #16638 pump toggle\n");
    CHECK_TEXT(d->told->str, "unknown 16638: pump toggle\n");
    desk_free(d);
}

static void checks_and_padding(void)
{
    struct desk *d = desk_new(true, 32);
    d->client.tag = 7;
    rlx_client_send(&d->client, "pump on");
    rlx_client_poll(&d->client, 0);
    CHECK_TEXT(d->sent->str, "@3/1 #7 pump on*O@@B            \n");
    hear(d, "@1/3 #7 ok pump on*@JJH");
    hear(d, "@1/3 #7 ok pump on");
    CHECK_INT(d->client.damaged, 2);
    hear(d, "@1/3 #7 ok pump on*@JJI      ");
    CHECK_TEXT(d->told->str, "answered 7: ok pump on\n");
    desk_free(d);
}

/* Rubbish: nothing is read beyond it, and nothing is taken for an answer by chance. */
static void rubbish(void)
{
    struct desk *d = desk_new(true, 0);
    lines_seed = 31;
    rlx_client_send(&d->client, "pump on");
    rlx_client_poll(&d->client, 0);
    for (unsigned i = 0; i < 200000; i++) {
        static const char some[] = "@1/3 #254 ok*e\xFF\0";
        unsigned count = lines_chance(40);
        uint8_t *packet = g_malloc(count ? count : 1); /* of just this size, for the sanitizer */
        for (unsigned k = 0; k < count; k++)
            packet[k] = (uint8_t)(lines_chance(3) ? some[lines_chance(sizeof some)]
                                                  : (char)lines_chance(256));
        rlx_client_receive(&d->client, packet, (uint8_t)count);
        g_free(packet);
    }
    test_context("%s", d->told->str);
    CHECK(!strstr(d->told->str, "answered"));
    CHECK_INT(d->client.waiting, 1);
    desk_free(d);
}

/* A link with less around its frames. */
static void less_around(void)
{
    static const struct {
        bool no_address, no_source, no_tags;
        const char *sent, *others, *answer;
    } links[] = {{true, true, true, "pump on\n", "#7 ok pump on", "ok pump on"},
                 {true, true, false, "#16638 pump on\n", "ok pump on", "#16638 ok pump on"},
                 {false, true, true, "@3 pump on\n", "@0/4 ok pump on", "@0/3 ok pump on"},
                 {false, false, true, "@3/1 pump on\n", "@2/3 ok pump on", "@1/3 ok pump on"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        struct desk *d = desk_new(false, 0);
        test_context("%u", i);
        d->client.no_address = links[i].no_address;
        d->client.no_source = links[i].no_source;
        d->client.no_tags = links[i].no_tags;
        CHECK_INT(rlx_client_init(&d->client, 254), -RLX_ERR_RANGE); /* tries, or a source */
        if (links[i].no_source) d->client.from = 0;
        if (links[i].no_tags) d->client.tries = 1;
        CHECK_INT(rlx_client_init(&d->client, 254), 0);
        rlx_client_send(&d->client, "pump on");
        rlx_client_poll(&d->client, 0);
        CHECK_TEXT(d->sent->str, links[i].sent);
        hear(d, links[i].others);
        CHECK_INT(d->client.waiting, 1);
        hear(d, links[i].answer);
        CHECK_INT(d->client.waiting, 0);
        CHECK(g_str_has_suffix(d->told->str, ": ok pump on\n"));
        rlx_client_send(&d->client, "pump off");
        for (uint32_t now = 0; d->client.waiting && now < 5000; now++)
            rlx_client_poll(&d->client, now);
        CHECK(strstr(d->told->str, "unknown"));
        desk_free(d);
    }
}

/* Before a halt all that waits is given up, and told. */
static void dropped(void)
{
    struct desk *d = desk_new(false, 0);
    rlx_client_send(&d->client, "pump on");
    rlx_client_send(&d->client, "glow 1");
    rlx_client_send(&d->client, "glow 2");
    rlx_client_poll(&d->client, 0);
    rlx_client_drop(&d->client);
    CHECK_INT(rlx_client_send(&d->client, "halt"), 0);
    rlx_client_poll(&d->client, 1);
    hear(d, "@1/3 #16638 ok pump on"); /* too late: it was told */
    hear(d, "@1/3 #16641 ok halt");
    CHECK_TEXT(d->told->str, "unknown 16638: pump on\ndropped 16639: glow 1\n"
                             "dropped 16640: glow 2\nanswered 16641: ok halt\n");
    CHECK_TEXT(d->sent->str, "@3/1 #16638 pump on\n@3/1 #16641 halt\n");
    desk_free(d);
}

static const struct test_case cases[] = {
    {"tries and pauses", tries_and_pauses},       {"what is no answer", what_is_no_answer},
    {"P8: a tag that is old", a_tag_that_is_old}, {"P8: too late to say it again", too_late},
    {"checks and padding", checks_and_padding},   {"P3: rubbish", rubbish},
    {"less around frames", less_around},          {"dropped before a halt", dropped},
};
TEST_MAIN(cases)
