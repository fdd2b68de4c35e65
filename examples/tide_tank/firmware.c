/* The tide tank's firmware on the simulated board: all a main loop needs. */
#include "sim/sim.h"
#include "tidetank.h"

static struct tidetank tank;
static uint32_t dosed_ml;
static enum tidetank_way way = TIDETANK_WAY_SHUT;

int tidetank_dose(struct tidetank *tidetank, uint8_t algae)
{
    (void)tidetank;
    dosed_ml += algae; /* here a pump would be started */
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

static void uart_receive(void *user, uint8_t uart, uint8_t byte)
{
    (void)user;
    rlx_link_feed(&tank.link[uart], byte);
}

static bool uart_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user;
    return rlx_link_take(&tank.link[uart], byte);
}

int main(void)
{
    struct sim_board *board = sim_open(&(struct sim_interrupts){0, uart_receive, uart_transmit});
    if (tidetank_init(&tank, board, sim_reset_cause(board)) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&tank.device, sim_millis(board));
        sim_mask(board);
        if (rlx_idle(&tank.device)) sim_sleep(board, wait);
        sim_unmask(board);
    }
}
