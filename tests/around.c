/* Envelopes as the drill writes and reads them, against what stands in docs/lexicon.md and against
 * the library's own retry client. */
#include <stdio.h>
#include <string.h>

#include "lexicon/envelope.h"
#include "harness.h"
#include "lexicon/model.h"
#include "lines.h"
#include "rlx/client.h"
#include "rlx/link.h"

static struct lex_link link_of(int address, unsigned senders, enum lex_demand check,
                               enum lex_demand tags)
{
    return (struct lex_link){.address = address, .senders = senders, .check = check, .tags = tags};
}

static void wanted(void)
{
    struct lex_link plain = link_of(-1, 0, LEX_DEMAND_OFF, LEX_DEMAND_OPTIONAL);
    struct lex_link checked = link_of(-1, 0, LEX_DEMAND_REQUIRED, LEX_DEMAND_OFF);
    struct lex_link addressed = link_of(0, 0, LEX_DEMAND_OFF, LEX_DEMAND_OFF);
    struct lex_link tagged = link_of(-1, 0, LEX_DEMAND_OFF, LEX_DEMAND_REQUIRED);
    CHECK(!envelope_wanted(&plain));
    CHECK(envelope_wanted(&checked));
    CHECK(envelope_wanted(&addressed));
    CHECK(envelope_wanted(&tagged));
}

static void written(void)
{
    static const struct {
        int address;
        unsigned senders;
        enum lex_demand check, tags;
        unsigned tag;
        const char *text, *frame;
    } rows[] = {
        {3, 2, LEX_DEMAND_OFF, LEX_DEMAND_REQUIRED, 7, "pump on", "@3/1 #7 pump on"},
        {3, 0, LEX_DEMAND_OFF, LEX_DEMAND_OFF, 7, "pump on", "@3 pump on"},
        {-1, 0, LEX_DEMAND_OFF, LEX_DEMAND_OPTIONAL, 255, "x", "#255 x"},
        {-1, 0, LEX_DEMAND_REQUIRED, LEX_DEMAND_OFF, 0, "123456789", "123456789*BIKA"}, /* 29B1 */
        {-1, 0, LEX_DEMAND_OFF, LEX_DEMAND_OFF, 0, "x", "x"},
    };
    for (size_t i = 0; i < sizeof rows / sizeof *rows; i++) {
        struct lex_link link =
            link_of(rows[i].address, rows[i].senders, rows[i].check, rows[i].tags);
        char *frame = envelope_around(&link, rows[i].tag, rows[i].text);
        test_context("row %zu", i);
        CHECK_TEXT(frame, rows[i].frame);
        g_free(frame);
    }
    test_context("%s", "");
}

static void read(void)
{
    struct lex_link radio = link_of(3, 2, LEX_DEMAND_REQUIRED, LEX_DEMAND_REQUIRED);
    struct lex_link bare = link_of(-1, 0, LEX_DEMAND_OPTIONAL, LEX_DEMAND_OFF);
    const unsigned sum = envelope_sum("@3/1 #7 pump on*O@@B");
    CHECK_INT(sum, envelope_sum("@3/1 #7 pump on"));
    char *inside = envelope_inside(&radio, 7, sum, "@1/3 #7 ok pump on*@JJI");
    CHECK_TEXT(inside, "ok pump on");
    g_free(inside);
    CHECK(!envelope_inside(&radio, 8, sum, "@1/3 #7 ok pump on*@JJI"));
    CHECK(!envelope_inside(&radio, 7, sum, "@1/3 #7 ok pump on*@JJH"));
    CHECK(!envelope_inside(&radio, 7, sum, "@1/3 #7 ok pump of*@JJI"));
    CHECK(!envelope_inside(&radio, 7, sum, "ok"));
    CHECK(!envelope_inside(&radio, 7, sum, ""));
    inside = envelope_inside(&radio, 7, sum, "@*/3 ev call released*GNCK");
    CHECK_TEXT(inside, "ev call released");
    g_free(inside);
    inside = envelope_unchecked(&bare, "123456789*BIKA");
    CHECK_TEXT(inside, "123456789");
    g_free(inside);
    inside = envelope_unchecked(&bare, "123456789*BIKB");
    CHECK_TEXT(inside, "123456789*BIKB");
    g_free(inside);
    radio.check = LEX_DEMAND_OFF;
    inside = envelope_unchecked(&radio, "123456789*BIKA");
    CHECK_TEXT(inside, "123456789*BIKA");
    g_free(inside);
}

/* ---- against the retry client ---- */

static char sent[256];

static void told(void *user, enum rlx_delivery what, uint16_t tag, const char *text, uint8_t count)
{
    (void)user, (void)what, (void)tag, (void)text, (void)count;
}

bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count);
bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    (void)port, (void)link;
    memcpy(sent, bytes, count);
    sent[count] = 0;
    return true;
}

/* The library's retry client and this write the same. */
static void like_the_client(void)
{
    for (unsigned i = 0; i < 2000 * test_rounds(); i++) {
        struct rlx_client_command queue[1];
        bool check = lines_chance(2);
        struct rlx_client client = {.to = (uint8_t)lines_chance(255),
                                    .from = ENVELOPE_SOURCE,
                                    .check = check,
                                    .tries = 1,
                                    .pause_ms = 10,
                                    .window_ms = 10000,
                                    .queue = queue,
                                    .queue_size = 1,
                                    .report = told};
        struct lex_link link = link_of(client.to, 2, check ? LEX_DEMAND_REQUIRED : LEX_DEMAND_OFF,
                                       LEX_DEMAND_REQUIRED);
        char text[RLX_CLIENT_BYTES];
        unsigned n = 1 + lines_chance(RLX_CLIENT_BYTES - 2);
        for (unsigned k = 0; k < n; k++) text[k] = (char)(' ' + lines_chance(95));
        text[n] = 0;
        uint16_t tag = (uint16_t)lines_chance(32768);
        CHECK_INT(rlx_client_init(&client, tag), 0);
        if (!CHECK_INT(rlx_client_send(&client, text), 0)) return;
        rlx_client_poll(&client, 0);
        char *frame = envelope_around(&link, tag | RLX_TAG_OPENS, text);
        if (!CHECK_TEXT(frame, sent)) return;
        g_free(frame);
    }
}

static const struct test_case cases[] = {
    {"wanted", wanted},
    {"written", written},
    {"read", read},
    {"like the retry client", like_the_client},
};
TEST_MAIN(cases)
