/* What ports/selftest may use on this port. */
#define SELFTEST_PIN_A     20
#define SELFTEST_PIN_B     21
#define SELFTEST_PULL_DOWN 1
#define SELFTEST_DUTY      1
#define SELFTEST_DUTY_SEEN 129
#define SELFTEST_STEPS     1
#define SELFTEST_NV        512
