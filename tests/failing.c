/* P1, P6, P7: links that fail at byte n, for every n: once, twice, and for ever; on the way in and
 * on the way out. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "rig.h"
#include "rlx/inside.h"

/* What is said on each kind of link, and what is said when all is well again. */
static const struct talk {
    const char *lexicon;
    unsigned link;
    const char *said, *after, *pins; /* that `after` moves */
} talks[] = {
    {"framings", 0, "pump on!glow 40!pump off!", "!glow 77!", "pwm 1 50462\n"},
    {"framings", 1, "PPG40P0T", "G77", "pwm 1 50462\n"},
    {"framings", 2, "pump on", "glow 77", "pwm 1 50462\n"},
    {"framings", 3, "pump on.....glow 40.....pump off....", "glow 77.....", "pwm 1 50462\n"},
    {"framings_other", 0, "p\rq\rp q\r7\r\bp\x15q\r", "\rp q\r", "pin 1 high\n"},
    {"framings_keys", 0, "PG:p q\rP", "\rG", "pin 1 high\n"},
    {"framings_keys", 1, "p\rq\rp q\r7\r", "\rp q\r", "pin 1 high\n"},
    {"framings_keys", 2, "p\rq\rp q\r7\r", "\rp q\r", "pin 1 high\n"},
    {"crowded", 0, "glow 10\rglow 20\rpump on\rpump off\r", "\rpump on\r", "pin 4 high\n"},
    {"crowded", 1, "p12:glow 5\ro", "\rp", "pin 4 high\n"},
    {"events", 0, "pump on\rglow 20\rlevel?\rpump off\r", "\rpump on\r", "pin 4 high\n"},
};

static struct rig *start(const struct talk *talk)
{
    char *file = g_strdup_printf("%s/%s.lexicon", LEXICONS, talk->lexicon);
    struct rig *rig = rig_new(file);
    g_free(file);
    return rig;
}

static void restart(struct rig *rig)
{
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (unsigned i = 0; i < RIG_LINKS; i++) g_string_truncate(rig->sent[i], 0);
    g_string_truncate(rig->pins, 0);
}

/* The outputs are off again, whatever came before, and then `after` does what it says. */
static void works_again(struct rig *rig, const struct talk *talk)
{
    rig_wait(rig, 200);
    if (*talk->after == '!' || *talk->after == '\r') { /* what is still open ends here */
        rig_feed(rig, talk->link, talk->after, 1);
        rig_wait(rig, 200);
    }
    rlx_drive_init(&rig->device);
    g_string_truncate(rig->pins, 0);
    rig_feed(rig, talk->link, talk->after, strlen(talk->after));
    rig_wait(rig, 200);
    CHECK_TEXT(rig->pins->str, talk->pins);
}

/* How many faults, and how far apart; 0: from there on all. */
static void faults_from(struct rig *rig, const struct talk *talk, size_t n, size_t apart)
{
    size_t length = strlen(talk->said);
    restart(rig);
    for (size_t i = 0; i < length; i++) {
        bool fault = apart ? i == n || i == n + apart : i >= n;
        if (fault)
            rlx_link_fault(&rig->link[talk->link]);
        else
            rig_feed(rig, talk->link, talk->said + i, 1);
        if (i % 3 == 2) rig_run(rig);
    }
    test_context("%s, link %u, faults at byte %zu and %zu on", talk->lexicon, talk->link, n, apart);
    CHECK(rlx_link_lost(&rig->link[talk->link]) >= 1);
    works_again(rig, talk);
}

static void faults_on_the_way_in(void)
{
    for (unsigned t = 0; t < G_N_ELEMENTS(talks) && test_failures() < 5; t++) {
        struct rig *rig = start(&talks[t]);
        for (size_t n = 0; n < strlen(talks[t].said) && test_failures() < 5; n++) {
            faults_from(rig, &talks[t], n, SIZE_MAX / 2); /* once */
            faults_from(rig, &talks[t], n, 1);
            faults_from(rig, &talks[t], n, 5);
            faults_from(rig, &talks[t], n, 0);
        }
        rig_free(rig);
    }
}

