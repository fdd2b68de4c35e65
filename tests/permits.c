/* P1, P5, P6: what inputs permit, against a plain model: random commands, batches, calls of the
 * firmware and levels at the pins. What is refused changes nothing and names the input; what a
 * permit ends is safe at once, and comes back by a command only. */
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"
#include "rlx/drive.h"

static const char text[] =
    "lexicon it 1\nbuilt-in batch\n"
    "output heater relay pin 1 safe off only while door on and hatch off\n"
    "output pump relay pin 2 safe on only while door on\n"
    "output glow led pwm 1 at 1kHz safe 20% only while hatch on\n"
    "output drum motor pwm 2 at 20kHz direction 3 safe 0% forward only while door on back only "
    "while hatch on\n"
    "output lamp led pin 4\n"
    "output both group of heater, lamp\n"
    "input door pin 20\ninput hatch pin 21\n"
    "command heater {on|off|toggle} => heater\n"
    "command pump {on|off|toggle} => pump\n"
    "command glow {level 0..100%} => glow\n"
    "command drum {level -100..100%} => drum\n"
    "command drum {forward|back|stop|reverse} => drum\n"
    "command lamp {on|off} => lamp\n"
    "command both {on|off} => both\n"
    "link bench serial 9600 frame line\n";

enum { HEATER, PUMP, GLOW, DRUM, LAMP, BOTH };

/* What is commanded, in percent, and what the inputs are; the speed that the drum remembers. */
struct model {
    int at[5], speed;
    bool door, hatch;
};

static const int safe[5] = {0, 100, 20, 0, 0};

/* The input that does not let the output go there; NULL: it may. */
static const char *missing(const struct model *m, int output, int to)
{
    if (to == safe[output]) return NULL;
    switch (output) {
    case HEATER: return !m->door ? "door" : m->hatch ? "hatch" : NULL;
    case PUMP: return m->door ? NULL : "door";
    case GLOW: return m->hatch ? NULL : "hatch";
    case DRUM: return to > 0 ? (m->door ? NULL : "door") : m->hatch ? NULL : "hatch";
    default: return NULL;
    }
}

static void inputs_changed(struct model *m)
{
    for (int i = 0; i < 5; i++)
        if (missing(m, i, m->at[i])) m->at[i] = safe[i];
}

/* A random command, where it leads (of both: the heater), and which output it is. */
static char *command(const struct model *m, int *output, int *to)
{
    static const char *const names[] = {"heater", "pump", "glow", "drum", "lamp", "both"};
    static const char *const switched[] = {"off", "on", "toggle"}, *const turns[] = {
                                                                       "stop", "forward", "back",
                                                                       "reverse"};
    *output = (int)lines_chance(6);
    const char *name = names[*output];
    if (*output == GLOW) {
        *to = (int)lines_chance(101);
        return g_strdup_printf("%s %d", name, *to);
    }
    if (*output == DRUM && lines_chance(2)) {
        *to = (int)lines_chance(201) - 100;
        return g_strdup_printf("%s %d", name, *to);
    }
    if (*output == DRUM) {
        unsigned turn = lines_chance(4);
        *to = turn == 0 ? 0 : turn == 1 ? m->speed : turn == 2 ? -m->speed : -m->at[DRUM];
        return g_strdup_printf("%s %s", name, turns[turn]);
    }
    unsigned how = lines_chance(*output < GLOW ? 3 : 2);
    *to = how == 2 ? (m->at[*output] ? 0 : 100) : how == 1 ? 100 : 0;
    return g_strdup_printf("%s %s", name, switched[how]);
}

/* What it is at, as the firmware sees it. */
static int is_at(struct rig *rig, int output)
{
    return output == DRUM ? rlx_motor_percent(&rig->device, DRUM, 0)
                          : rlx_output_percent(&rig->device, (uint8_t)output);
}

static const char *blocks(const struct model *m, int output, int to)
{
    return missing(m, output == BOTH ? HEATER : output, to);
}

static void obey(struct model *m, int output, int to)
{
    if (output == BOTH) m->at[HEATER] = m->at[LAMP] = to;
    if (output == BOTH) return;
    m->at[output] = to;
    if (output == DRUM && to) m->speed = to < 0 ? -to : to;
}

static void move_input(struct rig *rig, struct model *m)
{
    bool door = lines_chance(2), *which = door ? &m->door : &m->hatch;
    *which = !*which;
    sim_board_in(&rig->board, (struct sim_event){SIM_PIN_IN, door ? 20 : 21, 0, *which});
    inputs_changed(m);
    rig_run(rig);
}

static void compare(struct rig *rig, const struct model *m)
{
    for (int i = 0; i < 5; i++)
        if (!CHECK_INT(is_at(rig, i), m->at[i])) test_context("output %d", i);
}

static void start(struct rig *rig, struct model *m)
{
    *m = (struct model){{0, 100, 20, 0, 0}, 100, false, false};
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
}

