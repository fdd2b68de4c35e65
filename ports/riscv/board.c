/* The port for a RISC-V (RV32IMAC) with the devices of QEMU's virt machine, by the RISC-V
 * privileged and PLIC specifications and the 16550's datasheet. UART 0 is link 0. The clock is
 * mtime, which also ends a sleep: there is no tick. Step pulses on channel 1. The machine has no
 * pins and no flash: both are RAM here, which a reset leaves as it is. */
#include "board.h"

#include "rlx/port.h"

#ifndef BOARD_CLOCK_FROM
#define BOARD_CLOCK_FROM 0 /* milliseconds at power-up */
#endif
#define TICKS_MS 10000u /* of mtime, at 10 MHz */
#define NV_BYTES 1024u
#define NV_PAGE  64u /* bytes that are erased together */
#define IRQ_UART 10u

#define REG8(address)  (*(volatile uint8_t *)(address))
#define REG32(address) (*(volatile uint32_t *)(address))
#define UART(n)        REG8(0x10000000u + (n)) /* 0 data, 1 interrupts, 2 FIFO, 3 line, 5 status */
#define MTIMECMP       0x02004000u
#define MTIME          0x0200BFF8u
#define PLIC(n) \
    REG32(0x0C000000u + (n)) /* priority 4 n, enable 2000, threshold 200000, claim 200004 */

void trap(void);

static struct rlx_link *uart;
static uint64_t began, wake_at;
static bool was_on; /* before this start */

extern struct {
    bool level[256];
    uint8_t nv[NV_BYTES];
    uint32_t is; /* MAGIC: it has been written since power-up */
} kept; /* virt.ld has its place, behind the stack */
#define MAGIC 0x5AFE7E57u

void board_mask(void)
{
    __asm__ volatile("csrci mstatus, 8" ::: "memory");
}

void board_unmask(void)
{
    __asm__ volatile("csrsi mstatus, 8" ::: "memory");
}

static bool masked(void)
{
    uint32_t was;
    __asm__ volatile("csrrci %0, mstatus, 8" : "=r"(was)::"memory");
    return !(was & 8);
}

/* ---- time ---- */

static uint64_t ticks(void)
{
    uint32_t high, low;
    do {
        high = REG32(MTIME + 4);
        low = REG32(MTIME);
    } while (high != REG32(MTIME + 4));
    return (uint64_t)high << 32 | low;
}

uint32_t board_millis(void)
{
    return (uint32_t)((ticks() - began) / TICKS_MS) + (uint32_t)BOARD_CLOCK_FROM;
}

static struct {
    uint64_t next;
    uint32_t period;
    volatile uint16_t left;
} steps;

/* The timer is due at what comes first: the end of a sleep, or a pulse. */
static void await(void)
{
    uint64_t at = steps.left && steps.next < wake_at ? steps.next : wake_at;
    REG32(MTIMECMP + 4) = UINT32_MAX;
    REG32(MTIMECMP) = (uint32_t)at;
    REG32(MTIMECMP + 4) = (uint32_t)(at >> 32);
}

/* WFI ends as soon as an interrupt is pending, masked or not (privileged 3.3.3). */
void board_sleep(uint32_t ms)
{
    if (!ms) return;
    wake_at = ticks() + (uint64_t)ms * TICKS_MS;
    await();
    __asm__ volatile("wfi" ::: "memory");
    wake_at = UINT64_MAX;
    await();
}

enum rlx_reset board_reset_cause(void)
{
    return was_on ? RLX_RESET_PIN : RLX_RESET_POWER;
}

