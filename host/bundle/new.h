/* A new project around a lexicon: builds and runs at once, and needs nothing but the tool and a
 * compiler. */
#ifndef NEW_H
#define NEW_H

#include <glib.h>
#include <stdbool.h>

struct new_options {
    bool make;        /* a Makefile; otherwise for CMake */
    const char *chip; /* one of BUNDLE_PORTS: also for that; NULL: only the simulated port */
};

/* Makes the folder with its files; its last part is the project's name. False: error is set, and
 * nothing was written. */
bool new_project(const char *folder, const struct new_options *options, GError **error);
/* Why this can be no project's name; NULL: it can. */
const char *new_why_not(const char *name);

#endif
