/* The sender of a link with channels: where its sticks and switches stand, the frame that says it,
 * and how they must stand for a command. */
#ifndef STICKS_H
#define STICKS_H

#include "lexicon/model.h"

struct sticks {
    uint16_t at[LEX_CHANNELS_MOST];
    bool failsafe; /* the receiver hears nobody */
};

/* Sticks at rest; switches where they choose nothing, or in their first zone. */
void sticks_rest(const struct lex_link *link, struct sticks *sticks);
/* The sticks that must be at rest before they move anything. */
void sticks_release(const struct lex_link *link, struct sticks *sticks);
/* Puts those of a command where it is meant, or of "channel 3 1500" that one; "failsafe" is of the
 * receiver. False: no row says it, or no place of the stick has just this value. */
bool sticks_set(const struct lex_link *link, struct sticks *sticks, const char *text);
/* Whether the command is chosen by a switch that stands there; it then leaves the zone if it can.
 */
bool sticks_leave(const struct lex_link *link, struct sticks *sticks, const char *text);
/* The bytes of the frame. Owned by the caller. */
GByteArray *sticks_frame(const struct lex_link *link, const struct sticks *sticks);

/* The frame of a command when all else is at rest; NULL: there is none. Owned by the caller. */
GByteArray *sticks_say(const struct lex_link *link, const char *text);
/* Whether there is one that means just this text. */
bool sticks_says(const struct lex_link *link, const char *text);
/* Whether anything moves for it from where all is at rest. */
bool sticks_moves(const struct lex_link *link, const char *text);
/* What a frame says when all else is at rest: the first row that is not; "": all is at rest; NULL:
 * it is damaged, or its sender hears nobody. Owned by the caller. */
char *sticks_heard(const struct lex_link *link, const guint8 *bytes, size_t count);
/* The first row that is a command. */
const struct lex_packed *sticks_first(const struct lex_link *link);
/* The slot's value of a channel that has this, to the nearest. */
int64_t sticks_value(const struct lex_field *field, uint16_t at);

#endif
