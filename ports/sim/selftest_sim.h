/* What ports/selftest may use on this port. Its channels have no pin: their levels are not looked at. */
#define SELFTEST_PIN_A     20
#define SELFTEST_PIN_B     21
#define SELFTEST_PULL_DOWN 1
#define SELFTEST_STEPS     2
#define SELFTEST_NV        512
#define SELFTEST_NV_PAGE   256
