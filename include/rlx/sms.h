/* What drives the modem of a link for text messages (`link shore sms 9600 ...`): it starts the
 * modem, reads each message that came, hands its text to the parser, sends the answer and deletes
 * the message; in the PDU mode of 3GPP TS 27.005, with the commands of 27.007 and ITU-T V.250. It
 * is a part of rlx_poll(): the port feeds the bytes of the modem with rlx_link_feed() and sends
 * what rlx_link_take() gives, as of any serial link. All memory is in this struct and the link's
 * buffer.
 */
#ifndef RLX_SMS_H
#define RLX_SMS_H

#include "rlx/def/replies.h"
#include "rlx/guess.h"
#include "rlx/pdu.h"

#ifdef __cplusplus
extern "C" {
#endif

#if RLX_HAS_SMS

#define RLX_SMS_OUT  32u /* bytes to the modem that may wait: a power of two */
#define RLX_SMS_LINE 32u /* bytes of its lines that are looked at */

/* Bytes of the record that is kept over a power cut: what was begun or done last, and the sums of
 * the last four messages. */
#define RLX_SMS_KEPT   4u
#define RLX_SMS_RECORD (3u + 6u * RLX_SMS_KEPT)

/* With a code also how often it was wrong in a row, of the number that knew it last and of all
 * others, and that number's sum. */
#define RLX_SMS_RECORD_CODE (RLX_SMS_RECORD + 5u)

enum rlx_modem_state {
#define RLX_MODEM_ENUM(id, word) RLX_MODEM_##id,
    RLX_MODEM_STATES(RLX_MODEM_ENUM)
#undef RLX_MODEM_ENUM
};

struct rlx_sms {
    /* Private, written by the interrupt side. */
    uint8_t out_tail;

    /* Private. */
    uint8_t out_head;
    uint8_t out[RLX_SMS_OUT];
    uint8_t line[RLX_SMS_LINE];
    uint8_t line_count;
    bool line_cut;        /* bytes of this line were lost */
    bool hex;             /* the line is a message */
    uint8_t nibble;       /* half an octet; 255: none */
    uint16_t last_number; /* of the line */

    uint8_t step, next; /* what is being done, and what comes when the record is kept */
    bool asked;         /* the modem has still to answer */
    uint8_t result;     /* its final result code */
    uint16_t fault;     /* number of its error */
    uint8_t tries, fails;
    bool timed;
    uint32_t due;

    bool more;               /* something came since the last look at the store */
    uint16_t hint;           /* where; 0: nobody knows */
    uint16_t index, rounds;  /* the place in hand; so many were looked at */
    uint16_t total;          /* places of the store */
    uint8_t used, found;     /* that are not empty; so many of them were seen */
    bool pdu_is_there;       /* the place was not empty */
    uint8_t length;          /* of its TPDU */
    uint32_t seen;           /* what was read there the last time */
    struct rlx_pdu_in in;    /* the message in hand... */
    struct rlx_pdu_out out_; /* ...and the one that is being sent */
    uint8_t to[RLX_PDU_ADDRESS];
    uint8_t sends;  /* tries to send it */
    bool loaded;    /* the record of the last messages was read */
    bool in_hand;   /* there is a message, to be deleted when it was answered */
    bool begins;    /* it is obeyed when it was deleted: nothing can be kept */
    bool resumes;   /* the record has a message that was being handled when the power was cut */
    bool again;     /* it was begun then: what cannot be repeated is not... */
    bool done;      /* ...and it was done: its verdict is known */
    bool old;       /* it is too old by now: nothing is repeated */
    uint8_t source; /* number of its sender among those who may command, from 1 */
    uint8_t verdict;
    bool clock_known;
    uint32_t clock, clock_at; /* seconds since 2000, and when that was */
    bool registered;
    uint8_t state; /* enum rlx_modem_state, but for the clock */

#if RLX_HAS_SMS_CODE
    struct rlx_guesses guesses[2]; /* of all others; of the number that knew the code last */
#endif

    /* Read-only: counters, which stay at 65535. */
    uint16_t strangers; /* messages from numbers that are not served: deleted, not answered */
#if RLX_HAS_SMS_CODE
    uint16_t wrong; /* messages with a wrong code, which are among the strangers */
#endif
    uint16_t repeats;   /* messages that had come before */
    uint16_t damaged;   /* messages that could not be read */
    uint16_t unsent;    /* answers and events that the modem did not send */
    uint16_t resets;    /* so often it had to be started anew */
};

#endif

#ifdef __cplusplus
}
#endif

#endif
