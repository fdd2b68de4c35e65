/* What the other tests never come to: counters that are full, silences at odd moments, senders and
 * texts that nobody has. */
#include <stddef.h>
#include <string.h>

#include "harness.h"
#include "rig.h"

/* With two outputs. */
static struct rig *it_of(const char *text)
{
    char *all = g_strconcat("lexicon it 1\noutput pump relay pin 4 safe off\n"
                            "output lamp led pin 5\n",
                            text, NULL);
    struct rig *rig = rig_of_text(all);
    g_free(all);
    return rig;
}

#define PUMP  "command pump {on|off} => pump\n"
#define BENCH "link bench serial 9600 frame line\n"

/* P7 */
static void full_counters(void)
{
    struct rig *rig =
        it_of("built-in stats\n" PUMP "link bench serial 9600 frame line replies drop\n"
              "link usb report\n");
    struct rlx_link *link = &rig->link[0];
    for (unsigned i = 0; i < 70000; i++) rlx_link_fault(link);
    CHECK_INT(rlx_link_lost(link), 65535);
    rlx_link_feed(link, 'x');
    rlx_link_feed_block(link, (const uint8_t *)"xy", 2);
    CHECK_INT(rlx_link_lost(link), 65535);
    rig_run(rig);
    rig_talk(rig, 0, "");
    rig->send_most = 0;
    for (unsigned i = 0; i < 66000; i++) {
        rig_feed(rig, 0, "pump on\r", 8);
        rlx_poll(&rig->device, rig->now_ms);
    }
    CHECK_INT(link->unheard, 65535);
    rig->send_most = UINT_MAX;
    rlx_port_kick(&rig->board, 0);
    rig_run(rig);
    CHECK_TALK(rig, 0, "stats", "ok stats lost 32767 refused 1 ignored 0 unheard 32767");
    /* a report that comes while the stream is cut, and one of nothing, are not taken */
    const uint8_t bytes[] = "pump on\r";
    rlx_link_fault(&rig->link[1]);
    CHECK(!rlx_link_feed_report(&rig->link[1], bytes, 8));
    rig_run(rig);
    CHECK(!rlx_link_feed_report(&rig->link[1], bytes, 0));
    CHECK(rlx_link_feed_report(&rig->link[1], bytes, 8));
    rig_free(rig);
}

/* P1, P3 */
static void silences_at_odd_moments(void)
{
    struct rig *rig = it_of(
        PUMP "link codes serial 9600 frame codes within 50ms PP = \"pump on\" P0 = \"pump off\"\n"
             "link gap serial 9600 frame gap 20ms\nlink usb report\n");
    /* a byte comes in the silence that the poll was late for: the code goes on */
    rig_feed(rig, 0, "P", 1);
    rlx_poll(&rig->device, 100);
    rig_feed(rig, 0, "P", 1);
    rig->now_ms = 300;
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "<ok pump on\r\n");
    /* a frame that is bad already stays what it is */
    rig_feed(rig, 1, "pum\x01", 4);
    rig_run(rig);
    rig_feed(rig, 1, "p", 1);
    rig->now_ms += 200;
    rig_run(rig);
    rig_wait(rig, 100);
    CHECK_TEXT(rig->sent[1]->str, "err byte 1 at 3");
    /* what is kept back of a half code is left when the budget of a poll is at its end */
    char many[65];
    memset(many, '\n', sizeof many);
    memcpy(many + 62, "PX", 2);
    rig_feed(rig, 0, many, 64);
    CHECK_INT(rlx_poll(&rig->device, rig->now_ms), 0);
    CHECK(!rlx_idle(&rig->device));
    rig_run(rig);
    /* half a line in reports, and no more comes */
    g_string_truncate(rig->sent[2], 0);
    const uint8_t half[] = "pump o";
    CHECK(rlx_link_feed_report(&rig->link[2], half, 6));
    rig_run(rig);
    rlx_link_gap(&rig->link[2]);
    rig_run(rig);
    CHECK_TEXT(rig->sent[2]->str, "err half\r\n");
    CHECK_TALK(rig, 2, "pump off", "ok pump off");
    rig_free(rig);
}

