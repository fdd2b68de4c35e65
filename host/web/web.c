/* The web server, by libsoup: addresses, keys, pages.
 * Each request is looked at before anything else is: where it comes from, whether it has the key.
 * WebSockets are in web_socket.c; it knows no page and no board. */
#include "web/web_parts.h"

#include <string.h>
#include <unistd.h>

#define KEY_BYTES 16u

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

const char *web_link_of(const char *path)
{
    return g_str_has_prefix(path, WEB_LINKS) ? path + strlen(WEB_LINKS) : NULL;
}

void web_put_refusal(SoupServerMessage *message, guint status, const char *why)
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
    const char *link = web_link_of(path);
    struct endpoint *endpoint = link ? g_hash_table_lookup(web->links, link) : NULL;
    (void)server;
    if (web->anywhere ? !keyed : !is_here(web, host))
        web_put_refusal(message, SOUP_STATUS_FORBIDDEN,
                        web->anywhere
                            ? "The address needs its key, as rlx serve prints it.\n"
                            : "This server is for this machine only: http://127.0.0.1:PORT/\n");
    else if (!keyed && !is_own(origin, host))
        web_put_refusal(message, SOUP_STATUS_FORBIDDEN,
                        "A page from elsewhere needs the key, as rlx serve prints it.\n");
    else if (link && !endpoint)
        web_put_refusal(message, SOUP_STATUS_NOT_FOUND, "There is no such link.\n");
    else if ((link && !endpoint_has_place(endpoint)) || web_channel_is_full(web, path))
        web_put_refusal(message, SOUP_STATUS_SERVICE_UNAVAILABLE,
                        "Too many are connected already.\n");
}

/* ---- pages ---- */

void web_put_headers(SoupMessageHeaders *headers)
{
    soup_message_headers_append(headers, "Cache-Control", "no-store");
    soup_message_headers_append(headers, "Referrer-Policy", "no-referrer");
    soup_message_headers_append(headers, "X-Content-Type-Options", "nosniff");
    soup_message_headers_append(headers, "X-Frame-Options", "DENY");
    soup_message_headers_append(headers, "Content-Security-Policy",
                                "default-src 'none'; script-src 'unsafe-inline'; style-src "
                                "'unsafe-inline'; img-src 'self'; connect-src 'self' ws:; "
                                "base-uri 'none'; form-action 'none'; frame-ancestors 'none'");
}

static void serve_page(SoupServer *server, SoupServerMessage *message, const char *path,
                       GHashTable *query, gpointer user)
{
    const struct web *web = user;
    const char *html = g_hash_table_lookup(web->pages, path);
    const char *method = soup_server_message_get_method(message);
    SoupMessageHeaders *headers = soup_server_message_get_response_headers(message);
    (void)server, (void)query;
    if (method != SOUP_METHOD_GET && method != SOUP_METHOD_HEAD) {
        web_put_refusal(message, SOUP_STATUS_METHOD_NOT_ALLOWED, "Pages are only read.\n");
        return;
    }
    if (!html) {
        web_put_refusal(message, SOUP_STATUS_NOT_FOUND,
                        web_link_of(path) ? "A link is a WebSocket.\n"
                                          : "There is no such page.\n");
        return;
    }
    web_put_headers(headers);
    soup_server_message_set_status(message, SOUP_STATUS_OK, NULL);
    soup_server_message_set_response(message, "text/html; charset=utf-8", SOUP_MEMORY_COPY, html,
                                     strlen(html));
}

void web_page(struct web *web, const char *path, const char *html)
{
    g_hash_table_insert(web->pages, g_strdup(path), g_strdup(html));
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
        web->told(web->user, "all connections of the web server are in use: more are refused");
    web->full = full;
    if (full) return TRUE;
    ++*web->connections;
    g_object_weak_ref(G_OBJECT(connection), on_connection_over, g_rc_box_acquire(web->connections));
    g_socket_set_timeout(g_socket_connection_get_socket(connection), WEB_IDLE_S);
    GSocketAddress *own = g_socket_connection_get_local_address(connection, NULL);
    GSocketAddress *other = g_socket_connection_get_remote_address(connection, NULL);
    if (own && other) /* else it is gone already */
        soup_server_accept_iostream(web->server, G_IO_STREAM(connection), own, other, NULL);
    if (own) g_object_unref(own);
    if (other) g_object_unref(other);
    return TRUE;
}

void web_checked(struct web *web, const char *path)
{
    soup_server_add_early_handler(web->server, path, check, web, NULL);
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
    web->channels = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    web->where = g_strdup_printf("http://%s:%u/%s", host, port, anywhere ? web->key : "");
    g_free(host);
    web->server = soup_server_new("server-header", "rlx", NULL);
    web_checked(web, "/");
    web_checked(web, WEB_LINKS);
    soup_server_add_handler(web->server, "/", serve_page, web, NULL);
    web_sockets_begin(web);
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
    web_channels_end(web);
    g_rc_box_release(web->connections);
    web_folder_end(web);
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
