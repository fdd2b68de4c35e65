/* A pseudo-terminal (POSIX.1-2008) as a link's other end: any terminal program opens it.
 * The other side is kept open, so that one may come and go.
 * Its rate is that of the link until somebody sets another one. */
#include "endpoint/parts.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

static const struct {
    speed_t is;
    unsigned baud;
} rates[] = {{B50, 50},         {B75, 75},         {B110, 110},       {B134, 134},
             {B150, 150},       {B200, 200},       {B300, 300},       {B600, 600},
             {B1200, 1200},     {B1800, 1800},     {B2400, 2400},     {B4800, 4800},
             {B9600, 9600},     {B19200, 19200},   {B38400, 38400},   {B57600, 57600},
             {B115200, 115200}, {B230400, 230400}, {B460800, 460800}, {B921600, 921600}};

unsigned endpoint_baud(const struct endpoint *endpoint)
{
    struct termios is;
    if (endpoint->seen < 0 || tcgetattr(endpoint->seen, &is) != 0) return 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(rates); i++)
        if (rates[i].is == cfgetospeed(&is)) return rates[i].baud;
    return 0;
}

bool endpoint_prepare(int fd, unsigned baud)
{
    struct termios is;
    if (tcgetattr(fd, &is) != 0) return false;
    cfmakeraw(&is);
    for (unsigned i = 0; i < G_N_ELEMENTS(rates); i++)
        if (rates[i].baud == baud) cfsetspeed(&is, rates[i].is);
    return tcsetattr(fd, TCSANOW, &is) == 0;
}

static bool fails(struct endpoint *endpoint, const char *what, const char *path, GError **error)
{
    g_set_error(error, G_FILE_ERROR, (gint)g_file_error_from_errno(errno), "%s%s%s: %s", what,
                path ? " " : "", path ? path : "", g_strerror(errno));
    endpoint_free(endpoint);
    return false;
}

struct endpoint *endpoint_terminal(const char *path, unsigned baud, struct endpoint_calls calls,
                                   GError **error)
{
    char name[64];
    if (path && !endpoint_is_free(path, error)) return NULL;
    struct endpoint *endpoint = endpoint_new(calls, false);
    int fd = posix_openpt(O_RDWR | O_NOCTTY);
    if (fd < 0 || grantpt(fd) != 0 || unlockpt(fd) != 0 || ptsname_r(fd, name, sizeof name) != 0 ||
        (endpoint->seen = open(name, O_RDWR | O_NOCTTY)) < 0 ||
        !endpoint_prepare(endpoint->seen, baud)) {
        if (fd >= 0) close(fd);
        fails(endpoint, "no pseudo-terminal", NULL, error);
        return NULL;
    }
    endpoint->stays = true;
    endpoint_add(endpoint, fd, NULL);
    if (path && symlink(name, path) != 0) {
        fails(endpoint, "cannot make", path, error);
        return NULL;
    }
    endpoint->path = g_strdup(path);
    endpoint->where = path ? g_strdup_printf("%s (%s)", path, name) : g_strdup(name);
    return endpoint;
}
