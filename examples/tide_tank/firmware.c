/* The tide tank's firmware, whole: it runs on any port with the calls of board.h. */
#include "board.h"
#include "tidetank.h"

static struct tidetank tank;
static uint32_t dosed_ml;
static enum tidetank_way way = TIDETANK_WAY_SHUT;

int tidetank_dose(struct tidetank *tidetank, uint8_t algae)
{
    (void)tidetank;
    dosed_ml += algae; /* here the doser would be started */
    return 0;
}

int tidetank_dose_stop(struct tidetank *tidetank)
{
    (void)tidetank;
    return 0;
}

int tidetank_valve(struct tidetank *tidetank, enum tidetank_way to)
{
    (void)tidetank;
    way = to;
    return 0;
}

int main(void)
{
    void *port = board_start(tank.link, TIDETANK_LINKS, TIDETANK_BENCH_BAUD);
    if (!port || tidetank_init(&tank, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&tank.device, board_millis());
        board_mask();
        if (rlx_idle(&tank.device)) board_sleep(wait);
        board_unmask();
    }
}
