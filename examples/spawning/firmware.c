/* Functions with contracts: a heater that stops by itself, a stirrer, two valves of which one is
 * open at a time, a dimmer, and a temperature to hold. */
#include "board.h"
#include "spawning.h"

static struct spawning tub;
static uint32_t heats_until;
static bool heats;
static uint16_t aim_tenths = 180;

int spawning_warm(struct spawning *spawning, int32_t time)
{
    int result = spawning_heater(spawning, RLX_ON);
    if (result < 0) return result;
    heats_until = board_millis() + (uint32_t)time;
    heats = true;
    return 0; /* also where it heats already: the time is new */
}

int spawning_cool(struct spawning *spawning)
{
    heats = false;
    return spawning_heater(spawning, RLX_OFF);
}

int spawning_stir(struct spawning *spawning, int16_t speed)
{
    if (speed == 0) return spawning_stirrer(spawning, RLX_STOP, 0);
    int result = spawning_stirrer(spawning, RLX_SPEED, (uint32_t)(speed < 0 ? -speed : speed));
    if (result < 0) return result;
    return spawning_stirrer(spawning, speed < 0 ? RLX_BACK : RLX_FORWARD, 0);
}

int spawning_way(struct spawning *spawning, enum spawning_out out)
{
    spawning_skim(spawning, out == SPAWNING_OUT_SKIM ? RLX_ON : RLX_OFF);
    return spawning_drain(spawning, out == SPAWNING_OUT_DRAIN ? RLX_ON : RLX_OFF);
}

int spawning_dim(struct spawning *spawning, uint8_t level)
{
    return spawning_dusk(spawning, level);
}

int spawning_aim(struct spawning *spawning, uint16_t celsius)
{
    (void)spawning;
    if (aim_tenths == celsius) return RLX_ALREADY;
    aim_tenths = celsius;
    return 0;
}

int spawning_read_target(struct spawning *spawning, uint16_t *celsius)
{
    (void)spawning;
    *celsius = aim_tenths;
    return 0;
}

int main(void)
{
    void *port = board_start(tub.link, SPAWNING_LINKS, SPAWNING_BENCH_BAUD);
    if (!port || spawning_init(&tub, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&tub.device, board_millis()), left = heats_until - board_millis();
        if (heats && (left == 0 || left > INT32_MAX)) {
            heats = false;
            spawning_heater_safe(&tub);
            wait = 0;
        }
        if (heats && left < wait) wait = left;
        board_mask();
        if (rlx_idle(&tub.device)) board_sleep(wait);
        board_unmask();
    }
}
