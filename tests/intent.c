/* P8 over a power cut: what must not be done twice is recorded before it is done, at each byte of
 * the memory; what its sender hears of it afterwards; tags that overtake each other. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lexicon/envelope.h"
#include "lines.h"
#include "rig.h"

enum { BENCH, SKIFF };

static struct rig *rig_with(const char *kept)
{
    char *text = g_strdup_printf(
        "lexicon raft 2\n"
        "built-in halt batch state stats\n"
        "output pump relay pin 1\n"
        "setting level {0..100} = 5\n"
        "command pump {on|off|toggle} => pump\n"
        "command dose {ml 0..99999} => dose()  refuses jammed\n"
        "number 7 = dose 7\n"
        "link bench serial 115200 frame line\n"
        "link skiff radio payload 60 address 3 senders 2 tags required window 5s %s\n",
        kept);
    struct rig *rig = rig_of_text(text);
    rig->returns = 0;
    g_free(text);
    return rig;
}

static void restart(struct rig *rig)
{
    rig->board.nv_kept = true;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    rig_wait(rig, 20);
}

/* What comes back to a packet within 40 ms. Valid until the next. */
static const char *ask(struct rig *rig, const char *frame)
{
    test_context("%s", frame);
    g_string_truncate(rig->sent[SKIFF], 0);
    rig_feed(rig, SKIFF, frame, strlen(frame));
    rig_wait(rig, 40);
    return g_strchomp(rig->sent[SKIFF]->str);
}
#define CHECK_ASK(rig, frame, wanted) CHECK_TEXT(ask(rig, frame), wanted)

/* ---- what a sender hears ---- */

static void a_repeat_is_answered_after_a_reset(void)
{
    struct rig *rig = rig_with("kept");
    CHECK_ASK(rig, "@3/1 #5 dose 20", "@1/3 #5 ok dose 20");
    CHECK_ASK(rig, "@3/1 #5 dose 20", "@1/3 #5 ok dose 20");
    restart(rig);
    CHECK_ASK(rig, "@3/1 #5 dose 20", "@1/3 #5 ok");
    CHECK_INT(rig->calls, 1);
    CHECK_ASK(rig, "@3/1 #5 dose 21", "@1/3 #5 err old 5");
    CHECK_ASK(rig, "@3/1 #4 dose 19", "@1/3 #4 err old"); /* perhaps it was */
    CHECK_ASK(rig, "@3/1 #6 dose 20", "@1/3 #6 ok dose 20");
    CHECK_INT(rig->calls, 2);
    CHECK_ASK(rig, "@3/2 #5 dose 20", "@2/3 #5 ok dose 20"); /* of another sender */
    CHECK_INT(rig->calls, 3);
    restart(rig);
    CHECK_ASK(rig, "@3/1 #6 dose 20", "@1/3 #6 ok");
    CHECK_ASK(rig, "@3/2 #5 dose 20", "@2/3 #5 ok");
    rig_wait(rig, 5100); /* the window is over */
    CHECK_ASK(rig, "@3/2 #5 dose 20", "@2/3 #5 ok dose 20");
    rig_free(rig);
}

static void what_can_be_repeated_needs_no_record(void)
{
    struct rig *rig = rig_with("kept");
    rig->board.nv_fails = true;
    CHECK_ASK(rig, "@3/1 #5 pump on", "@1/3 #5 ok pump on");
    CHECK_ASK(rig, "@3/1 #6 level?", "@1/3 #6 ok level 5");
    CHECK_ASK(rig, "@3/1 #7 level 5", "@1/3 #7 ok level 5 already");
    CHECK_ASK(rig, "@3/1 #8 pump off; level 5", "@1/3 #8 ok 2");
    rig_wait(rig, 5000);
    CHECK_ASK(rig, "@3/1 halt", "@1/3 ok halt");
    rig_free(rig);
    rig = rig_with("kept");
    CHECK_ASK(rig, "@3/1 #5 pump on", "@1/3 #5 ok pump on");
    restart(rig);
    CHECK_ASK(rig, "@3/1 #5 pump on", "@1/3 #5 ok pump on"); /* obeyed: it was off */
    rig_free(rig);
}

