/* What is asked and what is told unasked, at its limits: pages, ages, counters, times. */
#include <string.h>

#include "harness.h"
#include "rig.h"

#define TANK "lexicon it 1\noutput pump relay pin 4 safe off\n"
#define PUMP "command pump {on|off} => pump\n"

static void help_in_pages(void)
{
    GString *text = g_string_new(TANK "built-in help\n");
    for (unsigned i = 0; i < 12; i++)
        g_string_append_printf(text, "command word%u_long {a|b} => call%u()\n", i, i);
    g_string_append(text, "command many {first_word|second_word|third_word|fourth_word|fifth_word|"
                          "sixth_word|seventh_word} => many()\ncommand many => none()\n"
                          "link bench serial 9600 frame line\n"
                          "link air radio payload 40 open\n");
    struct rig *rig = rig_of_text(text->str);
    CHECK_TALK(rig, 0, "help",
               "ok help word0_long word1_long word2_long word3_long word4_long more 2");
    CHECK_TALK(rig, 0, "help 2",
               "ok help word5_long word6_long word7_long word8_long word9_long more 3");
    CHECK_TALK(rig, 0, "help 3", "ok help word10_long word11_long many");
    CHECK_TALK(rig, 0, "help 4", "ok help no more");
    CHECK_TALK(rig, 0, "help many",
               "ok help many {first_word|second_word|third_word|fourth_word|fifth_wo more 2");
    CHECK_TALK(rig, 0, "help many 2", "ok help many");
    CHECK_TALK(rig, 0, "help 0",
               "ok help word0_long word1_long word2_long word3_long word4_long "
               "more 2");
    /* a packet of 40 bytes holds fewer */
    CHECK_TALK(rig, 1, "help", "ok help word0_long word1_long more 2");
    CHECK_TALK(rig, 1, "help 6", "ok help word10_long word11_long more 7");
    CHECK_TALK(rig, 1, "help 7", "ok help many");
    CHECK_TALK(rig, 1, "help many", "ok help many {first_word|second_ more 2");
    g_string_free(text, TRUE);
    rig_free(rig);
}

static void logs_grow_old(void)
{
    struct rig *rig = rig_of_text(TANK "built-in log heard halt\n" PUMP
                                       "command a_command_of_many_letters => call()\n"
                                       "link bench serial 9600 frame line\n"
                                       "link air radio payload 60  address 1  senders 3\n");
    CHECK_TALK(rig, 1, "@1/3 pump on", "@3/1 ok pump on");
    CHECK_TALK(rig, 0, "pump on", "ok pump on already");
    rig->returns = -RLX_ERR_BUSY;
    CHECK_TALK(rig, 0, "a_command_of_many_letters", "err busy");
    CHECK_TALK(rig, 0, "log 3", "ok log 3 0s ago air/3 \"pump on\" ok");
    CHECK_TALK(rig, 0, "log 2", "ok log 2 0s ago bench \"pump on\" already");
    CHECK_TALK(rig, 0, "log", "ok log 1 0s ago bench \"a_command_of_man\" err busy");
    for (unsigned i = 0; i < 14; i++) rig_talk(rig, 0, i & 1 ? "pump on" : "pump off");
    CHECK_TALK(rig, 0, "log 16", "ok log 16 0s ago bench \"pump on\" already");
    rig->now_ms = 3599 * 1000;
    CHECK_TALK(rig, 0, "log", "ok log 1 59m ago bench \"pump on\" ok");
    rig->now_ms = 86401000;
    CHECK_TALK(rig, 0, "log", "ok log 1 24h ago bench \"pump on\" ok");
    rig_wait(rig,
             12u * 86400000); /* P11: an age beyond what the clock can tell is not told wrongly */
    rig_wait(rig, 40u * 86400000);
    CHECK_TALK(rig, 0, "log", "ok log 1 long ago bench \"pump on\" ok");
    rig_talk(rig, 0, "halt");
    CHECK_TALK(rig, 0, "log", "ok log 1 0s ago bench \"halt\" ok");
    CHECK_TALK(rig, 0, "a_command_that_nobody_knows", "err unknown a_command_that_n at 0");
    CHECK_TALK(rig, 0, "heard", "ok heard bench 61 5F 63 6F 6D 6D 61 6E 64 5F 74 68 61 74 5F 6E");
    rig_free(rig);
}

