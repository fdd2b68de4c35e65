/* Seals where something is at its end: frames that are almost whole, a memory that does not answer
 * yet, no numbers left, no room. On a line, whose frames begin with the seal. */
#include <string.h>

#include "harness.h"
#include "lexicon/seal.h"
#include "rig.h"

#define KEY "a key of the deck 0001"
#define TEXT                                                                                       \
    "lexicon edge 1\ngreeting off\nbuilt-in halt stats\noutput heater relay pin 4 safe off\n"      \
    "command heater {on|off} => heater\nevent flood {high|low}\n"                                  \
    "link bench serial 115200 frame line\nlink cable serial 19200 frame line  seal required\n"     \
    "link rope serial 19200 frame line  seal required\nkey deck over cable\nkey mate over cable\n" \
    "key ashore over rope\n"

enum { BENCH, CABLE };

static struct rig *keyed(void)
{
    struct rig *rig = rig_of_text(TEXT);
    CHECK(rig_do(rig, "! key deck " KEY));
    CHECK(rig_do(rig, "! key ashore a key of somebody ashore"));
    return rig;
}

/* What came over the cable since the last time, without what ends it. */
static const char *heard(struct rig *rig)
{
    static char *last;
    g_free(last);
    last = g_strdelimit(g_strdup(rig->sent[CABLE]->str), "\r\n", ' ');
    rig_forget(rig);
    return g_strchomp(last);
}

static struct seal deck(void)
{
    return (struct seal){.key = KEY, .context = "edge 1 cable", .number = 1};
}

/* What is answered to an opening; its session is open then. */
static bool opens(struct rig *rig, struct seal *seal, uint32_t random)
{
    char *frame = seal_frame(seal, SEAL_OPENING, "", random, NULL);
    const char *inside, *back = g_strchomp(rig_talk(rig, CABLE, frame));
    bool open = seal_is_right(seal, SEAL_SESSION, back, &seal->session, &inside);
    test_context("opening %u: %s", random, back);
    CHECK(open || !*back || !strcmp(back, "err seal")); /* no number yet, or no key */
    g_free(frame);
    return open;
}

static bool obeys(struct rig *rig, struct seal *seal, unsigned counter, const char *text)
{
    char *frame = seal_frame(seal, SEAL_COMMAND, "", counter, text);
    uint32_t count;
    const char *inside, *back = g_strchomp(rig_talk(rig, CABLE, frame));
    g_free(frame);
    return seal_is_right(seal, SEAL_ANSWER, back, &count, &inside) && count == counter &&
           g_str_has_prefix(inside, "ok ");
}

static void almost_whole(void)
{
    static const char *const bad[] = {"!01.1.AAAAAAAAAAA heater on",
                                      "!1.01.AAAAAAAAAAA heater on",
                                      "!1.0.AAAAAAAAAAA heater on",
                                      "!0.1.AAAAAAAAAAA heater on",
                                      "!3.1.AAAAAAAAAAA heater on",
                                      "!1.65536.AAAAAAAAAAA heater on",
                                      "!1.429496729.AAAAAAAAAAA heater on",
                                      "!1.4294967295.AAAAAAAAAAA heater on",
                                      "!1.99999999999.AAAAAAAAAAA heater on",
                                      "!1?4294967299.AAAAAAAAAAA",
                                      "!1?1.AAAAAAAAAAA heater on",
                                      "!1.1.AAAAAAAAAAAheater on",
                                      "!1.1.AAAAAAAAAA heater on",
                                      "!1..AAAAAAAAAAA heater on"};
    struct rig *rig = keyed();
    struct seal seal = deck();
    rig_wait(rig, 50);
    (void)opens(rig, &seal, 5);
    rig_wait(rig, 50);
    CHECK(opens(rig, &seal, 5));
    for (unsigned i = 0; i < G_N_ELEMENTS(bad); i++) CHECK_TALK(rig, CABLE, bad[i], "err seal");
    CHECK_TALK(rig, CABLE, "ok heater on", ""); /* another device says these two */
    CHECK_TALK(rig, CABLE, "!1.1.AAAAAAAAAAA ok heater on", "");
    CHECK(!obeys(rig, &seal, 0, "heater on")); /* the first one is 1 */
    CHECK(!rig->board.level[4]);
    CHECK(obeys(rig, &seal, 65535, "heater on")); /* the last one of a session */
    CHECK(rig->board.level[4]);
    CHECK(opens(rig, &seal, 6));
    CHECK(obeys(rig, &seal, 1, "heater off"));
    rig_free(rig);
}