/* P2: nobody's, or others'. */
static void odd_senders(void)
{
    struct rig *rig =
        it_of("command pump {on|off} => pump newest\ncommand pump2 {on|off} => pump newest\n"
              "link skiff radio payload 40 address 3 senders 2\n"
              "link quiet serial 9600 frame line replies silent\n"
              "link brief serial 9600 frame line replies short\n"
              "event call {a|b}\nignore \"AT\" reply \"OK\"\n"
              "texts brief ev call b = \"B\"\n");
    CHECK_TALK(rig, 0, "@3/0 pump on", "");
    CHECK_TALK(rig, 0, "@3/3 pump on", "");
    CHECK_TALK(rig, 0, "@3/2 pump on", "@2/3 ok pump on");
    CHECK_INT(rig->link[0].others, 2);
    CHECK_TALK(rig, 1, "AT", "");
    CHECK_TALK(rig, 2, "AT", "OK");
    rig_do(rig, "! call a");
    CHECK_TEXT(rig->sent[2]->str, "OK\r\nev call a\r\n"); /* only answers are short */
    g_string_truncate(rig->sent[2], 0);
    rig_do(rig, "! call b");
    CHECK_TEXT(rig->sent[2]->str, "B\r\n");
    CHECK_TEXT(rig->sent[1]->str, "ev call a\r\nev call b\r\n");
    /* the newest of one sender is not that of another, nor that of another word */
    g_string_truncate(rig->sent[0], 0);
    rig_feed(rig, 0, "@3/1 pump off", 13);
    rig_feed(rig, 0, "@3/2 pump off", 13);
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "@1/3 ok pump off@2/3 ok pump off already");
    CHECK_TEXT(rig_say(rig, 2, "pump on\rpump2 on\rpump2 off\r"), "ok\r\nok\r\nok\r\n");
    CHECK_INT(rig->link[2].newer, 1);
    rig_free(rig);
}

static void odd_queries(void)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < 300; i++)
        g_string_append_printf(text, "command a b%u {n 0..%u} => call%u()\n", i, i, i);
    g_string_append(text, "query level {mm 0..9} => read_level()\n" BENCH);
    struct rig *rig = it_of(text->str); /* its handler's number stands in the END, in 16 bits */
    CHECK(image_needs(rig->image, RLX_BIT_MANY));
    rig->asked = true;
    rig->tells[0] = 7;
    CHECK_TALK(rig, 0, "level?", "ok level 7");
    rig->returns = -RLX_ERR_BUSY;
    CHECK_TALK(rig, 0, "level?", "err busy");
    rig->returns = -RLX_ERR_FAILED;
    CHECK_TALK(rig, 0, "level?", "err failed");
    rig_free(rig);
    g_string_truncate(text, 0);
    rig = it_of(PUMP "query level {mm 0..9} => read_level()\nbuilt-in help\n" BENCH);
    rig->asked = true;
    rig->tells[0] = 9;
    CHECK_TALK(rig, 0, "level?", "ok level 9");
    CHECK_TALK(rig, 0, "help a;b", "err unknown help at 0");
    CHECK_INT(rlx_event(&rig->device, 0, 0), -RLX_ERR_RANGE); /* it has no events */
    rig_free(rig);
    g_string_free(text, TRUE);
}

static void odd_tellings(void)
{
    struct rig *rig =
        it_of(PUMP "built-in notes halt\nevent jam confirmed\nevent dry\nevent wet every 100ms\n"
                   "link bench serial 9600 frame line for people\n"
                   "link far serial 9600 frame line yields to bench\n");
    rig->send_most = 0; /* two of them wait, and then go out in their order */
    rlx_event(&rig->device, 2, 0);
    rlx_event(&rig->device, 1, 0);
    rlx_event(&rig->device, 0, 0);
    rig->send_most = UINT_MAX;
    rig_run(rig);
    CHECK_TEXT(rig->sent[0]->str, "ev #1 jam\r\nev dry\r\nev wet\r\n");
    rlx_event(&rig->device, 0, 0); /* news, once however often it comes */
    rlx_event(&rig->device, 0, 0);
    rlx_event(&rig->device, 0, 0);
    CHECK_INT(rig->link[0].merged, 2);
    CHECK(rlx_note(&rig->device, "12345678901234567890123456789012345678901234567890"));
    rig_run(rig);
    CHECK(g_str_has_suffix(rig->sent[0]->str,
                           "note 123456789012345678901234567890123456789012345678\r\n"));
    /* what may be an echo is not echoed, rubbed out or not */
    CHECK_TALK(rig, 0, "pump x>\b\bon", "> pump x\nok pump on");
    uint32_t wait =
        rlx_poll(&rig->device, rig->now_ms); /* for the end of the yielding, or sooner */
    CHECK(wait > 0 && wait <= 10000);
    rig_free(rig);
}

