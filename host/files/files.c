/* Reads and writes whole files for all of the host side.
 * A regular file is written beside its place and then moved there; a device like /dev/stdout is
 * written to.
 * It never leaves half a file. */
#include "files/files.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>

static bool is_standard(const char *name)
{
    return !strcmp(name, "-");
}

const char *files_shown(const char *name)
{
    return is_standard(name) ? "standard input" : name;
}

static bool print(const char *text, size_t count, GError **error)
{
    if (fwrite(text, 1, count, stdout) == count && fflush(stdout) == 0) return true;
    g_set_error(error, G_FILE_ERROR, (int)g_file_error_from_errno(errno), "standard output: %s",
                g_strerror(errno));
    return false;
}

static bool write_through(const char *name, const char *text, size_t count, GError **error)
{
    FILE *file = fopen(name, "w");
    bool ok = file && fwrite(text, 1, count, file) == count;
    int why = errno;
    if (file && fclose(file) != 0 && ok) ok = false, why = errno;
    if (!ok)
        g_set_error(error, G_FILE_ERROR, (int)g_file_error_from_errno(why), "%s: %s", name,
                    g_strerror(why));
    return ok;
}

bool files_write(const char *name, const char *text, size_t count, GError **error)
{
    GStatBuf is;
    if (is_standard(name)) return print(text, count, error);
    if (g_stat(name, &is) == 0 && !S_ISREG(is.st_mode))
        return write_through(name, text, count, error);
    GError *own = NULL;
    if (g_file_set_contents(name, text, (gssize)count, &own)) return true;
    const char *why = g_strrstr(own->message, ": "); /* GLib has the name of a temporary one */
    g_set_error(error, own->domain, own->code, "%s%s", name, why ? why : "");
    g_error_free(own);
    return false;
}

bool files_read(const char *name, size_t most, char **text, size_t *size, GError **error)
{
    FILE *file = is_standard(name) ? stdin : fopen(name, "rb");
    GString *bytes = g_string_new(NULL);
    char some[65536];
    size_t n;
    while (file && bytes->len <= most &&
           (n = fread(some, 1, MIN(sizeof some, most + 1 - bytes->len), file)) > 0)
        g_string_append_len(bytes, some, (gssize)n);
    bool ok = file && !ferror(file);
    if (!ok)
        g_set_error(error, G_FILE_ERROR, (int)g_file_error_from_errno(errno), "%s: %s",
                    files_shown(name), g_strerror(errno));
    if (file && file != stdin) fclose(file);
    *size = bytes->len;
    *text = g_string_free(bytes, !ok);
    return ok;
}
