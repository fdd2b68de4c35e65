/* A live conversation at a terminal: lines are edited, completed and remembered, and what the
 * device sends appears the moment it comes, above the line that is being typed. */
#ifndef CONSOLE_H
#define CONSOLE_H

#include "world/talk/talk.h"

/* Until Ctrl-D, or Ctrl-C on an empty line. Standard input and output are terminals. `board`: where
 * the bytes of a real board come in; -1: it is simulated. False: the device failed, or it could not
 * begin (error is set). */
bool console_run(struct lexicon *lx, const struct image *image, struct talk_options *options,
                 double speed, int board, GError **error);

#endif
