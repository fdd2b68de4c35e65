/* The port for a Cortex-M3 with the registers of an LM3S6965, by its datasheet (chapters are
 * cited). UART 0 is link 0 and UART 1 is link 1; SysTick is the clock; PWM and servo pulses on
 * channels 2 and 3. Pins are numbered port by port, eight each: A 0..7, B 8..15, to G 48..55. It
 * has no tones, step pulses or non-volatile memory. */
#include "board.h"

#include "rlx/port.h"

#ifndef BOARD_CLOCK_FROM
#define BOARD_CLOCK_FROM 0 /* milliseconds at power-up */
#endif
#define CLOCK_HZ 50000000u
#define UARTS    2u

#define REG(address) (*(volatile uint32_t *)(address))

/* 5: system control */
#define SYSCTL_RIS   REG(0x400FE050)
#define SYSCTL_RESC  REG(0x400FE05C)
#define SYSCTL_RCC   REG(0x400FE060)
#define SYSCTL_RCGC0 REG(0x400FE100)
#define SYSCTL_RCGC1 REG(0x400FE104)
#define SYSCTL_RCGC2 REG(0x400FE108)

/* 8: general-purpose I/O */
#define GPIO(port)        (0x40004000u + ((port) < 4 ? 0x1000u * (port) : 0x20000u + 0x1000u * ((port)-4)))
#define GPIO_DATA(g, bit) REG((g) + 4 * (bit)) /* the address is the mask */
#define GPIO_DIR(g)       REG((g) + 0x400)
#define GPIO_AFSEL(g)     REG((g) + 0x420)
#define GPIO_PUR(g)       REG((g) + 0x510)
#define GPIO_PDR(g)       REG((g) + 0x514)
#define GPIO_DEN(g)       REG((g) + 0x51C)

/* 12: UART */
#define UART(n)      (0x4000C000u + 0x1000u * (n))
#define UART_DR(n)   REG(UART(n) + 0x000)
#define UART_FR(n)   REG(UART(n) + 0x018) /* bit 4: nothing received, 5: no room to send */
#define UART_IBRD(n) REG(UART(n) + 0x024)
#define UART_FBRD(n) REG(UART(n) + 0x028)
#define UART_LCRH(n) REG(UART(n) + 0x02C)
#define UART_CTL(n)  REG(UART(n) + 0x030)
#define UART_IM(n)   REG(UART(n) + 0x038)
#define UART_ICR(n)  REG(UART(n) + 0x044)

/* 16: PWM, its generator 1 */
#define PWM_ENABLE REG(0x40028008)
#define PWM1_CTL   REG(0x40028080)
#define PWM1_LOAD  REG(0x40028090)
#define PWM1_CMPA  REG(0x40028098)
#define PWM1_CMPB  REG(0x4002809C)
#define PWM1_GENA  REG(0x400280A0)
#define PWM1_GENB  REG(0x400280A4)
#define PIN_PWM    8u /* B0 is channel 2, B1 channel 3 */

/* ARMv7-M B3.3, B3.4 */
#define SYST_CSR  REG(0xE000E010)
#define SYST_RVR  REG(0xE000E014)
#define SYST_CVR  REG(0xE000E018)
#define NVIC_ISER REG(0xE000E100)
#define NVIC_ISPR REG(0xE000E200)
#define IRQ_UART0 5

void systick(void);
void uart0_interrupt(void);
void uart1_interrupt(void);

static struct rlx_link *uarts;
static unsigned in_use;
static volatile uint32_t millis = BOARD_CLOCK_FROM;

void board_mask(void)
{
    __asm__ volatile("cpsid i" ::: "memory");
}

void board_unmask(void)
{
    __asm__ volatile("cpsie i" ::: "memory");
}

/* A pending interrupt ends the WFI even while it is masked (ARMv7-M B1.5.19). */
void board_sleep(uint32_t ms)
{
    if (ms) __asm__ volatile("wfi" ::: "memory");
}

uint32_t board_millis(void)
{
    return millis;
}

void systick(void)
{
    millis = millis + 1;
}

/* 5.2.2.1: bit 0 reset pin, 1 power, 2 brown-out, 3 watchdog, 4 software. Written to be cleared. */
enum rlx_reset board_reset_cause(void)
{
    uint32_t why = SYSCTL_RESC;
    SYSCTL_RESC = 0;
    if (why & 2) return RLX_RESET_POWER;
    if (why & 4) return RLX_RESET_BROWNOUT;
    if (why & 8) return RLX_RESET_WATCHDOG;
    if (why & 16) return RLX_RESET_SOFTWARE;
    return why & 1 ? RLX_RESET_PIN : RLX_RESET_POWER;
}

/* 5.3: the 8 MHz crystal, the PLL of 400 MHz, and a fourth of its half. */
static void start_clock(void)
{
    SYSCTL_RCC = (SYSCTL_RCC & ~(1u << 22)) | 1u << 11; /* around the PLL meanwhile */
    SYSCTL_RCC = (SYSCTL_RCC & ~(0x3FF1u | 15u << 23)) | 14u << 6 | 3u << 23; /* crystal, PLL on */
    for (unsigned i = 0; i < 100000 && !(SYSCTL_RIS & 1u << 6); i++) {}
    SYSCTL_RCC = (SYSCTL_RCC & ~(1u << 11)) | 1u << 22;
    SYST_RVR = CLOCK_HZ / 1000 - 1;
    SYST_CVR = 0;
    SYST_CSR = 7; /* the core's clock, an interrupt, on */
}

