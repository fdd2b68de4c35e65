/* The emitted handset of tank.lexicon in somebody's hand, and the emitted device, with a radio
 * between them. */
#include "tank.h"
#include "tank_deck.h"
#define DEVICE          struct tank
#define DEVICE_INIT     tank_init
#define LINK            TANK_LINK_SKIFF
#define SENDER(name)    tank_deck_##name
#define SENDER_IS(name) TANK_SKIFF_##name
#define SENDER_TYPE     struct tank_deck
#define HEARD_TYPE      struct tank_skiff_heard
#define TAGGED          1
#define SOURCED         1
#define SILENT          0
#define FULL            1
#define PACKETS         1
#define REPORTS         0
#define MESSAGES        0
#define GAP_MS          0
#define KEYS            0
#define KEYED           0
#define CODED           0
#define LINKS           TANK_LINKS
#define SENT_NO_MAIN
#include "sent.h"

static uint8_t masked;

/* Handlers; but for one nobody calls them here. */
int tank_warm(struct tank *t, uint16_t to)
{
    (void)t, (void)to;
    return 0;
}
int tank_cool(struct tank *t, uint16_t to)
{
    (void)t, (void)to;
    return 0;
}
int tank_dose(struct tank *t, uint8_t algae, uint8_t times)
{
    (void)t, (void)algae, (void)times;
    return 0;
}
int tank_valve(struct tank *t, enum tank_way way)
{
    (void)t, (void)way;
    return 0;
}
int tank_lamps(struct tank *t, uint16_t choices)
{
    (void)t, (void)choices;
    return 0;
}
int tank_levels(struct tank *t, const rlx_value *values, uint8_t count)
{
    (void)t, (void)values, (void)count;
    return 0;
}
int tank_name(struct tank *t, const char *text, uint8_t length)
{
    (void)t, (void)text, (void)length;
    return 0;
}
int tank_mask(struct tank *t, uint8_t bits)
{
    (void)t;
    masked = bits;
    return 0;
}
int tank_stop(struct tank *t)
{
    (void)t;
    return 0;
}
int tank_read_level(struct tank *t, uint16_t *mm)
{
    (void)t;
    *mm = 1;
    return 0;
}

static bool down[TANK_DECK_BUTTON_FULL + 1], lit[2];
static unsigned lamp_changes;
static uint16_t place[2];

bool tank_deck_on_button(struct tank_deck *h, enum tank_deck_button button)
{
    (void)h;
    return down[button];
}
uint16_t tank_deck_on_slider(struct tank_deck *h, enum tank_deck_slider slider)
{
    (void)h;
    return place[slider];
}
void tank_deck_on_lamp(struct tank_deck *h, enum tank_deck_lamp lamp, bool on)
{
    (void)h;
    lit[lamp] = on;
    lamp_changes++;
}

static void is(const char *what, long wanted, long got)
{
    checks++;
    if (wanted == got) return;
    failures++;
    printf("FAIL deck, %s: wanted %ld, got %ld\n", what, wanted, got);
}

/* A contact that bounces for 10 ms before it rests. */
static void press(enum tank_deck_button button, bool to)
{
    for (unsigned i = 0; i < 10; i++) {
        down[button] = !down[button];
        run_for(1, NULL);
    }
    down[button] = to;
}

#define DUTY(percent) ((percent)*65535L / 100)
static bool near(long duty, long percent)
{
    return labs(duty - DUTY(percent)) <= 700;
}

static void try_press(void)
{
    press(TANK_DECK_BUTTON_LAMP, true);
    run_for(500, NULL);
    is("a bouncing press is one", 1, written);
    is("it is obeyed", true, near(duty_of[1], 100));
    press(TANK_DECK_BUTTON_LAMP, false);
    run_for(500, NULL);
    is("nothing is said when it is released", 1, written);
}

