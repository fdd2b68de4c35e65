/* Pages and WebSockets, by libsoup.
 * Each request is looked at before anything else is: where it comes from, whether it has the key.
 * It knows no page and no board. */
#include "endpoint/web.h"

#include <libsoup/soup.h>
#include <string.h>
#include <unistd.h>

#include "endpoint/parts.h"

#define KEY_BYTES 16u
#define ALIVE_S   5u /* a WebSocket is asked so often whether somebody reads */
#define DEAD_S    15u
#define LINKS     "/link/"

struct web {
    SoupServer *server;
    GSocketService *service;
    GHashTable *pages; /* path -> html */
    GHashTable *links; /* name -> struct endpoint * */
    char *where, *key; /* key: "?key=..." */
    guint port;
    bool anywhere, full;
    unsigned *connections; /* counted by those that are open, which may outlive this */
    void (*told)(void *user, const char *text);
    void *user;
};

/* ---- who may ask ---- */

/* NULL: the machine has no random numbers. */
static char *new_key(void)
{
    guint8 bytes[KEY_BYTES];
    if (getentropy(bytes, sizeof bytes) != 0) return NULL;
    GString *key = g_string_new("?key=");
    for (unsigned i = 0; i < KEY_BYTES; i++) g_string_append_printf(key, "%02x", bytes[i]);
    return g_string_free(key, FALSE);
}

/* Takes as long whatever is wrong about it. */
static bool is_key(const struct web *web, const char *given)
{
    const char *key = web->key + strlen("?key=");
    guint8 differs = 0;
    if (!given || strlen(given) != strlen(key)) return false;
    for (gsize i = 0; key[i]; i++) differs |= (guint8)(key[i] ^ given[i]);
    return !differs;
}

/* Whether a name of this machine stands there, with the port: a page that has its own name lead
 * here is not served. */
static bool is_here(const struct web *web, const char *host)
{
    static const char *const names[] = {"127.0.0.1", "localhost", "[::1]"};
    for (unsigned i = 0; host && i < G_N_ELEMENTS(names); i++) {
        char *full = g_strdup_printf("%s:%u", names[i], web->port);
        bool same = !g_ascii_strcasecmp(host, full);
        g_free(full);
        if (same) return true;
    }
    return false;
}

/* A program sends no origin; a page of this server its own. */
static bool is_own(const char *origin, const char *host)
{
    return !origin || (g_str_has_prefix(origin, "http://") && host &&
                       !g_ascii_strcasecmp(origin + strlen("http://"), host));
}

static const char *link_of(const char *path)
{
    return g_str_has_prefix(path, LINKS) ? path + strlen(LINKS) : NULL;
}

static void refuse(SoupServerMessage *message, guint status, const char *why)
{
    soup_server_message_set_status(message, status, NULL);
    soup_server_message_set_response(message, "text/plain; charset=utf-8", SOUP_MEMORY_COPY, why,
                                     strlen(why));
}

static void check(SoupServer *server, SoupServerMessage *message, const char *path,
                  GHashTable *query, gpointer user)
{
    const struct web *web = user;
    SoupMessageHeaders *headers = soup_server_message_get_request_headers(message);
    const char *host = soup_message_headers_get_one(headers, "Host");
    const char *origin = soup_message_headers_get_one(headers, "Origin");
    bool keyed = is_key(web, query ? g_hash_table_lookup(query, "key") : NULL);
    const char *link = link_of(path);
    struct endpoint *endpoint = link ? g_hash_table_lookup(web->links, link) : NULL;
    (void)server;
    if (web->anywhere ? !keyed : !is_here(web, host))
        refuse(message, SOUP_STATUS_FORBIDDEN,
               web->anywhere ? "The address needs its key, as rlx serve prints it.\n"
                             : "This server is for this machine only: http://127.0.0.1:PORT/\n");
    else if (!keyed && !is_own(origin, host))
        refuse(message, SOUP_STATUS_FORBIDDEN,
               "A page from elsewhere needs the key, as rlx serve prints it.\n");
    else if (link && !endpoint)
        refuse(message, SOUP_STATUS_NOT_FOUND, "There is no such link.\n");
    else if (link && !endpoint_has_place(endpoint))
        refuse(message, SOUP_STATUS_SERVICE_UNAVAILABLE, "Too many are connected already.\n");
}

/* ---- pages ---- */

