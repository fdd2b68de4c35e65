/* What the kinds of endpoints share: endpoint.c has all clients and what goes to them; terminal.c,
 * socket.c and host/web/web_socket.c open. */
#ifndef ENDPOINT_PARTS_H
#define ENDPOINT_PARTS_H

#include <gio/gio.h>

#include "endpoint/endpoint.h"

struct client;

/* How bytes come and go where a client has no descriptor. */
struct client_way {
    void (*send)(struct client *client, const guint8 *bytes, size_t count);
    void (*go_on)(struct client *client); /* there may be room again for what it said */
    void (*close)(struct client *client); /* `keeps` is unreferenced after it */
};

/* One who is there: two streams of bytes, over one descriptor or another way. */
struct client {
    struct endpoint *of;
    const struct client_way *way; /* NULL: the descriptor */
    int fd;
    guint reads, writes; /* sources; 0: it is not waited for */
    guint leaves;        /* it has said all: until then it may hear the answers */
    GByteArray *waits;   /* to be written */
    GByteArray *begun;   /* a packet that is not whole yet */
    gsize lost;          /* bytes that it did not read in time */
    void *keeps;         /* what the descriptor or the way belongs to; unreferenced at the end */
    gsize unheard;       /* of a WebSocket: bytes sent since it showed last that it reads... */
    gint64 heard_us;     /* ...which was then */
    guint flushes;       /* ...and the source that sends what waits */
};

struct endpoint {
    struct endpoint_calls calls;
    char *where, *path;  /* path: what is removed at the end */
    bool packets, stays; /* stays: a client that is never gone */
    bool full;           /* and somebody was told so */
    GPtrArray *clients;  /* struct client * */
    int seen;            /* of a pseudo-terminal: the other end, kept open; -1: none */
    void (*close)(struct endpoint *endpoint);
    void *listener;
};

/* How long one who has said all may hear the answers. */
#define ENDPOINT_LINGERS_MS 2000

struct endpoint *endpoint_new(struct endpoint_calls calls, bool packets);
/* Those who have not said all. */
unsigned endpoint_count(const struct endpoint *endpoint);
struct client *endpoint_add(struct endpoint *endpoint, int fd, void *keeps);
struct client *endpoint_add_way(struct endpoint *endpoint, const struct client_way *way,
                                void *keeps);
/* It has closed. */
void endpoint_gone(struct client *client);
/* Passes on what came in `begun`, as far as there is room. */
void endpoint_take(struct client *client);
/* Whether there is room for one more client; reports once that there is none. */
bool endpoint_has_place(struct endpoint *endpoint);
void endpoint_tell(const struct endpoint *endpoint, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* Whether a name in the file system is free; what a dead one left there is removed. */
bool endpoint_is_free(const char *path, GError **error);
/* A terminal is raw, at this rate: what a program finds that sets nothing. */
bool endpoint_prepare(int fd, unsigned baud);
/* "7001", "127.0.0.1:7001", "[::1]:7001"; NULL after an error. Owned by the caller. */
GSocketAddress *endpoint_address(const char *text, bool anywhere, GError **error);
/* A service that is not started yet, at an address like this; tells where it is: `host`, owned by
 * the caller, in brackets where it has colons. NULL after an error. */
GSocketService *endpoint_listen(const char *text, bool anywhere, char **host, guint *port,
                                GError **error);

#endif
