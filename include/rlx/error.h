/* What calls return, and why a chip started. The list of errors is rlx/def/errors.h. */
#ifndef RLX_ERROR_H
#define RLX_ERROR_H

#include "rlx/def/errors.h"

/* A handler or drive returns 0 for done, this for "was so already", -RLX_ERR_... otherwise. */
#define RLX_ALREADY 1
/* An output that does it later. */
#define RLX_WAITS 2

/* Why the chip started; the port or the start-up code knows. The greeting says it. */
#define RLX_RESETS(X)       \
    X(POWER, "power")       \
    X(PIN, "pin")           \
    X(WATCHDOG, "watchdog") \
    X(BROWNOUT, "brownout") \
    X(SOFTWARE, "software") \
    X(UNKNOWN, "unknown")

enum rlx_reset {
#define RLX_RESET_ENUM(id, name) RLX_RESET_##id,
    RLX_RESETS(RLX_RESET_ENUM)
#undef RLX_RESET_ENUM
};

#endif
