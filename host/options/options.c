/* Reads the options of a verb, with the option probably meant where one is misspelt.
 * GLib reads them; in between the same tables can be collected, so that manual pages and shell
 * completions are made of what the verbs take.
 * It knows no verb. */
#include "options/options.h"

#include <stdio.h>
#include <string.h>

#include "lexicon/read/reader.h"

static GArray *collected;

void cli_options_collect(GArray *usages)
{
    collected = usages;
}

static void collect(const GOptionEntry *entries, const char *parameters, const char *description)
{
    const char *verb = strrchr(g_get_prgname(), ' ');
    struct cli_usage usage = {verb ? verb + 1 : g_get_prgname(), parameters, description,
                              g_array_new(FALSE, FALSE, sizeof *entries)};
    for (; entries->long_name; entries++) g_array_append_vals(usage.entries, entries, 1);
    g_array_append_val(collected, usage);
}

/* The first option that there is not, without what is behind its =; NULL: none. */
static char *unknown_option(char **argv, const GOptionEntry *entries)
{
    for (; *argv && strcmp(*argv, "--") != 0; argv++) {
        if (!g_str_has_prefix(*argv, "--")) continue;
        char *name = g_strndup(*argv + 2, strcspn(*argv + 2, "="));
        const GOptionEntry *entry = entries;
        while (entry->long_name && strcmp(entry->long_name, name) != 0) entry++;
        if (!entry->long_name && strcmp(name, "help") != 0) return name;
        g_free(name);
    }
    return NULL;
}

static void say_unknown(const char *name, const GOptionEntry *entries)
{
    GPtrArray *names = g_ptr_array_new();
    for (; entries->long_name; entries++) g_ptr_array_add(names, (void *)entries->long_name);
    g_ptr_array_add(names, NULL);
    const char *near = lex_nearest(name, (const char *const *)names->pdata);
    if (near)
        fprintf(stderr, "%s: there is no option --%s; did you mean --%s?\n", g_get_prgname(), name,
                near);
    else
        fprintf(stderr, "%s: there is no option --%s: see %s --help\n", g_get_prgname(), name,
                g_get_prgname());
    g_ptr_array_free(names, TRUE);
}

bool cli_options(int *argc, char ***argv, const GOptionEntry *entries, const char *parameters,
                 const char *description, int positional)
{
    if (collected) {
        collect(entries, parameters, description);
        return false;
    }
    GError *error = NULL;
    GOptionContext *context = g_option_context_new(parameters);
    g_option_context_set_description(context, description);
    g_option_context_add_main_entries(context, entries, NULL);
    char **given = g_strdupv(*argv), *unknown = NULL;
    bool ok = g_option_context_parse(context, argc, argv, &error);
    if (ok && positional >= 0 && *argc != positional + 1) {
        ok = false;
        fprintf(stderr, "%s: expected %s\n", g_get_prgname(), parameters);
    } else if (!ok) {
        if (g_error_matches(error, G_OPTION_ERROR, G_OPTION_ERROR_UNKNOWN_OPTION))
            unknown = unknown_option(given + 1, entries);
        if (unknown)
            say_unknown(unknown, entries);
        else
            fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
    }
    g_free(unknown);
    g_strfreev(given);
    g_option_context_free(context);
    return ok;
}

bool cli_choice(const char *option, const char *choice, const char *word)
{
    char **words = g_strsplit(choice, "|", -1);
    bool is = g_strv_contains((const char *const *)words, word);
    if (!is) {
        char *all = g_strjoinv(", ", words), *last = strrchr(all, ','),
             *near = lex_did_you_mean(word, (const char *const *)words);
        fprintf(stderr, "%s: %s takes %.*s or%s, not '%s'%s\n", g_get_prgname(), option,
                (int)(last - all), all, last + 1, word, near);
        g_free(near);
        g_free(all);
    }
    g_strfreev(words);
    return is;
}
