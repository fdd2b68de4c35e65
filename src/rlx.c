/* The whole library as one file to compile: what is small goes where it is called. */
#define RLX_UNITY

#include "core/ring.c"
#include "core/reply.c"
#include "core/number.c"
#include "core/slot.c"
#include "core/match.c"
#include "core/envelope.c"
#include "core/admit.c"
#include "core/log.c"
#include "core/help.c"
#include "core/built_in.c"
#include "core/frame.c"
#include "core/ahead.c"
#include "core/act.c"
#include "core/event.c"
#include "core/device.c"
#include "drive/drive.c"
