/* TCP ports and sockets in the file system, by the socket service of GIO.
 * Only this machine's own addresses are listened on, unless somebody says otherwise.
 * What the clients send is in endpoint.c. */
#include <gio/gio.h>
#include <gio/gunixsocketaddress.h>
#include <glib/gstdio.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <string.h>

#include "endpoint/parts.h"

#define BACKLOG 1024 /* who comes in a crowd does not wait a second for the next try */

static gboolean on_incoming(GSocketService *service, GSocketConnection *connection, GObject *source,
                            gpointer user)
{
    struct endpoint *endpoint = user;
    (void)service, (void)source;
    if (!endpoint_has_place(endpoint)) return TRUE;
    GSocket *socket = g_socket_connection_get_socket(connection);
    if (g_socket_get_family(socket) != G_SOCKET_FAMILY_UNIX)
        g_socket_set_option(socket, IPPROTO_TCP, TCP_NODELAY, 1, NULL);
    endpoint_add(endpoint, g_socket_get_fd(socket), g_object_ref(connection));
    return TRUE;
}

static void close_service(struct endpoint *endpoint)
{
    g_socket_service_stop(endpoint->listener);
    g_socket_listener_close(endpoint->listener);
    g_object_unref(endpoint->listener);
}

/* NULL: somebody listens there already, or it may not be. */
static GSocketService *service_at(GSocketAddress *address, GSocketAddress **effective,
                                  GError **error)
{
    GSocketService *service = g_socket_service_new();
    g_socket_listener_set_backlog(G_SOCKET_LISTENER(service), BACKLOG);
    if (g_socket_listener_add_address(G_SOCKET_LISTENER(service), address, G_SOCKET_TYPE_STREAM,
                                      G_SOCKET_PROTOCOL_DEFAULT, NULL, effective, error))
        return service;
    g_object_unref(service);
    return NULL;
}

static struct endpoint *begin(GSocketService *service, bool packets, struct endpoint_calls calls)
{
    struct endpoint *endpoint = endpoint_new(calls, packets);
    endpoint->listener = service;
    endpoint->close = close_service;
    g_signal_connect(service, "incoming", G_CALLBACK(on_incoming), endpoint);
    g_socket_service_start(service);
    return endpoint;
}

GSocketAddress *endpoint_address(const char *text, bool anywhere, GError **error)
{
    const char *colon = strrchr(text, ':'), *digits = colon ? colon + 1 : text;
    guint64 port = 0;
    char *host = colon ? g_strndup(text, (gsize)(colon - text)) : g_strdup("127.0.0.1");
    gsize n = strlen(host);
    if (n > 1 && host[0] == '[' && host[n - 1] == ']') {
        memmove(host, host + 1, n - 2);
        host[n - 2] = 0;
    }
    GInetAddress *inet = g_inet_address_new_from_string(host);
    GSocketAddress *address = NULL;
    if (!g_ascii_string_to_unsigned(digits, 10, 0, 65535, &port, NULL) || !inet)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "'%s': expected a port like 7001, or an address and a port like 127.0.0.1:7001",
                    text);
    else if (!anywhere && !g_inet_address_get_is_loopback(inet))
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "'%s' can be reached from other machines, and anybody there could command: say "
                    "--anywhere where that is meant",
                    text);
    else
        address = g_inet_socket_address_new(inet, (guint16)port);
    if (inet) g_object_unref(inet);
    g_free(host);
    return address;
}

GSocketService *endpoint_listen(const char *text, bool anywhere, char **host, guint *port,
                                GError **error)
{
    GSocketAddress *effective = NULL, *address = endpoint_address(text, anywhere, error);
    if (!address) return NULL;
    GSocketService *service = service_at(address, &effective, error);
    if (service) {
        GInetSocketAddress *inet = G_INET_SOCKET_ADDRESS(effective);
        char *name = g_inet_address_to_string(g_inet_socket_address_get_address(inet));
        *host = strchr(name, ':') ? g_strdup_printf("[%s]", name) : g_strdup(name);
        *port = g_inet_socket_address_get_port(inet);
        g_free(name);
    } else {
        g_prefix_error(error, "%s: ", text);
    }
    if (effective) g_object_unref(effective);
    g_object_unref(address);
    return service;
}

struct endpoint *endpoint_tcp(const char *text, bool anywhere, bool packets,
                              struct endpoint_calls calls, GError **error)
{
    char *host;
    guint port;
    GSocketService *service = endpoint_listen(text, anywhere, &host, &port, error);
    if (!service) return NULL;
    struct endpoint *endpoint = begin(service, packets, calls);
    endpoint->where = g_strdup_printf("%s:%u", host, port);
    g_free(host);
    return endpoint;
}

/* What a dead one left there: nobody answers any more. */
static void clear_dead(const char *path)
{
    GStatBuf is;
    if (g_lstat(path, &is) != 0 || !S_ISSOCK(is.st_mode)) return; /* a file of somebody's */
    GSocketClient *client = g_socket_client_new();
    GSocketAddress *address = g_unix_socket_address_new(path);
    GError *error = NULL;
    GSocketConnection *connection =
        g_socket_client_connect(client, G_SOCKET_CONNECTABLE(address), NULL, &error);
    if (g_error_matches(error, G_IO_ERROR, G_IO_ERROR_CONNECTION_REFUSED)) unlink(path);
    g_clear_error(&error);
    if (connection) g_object_unref(connection);
    g_object_unref(address);
    g_object_unref(client);
}

struct endpoint *endpoint_unix(const char *path, bool packets, struct endpoint_calls calls,
                               GError **error)
{
    clear_dead(path);
    if (!endpoint_is_free(path, error)) return NULL;
    GSocketAddress *address = g_unix_socket_address_new(path);
    GSocketService *service = service_at(address, NULL, error);
    struct endpoint *endpoint = service ? begin(service, packets, calls) : NULL;
    if (endpoint) {
        endpoint->path = g_strdup(path);
        endpoint->where = g_strdup(path);
    } else {
        g_prefix_error(error, "%s: ", path);
    }
    g_object_unref(address);
    return endpoint;
}
