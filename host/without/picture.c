/* In the place of host/draw/picture.c where the tool is built without Cairo.
 * It says so.
 * It draws nothing. */
#include "draw/timeline.h"

bool timeline_picture(const struct timeline *t, const char *file, bool svg, uint64_t from_us,
                      uint64_t to_us, GError **error)
{
    (void)t, (void)file, (void)svg, (void)from_us, (void)to_us;
    g_set_error(
        error, G_FILE_ERROR, G_FILE_ERROR_NOSYS,
        "this rlx was built without Cairo and makes no pictures; vcd, csv and text it does");
    return false;
}