void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size)
{
    uint16_t divisor = (uint16_t)(3686400u / 16 / baud);
    if (link_size != sizeof(struct rlx_link)) return 0;
    (void)count;
    uart = links;
    was_on = kept.is == MAGIC;
    for (unsigned i = 0; i < NV_BYTES && !was_on; i++) kept.nv[i] = 0xFF;
    kept.is = MAGIC;
    began = ticks();
    wake_at = UINT64_MAX;
    await();
    UART(3) = 0x83; /* 8 bits, no parity; the next two are the divisor */
    UART(0) = (uint8_t)divisor;
    UART(1) = (uint8_t)(divisor >> 8);
    UART(3) = 3;
    UART(2) = 7; /* FIFOs on, and empty */
    UART(1) = 5; /* received, line status */
    PLIC(4 * IRQ_UART) = 1;
    PLIC(0x2000) = 1u << IRQ_UART;
    PLIC(0x200000) = 0;
    __asm__ volatile("csrs mie, %0" ::"r"(1u << 11 | 1u << 7)); /* external, timer */
    board_unmask();
    return links;
}

/* ---- interrupts ---- */

static void serve_uart(void)
{
    uint8_t status, byte;
    while ((status = UART(5)) & 1) {
        if (status & 0x1E) rlx_link_fault(uart); /* overrun, parity, framing, break */
        if (!(status & 0x1C))
            rlx_link_feed(uart, UART(0));
        else
            (void)UART(0);
    }
    if (!(status & 0x20)) return;
    for (unsigned i = 0; i < 16; i++) {
        if (!rlx_link_take(uart, &byte)) {
            UART(1) = 5;
            return;
        }
        UART(0) = byte;
    }
}

static void serve_timer(void)
{
    uint64_t now = ticks();
    if (now >= wake_at) wake_at = UINT64_MAX;
    if (steps.left && now >= steps.next) {
        steps.left = (uint16_t)(steps.left - 1);
        steps.next += steps.period;
    }
    await();
}

__attribute__((interrupt("machine"), aligned(4))) void trap(void)
{
    uint32_t cause, source;
    __asm__ volatile("csrr %0, mcause" : "=r"(cause));
    if (cause == (1u << 31 | 7)) serve_timer();
    if (cause != (1u << 31 | 11)) return;
    while ((source = PLIC(0x200004))) {
        if (source == IRQ_UART) serve_uart();
        PLIC(0x200004) = source;
    }
}

/* ---- the port ---- */

void rlx_port_kick(void *port, uint8_t link)
{
    (void)port;
    if (link == 0) UART(1) = 7; /* and: there is room to send */
}

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    (void)port;
    kept.level[pin] = high;
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port;
    return kept.level[pin];
}

void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port;
    kept.level[pin] = pull == RLX_PULL_UP;
}

/* Channel n is pin 128 + n; between its static levels it has none that could be seen here. */
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    (void)hz;
    rlx_port_pin_write(port, (uint8_t)(128 + (channel & 127)), duty == UINT16_MAX);
}

uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    (void)port;
    return channel == 1 ? steps.left : 0;
}

int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    (void)port;
    if (channel != 1) return 0;
    bool was_masked = masked();
    uint64_t now = ticks();
    int32_t left = steps.left, count = left + more;
    uint64_t last = left ? steps.next - steps.period : now;
    steps.left = (uint16_t)(count < 0 ? 0 : count > UINT16_MAX ? UINT16_MAX : count);
    if (hz) steps.period = TICKS_MS * 1000 / hz;
    steps.next = last + steps.period < now ? now : last + steps.period;
    count = steps.left - left;
    await();
    if (!was_masked) board_unmask();
    return count;
}

#if RLX_HAS_SETTINGS
enum rlx_nv rlx_port_nv_state(void *port)
{
    (void)port;
    return RLX_NV_READY;
}

bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count)
{
    (void)port;
    for (uint8_t i = 0; i < count; i++) bytes[i] = kept.nv[(offset + i) % NV_BYTES];
    return true;
}

bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    (void)port;
    for (uint8_t i = 0; i < count; i++) kept.nv[(offset + i) % NV_BYTES] &= bytes[i];
    return true;
}

bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    (void)port;
    for (uint16_t i = 0; i < NV_PAGE; i++)
        kept.nv[((offset & ~(NV_PAGE - 1)) + i) % NV_BYTES] = 0xFF;
    return true;
}
#endif
