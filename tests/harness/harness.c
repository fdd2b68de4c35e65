#include "harness.h"

#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define SHOWN_MAX 20

static unsigned failures;
static char context[512];

unsigned test_rounds(void)
{
    const char *rounds = getenv("RLX_ROUNDS");
    int n = rounds ? atoi(rounds) : 1;
    return n < 1 || n > 1000 ? 1 : (unsigned)n;
}

unsigned test_stride(void)
{
#if defined(__SANITIZE_ADDRESS__)
    return getenv("RLX_ROUNDS") ? 1 : 3;
#elif defined(__has_feature)
    return __has_feature(address_sanitizer) && !getenv("RLX_ROUNDS") ? 3 : 1;
#else
    return 1;
#endif
}

unsigned test_failures(void)
{
    return failures;
}

void test_context(const char *format, ...)
{
    va_list args;
    va_start(args, format);
    vsnprintf(context, sizeof context, format, args);
    va_end(args);
}

/* Counts a failure; true while failures are still shown. */
static bool failed(const char *file, int line)
{
    if (++failures > SHOWN_MAX) return false;
    printf("%s:%d: ", file, line);
    if (*context) printf("[%s] ", context);
    return true;
}

bool test_check(bool ok, const char *file, int line, const char *what)
{
    if (!ok && failed(file, line)) printf("not so: %s\n", what);
    return ok;
}

bool test_int(long long got, long long wanted, const char *file, int line, const char *what)
{
    if (got != wanted && failed(file, line)) printf("%s is %lld, not %lld\n", what, got, wanted);
    return got == wanted;
}

bool test_text(const char *got, const char *wanted, const char *file, int line, const char *what)
{
    bool same = got && wanted && !strcmp(got, wanted);
    if (!same && failed(file, line))
        printf("%s is\n--- got\n%s\n--- wanted\n%s\n---\n", what, got ? got : "(null)",
               wanted ? wanted : "(null)");
    return same;
}

int test_main(int argc, char **argv, const struct test_case *cases, size_t count)
{
    unsigned run = 0, bad = 0;
    for (size_t i = 0; i < count; i++) {
        unsigned before = failures;
        if (argc > 1 && !strstr(cases[i].name, argv[1])) continue;
        context[0] = 0;
        cases[i].run();
        run++;
        bad += failures != before;
        printf("%s %s\n", failures == before ? "ok  " : "FAIL", cases[i].name);
    }
    printf("%u of %u cases passed\n", run - bad, run);
    return bad || !run;
}
