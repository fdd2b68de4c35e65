#include "board.h"
#include "first_light.h"

static struct first_light it;

int main(void)
{
    void *port = board_start(it.link, FIRST_LIGHT_LINKS, FIRST_LIGHT_BENCH_BAUD);
    if (!port || first_light_init(&it, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&it.device, board_millis());
        board_mask();
        if (rlx_idle(&it.device)) board_sleep(wait);
        board_unmask();
    }
}
