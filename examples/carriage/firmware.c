/* The carriage is moved by the lexicon alone: the firmware has a clock and a main loop. */
#include "board.h"
#include "carriage.h"

static struct carriage carriage;

int main(void)
{
    void *port = board_start(carriage.link, CARRIAGE_LINKS, CARRIAGE_BENCH_BAUD);
    if (!port || carriage_init(&carriage, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&carriage.device, board_millis());
        board_mask();
        if (rlx_idle(&carriage.device)) board_sleep(wait);
        board_unmask();
    }
}
