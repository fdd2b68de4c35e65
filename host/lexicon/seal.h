/* Seals as a sender and a device make them, computed apart from the library, so that each checks
 * the other. */
#ifndef SEAL_H
#define SEAL_H

#include "lexicon/model.h"

#define SEAL_CODE 11u /* characters of a code */

/* Kinds of frames. */
enum seal_kind {
    SEAL_OPENING = 'o', /* !1?99.CODE: asks for a session */
    SEAL_SESSION = 'a', /* !1=7.CODE: gives it */
    SEAL_COMMAND = 'c', /* !1.17.CODE pump on */
    SEAL_ANSWER = 'r',  /* !1.17.CODE ok pump on */
    SEAL_TO_ALL = 'e'   /* !1.8.CODE ev call */
};

/* One end of a session. */
struct seal {
    const char *key, *context; /* context: of lex_seal_context() */
    unsigned number;           /* of the key */
    uint32_t session;          /* 0: there is none */
    char question[SEAL_CODE];  /* the code that is answered */
};

/* The frame with its seal, `around` standing before it ("@3/1 "); `count` is the counter, or the
 * number asked with or given. The code is also put into `question` of a frame that asks. Owned by
 * the caller. */
char *seal_frame(struct seal *seal, enum seal_kind kind, const char *around, uint32_t count,
                 const char *text);
/* Whether the seal of this frame is right for the kind; *count: its number, *text: what stands
 * behind it, in the frame. */
bool seal_is_right(const struct seal *seal, enum seal_kind kind, const char *frame, uint32_t *count,
                   const char **text);

#endif
