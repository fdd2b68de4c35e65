/* What is done before its turn: of several commands the newest, and a halt past everything. And
 * what becomes of answers without room, and of a link that yields. */
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"
#include "rlx/inside.h"

enum { WIRE, PAD, FAR };           /* crowded.lexicon */
enum { BENCH, USB, SKIFF, SHORE }; /* events.lexicon */

static struct rig *start(const char *name)
{
    char *file = g_strdup_printf("%s/%s.lexicon", LEXICONS, name);
    struct rig *rig = rig_new(file);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    g_string_truncate(rig->pins, 0);
    for (unsigned i = 0; i < RIG_LINKS; i++) g_string_truncate(rig->sent[i], 0);
    g_free(file);
    return rig;
}

static const char *pins(struct rig *rig)
{
    static char was[2000];
    g_strlcpy(was, rig->pins->str, sizeof was);
    g_string_truncate(rig->pins, 0);
    return was;
}

/* What a sender puts around a text: tag and check. */
static char *sealed(unsigned tag, const char *text)
{
    char *body = tag < 256 ? g_strdup_printf("#%u %s", tag, text) : g_strdup(text);
    unsigned crc = 0xFFFF;
    for (const char *s = body; *s; s++) {
        crc ^= (unsigned)(unsigned char)*s << 8;
        for (int bit = 0; bit < 8; bit++) crc = crc & 0x8000 ? crc << 1 ^ 0x1021 : crc << 1;
        crc &= 0xFFFF;
    }
    char *all = g_strdup_printf("%s*%c%c%c%c\r", body, '@' + (crc >> 12), '@' + (crc >> 8 & 15),
                                '@' + (crc >> 4 & 15), '@' + (crc & 15));
    g_free(body);
    return all;
}

static void newest(void)
{
    struct rig *rig = start("crowded");
    CHECK_TEXT(rig_say(rig, WIRE, "glow 10\rglow 20\rglow 30\r"),
               "ok newer\r\nok newer\r\nok glow 30\r\n");
    CHECK_TEXT(pins(rig), "pwm 1 19660\n");
    /* never past another command, and not by one that is refused, unfinished or another's */
    CHECK_TEXT(rig_say(rig, WIRE, "glow 40\rpump on\rglow 50\r"),
               "ok glow 40\r\nok pump on\r\nok glow 50\r\n");
    CHECK_TEXT(pins(rig), "pwm 1 26214\npin 4 high\npwm 1 32767\n");
    CHECK_TEXT(rig_say(rig, WIRE, "glow 51\rglow 500\r"),
               "ok glow 51\r\nerr range level 0..100 at 5\r\n");
    CHECK_TEXT(rig_say(rig, WIRE, "glow 60\rglow 7"), "ok glow 60\r\n");
    CHECK_TEXT(rig_say(rig, WIRE, "0\r"), "ok glow 70\r\n");
    CHECK_INT(rig->link[WIRE].newer, 2);
    CHECK_TEXT(rig_say(rig, WIRE, "stats\r"), "ok stats lost 0 refused 1 ignored 0 newer 2\r\n");
    pins(rig);
    /* keys that wait behind one another */
    CHECK_TEXT(rig_say(rig, PAD, "12345"), "<+\r\n<+\r\n<+\r\n<+\r\n<+\r\n");
    CHECK_TEXT(pins(rig), "pwm 1 32767\n");
    CHECK_TEXT(rig_say(rig, PAD, "5"), "<+\r\n");
    CHECK_TEXT(pins(rig), "");
    rig_free(rig);
}

static void newest_in_envelopes(void)
{
    struct rig *rig = start("crowded");
    char *one = sealed(1, "glow 10"), *two = sealed(2, "glow 20"), *again = sealed(2, "glow 20");
    char *both = g_strconcat(one, two, again, NULL);
    const char *said = rig_say(rig, FAR, both);
    /* the repeat of the second one is no newer command: it gets the first answer again */
    CHECK(strstr(said, "#1 ok newer*") == said);
    CHECK(strstr(said, "#2 ok glow 20*") != NULL);
    CHECK_TEXT(pins(rig), "pwm 1 13107\n");
    /* the first one again: what it was told then */
    said = rig_say(rig, FAR, two);
    CHECK(strstr(said, "#2 ok glow 20*") == said);
    CHECK_TEXT(pins(rig), "");
    /* one that is damaged supersedes nothing */
    char *three = sealed(3, "glow 30"), *bad = sealed(4, "glow 40");
    bad[4] ^= 1;
    char *pair = g_strconcat(three, bad, NULL);
    said = rig_say(rig, FAR, pair);
    CHECK(strstr(said, "#3 ok glow 30*") == said);
    CHECK_TEXT(pins(rig), "pwm 1 19660\n");
    g_free(one), g_free(two), g_free(again), g_free(both);
    g_free(three), g_free(bad), g_free(pair);
    rig_free(rig);
}

