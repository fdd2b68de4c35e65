/* What stands in for the handlers of a firmware that is not written yet: they answer as done, and
 * do what their contracts say. */
#ifndef STAND_IN_H
#define STAND_IN_H

#include "lexicon/model.h"
#include "rlx/rlx.h"

#define STAND_IN_VALUES 15

/* What it keeps of a command until the next reset: the values that were obeyed last. */
struct stand_in_last {
    bool given;
    rlx_value values[STAND_IN_VALUES];
};

/* Does what the contract of the command's handler says, with these values, and returns what the
 * handler does: 0, or why an output refused. `last`: of each handler, by the image's numbers;
 * `called`: struct lex_command *, by the same. */
int stand_in_act(struct rlx_device *device, const struct lexicon *lx, const GPtrArray *called,
                 unsigned handler, rlx_value *values, struct stand_in_last *last);

#endif