static void random_commands(void)
{
    struct rig *rig = rig_of_text(text);
    struct model m;
    unsigned refused = 0, obeyed = 0;
    lines_seed = 31;
    start(rig, &m);
    for (unsigned i = 0; i < 20000 && test_failures() < 5; i++) {
        if (!lines_chance(3)) {
            move_input(rig, &m);
            test_context("%u: an input moved", i);
        } else {
            int output, to;
            char *said = command(&m, &output, &to);
            const char *input = blocks(&m, output, to), *heard = rig_talk(rig, 0, said);
            test_context("%u: %s: %s", i, said, heard);
            if (input) {
                char *wanted = g_strdup_printf("err blocked %s\n", input);
                CHECK_TEXT(heard, wanted);
                g_free(wanted);
                refused++;
            } else {
                CHECK(g_str_has_prefix(heard, "ok "));
                obey(&m, output, to);
                obeyed++;
            }
            g_free(said);
        }
        compare(rig, &m);
    }
    CHECK(refused > 2000 && obeyed > 5000);
    rig_free(rig);
}

/* Nothing of a batch is done where an input does not permit all of it. Both are asked as things
 * are before, so that a toggle is no part of it, and the drum's other way. */
static void batches(void)
{
    struct rig *rig = rig_of_text(text);
    struct model m;
    unsigned refused = 0;
    lines_seed = 32;
    start(rig, &m);
    for (unsigned i = 0; i < 6000 && test_failures() < 5; i++) {
        int output[2], to[2];
        if (!lines_chance(3)) move_input(rig, &m);
        char *a = command(&m, &output[0], &to[0]), *b = command(&m, &output[1], &to[1]);
        char *both = g_strdup_printf("%s; %s", a, b);
        if (!strstr(both, "toggle") && !strstr(both, "reverse") && !strstr(both, "forward") &&
            !strstr(both, "back")) {
            const char *first = blocks(&m, output[0], to[0]),
                       *second = blocks(&m, output[1], to[1]);
            const char *heard = rig_talk(rig, 0, both);
            char *wanted = first || second ? g_strdup_printf("err blocked %s %d\n",
                                                             first ? first : second, first ? 1 : 2)
                                           : g_strdup("ok 2\n");
            test_context("%u: %s", i, both);
            CHECK_TEXT(heard, wanted);
            for (int k = 0; k < 2 && !first && !second; k++) obey(&m, output[k], to[k]);
            refused += first || second;
            compare(rig, &m);
            g_free(wanted);
        }
        g_free(both);
        g_free(a);
        g_free(b);
    }
    CHECK(refused > 500);
    rig_free(rig);
}

/* The firmware is asked like everybody; to make safe is always possible. */
static void by_the_firmware(void)
{
    struct rig *rig = rig_of_text(text);
    struct model m;
    start(rig, &m);
    struct rlx_device *d = &rig->device;
    CHECK_INT(rlx_output_switch(d, HEATER, RLX_ON), -RLX_ERR_BLOCKED);
    CHECK_INT(rlx_output_switch(d, PUMP, RLX_OFF), -RLX_ERR_BLOCKED);
    CHECK_INT(rlx_output_switch(d, PUMP, RLX_ON), RLX_ALREADY);
    CHECK_INT(rlx_output_level(d, GLOW, 70), -RLX_ERR_BLOCKED);
    CHECK_INT(rlx_output_level(d, GLOW, 20), RLX_ALREADY);
    CHECK_INT(rlx_output_level(d, DRUM, 20), -RLX_ERR_FAILED);
    CHECK_INT(rlx_output_act(d, DRUM, RLX_FORWARD, 0), -RLX_ERR_BLOCKED);
    CHECK_INT(rlx_output_act(d, DRUM, RLX_STOP, 0), RLX_ALREADY);
    CHECK_INT(rlx_output_switch(d, BOTH, RLX_ON), -RLX_ERR_BLOCKED);
    CHECK_INT(rlx_output_switch(d, LAMP, RLX_ON), 0);
    compare(rig, &(struct model){{0, 100, 20, 0, 100}, 100, false, false});
    m.door = true;
    sim_board_in(&rig->board, (struct sim_event){SIM_PIN_IN, 20, 0, true});
    rig_run(rig);
    CHECK_INT(rlx_output_act(d, DRUM, RLX_FORWARD, 0), 0);
    CHECK_INT(rlx_output_act(d, DRUM, RLX_REVERSE, 0), -RLX_ERR_BLOCKED);
    CHECK_INT(rlx_output_act(d, DRUM, RLX_SPEED, 50), 0);
    CHECK_INT(rlx_output_switch(d, BOTH, RLX_ON), 0);
    compare(rig, &(struct model){{100, 100, 20, 50, 100}, 100, false, false});
    rlx_output_safe(d, HEATER);
    compare(rig, &(struct model){{0, 100, 20, 50, 100}, 100, false, false});
    rig_free(rig);
}

static const struct test_case cases[] = {
    {"P5, P6: random commands", random_commands},
    {"P1: batches", batches},
    {"by the firmware", by_the_firmware},
};
TEST_MAIN(cases)
