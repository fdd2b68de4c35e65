/* A retry client: the sender's side of a packet radio. It sends commands to a device, each with a
 * tag, until the device answers or all tries are used up, and reports the result. Its queue, pauses
 * and tries are bounded; no call waits. For the firmware of a handset or gateway: compile
 * src/links/client.c with it. The device obeys each tag once, so that a retry is safe. Call none of
 * these from an interrupt. */
#ifndef RLX_CLIENT_H
#define RLX_CLIENT_H

#include <stdbool.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/* Longest command in bytes, 8..200. */
#ifndef RLX_CLIENT_BYTES
#define RLX_CLIENT_BYTES 48
#endif
#if RLX_CLIENT_BYTES < 8 || RLX_CLIENT_BYTES > 200
#error "RLX_CLIENT_BYTES is 8..200; without it the default is 48"
#endif

/* The result of a command, or what the device sent by itself. */
enum rlx_delivery {
    RLX_CLIENT_ANSWERED, /* the answer of the device: ok ..., err ... */
    RLX_CLIENT_UNKNOWN,  /* no answer: the device obeyed it once, or not at all */
    RLX_CLIENT_EVENT,    /* no command: an event of the device, ev ... */
    RLX_CLIENT_SENT      /* one way, or to all devices: sent as often as `tries`; nobody answers */
};

/* A command in the queue. Private. */
struct rlx_client_command {
    uint8_t count;
    char text[RLX_CLIENT_BYTES];
};

struct rlx_client {
    /* Set these before rlx_client_init(), and all other members to zero. */
    void *port;        /* first argument of rlx_port_packet_send() */
    uint8_t link;      /* second argument of rlx_port_packet_send() */
    uint8_t to, from;  /* address of the device 0..254, number of this source 1..32 */
    bool one_way;      /* no answers: each command is sent `tries` times with one tag */
    bool all;          /* one way to every device; events are taken from `to` only */
    bool check;        /* each frame and each answer ends with a check */
    uint8_t fixed;     /* packets have so many bytes, filled with blanks; 0: as long as the frame */
    uint8_t tries;     /* 1..20 */
    uint16_t pause_ms; /* before the second try, 1..10000; each further pause is longer by as much,
                          but not if one_way */
    /* How long the device remembers a tag: NAME_LINK_WINDOW_MS of the emitted header, 500..3600000.
     * The client sends no try later than half of it after the first one; the other half is for
     * delayed packets. All pauses together are at most that half. */
    uint32_t window_ms;
    struct rlx_client_command *queue; /* your memory for the queue... */
    uint8_t queue_size;               /* ...of so many commands, 1..255 */
    void *user;
    /* rlx_client_receive() and rlx_client_poll() call it. `text` is not ended by a 0 and is valid
     * during the call; with RLX_CLIENT_UNKNOWN it is the command. */
    void (*report)(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                   uint8_t count);

    /* Counters, read-only: frames sent; frames received with a wrong check. */
    uint16_t sent, damaged;
    /* Private. */
    uint8_t first, waiting, tried, renewed;
    uint16_t tag, sum; /* of the first command; its check */
    bool opens;        /* no tag was answered yet */
    uint32_t due, began;
};

/* Starts it. `start` is its first tag, best a random number. If the device still remembers another
 * start of this source it refuses the first command and sends the last tag that it knows; the
 * client then takes the next one. One way nobody can send that: after a restart the device obeys
 * nothing until its window has closed. Returns 0, or -RLX_ERR_RANGE if a member is out of its
 * range. */
int rlx_client_init(struct rlx_client *client, uint16_t start)
    __attribute__((__warn_unused_result__));

/* Queues a command, ended by a 0. Returns 0, -RLX_ERR_BUSY if the queue is full, or -RLX_ERR_LONG
 * if it is longer than RLX_CLIENT_BYTES. */
int rlx_client_send(struct rlx_client *client, const char *text);

/* Takes a packet that the radio received. Call rlx_client_poll() after it. */
void rlx_client_receive(struct rlx_client *client, const uint8_t *packet, uint8_t count);

/* Sends what is due. Returns the milliseconds until the next call is due; UINT32_MAX: when you
 * queue a command. */
uint32_t rlx_client_poll(struct rlx_client *client, uint32_t now_ms);

#ifdef __cplusplus
}
#endif

#endif
