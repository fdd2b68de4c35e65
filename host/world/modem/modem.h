/* A modem for text messages, as it stands on the other side of a serial line: the command syntax of
 * ITU-T V.250, the commands of 3GPP TS 27.007 and 27.005 in text and PDU mode. Slow, chatty, and
 * rude on demand. */
#ifndef MODEM_H
#define MODEM_H

#include "world/modem/network.h"

struct sms_manner {
    uint64_t answers_us; /* to a command */
    uint64_t sends_us;   /* until a message was taken by the network */
    unsigned places;     /* of its store, 1..255 */
    bool text_first;     /* it begins in text mode */
    bool silent;         /* it answers nothing */
    bool unregistered;   /* there is no network */
    bool pin_wanted;     /* its card has not been unlocked */
    bool clock_unset;    /* nobody has set its clock */
    uint32_t rubbish;    /* a byte is another one: parts of a billion */
    uint32_t chatty;     /* a notice stands before a byte: the same */
};

/* A byte goes to the device. */
typedef void (*modem_says)(void *user, uint8_t byte);
/* A line went over, for who looks on. */
typedef void (*modem_line)(void *user, bool from_device, const char *text);

struct sms_modem *modem_new(struct world *world, struct network *network, uint32_t seed,
                            modem_says says, modem_line line, void *user);
void modem_free(struct sms_modem *modem);
/* How it behaves from now on. */
struct sms_manner *modem_manner(struct sms_modem *modem);

/* A byte from the device. */
void modem_hear(struct sms_modem *modem, uint8_t byte);
/* It loses its power and has it again: what it was doing is forgotten, its store is not. */
void modem_reset(struct sms_modem *modem);
/* It is without power from now on; or has it. */
void modem_power(struct sms_modem *modem, bool on);
/* An unsolicited result code before byte number `at` that it sends from now on, from 1; 0: none. */
void modem_interrupt(struct sms_modem *modem, unsigned at);

/* A message from the network; false: it cannot take it now. */
bool modem_deliver(struct sms_modem *modem, const guint8 *tpdu, unsigned size);

/* Messages in its store; whether one is being sent; messages it has sent so far. */
unsigned modem_stored(const struct sms_modem *modem);
bool modem_is_busy(const struct sms_modem *modem);
unsigned modem_sent(const struct sms_modem *modem);
/* Bytes that it sent since modem_interrupt(), and received so far. */
unsigned modem_said(const struct sms_modem *modem);
unsigned modem_heard(const struct sms_modem *modem);

#endif
