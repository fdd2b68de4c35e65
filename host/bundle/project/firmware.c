/* The firmware of @NAME@: what the lexicon leaves to it, and the main loop. It runs on every port with
 * the calls of board.h. */
#include "board.h"

static struct @NAME@ it;

/* command feed {grams 1..50}. RLX_DONE, or -RLX_ERR_BUSY, -RLX_ERR_FAILED; it must not wait. */
int @NAME@_feed(struct @NAME@ *device, uint8_t grams)
{
    (void)device;
    (void)grams; /* start the feeder here */
    return RLX_DONE;
}

int main(void)
{
    void *port = board_start(it.link, @UPPER@_LINKS, @UPPER@_BENCH_BAUD);
    if (!port || @NAME@_init(&it, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&it.device, board_millis());
        board_mask();
        if (rlx_idle(&it.device)) board_sleep(wait);
        board_unmask();
    }
}
