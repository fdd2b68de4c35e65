/* In the place of host/drill/report/junit.c where the tool is built without libxml2.
 * It says so.
 * It writes nothing. */
#include "drill/report/junit.h"
#include "drill/report/report.h"

static bool none(GError **error)
{
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_NOSYS,
                "this rlx was built without libxml2 and writes no JUnit XML; --json it does");
    return false;
}

bool report_junit(const json_t *report, double seconds, const char *file, GError **error)
{
    (void)report, (void)seconds, (void)file;
    return none(error);
}

bool junit_scenes(const json_t *results, const char *verb, const char *file, GError **error)
{
    (void)results, (void)verb, (void)file;
    return none(error);
}