static void messages(void)
{
    struct rig *rig =
        rig_of_text(TANK PUMP "command jot {rest 1..200} => jot()\n"
                              "link shore sms handed open\nlink bench serial 9600 frame line\n");
    uint8_t longest = rig->link[0].frame_size;
    char text[256];
    memset(text, 'x', sizeof text);
    CHECK(rlx_link_message(&rig->device, 0, "pump on", 7, 0)); /* nobody we know */
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "");
    CHECK_INT(rig->link[0].others, 1);
    CHECK(rlx_link_message(&rig->device, 0, " \r\n ", 4, 1)); /* nothing is said */
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "");
    CHECK(rlx_link_message(&rig->device, 0, "pump on", 7, 2));
    CHECK(
        !rlx_link_message(&rig->device, 0, "pump off", 8, 2)); /* the first one was not read yet */
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "ok pump on");
    g_string_truncate(rig->sent[0], 0);
    CHECK(rlx_link_message(&rig->device, 0, text, (uint8_t)(longest + 1), 1));
    rig_run(rig);
    char *wanted = g_strdup_printf("err long at %u", longest);
    CHECK_TEXT(rig->sent[0]->str, wanted);
    g_free(wanted);
    memcpy(text, "jot ", 4);
    g_string_truncate(rig->sent[0], 0);
    CHECK(rlx_link_message(&rig->device, 0, text, longest, 1));
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "ok"); /* what does not fit is told in short */
    CHECK_INT(rig->calls, 1);
    rig_free(rig);
}

/* P11: exactly when they are due, also where the clock comes round. */
static void retries_come_on_time(void)
{
    static const uint32_t waits[] = {1000, 2000, 4000, 8000, 16000, 32000, 64000, 64000, 64000};
    struct rig *rig = rig_of_text(TANK PUMP "event jam confirmed\nevent tick confirmed every 5s\n"
                                            "link bench serial 9600 frame line\n");
    for (unsigned late = 0; late < 2; late++) {
        CHECK_INT(rig_start(rig, late ? UINT32_MAX - 20000 : 0), 0);
        rig_run(rig);
        uint32_t now = rig->now_ms;
        rlx_event(&rig->device, 0, 0);
        for (unsigned i = 0; i < G_N_ELEMENTS(waits); i++) {
            g_string_truncate(rig->sent[0], 0);
            uint32_t wait = rlx_poll(&rig->device, now);
            rlx_port_kick(&rig->board, 0);
            while (rig->board.sending[0])
                sim_board_in(&rig->board, (struct sim_event){SIM_SENT, 0, 0, 0});
            test_context("retry %u", i);
            CHECK_TEXT(rig->sent[0]->str, "ev #1 jam\r\n");
            CHECK_INT(wait, waits[i]);
            CHECK_INT(rlx_poll(&rig->device, now + wait - 1), 1);
            now += wait;
        }
        rig->now_ms = now;
        CHECK_TALK(rig, 0, "got 1", "ok got 1"); /* in the very millisecond of another retry */
    }
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    g_string_truncate(rig->sent[0], 0);
    rig_do(rig, "! tick");
    rig_wait(rig, 4990);
    CHECK_TEXT(rig->sent[0]->str, "ev #1 tick\r\n"); /* no oftener than that */
    rig_wait(rig, 20);
    CHECK_TEXT(rig->sent[0]->str, "ev #1 tick\r\nev #1 tick\r\n");
    rig_free(rig);
}

