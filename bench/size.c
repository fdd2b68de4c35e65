/* A program with one parser in it, to be linked and weighed; with -DNOTHING the same without. */
#ifdef NOTHING
#define UUT_START()    ((void)0)
#define UUT_FEED(byte) (port = (byte))
#define UUT_POLL()     port
#define UUT_TAKE(to)   (*(to) = port)
#define UUT_IDLE()     port
#include <stdint.h>
#else
#include "uut.h"
#endif

volatile uint8_t port;
void kick(void);
void kick(void)
{
    port = 1;
}

void interrupt(void);
void interrupt(void)
{
    uint8_t byte;
    UUT_FEED(port);
    if (UUT_TAKE(&byte)) port = byte;
}

int main(void)
{
    UUT_START();
    for (;;) {
        uint32_t wait = UUT_POLL();
        if (UUT_IDLE()) port = (uint8_t)wait;
    }
}
