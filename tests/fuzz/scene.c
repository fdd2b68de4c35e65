/* Any bytes as a scene file: faults with a place, or scenes; short ones without repeats are played
 * to their end, whatever they say. Never a crash or a hang. */
#include <stdlib.h>
#include <string.h>

#include "fuzz.h"
#include "drill/scenes/play.h"

#define STEPS_MOST 12u
#define WAITS_MOST UINT64_C(20000000) /* us, all in all */

static const char lexicon_text[] =
    "lexicon x 1\nbuilt-in halt state\noutput pump relay pin 4 safe off\n"
    "output glow led pwm 1 at 1kHz\ncommand pump {on|off|toggle} => pump\n"
    "command glow {level 0..100%} => glow\ninput call pin 5 pull up debounce 20ms\n"
    "event call {pressed|released} <= call\nlink bench serial 9600 frame line\n"
    "link pad bridge 9600 frame keys p = \"pump toggle\"\n"
    "link skiff radio payload 48 address 3 senders 2 check off tags required\n"
    "handset deck on bench\nbutton p press \"pump on\" release \"pump off\"\n"
    "slider g \"glow {0..100 step 10}\"\n";

static bool is_short(const struct scene *scene)
{
    uint64_t us = 0;
    for (unsigned i = 0; i < scene->steps->len; i++) {
        const struct scene_step *step = &g_array_index(scene->steps, struct scene_step, i);
        if (step->what == SCENE_REPEAT || step->us > WAITS_MOST) return false;
        us += step->us;
    }
    return scene->steps->len <= STEPS_MOST && us <= WAITS_MOST;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    struct lexicon *lx = lexicon_read_text("x", g_strdup(lexicon_text), strlen(lexicon_text));
    struct image *image = image_build(lx);
    char *text = g_strndup((const char *)data, size);
    struct scene_file *file = scene_file_of(lx, image, "controller c on skiff\n", text);
    struct play_options options = {.seed = 1};
    for (unsigned i = 0; !file->read->faults->len && i < file->scenes->len && i < 4; i++) {
        if (!is_short(file->scenes->pdata[i])) continue;
        struct play_result *result = play_scene(file, file->scenes->pdata[i], &options);
        if (result->passed == (result->expected != NULL)) abort();
        play_result_free(result);
    }
    for (unsigned i = 0; i < file->read->faults->len; i++)
        if (!((struct lex_fault *)file->read->faults->pdata[i])->text) abort();
    g_free(lexicon_faults_text(file->read, 3));
    scene_file_free(file);
    g_free(text);
    image_free(image);
    lexicon_free(lx);
    return 0;
}