static void what_came_of_it_is_kept(void)
{
    static const struct {
        const char *text, *first, *later;
        int returns;
    } tries[] = {
        {"dose 1", "err busy", "err busy", -RLX_ERR_BUSY},
        {"dose 2", "err jammed", "err jammed", -RLX_ERR_REASON},
        {"dose 3", "ok dose 3 already", "ok already", RLX_ALREADY},
        {"pump toggle", "ok pump on", "ok", 0},
        {"7", "ok dose 7", "ok", 0},
        {"dose 4; pump on", "ok 2", "ok", 0},
        {"pump on; dose 5", "err busy 2", "err unsure", -RLX_ERR_BUSY}, /* one of them was done */
        {"pump on;dose 6*", "ok 2*", "ok*", 0},
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(tries); i++) {
        struct rig *rig = rig_with(strchr(tries[i].text, '*') ? "kept check optional" : "kept");
        rig->returns = tries[i].returns;
        char *frame = g_strdup_printf("@3/1 #%u %s", 10 + i, tries[i].text);
        char *check = strchr(frame, '*');
        if (check) *check = 0;
        GString *whole = g_string_new(frame);
        if (check) envelope_check(whole, RLX_CRC_START);
        for (unsigned n = 0; n < 3; n++) {
            char *wanted =
                g_strdup_printf("@1/3 #%u %s", 10 + i, n ? tries[i].later : tries[i].first);
            char *back = g_strdup(ask(rig, whole->str));
            if (check) back[strlen(back) - 4] = 0;
            CHECK_TEXT(back, wanted);
            restart(rig);
            g_free(back);
            g_free(wanted);
        }
        CHECK(rig->calls <= 1);
        g_string_free(whole, TRUE);
        g_free(frame);
        rig_free(rig);
    }
}

/* Without `kept` it is as before: this is what the record is for. */
static void without_a_record_it_is_done_twice(void)
{
    struct rig *rig = rig_with("");
    CHECK_ASK(rig, "@3/1 #5 dose 20", "@1/3 #5 ok dose 20");
    restart(rig);
    CHECK_ASK(rig, "@3/1 #5 dose 20", "@1/3 #5 ok dose 20");
    CHECK_INT(rig->calls, 2);
    rig_free(rig);
}

/* ---- the memory ---- */

static void it_waits_for_the_memory(void)
{
    struct rig *rig = rig_with("kept");
    rig->board.nv_slow = 200;
    rig_feed(rig, SKIFF, "@3/1 #5 dose 20", 15);
    rig_feed(rig, SKIFF, "@3/1 #6 pump on", 15); /* and so does what comes behind it */
    rig_run(rig);
    CHECK_INT(rig->calls, 0);
    CHECK_TALK(rig, BENCH, "pump?", "ok pump off");
    CHECK_TALK(rig, BENCH, "dose 3", "ok dose 3"); /* other links do not wait */
    rig_wait(rig, 5000);
    CHECK_INT(rig->calls, 2);
    CHECK_TALK(rig, BENCH, "pump?", "ok pump on");
    rig_free(rig);

    rig = rig_with("kept"); /* several wait before the first one is obeyed */
    rig->board.nv_slow = 200;
    rig_feed(rig, SKIFF, "@3/1 #5 halt; pump on; dose 4", 29);
    rig_run(rig);
    CHECK_INT(rig->calls, 0);
    CHECK_TALK(rig, BENCH, "pump?", "ok pump off");
    unsigned polls = 0;
    for (uint32_t wait = 1; !rig->calls && wait < 100; rig->now_ms += MAX(wait, 1), polls++)
        wait = rig_poll(rig); /* it says when it goes on */
    test_context("%u polls", polls);
    CHECK_INT(rig->calls, 1);
    rig_wait(rig, 10);
    CHECK_TEXT(g_strchomp(rig->sent[SKIFF]->str), "@1/3 #5 ok 3");
    rig_free(rig);

    rig = rig_with("kept"); /* a halt never waits */
    rig->board.nv_slow = 200;
    CHECK_TALK(rig, BENCH, "pump on", "ok pump on");
    rig_feed(rig, SKIFF, "@3/1 #5 dose 20", 15);
    rig_run(rig);
    rig_feed(rig, SKIFF, "@3/1 halt", 9);
    rig_run(rig);
    CHECK_TALK(rig, BENCH, "pump?", "ok pump off");
    rig_wait(rig, 5000);
    CHECK_TEXT(g_strchomp(rig->sent[SKIFF]->str), "@1/3 #5 err halted@1/3 ok halt");
    CHECK_INT(rig->calls, 0);
    restart(rig);
    CHECK_ASK(rig, "@3/1 #5 dose 20", "@1/3 #5 err halted");
    rig_free(rig);
}