void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size)
{
    uint32_t sixtyfourths = (CLOCK_HZ * 4 + baud / 2) / baud; /* 12.3.2 */
    if (link_size != sizeof(struct rlx_link)) return 0;
    uarts = links;
    in_use = count < UARTS ? count : UARTS;
    SYSCTL_RCGC0 |= 1u << 20; /* PWM */
    SYSCTL_RCGC1 |= (1u << UARTS) - 1;
    SYSCTL_RCGC2 |= 0x7F; /* all ports */
    start_clock();
    for (unsigned n = 0; n < in_use; n++) {
        uint32_t port = GPIO(n ? 3u : 0u), bits = n ? 3u << 2 : 3u; /* A0, A1; D2, D3 */
        GPIO_AFSEL(port) |= bits;
        GPIO_DEN(port) |= bits;
        UART_CTL(n) = 0;
        UART_IBRD(n) = sixtyfourths >> 6;
        UART_FBRD(n) = sixtyfourths & 63;
        UART_LCRH(n) = 7u << 4; /* 8 bits, FIFOs */
        UART_CTL(n) = 0x301;
        UART_IM(n) = 0x7D0; /* received, and a while ago; errors; not yet: room to send */
        NVIC_ISER = 1u << (IRQ_UART0 + n);
    }
    board_unmask();
    return links;
}

/* 12.2.4: the FIFO's interrupt comes when it empties, so that it is filled here first. */
static void serve(unsigned n)
{
    uint8_t byte;
    UART_ICR(n) = 0x7F0;
    while (!(UART_FR(n) & 1u << 4)) {
        uint32_t data = UART_DR(n);
        if (data & 0xF00) rlx_link_fault(&uarts[n]); /* overrun, break, parity, framing */
        if (!(data & 0x700)) rlx_link_feed(&uarts[n], (uint8_t)data);
    }
    while (!(UART_FR(n) & 1u << 5)) {
        if (!rlx_link_take(&uarts[n], &byte)) {
            UART_IM(n) &= ~(1u << 5);
            return;
        }
        UART_DR(n) = byte;
    }
    UART_IM(n) |= 1u << 5;
}

void uart0_interrupt(void)
{
    serve(0);
}

void uart1_interrupt(void)
{
    serve(1);
}

/* ---- the port ---- */

void rlx_port_kick(void *port, uint8_t link)
{
    (void)port;
    if (link < in_use) NVIC_ISPR = 1u << (IRQ_UART0 + link);
}

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    uint32_t g = GPIO((uint32_t)pin >> 3), bit = 1u << (pin & 7);
    (void)port;
    GPIO_DATA(g, bit) = high ? bit : 0;
    GPIO_AFSEL(g) &= ~bit;
    GPIO_DEN(g) |= bit;
    GPIO_DIR(g) |= bit;
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    uint32_t bit = 1u << (pin & 7);
    (void)port;
    return GPIO_DATA(GPIO((uint32_t)pin >> 3), bit) != 0;
}

/* The clock wakes the main loop soon enough for a change. */
void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    uint32_t g = GPIO((uint32_t)pin >> 3), bit = 1u << (pin & 7);
    (void)port;
    GPIO_DIR(g) &= ~bit;
    GPIO_DEN(g) |= bit;
    GPIO_PUR(g) = pull == RLX_PULL_UP ? GPIO_PUR(g) | bit : GPIO_PUR(g) & ~bit;
    GPIO_PDR(g) = pull == RLX_PULL_DOWN ? GPIO_PDR(g) | bit : GPIO_PDR(g) & ~bit;
}

/* High for `high` of `period`, in 64ths of the clock (5.3: PWMDIV). Both channels have one period.
 */
static void pulses(uint8_t channel, uint32_t period, uint32_t high)
{
    SYSCTL_RCC |= 1u << 20 | 7u << 17;
    PWM1_LOAD = period - 1;
    *(channel == 2 ? &PWM1_CMPA : &PWM1_CMPB) = period - high;
    *(channel == 2 ? &PWM1_GENA : &PWM1_GENB) = channel == 2 ? 0x8Cu : 0x80Cu; /* 16.5: low, high */
    PWM1_CTL = 1;
    GPIO_AFSEL(GPIO(1)) |= 1u << (channel - 2);
    GPIO_DEN(GPIO(1)) |= 1u << (channel - 2);
    PWM_ENABLE |= 1u << channel;
}

/* hz: 12..20000; a static level takes the pin back. */
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    uint32_t period = CLOCK_HZ / 64 / hz;
    if (channel < 2 || channel > 3) return;
    rlx_port_pin_write(port, (uint8_t)(PIN_PWM + channel - 2), duty == UINT16_MAX);
    if (duty && duty != UINT16_MAX) pulses(channel, period, (duty * (period >> 2)) >> 14);
}

void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    if (channel < 2 || channel > 3) return;
    if (us)
        pulses(channel, CLOCK_HZ / 64 / 50, us * 25u >> 5); /* us * 50 / 64 */
    else
        rlx_port_pin_write(port, (uint8_t)(PIN_PWM + channel - 2), false);
}
