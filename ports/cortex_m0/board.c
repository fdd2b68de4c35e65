/* The port for a Cortex-M0 with the registers of an nRF51.
 * Pins, one UART, a clock, PWM and step pulses on a channel each, straight by the datasheet.
 * It has no servo pulses, tones or non-volatile memory. */
#include "board.h"

#include "registers.h"
#include "rlx/port.h"

#ifndef BOARD_CLOCK_FROM
#define BOARD_CLOCK_FROM 0 /* milliseconds at power-up */
#endif
#define PIN_TX 24
#define PIN_RX 25

void uart0_interrupt(void);
void timer0_interrupt(void);
void timer2_interrupt(void);

static struct rlx_link *uart;
static volatile uint32_t millis = BOARD_CLOCK_FROM;

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

/* 29.1.5: RXD is a FIFO of six bytes; the event comes again for each. ERROR is overrun, parity,
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

#if RLX_HAS_STEPPERS
/* ---- step pulses ---- */

/* TIMER2 counts microseconds, 16 bits of them; a longer period takes several compares. */
enum { PIN_STEP = 20, CHANNEL_STEP = 2, MOST_US = 50000 };

static struct {
    volatile uint16_t left;
    uint16_t mark;         /* the counter at the last compare... */
    uint32_t gone, period; /* ...microseconds since the last pulse then, and between two */
} steps;

static uint16_t steps_now(void)
{
    TIMER_CAPTURE(2, 1) = 1;
    return (uint16_t)TIMER_CC(2, 1);
}

/* The next compare: at the next pulse, or on the way to it. It is never behind the counter. */
static void steps_await(void)
{
    uint32_t rest = steps.period - steps.gone;
    uint16_t at = (uint16_t)(steps.mark + (rest < MOST_US ? rest : MOST_US));
    TIMER_CC(2, 0) = at;
    if ((int16_t)(at - steps_now()) < 2) TIMER_CC(2, 0) = (uint16_t)(steps_now() + 3);
}

/* The pulse is as long as what is done in between: some 2 us. */
void timer2_interrupt(void)
{
    REG(TIMER_COMPARE(2, 0)) = 0;
    uint16_t at = (uint16_t)TIMER_CC(2, 0);
    steps.gone += (uint16_t)(at - steps.mark);
    steps.mark = at;
    if (!steps.left) return;
    if (steps.gone >= steps.period) {
        GPIO_OUTSET = UINT32_C(1) << PIN_STEP;
        steps.gone -= steps.period;
        steps.left = (uint16_t)(steps.left - 1);
    }
    steps_await();
    GPIO_OUTCLR = UINT32_C(1) << PIN_STEP;
    if (!steps.left) TIMER_STOP(2) = 1;
}

uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    (void)port;
    return channel == CHANNEL_STEP ? steps.left : 0;
}

/* While it is changed the interrupt waits; what is due then counts as left. */
int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    int32_t left, count;
    if (channel != CHANNEL_STEP) return 0;
    NVIC_ICER = 1u << IRQ_TIMER2;
    left = steps.left;
    count = left + more;
    steps.left = (uint16_t)(count < 0 ? 0 : count > UINT16_MAX ? UINT16_MAX : count);
    if (!left) {
        TIMER_STOP(2) = 1;
        TIMER_PRESCALER(2) = 4; /* 16 MHz / 2^4 */
        TIMER_CLEAR(2) = 1;
        TIMER_INTENSET(2) = 1u << 16; /* COMPARE0 */
        rlx_port_pin_write(port, PIN_STEP, false);
        TIMER_START(2) = 1;
        steps.gone = 0;
        steps.mark = steps_now();
    }
    uint16_t now = steps_now();
    steps.gone += (uint16_t)(now - steps.mark);
    steps.mark = now;
    if (steps.left) {
        steps.period = 1000000u / hz;
        if (steps.gone > steps.period) steps.gone = steps.period;
        steps_await();
    } else {
        TIMER_STOP(2) = 1;
    }
    REG(TIMER_COMPARE(2, 0)) = 0;
    NVIC_ICPR = 1u << IRQ_TIMER2;
    NVIC_ISER = 1u << IRQ_TIMER2;
    return steps.left - left;
}
#endif
