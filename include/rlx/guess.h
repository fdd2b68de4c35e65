/* Wrong codes in a row, and the pause behind them: what keeps people from trying all codes. For
 * text messages (`code setting pin`) and commands (`code pin`). */
#ifndef RLX_GUESS_H
#define RLX_GUESS_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/config.h"

#define RLX_GUESSES      5u                 /* wrong codes in a row: then a pause begins */
#define RLX_GUESS_MS     UINT32_C(60000)    /* the first pause; each further one is twice as long */
#define RLX_GUESSES_MOST (RLX_GUESSES + 6u) /* from here on pauses stay as they are */

struct rlx_guesses {
    uint8_t wrong;
    bool pauses;    /* the device ignores codes... */
    uint32_t until; /* ...until this time in ms */
};

#endif