static void a_memory_that_fails(void)
{
    struct rig *rig = rig_with("kept");
    rig->board.nv_fails = true;
    ask(rig, "@3/1 #5 dose 20");
    rig_wait(rig, 3000);
    CHECK_TEXT(g_strchomp(rig->sent[SKIFF]->str), "@1/3 #5 err failed");
    CHECK_ASK(rig, "@3/1 #6 dose 20", "@1/3 #6 err failed");
    CHECK_INT(rig->calls, 0);
    rig->board.nv_fails = false;
    rig_wait(rig, 70000);
    CHECK_ASK(rig, "@3/1 #7 dose 20", "@1/3 #7 ok dose 20");
    CHECK_INT(rig->calls, 1);
    rig->board.nv_refuses = 1000000; /* it cannot be read at the start... */
    rig->board.nv_kept = true;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    CHECK_ASK(rig, "@3/1 #8 dose 20", ""); /* nobody knows yet */
    rig_wait(rig, 2500);
    CHECK_TEXT(g_strchomp(rig->sent[SKIFF]->str), "@1/3 #8 err failed");
    rig->board.nv_refuses = 0; /* ...but later */
    rig_wait(rig, 1200);
    CHECK_ASK(rig, "@3/1 #7 dose 20", "@1/3 #7 err old");
    CHECK_INT(rig->calls, 1);
    CHECK_ASK(rig, "@3/1 #9 dose 20", "@1/3 #9 ok dose 20");
    rig_free(rig);
}

/* A memory that comes late: a repeat waits until it can be read. */
static void a_memory_that_comes_late(void)
{
    struct rig *rig = rig_with("kept");
    CHECK_ASK(rig, "@3/1 #7 dose 20", "@1/3 #7 ok dose 20");
    rig->board.nv_refuses = 1000000;
    rig->board.nv_kept = true;
    CHECK_INT(rig_start(rig, rig->now_ms), 0);
    CHECK_ASK(rig, "@3/1 #7 dose 20", "");
    rig->board.nv_refuses = 0;
    rig_wait(rig, 500);
    CHECK_TEXT(g_strchomp(rig->sent[SKIFF]->str), "@1/3 #7 ok");
    CHECK_INT(rig->calls, 1);
    rig_free(rig);
}

/* Erases of a day: where they are used up, what needs no record is obeyed all the same. */
static void a_budget_of_erases(void)
{
    struct rig *rig = rig_with("kept\nmemory 2 pages of 256 bytes  erases 3 a day");
    unsigned n = 0;
    char frame[40];
    do {
        snprintf(frame, sizeof frame, "@3/1 #%u dose %u", n, n);
        n++;
    } while (n < 200 && strstr(ask(rig, frame), " ok dose"));
    test_context("%u doses", rig->calls);
    CHECK_TEXT(strstr(rig->sent[SKIFF]->str, "err"), "err busy");
    CHECK(rig->calls > 10 && rig->calls == n - 1);
    CHECK(rig->board.nv_erased <= 4); /* and that of the last one's completion */
    snprintf(frame, sizeof frame, "@3/1 #%u pump on", n);
    CHECK(strstr(ask(rig, frame), "ok pump on"));
    rig_wait(rig, 8 * 3600 * 1000 + 1000); /* one more is due */
    CHECK_ASK(rig, "@3/1 #100 dose 1", "@1/3 #100 ok dose 1");
    rig_free(rig);
}

/* Without handlers, too, the answer has its name. */
static void busy_without_handlers(void)
{
    struct rig *rig = rig_of_text("lexicon raft 2\n"
                                  "output pump relay pin 1\n"
                                  "command pump {on|off|toggle} => pump\n"
                                  "link bench serial 115200 frame line\n"
                                  "link skiff radio payload 60 tags required kept\n"
                                  "memory 2 pages of 256 bytes  erases 3 a day\n");
    char frame[24];
    for (unsigned n = 0; n < 200; n++) {
        snprintf(frame, sizeof frame, "#%u pump toggle", n);
        if (strstr(ask(rig, frame), "err")) break;
    }
    CHECK_TEXT(strstr(rig->sent[SKIFF]->str, "err"), "err busy");
    rig_free(rig);
}