/* Says all of it while nothing can be sent, then lets the answers out. */
static const char *blocked(struct rig *rig, unsigned link, const char *text, const char *at_once)
{
    rig->hold_sent = true;
    g_string_truncate(rig->sent[link], 0);
    rig_feed(rig, link, text, strlen(text));
    rlx_poll(&rig->device, rig->now_ms++);
    rlx_poll(&rig->device, rig->now_ms++);
    CHECK_TEXT(pins(rig), at_once);
    rig->hold_sent = false;
    rlx_port_kick(&rig->board, (uint8_t)link);
    rig_run(rig);
    return rig->sent[link]->str;
}

/* P6: no backlog, tag or full transmitter holds a halt up; what it overtook is not obeyed. */
static void halt_overtakes(void)
{
    struct rig *rig = start("events");
    rig_say(rig, BENCH, "pump on\r");
    pins(rig);
    const char *said = blocked(rig, BENCH, "about\rglow 20\rpump off\rpump on\rhalt\rglow 30\r",
                               "pwm 1 0\npin 4 low\n");
    CHECK(strstr(said, "ok about events 1 ") && strstr(said, "> glow 20"));
    CHECK_TEXT(strstr(said, "> glow 20"),
               "> glow 20\r\nerr halted\r\n> pump off\r\nerr halted\r\n> pump on\r\n"
               "err halted\r\n> halt\r\nok halt\r\n> glow 30\r\nok glow 30\r\n");
    CHECK_TEXT(pins(rig), "pwm 1 19660\n"); /* once only, and what was said later is obeyed */
    rig_free(rig);
}

static void halt_without_tag(void)
{
    struct rig *rig = start("crowded");
    char *on = sealed(9, "pump on"), *halt = sealed(999, "halt"), *old = sealed(9, "halt");
    char *bare = sealed(999, "pump on"), *bad = sealed(10, "halt");
    rig_say(rig, FAR, on);
    CHECK_TEXT(pins(rig), "pin 4 high\n");
    CHECK(strstr(rig_say(rig, FAR, bare), "err tag") != NULL);
    bad[5] ^= 2; /* it still needs an undamaged frame */
    rig_say(rig, FAR, bad);
    CHECK_TEXT(pins(rig), "");
    CHECK(strstr(rig_say(rig, FAR, halt), "ok halt*") == rig->sent[FAR]->str);
    CHECK_TEXT(pins(rig), "pwm 1 0\npin 4 low\n");
    rig_talk(rig, WIRE, "pump on");
    pins(rig);
    /* with the tag of the last command: no repeat of that */
    CHECK(strstr(rig_say(rig, FAR, old), "#9 ok halt*") == rig->sent[FAR]->str);
    CHECK_TEXT(pins(rig), "pwm 1 0\npin 4 low\n");
    g_free(on), g_free(halt), g_free(old), g_free(bare), g_free(bad);
    rig_free(rig);
}

