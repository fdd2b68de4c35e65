/* What the files of the modem share: modem.c has the line and the commands of V.250,
 * modem_commands.c those of 27.007, modem_messages.c those of 27.005, modem_text.c what they are
 * written in. */
#ifndef MODEM_PARTS_H
#define MODEM_PARTS_H

#include "world/modem/modem.h"

/* Registers of V.250 that are more than kept: line end, line feed, backspace. */
enum { S_END = 3, S_FEED = 4, S_BACK = 5, S_REGISTERS = 32 };

/* Stat of a stored message, 27.005, 3.1. */
enum { UNREAD, READ, UNSENT, SENT, ALL };

struct stored {
    GByteArray *tpdu; /* NULL: the place is empty */
    unsigned stat;
};

/* Error numbers: 27.005, 3.2.5, and of 27.007, 9.2. */
enum {
    CMS_NOT_SUPPORTED = 303,
    CMS_BAD_PDU = 304,
    CMS_BAD_TEXT = 305,
    CMS_PIN = 311,
    CMS_NO_PLACE = 321,
    CMS_FULL = 322,
    CMS_NO_NETWORK = 331,
    CMS_UNKNOWN = 500
};
#define CME_PIN 11

/* How the device writes texts and numbers in text mode (27.007, 5.5). */
enum charset { CHARSET_IRA, CHARSET_GSM, CHARSET_UCS2, CHARSET_UTF8 };
/* The 0 of the default alphabet, '@', in texts that end with 0; no septet is that. */
#define GSM_AT 0x80

enum entry { ENTRY_COMMAND, ENTRY_TEXT };

struct sms_modem {
    struct world *world;
    struct network *network;
    struct draw draw;
    struct sms_manner manner;
    modem_says says;
    modem_line line;
    void *user;
    bool off;
    uint32_t version; /* of what is under way */
    unsigned said, interrupt_at, heard;
    GString *to_line; /* for who looks on */

    /* V.250 */
    bool echo, quiet, verbose; /* E, Q inverted, V */
    unsigned numbers;          /* +CMEE */
    unsigned operator_format;  /* +COPS */
    uint8_t registers[S_REGISTERS];
    GString *command, *last;
    enum entry entry;
    bool busy; /* a command is being worked on */

    /* 27.007, 27.005 */
    unsigned registration_told;                /* +CREG=n */
    bool text_mode, details;                   /* +CMGF, +CSDH */
    enum charset charset;                      /* +CSCS */
    unsigned notice, reports;                  /* +CNMI: mt, ds */
    uint8_t first, protocol, coding, validity; /* +CSMP */
    bool zone_kept;
    struct stored store[256]; /* from 1 */
    GString *text;            /* being entered */
    unsigned length;          /* of the TPDU that is entered */
    char *to;                 /* of a text that is entered */
    bool writes;              /* into the store, not to the network */
    uint8_t reference;
    unsigned sent;
};

/* ---- modem.c ---- */

/* A line of information, and an unsolicited one. */
void modem_info(struct sms_modem *m, const char *format, ...) G_GNUC_PRINTF(2, 3);
void modem_notice(struct sms_modem *m, const char *text);
void modem_emit(struct sms_modem *m, const char *bytes);

/* What a command comes to. */
enum outcome { OUTCOME_OK, OUTCOME_ERROR, OUTCOME_LATER, OUTCOME_CMS = 1000, OUTCOME_CME = 2000 };
/* A result that came later. */
void modem_result(struct sms_modem *m, unsigned outcome);

/* An extended command: its name without '+', and what stands behind it: "", "?", "=...", "=?". */
unsigned modem_command(struct sms_modem *m, const char *name, const char *rest);

/* ---- modem_text.c ---- */

/* A text in UTF-8 as its character set has it, and back; owned by the caller. From: NULL, it is
 * none. */
char *modem_in_charset(const struct sms_modem *m, const char *text);
char *modem_from_charset(const struct sms_modem *m, const char *text);
/* The octets of hex digits, with blanks behind them; NULL: they are none. */
GByteArray *modem_octets(const char *hex);
/* +CSCS */
unsigned modem_take_charset(struct sms_modem *m, const char *rest);
/* The answer to =?: what may stand behind '='; false: it has none. */
bool modem_tell_range(struct sms_modem *m, const char *name);

/* ---- modem_messages.c ---- */

/* The same, of 27.005; UINT_MAX: it is none of these. */
unsigned modem_message_command(struct sms_modem *m, const char *name, const char *rest);
/* The text that was entered is whole. */
void modem_entered(struct sms_modem *m);

/* The values of a list behind '=': the n-th as a number, `standard` where it is left out; false:
 * it is none. */
bool modem_value(const char *rest, unsigned n, unsigned standard, unsigned *value);
/* The n-th, without quotes; to be freed. */
char *modem_text_value(const char *rest, unsigned n);

#endif
