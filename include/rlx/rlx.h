/* Ready Lexicon: everything that a firmware's main program includes. A port includes rlx/port.h,
 * the sender's side rlx/client.h. */
#ifndef RLX_RLX_H
#define RLX_RLX_H

#include "rlx/device.h"
#include "rlx/drive.h"

#endif
