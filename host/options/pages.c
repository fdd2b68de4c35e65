/* Manual pages (man(7)) from what the verbs take.
 * The text is that of --help; its examples, which are indented there, are set as they stand.
 * No sentence about an option is written here. */
#include "options/describe.h"

#include <string.h>

/* With what roff would read as its own escaped. */
static void put_text(GString *out, const char *text, size_t length)
{
    for (size_t i = 0; i < length; i++) {
        bool begins = i == 0 || text[i - 1] == '\n';
        if (begins && (text[i] == '.' || text[i] == '\'')) g_string_append(out, "\\&");
        if (text[i] == '\\')
            g_string_append(out, "\\e");
        else if (text[i] == '-')
            g_string_append(out, "\\-");
        else
            g_string_append_c(out, text[i]);
    }
}

static void put_line(GString *out, const char *text)
{
    put_text(out, text, strlen(text));
    g_string_append_c(out, '\n');
}

/* The description: paragraphs, and lines that are indented. `examples`: what begins with "Example".
 */
static void put_description(GString *out, const char *text, bool examples)
{
    char **lines = g_strsplit(text, "\n", -1);
    bool in = false, set = false;
    for (unsigned i = 0; lines[i]; i++) {
        bool heading = g_str_has_prefix(lines[i], "Example");
        in = in || heading;
        if (in != examples || heading) continue;
        bool code = lines[i][0] == ' ';
        if (code != set) g_string_append(out, code ? ".EX\n" : ".EE\n");
        set = code;
        if (*lines[i])
            put_line(out, code ? lines[i] + 2 : lines[i]);
        else if (lines[i + 1] && *lines[i + 1] && !g_str_has_prefix(lines[i + 1], "Example"))
            g_string_append(out, ".PP\n");
    }
    if (set) g_string_append(out, ".EE\n");
    g_strfreev(lines);
}

static void put_option(GString *out, const GOptionEntry *entry)
{
    g_string_append(out, ".TP\n");
    if (entry->short_name) g_string_append_printf(out, "\\fB\\-%c\\fR, ", entry->short_name);
    g_string_append(out, "\\fB\\-\\-");
    put_text(out, entry->long_name, strlen(entry->long_name));
    g_string_append(out, "\\fR");
    if (entry->arg_description) {
        g_string_append(out, "=\\fI");
        put_text(out, entry->arg_description, strlen(entry->arg_description));
        g_string_append(out, "\\fR");
    }
    g_string_append_c(out, '\n');
    put_line(out, entry->description);
}

static void put_verb(GString *out, const struct describe_verb *verb)
{
    const char *text = g_array_index(verb->usages, struct cli_usage, 0).description;
    g_string_append_printf(out,
                           "rlx\\-%s \\- %s\n.SH SYNOPSIS\n\\fBrlx %s\\fR [\\fIOPTION\\fR...] ",
                           verb->name, verb->what, verb->name);
    put_line(out, describe_parameters(verb));
    g_string_append(out, ".SH DESCRIPTION\n");
    put_description(out, text, false);
    g_string_append(out, ".SH OPTIONS\n");
    for (unsigned i = 0; describe_option(verb, i); i++) put_option(out, describe_option(verb, i));
    g_string_append(out, ".TP\n\\fB\\-h\\fR, \\fB\\-\\-help\\fR\nprint the options\n");
    g_string_append(out, ".SH EXAMPLES\n");
    put_description(out, text, true);
}

static void put_tool(GString *out, const struct describe_verb *verbs, unsigned count)
{
    g_string_append(out, "rlx \\- text commands for microcontrollers: design, try and test them\n"
                         ".SH SYNOPSIS\n\\fBrlx\\fR \\fIVERB\\fR [\\fIOPTION\\fR...] ...\n"
                         ".SH DESCRIPTION\nFrom one file, the lexicon, rlx makes the parser of a "
                         "firmware and its reference card,\nand simulates the board and its links, "
                         "so that each command is tried before there is a board.\n"
                         "Each verb has a page of its own.\n.SH VERBS\n");
    for (unsigned i = 0; i < count; i++)
        g_string_append_printf(out, ".TP\n\\fB%s\\fR\n%s\n", verbs[i].name, verbs[i].what);
    g_string_append(out,
                    ".SH OPTIONS\n.TP\n\\fB\\-h\\fR, \\fB\\-\\-help\\fR\nprint the verbs\n.TP\n"
                    "\\fB\\-V\\fR, \\fB\\-\\-version\\fR\nprint the version\n"
                    ".SH ENVIRONMENT\n.TP\n\\fBNO_COLOR\\fR\nnot empty: no colours, on a "
                    "terminal either\n.TP\n\\fBCOLUMNS\\fR\nhow wide a card is on a "
                    "terminal\n");
}

char *describe_page(const struct describe_verb *verbs, unsigned count,
                    const struct describe_verb *verb, const char *version)
{
    GString *out = g_string_new(NULL);
    char *name = g_ascii_strup(verb ? verb->name : "", -1);
    g_string_append_printf(out,
                           ".TH RLX%s%s 1 \"\" \"Ready Lexicon %s\" \"User Commands\"\n"
                           ".SH NAME\n",
                           verb ? "\\-" : "", name, version);
    if (verb)
        put_verb(out, verb);
    else
        put_tool(out, verbs, count);
    g_string_append(out, ".SH EXIT STATUS\n0: fine. 1: something was found. 2: it could not run.\n"
                         ".SH SEE ALSO\n");
    const char *between = "";
    for (unsigned i = 0; i < count; i++) {
        if (&verbs[i] == verb) continue;
        g_string_append_printf(out, "%s\\fBrlx\\-%s\\fR(1)", between, verbs[i].name);
        between = ", ";
    }
    g_string_append_printf(out, "%s\n", verb ? ", \\fBrlx\\fR(1)" : "");
    g_free(name);
    return g_string_free(out, FALSE);
}
