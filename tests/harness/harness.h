/* A small test harness: named cases, checks that tell what they saw. */
#ifndef HARNESS_H
#define HARNESS_H

#include <stdbool.h>
#include <stddef.h>

struct test_case {
    const char *name;
    void (*run)(void);
};

/* Runs the cases, all or those whose name holds argv[1]; returns the exit code. */
int test_main(int argc, char **argv, const struct test_case *cases, size_t count);

/* For checks that belong to a place in a data file: printed with each failure. */
void test_context(const char *format, ...) __attribute__((__format__(__printf__, 1, 2)));

bool test_check(bool ok, const char *file, int line, const char *what);
bool test_int(long long got, long long wanted, const char *file, int line, const char *what);
bool test_text(const char *got, const char *wanted, const char *file, int line, const char *what);
/* Failures so far. */
unsigned test_failures(void);
/* How often random tests do what they do: RLX_ROUNDS of the environment, 1..1000; 1 without. */
unsigned test_rounds(void);
/* Every how many of its cases a long test runs: 1, or 3 with sanitizers and without RLX_ROUNDS. */
unsigned test_stride(void);

#define CHECK(condition) test_check((condition), __FILE__, __LINE__, #condition)
#define CHECK_INT(got, wanted) \
    test_int((long long)(got), (long long)(wanted), __FILE__, __LINE__, #got)
#define CHECK_TEXT(got, wanted) test_text((got), (wanted), __FILE__, __LINE__, #got)

#define TEST_MAIN(cases)                                                   \
    int main(int argc, char **argv)                                        \
    {                                                                      \
        return test_main(argc, argv, cases, sizeof cases / sizeof *cases); \
    }

#endif