/* Says it while the transmitter stops after n bytes, and goes on where it may. */
static void stop_at(struct rig *rig, const struct talk *talk, unsigned n, bool for_ever)
{
    restart(rig);
    rig->send_most = n;
    for (const char *s = talk->said; *s; s++) {
        rig_feed(rig, talk->link, s, 1);
        rig_run(rig);
    }
    rig_wait(rig, 100);
    rig->send_most = for_ever ? n : UINT_MAX;
    if (!for_ever) rlx_port_kick(&rig->board, (uint8_t)talk->link);
    rig_wait(rig, 200);
    rig->send_most = UINT_MAX;
}

/* Nothing is lost but what `replies drop` drops; and where nothing can be sent any more, what was
 * done is a beginning of what was said. */
static void stops_on_the_way_out(void)
{
    for (unsigned t = 0; t < G_N_ELEMENTS(talks) && test_failures() < 5; t++) {
        struct rig *rig = start(&talks[t]);
        const struct lex_link *link = rig->lx->links->pdata[talks[t].link];
        stop_at(rig, &talks[t], UINT_MAX, false);
        char *pins = g_strdup(rig->pins->str), *sent = g_strdup(rig->sent[talks[t].link]->str);
        for (unsigned n = 0; n <= strlen(sent) && test_failures() < 5; n++) {
            test_context("%s, link %u, stops after %u bytes", talks[t].lexicon, talks[t].link, n);
            stop_at(rig, &talks[t], n, false);
            bool newest = strstr(talks[t].lexicon, "crowded") || strstr(talks[t].lexicon, "events");
            if (!newest) CHECK_TEXT(rig->pins->str, pins); /* of which fewer may be obeyed */
            if (!newest && !link->people && !link->replies_drop)
                CHECK_TEXT(rig->sent[talks[t].link]->str, sent);
            stop_at(rig, &talks[t], n, true);
            if (!newest) CHECK(g_str_has_prefix(pins, rig->pins->str));
            CHECK_INT(rig->sent[talks[t].link]->len, n);
        }
        g_free(pins);
        g_free(sent);
        rig_free(rig);
    }
}

/* A radio that is busy, once at each packet, and for ever. */
static void busy_radios(void)
{
    static const char *const said[] = {"p", "q", "p q", "7", "x"};
    static const struct talk radio = {"framings_other", 2, "", "", ""};
    struct rig *rig = start(&radio);
    for (unsigned link = 1; link < 4; link++) {
        for (unsigned at = 0; at < G_N_ELEMENTS(said); at++) {
            restart(rig);
            GString *pins = g_string_new(NULL), *sent = g_string_new(NULL);
            for (unsigned busy = 0; busy < 2; busy++) {
                restart(rig);
                for (unsigned i = 0; i < G_N_ELEMENTS(said); i++) {
                    rig->board.radio_busy = busy && i == at;
                    rig_feed(rig, link, said[i], strlen(said[i]));
                    rig_wait(rig, 10);
                    rig->board.radio_busy = false;
                    rig_wait(rig, 10);
                }
                test_context("link %u, busy at packet %u", link, at);
                if (busy) {
                    CHECK_TEXT(rig->pins->str, pins->str);
                    CHECK_INT(rig->sent[link]->len, sent->len);
                }
                g_string_assign(pins, rig->pins->str);
                g_string_append_len(g_string_truncate(sent, 0), rig->sent[link]->str,
                                    (gssize)rig->sent[link]->len);
            }
            g_string_free(pins, TRUE);
            g_string_free(sent, TRUE);
        }
        restart(rig); /* for ever: one is answered into the ring, the next waits */
        rig->board.radio_busy = true;
        for (unsigned i = 0; i < 3; i++) {
            rig_feed(rig, link, said[0], 1);
            rig_wait(rig, 10);
        }
        test_context("link %u, busy for ever", link);
        CHECK_TEXT(rig->pins->str, "pin 1 high\n");
        CHECK_INT(rig->sent[link]->len, 0);
        rig->board.radio_busy = false;
    }
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P1, P7: faults at each byte that comes in", faults_on_the_way_in},
    {"P1, P7: a transmitter that stops at each byte", stops_on_the_way_out},
    {"P1, P7: radios that are busy", busy_radios},
};
TEST_MAIN(cases)