/* A right code counts once, although the command is read twice. */
static void codes_count_once(void)
{
    struct rig *rig = rig_of_text("lexicon raft 2\n"
                                  "setting pin {text 4..8} = \"4711\"\n"
                                  "command open {code text 4..8} => open()  code pin\n"
                                  "link bench serial 115200 frame line\n"
                                  "link skiff radio payload 60 tags required kept\n");
    char frame[40];
    rig->returns = 0;
    for (unsigned n = 0; n < 6; n++) {
        snprintf(frame, sizeof frame, "#%u open \"9999\"", n);
        ask(rig, frame);
        if (n >= 4) rig_wait(rig, 121000); /* the pause is over */
    }
    CHECK_INT(rig->link[SKIFF].guesses.wrong, 6);
    CHECK(strstr(ask(rig, "#6 open \"4711\""), "ok open"));
    CHECK_INT(rig->calls, 1);
    CHECK_INT(rig->link[SKIFF].guesses.wrong, 5);
    rig_free(rig);
}

static void frames_to_all(void)
{
    struct rig *rig = rig_with("kept");
    CHECK_ASK(rig, "@3/1 #5 dose 1", "@1/3 #5 ok dose 1");
    CHECK_ASK(rig, "@*/1 #6 dose 2", "");
    CHECK_ASK(rig, "@* #9 dose 3", ""); /* whose it is nobody knows: it has no record */
    CHECK_INT(rig->calls, 3);
    restart(rig);
    CHECK_ASK(rig, "@*/1 #6 dose 2", "");
    CHECK_INT(rig->calls, 3);
    CHECK_ASK(rig, "@3/1 #7 dose 2", "@1/3 #7 ok dose 2");
    rig_free(rig);
}

/* A sender that started anew, and one that goes on from a tag that the record does not know. */
static void senders_that_start_anew(void)
{
    struct rig *rig = rig_with("kept");
    CHECK_ASK(rig, "@3/1 #16389 dose 1; pump on", "@1/3 #16389 ok 2");
    restart(rig);
    CHECK_ASK(rig, "@3/1 #6 dose 2", "@1/3 #6 ok dose 2");
    CHECK_ASK(rig, "@3/1 #16389 dose 1; pump on", "@1/3 #16389 err old");
    CHECK_ASK(rig, "@3/1 #16684 dose 3", "@1/3 #16684 err old 6");
    CHECK_ASK(rig, "@3/2 #100 dose 4", "@2/3 #100 ok dose 4");
    rig_wait(rig, 5100);
    CHECK_ASK(rig, "@3/2 #16446 pump on", "@2/3 #16446 ok pump on");
    CHECK_ASK(rig, "@3/2 #64 pump on", "@2/3 #64 ok pump on already");
    CHECK_ASK(rig, "@3/2 #63 dose 5", "@2/3 #63 ok dose 5"); /* late, and not behind the record */
    CHECK_INT(rig->calls, 4);
    restart(rig);
    CHECK_ASK(rig, "@3/2 #63 dose 5", "@2/3 #63 ok");
    CHECK_INT(rig->calls, 4);
    rig_wait(rig, 5100);
    CHECK_ASK(rig, "@3/2 #60 pump toggle; dose 6", "@2/3 #60 ok 2"); /* the first of a window */
    CHECK_ASK(rig, "@3/1 #60 dose 7", "@1/3 #60 ok dose 7");
    restart(rig);
    CHECK_ASK(rig, "@3/2 #60 pump toggle; dose 6", "@2/3 #60 ok");
    CHECK_INT(rig->calls, 6);
    rig_free(rig);
}

/* The power goes at each byte: what was done before is not done again, and what is answered is
 * true. */
static void never_twice_at_any_byte(void)
{
    unsigned unsure = 0, done = 0, cuts = 0;
    for (unsigned left = 1;; left++) {
        struct rig *rig = rig_with("kept");
        if (left > 100) {
            rig_free(rig);
            break;
        }
        rig->board.nv_slow = 3;
        CHECK_ASK(rig, "@3/2 #5 dose 1", "@2/3 #5 ok dose 1");
        rig->board.nv_left = left;
        rig_feed(rig, SKIFF, "@3/1 #5 dose 20", 15);
        for (unsigned ms = 0; ms < 60 && !rig->board.nv_dead; ms++) {
            rig_poll(rig);
            rig->now_ms++;
        }
        unsigned before = rig->calls;
        bool cut = rig->board.nv_dead;
        cuts += cut;
        rig->board.nv_left = 0;
        restart(rig);
        char *back = g_strdup(ask(rig, "@3/1 #5 dose 20"));
        test_context("cut after %u bytes: %s, %u calls before", left, back, before - 1);
        CHECK(before <= 2 && rig->calls <= 2);
        if (!strcmp(back, "@1/3 #5 err unsure"))
            unsure++;
        else if (before == 2)
            CHECK_TEXT(back, "@1/3 #5 ok");
        else
            CHECK_TEXT(back, "@1/3 #5 ok dose 20");
        done += before == 2;
        CHECK_ASK(rig, "@3/1 #6 dose 21", "@1/3 #6 ok dose 21");
        CHECK_ASK(rig, "@3/2 #5 dose 1", "@2/3 #5 ok");
        g_free(back);
        rig_free(rig);
        if (!cut) break;
    }
    CHECK_INT(cuts, 2 * 24); /* the record is written twice */
    CHECK(unsure > 4 && done > 4);
}

