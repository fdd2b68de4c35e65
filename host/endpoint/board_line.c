/* Opens the line to a real board and carries its bytes.
 * A serial device by libserialport, a pseudo-terminal by POSIX, sockets by GIO; all are read by
 * poll(). What the bytes mean, and how fast they may go, is decided in the world. */
#include "endpoint/board_line.h"

#include <errno.h>
#include <fcntl.h>
#include <gio/gio.h>
#include <gio/gunixsocketaddress.h>
#include <glib/gstdio.h>
#include <libserialport.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <string.h>
#include <sys/file.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "endpoint/parts.h"

#define GIVE_MS  1000   /* one who takes nothing for so long is gone */
#define RESET_US 100000 /* the line is held so long */
#define NO_BYTES 0      /* of poll() */

static const char closed[] = "it was closed or unplugged";

struct board_line {
    struct board_line_options options;
    struct outside_line outside;
    struct sp_port *port;          /* of a serial device... */
    GSocketConnection *connection; /* ...of a socket; both NULL: a pseudo-terminal */
    int fd;
    char *where, *failure;
};

static void line_fails(struct board_line *line, const char *what)
{
    if (!line->failure) line->failure = g_strdup_printf("%s: %s", line->where, what);
}

/* ---- bytes ---- */

static bool give(void *user, const uint8_t *bytes, size_t count)
{
    struct board_line *line = user;
    while (count && !line->failure) {
        struct pollfd out = {.fd = line->fd, .events = POLLOUT};
        ssize_t n = write(line->fd, bytes, count);
        if (n > 0) {
            bytes += n;
            count -= (size_t)n;
        } else if (n < 0 && errno != EAGAIN && errno != EINTR) {
            line_fails(line, g_strerror(errno));
        } else if (poll(&out, 1, GIVE_MS) == NO_BYTES) {
            line_fails(line, "it takes no bytes");
        }
    }
    return !line->failure;
}

static size_t take(void *user, uint8_t *bytes, size_t most, uint64_t us)
{
    struct board_line *line = user;
    struct timespec wait = {(time_t)(us / 1000000), (long)(us % 1000000) * 1000};
    struct pollfd in = {.fd = line->fd, .events = POLLIN};
    if (line->failure) {
        if (us) g_usleep(us);
        return 0;
    }
    if (ppoll(&in, 1, &wait, NULL) <= 0) return 0;
    ssize_t n = read(line->fd, bytes, most);
    if (n == 0) line_fails(line, closed);
    if (n < 0 && errno != EAGAIN && errno != EINTR)
        line_fails(line, errno == EIO ? closed : g_strerror(errno));
    return n > 0 ? (size_t)n : 0;
}

static const char *failure(void *user)
{
    return ((const struct board_line *)user)->failure;
}

/* ---- reset ---- */

static bool pull(struct board_line *line)
{
    bool dtr = line->options.reset == BOARD_DTR;
    enum sp_return on = dtr ? sp_set_dtr(line->port, SP_DTR_ON) : sp_set_rts(line->port, SP_RTS_ON);
    g_usleep(RESET_US);
    enum sp_return off =
        dtr ? sp_set_dtr(line->port, SP_DTR_OFF) : sp_set_rts(line->port, SP_RTS_OFF);
    return on == SP_OK && off == SP_OK;
}

static bool reset(void *user)
{
    struct board_line *line = user;
    bool done = false;
    switch (line->options.reset) {
    case BOARD_NO_RESET: break;
    case BOARD_DTR:
    case BOARD_RTS: done = pull(line); break;
    case BOARD_ASK: done = line->options.ask(); break;
    case BOARD_COMMAND: {
        const char *const command[] = {"/bin/sh", "-c", line->options.command, NULL};
        int status = 0;
        done = g_spawn_sync(NULL, (char **)command, NULL, G_SPAWN_STDOUT_TO_DEV_NULL, NULL, NULL,
                            NULL, NULL, &status, NULL) &&
               WIFEXITED(status) && WEXITSTATUS(status) == 0;
        break;
    }
    }
    if (!done) line_fails(line, "it cannot be reset");
    return done;
}

/* ---- open ---- */

static bool refuse(GError **error, const char *format, ...) G_GNUC_PRINTF(2, 3);
static bool refuse(GError **error, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    g_set_error_literal(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, text);
    g_free(text);
    return false;
}

static bool connects(struct board_line *line, GSocketConnectable *to, GError **error)
{
    GSocketClient *client = g_socket_client_new();
    g_socket_client_set_enable_proxy(client, FALSE);
    line->connection = g_socket_client_connect(client, to, NULL, error);
    g_object_unref(client);
    if (!line->connection) {
        g_prefix_error(error, "%s: ", line->where);
        return false;
    }
    GSocket *socket = g_socket_connection_get_socket(line->connection);
    if (g_socket_get_family(socket) != G_SOCKET_FAMILY_UNIX)
        g_socket_set_option(socket, IPPROTO_TCP, TCP_NODELAY, 1, NULL);
    line->fd = g_socket_get_fd(socket);
    return true;
}

static bool open_socket(struct board_line *line, const char *path, GError **error)
{
    GSocketAddress *address = g_unix_socket_address_new(path);
    bool ok = connects(line, G_SOCKET_CONNECTABLE(address), error);
    g_object_unref(address);
    return ok;
}

