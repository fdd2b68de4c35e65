/* What calls and handlers return, and why a chip started. rlx/def/errors.h lists the errors. */
#ifndef RLX_ERROR_H
#define RLX_ERROR_H

#include "rlx/def/errors.h"

/* A handler, and a call that acts on an output, returns one of these, or -RLX_ERR_... */
enum rlx_result {
    RLX_DONE = 0,
    RLX_ALREADY = 1, /* nothing changed: it was so before */
    RLX_WAITS = 2    /* an output that does it later */
};

/* Why the chip started: the port or the start-up code knows. The greeting ends with the word. */
#define RLX_RESETS(X)       \
    X(POWER, "power")       \
    X(PIN, "pin")           \
    X(WATCHDOG, "watchdog") \
    X(BROWNOUT, "brownout") \
    X(SOFTWARE, "software") \
    X(UNKNOWN, "unknown")

/* The word instead, where the greeting comes because a link came up. */
#define RLX_TXT_CONNECT "connect"

enum rlx_reset {
#define RLX_RESET_ENUM(id, name) RLX_RESET_##id,
    RLX_RESETS(RLX_RESET_ENUM)
#undef RLX_RESET_ENUM
};

#endif
