/* What the kinds of endpoints share: endpoint.c has all clients and what goes to them; terminal.c
 * and socket.c open. */
#ifndef ENDPOINT_PARTS_H
#define ENDPOINT_PARTS_H

#include <gio/gio.h>

#include "endpoint/endpoint.h"

/* One who is there: two streams of bytes over one descriptor. */
struct client {
    struct endpoint *of;
    int fd;
    guint reads, writes; /* sources; 0: it is not waited for */
    guint leaves;        /* it has said all: until then it may hear the answers */
    GByteArray *waits;   /* to be written */
    GByteArray *begun;   /* a packet that is not whole yet */
    gsize lost;          /* bytes that it did not read in time */
    void *keeps;         /* what the descriptor belongs to; unreferenced at the end */
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
void endpoint_tell(const struct endpoint *endpoint, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* Whether a name in the file system is free; what a dead one left there is removed. */
bool endpoint_is_free(const char *path, GError **error);
/* A terminal is raw, at this rate: what a program finds that sets nothing. */
bool endpoint_prepare(int fd, unsigned baud);
/* "7001", "127.0.0.1:7001", "[::1]:7001"; NULL after an error. Owned by the caller. */
GSocketAddress *endpoint_address(const char *text, bool anywhere, GError **error);

#endif