/* Numbers of tellings come round without 0, and each is confirmed by itself. */
static void numbers_come_round(void)
{
    struct rig *rig = rig_of_text(TANK PUMP "event jam {in|out} confirmed\nevent dry confirmed\n"
                                            "link bench serial 9600 frame line\n");
    unsigned number = 0;
    for (unsigned i = 0; i < 600 && test_failures() < 5; i++) {
        char wanted[64], got[16];
        number = number == 255 ? 1 : number + 1;
        g_string_truncate(rig->sent[0], 0);
        CHECK_INT(rlx_event(&rig->device, 0, (uint8_t)(i & 1)), 0);
        rig_run(rig);
        g_snprintf(wanted, sizeof wanted, "ev #%u jam %s\r\n", number, i & 1 ? "out" : "in");
        CHECK_TEXT(rig->sent[0]->str, wanted);
        g_snprintf(got, sizeof got, "got %u", number);
        g_snprintf(wanted, sizeof wanted, "ok got %u", number);
        CHECK_TALK(rig, 0, got, wanted);
    }
    /* what came between telling and confirming is told behind it, the last one last */
    rig_do(rig, "! jam in");
    rig_do(rig, "! dry");
    rig_do(rig, "! jam out");
    rig_do(rig, "! jam in");
    char *heard = rig_talk(rig, 0, "got");
    CHECK(strstr(heard, "ok got\nev #") && strstr(heard, " jam out"));
    CHECK(!strstr(heard, "dry"));
    heard = rig_talk(rig, 0, "got");
    CHECK(strstr(heard, " jam in"));
    rig_free(rig);
}

static void counters_stay(void)
{
    struct rig *rig =
        rig_of_text(TANK PUMP "event jam\nevent call {a|b} to bench\nbuilt-in stats notes\n"
                              "link bench serial 9600 frame line\n"
                              "link pad serial 9600 frame line\nignore \"AT\"\n");
    rig->hold_sent = true;
    for (unsigned i = 0; i < 70000; i++) rlx_event(&rig->device, 0, 0);
    CHECK_INT(rig->link[0].merged, 65535);
    CHECK_INT(rlx_event(&rig->device, 1, 2), -RLX_ERR_RANGE);
    CHECK_INT(rlx_event(&rig->device, 0, 1), -RLX_ERR_RANGE);
    CHECK_INT(rlx_event(&rig->device, 2, 0), -RLX_ERR_RANGE);
    /* a note that one link has told, and another has not */
    rig->hold_sent = false;
    rig_run(rig);
    rig_talk(rig, 0, "AT");
    rig->send_most = 0;
    rig_run(rig);
    CHECK(rlx_note(&rig->device, "one"));
    rig->link[0].note = false; /* as if told there */
    CHECK(rlx_note(&rig->device, "two"));
    CHECK_INT(rig->link[1].unnoted, 1);
    CHECK(!rlx_note(&rig->device, "three"));
    rig->send_most = UINT_MAX;
    rig_run(rig);
    CHECK(strstr(rig->sent[1]->str, "note two\r\n") && !strstr(rig->sent[1]->str, "one"));
    rig_talk(rig, 1, "AT");
    CHECK_TALK(rig, 1, "stats", "ok stats lost 0 refused 0 ignored 0 known 1 merged 32767 notes 1");
    rig_free(rig);
    struct rlx_device none = {0};
    CHECK_INT(rlx_event(&none, 0, 0), -RLX_ERR_RANGE); /* before it was started */
    CHECK(!rlx_note(&none, "x"));
}

/* What was none on a shared medium, and why. A frame for others replaces nothing that was for this
 * one. */
