/* The port for an ATmega328P at 16 MHz, straight by the datasheet (its chapters are cited).
 * USART0 is link 0; timer 1 is the clock and a servo; PWM channels 1 and 2; the EEPROM keeps
 * settings. Pins are numbered 0..7 on port D, 8..13 on port B, 14..19 on port C.
 * It has no tones, step pulses or radio. */
#include "board.h"

#include <avr/interrupt.h>
#include <avr/io.h>

#include "rlx/port.h"

#ifndef F_CPU
#define F_CPU 16000000UL
#endif
#ifndef BOARD_CLOCK_FROM
#define BOARD_CLOCK_FROM 0 /* milliseconds at power-up */
#endif
#define TICKS_MS ((uint16_t)(F_CPU / 8000)) /* timer 1 counts F_CPU / 8 */
#define TICKS_US ((uint16_t)(F_CPU / 8000000))

static struct rlx_link *uart;
static volatile uint32_t millis = BOARD_CLOCK_FROM;
static volatile uint16_t servo_us;

void board_mask(void)
{
    cli();
}

void board_unmask(void)
{
    sei();
}

/* 10.2: with interrupts off a sleeping chip never wakes. 4.4: the instruction behind SEI is run
 * before any interrupt, so that none is missed between the two. */
void board_sleep(uint32_t ms)
{
    if (!ms) return;
    SMCR = 1 << SE; /* idle: 10.3 */
    sei();
    __asm__ volatile("sleep" ::: "memory");
    SMCR = 0;
    cli();
}

uint32_t board_millis(void)
{
    uint8_t status = SREG;
    cli();
    uint32_t now = millis;
    SREG = status;
    return now;
}

/* 11.9.1 */
enum rlx_reset board_reset_cause(void)
{
    uint8_t why = MCUSR;
    MCUSR = 0;
    if (why & 1 << PORF) return RLX_RESET_POWER;
    if (why & 1 << BORF) return RLX_RESET_BROWNOUT;
    if (why & 1 << WDRF) return RLX_RESET_WATCHDOG;
    return why & 1 << EXTRF ? RLX_RESET_PIN : RLX_RESET_POWER;
}

void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size)
{
    if (link_size != sizeof(struct rlx_link)) return 0;
    (void)count;
    uart = links;
    UBRR0 = (uint16_t)((F_CPU / 8 + baud / 2) / baud - 1);
    UCSR0A = 1 << U2X0;
    UCSR0C = 3 << UCSZ00;
    UCSR0B = 1 << RXCIE0 | 1 << RXEN0 | 1 << TXEN0;
    TCCR1A = 0;
    TCCR1B = 1 << CS11;
    OCR1A = TICKS_MS;
    TIMSK1 = 1 << OCIE1A;
    sei();
    return links;
}

/* A millisecond; every twentieth begins a servo's pulse, which the match itself makes. */
ISR(TIMER1_COMPA_vect)
{
    static uint8_t to_frame;
    OCR1A = (uint16_t)(OCR1A + TICKS_MS);
    millis = millis + 1;
    if (++to_frame < 20) return;
    to_frame = 0;
    if (!servo_us) return;
    OCR1B = (uint16_t)(TCNT1 + 100 * TICKS_US);
    TCCR1A = (uint8_t)((TCCR1A & 0xCF) | 3 << COM1B0); /* high at the match */
    TIFR1 = 1 << OCF1B;
    TIMSK1 |= 1 << OCIE1B;
}

ISR(TIMER1_COMPB_vect)
{
    OCR1B = (uint16_t)(OCR1B + servo_us * TICKS_US);
    TCCR1A = (uint8_t)((TCCR1A & 0xCF) | 2 << COM1B0); /* low at the match */
    TIMSK1 &= (uint8_t) ~(1 << OCIE1B);
}

/* 20.7.1: the flags are those of the byte that UDR0 has next. */
ISR(USART_RX_vect)
{
    uint8_t bad = UCSR0A & (1 << FE0 | 1 << DOR0);
    uint8_t byte = UDR0;
    if (bad) rlx_link_fault(uart);
    if (!(bad & 1 << FE0)) rlx_link_feed(uart, byte);
}

ISR(USART_UDRE_vect)
{
    uint8_t byte;
    if (rlx_link_take(uart, &byte))
        UDR0 = byte;
    else
        UCSR0B &= (uint8_t) ~(1 << UDRIE0);
}

/* A pin that changes wakes the main loop, which looks at it. */
ISR(PCINT0_vect)
{
}
ISR(PCINT1_vect)
{
}
ISR(PCINT2_vect)
{
}

/* ---- the port ---- */