/* On every framing: nothing can be sent, commands wait, then a halt comes. */
static void halt_on_each(void)
{
    static const struct {
        const char *link, *fill, *halt;
    } cases[] = {
        {"serial 9600 frame line", "about\r", " halt \r"},
        {"serial 9600 frame line for people", "about\r", "HALT\r\n"},
        {"serial 9600 frame line check optional tags optional", "#1 about\r", "#1 halt\r"},
        {"serial 9600 frame keys lead \":\" a = \"about\" h = \"halt\"", "a", "h"},
        {"serial 9600 frame keys lead \":\" a = \"about\" h = \"halt\"", "a", ":halt\r"},
        {"serial 9600 frame codes AA = \"about\" HH = \"halt\"", "AA", "HH"},
        {"serial 9600 frame codes AA = \"about\" H = \"halt\"", "AA", "AH"},
        {"serial 9600 frame ended \"!\"", "about!", "halt!"},
        {"serial 9600 frame gap 20ms", "about", "halt"},
        {"serial 9600 frame fixed 8 pad \".\" gap 50ms", "about...", "halt...."},
        {"serial 9600 frame fixed 90 pad \".\" gap 50ms receive 128", "about", "halt"},
        {"radio payload 60 open", "about", "halt"},
        {"radio payload 60 address 3 senders 2", "@3/1 about", "@3/2 halt"},
        {"report", "about\r", "halt\r"},
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf("lexicon it 1\nletters any-case\nbuilt-in halt about\n"
                                     "output pump relay pin 4 safe off\n"
                                     "command pump {on|off} => pump\nlink it %s\n"
                                     "link bench serial 9600 frame line\n",
                                     cases[i].link);
        struct rig *rig = rig_of_text(text);
        g_free(text);
        rig_say(rig, 1, "pump on\r");
        rig->hold_sent = rig->board.radio_busy = true;
        test_context("%s: %s", cases[i].link, cases[i].halt);
        for (unsigned k = 0; k < 9; k++) {
            char fill[91];
            g_snprintf(fill, sizeof fill, "%s", k < 8 ? cases[i].fill : cases[i].halt);
            bool blocked_now = rig->link[0].frame_state & RLX_FRAME_READY;
            bool gap = strstr(cases[i].link, "frame gap") != NULL;
            bool one = gap || strstr(cases[i].link, "fixed 90");
            if (one && blocked_now && k < 8) continue; /* one of them waits at a time */
            while (strstr(cases[i].link, "fixed 90") && strlen(fill) < 90) strcat(fill, ".");
            pins(rig);
            rig_feed(rig, 0, fill, strlen(fill));
            if (gap) rlx_link_gap(&rig->link[0]);
            rlx_poll(&rig->device, rig->now_ms++);
            rlx_poll(&rig->device, rig->now_ms++);
        }
        CHECK_TEXT(pins(rig), "pin 4 low\n");
        rig_say(rig, 1, "pump on\r"); /* what another link says meanwhile stays */
        pins(rig);
        rig->hold_sent = rig->board.radio_busy = false;
        rlx_port_kick(&rig->board, 0);
        rig_wait(rig, 100);
        CHECK_TEXT(pins(rig), "");
        rig_free(rig);
    }
}

/* Which output a slot names tells commands apart, and so does a batch. */
static void newest_of_the_same(void)
{
    char *text =
        g_strdup("lexicon it 1\nbuilt-in batch\noutput pump relay pin 4 safe off\n"
                 "output lamp led pin 5\ncommand set {which pump|lamp} {on|off} => which newest\n"
                 "command name {text 1..9} => name() newest\nnumber 7 = set lamp on\n"
                 "link it serial 9600 frame line\n");
    struct rig *rig = rig_of_text(text);
    g_free(text);
    CHECK_TEXT(rig_say(rig, 0, "set pump on\rset lamp on\rset lamp off\r"),
               "ok set pump on\r\nok newer\r\nok set lamp off already\r\n");
    CHECK_TEXT(rig_say(rig, 0, "set lamp off\r7\r"), "ok newer\r\nok set lamp on\r\n");
    CHECK_TEXT(rig_say(rig, 0, "set lamp on\rset lamp off;set lamp on\r"),
               "ok set lamp on already\r\nok 2\r\n");
    CHECK_TEXT(rig_say(rig, 0, "name \"a\"\rname \"\xC3\xA9\"\r"),
               "ok newer\r\nok name \"\xC3\xA9\"\r\n");
    CHECK_TEXT(rig_say(rig, 0, "name \"a\"\rname \xC3\"b\"\r"),
               "ok name \"a\"\r\nerr byte 195 at 5\r\n");
    rig_free(rig);
}

/* Obeyed all the same; what does not fit is counted. */
static void dropped(void)
{
    struct rig *rig = start("crowded");
    char *said =
        g_strdup(blocked(rig, WIRE, "glow 10\rpump on\rglow 20\rpump off\rglow 30\rpump on\r",
                         "pwm 1 6553\npin 4 high\npwm 1 13107\npin 4 low\npwm 1 19660\n"
                         "pin 4 high\n"));
    unsigned heard = 0;
    for (char *s = said; (s = strstr(s, "ok ")) != NULL; s++) heard++;
    CHECK(rig->link[WIRE].unheard > 0 && heard > 0);
    CHECK_INT(rig->link[WIRE].unheard + heard, 6);
    g_free(said);
    rig_free(rig);
}

