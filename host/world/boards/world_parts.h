/* What the files that read a world file share: world_links.c has what links go through,
 * world_file.c the rest and the whole. */
#ifndef WORLD_PARTS_H
#define WORLD_PARTS_H

#include "lexicon/read/reader.h"
#include "world/boards/world_file.h"

/* What a statement changes. */
struct target {
    struct world_file *file;
    uint64_t at_us;
};

/* A time up to a minute, in microseconds; false after a fault. */
bool world_read_us(struct statement *st, const char *what, uint32_t *us);
/* The link that is named, of these media; NULL after a fault. */
const struct lex_link *world_named_link(struct statement *st, unsigned media,
                                        struct world_place *place);

/* The input of a device that is named, "door" or "two.door"; NULL after a fault. */
const struct lex_input *world_named_input(struct statement *st, struct world_place *place);

/* Statements about links. */
void world_read_cable(struct statement *st);
void world_read_modem(struct statement *st);
void world_read_air(struct statement *st);
void world_read_reports(struct statement *st);
void world_read_sms(struct statement *st);
void world_read_wire(struct statement *st);

#define WORLD_BRIDGE (1u << LEX_BRIDGE)
#define WORLD_WIRED  (1u << LEX_SERIAL | 1u << LEX_BRIDGE | 1u << LEX_MODEM)

#endif
