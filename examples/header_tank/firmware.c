/* A firmware that is asked and that tells: a query, an event and a note beside a command. The tank
 * is made up: its level follows the pump and the drain by the board's clock. */
#include "board.h"
#include "header_tank.h"

#define FULL_MM 2000
#define LOW_MM  200

static struct header_tank tank;
static uint32_t level_um = 1000000, then_ms; /* micrometres, so that a millisecond counts */
static uint8_t drains_mm;                    /* a second */

int header_tank_drain(struct header_tank *header_tank, uint8_t rate)
{
    (void)header_tank;
    if (drains_mm == rate) return RLX_ALREADY;
    drains_mm = rate;
    return 0;
}

int header_tank_read_level(struct header_tank *header_tank, uint16_t *mm)
{
    (void)header_tank;
    *mm = (uint16_t)(level_um / 1000);
    return 0;
}

/* The water, up to now. */
static void flow(uint32_t now_ms)
{
    uint32_t ms = now_ms - then_ms, was = level_um / 1000;
    uint32_t in = rlx_output_is_on(&tank.device, HEADER_TANK_OUTPUT_PUMP) ? 50 * ms : 0;
    uint32_t out = drains_mm * ms;
    then_ms = now_ms;
    level_um = level_um + in > out ? level_um + in - out : 0;
    if (level_um >= FULL_MM * 1000) {
        level_um = FULL_MM * 1000;
        if (was < FULL_MM) header_tank_send_water(&tank, HEADER_TANK_EVENT_WATER_FULL);
        if (in) header_tank_pump_safe(&tank);
    } else if (was >= FULL_MM) {
        header_tank_send_water(&tank, HEADER_TANK_EVENT_WATER_FALLING);
    } else if (level_um / 1000 < LOW_MM && was >= LOW_MM) {
        header_tank_send_water(&tank, HEADER_TANK_EVENT_WATER_LOW);
    }
}

int main(void)
{
    void *port = board_start(tank.link, HEADER_TANK_LINKS, HEADER_TANK_BENCH_BAUD);
    if (!port || header_tank_init(&tank, port, board_reset_cause()) != 0) return 1;
    then_ms = board_millis();
    rlx_note(&tank.device, "water at 1000 mm");
    for (;;) {
        uint32_t wait = rlx_poll(&tank.device, board_millis());
        flow(board_millis());
        board_mask();
        if (rlx_idle(&tank.device)) board_sleep(wait < 20 ? wait : 20);
        board_unmask();
    }
}
