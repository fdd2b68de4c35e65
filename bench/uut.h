/* The parser under measurement: the library with the emitted tables, or one by hand. */
#ifdef HAND
#include "hand.h"
#define UUT_START()    ((void)0)
#define UUT_FEED(byte) hand_feed(byte)
#define UUT_POLL()     hand_poll()
#define UUT_TAKE(to)   hand_take(to)
#define UUT_IDLE()     hand_idle()
#else
#include "bench.h"
static struct bench uut;
void kick(void);
void rlx_port_kick(void *port, uint8_t link)
{
    (void)port;
    (void)link;
    kick();
}
#define UUT_START()    ((void)!bench_init(&uut, 0, RLX_RESET_POWER))
#define UUT_FEED(byte) rlx_link_feed(uut.link, byte)
#define UUT_POLL()     rlx_poll(&uut.device, 0)
#define UUT_TAKE(to)   rlx_link_take(uut.link, to)
#define UUT_IDLE()     rlx_idle(&uut.device)
#endif
