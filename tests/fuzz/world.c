/* Any bytes as a world file: faults, or a bench on which a conversation over every link comes to
 * its end, whatever is wrong with the links; never a crash or a hang. */
#include <stdlib.h>
#include <string.h>

#include "world/boards/bench.h"
#include "fuzz.h"

/* More happenings than this in a conversation of a few lines: it runs in a circle. */
#define HAPPENINGS 3000000

static const char lexicon_text[] =
    "lexicon x 1\noutput pump relay pin 4 safe off\ncommand pump {on|off|toggle} => pump\n"
    "input call pin 5 pull up debounce 20ms\nevent call {pressed|released} <= call to skiff bench\n"
    "link bench serial 9600 frame line\nlink pad bridge 9600 frame line state pin 20\n"
    "link far modem 9600 frame gap 20ms\nlink usb report\n"
    "link skiff radio payload 48 address 3 senders 2 check off tags required\n";

static void converse(struct bench *bench)
{
    bench_start(bench);
    for (unsigned round = 0; round < 3; round++)
        for (unsigned i = 0; i < bench->ends->len; i++) {
            struct end *end = bench->ends->pdata[i];
            bench_say(end, "pump toggle", 11);
            bench_until_quiet(end);
        }
    bench_set_pin(bench->boards->pdata[0], 5, false);
    bench_pass(bench, 5000000);
    if (bench_failure(bench) || bench->world->count > HAPPENINGS) abort();
}

/* The file without its lines that have faults; owned by the caller. */
static char *sound_lines(const char *text, struct lexicon *lx)
{
    struct world_file *file = world_file_text("w", g_strdup(text), strlen(text), lx);
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; i < file->read->faults->len; i++) {
        const struct lex_fault *fault = file->read->faults->pdata[i];
        if (fault->place.line && fault->place.line <= g_strv_length(lines))
            *lines[fault->place.line - 1] = 0;
    }
    char *sound = g_strjoinv("\n", lines);
    g_strfreev(lines);
    world_file_free(file);
    return sound;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static struct lexicon *lx;
    static struct image *image;
    if (!lx) {
        lx = lexicon_read_text("x", g_strdup(lexicon_text), sizeof lexicon_text - 1);
        image = image_build(lx);
        if (!image) abort();
    }
    if (size > 4000) size = 4000; /* a thousand statements would be a thousand faults at once */
    char *text = g_strndup((const char *)data, size);
    char *sound = sound_lines(text, lx);
    g_free(text);
    struct world_file *file = world_file_text("w", sound, strlen(sound), lx);
    if (!lexicon_has(file->read, false) && !file->devices->len) {
        const struct bench_options options = {.world = file, .loads = true, .seed = 1};
        struct bench *bench = bench_new(lx, image, &options, NULL);
        if (!bench) abort();
        converse(bench);
        bench_free(bench);
    }
    world_file_free(file);
    return 0;
}
