/* What ports/selftest may use on this port. */
#define SELFTEST_PIN_A     20 /* C4 */
#define SELFTEST_PIN_B     21
#ifndef SELFTEST_PULL_DOWN
#define SELFTEST_PULL_DOWN 1 /* QEMU does not know them */
#endif
#define SELFTEST_DUTY      2
#define SELFTEST_DUTY_SEEN 8 /* B0 */
