/* Any bytes as a trace: lines, values, a dump and pictures of it, or an error that says why not.
 * Never a crash, a hang, or an axis that never ends. */
#include <stdlib.h>

#include "fuzz.h"
#include "draw/timeline.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char *name = fuzz_file(data, size);
    GError *error = NULL;
    if (!name) return 0;
    struct timeline *t = timeline_read(name, &error);
    if (!t && !error) abort();
    if (t) {
        uint64_t to = t->end_us + t->end_us / 50 + 1;
        if (to < t->end_us) abort();
        g_free(timeline_text(t, 0, to));
        g_free(timeline_csv(t, 0, to));
        g_free(timeline_vcd(t, 0, to));
        if (size % 4 == 0) timeline_picture(t, "/dev/null", size % 8 == 0, 0, to, NULL);
        timeline_free(t);
    }
    g_clear_error(&error);
    g_remove(name);
    g_free(name);
    return 0;
}
