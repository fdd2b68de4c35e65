/* Tells the flood test where to look: the symbol's value is an offset. */
#include <stddef.h>

#include "tidetank.h"

void rx_lost_symbol(void);
void rx_lost_symbol(void)
{
    __asm__ volatile(".global rx_lost_offset\n.set rx_lost_offset, %c0"
                     :
                     : "i"(offsetof(struct tidetank, link) + offsetof(struct rlx_link, rx_lost)));
}
