/* Clients of an endpoint: what they send, and what waits for them.
 * Descriptors do not block; whoever does not read loses bytes, and is told of.
 * How one is opened is in terminal.c, socket.c and host/web. */
#include "endpoint/parts.h"

#include <errno.h>
#include <glib-object.h>
#include <glib-unix.h>
#include <glib/gstdio.h>
#include <string.h>
#include <unistd.h>

struct endpoint *endpoint_new(struct endpoint_calls calls, bool packets)
{
    struct endpoint *endpoint = g_new0(struct endpoint, 1);
    endpoint->calls = calls;
    endpoint->packets = packets;
    endpoint->seen = -1;
    endpoint->clients = g_ptr_array_new();
    return endpoint;
}

void endpoint_tell(const struct endpoint *endpoint, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    if (endpoint->calls.told) endpoint->calls.told(endpoint->calls.user, text);
    g_free(text);
}

bool endpoint_is_free(const char *path, GError **error)
{
    GStatBuf is;
    if (g_lstat(path, &is) != 0) return true;
    bool dead = S_ISLNK(is.st_mode) && !g_file_test(path, G_FILE_TEST_EXISTS);
    if (dead && g_unlink(path) == 0) return true; /* of one that was killed */
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_EXIST, "%s exists already", path);
    return false;
}

/* ---- one client ---- */

static void forget(struct client *client)
{
    if (client->reads) g_source_remove(client->reads);
    if (client->writes) g_source_remove(client->writes);
    if (client->leaves) g_source_remove(client->leaves);
    if (client->flushes) g_source_remove(client->flushes);
    if (client->way) client->way->close(client);
    g_byte_array_free(client->waits, TRUE);
    g_byte_array_free(client->begun, TRUE);
    if (client->keeps)
        g_object_unref(client->keeps);
    else
        close(client->fd);
    g_free(client);
}

unsigned endpoint_count(const struct endpoint *endpoint)
{
    unsigned count = 0;
    for (unsigned i = 0; i < endpoint->clients->len; i++)
        count += !((struct client *)endpoint->clients->pdata[i])->leaves;
    return count;
}

static void tell_clients(const struct endpoint *endpoint)
{
    if (!endpoint->stays) endpoint->calls.clients(endpoint->calls.user, endpoint_count(endpoint));
}

bool endpoint_has_place(struct endpoint *endpoint)
{
    bool full = endpoint_count(endpoint) >= ENDPOINT_CLIENTS ||
                endpoint->clients->len >= 4 * ENDPOINT_CLIENTS;
    if (full && !endpoint->full)
        endpoint_tell(endpoint, "%u are connected already: more are refused", ENDPOINT_CLIENTS);
    endpoint->full = full;
    return !full;
}

void endpoint_gone(struct client *client)
{
    struct endpoint *endpoint = client->of;
    bool told = client->leaves != 0;
    if (endpoint->stays) return;
    g_ptr_array_remove(endpoint->clients, client);
    forget(client);
    if (!told) tell_clients(endpoint);
}

static gboolean on_left(gpointer user)
{
    struct client *client = user;
    client->leaves = 0;
    g_ptr_array_remove(client->of->clients, client);
    forget(client);
    return G_SOURCE_REMOVE;
}

/* It has closed its side, or all: a socket does not tell which. */
static void leaves(struct client *client)
{
    if (client->of->stays) return;
    client->leaves = g_timeout_add(ENDPOINT_LINGERS_MS, on_left, client);
    tell_clients(client->of);
}

/* All packets that are whole by now. False: it sends none that there are. */
static bool take_packets(struct client *client)
{
    GByteArray *begun = client->begun;
    for (;;) {
        guint n = begun->len < 2 ? 0 : begun->data[0] * 256u + begun->data[1];
        if (begun->len >= 2 && (!n || n > ENDPOINT_PACKET)) {
            endpoint_tell(client->of, "a packet of %u bytes: 1 to %u are possible; it is hung up",
                          n, ENDPOINT_PACKET);
            return false;
        }
        if (!n || begun->len < n + 2) return true;
        client->of->calls.packet(client->of->calls.user, begun->data + 2, n);
        g_byte_array_remove_range(begun, 0, n + 2);
    }
}

static gboolean on_readable(gint fd, GIOCondition condition, gpointer user)
{
    struct client *client = user;
    struct endpoint *endpoint = client->of;
    guint8 bytes[1024];
    size_t room = MIN(endpoint->calls.room(endpoint->calls.user), sizeof bytes);
    (void)condition;
    if (!room) { /* it waits: endpoint_go_on() */
        client->reads = 0;
        return G_SOURCE_REMOVE;
    }
    ssize_t n = read(fd, bytes, room);
    if (n < 0 && (errno == EAGAIN || errno == EINTR)) return G_SOURCE_CONTINUE;
    if (n <= 0) {
        client->reads = 0;
        n ? endpoint_gone(client) : leaves(client);
        return G_SOURCE_REMOVE;
    }
    if (!endpoint->packets) {
        endpoint->calls.came(endpoint->calls.user, bytes, (size_t)n);
        return G_SOURCE_CONTINUE;
    }
    g_byte_array_append(client->begun, bytes, (guint)n);
    if (take_packets(client)) return G_SOURCE_CONTINUE;
    client->reads = 0;
    endpoint_gone(client);
    return G_SOURCE_REMOVE;
}

