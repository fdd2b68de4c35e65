/* Text messages as a modem has them in PDU mode: 3GPP TS 23.040 with the 7-bit default alphabet of
 * 23.038. A message that came (SMS-DELIVER) is read octet by octet into a buffer of the caller, one
 * to be sent (SMS-SUBMIT) is written octet by octet; neither needs the whole PDU in memory. The
 * driver of rlx/sms.h calls these; firmware with a driver of its own may. None may be called from
 * an interrupt. */
#ifndef RLX_PDU_H
#define RLX_PDU_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"

#ifdef __cplusplus
extern "C" {
#endif

#if RLX_HAS_SMS

/* Most characters of a message, 23.040: 160 septets. */
#define RLX_PDU_TEXT 160u
/* Octets of an address at most: digits, type, 20 digits in 10 octets (23.040, 9.1.2.5). */
#define RLX_PDU_ADDRESS 12u

/* What a message is. */
enum rlx_pdu {
    RLX_PDU_SOUND,
    RLX_PDU_DAMAGED,  /* lengths that do not fit, or what no SMS-DELIVER has */
    RLX_PDU_OTHER,    /* a status report, or a submitted one: none that came for the device */
    RLX_PDU_LONG,     /* a part of several, or longer than the buffer */
    RLX_PDU_ALPHABET, /* UCS2, 8-bit data, or a character that no command has */
};

/* A message that is being read. */
struct rlx_pdu_in {
    /* Read-only, after rlx_pdu_end(). */
    uint8_t sender[RLX_PDU_ADDRESS]; /* as in the PDU: digits, type, two digits an octet */
    uint8_t stamp[7];                /* the centre's time stamp, as in the PDU (9.2.3.11) */
    uint32_t sum;  /* the same for the same number, time stamp and text; for all parts of one */
    uint8_t count; /* characters of the text */
    /* Private. */
    uint8_t *text, size;
    uint8_t at;         /* which field comes next */
    uint8_t left;       /* octets of it */
    uint8_t octets;     /* of the TPDU so far */
    uint8_t first, dcs; /* its first octet; the data coding scheme */
    uint8_t septets;    /* characters that are still to come */
    uint8_t skip;       /* septets that are the header */
    uint8_t header;     /* octets of it that are still to come */
    uint8_t element, element_left, element_at;
    uint16_t bits;
    uint8_t n_bits;
    bool escaped, damaged, part, long_, strange;
};

/* Begins: the text goes into `text`, of `size` bytes (1..254), which is not ended by a 0. */
void rlx_pdu_begin(struct rlx_pdu_in *in, uint8_t *text, uint8_t size);
/* The next octet, from the service centre's address on. */
void rlx_pdu_octet(struct rlx_pdu_in *in, uint8_t octet);
/* The end; `length` is that of the TPDU, as the modem reported it. */
enum rlx_pdu rlx_pdu_end(struct rlx_pdu_in *in, uint8_t length);

/* Seconds from 2000-01-01 00:00 UTC to a time stamp; 0: it is none. */
uint32_t rlx_pdu_seconds(const uint8_t stamp[7]);

/* A message that is being written. */
struct rlx_pdu_out {
    /* Private. */
    const uint8_t *to, *text;
    uint8_t count;
    uint8_t at, septets, done;
    uint16_t bits;
    uint8_t n_bits;
    bool second;
};

/* Begins one to an address as in `sender` above, of up to 160 septets of text: [ ] { } \ ^ ~ | take
 * two, ` and what is no ASCII become '?'. Both must stay until the last octet was taken. Returns
 * the TPDU's length for AT+CMGS (27.005), 0: the text is too long. Valid for a day. */
uint8_t rlx_pdu_write(struct rlx_pdu_out *out, const uint8_t *to, const uint8_t *text,
                      uint8_t count);
/* The next octet, from an empty service centre's address on; false: that was all. */
bool rlx_pdu_next(struct rlx_pdu_out *out, uint8_t *octet);

/* "+15550142" as an address; false: that is no number of 1..20 digits. */
bool rlx_pdu_address(const char *number, uint8_t count, uint8_t address[RLX_PDU_ADDRESS]);

#endif

#ifdef __cplusplus
}
#endif

#endif
