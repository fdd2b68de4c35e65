/* What a framing has of its own in a lexicon: host/framings has a file for each, and RLX_FRAMES
 * lists them. A framing that lacks its file does not link. */
#ifndef FRAMING_H
#define FRAMING_H

#include "lexicon/model.h"

struct statement;

/* Sets of media. */
#define LEX_IN(medium) (1u << LEX_##medium)
#define LEX_WIRED      (LEX_IN(SERIAL) | LEX_IN(BRIDGE) | LEX_IN(MODEM))

struct lex_framing {
    unsigned media; /* that have it: LEX_IN() of each */
    /* For messages, of keys and codes: what one is called, and how one is bound. */
    const char *unit, *like;
    bool lines;         /* its frames are lines, and end as those do */
    bool answers_lines; /* its answers are lines on a wire */
    bool silence;       /* its gap ends a frame; else it drops part of one */
    unsigned piece;     /* bytes of each packet, where a line comes in several; 0: it does not */

    /* What stands behind its word. False after a fault. NULL: nothing. */
    bool (*read)(struct statement *st, struct lex_link *link);
    /* Of the card: its frames in words. Owned by the caller. */
    char *(*text)(const struct lex_link *link);
    /* Puts behind a text what ends its frame or fills it; a line is ended by `line_end`. NULL:
     * nothing. */
    void (*complete)(const struct lex_link *link, GString *frame, const char *line_end);
    /* The most bytes of a frame with its envelope, where the framing says so; NULL: it does not. */
    unsigned (*holds)(const struct lex_link *link);
    /* Bytes of the buffer for a frame, by the longest command and the same in its envelope; NULL:
     * the latter, or 48. */
    unsigned (*longest)(const struct lex_link *link, unsigned command, unsigned enveloped);
    /* Bytes of the receive ring where none is given; NULL: 64. */
    unsigned (*receives)(const struct lex_link *link);
    /* The character that the device must know: the last one, what fills a frame or stands before a
     * line. NULL: none. */
    char (*character)(const struct lex_link *link);
};

#define LEX_FRAMING_DECLARE(id, word, feature, keyed, ends, whole) \
    extern const struct lex_framing lex_framing_##word;
RLX_FRAMES(LEX_FRAMING_DECLARE)
#undef LEX_FRAMING_DECLARE

const struct lex_framing *lex_framing_of(const struct lex_link *link);
/* The feature that reads it: RLX_BIT_... */
unsigned lex_framing_need(const struct lex_link *link);
/* Bytes of the packet or message that one frame has to fit; 0: it comes as a stream of bytes, or in
 * pieces. */
unsigned lex_packet_bytes(const struct lex_link *link);
/* The most bytes of a frame with its envelope. */
unsigned lex_frame_bytes(const struct lex_link *link);
/* Bytes of a ring that holds so many: a power of two, as long as there is one. */
unsigned lex_ring_bytes(unsigned least);

#endif
