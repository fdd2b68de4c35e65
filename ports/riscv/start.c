/* What comes before main(): the stack, the trap vector (privileged specification 3.1.7), and memory
 * as C wants it. Clears .bss and calls main(); the loader has put .data in its place. It sets up no
 * device. */
#include <stdint.h>

extern uint32_t bss_start[], bss_end[];

int main(void);
void reset(void);

__asm__(".section .init\n.globl _start\n_start: la sp, stack_top\n la t0, trap\n csrw mtvec, t0\n"
        " j reset\n.text\n");

void reset(void)
{
    for (uint32_t *at = bss_start; at != bss_end; at++) *at = 0;
    main();
    for (;;) {}
}
