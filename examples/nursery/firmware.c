/* The whole nursery's firmware: all that its lexicon drives and says is the library's; what is left
 * is a level to be read. */
#include "board.h"
#include "nursery.h"

#define LEVEL_MM 1870 /* here the gauge would be read */

static struct nursery tank;

int nursery_read_level(struct nursery *nursery, uint16_t *mm)
{
    (void)nursery;
    *mm = LEVEL_MM;
    return 0;
}

int main(void)
{
    void *port = board_start(tank.link, NURSERY_LINKS, NURSERY_BENCH_BAUD);
    if (!port || nursery_init(&tank, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&tank.device, board_millis());
        board_mask();
        if (rlx_idle(&tank.device)) board_sleep(wait);
        board_unmask();
    }
}
