/* What is read of the whole nursery, field by field; and the card's bytes for the sender, each said
 * to the device. */
#include <jansson.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/write/card.h"
#include "lexicon/check/check.h"
#include "harness.h"
#include "lexicon/read/reader.h"
#include "rig.h"

static struct lexicon *nursery(void)
{
    struct lexicon *lx = lexicon_read(EXAMPLES "/nursery/nursery.lexicon", NULL);
    struct image *image = image_build(lx);
    lexicon_check(lx, image);
    image_free(image);
    CHECK_INT(lx->faults->len, 0);
    return lx;
}

static const struct lex_output *output(const struct lexicon *lx, const char *name)
{
    return lx->outputs->pdata[lexicon_output_index(lx, name)];
}

static void outputs(void)
{
    struct lexicon *lx = nursery();
    const struct lex_output *pump = output(lx, "pump"), *glow = output(lx, "glow");
    const struct lex_output *gate = output(lx, "gate"), *feeder = output(lx, "feeder");
    const struct lex_output *drums = output(lx, "drums"), *weir = output(lx, "weir");
    CHECK_INT(pump->kind, LEX_RELAY);
    CHECK_INT(pump->pin, 4);
    CHECK(pump->active_low && pump->safe == 100 && pump->safe_told);
    CHECK_INT(pump->min_on, 1000);
    CHECK_INT(pump->min_off, 2000);
    CHECK_INT(output(lx, "chiller")->min_off, 180000);
    CHECK(glow->pwm && glow->hz == 1000);
    CHECK_TEXT(glow->curve, "dimming");
    CHECK_INT(gate->kind, LEX_REVERSER);
    CHECK_INT(gate->open.pin, 7);
    CHECK_TEXT(gate->open.until, "upper");
    CHECK_INT(gate->close.pin, 8);
    CHECK_TEXT(gate->close.until, "lower");
    CHECK_INT(gate->dead, 200);
    CHECK_INT(feeder->kind, LEX_MOTOR);
    CHECK_INT(feeder->left.channel, 6);
    CHECK_INT(feeder->left.hz, 20000);
    CHECK_INT(feeder->left.direction, 24);
    CHECK_INT(feeder->left.brake, 25);
    CHECK_INT(feeder->left.other, LEX_NO_PIN);
    CHECK_INT(feeder->ramp, 300);
    CHECK_INT(drums->left.channel, 4);
    CHECK_INT(drums->right.channel, 5);
    CHECK(!drums->left.reversed && drums->right.reversed);
    CHECK_INT(weir->hz, 50);
    CHECK_INT(weir->range->high, 400);
    CHECK_TEXT(weir->range->unit, "mm");
    CHECK_INT(weir->range->to_low, 950);
    CHECK_INT(weir->range->to_high, 2050);
    lexicon_free(lx);
}

static void inputs_events_and_settings(void)
{
    struct lexicon *lx = nursery();
    const struct lex_input *call = lexicon_input(lx, "call");
    const struct lex_event *event = lexicon_event(lx, "call");
    const struct lex_setting *dimming = lexicon_setting(lx, "dimming");
    const struct lex_query *level = lx->queries->pdata[0];
    const struct lex_routine *dusk = lx->routines->pdata[0];
    CHECK_INT(call->pin, 12);
    CHECK_INT(call->pull, LEX_PULL_UP);
    CHECK_INT(call->debounce, 20);
    CHECK(!call->active_low && !call->held);
    CHECK_TEXT(event->input, "call");
    CHECK_INT(event->to->len, 2);
    CHECK_TEXT(event->to->pdata[0], "skiff");
    CHECK_TEXT(event->to->pdata[1], "shore");
    CHECK_TEXT(dimming->value, "eye");
    CHECK_TEXT(level->handler, "read_level");
    CHECK_INT(dusk->steps->len, 5);
    CHECK_TEXT(((struct lex_step *)dusk->steps->pdata[2])->text, "beacon flash 3");
    CHECK_INT(((struct lex_step *)dusk->steps->pdata[3])->wait, 5000);
    CHECK(!((struct lex_step *)dusk->steps->pdata[3])->text);
    lexicon_free(lx);
}

static void links_and_handsets(void)
{
    struct lexicon *lx = nursery();
    const struct lex_link *bench = lexicon_link(lx, "bench"), *pad = lexicon_link(lx, "pad");
    const struct lex_link *skiff = lexicon_link(lx, "skiff"), *shore = lexicon_link(lx, "shore");
    const struct lex_handset *deck = lx->handsets->pdata[0];
    const struct lex_button *feed = deck->buttons->pdata[2];
    CHECK(bench->people && bench->frame == LEX_FRAME_LINE && bench->address == -1);
    CHECK_INT(pad->keys->len, 13);
    CHECK_TEXT(((struct lex_key *)pad->keys->pdata[12])->code, "k");
    CHECK_TEXT(((struct lex_key *)pad->keys->pdata[12])->text, "feed 100");
    CHECK_INT(skiff->medium, LEX_RADIO);
    CHECK_INT(skiff->frame, LEX_FRAME_PACKET);
    CHECK_INT(skiff->payload, 48);
    CHECK_INT(skiff->address, 3);
    CHECK_INT(skiff->senders, 2);
    CHECK_INT(skiff->check, LEX_DEMAND_REQUIRED);
    CHECK_INT(skiff->tags, LEX_DEMAND_REQUIRED);
    CHECK_INT(shore->medium, LEX_SMS);
    CHECK_TEXT(shore->allow_setting, "phones");
    CHECK_INT(shore->stale, 600000);
    CHECK_INT(shore->only->len, 3);
    CHECK_INT(deck->repeat, 300);
    CHECK_TEXT(feed->held, "feed 60");
    CHECK_TEXT(feed->release, "feed 0");
    CHECK_TEXT(((struct lex_slider *)deck->sliders->pdata[0])->text, "glow {0..100 step 10}");
    CHECK_TEXT(((struct lex_lamp *)deck->lamps->pdata[0])->event, "call");
    CHECK_INT(lx->ignores->len, 1);
    lexicon_free(lx);
}

