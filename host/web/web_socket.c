/* WebSockets of the web server: links as bytes, channels as texts.
 * A socket's own queue has no bound: one who does not answer its pings, and has much to read, is
 * hung up. It knows no board. */
#include <string.h>

#include "web/web_parts.h"

#define ALIVE_S 5u /* a WebSocket is asked so often whether somebody reads */
#define DEAD_S  15u

/* ---- links ---- */

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
    struct endpoint *endpoint = g_hash_table_lookup(web->links, web_link_of(path));
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
    const char *link = web_link_of(strstr(endpoint->where, WEB_LINKS));
    g_hash_table_remove(web->links, link);
}

static struct endpoint *open_link(void *user, const char *name, bool packets,
                                  struct endpoint_calls calls)
{
    struct web *web = user;
    struct endpoint *endpoint = endpoint_new(calls, packets);
    endpoint->where = g_strdup_printf("ws%.*s" WEB_LINKS "%s", (int)(strcspn(web->where, "?") - 5),
                                      web->where + strlen("http"), name);
    endpoint->listener = web;
    endpoint->close = close_link;
    g_hash_table_insert(web->links, g_strdup(name), endpoint);
    return endpoint;
}

void web_links(struct web *web, struct serve *serve)
{
    serve_open_each(serve, open_link, web);
}

/* ---- channels ---- */

#define CHANNEL_WAITS (1024u * 1024)

struct web_channel {
    struct web *web;
    struct web_channel_calls calls;
    GPtrArray *clients; /* struct web_client * */
};

struct web_client {
    struct web_channel *of;
    SoupWebsocketConnection *connection;
    gsize unheard;   /* bytes sent since it showed last that it reads... */
    gint64 heard_us; /* ...which was then */
};

static void drop(struct web_client *c)
{
    g_signal_handlers_disconnect_by_data(c->connection, c);
    if (soup_websocket_connection_get_state(c->connection) == SOUP_WEBSOCKET_STATE_OPEN)
        soup_websocket_connection_close(c->connection, SOUP_WEBSOCKET_CLOSE_GOING_AWAY, NULL);
    g_object_unref(c->connection);
    g_ptr_array_remove(c->of->clients, c);
    g_free(c);
}

static void on_text(SoupWebsocketConnection *connection, gint type, GBytes *message, gpointer user)
{
    struct web_client *c = user;
    gsize n;
    const char *text = g_bytes_get_data(message, &n);
    (void)connection;
    if (type == SOUP_WEBSOCKET_DATA_TEXT) c->of->calls.came(c->of->calls.user, c, text, n);
}

static void on_alive(SoupWebsocketConnection *connection, GBytes *message, gpointer user)
{
    struct web_client *c = user;
    (void)connection, (void)message;
    c->unheard = 0;
    c->heard_us = g_get_monotonic_time();
}

static void on_gone(SoupWebsocketConnection *connection, gpointer user)
{
    (void)connection;
    drop(user);
}

static void on_channel(SoupServer *server, SoupServerMessage *message, const char *path,
                       SoupWebsocketConnection *connection, gpointer user)
{
    struct web_channel *channel = user;
    GSocket *socket = soup_server_message_get_socket(message);
    struct web_client *c = g_new(struct web_client, 1);
    (void)server, (void)path;
    if (socket) g_socket_set_timeout(socket, 0);
    soup_websocket_connection_set_max_incoming_payload_size(
        connection, channel->calls.most ? channel->calls.most : WEB_MESSAGE);
    soup_websocket_connection_set_keepalive_interval(connection, ALIVE_S);
    *c = (struct web_client){channel, g_object_ref(connection), 0, g_get_monotonic_time()};
    g_signal_connect(connection, "message", G_CALLBACK(on_text), c);
    g_signal_connect(connection, "pong", G_CALLBACK(on_alive), c);
    g_signal_connect(connection, "closed", G_CALLBACK(on_gone), c);
    channel->calls.opened(channel->calls.user, c); /* it hears what goes to all from then on */
    g_ptr_array_add(channel->clients, c);
}

struct web_channel *web_channel(struct web *web, const char *path, struct web_channel_calls calls)
{
    struct web_channel *channel = g_new(struct web_channel, 1);
    *channel = (struct web_channel){web, calls, g_ptr_array_new()};
    g_hash_table_insert(web->channels, g_strdup(path), channel);
    web_checked(web, path);
    soup_server_add_websocket_handler(web->server, path, NULL, NULL, on_channel, channel, NULL);
    return channel;
}

bool web_channel_is_full(const struct web *web, const char *path)
{
    const struct web_channel *channel = g_hash_table_lookup(web->channels, path);
    return channel && channel->clients->len >= ENDPOINT_CLIENTS;
}

void web_channels_end(struct web *web)
{
    GHashTableIter i;
    gpointer path, value;
    g_hash_table_iter_init(&i, web->channels);
    while (g_hash_table_iter_next(&i, &path, &value)) {
        struct web_channel *channel = value;
        while (channel->clients->len) drop(channel->clients->pdata[0]);
        g_ptr_array_free(channel->clients, TRUE);
        g_free(channel);
    }
    g_hash_table_destroy(web->channels);
}

unsigned web_channel_count(const struct web_channel *channel)
{
    return channel->clients->len;
}

void web_send(struct web_client *c, const char *text)
{
    if (soup_websocket_connection_get_state(c->connection) != SOUP_WEBSOCKET_STATE_OPEN) return;
    if (c->unheard > CHANNEL_WAITS &&
        g_get_monotonic_time() - c->heard_us > DEAD_S * G_USEC_PER_SEC) {
        c->of->web->told(c->of->web->user, "a page does not read: it is hung up");
        drop(c);
        return;
    }
    soup_websocket_connection_send_text(c->connection, text);
    c->unheard += strlen(text);
}

void web_send_all(struct web_channel *channel, const char *text)
{
    for (unsigned i = channel->clients->len; i--;) web_send(channel->clients->pdata[i], text);
}

/* ---- both ---- */

void web_sockets_begin(struct web *web)
{
    soup_server_add_websocket_handler(web->server, WEB_LINKS, NULL, NULL, on_websocket, web, NULL);
}
