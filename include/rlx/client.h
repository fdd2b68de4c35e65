/* A retry client: the other side of a packet radio. It says commands to a device, each with a tag,
 * until the device has answered or it has tried often enough, and tells what it knows then. Queue,
 * pauses and tries are bounded, nothing waits. For firmware of a handset or gateway: compile
 * src/links/client.c with it. The device obeys each tag once, so that saying it again is safe.
 * None of the calls may be made from an interrupt. */
#ifndef RLX_CLIENT_H
#define RLX_CLIENT_H

#include <stdbool.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/* Most bytes of a command, 8..200. */
#ifndef RLX_ERRAND
#define RLX_ERRAND 48
#endif
#if RLX_ERRAND < 8 || RLX_ERRAND > 200
#error "RLX_ERRAND is 8..200: leave it out for 48"
#endif

/* What became of a command. */
enum rlx_delivery {
    RLX_ANSWERED, /* the device said this: ok ..., err ... */
    RLX_UNKNOWN,  /* no answer that tells it: it may have been obeyed once, or not at all */
    RLX_TOLD,     /* no command: what the device tells unasked, ev ... */
    RLX_SAID      /* one way, or to all: it was said as often as `tries`; nobody answers */
};

/* A command that waits. Private. */
struct rlx_errand {
    uint8_t count;
    char text[RLX_ERRAND];
};

struct rlx_client {
    /* Yours to set before rlx_client_init(); the rest is zero. */
    void *port;        /* first argument of rlx_port_packet_send() */
    uint8_t link;      /* its second one */
    uint8_t to, from;  /* the device's address 0..254, this source 1..32 */
    bool one_way;      /* nothing comes back: each command is said `tries` times with one tag */
    bool all;          /* the same, to every device: `to` is only whose events are heard */
    bool check;        /* a check stands behind each frame, and must behind each answer */
    uint8_t fixed;     /* every packet has so many bytes, filled with blanks; 0: as they are */
    uint8_t tries;     /* 1..20 */
    uint16_t pause_ms; /* to the second try, 1..10000; grows by as much with each but one_way */
    /* How long the device remembers a tag: NAME_LINK_WINDOW_MS of the emitted header. Nothing is
     * said again later than half of it after the first time: the other half is for packets that are
     * late. 500..3600000; the pauses of all tries together are at most that half. */
    uint32_t window_ms;
    struct rlx_errand *errands; /* the queue, yours, of... */
    uint8_t n_errands;          /* ...so many, 1..255 */
    void *user;
    /* Called by rlx_client_hear() and rlx_client_poll(). `text` is not ended by a 0 and lives as
     * long as the call; of RLX_UNKNOWN it is the command. */
    void (*told)(void *user, enum rlx_delivery what, uint16_t tag, const char *text, uint8_t count);

    /* Read-only. */
    uint16_t sent, damaged; /* frames that were sent; that came without a right check */
    /* Private. */
    uint8_t first, waiting, tried, renewed;
    uint16_t tag, sum; /* of the first command; its check */
    bool opens;        /* no tag was answered yet */
    uint32_t due, began;
};

/* 0, or -RLX_ERR_RANGE where something is not as it says above. `start`: where its tags begin, best
 * at random. Where the device still remembers another start of this source it refuses the first one
 * and tells the last one it knows, and the command is said with the next. One way nobody can tell:
 * after a restart nothing is obeyed before the device's window has closed. */
int rlx_client_init(struct rlx_client *client, uint16_t start)
    __attribute__((__warn_unused_result__));

/* Queues a command, ended by a 0. 0, or -RLX_ERR_BUSY where the queue is full, -RLX_ERR_LONG where
 * it is longer than RLX_ERRAND. */
int rlx_client_say(struct rlx_client *client, const char *text);

/* A packet that the radio has received; then call rlx_client_poll(). */
void rlx_client_hear(struct rlx_client *client, const uint8_t *packet, uint8_t count);

/* Sends what is due. Milliseconds until it must be called again, UINT32_MAX: when something is
 * queued. */
uint32_t rlx_client_poll(struct rlx_client *client, uint32_t now_ms);

#ifdef __cplusplus
}
#endif

#endif
