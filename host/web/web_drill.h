/* A drill that pages start and watch, and scenes that are played for them: docs/bench-protocol.md.
 * Each is the tool itself, beside the board that is served. */
#ifndef WEB_DRILL_H
#define WEB_DRILL_H

#include "web/web.h"

#define DRILL_MESSAGE (64u * 1024) /* bytes of the longest message: a scene is in it */

struct web_drill;

/* `firmware` may be NULL; `suites` ends with NULL. All names are copied. */
struct web_drill *web_drill_new(struct web *web, const struct lexicon *lx, const char *firmware,
                                const char *const *suites);
void web_drill_free(struct web_drill *drill);

#endif
