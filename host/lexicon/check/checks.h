/* What the files of the checker share. */
#ifndef CHECKS_H
#define CHECKS_H

#include "check.h"
#include "reader.h"

/* Adds a fault about a name, by which it can be accepted; the witness, which becomes the fault's,
 * may be NULL. */
struct lex_fault *check_find(struct lexicon *lx, enum lex_code code, struct lex_place place,
                             const char *subject, char *witness, const char *format, ...)
    G_GNUC_PRINTF(6, 7);

/* The first word of a command, or its slot's name. */
const char *check_subject(const struct lex_command *command);
/* Whether the command tells this output something. */
bool check_tells(const struct lex_command *command, unsigned output);
/* Whether the command may be said over the link, as far as `only` goes. */
bool check_may_say(const struct lex_link *link, const struct lex_command *command);
/* Bytes that stand around a frame of the link: address, tag, check, seal. */
unsigned check_envelope(const struct lex_link *link);

/* Whether the link tells notes: they go to whoever looks on, not to many and not as text messages.
 */
bool check_has_notes(const struct lexicon *lx, const struct lex_link *link);

/* One file each. */
void check_pins(struct lexicon *lx);
void check_outputs(struct lexicon *lx);
void check_motion(struct lexicon *lx);
void check_links(struct lexicon *lx);
void check_lengths(struct lexicon *lx);
void check_senders(struct lexicon *lx);
void check_names(struct lexicon *lx);

#endif