static void yields(void)
{
    struct rig *rig = start("events");
    CHECK_TEXT(rig_say(rig, SHORE, "pump on"), "ok pump on");
    rig_say(rig, BENCH, "frobnicate\r"); /* which is no use of it */
    CHECK_TEXT(rig_say(rig, SHORE, "pump off"), "ok pump off");
    rig_say(rig, BENCH, "glow 5\r");
    CHECK_TEXT(rig_say(rig, SHORE, "pump on"), "err yields");
    rig->asked = true;
    CHECK_TEXT(rig_say(rig, SHORE, "level?"), "ok level 0");
    CHECK_TEXT(rig_say(rig, SHORE, "halt"), "ok halt");
    rig_wait(rig, 29000);
    CHECK_TEXT(rig_say(rig, SHORE, "pump on"), "err yields");
    rig_wait(rig, 1000);
    CHECK_TEXT(rig_say(rig, SHORE, "pump on"), "ok pump on");
    rig_free(rig);
}

/* Events take no room that a reply needs. */
static void events_wait(void)
{
    struct rig *rig = start("events");
    unsigned ring = rig->link[BENCH].tx_mask + 1u, reply = 0;
    const struct lex_link *bench = rig->lx->links->pdata[BENCH];
    reply = bench->reply;
    rig->hold_sent = true;
    for (unsigned i = 0; i < 40; i++) {
        rig_do(rig, i & 1 ? "! call pressed" : "! call released");
        unsigned used = (uint8_t)(rig->link[BENCH].tx_head - rig->link[BENCH].tx_tail);
        CHECK(used <= bench->event || ring - used >= reply);
    }
    CHECK_INT(rig->link[BENCH].merged > 0, 1);
    rig->hold_sent = false;
    rlx_port_kick(&rig->board, BENCH);
    rig_run(rig);
    CHECK(g_str_has_suffix(rig->sent[BENCH]->str, "ev call pressed\r\n")); /* the last one, last */
    rig_free(rig);
}

/* A look at what waits writes nothing: the answers that have to wait come as they would have come.
 */
static void what_waits_is_whole(void)
{
    static const char *const says[] = {"#%u n 7\r",   "#%u n 123\r", "#%u ok n 7\r",
                                       "#%u err x\r", "#%u ready\r", "#%u n 55555\r",
                                       "#%u ev x\r"};
    static const char lexicon[] =
        "lexicon x 1\nbuilt-in halt about\ncommand n {n 0..99999} => n()\n"
        "link l serial 9600 frame line tags optional transmit 32\n";
    struct rig *held = rig_of_text(lexicon), *free_one = rig_of_text(lexicon);
    unsigned tag = 0;
    for (unsigned i = 0; i < 2000 && !test_failures(); i++) {
        GString *text = g_string_new("");
        while (text->len < 44)
            g_string_append_printf(text, says[lines_chance(G_N_ELEMENTS(says))], tag++ % 30000);
        g_string_truncate(held->sent[0], 0);
        held->hold_sent = true;
        rig_feed(held, 0, text->str, text->len);
        for (unsigned k = 0; k < 3; k++) rlx_poll(&held->device, held->now_ms);
        held->hold_sent = false;
        rlx_port_kick(&held->board, 0);
        rig_run(held);
        test_context("%u: %s", i, text->str);
        CHECK_TEXT(held->sent[0]->str, rig_say(free_one, 0, text->str));
        g_string_free(text, TRUE);
    }
    rig_free(held);
    rig_free(free_one);
}

static const struct test_case cases[] = {
    {"what waits to be sent is not written over", what_waits_is_whole},
    {"of several that wait the newest counts", newest},
    {"the same with tags and checks", newest_in_envelopes},
    {"P6: a halt overtakes what waits", halt_overtakes},
    {"P6: a halt needs no tag", halt_without_tag},
    {"P6: a halt on each kind of link", halt_on_each},
    {"which commands are the same", newest_of_the_same},
    {"P7: answers that are dropped are counted", dropped},
    {"a link that yields", yields},
    {"P2: events take no reserved room", events_wait},
};
TEST_MAIN(cases)
