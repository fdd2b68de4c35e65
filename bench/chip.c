/* Runs one parser on an emulated chip: each line of the corpus fed byte by byte, polled, its reply
 * taken. The instructions are counted from the emulator's trace; the deepest stack is found by
 * paint and told at the end. */
#include "uut.h"
#ifdef __AVR__
#include <avr/io.h>
#ifndef ROM
#define ROM __flash
#endif
#else
#ifndef ROM
#define ROM
#endif
#endif
#include "corpus.h"

#define PAINT 0xA5u

void kick(void)
{
}

#ifdef __AVR__
extern uint8_t __heap_start;
#define STACK_LOW (&__heap_start)
static void tell(char c)
{
    UCSR0B = 1u << TXEN0;
    while (!(UCSR0A & 1u << UDRE0)) {}
    UDR0 = (uint8_t)c;
}
static void over(void)
{
    for (;;) {}
}
#else
extern uint32_t bss_end[];
#define STACK_LOW ((uint8_t *)bss_end + 2048) /* behind the C library's heap */
void uart0_interrupt(void);
void timer0_interrupt(void);
void uart0_interrupt(void)
{
}
void timer0_interrupt(void)
{
}
/* Semihosting: SYS_WRITEC, SYS_EXIT (Arm, "Semihosting for AArch32 and AArch64"). */
static void semihost(uint32_t what, const void *with)
{
    register uint32_t r0 __asm__("r0") = what;
    register const void *r1 __asm__("r1") = with;
    __asm__ volatile("bkpt 0xAB" : "+r"(r0) : "r"(r1) : "memory");
}
static void tell(char c)
{
    semihost(3, &c);
}
static void over(void)
{
    semihost(0x18, (void *)0x20026);
}
#endif

static void tell_number(unsigned n)
{
    unsigned unit = 1000;
    while (unit) {
        tell((char)('0' + n / unit % 10));
        unit /= 10;
    }
    tell('\n');
}

int main(void)
{
    const ROM char *p = corpus;
    uint8_t byte, *here = (uint8_t *)__builtin_frame_address(0), *low = STACK_LOW;
    uint8_t *top = here - 32; /* this function's own frame is not the parser's */
    for (volatile uint8_t *q = low; q < top; q++) *q = PAINT;
    UUT_START();
    for (volatile uint8_t *q = low; q < top; q++) *q = PAINT; /* a poll's, not the start's */
    for (unsigned i = 0; i < CORPUS_LINES; i++) {
        do {
            byte = (uint8_t)*p++;
            UUT_FEED(byte);
        } while (byte != '\r');
        UUT_POLL();
        while (UUT_TAKE(&byte)) {}
    }
    while (low < top && *(volatile uint8_t *)low == PAINT) low++;
    tell_number((unsigned)(here - low));
    over();
    return 0;
}
