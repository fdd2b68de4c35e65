/* What can stand next in a line that somebody types: words of the lexicon, and slots with their
 * ranges. */
#ifndef COMPLETE_H
#define COMPLETE_H

#include "world/talk/talk.h"

/* What begins with the last word of the line, in its order, each once; struct complete. The array
 * is owned by the caller. */
struct complete {
    char *text;
    bool slot; /* it is shown, and not typed: "{level 0..100%}" */
};
GPtrArray *complete_line(struct talk *talk, const char *line);
/* What all words of it begin with, behind the last word of the line; "" where that is nothing.
 * Owned by the caller. */
char *complete_common(const GPtrArray *all, const char *line);

#endif