/* The device's expiry of 2 s does not come, with a packet in five lost. */
static void try_held(void)
{
    lost_per_mille = 200;
    press(TANK_DECK_BUTTON_FEED, true);
    run_for(1500, NULL);
    bool turns = true;
    for (unsigned i = 0; i < 80; i++) {
        run_for(100, NULL);
        turns = turns && near(duty_of[6], 60);
    }
    is("it turns while the button is held", true, turns);
    press(TANK_DECK_BUTTON_FULL, true); /* beside the other one it is something else */
    lost_per_mille = 0;
    press(TANK_DECK_BUTTON_FEED, true);
    run_for(100, NULL);
    press(TANK_DECK_BUTTON_FULL, false);
    press(TANK_DECK_BUTTON_FEED, false);
    run_for(5000, NULL);
    is("it stands when the button is released", 0, duty_of[6]);
    unsigned before = written;
    run_for(3000, NULL);
    is("and nothing more is said", before, written);
}

static void try_beside(void)
{
    unsigned before = written;
    press(TANK_DECK_BUTTON_FULL, true); /* alone it is nothing */
    run_for(500, NULL);
    is("a button that is one only beside another", before, written);
    press(TANK_DECK_BUTTON_FULL, false);
    run_for(100, NULL);
    down[TANK_DECK_BUTTON_FEED] = true;
    run_for(200, NULL);
    down[TANK_DECK_BUTTON_FULL] = true;
    run_for(600, NULL);
    is("with the other one held", true, near(duty_of[6], 100));
    memset(down, 0, sizeof down);
    run_for(2000, NULL);
}

/* 11 steps, the newest counts; noise at a border is no move. */
static void try_slider(uint16_t *at)
{
    unsigned before = written;
    *at = 65535;
    run_for(300, NULL);
    is("slider up", true, near(duty_of[1], 100));
    is("in one command", before + 1, written);
    *at = (uint16_t)(65536L * 5 / 11 + 2000);
    run_for(300, NULL);
    is("slider in the middle", true, near(duty_of[1], 50));
    before = written;
    for (unsigned i = 0; i < 200; i++) {
        *at = (uint16_t)(65536L * 5 / 11 + (i % 2 ? 600 : -600));
        run_for(20, NULL);
    }
    is("noise at the border of a step", before, written);
    for (unsigned i = 0; i < 100; i++) { /* moved quickly: what is said last is where it is */
        *at = (uint16_t)(i * 655);
        run_for(5, NULL);
    }
    *at = 20000; /* step 3 of 0..10 */
    run_for(500, NULL);
    is("where it came to rest", true, near(duty_of[1], 30));
}

/* Its 16 steps are 0x00, 0x11 and so on. */
static void try_hex_slider(uint16_t *at)
{
    for (unsigned step = 16; step--;) {
        *at = (uint16_t)(step * 4096 + 2048);
        run_for(300, NULL);
        is("a slider whose numbers are hex", 0x11 * step, masked);
    }
}

static void try_lamps(void)
{
    pin_in[12] = !pin_in[12];
    run_for(500, NULL);
    is("the door's lamp hears the door once", 1, lamp_changes);
    bool first = lit[TANK_DECK_LAMP_OPEN];
    pin_in[12] = !pin_in[12];
    run_for(500, NULL);
    is("and again", 2, lamp_changes);
    is("it follows the door", !first, lit[TANK_DECK_LAMP_OPEN]);
    is("it is lit when the door is open", true, lit[TANK_DECK_LAMP_OPEN]);
    is("the jam's lamp is dark", false, lit[TANK_DECK_LAMP_JAMMED]);
    tank_send_jam(&device);
    run_for(500, NULL);
    is("and lit by the event", true, lit[TANK_DECK_LAMP_JAMMED]);
}

int main(void)
{
    if (tank_init(&device, &device, RLX_RESET_POWER) || tank_deck_init(&sender, 1, 77)) return 2;
    place[TANK_DECK_SLIDER_GLOW] = 3000;
    run_for(2000, NULL);
    is("nothing is sent by itself", 0, written);
    try_press();
    try_held();
    try_beside();
    try_slider(&place[TANK_DECK_SLIDER_GLOW]);
    try_hex_slider(&place[TANK_DECK_SLIDER_MASK]);
    try_lamps();
    printf("%u passed, %u failed\n", checks - failures, failures);
    return failures != 0;
}
