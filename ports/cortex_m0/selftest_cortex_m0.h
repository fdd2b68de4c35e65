/* What ports/selftest may use on this port. */
#define SELFTEST_PIN_A     4
#define SELFTEST_PIN_B     5
#define SELFTEST_PULL_DOWN 1
#define SELFTEST_DUTY      1
#define SELFTEST_DUTY_SEEN 21
#define SELFTEST_STEPS     2
/* An output's input buffer is off (nRF51 manual 14.1): its register is read instead. */
#define SELFTEST_LEVEL(pin) (*(volatile uint32_t *)0x50000504 >> (pin) & 1)
