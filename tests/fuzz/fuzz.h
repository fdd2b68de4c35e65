/* One input for a fuzz target. With clang -fsanitize=fuzzer it is fed without end;
 * tests/fuzz/replay.c feeds it a corpus, and that corpus changed at random. */
#ifndef FUZZ_H
#define FUZZ_H

#include <glib.h>
#include <glib/gstdio.h>
#include <stddef.h>
#include <stdint.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

/* A file with these bytes; NULL: there is no room. The caller removes it. */
static inline char *fuzz_file(const uint8_t *data, size_t size)
{
    char *name = NULL;
    int file = g_file_open_tmp("rlx_fuzz_XXXXXX", &name, NULL);
    if (file < 0) return NULL;
    close(file);
    g_file_set_contents(name, (const char *)data, (gssize)size, NULL);
    return name;
}

#endif