static bool open_tcp(struct board_line *line, const char *address, GError **error)
{
    GSocketAddress *to = endpoint_address(address, line->options.anywhere, error);
    bool ok = to && connects(line, G_SOCKET_CONNECTABLE(to), error);
    if (to) g_object_unref(to);
    return ok;
}

static const enum sp_parity parities[] = {[LEX_PARITY_NONE] = SP_PARITY_NONE,
                                          [LEX_PARITY_EVEN] = SP_PARITY_EVEN,
                                          [LEX_PARITY_ODD] = SP_PARITY_ODD};

static bool configure(struct board_line *line, const struct lex_link *link, GError **error)
{
    struct sp_port_config *is = NULL;
    struct lex_format format = link->format;
    if (!format.data) format = (struct lex_format){8, 1, LEX_PARITY_NONE, false};
    if (format.inverted)
        return refuse(error,
                      "%s: a serial device of this computer cannot invert its line: put an "
                      "inverter before it, and leave 'inverted' out",
                      line->where);
    bool ok = sp_new_config(&is) == SP_OK && sp_set_config_baudrate(is, (int)link->baud) == SP_OK &&
              sp_set_config_bits(is, format.data) == SP_OK &&
              sp_set_config_stopbits(is, format.stop) == SP_OK &&
              sp_set_config_parity(is, parities[format.parity]) == SP_OK &&
              sp_set_config_flowcontrol(is, SP_FLOWCONTROL_NONE) == SP_OK &&
              sp_set_config(line->port, is) == SP_OK;
    if (is) sp_free_config(is);
    return ok || refuse(error, "%s: it cannot be set to %u baud, %u data and %u stop bits",
                        line->where, link->baud, format.data, format.stop);
}

/* One program at a time: two would take the answers from each other. */
static bool lock(struct board_line *line, GError **error)
{
    if (flock(line->fd, LOCK_EX | LOCK_NB) == 0 || errno != EWOULDBLOCK) return true;
    return refuse(error, "%s: another program has it open", line->where);
}

static bool open_device(struct board_line *line, const char *name, const struct lex_link *link,
                        GError **error)
{
    if (sp_get_port_by_name(name, &line->port) != SP_OK) return false;
    if (sp_open(line->port, SP_MODE_READ_WRITE) != SP_OK) {
        char *why = sp_last_error_message();
        refuse(error, "%s: it cannot be opened: %s", line->where, why);
        sp_free_error_message(why);
        return false;
    }
    return sp_get_port_handle(line->port, &line->fd) == SP_OK && lock(line, error) &&
           configure(line, link, error);
}

/* What libserialport does not know as a device, and is a terminal: a pseudo-terminal. */
static bool open_terminal(struct board_line *line, const char *name, const struct lex_link *link,
                          GError **error)
{
    line->fd = open(name, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (line->fd < 0) return refuse(error, "%s: %s", line->where, g_strerror(errno));
    if (!isatty(line->fd))
        return refuse(error, "%s: it is no serial device, no terminal and no socket", line->where);
    if (!endpoint_prepare(line->fd, link->baud))
        return refuse(error, "%s: %s", line->where, g_strerror(errno));
    return lock(line, error);
}

static bool open_path(struct board_line *line, const char *path, const struct lex_link *link,
                      GError **error)
{
    GStatBuf is;
    char *real = g_stat(path, &is) == 0 ? realpath(path, NULL) : NULL;
    if (!real) return refuse(error, "%s: %s", path, g_strerror(errno));
    GError *why = NULL;
    bool ok =
        S_ISSOCK(is.st_mode) ? open_socket(line, path, &why) : open_device(line, real, link, &why);
    if (!ok && !why) ok = open_terminal(line, real, link, &why);
    if (why) g_propagate_error(error, why);
    free(real);
    return ok;
}

struct board_line *board_line_open(const char *where, const struct lex_link *link,
                                   const struct board_line_options *options, GError **error)
{
    struct board_line *line = g_new0(struct board_line, 1);
    line->options = *options;
    line->where = g_strdup(where);
    line->fd = -1;
    line->outside = (struct outside_line){line,
                                          give,
                                          take,
                                          failure,
                                          options->reset == BOARD_NO_RESET ? NULL : reset,
                                          options->reset == BOARD_ASK};
    bool ok = g_str_has_prefix(where, "tcp:")    ? open_tcp(line, where + 4, error)
              : g_str_has_prefix(where, "unix:") ? open_socket(line, where + 5, error)
                                                 : open_path(line, where, link, error);
    bool lines = options->reset == BOARD_DTR || options->reset == BOARD_RTS;
    if (ok && lines && !line->port)
        ok = refuse(error, "%s: only a serial device has the lines DTR and RTS", where);
    if (ok) return line;
    board_line_free(line);
    return NULL;
}

void board_line_free(struct board_line *line)
{
    if (!line) return;
    if (line->port) {
        sp_close(line->port);
        sp_free_port(line->port);
    } else if (line->connection) {
        g_object_unref(line->connection);
    } else if (line->fd >= 0) {
        close(line->fd);
    }
    g_free(line->where);
    g_free(line->failure);
    g_free(line);
}

const struct outside_line *board_line_outside(struct board_line *line)
{
    return &line->outside;
}

int board_line_fd(const struct board_line *line)
{
    return line->fd;
}

const char *board_line_where(const struct board_line *line)
{
    return line->where;
}