static void odd_images(void)
{
    struct rig *rig = it_of(PUMP "event jam\nlink bench serial 9600 frame line tags optional\n");
    rig->image->bytes->data[RLX_IMG_NEEDS + 11] = 0x80; /* a feature that nobody has */
    CHECK_INT(rig_start(rig, 0), -RLX_ERR_BUILD);
    CHECK(rig->device.lacks[2] == 0x80000000u && !rig->device.lacks[1] && !rig->device.lacks[0]);
    rig->image->bytes->data[RLX_IMG_NEEDS + 11] = 0;
    for (unsigned i = 0; i < 2; i++) { /* memory that the firmware has not given */
        CHECK_INT(rig_start(rig, 0), 0);
        rig->device.rows = NULL;
        if (i) rig->link[0].senders = NULL;
        if (!i) rig->link[0].events = NULL;
        CHECK_INT(rlx_init(&rig->device, RLX_RESET_POWER), -RLX_ERR_BUFFER);
    }
    rig_free(rig);
}

/* Sets `mask` where a member, or the receive ring, may change. */
#define MAY(link_mask, member)                                 \
    memset((link_mask) + offsetof(struct rlx_link, member), 1, \
           sizeof(((struct rlx_link *)0)->member))

/* P4: an interrupt touches its own members and the receive ring, nothing else of the device. */
static void interrupts_touch_their_ring(void)
{
    struct rig *rig = it_of(PUMP "event jam\nlink bench serial 9600 frame line for people\n"
                                 "link skiff radio payload 20 open\nlink usb report\n");
    static struct rig was;
    uint8_t mine[sizeof(struct rlx_link)] = {0};
    MAY(mine, rx_head), MAY(mine, rx_cut), MAY(mine, tx_tail), MAY(mine, rx_gap);
    MAY(mine, rx_gap_at), MAY(mine, rx_lost);
    rig_feed(rig, 0, "pum", 3);
    rlx_event(&rig->device, 0, 0);
    for (unsigned step = 0; step < 3000 && test_failures() < 5; step++) {
        unsigned n = step % 3;
        struct rlx_link *link = &rig->link[n];
        uint8_t bytes[64] = {'p', (uint8_t)step};
        memcpy(&was, rig, sizeof was);
        switch (step / 3 % 6) {
        case 0: rlx_link_feed(link, (uint8_t)step); break;
        case 1: rlx_link_fault(link); break;
        case 2: rlx_link_gap(link); break;
        case 3: rlx_link_take(link, bytes); break;
        case 4: rlx_link_feed_packet(link, bytes, (uint8_t)(1 + step % 9)); break;
        default: rlx_link_feed_report(link, bytes, 64);
        }
        test_context("step %u", step);
        CHECK(!memcmp(&was.device, &rig->device, sizeof was.device));
        CHECK(!memcmp(was.output, rig->output, sizeof was.output));
        CHECK(!memcmp(was.told, rig->told, sizeof was.told));
        for (unsigned i = 0; i < RIG_LINKS; i++) {
            const uint8_t *a = (const uint8_t *)&was.link[i], *b = (const uint8_t *)&rig->link[i];
            for (size_t k = 0; k < sizeof was.link[i]; k++)
                if (a[k] != b[k]) CHECK(i == n && mine[k]);
            for (size_t k = 0; k < sizeof was.buffer[i]; k++)
                if (was.buffer[i][k] != rig->buffer[i][k]) CHECK(i == n && k <= link->rx_mask);
        }
        if (step % 100 == 99) rig_run(rig);
    }
    rig_free(rig);
}

