/* Options of the verbs: read from the command line, or collected as a table for pages and shells.
 */
#ifndef OPTIONS_H
#define OPTIONS_H

#include <glib.h>
#include <stdbool.h>

/* What one verb takes. `values` of an option (its arg_description) are FILE, PROGRAM, DIR, FOLDER
 * or PATH for what is found in the file system, words joined by | where there is a choice, and else
 * a name in capitals. */
struct cli_usage {
    const char *verb, *parameters, *description;
    GArray *entries; /* of GOptionEntry */
};

/* From now on cli_options() adds what it is given to this array of struct cli_usage, and returns
 * false. NULL: no longer. */
void cli_options_collect(GArray *usages);

/* Reads the options; false (after a message) unless `positional` words are left (-1: any number).
 */
bool cli_options(int *argc, char ***argv, const GOptionEntry *entries, const char *parameters,
                 const char *description, int positional);

/* Whether `word` is one of a choice of two and more like "png|svg"; false after a message that
 * names the option. */
bool cli_choice(const char *option, const char *choice, const char *word);

#endif
