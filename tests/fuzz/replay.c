/* replay ROUNDS FILE...: each file as it is, then ROUNDS times with some of its bytes changed,
 * dropped, doubled, or joined with another's. The same changes every time. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "fuzz.h"

static uint32_t seed = 1;

static unsigned chance(size_t n)
{
    seed = seed * 1664525u + 1013904223u;
    return (unsigned)(((uint64_t)seed * n) >> 32);
}

static void change(GString *bytes, const GString *other)
{
    gsize at = chance(bytes->len + 1), count = 1 + chance(40);
    switch (chance(5)) {
    case 0:
        if (at < bytes->len) bytes->str[at] = (char)chance(256);
        break;
    case 1: g_string_erase(bytes, (gssize)at, (gssize)MIN(count, bytes->len - at)); break;
    case 2: {
        GString *piece = g_string_new_len(bytes->str + at, (gssize)MIN(count, bytes->len - at));
        g_string_insert_len(bytes, (gssize)chance(bytes->len + 1), piece->str, (gssize)piece->len);
        g_string_free(piece, TRUE);
        break;
    }
    case 3: {
        gsize from = chance(other->len + 1);
        g_string_insert_len(bytes, (gssize)at, other->str + from,
                            (gssize)MIN(count, other->len - from));
        break;
    }
    default:
        if (at + 1 < bytes->len) {
            char c = bytes->str[at];
            bytes->str[at] = bytes->str[at + 1];
            bytes->str[at + 1] = c;
        }
    }
}

int main(int argc, char **argv)
{
    if (argc < 3) return 2;
    GPtrArray *files = g_ptr_array_new();
    for (int i = 2; i < argc; i++) {
        char *text;
        gsize size;
        if (!g_file_get_contents(argv[i], &text, &size, NULL)) return 2;
        g_ptr_array_add(files, g_string_new_len(text, (gssize)size));
        g_free(text);
    }
    unsigned rounds = (unsigned)atoi(argv[1]), fed = 0;
    for (unsigned i = 0; i < files->len; i++) {
        const GString *file = files->pdata[i];
        for (unsigned round = 0; round <= rounds; round++, fed++) {
            GString *bytes = g_string_new_len(file->str, (gssize)file->len);
            for (unsigned n = round ? 1 + chance(6) : 0; n; n--)
                change(bytes, files->pdata[chance(files->len)]);
            LLVMFuzzerTestOneInput((const uint8_t *)bytes->str, bytes->len);
            g_string_free(bytes, TRUE);
        }
    }
    for (unsigned i = 0; i < files->len; i++) g_string_free(files->pdata[i], TRUE);
    g_ptr_array_free(files, TRUE);
    printf("%u inputs\n", fed);
    return 0;
}
