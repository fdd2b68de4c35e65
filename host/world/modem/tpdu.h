/* Messages as a network and a modem have them: 3GPP TS 23.040. Written apart from the library's own
 * codec, so that each is checked by the other. */
#ifndef TPDU_H
#define TPDU_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

/* The fields of a message; texts are UTF-8. */
struct tpdu {
    char *number; /* of the sender or receiver: +15550142, 0142, or a name */
    char *text;
    uint8_t protocol, coding, validity; /* as they stand in it */
    uint8_t reference;                  /* of a submitted message and its report */
    bool report;                        /* a report is wanted */
    uint8_t part, parts;                /* of several, from 1; 0: it is one */
    uint8_t parts_of;                   /* which several */
    uint8_t single, locking;            /* national language tables (9.2.3.24.15); 0: none */
    uint8_t stamp[7];                   /* of a delivered one */
    bool octets;                        /* 8-bit data: the text is hex */
};

void tpdu_clear(struct tpdu *tpdu);

/* SMS-DELIVER (9.2.2.1); NULL: the text does not fit one. */
GByteArray *tpdu_deliver(const struct tpdu *tpdu);
/* SMS-SUBMIT (9.2.2.2). */
GByteArray *tpdu_submit(const struct tpdu *tpdu);
/* SMS-STATUS-REPORT (9.2.2.3) of a submitted one that came at a time, with a status (9.2.3.15). */
GByteArray *tpdu_report(const struct tpdu *submitted, const uint8_t came[7], uint8_t status);
/* Each false: it is none. The texts are to be cleared. */
bool tpdu_read_deliver(const guint8 *bytes, unsigned size, struct tpdu *tpdu);
bool tpdu_read_submit(const guint8 *bytes, unsigned size, struct tpdu *tpdu);

/* Whether the coding (23.038, 4) is that of UCS2. */
bool tpdu_is_ucs2(uint8_t coding);
/* A time stamp (9.2.3.11) of seconds since 2000 UTC, in a zone of so many quarters of an hour.
 */
void tpdu_stamp(uint64_t seconds, int quarters, uint8_t stamp[7]);
/* "26/03/01,08:00:00+04", as 27.005 and 27.007 write it. */
char *tpdu_stamp_text(const uint8_t stamp[7]);
/* An address (9.1.2.5); false: it is too long. */
bool tpdu_put_address(GByteArray *to, const char *number);

#endif
