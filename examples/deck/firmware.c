/* The handset of the nursery: three buttons, two contacts that step the light, a lamp, and a line
 * of display on a UART. What it sends and hears is emitted from the nursery's lexicon. */
#include "board.h"
#include "nursery_deck.h"
#include "raw_links.h"
#include "rlx/port.h"

enum {
    PIN_UP = 2,
    PIN_LIGHTS = 3,
    PIN_FEED = 4,
    PIN_BRIGHTER = 5,
    PIN_DARKER = 6,
    PIN_CALLED = 13
};
enum { AIR, DISPLAY };

#define SOURCE  1 /* the nursery knows two senders by number */
#define STEPS   11
#define STEP_MS 250 /* so often the light steps while a contact is held */

static struct nursery_deck deck;
static void *port;
static struct {
    uint32_t since, pause;
    int8_t way; /* the contacts, as they are now */
    uint8_t at; /* of STEPS */
} light;

/* Contacts close to ground. */
static bool is_closed(uint8_t pin)
{
    return !rlx_port_pin_read(port, pin);
}

bool nursery_deck_on_button(struct nursery_deck *h, enum nursery_deck_button button)
{
    static const uint8_t pins[] = {PIN_UP, PIN_LIGHTS, PIN_FEED};
    (void)h;
    return is_closed(pins[button]);
}

/* In the middle of its step. */
uint16_t nursery_deck_on_slider(struct nursery_deck *h, enum nursery_deck_slider slider)
{
    (void)h, (void)slider;
    return (uint16_t)((2u * light.at + 1u) * (65535u / (2u * STEPS)));
}

void nursery_deck_on_lamp(struct nursery_deck *h, enum nursery_deck_lamp lamp, bool on)
{
    (void)h, (void)lamp;
    rlx_port_pin_write(port, PIN_CALLED, on);
}

/* The display shows the last line. */
static void show(const char *text, uint8_t count)
{
    static const uint8_t end[] = {'\r', '\n'};
    if (!raw_write(DISPLAY, (const uint8_t *)text, count)) return;
    (void)raw_write(DISPLAY, end, sizeof end);
    rlx_port_kick(port, DISPLAY);
}

void nursery_deck_on_heard(struct nursery_deck *h, const struct nursery_skiff_heard *heard)
{
    (void)h;
    if (heard->what == NURSERY_SKIFF_UNANSWERED)
        show("no answer", 9);
    else
        show(heard->text, heard->count);
}

bool nursery_deck_on_write(struct nursery_deck *h, const uint8_t *bytes, uint8_t count)
{
    (void)h;
    return rlx_port_packet_send(port, AIR, bytes, count);
}

/* One step when a contact rests, and one every STEP_MS while it is held. Returns the wait until the
 * next. */
static uint32_t step_light(uint32_t now)
{
    int8_t way = (int8_t)(is_closed(PIN_BRIGHTER) - is_closed(PIN_DARKER));
    if (way != light.way) {
        light.way = way;
        light.since = now;
        light.pause = NURSERY_DECK_DEBOUNCE_MS;
    }
    if (!way) return UINT32_MAX;
    if (now - light.since >= light.pause) {
        light.since = now;
        light.pause = STEP_MS;
        if (way > 0 ? light.at + 1 < STEPS : light.at > 0) light.at = (uint8_t)(light.at + way);
    }
    return light.pause - (now - light.since);
}

static uint32_t poll(void)
{
    uint8_t bytes[64], count;
    while ((count = raw_read(AIR, bytes, sizeof bytes))) nursery_deck_receive(&deck, bytes, count);
    uint32_t now = board_millis(), step = step_light(now), wait = nursery_deck_poll(&deck, now);
    return step < wait ? step : wait;
}

int main(void)
{
    static const uint8_t contacts[] = {PIN_UP, PIN_LIGHTS, PIN_FEED, PIN_BRIGHTER, PIN_DARKER};
    port = board_start(raw_links, RAW_LINKS, 9600);
    if (!port) return 1;
    for (uint8_t i = 0; i < sizeof contacts; i++)
        rlx_port_pin_watch(port, contacts[i], RLX_PULL_UP);
    rlx_port_pin_write(port, PIN_CALLED, false);
    if (nursery_deck_init(&deck, SOURCE, 0) != NURSERY_SKIFF_QUEUED) return 1;
    for (;;) {
        uint32_t wait = poll();
        board_mask();
        if (raw_idle()) board_sleep(wait);
        board_unmask();
    }
}