void rlx_port_kick(void *port, uint8_t link)
{
    uint8_t status = SREG;
    (void)port;
    if (link) return; /* other links have no UART on this chip */
    cli();
    UCSR0B |= 1 << UDRIE0;
    SREG = status;
}

/* Its registers, one behind the other: PIN, DDR, PORT. */
static volatile uint8_t *pins(uint8_t pin)
{
    return pin < 8 ? &PIND : pin < 14 ? &PINB : &PINC;
}

static uint8_t bit_of(uint8_t pin)
{
    return (uint8_t)(1 << (pin < 8 ? pin : (pin < 14 ? pin - 8 : pin - 14) & 7));
}

static void set(volatile uint8_t *at, uint8_t bits, bool on)
{
    uint8_t status = SREG;
    cli();
    *at = (uint8_t)(on ? *at | bits : *at & ~bits);
    SREG = status;
}

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    (void)port;
    set(pins(pin) + 2, bit_of(pin), high);
    set(pins(pin) + 1, bit_of(pin), true);
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port;
    return *pins(pin) & bit_of(pin);
}

/* The chip has no pull down. */
void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    uint8_t group = pin < 8 ? 2 : pin < 14 ? 0 : 1; /* 13.2: PCMSK0 is port B's */
    (void)port;
    set(pins(pin) + 1, bit_of(pin), false);
    set(pins(pin) + 2, bit_of(pin), pull == RLX_PULL_UP);
    set(&PCMSK0 + group, bit_of(pin), true);
    set(&PCICR, (uint8_t)(1 << group), true);
}

/* Channel 1 is OC0A, pin 6; channel 2 is OC2B, pin 3. Fast PWM at F_CPU / 256 / 8 above 2 kHz,
 * and a tenth of it or so below; a static level takes the pin back. */
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    bool still = duty == 0 || duty == UINT16_MAX;
    if (channel < 1 || channel > 2) return;
    rlx_port_pin_write(port, channel == 1 ? 6 : 3, duty == UINT16_MAX);
    if (channel == 1) {
        OCR0A = (uint8_t)(duty >> 8);
        TCCR0A = (uint8_t)(still ? 3 : 3 | 2 << COM0A0);
        TCCR0B = hz > 2000 ? 2 : 3;
    } else {
        OCR2B = (uint8_t)(duty >> 8);
        TCCR2A = (uint8_t)(still ? 3 : 3 | 2 << COM2B0);
        TCCR2B = hz > 2000 ? 2 : 5;
    }
}

#if RLX_HAS_SERVOS
/* Channel 3 is OC1B, pin 10. */
void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    uint8_t status = SREG;
    (void)port;
    if (channel != 3) return;
    DDRB |= 1 << 2;
    cli();
    servo_us = us;
    SREG = status;
}
#endif

#if RLX_HAS_SETTINGS
/* ---- EEPROM (8.4): one byte after the other, by its interrupt ---- */

#define NV_PAGE 64 /* bytes that are erased together */

static uint8_t work[255];
static volatile uint8_t left; /* bytes still to do */
static bool erases;
static uint8_t at;
static uint16_t where;

/* With interrupts off. */
static void next_byte(void)
{
    if (!left) {
        EECR = 0;
        return;
    }
    EEAR = where++;
    EEDR = erases ? 0xFF : work[at++];
    left = (uint8_t)(left - 1);
    EECR = (uint8_t)((erases ? 1 << EEPM0 : 1 << EEPM1) | 1 << EERIE);
    EECR |= 1 << EEMPE;
    EECR |= 1 << EEPE; /* within four cycles */
}

ISR(EE_READY_vect)
{
    next_byte();
}

static bool begin(uint16_t offset, uint8_t count, bool erase)
{
    uint8_t status = SREG;
    where = offset;
    at = 0;
    erases = erase;
    left = count;
    cli();
    next_byte();
    SREG = status;
    return true;
}

enum rlx_nv rlx_port_nv_state(void *port)
{
    (void)port;
    return left || EECR & 1 << EEPE ? RLX_NV_BUSY : RLX_NV_READY;
}

bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count)
{
    if (rlx_port_nv_state(port) == RLX_NV_BUSY) return false;
    for (uint8_t i = 0; i < count; i++) {
        EEAR = (uint16_t)(offset + i);
        EECR |= 1 << EERE;
        bytes[i] = EEDR;
    }
    return true;
}

bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    if (rlx_port_nv_state(port) == RLX_NV_BUSY) return false;
    for (uint8_t i = 0; i < count; i++) work[i] = bytes[i];
    return begin(offset, count, false);
}

bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    if (rlx_port_nv_state(port) == RLX_NV_BUSY) return false;
    return begin(offset & (uint16_t) ~(NV_PAGE - 1), NV_PAGE, true);
}
#endif