/* ---- at random ---- */

enum { SENT = 40, DOSES = 100000 };

struct sender {
    char frames[SENT][40]; /* the last ones, each as it was sent */
    uint32_t at[SENT];
    unsigned n;
    uint16_t tag;
};

static unsigned obeyed[DOSES];

static void count_obeyed(const struct rig *rig)
{
    test_context("dose %d", (int)rig->value[0]);
    CHECK_INT(++obeyed[rig->value[0]], 1);
}

static void run_for(struct rig *rig, uint32_t ms)
{
    while (ms-- && !rig->board.nv_dead) {
        rig_poll(rig);
        rig->now_ms++;
        for (uint8_t i = 0; i < 2; i++)
            while (rig->board.sending[i])
                sim_board_in(&rig->board, (struct sim_event){SIM_SENT, i, 0, 0});
    }
}

static void next_frame(struct rig *rig, struct sender *s, unsigned who, const char *text)
{
    g_snprintf(s->frames[s->n % SENT], sizeof s->frames[0], "@3/%u #%u %s", who + 1, s->tag, text);
    s->at[s->n++ % SENT] = rig->now_ms;
}

/* To whom the device answers that the tag is old, and which one was the last, sends the same once
 * more with the next one. */
static unsigned renew(struct rig *rig, struct sender *senders)
{
    char **lines = g_strsplit(rig->sent[SKIFF]->str, "\r\n", 0);
    unsigned who, tag, last, renewed = 0;
    g_string_truncate(rig->sent[SKIFF], 0);
    for (char **line = lines; *line; line++) {
        if (sscanf(*line, "@%u/3 #%u err old %u", &who, &tag, &last) != 3) continue;
        struct sender *s = &senders[who - 1];
        if (tag != s->tag || !s->n) continue;
        char *text = g_strdup(strchr(strchr(s->frames[(s->n - 1) % SENT], ' ') + 1, ' ') + 1);
        s->tag = (uint16_t)((last + 1) % RLX_TAG_OPENS);
        next_frame(rig, s, who - 1, text);
        g_free(text);
        renewed++;
    }
    g_strfreev(lines);
    return renewed;
}

