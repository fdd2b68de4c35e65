/* The card's frames of bytes. */
#ifndef CARD_LAYOUTS_H
#define CARD_LAYOUTS_H

#include <jansson.h>

#include "lexicon/model.h"
#include "lexicon/write/cells.h"

/* A table of them all, and which damage their checks find; nothing where no link has a layout. */
void card_put_layouts(GString *out, const struct lexicon *lx, enum table_form form);
/* The layout of a link that has one. Owned by the caller. */
json_t *card_layout_json(const struct lex_link *link);

#endif
