/* The firmware of the raceway: what the lexicon leaves to it, and the main loop. */
#include "board.h"
#include "raceway.h"

static struct raceway it;
static int16_t water = 184; /* tenths of a degree; your sensor writes it */

int raceway_feed(struct raceway *device, uint8_t algae)
{
    (void)device;
    return algae > 200 ? -RLX_ERR_BUSY : RLX_DONE; /* start the feeder here; do not wait for it */
}

int raceway_read_temp(struct raceway *device, int16_t *celsius)
{
    (void)device;
    *celsius = water;
    return RLX_DONE;
}

int main(void)
{
    void *port = board_start(it.link, RACEWAY_LINKS, RACEWAY_BENCH_BAUD);
    if (!port || raceway_init(&it, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&it.device, board_millis());
        board_mask();
        if (rlx_idle(&it.device)) board_sleep(wait);
        board_unmask();
    }
}