static void heard_on_the_air(void)
{
    struct rig *rig = rig_of_text(TANK PUMP "built-in heard\nlink bench serial 9600 frame line\n"
                                            "link far radio payload 60 address 3 senders 2 "
                                            "check optional tags optional\n"
                                            "link near radio payload 60 open check required\n");
    static const struct {
        unsigned link;
        const char *said, *heard;
    } tries[] = {
        {1, "@4/1 pump on", "ok heard far address 40 34 2F 31 20 70 75 6D 70 20 6F 6E"},
        {1, "@3/9 halt", "ok heard far address 40 33 2F 39 20 68 61 6C 74"},
        {1, "pump on", "ok heard far address 70 75 6D 70 20 6F 6E"},
        {1, "@3/1 pump*AAAA", "ok heard far check 40 33 2F 31 20 70 75 6D 70 2A 41 41 41 41"},
        {1, "@4/1 pump off", "ok heard far check 40 33 2F 31 20 70 75 6D 70 2A 41 41 41 41"},
        {1, "@3/1 pum\x07", "ok heard far damaged 40 33 2F 31 20 70 75 6D 07"},
        {2, "pump off", "ok heard near check 70 75 6D 70 20 6F 66 66"},
        {1, "@3/1 #99999 a", "ok heard far 40 33 2F 31 20 23 39 39 39 39 39 20 61"},
        {1, "@3/1 glow", "ok heard far 40 33 2F 31 20 67 6C 6F 77"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(tries); i++) {
        test_context("%s", tries[i].said);
        rig_talk(rig, tries[i].link, tries[i].said);
        CHECK_TALK(rig, 0, "heard", tries[i].heard);
    }
    rig_free(rig);
}

/* To one link, and to the one that asked; a step of a routine has none. */
static void a_note_to_one(void)
{
    struct rig *rig = rig_of_text(TANK PUMP "command feed => feed()\nbuilt-in stats notes\n"
                                            "routine dawn = \"pump on; feed\"\n"
                                            "link bench serial 9600 frame line\n"
                                            "link pad serial 9600 frame line\n"
                                            "link far radio payload 60 open\n");
    CHECK_TALK(rig, 1, "feed", "ok feed");
    CHECK_INT(rig->asker, 1);
    rig_forget(rig);
    CHECK(rlx_note_to(&rig->device, rig->asker, "fed"));
    CHECK(!rlx_note_to(&rig->device, 0, "and then")); /* the first one is not told yet */
    rig_run(rig);
    CHECK_TEXT(rig->sent[1]->str, "note fed\r\n");
    CHECK_TEXT(rig->sent[0]->str, "");
    CHECK(rlx_note_to(&rig->device, 2, "nobody tells it")); /* radios have no notes */
    CHECK_INT(rig->link[2].unnoted, 1);
    rlx_link_is_up(&rig->device, 0, false);
    CHECK(rlx_note_to(&rig->device, 0, "nobody is there"));
    rlx_link_is_up(&rig->device, 0, true);
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "");
    CHECK(!rlx_note_to(&rig->device, 3, "no such link"));
    CHECK(!rlx_note_to(&rig->device, rlx_asker(&rig->device) + 200, "no such link"));
    CHECK_TALK(rig, 0, "dawn", "ok dawn");
    rig_wait(rig, 10);
    CHECK_INT(rig->calls, 2);
    CHECK_INT(rig->asker, RLX_NO_LINK);
    rig_free(rig);
}

static void many_commands_and_queries(void)
{
    GString *text = g_string_new("lexicon it 1\nletters any-case\n");
    for (unsigned i = 0; i < 300; i++)
        g_string_append_printf(text,
                               "command c%u {a 0..%u} => call%u()\n"
                               "query c%u {b -100000..%umm} => ask%u()\n",
                               i, i + 1, i, i, i, i);
    g_string_append(text, "link bench serial 9600 frame line\n");
    struct rig *rig = rig_of_text(text->str);
    CHECK(image_needs(rig->image, RLX_BIT_MANY));
    rig->asked = true;
    for (unsigned i = 0; i < 300; i += 7) {
        char said[32], wanted[40];
        g_snprintf(said, sizeof said, "C%u?", i);
        rig->tells[0] = (rlx_value)i;
        g_snprintf(wanted, sizeof wanted, "ok c%u %u", i, i);
        CHECK_TALK(rig, 0, said, wanted);
        rig->tells[0] = (rlx_value)i + 1;
        CHECK_TALK(rig, 0, said, "err failed");
        rig->tells[0] = -100001;
        CHECK_TALK(rig, 0, said, "err failed");
        g_snprintf(said, sizeof said, "c%u %u", i, i + 1);
        g_snprintf(wanted, sizeof wanted, "ok c%u %u", i, i + 1);
        CHECK_TALK(rig, 0, said, wanted);
    }
    g_string_free(text, TRUE);
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"help in pages", help_in_pages},
    {"P11: logs grow old", logs_grow_old},
    {"P2, P7: messages", messages},
    {"P11: retries come on time", retries_come_on_time},
    {"numbers of tellings come round", numbers_come_round},
    {"P7: counters stay, and notes are replaced", counters_stay},
    {"heard: what was none on the air, and why", heard_on_the_air},
    {"a note to one link, and to the one that asked", a_note_to_one},
    {"many commands and queries", many_commands_and_queries},
};
TEST_MAIN(cases)
