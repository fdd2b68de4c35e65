/* Writes what other programs need to know of the tool's options and languages.
 * One folder, a file each.
 * The texts are made in pages.c, shells.c and grammars.c. */
#include "options/describe.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <string.h>

#include "files/files.h"

const GOptionEntry *describe_option(const struct describe_verb *verb, unsigned i)
{
    const struct cli_usage *usage = &g_array_index(verb->usages, struct cli_usage, 0);
    return i < usage->entries->len ? &g_array_index(usage->entries, GOptionEntry, i) : NULL;
}

const char *describe_parameters(const struct describe_verb *verb)
{
    return g_array_index(verb->usages, struct cli_usage, 0).parameters;
}

/* Takes the text. */
static bool put(const char *folder, const char *name, char *text, GError **error)
{
    char *path = g_build_filename(folder, name, NULL);
    bool ok = files_write(path, text, strlen(text), error);
    g_free(path);
    g_free(text);
    return ok;
}

bool describe_write(const char *folder, const struct describe_verb *verbs, unsigned count,
                    const char *version, GError **error)
{
    if (g_mkdir_with_parents(folder, 0777) != 0) {
        g_set_error(error, G_FILE_ERROR, (int)g_file_error_from_errno(errno), "%s: %s", folder,
                    g_strerror(errno));
        return false;
    }
    bool ok = put(folder, "rlx.1", describe_page(verbs, count, NULL, version), error);
    for (unsigned i = 0; ok && i < count; i++) {
        char *name = g_strdup_printf("rlx-%s.1", verbs[i].name);
        ok = put(folder, name, describe_page(verbs, count, &verbs[i], version), error);
        g_free(name);
    }
    return ok && put(folder, "rlx.bash", describe_bash(verbs, count), error) &&
           put(folder, "_rlx", describe_zsh(verbs, count), error) &&
           put(folder, "rlx.fish", describe_fish(verbs, count), error) &&
           describe_grammars(folder, version, error);
}
