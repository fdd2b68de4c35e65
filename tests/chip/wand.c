/* A handset on a wire, for the emulated Cortex-M0: nobody can press its pins there, so its contacts
 * follow a script. The lights are pressed once the answer to the gate's button was understood. */
#include "board.h"
#include "nursery_wand.h"
#include "raw_links.h"
#include "rlx/port.h"

static struct nursery_wand wand;
static void *port;
static bool opened;

bool nursery_wand_on_button(struct nursery_wand *h, enum nursery_wand_button button)
{
    uint32_t now = board_millis();
    (void)h;
    switch (button) {
    case NURSERY_WAND_BUTTON_UP: return now >= 1000 && now < 2000;
    case NURSERY_WAND_BUTTON_LIGHTS: return opened && now < 2500;
    case NURSERY_WAND_BUTTON_FEED: return now >= 3000 && now < 6000;
    }
    return false;
}

void nursery_wand_on_heard(struct nursery_wand *h, const struct nursery_bench_heard *heard)
{
    static const char opens[] = "gate open";
    uint8_t i = 0;
    (void)h;
    while (i < heard->count && opens[i] && heard->text[i] == opens[i]) i++;
    opened |= heard->what == NURSERY_BENCH_DONE && !opens[i];
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
        while ((count = raw_read(0, bytes, sizeof bytes))) nursery_wand_receive(&wand, bytes, count);
        uint32_t wait = nursery_wand_poll(&wand, board_millis());
        board_mask();
        if (raw_idle()) board_sleep(wait);
        board_unmask();
    }
}