/* P6: late polls, and what the stories of each output leave out. */
static void odd_outputs(void)
{
    struct rig *rig = rig_of_text(
        "lexicon it 1\nbuilt-in state batch\n"
        "output slow led pwm 2 at 1kHz fade 1s\noutput blinks led pin 5\n"
        "output chill relay pin 3 safe off min off 3s\n"
        "output a relay pin 7 safe off interlock ab dead 100ms min on 1s\n"
        "output b relay pin 8 safe off interlock ab dead 100ms\n"
        "output twins pair left pwm 11 at 1kHz right pwm 12 at 1kHz turns oppose safe 0%\n"
        "output fan motor pwm 13 at 1kHz safe 0%\noutput vent motor pwm 14 at 1kHz safe 0%\n"
        "output weir servo pwm 3 0..400mm as 950..2050us safe 0mm\n"
        "output hatch reverser open pin 20 until top close pin 21 until base dead 100ms safe stop\n"
        "input top pin 30\ninput base pin 31\n"
        "command slow {level 0..100%} => slow\ncommand fade {level 0..100%} => slow fade\n"
        "command blink => blinks blink 1s\ncommand once => chill pulse 1s\n"
        "command a {on|off} => a\ncommand b {on|off} => b\n"
        "command twins {forward|left|right|coast|brake} => twins\n"
        "command set {which fan|vent} {level -100..100%} => which\n"
        "command twin {l -100..100%} {r -100..100%} => twins\n"
        "command {height 0..400}mm => weir\ncommand hatch {open|close|stop} => hatch\n"
        "link bench serial 9600 frame line\n");
    rig_talk(rig, 0, "fade 100"); /* a poll that comes much too late goes to the end */
    rig->now_ms += 5000;
    rig_run(rig);
    CHECK_INT(rig->board.duty[2], 65535);
    rig_talk(rig, 0, "blink");
    rig->now_ms += 5000;
    rig_run(rig);
    CHECK_TALK(rig, 0, "blinks?", "ok blinks blink");
    rig_wait(rig, 5000);
    CHECK_TALK(rig, 0, "once", "ok once");
    CHECK(rig->board.level[3]);
    rig_wait(rig, 1000);
    CHECK(!rig->board.level[3]);
    char *heard = rig_talk(rig, 0, "once");
    CHECK(g_str_has_prefix(heard, "ok once waiting "));
    CHECK_TALK(rig, 0, "a on", "ok a on");
    heard = rig_talk(rig, 0, "b on"); /* after what a has still to be on, and the dead time */
    CHECK(g_str_has_prefix(heard, "ok b on waiting 1"));
    rig_wait(rig, 1200);
    CHECK(!rig->board.level[7] && rig->board.level[8]);
    CHECK_TALK(rig, 0, "twins left", "ok twins left");
    CHECK_TALK(rig, 0, "twins?", "ok twins -100 100");
    CHECK_TALK(rig, 0, "twins right", "ok twins right");
    CHECK_TALK(rig, 0, "twins?", "ok twins 100 -100");
    CHECK_TALK(rig, 0, "twins coast", "ok twins coast");
    CHECK_TALK(rig, 0, "twins coast", "ok twins coast already");
    CHECK_TALK(rig, 0, "twins brake", "ok twins brake");
    CHECK_TALK(rig, 0, "twins brake", "ok twins brake already");
    CHECK_TALK(rig, 0, "set vent -40", "ok set vent -40");
    CHECK_TALK(rig, 0, "vent?; fan?", "ok 2");
    CHECK_INT(rlx_motor_percent(&rig->device, 7, 0), -40);
    CHECK_INT(rlx_output_act(&rig->device, 6, RLX_SPEED, (uint32_t)-30), 0);
    CHECK_INT(rlx_output_pulse(&rig->device, 8, 100), RLX_ALREADY); /* no narrower than its range */
    CHECK_INT(rlx_output_pulse(&rig->device, 8, 5000), 0);
    CHECK_TALK(rig, 0, "weir?", "ok weir 400mm");
    CHECK_TALK(rig, 0, "hatch open", "ok hatch open");
    CHECK_TALK(rig, 0, "hatch close", "ok hatch close waiting 100ms");
    heard = rig_talk(rig, 0, "hatch?");
    CHECK(g_str_has_prefix(heard, "ok hatch stop waiting "));
    rig_wait(rig, 100000); /* without a travel it goes on */
    CHECK_TALK(rig, 0, "hatch?", "ok hatch closing");
    CHECK_TALK(rig, 0, "hatch stop", "ok hatch stop");
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P4: interrupts touch their ring", interrupts_touch_their_ring},
    {"P7: full counters", full_counters},
    {"P1, P3: silences at odd moments", silences_at_odd_moments},
    {"P2: odd senders", odd_senders},
    {"odd queries", odd_queries},
    {"odd tellings", odd_tellings},
    {"odd images", odd_images},
    {"P6: odd outputs", odd_outputs},
};
TEST_MAIN(cases)
