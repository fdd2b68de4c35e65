/* The program on the chip needs no interrupts: its clock is its own. */
void uart0_interrupt(void);
void timer0_interrupt(void);

void uart0_interrupt(void)
{
}

void timer0_interrupt(void)
{
}
