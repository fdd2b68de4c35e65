#include <glib.h>

#include "lines.h"

static const char *const words[] = {"a",   "ab",   "abc", "abcd", "b",      "ba",  "bab",
                                    "Abe", "lamp", "la",  "lamb", "stop",   "sto", "stopall",
                                    "on",  "off",  "x-1", "z_z",  "toggle", "o.n"};

static void random_slot(GString *text)
{
    static const char *const slots[] = {
        "{0..9}",          "{n -5..5}",  "{n 10..300mm}", "{n -70000..99999}", "{on|off}",
        "{on|off|toggle}", "{a|ab|abc}", "{k x|stop|z}",  "{1..1%}",           "{n 0..400}mm"};
    static const char *const more[] = {
        "{n 0.0..9.9}", "{n -0.50..1.75}l", "{m 0x00..0x1F}",       "{t 10ms..2min}",
        "{1s..9s}",     "{set a|ab|on}",    "{n 0..100 as 255..0}", "{n -9..9 as -90..90}",
        "{text 0..3}",  "{3 of -5..5}",     "{l 2 of 0.0..1.5}s",   "ab{0..9}",
        "la{1..20}mm",  "{rest 1..3}"};
    bool old = lines_chance(3);
    g_string_append_printf(text, " %s",
                           old ? slots[lines_chance(G_N_ELEMENTS(slots))]
                               : more[lines_chance(G_N_ELEMENTS(more))]);
}

/* A word, a filler, or a word with two spellings. */
static void random_words(GString *text)
{
    const char *a = words[lines_chance(G_N_ELEMENTS(words))];
    const char *b = words[lines_chance(G_N_ELEMENTS(words))];
    switch (lines_chance(4)) {
    case 0: g_string_append_printf(text, " (%s)", a); break;
    case 1: g_string_append_printf(text, " %s|%s", a, b); break;
    default: g_string_append_printf(text, " %s", a);
    }
}

/* What stands behind the first word of command number i: slots, words and an effect. */
static void random_rest(GString *text, unsigned i)
{
    switch (lines_chance(7)) {
    case 3:
        g_string_append(text, lines_chance(2) ? " {k p|q} {on|off|toggle = toggle} => k\n"
                                              : " {k q|p} => k toggle\n");
        break;
    case 0:
        g_string_append_printf(text, " {on|off|toggle%s} => q\n",
                               lines_chance(2) ? "" : " = toggle");
        break;
    case 1:
        g_string_append_printf(text, " {level 0..100%%%s} => q\n", lines_chance(2) ? "" : " = 70%");
        break;
    case 2: g_string_append_printf(text, " => %s\n", lines_chance(2) ? "p toggle" : "q 40%"); break;
    default:
        for (unsigned k = lines_chance(4); k; k--) {
            if (lines_chance(2))
                random_slot(text);
            else
                random_words(text);
        }
        if (!lines_chance(3)) g_string_append(text, " {-9..40000 = 30000}");
        if (!lines_chance(4)) g_string_append(text, " {x|y|z = y}");
        g_string_append_printf(text, " => f%u()\n", i);
    }
}

char *lines_lexicon(void)
{
    GString *text = g_string_new("lexicon random 1\n");
    unsigned n = 1 + lines_chance(lines_chance(3) ? 6 : 24);
    g_string_append_printf(text, "letters %s", lines_chance(2) ? "any-case" : "exact");
    if (lines_chance(2)) g_string_append_printf(text, " shorten %u", 1 + lines_chance(4));
    g_string_append(text,
                    "\noutput p relay pin 1\noutput q led pwm 2 at 1kHz active low safe 30%\n");
    g_string_append_printf(text, "link bench serial 9600 frame line longest 200%s\n",
                           lines_chance(4)   ? ""
                           : lines_chance(2) ? " transmit 16"
                                             : " transmit 32");
    for (unsigned i = 0; i < n; i++) {
        if (lines_chance(8))
            g_string_append_printf(text, "command %s", words[lines_chance(G_N_ELEMENTS(words))]);
        else
            g_string_append(text, lines_chance(2) ? "command {0..400}mm" : "command {-5..5}");
        random_rest(text, i);
    }
    return g_string_free(text, FALSE);
}

char *lines_two_commands(char *commands[2])
{
    static const char *const first[] = {"a", "ab", "{0..9}", "ab{0..9}", "a|b", "{-5..5}mm"};
    char *head = g_strdup_printf("lexicon random 1\nletters %s\n"
                                 "output p relay pin 1\noutput q led pwm 2 at 1kHz\n"
                                 "link bench serial 9600 frame line longest 200\n",
                                 lines_chance(2) ? "any-case" : "exact");
    for (unsigned i = 0; i < 2; i++) {
        unsigned likely = lines_chance(3) ? 0 : lines_chance(G_N_ELEMENTS(first));
        GString *text = g_string_new(NULL);
        g_string_append_printf(text, "command %s", first[likely]);
        random_rest(text, i);
        commands[i] = g_string_free(text, FALSE);
    }
    return head;
}
