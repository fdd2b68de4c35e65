/* Goes wrong in its handler, as the environment's ODD says: dies, ends, hangs, floods, never sleeps
 * again, dims the light, forgets a setting, closes its end of the socket, drips a byte now and
 * then, does not listen, prints, prints without end, reads the tool's input, leaves a process
 * behind. Or stays when its world is gone. */
#define _GNU_SOURCE
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

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

/* What has to do with processes and files. */
static void misbehave(void)
{
    int world = atoi(getenv("RLX_WORLD_FD") ? getenv("RLX_WORLD_FD") : "-1");
    char line[80];
    if (is("ends")) exit(3);
    if (is("closes")) close(world);
    while (is("closes") || is("deaf")) pause();
    while (is("drips") && write(world, "", 1) == 1) usleep(5000);
    if (is("prints")) puts("{\"a line\": \"of its own\"}"), fflush(stdout);
    while (is("prints_on")) puts("and on"), fflush(stdout);
    if (is("reads") && fgets(line, sizeof line, stdin)) printf("it read %s", line);
    if (is("leaves") && fork() == 0) {
        setsid();
        if (fork() == 0)
            for (;;) pause();
        exit(0);
    }
}

int odd_stir(struct odd *it)
{
    misbehave();
    if (is("dies")) abort();
    for (volatile bool on = is("hangs"); on;) {}
    for (bool high = false; is("floods"); high = !high)
        rlx_port_pin_write(it->device.port, 9, high);
    never = is("never");
    if (is("dims")) rlx_output_level(&it->device, ODD_OUTPUT_GLOW, 0);
    if (is("forgets")) it->setting[0] = 7;
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
