/* One code of a seal over a frame of 40 bytes, on an emulated chip: bench/seal counts the
 * instructions of its trace. */
#include "../src/core/seal_code.h"

#define FRAME 40

volatile uint8_t sink;
static const uint8_t key[] = "sample-key-of-deck--";

#ifndef __AVR__
void uart0_interrupt(void);
void timer0_interrupt(void);
void uart0_interrupt(void)
{
}
void timer0_interrupt(void)
{
}
#endif

int main(void)
{
    struct rlx_hmac hmac;
    uint8_t mac[RLX_HMAC_BYTES];
    rlx_hmac_begin(&hmac, key, sizeof key - 1);
    for (uint8_t i = 0; i < FRAME; i++) rlx_hmac_add(&hmac, i);
    rlx_hmac_end(&hmac, mac);
    sink = rlx_hmac_character(mac, 10);
    for (;;) {} /* the trace ends where an instruction comes twice */
}