static void listen_to(struct client *client)
{
    if (client->way)
        client->way->go_on(client);
    else if (!client->reads && !client->leaves)
        client->reads =
            g_unix_fd_add(client->fd, G_IO_IN | G_IO_HUP | G_IO_ERR, on_readable, client);
}

void endpoint_take(struct client *client)
{
    const struct endpoint_calls *calls = &client->of->calls;
    size_t n;
    while ((n = MIN(calls->room(calls->user), client->begun->len)) > 0) {
        guint8 *bytes = g_memdup2(client->begun->data, n);
        g_byte_array_remove_range(client->begun, 0, (guint)n);
        calls->came(calls->user, bytes, n);
        g_free(bytes);
    }
}

static struct client *add(struct endpoint *endpoint, struct client is)
{
    struct client *client = g_new(struct client, 1);
    *client = is;
    client->of = endpoint;
    client->waits = g_byte_array_new();
    client->begun = g_byte_array_new();
    g_ptr_array_add(endpoint->clients, client);
    return client;
}

struct client *endpoint_add(struct endpoint *endpoint, int fd, void *keeps)
{
    struct client *client = add(endpoint, (struct client){.fd = fd, .keeps = keeps});
    g_unix_set_fd_nonblocking(fd, TRUE, NULL);
    listen_to(client);
    tell_clients(endpoint);
    return client;
}

struct client *endpoint_add_way(struct endpoint *endpoint, const struct client_way *way,
                                void *keeps)
{
    struct client *client = add(endpoint, (struct client){.fd = -1, .way = way, .keeps = keeps});
    tell_clients(endpoint);
    return client;
}

/* ---- what goes out ---- */

static gboolean on_writable(gint fd, GIOCondition condition, gpointer user)
{
    struct client *client = user;
    (void)condition;
    ssize_t n = write(fd, client->waits->data, client->waits->len);
    if (n < 0 && (errno == EAGAIN || errno == EINTR)) return G_SOURCE_CONTINUE;
    if (n < 0) {
        client->writes = 0;
        g_byte_array_set_size(client->waits, 0);
        endpoint_gone(client);
        return G_SOURCE_REMOVE;
    }
    g_byte_array_remove_range(client->waits, 0, (guint)n);
    if (client->waits->len) return G_SOURCE_CONTINUE;
    client->writes = 0;
    return G_SOURCE_REMOVE;
}

static void send_to(struct client *client, const guint8 *bytes, size_t count)
{
    bool stays = client->of->stays; /* nobody knows whether somebody is there */
    if (client->waits->len + count > (stays ? ENDPOINT_KEEPS : ENDPOINT_WAITS)) {
        if (!client->lost && !stays)
            endpoint_tell(client->of, "somebody does not read: what comes now is lost to him");
        client->lost += count;
        return;
    }
    client->lost = 0;
    if (client->way) {
        client->way->send(client, bytes, count);
        return;
    }
    if (client->of->packets) {
        const guint8 length[] = {(guint8)(count / 256), (guint8)count};
        g_byte_array_append(client->waits, length, sizeof length);
    }
    g_byte_array_append(client->waits, bytes, (guint)count);
    if (!client->writes) client->writes = g_unix_fd_add(client->fd, G_IO_OUT, on_writable, client);
}

void endpoint_send(struct endpoint *endpoint, const guint8 *bytes, size_t count)
{
    for (unsigned i = 0; i < endpoint->clients->len; i++)
        send_to(endpoint->clients->pdata[i], bytes, count);
}

void endpoint_go_on(struct endpoint *endpoint)
{
    for (unsigned i = 0; i < endpoint->clients->len; i++) listen_to(endpoint->clients->pdata[i]);
}

const char *endpoint_where(const struct endpoint *endpoint)
{
    return endpoint->where;
}

/* What still waits is written as far as it goes. */
static void last_bytes(const struct client *client)
{
    if (!client->way && client->waits->len &&
        write(client->fd, client->waits->data, client->waits->len) < 0)
        return;
}

void endpoint_free(struct endpoint *endpoint)
{
    if (!endpoint) return;
    if (endpoint->close) endpoint->close(endpoint);
    for (unsigned i = 0; i < endpoint->clients->len; i++) {
        last_bytes(endpoint->clients->pdata[i]);
        forget(endpoint->clients->pdata[i]);
    }
    g_ptr_array_free(endpoint->clients, TRUE);
    if (endpoint->path) g_unlink(endpoint->path);
    if (endpoint->seen >= 0) close(endpoint->seen);
    g_free(endpoint->path);
    g_free(endpoint->where);
    g_free(endpoint);
}
