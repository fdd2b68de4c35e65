/* What of the design was exercised: commands, both ends of slots and past them, errors, output
 * transitions, events, faults. Keys are parts joined by '|', the first one its kind. */
#ifndef COVER_H
#define COVER_H

#include "world/boards/bench.h"
#include "drill/suites/suite.h"

/* What each output was at. */
struct cover {
    const char *was[256];
};

void cover_said(struct yield *yield, const struct drill *drill, const struct move *move,
                const struct result *result);
void cover_seen(struct cover *cover, struct yield *yield, const struct drill *drill,
                const struct sight *sight);

/* All that could be, with 0 where it is not in `counted`: an object of kinds, each an object of
 * names and counts. On a real board without outputs and events, which nobody sees, and without what
 * may not be said. Owned by the caller. */
json_t *cover_all(const struct drill *drill, const json_t *counted);

#endif
