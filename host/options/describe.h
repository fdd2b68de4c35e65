/* What the verbs take, as manual pages, shell completions and editor grammars. */
#ifndef DESCRIBE_H
#define DESCRIBE_H

#include <glib.h>
#include <stdbool.h>

#include "options/options.h"

struct describe_verb {
    const char *name, *what;
    GArray *usages; /* struct cli_usage, one */
};

/* Writes all of them into this folder, which is made where there is none. False: *error. */
bool describe_write(const char *folder, const struct describe_verb *verbs, unsigned count,
                    const char *version, GError **error);

/* pages.c: rlx.1 where verb is NULL. All texts are owned by the caller. */
char *describe_page(const struct describe_verb *verbs, unsigned count,
                    const struct describe_verb *verb, const char *version);
/* shells.c */
char *describe_bash(const struct describe_verb *verbs, unsigned count);
char *describe_zsh(const struct describe_verb *verbs, unsigned count);
char *describe_fish(const struct describe_verb *verbs, unsigned count);

/* The first, the second... option of a verb; NULL behind the last. */
const GOptionEntry *describe_option(const struct describe_verb *verb, unsigned i);
const char *describe_parameters(const struct describe_verb *verb);

/* grammars.c: adds an editor's grammar of each language, and what its extension needs. */
bool describe_grammars(const char *folder, const char *version, GError **error);

#endif
