/* The witness of a fault, fed to the parser, does what the message says. A lexicon that the checker
 * refuses is still built here, to see what would have happened. */
#include <stdio.h>
#include <string.h>

#include "lexicon/check/check.h"
#include "harness.h"
#include "rig.h"

struct shown {
    const char *title;
    enum lex_code code;
    const char *lexicon, *said; /* %s: the witness */
    const char *reply;          /* what comes back, line ends as '|' */
    const char *pins;           /* what the outputs do then */
};

#define HEAD \
    "lexicon x 1\ngreeting off\noutput r relay pin 1 safe off\ncommand pump {on|off} => r\n"
#define TOGGLE                                                                                   \
    "lexicon x 1\ngreeting off\noutput r relay pin 1 safe off\ncommand pump {on|off|toggle} => " \
    "r\n"

static const struct shown cases_shown[] = {
    {"a line that is too long", LEX_D10,
     "lexicon x 1\ngreeting off\ncommand wash_the_whole_tank {5..90min} => f()\n"
     "link l serial 9600 frame line longest 20\n",
     "%s\r", "err long at 20|", ""},
    {"a line that just fits", LEX_D10,
     "lexicon x 1\ngreeting off\ncommand wash_the_whole_tank {5..90min} => f()\n"
     "link l serial 9600 frame line longest 25\n",
     "wash_the_whole_tank 90min\r", "ok wash_the_whole_tank 90|", ""},
    {"a reply that is cut", LEX_D11,
     "lexicon x 1\ngreeting off\noutput r relay pin 1 safe off\n"
     "command circulation_pump {on|off} => r\n"
     "link l serial 9600 frame line transmit 16\n",
     "circulation_pump on\r", "ok|", "pin 1 high\n"},
    {"a reply longer than its packet", LEX_D23, HEAD "link a radio payload 18 open\n", "pump off",
     "ok", ""},
    {"a fixed frame that the command does not fit", LEX_D27,
     HEAD "link f serial 9600 frame fixed 7 pad \".\" gap 20ms\n", "%s", "e3.....", ""},
    {"a fixed frame that lost a byte", LEX_D28,
     HEAD "link f serial 9600 frame fixed 10 pad \".\"\n", "%sump on...pump off..",
     "e1........e1........", ""},
    {"a code that waits", LEX_D28,
     HEAD "link f serial 9600 frame codes P1 = \"pump on\" P0 = \"pump off\"\n", "%sP1",
     "<err half|<ok pump on|", "pin 1 high\n"},
    {"a packet that comes twice", LEX_D29, TOGGLE "link a radio payload 30 replies short open\n",
     "%s\n%s", "okok", "pin 1 high\npin 1 low\n"},
    {"a button that is not understood", LEX_D37,
     HEAD "link l serial 9600 frame line\nhandset h on l\nbutton go press \"pump up\"\n", "%s\r",
     "err choice on|off at 5|", ""},
    {"a code that begins another", LEX_D38,
     HEAD
     "command lamp {0..9} => f()\nlink f serial 9600 frame codes within 300ms \"L#\" = \"lamp #\" "
     "L5P = \"pump on\"\n",
     "%sP", "<ok lamp 5|<err unknown P at 0|", ""},
    {"a text that swallows the next command", LEX_D39,
     HEAD "built-in batch\ncommand jot {rest 1..40} => jot()\nlink l serial 9600 frame line\n",
     "%s\r", "ok 1|", ""},
    {"an ignored text that is a command", LEX_D40,
     HEAD "link l serial 9600 frame line\nignore \"pump on\" on l\n", "%s\r", "", ""},
    {"a command that holds its own end", LEX_D41,
     "lexicon x 1\ngreeting off\ncommand warm {5.0..30.0C} => f()\ncommand {0..9} => g()\n"
     "link e serial 9600 frame ended \".\" within 1s\n",
     "%s.", "ok warm 30.0.ok 0.", ""},
};

static char *path;

/* The fault of this code as the checker finds it; NULL where it does not. */
static const struct lex_fault *fault_of(const struct rig *rig, enum lex_code code)
{
    lexicon_check(rig->lx, rig->image);
    for (unsigned i = 0; i < rig->lx->faults->len; i++) {
        const struct lex_fault *fault = rig->lx->faults->pdata[i];
        if (fault->code == code) return fault;
    }
    return NULL;
}

/* The text with the witness in its place. */
static char *with_witness(const char *said, const char *witness)
{
    GString *text = g_string_new(said);
    g_string_replace(text, "%s", witness ? witness : "", 0);
    return g_string_free(text, FALSE);
}

static void show(const struct shown *shown)
{
    g_file_set_contents(path, shown->lexicon, -1, NULL);
    struct rig *rig = rig_new(path);
    const struct lex_fault *fault = fault_of(rig, shown->code);
    bool near_miss = !strstr(shown->said, "%s") && shown->code == LEX_D10;
    test_context("%s", shown->title);
    CHECK((fault != NULL) != near_miss);
    char *said = with_witness(shown->said, fault ? fault->witness : NULL);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    g_string_truncate(rig->pins, 0);
    g_string_truncate(rig->sent[0], 0);
    bool packets = ((struct lex_link *)rig->lx->links->pdata[0])->frame == LEX_FRAME_PACKET;
    char **parts = packets ? g_strsplit(said, "\n", -1) : g_strsplit(said, "\1", -1);
    for (char **part = parts; *part; part++) {
        rig_feed(rig, 0, *part, strlen(*part));
        rig_run(rig);
    }
    g_string_replace(rig->sent[0], "\r\n", "|", 0);
    test_context("%s: '%s'", shown->title, said);
    CHECK_TEXT(rig->sent[0]->str, shown->reply);
    CHECK_TEXT(rig->pins->str, shown->pins);
    g_strfreev(parts);
    g_free(said);
    rig_free(rig);
}

