/* What a report was made by, when and of what: each one carries it. */
#ifndef MADE_H
#define MADE_H

#include <jansson.h>

#include "lexicon/write/table_image.h"

/* "0.2.0"; and "rlx 0.2.0", with the commit where it is known. */
const char *made_version(void);
const char *made_tool(void);

/* {"tool", "date" (ISO 8601, UTC; of SOURCE_DATE_EPOCH where that is set), "lexicon",
 * "fingerprint", "firmware_sha256" (where there is one that can be read), "seed"}. Owned by the
 * caller. */
json_t *made_json(const struct lexicon *lx, const struct image *image, const char *firmware,
                  uint32_t seed);

/* The same in a line. Owned by the caller; NULL where there is none. */
char *made_text(const json_t *made);

/* How long something took since then, by g_get_monotonic_time(); 0 with SOURCE_DATE_EPOCH. */
double made_seconds(gint64 since_us);

#endif
