/* P10: the checker's verdict on two commands against the parser. What it says both take, each takes
 * when it is alone; what both take when they are alone, it has said. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

static char *path;

static void write_lexicon(const char *head, const char *a, const char *b)
{
    char *text = g_strconcat(head, a, b, NULL);
    g_file_set_contents(path, text, -1, NULL);
    g_free(text);
}

/* Of the file as it is; NULL where it has faults. */
static struct rig *rig_of_file(void)
{
    struct lexicon *lx = lexicon_read(path, NULL);
    struct image *image = image_build(lx);
    bool sound = image != NULL;
    image_free(image);
    lexicon_free(lx);
    if (!sound) return NULL;
    struct rig *rig = rig_new(path);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    return rig;
}

static bool takes(struct rig *rig, const char *text)
{
    char *said = g_strconcat(text, "\r", NULL);
    const char *got = rig_say(rig, 0, said);
    g_free(said);
    return g_str_has_prefix(got, "ok");
}

/* Accepted, or refused for a value outside its range only: ranges do not tell commands apart. */
static bool takes_but_range(struct rig *rig, const char *text)
{
    char *said = g_strconcat(text, "\r", NULL);
    bool range = g_str_has_prefix(rig_say(rig, 0, said), "err range");
    g_free(said);
    return range || takes(rig, text);
}

/* The witness of the fault of this code, or NULL. Owned by the caller. */
static char *witness(enum lex_code code, unsigned *faults)
{
    struct lexicon *lx = lexicon_read(path, NULL);
    char *text = NULL;
    image_free(image_build(lx));
    *faults = lx->faults->len;
    for (unsigned i = 0; i < lx->faults->len; i++) {
        const struct lex_fault *fault = lx->faults->pdata[i];
        if (fault->code == code && !text) text = g_strdup(fault->witness);
    }
    lexicon_free(lx);
    return text;
}

/* The shortest line, of some, that both take. */
static char *both_take(struct rig *a, struct rig *b)
{
    char *shortest = NULL;
    for (unsigned i = 0; i < 60; i++) {
        char *line = g_strstrip(lines_random(i & 1 ? a->lx : b->lx));
        if (takes(a, line) && takes(b, line) && (!shortest || strlen(line) < strlen(shortest))) {
            g_free(shortest);
            shortest = line;
        } else {
            g_free(line);
        }
    }
    return shortest;
}

static void two_commands(unsigned *ambiguous, unsigned *clear)
{
    char *commands[2], *head = lines_two_commands(commands), *text, *found = NULL;
    unsigned faults;
    write_lexicon(head, commands[0], commands[1]);
    text = witness(LEX_D03, &faults);
    write_lexicon(head, commands[0], "");
    struct rig *a = rig_of_file();
    write_lexicon(head, commands[1], "");
    struct rig *b = rig_of_file();
    test_context("%s%s%s", head, commands[0], commands[1]);
    if (a && b) {
        found = both_take(a, b);
        if (text) {
            test_context("%s%s%switness '%s', found '%s'", head, commands[0], commands[1], text,
                         found ? found : "");
            CHECK(takes_but_range(a, text) && takes_but_range(b, text));
            CHECK(!found || strlen(found) >= strlen(text));
            ++*ambiguous;
        } else {
            CHECK(!found);
            *clear += !faults;
        }
    }
    if (a) rig_free(a);
    if (b) rig_free(b);
    g_free(text);
    g_free(found);
    g_free(head);
    g_free(commands[0]);
    g_free(commands[1]);
}

static void random_pairs(void)
{
    unsigned ambiguous = 0, clear = 0;
    lines_seed = 7;
    for (unsigned i = 0; i < 4000 && test_failures() < 5; i++) two_commands(&ambiguous, &clear);
    printf("%u pairs with a common text, %u without\n", ambiguous, clear);
    test_context("%u ambiguous, %u clear", ambiguous, clear);
    CHECK(ambiguous > 300 && clear > 300);
}

/* A reply that would be taken for a shortened command: the parser does take it. */
static void replies_are_not_commands(void)
{
    static const char *const firsts[] = {"note_down", "error", "okay",
                                         "e12x",      "event", "readyness"};
    static const char *const replies[] = {"note", "err", "ok", "e1", "ev", "ready"};
    for (unsigned i = 0; i < G_N_ELEMENTS(firsts); i++) {
        unsigned faults;
        char *command = g_strdup_printf("command %s => f()\n", firsts[i]);
        for (unsigned shorten = 1; shorten < 8; shorten++) {
            char *head = g_strdup_printf("lexicon x 1\nletters any-case shorten %u\n"
                                         "link l serial 9600 frame line\n",
                                         shorten);
            write_lexicon(head, command, "");
            char *text = witness(LEX_D04, &faults);
            test_context("%s, shorten %u", firsts[i], shorten);
            CHECK_INT(text != NULL, shorten <= strlen(replies[i]) + (i == 3));
            g_free(text);
            g_free(head);
        }
        g_free(command);
    }
}

static void setup(void (*run)(void))
{
    char *folder = g_dir_make_tmp("rlx-ambiguous-XXXXXX", NULL);
    path = g_build_filename(folder, "it.lexicon", NULL);
    run();
    remove(path);
    remove(folder);
    g_free(path);
    g_free(folder);
}

static void pairs_case(void)
{
    setup(random_pairs);
}

static void replies_case(void)
{
    setup(replies_are_not_commands);
}

static const struct test_case cases[] = {
    {"P10: two commands and their shortest common text", pairs_case},
    {"P2: no reply is a shortened command", replies_case},
};
TEST_MAIN(cases)