/* A held button whose command expires before it is said again: the output stutters. */
static void an_expiry_shorter_than_the_repeat(void)
{
    static const char text[] =
        "lexicon x 1\ngreeting off\noutput glow led pwm 1 at 1kHz\n"
        "command glow {level 0..100%} => glow expires 200ms\nlink l serial 9600 frame line\n"
        "handset h on l repeat 250ms\nbutton go press \"glow 50\" held \"glow 50\" release "
        "\"glow 0\"\n";
    char *folder = g_dir_make_tmp("rlx-witness-XXXXXX", NULL);
    path = g_build_filename(folder, "it.lexicon", NULL);
    g_file_set_contents(path, text, -1, NULL);
    struct rig *rig = rig_new(path);
    const struct lex_fault *fault = fault_of(rig, LEX_D34);
    CHECK(fault != NULL);
    char *said = g_strconcat(fault->witness, "\r", NULL);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    g_string_truncate(rig->pins, 0);
    for (unsigned i = 0; i < 2; i++) { /* pressed, and said again after the repeat */
        CHECK_TEXT(rig_say(rig, 0, said), "ok glow 50\r\n");
        rig_wait(rig, 250);
    }
    CHECK_TEXT(rig->pins->str, "pwm 1 32767\npwm 1 0\npwm 1 32767\npwm 1 0\n");
    g_free(said);
    rig_free(rig);
    remove(path);
    remove(folder);
    g_free(path);
    g_free(folder);
}

/* ---- faults that the reader finds: the lexicon is built all the same ---- */

static const struct shown built_anyway[] = {
    {"a reply that would be a shortened command", LEX_D04,
     "lexicon x 1\nletters any-case shorten 3\ngreeting off\ncommand erratic => f()\n"
     "link l serial 9600 frame line\n",
     "%s\r", "ok erratic|", ""},
    {"a value that the output cannot take", LEX_D14,
     "lexicon x 1\ngreeting off\noutput glow led pwm 1 at 1kHz\n"
     "command glow {level 0..255} => glow\nlink l serial 9600 frame line\n",
     "glow 100\rglow %s\r", "ok glow 100|ok glow 255|", "pwm 1 65535\npwm 1 36042\n"},
    {"a key for nothing", LEX_D15,
     HEAD "link l serial 9600 frame line\nlink p serial 9600 frame keys x = \"pump up\"\n", "%s\r",
     "err choice on|off at 5|", ""},
    {"a number that hides a value", LEX_D19,
     "lexicon x 1\ngreeting off\ncommand {0..20} => f()\ncommand go => g()\nnumber 12 = go\n"
     "link l serial 9600 frame line\n",
     "11\r%s\r", "ok 11|ok go|", ""},
    {"a routine's step that no command takes", LEX_D21,
     HEAD "routine dusk = \"pump on; pump of\"\nlink l serial 9600 frame line\n", "%s\r",
     "err choice on|off at 5|", ""},
};

static void show_anyway(const struct shown *shown)
{
    char *witness = NULL, *text = g_strdup(shown->lexicon);
    struct lexicon *lx = lexicon_read_text("it", text, strlen(text));
    for (unsigned i = 0; i < lx->faults->len; i++) {
        const struct lex_fault *fault = lx->faults->pdata[i];
        if (fault->code == shown->code) witness = g_strdup(fault->witness);
    }
    test_context("%s", shown->title);
    CHECK(witness != NULL);
    g_ptr_array_set_size(lx->faults, 0);
    struct rig *rig = rig_of(lx);
    char *said = with_witness(shown->said, witness);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    g_string_truncate(rig->pins, 0);
    g_string_assign(rig->sent[0], "");
    rig_feed(rig, 0, said, strlen(said));
    rig_run(rig);
    g_string_replace(rig->sent[0], "\r\n", "|", 0);
    CHECK_TEXT(rig->sent[0]->str, shown->reply);
    CHECK_TEXT(rig->pins->str, shown->pins);
    g_free(said);
    g_free(witness);
    rig_free(rig);
}

static void built_all_the_same(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(built_anyway); i++) show_anyway(&built_anyway[i]);
}

static void witnesses(void)
{
    char *folder = g_dir_make_tmp("rlx-witness-XXXXXX", NULL);
    path = g_build_filename(folder, "it.lexicon", NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(cases_shown); i++) show(&cases_shown[i]);
    remove(path);
    remove(folder);
    g_free(path);
    g_free(folder);
}

static const struct test_case cases[] = {
    {"witnesses do what is said of them", witnesses},
    {"witnesses of lexicons that are refused", built_all_the_same},
    {"an expiry shorter than the repeat", an_expiry_shorter_than_the_repeat},
};
TEST_MAIN(cases)
