/* A port to begin from: each function with what it owes. Copy it, fill it in, and run
 * ports/selftest on it. Where there is nothing to fill in, the chip has no such thing: leave the
 * function out, and the linker says whether the lexicon needs it. It compiles for any chip and
 * works on none. docs/porting.md goes through it. */
#include "board.h"

#include "rlx/port.h"

void your_millisecond(void);
void your_uart_received(unsigned uart, uint8_t byte, bool bad);
void your_uart_has_room(unsigned uart);

static struct rlx_link *uarts;
static volatile uint32_t millis;

/* ---- what board.h has: change it as you like, with your main loop ---- */

/* Interrupts off. */
void board_mask(void)
{
}

void board_unmask(void)
{
}

/* Called with interrupts off, after rlx_idle(). Owes: it returns when an interrupt is pending, also
 * one that came before the call, and after `ms` at the latest. Cortex-M: WFI, which a masked
 * interrupt ends. AVR: SEI right before SLEEP. RISC-V: WFI. Returning at once is always right, and
 * takes the most power. */
void board_sleep(uint32_t ms)
{
    (void)ms;
}

/* Owes: milliseconds, never back, also where an interrupt counts them in parts (8- and 16-bit
 * chips: read it with interrupts off); from 2^32 - 1 to 0. A hardware counter of microseconds wraps
 * after 71 minutes: count its wraps. */
uint32_t board_millis(void)
{
    return millis;
}

/* From the chip's register of causes, before anybody clears it. */
enum rlx_reset board_reset_cause(void)
{
    return RLX_RESET_POWER;
}

/* Clock, UARTs and their interrupts; links[n] is UART n's. */
void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size)
{
    if (link_size != sizeof(struct rlx_link)) return 0; /* compiled with another RLX_CONFIG */
    (void)count, (void)baud;
    uarts = links;
    board_unmask();
    return links;
}

/* ---- interrupts ---- */

/* Each millisecond. */
void your_millisecond(void)
{
    millis = millis + 1;
}

/* For each byte; `bad`: framing, parity or overrun. Owes: a fault before the byte that came with
 * it, and a byte with a wrong frame not at all. */
void your_uart_received(unsigned uart, uint8_t byte, bool bad)
{
    if (bad)
        rlx_link_fault(&uarts[uart]);
    else
        rlx_link_feed(&uarts[uart], byte);
}

/* Its transmit register is empty. Owes: the interrupt is off when there is nothing more. */
void your_uart_has_room(unsigned uart)
{
    uint8_t byte;
    if (rlx_link_take(&uarts[uart], &byte)) {
        /* into the transmit register */
    } else {
        /* the interrupt off */
    }
}

/* ---- the port: rlx/port.h has the contracts ---- */

/* Owes: the transmit interrupt comes, also where it was off and the register empty. It may be
 * called at any time, from the main loop only. */
void rlx_port_kick(void *port, uint8_t link)
{
    (void)port, (void)link;
}

/* Owes: the level first, the direction second, so that there is no glitch at power-up; no other pin
 * changes, also where an interrupt writes the same register. */
void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    (void)port, (void)pin, (void)high;
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port, (void)pin;
    return false;
}

/* Owes: the pull, and that a change of the level wakes the main loop. A tick each millisecond does.
 */
void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port, (void)pin, (void)pull;
}

/* Owes: 0 and 65535 are levels without a pulse, from the call on. Channels that share a timer share
 * its hz. */
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    (void)port, (void)channel, (void)duty, (void)hz;
}

/* Every 20 ms or so. */
void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    (void)port, (void)channel, (void)us;
}

/* Owes: no pulse is counted twice or not at all, whenever its interrupt comes: change the run with
 * that interrupt off. */
int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    (void)port, (void)channel, (void)more, (void)hz;
    return 0;
}

uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    (void)port, (void)channel;
    return 0;
}

void rlx_port_tone(void *port, uint8_t channel, uint16_t hz)
{
    (void)port, (void)channel, (void)hz;
}

/* Owes: the bytes are copied or sent before it returns; false where it is busy. */
bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    (void)port, (void)link, (void)bytes, (void)count;
    return false;
}

/* Non-volatile memory: two areas of RLX_NV_AREA_BYTES, one behind the other, neither sharing a page
 * with the other. Owes: a call returns at once and takes the bytes with it; a write clears bits
 * only; an erase sets one page to FF. Flash that stops the processor while it is written: do it
 * where a stop of some ms does no harm. */
enum rlx_nv rlx_port_nv_state(void *port)
{
    (void)port;
    return RLX_NV_FAILED; /* there is none */
}

bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count)
{
    (void)port, (void)offset, (void)bytes, (void)count;
    return false;
}

bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    (void)port, (void)offset, (void)bytes, (void)count;
    return false;
}

bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    (void)port, (void)offset;
    return false;
}

/* What an attacker cannot foresee. */
uint32_t rlx_port_random(void *port)
{
    (void)port;
    return 0;
}