/* Frames are lost, late, doubled, and overtake each other; the power goes at any moment. */
static void never_twice_at_random(void)
{
    struct rig *rig = rig_with("kept");
    struct sender senders[2] = {0};
    unsigned dose = 0, told = 0, renewed = 0;
    unsigned rounds = 4000 * test_rounds();
    lines_seed = 612;
    rig->called = count_obeyed;
    rig->packet_ends = true;
    for (unsigned round = 0; round < rounds && dose < DOSES - 2; round++) {
        unsigned who = lines_chance(2);
        struct sender *s = &senders[who];
        char *frame = s->frames[s->n % SENT];
        bool fresh = !s->n || lines_chance(3);
        if (fresh) {
            char text[16];
            snprintf(text, sizeof text, "dose %u", ++dose);
            s->tag = (uint16_t)((s->tag + 1) % RLX_TAG_OPENS);
            if (!lines_chance(40)) /* the sender starts, and knows no tag */
                s->tag = (uint16_t)(lines_chance(RLX_TAG_OPENS) | RLX_TAG_OPENS);
            next_frame(rig, s, who, lines_chance(4) ? text : "pump on");
            if (!lines_chance(4)) continue; /* it is late */
        } else {
            unsigned back = 1 + lines_chance(MIN(s->n, lines_chance(2) ? 2u : 14u));
            frame = s->frames[(s->n - back) % SENT];
            if (rig->now_ms - s->at[(s->n - back) % SENT] > 4000) continue;
        }
        rig_feed(rig, SKIFF, frame, strlen(frame));
        if (!lines_chance(6)) rig->board.nv_left = 1 + lines_chance(60);
        run_for(rig, lines_chance(30));
        if (rig->board.nv_dead || !lines_chance(25)) {
            rig->board.nv_kept = true;
            rig->board.nv_left = lines_chance(3) ? 0 : 1 + lines_chance(200);
            CHECK_INT(rig_start(rig, rig->now_ms), 0);
        }
        run_for(rig, lines_chance(4) ? lines_chance(20) : lines_chance(700));
        renewed += renew(rig, senders);
        if (round % 50 || rig->board.nv_dead) continue;
        rig->board.nv_left = 0; /* in clear air the next one comes through */
        run_for(rig, 300);
        char text[16], wanted[48];
        snprintf(text, sizeof text, "dose %u", ++dose);
        s->tag = (uint16_t)((s->tag + 1) % RLX_TAG_OPENS);
        next_frame(rig, s, who, text);
        unsigned tries = 0;
        do {
            const char *next = s->frames[(s->n - 1) % SENT];
            snprintf(wanted, sizeof wanted, "@%u/3 #%u ok dose %u\r\n", who + 1, s->tag, dose);
            g_string_truncate(rig->sent[SKIFF], 0);
            rig_feed(rig, SKIFF, next, strlen(next));
            run_for(rig, 300);
        } while (strcmp(rig->sent[SKIFF]->str, wanted) != 0 && tries++ < 2 && renew(rig, senders));
        CHECK_TEXT(rig->sent[SKIFF]->str, wanted);
        told++;
    }
    unsigned all = 0;
    for (unsigned i = 0; i < DOSES; i++) all += obeyed[i];
    printf("%u doses, %u obeyed, %u renewed, %u in clear air\n", dose, all, renewed, told);
    CHECK(all > dose / 3 && told > rounds / 80 && renewed > rounds / 200);
    rig_free(rig);
}

/* What overtook another one has the record, and the other one needs none. */
static void what_overtakes_keeps_the_record(void)
{
    struct rig *rig = rig_with("kept");
    CHECK_ASK(rig, "@3/1 #5 dose 1", "@1/3 #5 ok dose 1");
    CHECK_ASK(rig, "@3/1 #7 dose 3", "@1/3 #7 ok dose 3");
    CHECK_ASK(rig, "@3/1 #6 dose 2", "@1/3 #6 ok dose 2");
    restart(rig);
    CHECK_ASK(rig, "@3/1 #7 dose 3", "@1/3 #7 ok");
    CHECK_ASK(rig, "@3/1 #6 dose 2", "@1/3 #6 err old");
    CHECK_INT(rig->calls, 3);
    CHECK_ASK(rig, "@3/1 #8 dose 4", "@1/3 #8 ok dose 4");
    CHECK_ASK(rig, "@3/1 #10 pump on", "@1/3 #10 ok pump on");
    CHECK_ASK(rig, "@3/1 #9 dose 5", "@1/3 #9 ok dose 5"); /* only this one was recorded */
    restart(rig);
    CHECK_ASK(rig, "@3/1 #9 dose 5", "@1/3 #9 ok");
    CHECK_ASK(rig, "@3/1 #8 dose 4", "@1/3 #8 err old");
    CHECK_INT(rig->calls, 5);
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P8: a repeat is answered after a reset", a_repeat_is_answered_after_a_reset},
    {"what can be repeated needs no record", what_can_be_repeated_needs_no_record},
    {"what came of it is kept", what_came_of_it_is_kept},
    {"without a record it is done twice", without_a_record_it_is_done_twice},
    {"it waits for the memory, a halt does not", it_waits_for_the_memory},
    {"a memory that fails", a_memory_that_fails},
    {"P8: a memory that comes late, and a repeat", a_memory_that_comes_late},
    {"P7: a budget of erases", a_budget_of_erases},
    {"busy has its name without handlers", busy_without_handlers},
    {"a right code counts once", codes_count_once},
    {"P8: frames to all, over a reset", frames_to_all},
    {"senders that start anew", senders_that_start_anew},
    {"P8: what overtakes another one keeps the record", what_overtakes_keeps_the_record},
    {"P8: never twice, with a cut at any byte", never_twice_at_any_byte},
    {"P8: never twice, at random", never_twice_at_random},
};
TEST_MAIN(cases)
