/* Scenes that pass and that fail: each statement, on a bench of its own. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "drill/scenes/play.h"

static const char text[] =
    "lexicon x 1\nletters any-case\nbuilt-in halt state notes\n"
    "input call pin 12 pull up active low debounce 20ms\n"
    "output pump relay pin 4 active low safe on\noutput glow led pwm 1 at 1kHz\n"
    "output lamp led pwm 2 at 1kHz fade 200ms\n"
    "output gate reverser open pin 7 close pin 8 dead 200ms travel 2s safe stop\n"
    "output feeder motor pwm 6 at 20kHz direction 24 safe 0%\n"
    "output weir servo pwm 3 0..400mm as 950..2050us safe 0mm\noutput bell buzzer pwm 5 at 2kHz\n"
    "command pump {on|off|toggle} => pump\ncommand glow {level 0..100%} => glow\n"
    "command lamp {level 0..100%} => lamp\ncommand gate {open|close|stop} => gate\n"
    "command feed {speed -100..100%} => feeder\ncommand {height 0..400}mm => weir\n"
    "command bell {pitch 100..4000} => bell tone\nevent call {pressed|released} <= call to bench\n"
    "link bench serial 9600 frame line\nlink pad serial 9600 frame keys p = \"pump toggle\"\n"
    "link shore sms allow +15550142\n";

static struct lexicon *lx;
static struct image *image;

/* Plays the statements; `came`: NULL where they pass, otherwise a part of what came instead. */
static void play(const char *statements, const char *came)
{
    char *whole = g_strdup_printf("scene \"it\"\n%s\n", statements);
    struct scene_file *file = scene_file_of(lx, image, "", whole);
    struct play_options options = {.seed = 1};
    test_context("%s", statements);
    if (CHECK_INT(file->read->faults->len, 0)) {
        struct play_result *r = play_scene(file, file->scenes->pdata[0], &options);
        CHECK_INT(r->passed, !came);
        if (r->came && came) CHECK(strstr(r->came, came) != NULL);
        if (r->came && (!came || !strstr(r->came, came)))
            printf("  %s; %s\n", r->expected, r->came);
        play_result_free(r);
    }
    test_context("%s", "");
    scene_file_free(file);
    g_free(whole);
}

static void heard(void)
{
    play("say bench \"pump off\"\nhear bench \"ok pump off\"", NULL);
    play("say bench \"pump off\"\nhear bench \"ok pump on\"", "ok pump off");
    play("say bench \"pump off\"\nhear bench \"ok*\" within 1ms", "nothing");
    play("hear bench \"*\" within 1s", "nothing");
    play("say pad \"p\"\nhear pad \"<ok pump off\"", NULL);
    play("say bench \"glow 40\"\nsay bench \"glow 50\"\nhear bench \"ok glow 40\"\nhear bench \"ok "
         "glow 50\"",
         NULL);
    play("push call on\nsay bench \"glow 1\"\nhear bench \"ok glow 1\"\nhear bench \"ev call "
         "pressed\"",
         NULL);
    play("push call on\nsay bench \"glow 1\"\nwait 1s\nhear bench \"ev call pressed\"",
         "ok glow 1");
    play("from shore \"+15550142\"\nsay shore \"pump off\"\nhear shore \"ok pump off\"", NULL);
    play("from shore \"+15550199\"\nsay shore \"pump off\"\nsilence shore 2min\nsee pump on", NULL);
    play("from bench \"+15550142\"", "+15550142");
}

static void typed(void)
{
    play("type bench \"pump off\\r\"\nhear bench \"ok pump off\"", NULL);
    play("type bench \"pump\"\nwait 1s\ntype bench \" off\\r\\n\"\nhear bench \"ok pump off\"",
         NULL);
    play("type bench \"pump off\"\nsilence bench 1s\nsee pump on", NULL);
    play("type bench \"pump\\x20off\\x0D\"\nhear bench \"ok pump off\"", NULL);
    play("type bench \"\\xFF\\x0D\"\nhear bench \"err byte 255*\"", NULL);
    play("type bench \"\\xZZ\\n\"\nhear bench \"err unknown*\"", NULL);
    play("type pad \"pp\"\nhear pad \"<ok pump off\"\nhear pad \"<ok pump on\"", NULL);
}

static void seen(void)
{
    play("see pump on\nsee glow 0%\nsee glow off\nsee gate stopped\nsee feeder 0%\nsee weir "
         "950us\nsee bell off",
         NULL);
    play("see pump off", "on");
    play("say bench \"glow 40\"\nhear bench \"*\"\nsee glow 40%\nsee glow on", NULL);
    play("say bench \"glow 40\"\nhear bench \"*\"\nsee glow off within 100ms", "40%");
    play("say bench \"lamp 100\"\nsee lamp 100% within 300ms", NULL);
    play("say bench \"lamp 100\"\nsee lamp 100% within 100ms", "%");
    play("say bench \"gate open\"\nsee gate opening\nsee gate stopped within 3s", NULL);
    play("say bench \"gate open\"\nsee gate closing within 3s", "stopped");
    play("say bench \"feed -50\"\nsee feeder -50%\nsay bench \"feed 30\"\nsee feeder 30%", NULL);
    play("say bench \"400mm\"\nsee weir 2050us\nsay bench \"bell 440\"\nsee bell 440Hz", NULL);
}

static void quiet(void)
{
    play("still 10s\nsilence 10s", NULL);
    play("say bench \"glow 40\"\nstill 1s", "glow changed");
    play("say bench \"glow 0\"\nstill 1s", NULL);
    play("say bench \"glow 0\"\nsilence 1s", "ok glow 0 already");
    play("say bench \"glow 0\"\nsilence pad 1s", NULL);
    play("say bench \"glow 0\"\nwait 1s\nsilence bench 1s",
         NULL); /* what came before is passed over */
}

static void over_and_over(void)
{
    play("repeat 3\nsay bench \"pump toggle\"\nhear bench \"ok*\"\nend\nsee pump off", NULL);
    play("repeat 2\nrepeat 3\nsay bench \"pump toggle\"\nhear bench \"ok*\"\nend\nend\nsee pump on",
         NULL);
    play("repeat 100000\nwait 1h\nend", "it goes on");
}

static void changed(void)
{
    play("now cable bench open\nsay bench \"pump off\"\nsilence 2s\nsee pump on\nnow cable bench\n"
         "say bench \"pump off\"\nhear bench \"*\"\nsay bench \"pump off\"\nhear bench \"ok*\"",
         NULL);
    play("say bench \"glow 40\"\nhear bench \"*\"\nnow reset watchdog\nhear bench \"ready x 1 * "
         "watchdog\"\nsee glow 0%",
         NULL);
}

static const struct test_case cases[] = {
    {"heard", heard},
    {"typed", typed},
    {"seen", seen},
    {"quiet", quiet},
    {"over and over", over_and_over},
    {"changed", changed},
};

int main(int argc, char **argv)
{
    lx = lexicon_read_text("x", g_strdup(text), strlen(text));
    image = image_build(lx);
    int code = test_main(argc, argv, cases, sizeof cases / sizeof *cases);
    image_free(image);
    lexicon_free(lx);
    return code;
}
