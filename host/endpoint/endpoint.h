/* Where somebody outside finds a link of a simulated board: a pseudo-terminal, a TCP port, a socket
 * in the file system. It carries bytes and knows nothing of boards. Whoever does not read loses
 * bytes and stops nobody. */
#ifndef ENDPOINT_H
#define ENDPOINT_H

#include <glib.h>
#include <stdbool.h>

#define ENDPOINT_WAITS   65536u /* bytes for one who does not read; what is beyond is lost */
#define ENDPOINT_KEEPS   4096u  /* the same of a terminal that nobody has opened yet, perhaps */
#define ENDPOINT_CLIENTS 64u
#define ENDPOINT_PACKET  255u /* bytes of the longest packet */

struct endpoint;

struct endpoint_calls {
    void *user;
    /* How many bytes it takes now; 0: none are read until endpoint_go_on(). */
    size_t (*room)(void *user);
    void (*came)(void *user, const guint8 *bytes, size_t count);
    /* A packet of whoever speaks in packets, where it does. */
    void (*packet)(void *user, const guint8 *bytes, size_t count);
    /* So many are connected by now; of a pseudo-terminal nobody knows. */
    void (*clients)(void *user, unsigned count);
    /* Something that a person should know. */
    void (*told)(void *user, const char *text);
};

/* Each opens at once; NULL and an error where it cannot.
 * A pseudo-terminal at this rate; `path`: a name that leads to it, NULL: none. */
struct endpoint *endpoint_terminal(const char *path, unsigned baud, struct endpoint_calls calls,
                                   GError **error);
/* "PORT" or "HOST:PORT"; port 0 is one that is free. Only addresses of this machine, unless
 * `anywhere`. `packets`: each has its length before it, two bytes, the high one first. */
struct endpoint *endpoint_tcp(const char *address, bool anywhere, bool packets,
                              struct endpoint_calls calls, GError **error);
struct endpoint *endpoint_unix(const char *path, bool packets, struct endpoint_calls calls,
                               GError **error);
/* Closes it; nothing is left in the file system. */
void endpoint_free(struct endpoint *endpoint);

/* To all who are there, as one packet where it speaks in packets. */
void endpoint_send(struct endpoint *endpoint, const guint8 *bytes, size_t count);
/* There may be room again. */
void endpoint_go_on(struct endpoint *endpoint);
/* How one gets there: "/dev/pts/7", "127.0.0.1:7001". */
const char *endpoint_where(const struct endpoint *endpoint);
/* The rate that whoever opened the pseudo-terminal has set; 0: it is none, or not known. */
unsigned endpoint_baud(const struct endpoint *endpoint);

#endif
