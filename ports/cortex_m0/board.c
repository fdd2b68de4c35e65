/* The port for a Cortex-M0 with the registers of an nRF51.
 * Pins, one UART, a clock, and PWM on one channel by a timer, straight by the datasheet.
 * It has no pulses, tones or non-volatile memory. */
#include "board.h"

#include "registers.h"
#include "rlx/port.h"

#define PIN_TX 24
#define PIN_RX 25

void uart0_interrupt(void);
void timer0_interrupt(void);

static struct rlx_link *uart;
static volatile uint32_t millis;

void board_mask(void)
{
    __asm__ volatile("cpsid i" ::: "memory");
}

void board_unmask(void)
{
    __asm__ volatile("cpsie i" ::: "memory");
}

/* A pending interrupt ends the WFI even while it is masked (ARMv6-M B1.5.19). */
void board_sleep(uint32_t ms)
{
    if (ms) __asm__ volatile("wfi" ::: "memory");
}

uint32_t board_millis(void)
{
    return millis;
}

/* 12.2.2: bit 0 reset pin, 1 watchdog, 2 soft reset; none: power. Cleared by writing ones. */
enum rlx_reset board_reset_cause(void)
{
    uint32_t why = POWER_RESETREAS;
    POWER_RESETREAS = why;
    if (why & 1) return RLX_RESET_PIN;
    if (why & 2) return RLX_RESET_WATCHDOG;
    return why & 4 ? RLX_RESET_SOFTWARE : RLX_RESET_POWER;
}

void timer0_interrupt(void)
{
    REG(TIMER_COMPARE(0, 0)) = 0;
    millis = millis + 1;
}

void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size)
{
    if (link_size != sizeof(struct rlx_link)) return 0;
    (void)count;
    uart = links;
    TIMER_PRESCALER(0) = 4; /* 16 MHz / 2^4: microseconds, and again from 0 at the 1000th */
    TIMER_CC(0, 0) = 1000;
    TIMER_SHORTS(0) = 1;          /* COMPARE0_CLEAR */
    TIMER_INTENSET(0) = 1u << 16; /* COMPARE0 */
    TIMER_START(0) = 1;
    GPIO_OUTSET = 1u << PIN_TX; /* idle is high */
    GPIO_DIRSET = 1u << PIN_TX;
    UART_PSELTXD = PIN_TX;
    UART_PSELRXD = PIN_RX;
    UART_BAUDRATE = (baud * 268u + (baud * 7u >> 4) + 0x800u) & 0xFFFFF000u;
    UART_ENABLE = 4;
    UART_STARTRX = 1;
    UART_STARTTX = 1;
    UART_INTENSET = 1u << 2 | 1u << 7 | 1u << 9; /* RXDRDY, TXDRDY, ERROR */
    NVIC_ISER = 1u << IRQ_UART0 | 1u << IRQ_TIMER0;
    board_unmask();
    return links;
}

/* 29.1.5: RXD is a FIFO of six bytes; the event comes again for each. ERROR tells overrun, parity,
 * framing and break. Sending begins when rlx_port_kick() makes the interrupt pending. */
void uart0_interrupt(void)
{
    static bool sending;
    uint8_t byte;
    if (UART_ERROR) {
        UART_ERROR = 0;
        UART_ERRORSRC = UART_ERRORSRC; /* cleared by writing ones */
        rlx_link_fault(uart);
    }
    while (UART_RXDRDY) {
        UART_RXDRDY = 0;
        rlx_link_feed(uart, (uint8_t)UART_RXD);
    }
    if (UART_TXDRDY) {
        UART_TXDRDY = 0;
        sending = false;
    }
    if (!sending && rlx_link_take(uart, &byte)) {
        sending = true;
        UART_TXD = byte;
    }
}

/* ---- the port ---- */

void rlx_port_kick(void *port, uint8_t link)
{
    (void)port;
    if (link == 0) NVIC_ISPR = 1u << IRQ_UART0; /* other links have no UART on this chip */
}

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    uint32_t bit = UINT32_C(1) << (pin & 31);
    (void)port;
    if (high)
        GPIO_OUTSET = bit;
    else
        GPIO_OUTCLR = bit;
    GPIO_DIRSET = bit;
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port;
    return GPIO_IN >> (pin & 31) & 1;
}

/* 14.2.7: input, pull 1 down, 3 up. The clock wakes the main loop soon enough for a change. */
void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port;
    GPIO_CNF(pin & 31) = pull == RLX_PULL_UP ? 3u << 2 : pull == RLX_PULL_DOWN ? 1u << 2 : 0;
}

/* TIMER1 counts at 16 MHz and clears at CC1; its compares 0 and 1 toggle the pin through PPI
 * channels 0 and 1. A static level takes the pin back from GPIOTE. hz: 245..1,000,000. */
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    enum { PIN_PWM = 21 };
    uint32_t period = 16000000u / hz;
    PPI_CHENCLR = 3;
    TIMER_STOP(1) = 1;
    TIMER_CLEAR(1) = 1;
    GPIOTE_CONFIG0 = 0;
    rlx_port_pin_write(port, PIN_PWM, duty == UINT16_MAX);
    TIMER_CC(1, 0) = (duty * (period >> 4)) >> 12; /* period <= 65535: no overflow */
    TIMER_CC(1, 1) = period;
    if (channel != 1 || duty == 0 || duty == UINT16_MAX) return;
    TIMER_PRESCALER(1) = 0;
    TIMER_SHORTS(1) = 2; /* COMPARE1_CLEAR; 16 bits are what it begins with */
    GPIOTE_CONFIG0 = 3u | PIN_PWM << 8 | 3u << 16 | 1u << 20; /* task, toggle, begins high */
    for (uint32_t i = 0; i < 2; i++) {
        PPI_EEP(i) = TIMER_COMPARE(1, i);
        PPI_TEP(i) = GPIOTE_OUT0;
    }
    PPI_CHENSET = 3;
    TIMER_START(1) = 1;
}
