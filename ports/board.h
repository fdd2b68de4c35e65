/* What the ports here offer a firmware's main() beside rlx/port.h: the same calls on each, so that
 * one firmware runs on all. A port of yours may look quite different.
 *
 * sim: started by `rlx talk --firmware` it runs in lock-step with that; on its own, UART 0 is
 * standard input and output, the clock is real, pins are printed on standard error, and the program
 * ends when the input does.
 * cortex_m0: a chip of the nRF51 series; UART 0 is link 0 (others have none), TIMER0 the clock,
 * TIMER1 PWM channel 1 on pin 21, TIMER2 the step pulses of channel 2 on pin 20.
 * cortex_m3: an LM3S6965; UARTs 0 and 1 are links 0 and 1, SysTick the clock, PWM and servo pulses of
 * channels 2 and 3 on B0 and B1.
 * riscv: QEMU's virt machine; its UART is link 0, mtime the clock; pins and settings are in RAM.
 * avr: an ATmega328P; USART0 is link 0, timer 1 the clock and the servo of channel 3 on pin 10, PWM
 * channel 1 on pin 6 and 2 on pin 3, settings in the EEPROM. */
#ifndef BOARD_H
#define BOARD_H

#include <stddef.h>
#include <stdint.h>

#include "rlx/rlx.h"

/* Starts clock and UARTs; link n gets and gives the bytes of UART n. Returns the port for
 * NAME_init(), to be called next; NULL where the port was compiled with another RLX_CONFIG than the
 * firmware, so that their links differ. The simulation knows the baud rates itself. */
#define board_start(links, count, baud) \
    board_start_((links), (count), (baud), sizeof(struct rlx_link))
void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size);

enum rlx_reset board_reset_cause(void);

/* Milliseconds since power-up; wraps. */
uint32_t board_millis(void);

/* Interrupts off and on: what arrives in between is handled at board_unmask(). Sleep, with
 * interrupts off, until one is pending or `ms` have passed (or sooner). */
void board_mask(void);
void board_unmask(void);
void board_sleep(uint32_t ms);

#endif
