/* The registers in use, by sections of the nRF51 Series Reference Manual (v3.0) and, for the core,
 * of the ARMv6-M Architecture Reference Manual. */
#define REG(address) (*(volatile uint32_t *)(address))

#define POWER_RESETREAS REG(0x40000400) /* 12.2.2 */

#define GPIO_OUTSET   REG(0x50000508) /* 14 GPIO */
#define GPIO_OUTCLR   REG(0x5000050C)
#define GPIO_IN       REG(0x50000510)
#define GPIO_DIRSET   REG(0x50000518)
#define GPIO_CNF(pin) REG(0x50000700 + 4 * (pin))

#define GPIOTE_OUT0    0x40006000u /* 15 GPIOTE, 16 PPI: tie a timer's compares to a pin */
#define GPIOTE_CONFIG0 REG(0x40006510)
#define PPI_CHENSET    REG(0x4001F504)
#define PPI_CHENCLR    REG(0x4001F508)
#define PPI_EEP(n)     REG(0x4001F510 + 8 * (n))
#define PPI_TEP(n)     REG(0x4001F514 + 8 * (n))

#define TIMER(n)            (0x40008000u + 0x1000u * (n)) /* 18 TIMER */
#define TIMER_START(n)      REG(TIMER(n) + 0x000)
#define TIMER_STOP(n)       REG(TIMER(n) + 0x004)
#define TIMER_CLEAR(n)      REG(TIMER(n) + 0x00C)
#define TIMER_CAPTURE(n, i) REG(TIMER(n) + 0x040 + 4 * (i))
#define TIMER_COMPARE(n, i) (TIMER(n) + 0x140u + 4u * (i))
#define TIMER_SHORTS(n)     REG(TIMER(n) + 0x200)
#define TIMER_INTENSET(n)   REG(TIMER(n) + 0x304)
#define TIMER_PRESCALER(n)  REG(TIMER(n) + 0x510)
#define TIMER_CC(n, i)      REG(TIMER(n) + 0x540 + 4 * (i))

#define UART_STARTRX  REG(0x40002000) /* 29 UART */
#define UART_STARTTX  REG(0x40002008)
#define UART_RXDRDY   REG(0x40002108)
#define UART_TXDRDY   REG(0x4000211C)
#define UART_ERROR    REG(0x40002124)
#define UART_INTENSET REG(0x40002304)
#define UART_ERRORSRC REG(0x40002480)
#define UART_ENABLE   REG(0x40002500)
#define UART_PSELTXD  REG(0x4000250C)
#define UART_PSELRXD  REG(0x40002514)
#define UART_RXD      REG(0x40002518)
#define UART_TXD      REG(0x4000251C)
#define UART_BAUDRATE REG(0x40002524) /* 29.2.11: baud * 2^32 / 16 MHz, low 12 bits 0 */

#define NVIC_ISER  REG(0xE000E100) /* ARMv6-M B3.4; numbers: nRF51 7.1, a peripheral's ID */
#define NVIC_ICER  REG(0xE000E180)
#define NVIC_ISPR  REG(0xE000E200)
#define NVIC_ICPR  REG(0xE000E280)
#define IRQ_UART0  2
#define IRQ_TIMER0 8
#define IRQ_TIMER2 10
