/* What the files of the checker share. */
#ifndef CHECKS_H
#define CHECKS_H

#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"

/* Adds a fault about a name, by which it can be accepted; the witness, which becomes the fault's,
 * may be NULL. */
struct lex_fault *check_find(struct lexicon *lx, enum lex_code code, struct lex_place place,
                             const char *subject, char *witness, const char *format, ...)
    G_GNUC_PRINTF(6, 7);

/* The first word of a command, or its slot's name. */
const char *check_subject(const struct lex_command *command);
/* Whether the event is told over the link. */
bool check_goes_to(const struct lex_event *event, const struct lex_link *link);
/* One file each. */
void check_pins(struct lexicon *lx);
void check_outputs(struct lexicon *lx);
void check_motion(struct lexicon *lx);
void check_links(struct lexicon *lx);
void check_lengths(struct lexicon *lx);
void check_senders(struct lexicon *lx);
void check_paid(struct lexicon *lx);
void check_locks(struct lexicon *lx);
void check_memory(struct lexicon *lx);
void check_contracts(struct lexicon *lx);
/* locks.c: whether somebody may be there whom nobody knows. */
bool check_open_to_all(const struct lex_link *link);
void check_bounds(struct lexicon *lx);
void check_layouts(struct lexicon *lx);
void check_names(struct lexicon *lx);

#endif