/* Nothing is opened before the memory has told which numbers were used; then all is told that
 * waited. */
static void memory_that_comes_late(void)
{
    struct rig *rig = keyed();
    struct seal seal = deck();
    (void)opens(rig, &seal, 1);
    rig_wait(rig, 200);
    rig->board.nv_refuses = 1000000;
    CHECK(rig_do(rig, "! reset"));
    (void)heard(rig);
    CHECK(rig_do(rig, "! flood high"));
    rig_wait(rig, 500);
    CHECK(!opens(rig, &seal, 2));
    CHECK_TEXT(heard(rig), "err seal"); /* the key is not known yet either */
    rig->board.nv_refuses = 0;
    rig_wait(rig, 3000);
    const char *told = heard(rig);
    test_context("%s", told);
    CHECK(g_str_has_prefix(told, "!1.65.") && strstr(told, " ready") && strstr(told, "!1.67.") &&
          strstr(told, " ev flood high"));
    CHECK(opens(rig, &seal, 3));
    CHECK_INT(seal.session, 69); /* the other link took two */
    CHECK(obeys(rig, &seal, 1, "heater on"));
    rig_free(rig);
}

/* What nobody could seal waits for a key. */
static void event_before_the_key(void)
{
    struct rig *rig = rig_of_text(TEXT);
    CHECK(rig_do(rig, "! flood high"));
    rig_wait(rig, 1000);
    CHECK_TEXT(heard(rig), "");
    CHECK(rig_do(rig, "! key mate a key of the mate 0002"));
    rig_wait(rig, 200);
    CHECK(strstr(heard(rig), " ev flood high") != NULL);
    rig_free(rig);
}

/* After 4,294,967,040 numbers no session is given, and what was open goes on. */
static void no_numbers_left(void)
{
    struct rig *rig = keyed();
    struct seal seal = deck();
    (void)opens(rig, &seal, 1);
    rig_wait(rig, 100);
    CHECK(opens(rig, &seal, 1));
    CHECK(obeys(rig, &seal, 1, "heater on"));
    rig->device.own = rig->device.own_most = 0xFFFFFF00u;
    struct seal next = deck();
    for (unsigned i = 0; i < 5; i++) {
        CHECK(!opens(rig, &next, 100 + i));
        rig_wait(rig, 1000);
    }
    CHECK(obeys(rig, &seal, 2, "heater off"));
    CHECK_TALK(rig, CABLE, "halt", "ok halt");
    (void)heard(rig);
    CHECK(rig_do(rig, "! flood low"));
    CHECK_TEXT(heard(rig), ""); /* nothing is sealed with a number that was used */
    rig_free(rig);
}

/* Ready is said when there is room. */
static void no_room(void)
{
    struct rig *rig = keyed();
    struct seal seal = deck();
    (void)opens(rig, &seal, 1);
    rig_wait(rig, 200);
    rig->hold_sent = true;
    rig->board.nv_refuses = 1000000;
    CHECK(rig_do(rig, "! reset"));
    (void)heard(rig);
    for (unsigned i = 0; i < 20; i++) { /* which fill the ring */
        rig_feed(rig, CABLE, "halt\n", 5);
        rig_wait(rig, 50);
    }
    rig->board.nv_refuses = 0;
    rig_wait(rig, 3000);
    CHECK_TEXT(heard(rig), "");
    rig->hold_sent = false;
    rlx_port_kick(&rig->board, CABLE);
    rig_wait(rig, 100);
    CHECK(strstr(rig->sent[CABLE]->str, " ready\r\n") != NULL);
    CHECK(strstr(rig->sent[CABLE]->str, "ok halt") != NULL);
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P8: frames that are almost whole", almost_whole},
    {"P8: a memory that comes late", memory_that_comes_late},
    {"P8: an event before the key", event_before_the_key},
    {"P8: no numbers left", no_numbers_left},
    {"P8: no room for ready", no_room},
};
TEST_MAIN(cases)
