/* Links of a bench on endpoints, live: what comes in is sent over the link at its rate, and what
 * the device sends goes out. */
#ifndef SERVE_H
#define SERVE_H

#include "endpoint/endpoint.h"
#include "endpoint/live.h"

enum serve_at { SERVE_TERMINAL, SERVE_TCP, SERVE_UNIX };

struct serve;

/* One of these sorts, as the functions of endpoint.h. */
struct endpoint *serve_endpoint(enum serve_at at, const char *where, unsigned baud, bool anywhere,
                                bool packets, struct endpoint_calls calls, GError **error);

/* `told` hears what a person should know. */
struct serve *serve_new(struct bench *bench, void (*told)(void *user, const char *text),
                        void *user);
void serve_free(struct serve *serve);

/* Opens a link: `name` as in bench_end(), `where` as in endpoint.h, NULL: a pseudo-terminal without
 * a name. What says how to get there, owned by the caller; NULL and an error where it cannot be. */
char *serve_open(struct serve *serve, enum serve_at at, const char *name, const char *where,
                 bool anywhere, GError **error);
/* A real device at the end of a link of the board's: a modem, or whatever is at that serial device.
 * The stand-in of a modem is gone. False: error is set. */
bool serve_device(struct serve *serve, const char *name, const char *where, bool anywhere,
                  GError **error);
/* Opens each serial link, bridge and modem as a pseudo-terminal, and tells of it. */
bool serve_open_all(struct serve *serve, void (*opened)(void *user, const char *name, char *where),
                    void *user, GError **error);
/* Opens each link that has a line of bytes or packets as what `open` makes for it. */
void serve_open_each(struct serve *serve,
                     struct endpoint *(*open)(void *user, const char *name, bool packets,
                                              struct endpoint_calls calls),
                     void *user);
/* Before anything comes in, the clock goes on. */
void serve_live(struct serve *serve, struct live *live);
/* Is called when all that is due was done: who waited for room goes on. */
void serve_after(struct serve *serve);

#endif
