/* The workboat is moved by the lexicon alone, whatever its remote controls send. */
#include "board.h"
#include "workboat.h"

static struct workboat boat;

int main(void)
{
    void *port = board_start(boat.link, WORKBOAT_LINKS, WORKBOAT_BENCH_BAUD);
    if (!port || workboat_init(&boat, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&boat.device, board_millis());
        board_mask();
        if (rlx_idle(&boat.device)) board_sleep(wait);
        board_unmask();
    }
}
