/* What a sender sent, byte by byte with its times, and what somebody did at it meanwhile. */
#ifndef RECORDING_H
#define RECORDING_H

#include "lexicon/model.h"

struct heard {
    uint64_t at_us; /* its end */
    uint8_t byte;
    bool packet; /* the first one of a packet */
};

enum act { ACT_PRESSED, ACT_RELEASED, ACT_SLID, ACTS };
struct mark {
    uint64_t at_us; /* not later than what it is about */
    enum act act;
    char *name; /* of the button or slider */
};

struct recording {
    char *link, *handset; /* their names; NULL: not given */
    enum lex_medium medium;
    unsigned baud; /* 0: not known */
    struct lex_format format;
    uint64_t clock_us; /* resolution of the times: a shorter gap is no silence */
    GArray *bytes;     /* struct heard */
    GArray *marks;     /* struct mark */
    unsigned noise;    /* bytes that were none */
};

struct recording *recording_new(void);
void recording_free(struct recording *recording);
/* Bytes that came one behind the other, the last one at `to_us`. */
void recording_hear(struct recording *recording, uint64_t from_us, uint64_t to_us,
                    const guint8 *bytes, size_t count, bool packet);
void recording_mark(struct recording *recording, uint64_t at_us, enum act act, const char *name);

/* Reads a trace with `heard` lines, or a text file of times and bytes. `link` and `handset` choose
 * among several; each may be NULL. NULL and an error where there is none. */
struct recording *recording_read(const char *file, const char *link, const char *handset,
                                 GError **error);
/* Writes it as a trace. */
bool recording_write(const struct recording *recording, const char *file, GError **error);

#endif
