/* The vectors of the Cortex-M0's start-up want these; a program that is only weighed has none. */
void uart0_interrupt(void);
void timer0_interrupt(void);
void uart0_interrupt(void)
{
}
void timer0_interrupt(void)
{
}
