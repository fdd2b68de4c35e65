/* Tells the tests on the emulated chip where to look: the symbols' values are offsets. */
#include <stddef.h>

#include "tidetank.h"

void rx_lost_symbol(void);
void rx_lost_symbol(void)
{
    __asm__ volatile(".global rx_head_offset\n.set rx_head_offset, %c0"
                     :
                     : "i"(offsetof(struct tidetank, link) + offsetof(struct rlx_link, rx_head)));
    __asm__ volatile(".global rx_lost_offset\n.set rx_lost_offset, %c0"
                     :
                     : "i"(offsetof(struct tidetank, link) + offsetof(struct rlx_link, rx_lost)));
}
