/* What ports/selftest may use on this port. Join pins 6 and 4, and pins 10 and 5, by a wire each.
 */
#define SELFTEST_PIN_A     8 /* B0 */
#define SELFTEST_PIN_B     9
#define SELFTEST_PULL_DOWN 0 /* the chip has none */
#define SELFTEST_DUTY      1
#define SELFTEST_DUTY_SEEN 4
#define SELFTEST_SHARE
#define SELFTEST_PULSE      3
#define SELFTEST_PULSE_SEEN 5
#define SELFTEST_NV         512
