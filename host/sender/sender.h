/* The sender's side of a link, emitted: a function for each command, a reader for what comes back.
 */
#ifndef SENDER_H
#define SENDER_H

#include <jansson.h>

#include "lexicon/write/table_image.h"

/* Writes NAME_LINK.h and NAME_LINK.c into the folder, which is made where it is missing. False:
 * error is set, and no file was changed; of a link with a seal, too, and of a name that other files
 * have. */
bool sender_write(const struct lexicon *lx, const struct image *image, const struct lex_link *link,
                  const char *directory, GError **error);
/* The same, and NAME_HANDSET.h and NAME_HANDSET.c: buttons, sliders and lamps on top of it. */
bool sender_write_handset(const struct lexicon *lx, const struct image *image,
                          const struct lex_handset *handset, const char *directory, GError **error);
/* Whether a page speaks over the link: not by channels, raw bytes or with seals, nor where nothing
 * ends its answers. */
bool sender_has_page(const struct lex_link *link);
/* The lexicon for a page: {"card", "links", "handsets", "errors"}, with the links that have one.
 * Owned by the caller. */
json_t *sender_json(const struct lexicon *lx, const struct image *image);
/* In words: how often it sends a command, and how long it waits. Owned by the caller. */
char *sender_manner(const struct lex_link *link);

#endif
