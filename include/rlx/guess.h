/* Wrong codes in a row, and the pause behind them: what keeps people from trying all codes. For
 * text messages (`code setting pin`) and commands (`code pin`). */
#ifndef RLX_GUESS_H
#define RLX_GUESS_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"

/* From so many wrong codes on none is looked at for a while: at first so many ms, then twice as
 * long each time, up to the count below. */
#define RLX_GUESSES      5u
#define RLX_GUESS_MS     UINT32_C(60000)
#define RLX_GUESSES_MOST (RLX_GUESSES + 6u)

struct rlx_guesses {
    uint8_t wrong;
    bool pauses;    /* no code is looked at... */
    uint32_t until; /* ...until then */
};

#endif
