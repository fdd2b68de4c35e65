/* Draws the failures of a report: the scene of each is played and traced, the trace is drawn.
 * One failure of each cause: the others look like it.
 * It lays out no page. */
#include "drill/report/pictures.h"

#include <glib/gstdio.h>
#include <string.h>
#include <unistd.h>

#include "draw/timeline.h"
#include "drill/report/report.h"
#include "drill/scenes/play.h"
#include "files/files.h"
#include "world/boards/trace.h"

#define BEGINS_US  2900000u      /* a scene begins 3 s after power-up */
#define BYTES_MOST (512u * 1024) /* of a picture in the page */

/* The file as base64; NULL: it cannot be read, or is too large. */
static char *coded(const char *file)
{
    char *text, *all = NULL;
    size_t size;
    if (!files_read(file, BYTES_MOST, &text, &size, NULL)) return NULL;
    if (size && size <= BYTES_MOST) all = g_base64_encode((const guchar *)text, size);
    g_free(text);
    return all;
}

static char *draw(const char *trace, const char *picture)
{
    struct timeline *t = timeline_read(trace, NULL);
    uint64_t end = t ? t->end_us + t->end_us / 50 + 1 : 0;
    bool ok = end > BEGINS_US && timeline_picture(t, picture, true, BEGINS_US, end, NULL);
    timeline_free(t);
    return ok ? coded(picture) : NULL;
}

/* Plays it with a trace; false: it is no scene that can be played. */
static bool play(const json_t *failure, const json_t *report, struct lexicon *lx,
                 const struct image *image, const char *trace)
{
    const char *scene = report_string(failure, "scene"), *world = report_string(failure, "world");
    const char *body = scene ? strstr(scene, "\n\n") : NULL;
    if (!body) return false;
    struct scene_file *file = scene_file_of(lx, image, world ? world : "", body + 2);
    bool ok = !lexicon_has(file->read, false) && file->scenes->len == 1;
    struct play_options options = {.firmware = report_string(report, "firmware"),
                                   .seed = report_count(report, "seed")};
    if (ok) options.trace = trace_begin(lx, trace, NULL);
    if (options.trace) {
        play_result_free(play_scene(file, file->scenes->pdata[0], &options));
        ok = trace_end(options.trace, NULL);
    }
    scene_file_free(file);
    return ok;
}

void pictures_put(json_t *report, struct lexicon *lx, const struct image *image)
{
    json_t *failures = json_object_get(report, "failures");
    char *folder = g_dir_make_tmp("rlx-report-XXXXXX", NULL);
    if (!folder) return;
    char *trace = g_build_filename(folder, "trace.jsonl", NULL);
    char *picture = g_build_filename(folder, "picture.svg", NULL);
    unsigned drawn = 0;
    for (size_t i = 0; i < json_array_size(failures) && drawn < PICTURES_MOST; i++) {
        json_t *f = json_array_get(failures, i);
        if (report_count(f, "nth") != 1 || !play(f, report, lx, image, trace)) continue;
        char *svg = draw(trace, picture);
        if (svg) json_object_set_new(f, "picture", json_string(svg));
        drawn += svg != NULL;
        g_free(svg);
    }
    g_unlink(trace);
    g_unlink(picture);
    g_rmdir(folder);
    g_free(trace), g_free(picture), g_free(folder);
}

void pictures_drop(json_t *report)
{
    json_t *failures = json_object_get(report, "failures");
    for (size_t i = 0; i < json_array_size(failures); i++)
        json_object_del(json_array_get(failures, i), "picture");
}
