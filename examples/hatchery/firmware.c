/* The hatchery's firmware: algae are dosed from a bottle, and the water follows the heater. Nothing
 * in it knows of keys or seals: the library obeys only what is sealed. */
#include "board.h"
#include "hatchery.h"

#define BOTTLE_ML 1000

static struct hatchery hatchery;
static uint16_t left_ml = BOTTLE_ML;
static uint32_t water_mk = 18000, then_ms; /* thousandths of a degree */

int hatchery_dose(struct hatchery *self, uint8_t algae)
{
    (void)self;
    if (algae > left_ml) return HATCHERY_REFUSES_EMPTY;
    left_ml = (uint16_t)(left_ml - algae);
    return 0;
}

int hatchery_read_water(struct hatchery *self, uint16_t *celsius)
{
    (void)self;
    *celsius = (uint16_t)(water_mk / 100);
    return 0;
}

/* The water up to now: half a degree a second while the heater is on, and slowly back. */
static void warm(uint32_t now_ms)
{
    uint32_t ms = now_ms - then_ms;
    then_ms = now_ms;
    if (rlx_output_is_on(&hatchery.device, HATCHERY_OUTPUT_HEATER))
        water_mk = water_mk + ms / 2 < 40000 ? water_mk + ms / 2 : 40000;
    else
        water_mk = water_mk > 18000 + ms / 20 ? water_mk - ms / 20 : 18000;
}

int main(void)
{
    void *port = board_start(hatchery.link, HATCHERY_LINKS, HATCHERY_BENCH_BAUD);
    if (!port || hatchery_init(&hatchery, port, board_reset_cause()) != 0) return 1;
    then_ms = board_millis();
    for (;;) {
        uint32_t wait = rlx_poll(&hatchery.device, board_millis());
        warm(board_millis());
        board_mask();
        if (rlx_idle(&hatchery.device)) board_sleep(wait < 100 ? wait : 100);
        board_unmask();
    }
}
