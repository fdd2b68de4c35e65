/* What comes before main(): vectors, and memory as C wants it (ARMv7-M B1.5).
 * Copies .data, clears .bss, calls main().
 * It sets up no peripheral. */
#include <stdint.h>

extern uint32_t stack_top[], data_start[], data_end[], bss_start[], bss_end[];
extern const uint32_t data_load[];

int main(void);
void reset(void);
void systick(void);
void uart0_interrupt(void);
void uart1_interrupt(void);

void reset(void)
{
    const uint32_t *from = data_load;
    for (uint32_t *to = data_start; to != data_end;) *to++ = *from++;
    for (uint32_t *to = bss_start; to != bss_end;) *to++ = 0;
    main();
    for (;;) {}
}

__attribute__((section(".vectors"), used)) static void (*const vectors[16 + 44])(void) = {
    [0] = (void (*)(void))stack_top, [1] = reset, [15] = systick, [16 + 5] = uart0_interrupt,
    [16 + 6] = uart1_interrupt,
};
