/* Right: takes 25 ms for a command, polls every 20 ms, has a clock that is 1 % slow or fast, makes
 * the heater safe or fills the tank by itself. Wrong: its clock is twice as fast, it heats by
 * itself, lights too much, exchanges two pins, answers an error for ever, forgets that something is
 * safe. */
#include <stdlib.h>
#include <string.h>

#include "board.h"
#include "rlx/port.h"
#include "works.h"

static struct works works;
static const char *how;
static uint8_t degrees = 20;

static bool is(const char *what)
{
    return !strcmp(how, what);
}

/* The clock as this board's firmware reads it. */
static uint32_t millis(void)
{
    uint64_t ms = board_millis();
    return (uint32_t)(is("slow")     ? ms - ms / 100
                      : is("fast")   ? ms + ms / 100
                      : is("double") ? 2 * ms
                                     : ms);
}

static void delay(uint32_t ms)
{
    uint32_t since = board_millis();
    while (board_millis() - since < ms) {}
}

int works_warm(struct works *it, uint8_t to)
{
    (void)it;
    if (is("takes")) delay(25);
    if (is("stuck")) delay(UINT32_MAX);
    if (is("refuses")) return -RLX_ERR_BUSY;
    if (degrees == to) return RLX_ALREADY;
    degrees = to;
    return 0;
}

int works_read_degrees(struct works *it, uint8_t *value)
{
    (void)it;
    *value = degrees;
    return 0;
}

/* What it does by itself. */
static void control(void)
{
    static uint32_t since;
    struct rlx_device *d = &works.device;
    uint32_t now = board_millis();
    bool heats = rlx_output_is_on(d, WORKS_OUTPUT_HEATER);
    if (!heats) since = now;
    if ((is("cools") || is("tells")) && heats && now - since > 1500) {
        rlx_output_switch(d, WORKS_OUTPUT_HEATER, RLX_OFF);
        if (is("tells")) works_send_cold(&works, WORKS_EVENT_COLD_NO);
    }
    if (is("fills")) rlx_output_switch(d, WORKS_OUTPUT_PUMP, now % 20000 < 2000 ? RLX_ON : RLX_OFF);
    if (is("heats") && now % 20000 > 19000) rlx_output_switch(d, WORKS_OUTPUT_HEATER, RLX_ON);
    if (is("lights") && rlx_output_is_on(d, WORKS_OUTPUT_GLOW))
        rlx_port_duty(d->port, 1, 60000, 1000);
    if (is("swaps")) rlx_port_pin_write(d->port, 5, rlx_output_is_on(d, WORKS_OUTPUT_PUMP));
    if (is("warms") && now < 1000) rlx_port_pin_write(d->port, 5, true);
}

int main(void)
{
    how = getenv("WORKS") ? getenv("WORKS") : "";
    void *port = board_start(works.link, WORKS_LINKS, WORKS_BENCH_BAUD);
    if (!port || works_init(&works, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&works.device, millis());
        control();
        for (uint32_t since = board_millis(), ms;
             is("polls") && (ms = board_millis() - since) < 20;) {
            board_sleep(20 - ms); /* whatever comes */
            board_unmask();
        }
        board_mask();
        if (rlx_idle(&works.device)) board_sleep(wait < 50 ? wait : 50);
        board_unmask();
    }
}
