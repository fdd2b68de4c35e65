/* Goes wrong in its handler: dies, hangs, floods, never sleeps again, dims the
 * light, or forgets a setting. Or stays when its world is gone. */
#include <signal.h>
#include <stdlib.h>
#include <string.h>

#include "board.h"
#include "odd.h"
#include "rlx/port.h"

static struct odd odd;
static bool never;

static bool is(const char *what)
{
    const char *how = getenv("ODD");
    return how && !strcmp(how, what);
}

int odd_stir(struct odd *it)
{
    if (is("dies")) abort();
    while (is("hangs")) {}
    for (bool high = false; is("floods"); high = !high)
        rlx_port_pin_write(it->device.port, 9, high);
    never = is("never");
    if (is("dims")) rlx_output_level(&it->device, ODD_OUTPUT_GLOW, 0);
    if (is("forgets")) it->device.settings[0] = 7;
    return is("busy") ? -RLX_ERR_BUSY : 0;
}

static void stay(void)
{
    for (;;) {}
}

int main(void)
{
    if (is("stays")) {
        signal(SIGTERM, SIG_IGN);
        atexit(stay);
    }
    void *port = board_start(odd.link, ODD_LINKS, ODD_BENCH_BAUD);
    if (!port || odd_init(&odd, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&odd.device, board_millis());
        board_mask();
        if (rlx_idle(&odd.device)) board_sleep(never ? 0 : wait);
        board_unmask();
    }
}
