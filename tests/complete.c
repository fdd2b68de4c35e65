/* What Tab offers for a line: words, ranges, shortened words, batches, the lines for the tool; and
 * what it types. */
#include <string.h>

#include "endpoint/complete.h"
#include "harness.h"

static const char text[] =
    "lexicon it 1\nletters any-case shorten 3\nbuilt-in halt state batch notes\n"
    "output pump relay pin 4 safe on\noutput glow led pwm 1 at 1kHz safe 0%\n"
    "input upper pin 5\n"
    "command pump {on|off|toggle} => pump\ncommand glow {level 0..100%} => glow\n"
    "command glow fade {level 0..100%} => glow fade\n"
    "command lights (please) {on|off} => pump\n"
    "command mix {these set a|b} {parts 1..9 = 2} => mix()\n"
    "command only here => here()\n"
    "query temp {celsius 0..99} => read_temp()\nsetting rate {hz 1..9} = 5\n"
    "event water {low|high}\n"
    "link bench serial 9600 frame line\nlink pad serial 9600 frame line only pump\n";

static struct lexicon *lx;
static struct image *image;

static struct talk *talk_over(const char *link)
{
    static struct talk_options options;
    GError *error = NULL;
    options = (struct talk_options){.link = link, .live = true, .plain = true};
    struct talk *t = talk_new(lx, image, &options, stdout, &error);
    CHECK(t != NULL);
    return t;
}

static void offers(struct talk *t, const char *line, const char *wanted, const char *typed)
{
    GPtrArray *all = complete_line(t, line);
    GString *got = g_string_new(NULL);
    for (unsigned i = 0; i < all->len; i++)
        g_string_append_printf(got, "%s%s", i ? " " : "", ((struct complete *)all->pdata[i])->text);
    char *more = complete_common(all, line);
    test_context("\"%s\"", line);
    CHECK_TEXT(got->str, wanted);
    CHECK_TEXT(more, typed);
    g_free(more);
    g_string_free(got, TRUE);
    g_ptr_array_free(all, TRUE);
}

static void for_the_device(void)
{
    struct talk *t = talk_over("bench");
    offers(t, "pu", "pump pump?", "mp ");
    offers(t, "PU", "pump pump?", "mp ");
    offers(t, "pump ", "on off toggle", "");
    offers(t, "pump  o", "on off", "");
    offers(t, "pum t", "toggle", "oggle ");
    offers(t, "pump on ", "", "");
    offers(t, "glow ", "{level 0..100%} fade", "");
    offers(t, "glow f", "fade", "ade ");
    offers(t, "glow 4", "{level 0..100%}", "");
    offers(t, "glow fade ", "{level 0..100%}", "");
    offers(t, "lights ", "please on off", "");
    offers(t, "lights please o", "on off", "");
    offers(t, "mix ", "a b", "");
    offers(t, "mix a ", "{parts 1..9 = 2}", "");
    offers(t, "te", "temp?", "mp? ");
    offers(t, "upp", "upper?", "er? ");
    offers(t, "ha", "halt", "lt ");
    offers(t, "pump on; gl", "glow glow?", "ow ");
    offers(t, "rate ", "{hz 1..9}", "");
    offers(t, "nothing ", "", "");
    talk_free(t);
}

static void for_the_tool(void)
{
    struct talk *t = talk_over("bench");
    offers(t, "! u", "upper", "pper ");
    offers(t, "! upper ", "on off", "o");
    offers(t, "! upper of", "off", "f ");
    offers(t, "! wa", "water", "ter ");
    offers(t, "! water ", "low high", "");
    offers(t, "! over p", "pad", "ad ");
    offers(t, "! note ", "TEXT", "");
    offers(t, "! he", "help", "lp ");
    offers(t, "! jam ", "", ""); /* nothing hangs on the pins */
    talk_free(t);
}

/* A link that takes some words only offers no others. */
static void on_a_link(void)
{
    struct talk *t = talk_over("pad");
    offers(t, "gl", "glow?", "ow? ");
    offers(t, "pump o", "on off", "");
    offers(t, "mix ", "", "");
    talk_free(t);
}

/* Any bytes, of any length. */
static void odd_lines(void)
{
    struct talk *t = talk_over("bench");
    static const char *const odd[] = {"",
                                      " ",
                                      "!",
                                      "! ",
                                      ";",
                                      "; ",
                                      "pump;",
                                      "!  ",
                                      "\xff\xfe ",
                                      "{",
                                      "pump on off on off",
                                      "! over  ",
                                      "! a b c d e f"};
    for (unsigned i = 0; i < G_N_ELEMENTS(odd); i++) {
        GPtrArray *all = complete_line(t, odd[i]);
        char *more = complete_common(all, odd[i]);
        test_context("\"%s\"", odd[i]);
        CHECK(!strchr(more, '\n') && all->len < 40);
        g_free(more);
        g_ptr_array_free(all, TRUE);
    }
    talk_free(t);
}

static const struct test_case cases[] = {{"for the device", for_the_device},
                                         {"for the tool", for_the_tool},
                                         {"on a link", on_a_link},
                                         {"odd lines", odd_lines}};

int main(int argc, char **argv)
{
    lx = lexicon_read_text("it", g_strdup(text), strlen(text));
    g_assert(!lexicon_has(lx, false));
    image = image_build(lx);
    int code = test_main(argc, argv, cases, G_N_ELEMENTS(cases));
    image_free(image);
    lexicon_free(lx);
    return code;
}
