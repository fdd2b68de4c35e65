/* Ready Lexicon: everything a firmware program includes. */
#ifndef RLX_RLX_H
#define RLX_RLX_H

#include "rlx/device.h"
#include "rlx/drive.h"
#include "rlx/port.h"

#endif
