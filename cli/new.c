/* Makes a new project: a lexicon to change, a firmware, a scene, and what builds and tests them.
 * The files come from host/bundle.
 * It writes over nothing. */
#include "bundle/bundle.h"
#include "bundle/new.h"

#include <stdio.h>
#include <string.h>

#include "rlx_cli.h"

int verb_new(int argc, char **argv)
{
    g_autofree char *chip = NULL;
    gboolean make = FALSE, cmake = FALSE;
    const GOptionEntry entries[] = {
        {"cmake", 0, 0, G_OPTION_ARG_NONE, &cmake,
         "a project for CMake; so it is where neither is given", NULL},
        {"make", 0, 0, G_OPTION_ARG_NONE, &make, "a Makefile instead", NULL},
        {"for", 0, 0, G_OPTION_ARG_STRING, &chip,
         "sim: the simulated port alone; else for that chip, too", BUNDLE_PORTS},
        {0}};
    GError *error = NULL;
    if (!cli_options(
            &argc, &argv, entries, "DIR",
            "Makes a project that builds and runs at once: a lexicon to change, a "
            "firmware, a scene, a build\nfile, and a script for a CI machine. It needs "
            "this tool and a compiler, and nothing else.\n\n"
            "Example:\n  rlx new tank && cd tank && cmake -B build && cmake --build build\n",
            1))
        return 2;
    if (chip && !cli_choice("--for", BUNDLE_PORTS, chip)) return 2;
    if (make && cmake) {
        fprintf(stderr, "%s: --cmake or --make, not both\n", g_get_prgname());
        return 2;
    }
    struct new_options options = {make, chip && strcmp(chip, "sim") != 0 ? chip : NULL};
    if (!new_project(argv[1], &options, &error)) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_error_free(error);
        return 2;
    }
    char *name = g_path_get_basename(argv[1]);
    printf("%s: a project. Next:\n  cd %s\n  %s\n  rlx talk --firmware build/%s %s.lexicon\n"
           "  rlx drill --firmware build/%s %s.lexicon\n",
           argv[1], argv[1], make ? "make" : "cmake -B build && cmake --build build", name, name,
           name, name);
    g_free(name);
    return 0;
}