static void effects(void)
{
    static const struct {
        const char *effect;
        enum lex_effect_kind kind;
        const char *verb;
        int32_t argument;
        uint32_t lasts;
    } all[] = {{"pump on", LEX_SWITCH, "on", 0, 0},
               {"pump on for 20min", LEX_SWITCH, "on", 0, 1200000},
               {"pump pulse 2s", LEX_VERB, "pulse", 2000, 0},
               {"beacon flash 3", LEX_VERB, "flash", 3, 0},
               {"beacon blink 500ms", LEX_VERB, "blink", 500, 0},
               {"glow 5%", LEX_LEVEL, NULL, 5, 0},
               {"feeder -50%", LEX_LEVEL, NULL, -50, 0},
               {"weir 120mm", LEX_LEVEL, NULL, 120, 0},
               {"gate open", LEX_VERB, "open", 0, 0},
               {"bell tone 880Hz", LEX_VERB, "tone", 880, 0},
               {"drums spin_left", LEX_VERB, "spin_left", 0, 0}};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++) {
        char *text = g_strdup_printf(
            "lexicon x 1\noutput pump relay pin 1 safe off\noutput beacon led pin 2\n"
            "output glow led pwm 1 at 1kHz\noutput feeder motor pwm 2 at 1kHz safe stop\n"
            "output weir servo pwm 3 0..400mm as 950..2050us safe 0mm\noutput bell buzzer pin 5\n"
            "output gate reverser open pin 3 close pin 4 travel 5s dead 1s safe stop\n"
            "output drums pair left pwm 4 right pwm 5 safe stop\n"
            "command go => %s expires 2s newest\nlink l serial 9600 frame line\n",
            all[i].effect);
        struct lexicon *lx = lexicon_read_text("it", text, strlen(text));
        test_context("%s", all[i].effect);
        CHECK_INT(lx->faults->len, 0);
        const struct lex_command *command = lx->commands->pdata[0];
        const struct lex_effect *effect = &command->effect;
        CHECK_INT(effect->kind, all[i].kind);
        CHECK_TEXT(effect->verb ? effect->verb->word : "", all[i].verb ? all[i].verb : "");
        CHECK_INT(effect->argument, all[i].argument);
        CHECK_INT(effect->lasts, all[i].lasts);
        CHECK(command->expires == 2000 && command->newest);
        lexicon_free(lx);
    }
}

/* ---- the card's bytes ---- */

/* Says the bytes of a JSON list; whether the device did it. */
static bool takes(struct rig *rig, unsigned link, const json_t *bytes, const char *end)
{
    GString *text = g_string_new(NULL);
    size_t i;
    json_t *byte;
    json_array_foreach((json_t *)bytes, i, byte)
        g_string_append_c(text, (char)json_integer_value(byte));
    g_string_append(text, end);
    bool ok = strstr(rig_say(rig, link, text->str), "ok ") != NULL;
    g_string_free(text, TRUE);
    return ok;
}

/* Every key, and every text of a handset, is taken by the device as the card tells its bytes. */
static void the_bytes_on_the_card(void)
{
    static const char text[] =
        "lexicon card 1\nletters any-case\noutput pump relay pin 1 safe off\n"
        "output glow led pwm 1 at 1kHz\n"
        "command pump {on|off} => pump\ncommand glow {level 0..100%} => glow\n"
        "link bench serial 9600 frame line\n"
        "link pad serial 9600 frame keys p = \"pump on\" o = \"pump off\" 0123 = \"glow {0..90 "
        "step 30}\"\n"
        "handset deck on bench\nbutton up press \"pump on\" release \"PUMP off\"\n"
        "button mid press \"glow 50%\"\n";
    char *folder = g_dir_make_tmp("rlx-card-XXXXXX", NULL);
    char *path = g_build_filename(folder, "it.lexicon", NULL);
    g_file_set_contents(path, text, -1, NULL);
    struct rig *rig = rig_new(path);
    char *card = lexicon_card_json(rig->lx, rig->image);
    json_t *all = json_loads(card, 0, NULL), *link, *key, *button, *said;
    size_t i, k;
    unsigned keys = 0, buttons = 0;
    const char *when;
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    json_array_foreach(json_object_get(all, "links"), i, link)
        json_array_foreach(json_object_get(link, "keys"), k, key)
    {
        test_context("key %zu of link %zu", k, i);
        CHECK(takes(rig, (unsigned)i, json_object_get(key, "bytes"), ""));
        keys++;
    }
    json_t *handset = json_array_get(json_object_get(all, "handsets"), 0);
    json_array_foreach(json_object_get(handset, "buttons"), i, button)
        json_object_foreach(button, when, said)
    {
        if (!json_is_object(said)) continue;
        test_context("button %zu, %s", i, when);
        CHECK(takes(rig, 0, json_object_get(said, "bytes"), "\r"));
        buttons++;
    }
    CHECK_INT(keys, 6);
    CHECK_INT(buttons, 3);
    json_decref(all);
    g_free(card);
    rig_free(rig);
    remove(path);
    remove(folder);
    g_free(path);
    g_free(folder);
}

static const struct test_case cases[] = {
    {"outputs", outputs},
    {"inputs, events and settings", inputs_events_and_settings},
    {"links and handsets", links_and_handsets},
    {"effects", effects},
    {"the bytes on the card", the_bytes_on_the_card},
};
TEST_MAIN(cases)
