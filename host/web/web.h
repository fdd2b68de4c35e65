/* A web server for a bench: pages, and links on WebSockets (RFC 6455), one at each path
 * /link/NAME. A binary message carries bytes, and one packet where the link carries packets.
 * Pages of other origins may not command: without the key in their address they are refused. */
#ifndef WEB_H
#define WEB_H

#include "endpoint/serve.h"

#define WEB_CONNECTIONS 128u
#define WEB_IDLE_S      30u   /* a connection that is no WebSocket is closed after that */
#define WEB_MESSAGE     4096u /* bytes of the longest message */

struct web;

/* "PORT" or "HOST:PORT"; port 0 is one that is free. Only addresses of this machine, unless
 * `anywhere`: then nothing is answered without the key. `told` hears what a person should know.
 * NULL and an error where it cannot be. */
struct web *web_new(const char *address, bool anywhere, void (*told)(void *user, const char *text),
                    void *user, GError **error);
/* Endpoints first. */
void web_free(struct web *web);
/* "http://127.0.0.1:8080/", with the key where every request needs it. */
const char *web_where(const struct web *web);
/* What a page from elsewhere, a file for instance, puts behind an address: "?key=...". */
const char *web_key(const struct web *web);
/* This page is at this path; both are copied. */
void web_page(struct web *web, const char *path, const char *html);
/* Files that are made when they are asked for, at this path and below it. `make` answers the
 * request once, now or later. */
struct web_request;
typedef void (*web_make)(void *user, struct web_request *request);
void web_files(struct web *web, const char *path, web_make make, void *user);
const char *web_request_path(const struct web_request *request);
/* What stands behind "?name="; NULL: nothing. */
const char *web_request_query(const struct web_request *request, const char *name);
/* The file as it is by now; `name`: a browser saves it under that, NULL: it shows it. */
void web_give(struct web_request *request, const char *file, const char *type, const char *name);
void web_refuse(struct web_request *request, unsigned status, const char *why);

/* A folder of its own, for such files; it ends with the server. NULL after a message: there is
 * none. */
const char *web_folder(struct web *web);

/* Each link of a bench that has a line of bytes or packets, at /link/NAME. */
void web_links(struct web *web, struct serve *serve);

/* Texts in both directions, at this path: a page and what it shows. */
struct web_channel;
struct web_client;
struct web_channel_calls {
    void *user;
    unsigned most; /* bytes of the longest message; 0: WEB_MESSAGE */
    /* What is sent to it here comes before all that is sent to all. */
    void (*opened)(void *user, struct web_client *client);
    /* At most so many bytes; not ended by a 0. */
    void (*came)(void *user, struct web_client *client, const char *text, gsize count);
};

struct web_channel *web_channel(struct web *web, const char *path, struct web_channel_calls calls);
unsigned web_channel_count(const struct web_channel *channel);
/* To one, or to all of them. Whoever does not read is hung up. */
void web_send(struct web_client *client, const char *text);
void web_send_all(struct web_channel *channel, const char *text);

#endif
