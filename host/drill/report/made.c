/* Says what a report was made by, when, of which lexicon and which firmware.
 * The firmware is known by the SHA-256 of its file (FIPS 180-4), as sha256sum prints it.
 * With SOURCE_DATE_EPOCH the date is that one, so that two reports can be compared byte for byte.
 */
#include "drill/report/made.h"
#include "files/files.h"

#include "drill/report/report.h"

#define FIRMWARE_MOST (256u * 1024 * 1024) /* bytes */

const char *made_version(void)
{
    return RLX_PROJECT_VERSION;
}

const char *made_tool(void)
{
    return "rlx " RLX_PROJECT_VERSION RLX_COMMIT;
}

static char *sha256_of(const char *file)
{
    char *bytes = NULL, *sum = NULL;
    size_t size;
    if (!file || !files_read(file, FIRMWARE_MOST, &bytes, &size, NULL)) return NULL;
    if (size <= FIRMWARE_MOST)
        sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)bytes, size);
    g_free(bytes);
    return sum;
}

json_t *made_json(const struct lexicon *lx, const struct image *image, const char *firmware,
                  uint32_t seed)
{
    const char *epoch = g_getenv("SOURCE_DATE_EPOCH");
    gint64 seconds = epoch ? g_ascii_strtoll(epoch, NULL, 10) : g_get_real_time() / G_USEC_PER_SEC;
    GDateTime *at = g_date_time_new_from_unix_utc(seconds);
    char *date = at ? g_date_time_format_iso8601(at) : g_strdup("");
    char *is = g_strdup_printf("%s %u", lx->name, lx->version), *sum = sha256_of(firmware);
    json_t *made = json_pack("{s:s, s:s, s:s, s:s, s:s*, s:I}", "tool", made_tool(), "date", date,
                             "lexicon", is, "fingerprint", image->fingerprint, "firmware_sha256",
                             sum, "seed", (json_int_t)seed);
    g_free(sum);
    g_free(is);
    g_free(date);
    if (at) g_date_time_unref(at);
    return made;
}

double made_seconds(gint64 since_us)
{
    if (g_getenv("SOURCE_DATE_EPOCH")) return 0;
    return (double)(g_get_monotonic_time() - since_us) / G_USEC_PER_SEC;
}

char *made_text(const json_t *made)
{
    if (!made) return NULL;
    const char *sum = report_string(made, "firmware_sha256");
    return g_strdup_printf("%s, %s, lexicon %s, fingerprint %s%s%s, seed %u",
                           report_string(made, "tool"), report_string(made, "date"),
                           report_string(made, "lexicon"), report_string(made, "fingerprint"),
                           sum ? ", firmware SHA-256 " : "", sum ? sum : "",
                           report_count(made, "seed"));
}
