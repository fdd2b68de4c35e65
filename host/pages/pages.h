/* Pages for a browser: each is one file that needs no other. The lexicon is in it as JSON. */
#ifndef PAGES_H
#define PAGES_H

#include "lexicon/write/table_image.h"

/* Buttons, sliders, lamps and a conversation over each link without a seal: it commands a device.
 * Owned by the caller. */
char *pages_sender(const struct lexicon *lx, const struct image *image);
/* The same as NAME.html in the folder, as emit_write() writes it. */
bool pages_write_sender(const struct lexicon *lx, const struct image *image, const char *directory,
                        GError **error);
/* The simulated board of `rlx serve --web`, alive. Owned by the caller. */
char *pages_bench(const struct lexicon *lx, const struct image *image);
/* Drills of it, started and watched. Owned by the caller. */
char *pages_drill(const struct lexicon *lx, const struct image *image);

#endif