static void serve_page(SoupServer *server, SoupServerMessage *message, const char *path,
                       GHashTable *query, gpointer user)
{
    const struct web *web = user;
    const char *html = g_hash_table_lookup(web->pages, path);
    const char *method = soup_server_message_get_method(message);
    SoupMessageHeaders *headers = soup_server_message_get_response_headers(message);
    (void)server, (void)query;
    if (method != SOUP_METHOD_GET && method != SOUP_METHOD_HEAD) {
        refuse(message, SOUP_STATUS_METHOD_NOT_ALLOWED, "Pages are only read.\n");
        return;
    }
    if (!html) {
        refuse(message, SOUP_STATUS_NOT_FOUND,
               link_of(path) ? "A link is a WebSocket.\n" : "There is no such page.\n");
        return;
    }
    soup_message_headers_append(headers, "Cache-Control", "no-store");
    soup_message_headers_append(headers, "Referrer-Policy", "no-referrer");
    soup_message_headers_append(headers, "X-Content-Type-Options", "nosniff");
    soup_message_headers_append(headers, "X-Frame-Options", "DENY");
    soup_message_headers_append(
        headers, "Content-Security-Policy",
        "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; connect-src *; "
        "base-uri 'none'; form-action 'none'; frame-ancestors 'none'");
    soup_server_message_set_status(message, SOUP_STATUS_OK, NULL);
    soup_server_message_set_response(message, "text/html; charset=utf-8", SOUP_MEMORY_COPY, html,
                                     strlen(html));
}

void web_page(struct web *web, const char *path, const char *html)
{
    g_hash_table_insert(web->pages, g_strdup(path), g_strdup(html));
}

/* ---- WebSockets ---- */

static void send_message(struct client *client, const guint8 *bytes, gsize count)
{
    if (soup_websocket_connection_get_state(client->keeps) != SOUP_WEBSOCKET_STATE_OPEN) return;
    soup_websocket_connection_send_binary(client->keeps, bytes, count);
    client->unheard += count;
}

/* The socket's queue has no bound of its own: one who shows no sign of life is hung up. */
static bool is_dead(const struct client *client)
{
    return client->unheard > ENDPOINT_WAITS &&
           g_get_monotonic_time() - client->heard_us > DEAD_S * G_USEC_PER_SEC;
}

static gboolean on_flush(gpointer user)
{
    struct client *client = user;
    client->flushes = 0;
    if (is_dead(client)) {
        endpoint_tell(client->of, "somebody does not read: he is hung up");
        endpoint_gone(client);
        return G_SOURCE_REMOVE;
    }
    if (client->waits->len) send_message(client, client->waits->data, client->waits->len);
    g_byte_array_set_size(client->waits, 0);
    return G_SOURCE_REMOVE;
}

/* Bytes that come together go as one message; a packet is one. */
static void way_send(struct client *client, const guint8 *bytes, size_t count)
{
    if (client->of->packets)
        send_message(client, bytes, count);
    else
        g_byte_array_append(client->waits, bytes, (guint)count);
    if (!client->flushes) client->flushes = g_idle_add(on_flush, client);
}

static void way_go_on(struct client *client)
{
    if (!client->of->packets) endpoint_take(client);
}

static void way_close(struct client *client)
{
    SoupWebsocketConnection *connection = client->keeps;
    g_signal_handlers_disconnect_by_data(connection, client);
    if (client->waits->len) send_message(client, client->waits->data, client->waits->len);
    if (soup_websocket_connection_get_state(connection) == SOUP_WEBSOCKET_STATE_OPEN)
        soup_websocket_connection_close(connection, SOUP_WEBSOCKET_CLOSE_GOING_AWAY, NULL);
}

static const struct client_way websocket = {way_send, way_go_on, way_close};

static void on_message(SoupWebsocketConnection *connection, gint type, GBytes *message,
                       gpointer user)
{
    struct client *client = user;
    struct endpoint *endpoint = client->of;
    gsize n;
    const guint8 *bytes = g_bytes_get_data(message, &n);
    (void)type, (void)connection;
    if (!endpoint->packets && client->begun->len + n <= ENDPOINT_WAITS) {
        g_byte_array_append(client->begun, bytes, (guint)n);
        endpoint_take(client);
    } else if (endpoint->packets && n && n <= ENDPOINT_PACKET) {
        endpoint->calls.packet(endpoint->calls.user, bytes, n);
    } else {
        if (endpoint->packets)
            endpoint_tell(endpoint,
                          "a packet of %" G_GSIZE_FORMAT
                          " bytes: 1 to %u are possible; it is hung up",
                          n, ENDPOINT_PACKET);
        else
            endpoint_tell(endpoint, "somebody sends faster than the link: he is hung up");
        endpoint_gone(client);
    }
}

static void on_pong(SoupWebsocketConnection *connection, GBytes *message, gpointer user)
{
    struct client *client = user;
    (void)connection, (void)message;
    client->unheard = 0;
    client->heard_us = g_get_monotonic_time();
}

static void on_closed(SoupWebsocketConnection *connection, gpointer user)
{
    (void)connection;
    endpoint_gone(user);
}

