/* P6, P9: a device with what hangs on its pins: contacts that bounce, shafts with inertia between
 * end switches, and faults. Judged at the pins and at the loads. */
#include <stdio.h>
#include <string.h>

#include "world/run/running.h"
#include "harness.h"
#include "lines.h"
#include "world/loads/loads.h"

struct bench {
    struct lexicon *lx;
    struct image *image;
    struct world *world;
    struct device *device;
    struct loads *loads;
    GString *trace; /* all that happened, with its time; NULL: nobody looks */
    bool open, close;
};

static void trace(struct bench *b, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void trace(struct bench *b, const char *format, ...)
{
    va_list args;
    if (!b->trace) return;
    g_string_append_printf(b->trace, "%" G_GUINT64_FORMAT " ", b->world->now_us);
    va_start(args, format);
    g_string_append_vprintf(b->trace, format, args);
    va_end(args);
    g_string_append_c(b->trace, '\n');
}

/* One byte takes a microsecond here: nobody looks at the wire. */
static void on_sent(void *data, uint32_t uart)
{
    device_in(((struct bench *)data)->device, SIM_SENT, (uint8_t)uart, 0);
}

static void on_out(void *user, struct sim_event event)
{
    struct bench *b = user;
    if (event.kind == SIM_SEND) world_at(b->world, b->world->now_us + 1, on_sent, b, event.index);
    trace(b, "%u %u %u", event.kind, event.index, event.value);
    loads_out(b->loads, event);
    if (event.kind == SIM_PIN && event.index == 7) b->open = event.value;
    if (event.kind == SIM_PIN && event.index == 8) b->close = event.value;
    CHECK(!b->open || !b->close);
}

static void on_pin(void *user, uint8_t pin, bool high)
{
    struct bench *b = user;
    trace(b, "in %u %u", pin, high);
    device_in(b->device, SIM_PIN_IN, pin, high);
}

static void on_told(void *user, const char *name, const char *what)
{
    trace(user, "%s %s", name, what);
}

static struct bench *bench_of(struct lexicon *lx, uint32_t seed, uint32_t start_ms)
{
    struct bench *b = g_new0(struct bench, 1);
    b->lx = lx;
    b->image = image_build(lx);
    b->world = world_new();
    b->device = device_of_image(b->world, lx, b->image, start_ms, NULL);
    b->loads = loads_new(b->world, lx, seed, (struct loads_ends){b, on_pin, on_told});
    b->trace = g_string_new(NULL);
    device_start(b->device, on_out, b);
    loads_begin(b->loads);
    return b;
}

static struct bench *bench_file(const char *file, uint32_t seed, uint32_t start_ms)
{
    return bench_of(lexicon_read(file, NULL), seed, start_ms);
}

static struct bench *bench_text(const char *text)
{
    return bench_of(lexicon_read_text("it.lexicon", g_strdup(text), strlen(text)), 1, 0);
}

static void bench_free(struct bench *b)
{
    if (b->trace) g_string_free(b->trace, TRUE);
    device_free(b->device);
    loads_free(b->loads);
    world_free(b->world);
    image_free(b->image);
    lexicon_free(b->lx);
    g_free(b);
}

static void pass(struct bench *b, uint32_t ms)
{
    uint64_t until = b->world->now_us + ms * UINT64_C(1000);
    while (b->world->now_us < until && world_step(b->world, until)) {}
}

static void say(struct bench *b, const char *text)
{
    trace(b, "> %s", text);
    for (; *text; text++) device_in(b->device, SIM_RECEIVED, 0, (uint8_t)*text);
    device_in(b->device, SIM_RECEIVED, 0, '\r');
    pass(b, 1);
}

/* The gate goes to its end by itself, is not driven on, and comes back; what is jammed is late. */
static void a_gate(void)
{
    struct bench *b = bench_file(LEXICONS "/gate.lexicon", 3, 0);
    int output = lexicon_output_index(b->lx, "gate");
    unsigned gate = (unsigned)output;
    say(b, "gate open");
    pass(b, 12000);
    CHECK(loads_place(b->loads, gate) >= 1000);
    CHECK(strstr(b->trace->str, "gate at its open end") != NULL);
    CHECK_INT(loads_stalls(b->loads), 0); /* the relay opened in time */
    CHECK_INT(loads_speed(b->loads, gate, 0), 0);
    say(b, "gate open");
    pass(b, 100);
    CHECK(!b->open);
    say(b, "gate close");
    pass(b, 25000);
    CHECK(loads_place(b->loads, gate) <= 0);
    CHECK_INT(loads_stalls(b->loads), 0);
    CHECK(loads_break(b->loads, "jam gate"));
    CHECK(!loads_break(b->loads, "weld upper") && !loads_break(b->loads, "frob gate"));
    say(b, "gate open");
    pass(b, 29000);
    CHECK(b->open); /* nothing sees that it stands still, but the time */
    pass(b, 1100);
    CHECK(!b->open);
    CHECK_INT(loads_stalls(b->loads), 1);
    CHECK(loads_break(b->loads, "mend gate"));
    CHECK(
        loads_break(b->loads, "stick upper")); /* its end is never seen: the stop, then the time */
    say(b, "gate open");
    pass(b, 31000);
    CHECK(!b->open);
    CHECK_INT(loads_stalls(b->loads), 2);
    CHECK(loads_break(b->loads, "mend upper"));
    say(b, "gate close");
    pass(b, 5000);
    CHECK(loads_break(b->loads, "cut upper")); /* normally closed: cut is open */
    say(b, "gate open");
    pass(b, 100);
    CHECK(!b->open);
    CHECK_INT(loads_shorts(b->loads), 0);
    bench_free(b);
}

/* What nobody sees is where the time says, also after stops between its ends. */
static void a_lid(void)
{
    struct bench *b = bench_file(LEXICONS "/gate.lexicon", 3, 0);
    unsigned lid = (unsigned)lexicon_output_index(b->lx, "lid");
    lines_seed = 21;
    say(b, "lid open");
    pass(b, 6000);
    for (unsigned i = 0; i < 300; i++) {
        static const char *const says[] = {"lid open", "lid close", "lid stop"};
        say(b, says[lines_chance(3)]);
        pass(b, lines_chance(2) ? lines_chance(400) : lines_chance(9000));
    }
    say(b, "lid stop");
    say(b, "lid open");
    pass(b, 6000);
    CHECK(loads_place(b->loads, lid) >= 998); /* its relay takes some of the time */
    say(b, "lid close");
    pass(b, 6000);
    CHECK(loads_place(b->loads, lid) <= 2);
    bench_free(b);
}

/* Every level of a lamp with the eye's curve looks like itself. */
static void the_eye(void)
{
    struct bench *b = bench_text("lexicon x 1\noutput glow led pwm 1 at 1kHz curve eye\n"
                                 "output dim led pwm 2 at 1kHz active low\noutput spot led pin 3\n"
                                 "command glow {level 0..100%} => glow\n"
                                 "command dim {level 0..100%} => dim\n"
                                 "command spot {on|off} => spot\nlink l serial 9600 frame line\n");
    for (unsigned level = 0; level <= 100; level++) {
        char text[16];
        snprintf(text, sizeof text, "glow %u", level);
        say(b, text);
        CHECK(ABS((int)loads_looks(b->loads, 0) - (int)level) <= (level < 4 ? 1 : 0));
    }
    CHECK_INT(loads_lightness(0), 0);
    CHECK_INT(loads_lightness(65535), 100);
    say(b, "dim 50"); /* straight: half the light looks like three quarters */
    CHECK_INT(loads_looks(b->loads, 1), 76);
    say(b, "spot on");
    CHECK(loads_is_on(b->loads, 2) && loads_looks(b->loads, 2) == 100);
    CHECK(loads_break(b->loads, "dead spot"));
    CHECK(!loads_is_on(b->loads, 2) && loads_looks(b->loads, 2) == 0);
    bench_free(b);
}

static void contacts_buttons_motors(void)
{
    struct bench *b = bench_text(
        "lexicon x 1\noutput pump relay pin 4 safe off\n"
        "output feeder motor pwm 6 at 20kHz direction 24 brake 25 ramp 100ms safe 0%\n"
        "output drums pair left pwm 4 direction 14 right pwm 5 direction 15 reversed safe 0%\n"
        "output weir servo pwm 3 0..400mm as 2050..950us safe 0mm\n"
        "input call pin 12 pull up active low debounce 20ms\n"
        "command pump {on|off} => pump\ncommand feed {s -100..100%} => feeder\n"
        "command drums {l -100..100%} {r -100..100%} => drums\ncommand {h 0..400}mm => weir\n"
        "event call {on|off} <= call\nlink l serial 9600 frame line\n");
    say(b, "pump on");
    CHECK(!loads_is_on(b->loads, 0)); /* the coil alone does nothing for 8 ms */
    pass(b, 7);
    unsigned bounced = loads_wear(b->loads, 0);
    pass(b, 10);
    CHECK(loads_is_on(b->loads, 0) && loads_wear(b->loads, 0) >= 2 && bounced <= 1);
    CHECK(loads_break(b->loads, "weld pump"));
    say(b, "pump off");
    pass(b, 50);
    CHECK(loads_is_on(b->loads, 0));
    CHECK(loads_break(b->loads, "mend pump"));
    CHECK(!loads_is_on(b->loads, 0));
    /* a button bounces, and is told once */
    g_string_truncate(b->trace, 0);
    loads_push(b->loads, b->lx->inputs->pdata[0], true);
    pass(b, 100);
    unsigned edges = 0;
    for (const char *p = b->trace->str; (p = strstr(p, " in 12 ")); p++) edges++;
    CHECK(edges >= 4);
    CHECK(g_strrstr(b->trace->str, " in 12 0\n") > g_strrstr(b->trace->str, " in 12 1\n"));
    unsigned said = 0; /* the v of ev: SIM_SEND */
    for (const char *p = b->trace->str; (p = strstr(p, " 6 0 118\n")); p++) said++;
    CHECK_INT(said, 1);
    say(b, "feed -50");
    pass(b, 400);
    CHECK_INT(loads_speed(b->loads, 1, 0), -499);
    say(b, "drums 100 -100");
    pass(b, 400);
    CHECK_INT(loads_speed(b->loads, 2, 0), 1000);
    CHECK_INT(loads_speed(b->loads, 2, 1), -1000);
    say(b, "feed 0");
    pass(b, 170); /* the ramp's rest, then it is braked */
    CHECK_INT(loads_speed(b->loads, 1, 0), 0);
    CHECK_INT(loads_place(b->loads, 3), 2050);
    say(b, "100mm");
    pass(b, 20);
    CHECK(loads_place(b->loads, 3) < 2000 && loads_place(b->loads, 3) > 1775);
    pass(b, 50);
    CHECK_INT(loads_place(b->loads, 3), 1775);
    bench_free(b);
}

/* It counts from its switch, whatever happens to the pulses: what the device believes is as far
 * from it as the switch lets go late. */
static void a_stepper(void)
{
    struct bench *b = bench_file(LEXICONS "/steppers.lexicon", 5, 0);
    CHECK_INT(loads_place(b->loads, 0), 210);
    say(b, "slide 10");
    pass(b, 4000);
    CHECK(strstr(b->trace->str, "slide at home") != NULL);
    int off = loads_place(b->loads, 0) - 120; /* 10 mm are 120 steps */
    CHECK(off > 0 && off < 6);
    for (unsigned i = 0; i < 300 && test_failures() < 5; i++) {
        unsigned tenths = lines_chance(400);
        int steps = 20 + (int)tenths;
        char *text = g_strdup_printf("slide %u.%u", tenths / 10, tenths % 10);
        say(b, text);
        if (lines_chance(2)) pass(b, lines_chance(300));
        say(b, text);
        pass(b, 1500);
        test_context("%u: %s", i, text);
        CHECK_INT(loads_place(b->loads, 0), steps + off);
        g_free(text);
    }
    CHECK_INT(loads_stalls(b->loads), 0);
    say(b, "slide 40");
    CHECK(loads_break(b->loads, "jam slide") && !loads_break(b->loads, "weld slide"));
    pass(b, 1500);
    CHECK_INT(loads_stalls(b->loads), 1);
    CHECK(loads_place(b->loads, 0) < 420); /* and nobody knows */
    CHECK(loads_break(b->loads, "mend slide"));
    say(b, "slide 0");
    pass(b, 1500); /* the switch comes before the count says so */
    say(b, "slide?");
    pass(b, 100);
    say(b, "slide 20");
    pass(b, 4000);
    CHECK_INT(loads_place(b->loads, 0), 220 + off);
    bench_free(b);
}

/* A way of more pulses than a port counts in one run: it goes in one, without a stop. */
static void a_long_way(void)
{
    struct bench *b =
        bench_text("lexicon x 1\noutput slide stepper step pwm 5 direction 6 "
                   "0..1000mm as 0..200000 steps speed 20000 ramp 200ms safe hold\n"
                   "command slide {mm 0..1000mm} => slide\ncommand jog {mm -1000..1000mm} => slide "
                   "by\nlink l serial 9600 frame line\n");
    say(b, "slide 1000");
    pass(b, 5100); /* half its way, with the ramp */
    int half = loads_place(b->loads, 0);
    CHECK(half > 99000 && half < 101000);
    pass(b, 5250); /* 10 s, a ramp of 0.2 s at both ends, and what is beyond its last whole rung */
    CHECK_INT(loads_place(b->loads, 0), 200000);
    say(b, "jog -1000");
    pass(b, 300);
    say(b, "slide 1000"); /* back before it is far */
    pass(b, 2000);
    CHECK_INT(loads_place(b->loads, 0), 200000);
    say(b, "jog -999");
    pass(b, 10500);
    CHECK_INT(loads_place(b->loads, 0), 200);
    CHECK_INT(loads_stalls(b->loads), 0);
    bench_free(b);
}

/* A pin and a channel of one number are two things. */
static void one_number(void)
{
    struct bench *b =
        bench_text("lexicon x 1\noutput lamp led pin 3 safe off\n"
                   "output fan motor pwm 6 at 20kHz direction 5 safe 0%\n"
                   "output weir servo pwm 3 0..400mm as 950..2050us safe 0mm\n"
                   "output vane servo pwm 5 0..90deg as 950..2050us safe 0deg\n"
                   "command fan {s -100..100%} => fan\ncommand weir {h 0..400mm} => weir\n"
                   "command vane {a 0..90deg} => vane\nlink l serial 9600 frame line\n");
    say(b, "weir 400");
    say(b, "vane 90");
    CHECK(!loads_is_on(b->loads, 0));
    say(b, "fan 50");
    pass(b, 500);
    CHECK_INT(loads_speed(b->loads, 1, 0), 499);
    bench_free(b);
}

/* Random commands and faults: never a short, at the contacts as at the pins. */
static char *random_run(uint32_t seed, unsigned n, bool traced, unsigned *moves)
{
    static const char *const says[] = {"gate open", "gate close", "gate stop", "turn", "lid open",
                                       "lid close", "lid stop",   "raise",     "halt", "gate?"};
    static const char *const breaks[] = {"jam gate",    "mend gate",  "cut upper", "stick lower",
                                         "stick upper", "mend upper", "cut lower", "mend lower",
                                         "jam lid",     "mend lid"};
    struct bench *b = bench_file(LEXICONS "/gate.lexicon", seed, UINT32_MAX - 100000);
    if (!traced) g_string_free(b->trace, TRUE), b->trace = NULL;
    lines_seed = seed;
    for (unsigned i = 0; i < n; i++) {
        bool was = b->open || b->close;
        say(b, says[lines_chance(G_N_ELEMENTS(says))]);
        *moves += !was && (b->open || b->close);
        if (!lines_chance(8)) loads_break(b->loads, breaks[lines_chance(G_N_ELEMENTS(breaks))]);
        pass(b, lines_chance(3) ? lines_chance(300) : lines_chance(15000));
        int place = loads_place(b->loads, 0);
        CHECK(place >= -12 && place <= 1012); /* the stops: 250 ms of 22.5 s beyond the switches */
        CHECK_INT(loads_shorts(b->loads), 0);
        CHECK(device_failure(b->device) == NULL);
    }
    char *text = b->trace ? g_strdup(b->trace->str) : NULL;
    bench_free(b);
    return text;
}

static void random_faults(void)
{
    unsigned moves = 0;
    g_free(random_run(7, 20000, false, &moves));
    CHECK(moves > 1500);
    char *one = random_run(8, 400, true, &moves), *two = random_run(8, 400, true, &moves);
    char *other = random_run(9, 400, true, &moves);
    CHECK_TEXT(one, two);
    CHECK(strcmp(one, other) != 0 && strlen(one) > 10000);
    g_free(one);
    g_free(two);
    g_free(other);
}

static const struct test_case cases[] = {
    {"a gate between its switches", a_gate},
    {"a lid by its time", a_lid},
    {"the eye", the_eye},
    {"contacts, buttons, motors", contacts_buttons_motors},
    {"a stepper", a_stepper},
    {"a long way", a_long_way},
    {"one number", one_number},
    {"P6, P9: random faults; same seed, same trace", random_faults},
};
TEST_MAIN(cases)
