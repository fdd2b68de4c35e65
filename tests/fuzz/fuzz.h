/* One input for a fuzz target. With clang -fsanitize=fuzzer it is fed without end;
 * tests/fuzz/replay.c feeds it a corpus, and that corpus changed at random. */
#ifndef FUZZ_H
#define FUZZ_H

#include <glib.h>
#include <stddef.h>
#include <stdint.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

#endif
