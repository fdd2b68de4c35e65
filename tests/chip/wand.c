/* A handset on a wire, for the emulated Cortex-M0: nobody can press its pins there. A hand that
 * follows the answers presses up until the gate opens, then the lights, then the feeder until six
 * answers came. */
#include "board.h"
#include "nursery_wand.h"
#include "raw_links.h"
#include "rlx/port.h"

static struct nursery_wand wand;
static void *port;
static bool opened, lit, stopped;
static uint8_t fed;

bool nursery_wand_on_button(struct nursery_wand *h, enum nursery_wand_button button)
{
    (void)h;
    switch (button) {
    case NURSERY_WAND_BUTTON_UP: return !lit;
    case NURSERY_WAND_BUTTON_LIGHTS: return opened && !lit;
    case NURSERY_WAND_BUTTON_FEED: return stopped && fed < 6;
    }
    return false;
}

static bool is_about(const struct nursery_bench_heard *heard, const char *begins)
{
    uint8_t i = 0;
    while (i < heard->count && begins[i] && heard->text[i] == begins[i]) i++;
    return !begins[i];
}

void nursery_wand_on_heard(struct nursery_wand *h, const struct nursery_bench_heard *heard)
{
    (void)h;
    if (heard->what > NURSERY_BENCH_ALREADY) return;
    opened |= is_about(heard, "gate open");
    lit |= is_about(heard, "beacon on");
    stopped |= is_about(heard, "gate stop");
    fed = (uint8_t)(fed + is_about(heard, "feed 60"));
}

bool nursery_wand_on_write(struct nursery_wand *h, const uint8_t *bytes, uint8_t count)
{
    (void)h;
    if (!raw_write(0, bytes, count)) return false;
    rlx_port_kick(port, 0);
    return true;
}

int main(void)
{
    port = board_start(raw_links, RAW_LINKS, 115200);
    if (!port || nursery_wand_init(&wand) != 0) return 1;
    for (;;) {
        uint8_t bytes[32], count;
        while ((count = raw_read(0, bytes, sizeof bytes)))
            nursery_wand_receive(&wand, bytes, count);
        uint32_t wait = nursery_wand_poll(&wand, board_millis());
        board_mask();
        if (raw_idle()) board_sleep(wait);
        board_unmask();
    }
}
