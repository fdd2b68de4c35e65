/* The firmware of the dial, and a count of the pulses that its interrupt has sent. */
#include "board.h"
#include "dial.h"
#include "rlx/port.h"

void __real_timer2_interrupt(void);
void __wrap_timer2_interrupt(void);

static struct dial dial;
volatile uint32_t pulses;

/* In place of the port's, which it calls: ld --wrap. */
void __wrap_timer2_interrupt(void)
{
    uint16_t left = rlx_port_steps_left(0, 2);
    __real_timer2_interrupt();
    pulses = pulses + (uint16_t)(left - rlx_port_steps_left(0, 2));
}

int main(void)
{
    void *port = board_start(dial.link, DIAL_LINKS, DIAL_BENCH_BAUD);
    if (!port || dial_init(&dial, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&dial.device, board_millis());
        board_mask();
        if (rlx_idle(&dial.device)) board_sleep(wait);
        board_unmask();
    }
}
