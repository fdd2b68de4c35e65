/* The reference card for the sender: commands, events, links. */
#ifndef CARD_H
#define CARD_H

#include "lexicon/write/table_image.h"

/* As plain text (80 columns, or what table_columns() set), as Markdown, as a page of HTML to look
 * at and to print, with each frame byte for byte, and as JSON for a program. Owned by the caller.
 */
char *lexicon_card_text(const struct lexicon *lx, const struct image *image);
char *lexicon_card_markdown(const struct lexicon *lx, const struct image *image);
char *lexicon_card_html(const struct lexicon *lx, const struct image *image);
char *lexicon_card_json(const struct lexicon *lx, const struct image *image);

/* Of the page: the example of each link and what each button sends, byte for byte. */
void card_put_frames(GString *out, const struct lexicon *lx);

#endif
