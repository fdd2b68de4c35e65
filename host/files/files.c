/* Reads and writes whole files for all of the host side.
 * A regular file is written beside its place and then moved there; a device like /dev/stdout is
 * written to.
 * It never leaves half a file. */
#include "files/files.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <stdio.h>

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
    if (g_stat(name, &is) == 0 && !S_ISREG(is.st_mode))
        return write_through(name, text, count, error);
    return g_file_set_contents(name, text, (gssize)count, error);
}

bool files_read(const char *name, size_t most, char **text, size_t *size, GError **error)
{
    FILE *file = fopen(name, "rb");
    GString *bytes = g_string_new(NULL);
    char some[65536];
    size_t n;
    while (file && bytes->len <= most &&
           (n = fread(some, 1, MIN(sizeof some, most + 1 - bytes->len), file)) > 0)
        g_string_append_len(bytes, some, (gssize)n);
    bool ok = file && !ferror(file);
    if (!ok)
        g_set_error(error, G_FILE_ERROR, (int)g_file_error_from_errno(errno), "%s: %s", name,
                    g_strerror(errno));
    if (file) fclose(file);
    *size = bytes->len;
    *text = g_string_free(bytes, !ok);
    return ok;
}