static void on_websocket(SoupServer *server, SoupServerMessage *message, const char *path,
                         SoupWebsocketConnection *connection, gpointer user)
{
    const struct web *web = user;
    struct endpoint *endpoint = g_hash_table_lookup(web->links, link_of(path));
    GSocket *socket = soup_server_message_get_socket(message);
    (void)server;
    if (socket) g_socket_set_timeout(socket, 0);
    soup_websocket_connection_set_max_incoming_payload_size(connection, WEB_MESSAGE);
    soup_websocket_connection_set_keepalive_interval(connection, ALIVE_S);
    struct client *client = endpoint_add_way(endpoint, &websocket, g_object_ref(connection));
    client->heard_us = g_get_monotonic_time();
    g_signal_connect(connection, "message", G_CALLBACK(on_message), client);
    g_signal_connect(connection, "pong", G_CALLBACK(on_pong), client);
    g_signal_connect(connection, "closed", G_CALLBACK(on_closed), client);
}

static void close_link(struct endpoint *endpoint)
{
    struct web *web = endpoint->listener;
    const char *link = link_of(strstr(endpoint->where, LINKS));
    g_hash_table_remove(web->links, link);
}

struct endpoint *endpoint_web(struct web *web, const char *name, bool packets,
                              struct endpoint_calls calls)
{
    struct endpoint *endpoint = endpoint_new(calls, packets);
    endpoint->where = g_strdup_printf("ws%.*s" LINKS "%s", (int)(strcspn(web->where, "?") - 5),
                                      web->where + strlen("http"), name);
    endpoint->listener = web;
    endpoint->close = close_link;
    g_hash_table_insert(web->links, g_strdup(name), endpoint);
    return endpoint;
}

/* ---- the server ---- */

static void on_connection_over(gpointer user, GObject *connection)
{
    unsigned *open = user;
    (void)connection;
    --*open;
    g_rc_box_release(open);
}

static gboolean on_connection(GSocketService *service, GSocketConnection *connection,
                              GObject *source, gpointer user)
{
    struct web *web = user;
    bool full = *web->connections >= WEB_CONNECTIONS;
    (void)service, (void)source;
    if (full && !web->full)
        web->told(web->user, "the web server has its most connections: more are refused");
    web->full = full;
    if (full) return TRUE;
    ++*web->connections;
    g_object_weak_ref(G_OBJECT(connection), on_connection_over, g_rc_box_acquire(web->connections));
    g_socket_set_timeout(g_socket_connection_get_socket(connection), WEB_IDLE_S);
    GSocketAddress *own = g_socket_connection_get_local_address(connection, NULL);
    GSocketAddress *other = g_socket_connection_get_remote_address(connection, NULL);
    if (own && other) /* else it is gone already */
        soup_server_accept_iostream(web->server, G_IO_STREAM(connection), own, other, NULL);
    g_clear_object(&own);
    g_clear_object(&other);
    return TRUE;
}

struct web *web_new(const char *address, bool anywhere, void (*told)(void *user, const char *text),
                    void *user, GError **error)
{
    char *host;
    guint port;
    char *key = new_key();
    if (!key) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED,
                    "this machine has no random numbers for a key");
        return NULL;
    }
    GSocketService *service = endpoint_listen(address, anywhere, &host, &port, error);
    if (!service) {
        g_free(key);
        return NULL;
    }
    struct web *web = g_new0(struct web, 1);
    *web = (struct web){.service = service,
                        .key = key,
                        .connections = g_rc_box_new0(unsigned),
                        .port = port,
                        .anywhere = anywhere,
                        .told = told,
                        .user = user};
    web->pages = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    web->links = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    web->where = g_strdup_printf("http://%s:%u/%s", host, port, anywhere ? web->key : "");
    g_free(host);
    web->server = soup_server_new("server-header", "rlx", NULL);
    soup_server_add_early_handler(web->server, "/", check, web, NULL);
    soup_server_add_early_handler(web->server, LINKS, check, web,
                                  NULL); /* the longest path counts */
    soup_server_add_handler(web->server, "/", serve_page, web, NULL);
    soup_server_add_websocket_handler(web->server, LINKS, NULL, NULL, on_websocket, web, NULL);
    g_signal_connect(service, "incoming", G_CALLBACK(on_connection), web);
    g_socket_service_start(service);
    return web;
}

void web_free(struct web *web)
{
    if (!web) return;
    g_socket_service_stop(web->service);
    g_socket_listener_close(G_SOCKET_LISTENER(web->service));
    soup_server_disconnect(web->server);
    g_object_unref(web->server);
    g_object_unref(web->service);
    g_hash_table_destroy(web->pages);
    g_hash_table_destroy(web->links);
    g_rc_box_release(web->connections);
    g_free(web->where);
    g_free(web->key);
    g_free(web);
}

const char *web_where(const struct web *web)
{
    return web->where;
}

const char *web_key(const struct web *web)
{
    return web->key;
}
