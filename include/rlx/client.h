/* A retry client: the sender's side of a link. It sends commands to a device, each with a tag,
 * until the device answers or all tries are used up, and reports the result. Its queue, pauses and
 * tries are bounded; no call waits. For the firmware of a handset or gateway: compile
 * src/links/client.c with it. The device obeys each tag once, so that a retry is safe. Call none of
 * these from an interrupt. `rlx emit --sender` writes a client with a function for each command. */
#ifndef RLX_CLIENT_H
#define RLX_CLIENT_H

#include <stdbool.h>
#include <stdint.h>

#ifndef RLX_CLIENT_SEAL /* 1: it can seal its frames */
#define RLX_CLIENT_SEAL 0
#endif

#ifdef __cplusplus
extern "C" {
#endif

#ifndef RLX_CLIENT_BYTES /* longest command in bytes, 8..200 */
#define RLX_CLIENT_BYTES 48
#endif
#if RLX_CLIENT_BYTES < 8 || RLX_CLIENT_BYTES > 200
#error "RLX_CLIENT_BYTES is 8..200; without it the default is 48"
#endif

#ifndef RLX_CLIENT_PACKET /* bytes of the longest frame */
#define RLX_CLIENT_PACKET 255
#endif
#ifndef RLX_CLIENT_PIECE /* frames are filled up with zeros to pieces of so many bytes; 0: not */
#define RLX_CLIENT_PIECE 0
#endif
#ifndef RLX_CLIENT_PAD /* what fills a frame up to `fixed` */
#define RLX_CLIENT_PAD ' '
#endif

/* ---- the client ---- */

#if RLX_CLIENT_SEAL
#include "rlx/hmac.h"
#endif

/* The result of a command, or what the device sent by itself. */
enum rlx_delivery {
    RLX_CLIENT_ANSWERED, /* the answer of the device: ok ..., err ... */
    RLX_CLIENT_UNKNOWN,  /* no answer: the device obeyed it once, or not at all */
    RLX_CLIENT_DROPPED,  /* it was never sent: rlx_client_drop(), or no session for a seal */
    RLX_CLIENT_EVENT,    /* no command: an event of the device, ev ... */
    RLX_CLIENT_SENT      /* one way, or to all devices: sent as often as `tries`; nobody answers */
};

/* A command in the queue. Private. */
struct rlx_client_command {
#ifdef RLX_CLIENT_REQUESTS
    uint16_t request; /* what it is, for the reader of its answer */
#endif
    uint8_t count;
    char text[RLX_CLIENT_BYTES];
};

struct rlx_client {
    /* Set these before rlx_client_init(), and all other members to zero. */
    void *port;        /* first argument of rlx_port_packet_send() */
    uint8_t link;      /* second argument of rlx_port_packet_send() */
    uint8_t to, from;  /* address of the device 0..254, number of this source 1..32 */
    bool no_address;   /* the link has no address: frames do not begin with @ */
    bool no_source;    /* it has no senders: `from` is 0 and stands in no frame */
    bool no_tags;      /* it has no tags: each command is sent once, and `pause_ms` is how long the
                          answer may take */
    bool one_way;      /* no answers: each command is sent `tries` times with one tag */
    bool all;          /* one way to every device; events are taken from `to` only */
    bool check;        /* each frame and each answer ends with a check */
    uint8_t fixed;     /* packets have so many bytes, filled with blanks; 0: as long as the frame */
    uint8_t tries;     /* 1..20 */
    uint16_t pause_ms; /* before the second try, 1..10000, without tags 1..60000; each further pause
                          is longer by as much, but not if one_way */
    /* How long the device remembers a tag: NAME_LINK_WINDOW_MS of the emitted header, 500..3600000.
     * The client sends no try later than half of it after the first one; the other half is for
     * delayed packets. All pauses together are at most that half. */
    uint32_t window_ms; /* of no use without tags or seals; also how long a session
                           goes on without a command */
#if RLX_CLIENT_SEAL
    /* Of a link with seals; NULL: it has none. Frames then have no tags. The key is the same text
     * as in the device, the context "NAME VERSION LINK" of its lexicon, ended by a 0. */
    const char *key, *context;
    uint8_t key_count, key_number; /* characters, 20..32; its number among the link's, 1..16 */
    /* With what the device seals what goes to all, where that is another key; NULL: the same. */
    const char *key_to_all;
    uint8_t key_to_all_count, key_to_all_number;
    bool halt_sealed; /* the link takes no halt without a seal */
    uint32_t random;  /* another number at each start, from a noise source if there is one */
#endif
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
#ifdef RLX_CLIENT_REQUESTS
    uint16_t request, request_next; /* of the command that is over; of the next that is queued */
#endif
    bool opens; /* no tag was answered yet */
    uint32_t due, began;
#if RLX_CLIENT_SEAL
    bool opening, asks;               /* it asks for a session, or will */
    bool plain;                       /* meanwhile it sent a halt without a seal */
    uint8_t mac[RLX_HMAC_CHARACTERS]; /* of the frame that was sent last */
    uint16_t counter;                 /* of that, in the session... */
    uint32_t session;                 /* ...of this number... */
    bool live;                        /* ...if it still is one */
    uint32_t proved, heard;           /* when it was in use; the last number that went to all */
#endif
};

/* ---- calls ---- */

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

/* Gives up all that waits: each command is reported, the one that was sent as RLX_CLIENT_UNKNOWN,
 * the others as RLX_CLIENT_DROPPED. Before a halt: the device then obeys nothing else behind it. */
void rlx_client_drop(struct rlx_client *client);

/* Takes a packet that the radio received. Call rlx_client_poll() after it. */
void rlx_client_receive(struct rlx_client *client, const uint8_t *packet, uint8_t count);

/* Sends what is due. Returns the milliseconds until the next call is due; UINT32_MAX: when you
 * queue a command. */
uint32_t rlx_client_poll(struct rlx_client *client, uint32_t now_ms);

#ifdef RLX_CLIENT_REQUESTS
/* Of a sender that is made of a lexicon: whether the text answers this request, or is an event. */
bool rlx_client_is_answer(void *user, uint16_t request, const char *text, uint8_t count);
bool rlx_client_is_event(void *user, const char *text, uint8_t count);
#endif

#ifdef __cplusplus
}
#endif

#endif
